//! What was done, in words.

use super::edits::Edit;
use zolvik_patch::Patch;
use zolvik_patch::catalogue::{choice, param};
use zolvik_patch::document::{EffectId, SourceId, UnitId};
use zolvik_patch::movement::target;

impl Edit {
    /// What was done, in a few words, for the undo and redo buttons.
    pub fn label(&self, patch: &Patch) -> String {
        let name = |unit: &UnitId| {
            patch
                .unit(*unit)
                .map_or_else(|| unit.0.to_string(), |u| u.name.clone())
        };
        match self {
            Edit::SetValue { address, .. } => param(address.param).label.to_lowercase(),
            Edit::RemoveUnit { unit } => format!("remove {}", name(unit)),
            Edit::DuplicateUnits { units } => match &units[..] {
                [unit] => format!("duplicate {}", name(unit)),
                units => format!("duplicate {} strips", units.len()),
            },
            Edit::RenameUnit { unit, .. } => format!("rename {}", name(unit)),
            Edit::SwitchUnit { unit, on } => {
                format!("switch {} {}", name(unit), if *on { "on" } else { "off" })
            }
            Edit::AddRoute {
                from, to: Some(to), ..
            } => {
                format!("route {} to {}", name(from), name(to))
            }
            Edit::AddRoute { from, to: None, .. } => format!("route {} to the output", name(from)),
            Edit::SetRouteKind { .. } => "kind of route".into(),
            Edit::SetBus { .. } => "way out".into(),
            Edit::SwapUnits { unit, with } => format!("swap {} and {}", name(unit), name(with)),
            Edit::MakeModulator { unit, of } => {
                format!("make {} modulate {}", name(unit), name(of))
            }
            Edit::MakeCarrier { unit } => format!("make {} a carrier", name(unit)),
            Edit::Arrange { .. } => "algorithm".into(),
            Edit::SetWave { .. } => "wave".into(),
            Edit::ShiftOctaves { .. } => "octave".into(),
            Edit::SpreadDetune { .. } => "detune together".into(),
            Edit::AddSource { kind, .. } => format!("add {}", kind.label().to_lowercase()),
            Edit::RemoveSource { source } => format!("remove {}", source_name(patch, *source)),
            Edit::DuplicateSource { source } => {
                format!("duplicate {}", source_name(patch, *source))
            }
            Edit::RenameSource { source, .. } => format!("rename {}", source_name(patch, *source)),
            Edit::SwitchSource { source, on } => format!(
                "switch {} {}",
                source_name(patch, *source),
                if *on { "on" } else { "off" }
            ),
            Edit::Follow { .. } => "what is followed".into(),
            Edit::AddLinks { from, to } => match &to[..] {
                [to] => format!(
                    "{} moves {}",
                    source_name(patch, *from),
                    target::name(patch, *to)
                ),
                to => format!("{} moves {} values", source_name(patch, *from), to.len()),
            },
            Edit::RemoveLink { .. } => "remove link".into(),
            Edit::SwitchLink { on, .. } => {
                format!("switch link {}", if *on { "on" } else { "off" })
            }
            Edit::DirectLink { .. } => "direction".into(),
            Edit::ScaleLink { .. } => "what brings a link in".into(),
            Edit::ResendLink { .. } => "source of a link".into(),
            Edit::TurnLink { .. } => "turn link round".into(),
            Edit::TurnSource { .. } => "turn all links round".into(),
            Edit::SetEnds { .. } => "ends of a link".into(),
            Edit::SetWay { .. } => "ends of a macro".into(),
            Edit::LikeLink { .. } => "settings of a link".into(),
            Edit::TakeEnd { source, high } => format!(
                "take this as {} of {}",
                if *high { "100 %" } else { "0 %" },
                source_name(patch, *source)
            ),
            Edit::Morph { source } => format!("{} leads to the other", source_name(patch, *source)),
            Edit::SetPhrase {
                phrase: Some(phrase),
            } => format!("phrase {}", phrase.name),
            Edit::SetPhrase { phrase: None } => "no phrase".into(),
            Edit::RenamePhrase { .. } => "rename phrase".into(),
            Edit::SetPhraseLength { .. } => "length of the phrase".into(),
            Edit::AddNote { .. } => "add note".into(),
            Edit::ChangeNotes { notes } => match notes.len() {
                1 => "note".into(),
                count => format!("{count} notes"),
            },
            Edit::RemoveNotes { notes } => match notes.len() {
                1 => "remove note".into(),
                count => format!("remove {count} notes"),
            },
            Edit::SetTurns { bend, .. } => (if *bend { "bend" } else { "wheel" }).into(),
            Edit::AddArticulation { name } => format!("articulation {name}"),
            Edit::RemoveArticulation { at } => {
                format!("remove {}", articulation_name(patch, *at))
            }
            Edit::RenameArticulation { .. } => "rename articulation".into(),
            Edit::KeyArticulation { .. } => "key of an articulation".into(),
            Edit::SwitchArticulation { at } => match at {
                Some(at) => format!("go to {}", articulation_name(patch, *at)),
                None => "go to the base".into(),
            },
            Edit::Settle { take_back, .. } => match take_back {
                true => "take back a difference".into(),
                false => "make it the base".into(),
            },
            Edit::SetShape { .. } | Edit::MoveShapePoint { .. } => "shape".into(),
            Edit::AddShapePoint { .. } => "add point".into(),
            Edit::RemoveShapePoint { .. } => "remove point".into(),
            Edit::TurnShape { .. } => "turn shape".into(),
            Edit::SetStepCount { .. } => "number of steps".into(),
            Edit::SetSource { .. } => "source".into(),
            Edit::AddEffect { kind, .. } => format!("add {}", kind.label().to_lowercase()),
            Edit::PasteEffects { effects, .. } => match &effects[..] {
                [effect] => format!("paste {}", effect.title()),
                effects => format!("paste {} effects", effects.len()),
            },
            Edit::RemoveEffect { effect } => format!("remove {}", effect_name(patch, *effect)),
            Edit::DuplicateEffect { effect } => {
                format!("duplicate {}", effect_name(patch, *effect))
            }
            Edit::MoveEffect { effect, .. } => format!("move {}", effect_name(patch, *effect)),
            Edit::SwitchEffect { effect, on } => format!(
                "switch {} {}",
                effect_name(patch, *effect),
                if *on { "on" } else { "off" }
            ),
            Edit::RenameEffect { effect, .. } => format!("rename {}", effect_name(patch, *effect)),
            Edit::SetEffect { like, .. } => like.title().to_string(),
            Edit::RenameChain { .. } => "rename chain".into(),
            Edit::SwitchChain { chain, on } => format!(
                "switch {} {}",
                patch.finish.chain(*chain).name,
                if *on { "on" } else { "off" }
            ),
            Edit::AddBand { .. } => "add band".into(),
            Edit::RemoveBand { at, .. } => format!("remove band {}", at + 1),
            Edit::SwitchBand { at, on, .. } => {
                format!("switch band {} {}", at + 1, if *on { "on" } else { "off" })
            }
            Edit::ChooseBand { choice: id, .. } => choice(*id).label.to_lowercase(),
            Edit::Flip => "flip A and B".into(),
            Edit::CopyToOther => "copy to the other".into(),
            Edit::AddPoint { .. } => "add point".into(),
            Edit::RemovePoint { .. } => "remove point".into(),
            Edit::HoldPoint { .. } => "held point".into(),
            Edit::LoopFrom { .. } => "loop".into(),
            Edit::TieToTempo { .. } => "tie to tempo".into(),
            Edit::SetEnvelope { .. } => "envelope".into(),
            Edit::LinkEnvelopes { .. } => "link envelopes".into(),
            Edit::UnlinkEnvelopes { .. } => "unlink envelopes".into(),
            Edit::GroupUnits { .. } => "group".into(),
            Edit::Ungroup { .. } => "dissolve group".into(),
            Edit::RenameGroup { .. } => "rename group".into(),
            Edit::FoldGroup { folded: true, .. } => "fold group".into(),
            Edit::FoldGroup { .. } => "unfold group".into(),
            Edit::AddTable { table } => format!("import {}", table.name),
            Edit::RemoveTable { .. } => "remove table".into(),
            Edit::SetScale { .. } => "scale".into(),
            Edit::Choose { choice: id, .. } => choice(*id).label.to_lowercase(),
            Edit::SetSound { .. } => "sample".into(),
            Edit::Insert { kind, .. } => format!("insert {}", kind.label().to_lowercase()),
            Edit::AddStrips { strips, .. } => match strips.len() {
                1 => "add a strip".into(),
                count => format!("add {count} strips"),
            },
            Edit::TakeThrough { unit } => format!("all through {}", name(unit)),
            Edit::AddUnit { kind, .. } => format!("add {}", kind.label().to_lowercase()),
            Edit::RemoveRoute { .. } => "remove route".into(),
            Edit::SwitchRoute { on, .. } => {
                format!("switch route {}", if *on { "on" } else { "off" })
            }
            Edit::SetMeta { .. } => "description".into(),
            Edit::Replace { .. } => "bring back".into(),
            Edit::Together { label, .. } => label.clone(),
        }
    }
}

fn source_name(patch: &Patch, id: SourceId) -> String {
    patch
        .source(id)
        .map_or_else(|| id.0.to_string(), |s| s.name.clone())
}

fn effect_name(patch: &Patch, id: EffectId) -> String {
    patch
        .effect(id)
        .map_or_else(|| id.0.to_string(), |e| e.title().to_string())
}

fn articulation_name(patch: &Patch, at: u8) -> String {
    let found = patch.playing.articulations.get(usize::from(at));
    found.map_or_else(|| at.to_string(), |a| a.name.clone())
}
