//! Any edit: random, of a kind that fits the patch more often than not.

use zolvik_edit::arrangement::Place;
use zolvik_edit::{Connect, Edit};
use zolvik_patch::address::Address;
use zolvik_patch::catalogue::{choices, params};
use zolvik_patch::document::{
    Bus, ChainId, EffectId, GroupId, KindName, LinkId, Meta, Patch, RouteId, RouteKind, SourceId,
    UnitId,
};
use zolvik_patch::finish::{BandType, Effect, EffectName, EqBand};
use zolvik_patch::movement::shape::{READY_SHAPES, Turn};
use zolvik_patch::movement::{Direction, Source, SourceName};
use zolvik_patch::playing::ready::READY_PHRASES;
use zolvik_patch::playing::{PhraseNote, WheelPlace};
use zolvik_patch::sound::{ReadySound, Sound};
use zolvik_patch::testing::{Dice, any_patch};
use zolvik_patch::wave::{OwnTable, Points, TableId, Wave};

/// Some edit of any kind there is, sensible or not.
pub fn any_edit(patch: &Patch, dice: &mut Dice) -> Edit {
    let some_unit = |dice: &mut Dice| UnitId(dice.below(18) as u16);
    let (unit, with) = (some_unit(dice), some_unit(dice));
    let units = vec![unit, with];
    let route = RouteId(dice.below(40) as u16);
    let group = GroupId(dice.below(3) as u16);
    let (on, at) = (dice.below(2) == 0, dice.below(6));
    if dice.below(7) == 0 {
        return of_effects(patch, dice);
    }
    match dice.below(44 + 21) {
        0 => Edit::Replace {
            patch: Box::new(any_patch(dice.bits())),
        },
        1 => Edit::RemoveUnit { unit },
        2 => Edit::DuplicateUnits { units: vec![unit] },
        3 => Edit::SwitchUnit { unit, on },
        4 => Edit::AddRoute {
            from: unit,
            to: (dice.below(3) > 0).then_some(with),
            kind: RouteKind::ALL[dice.below(RouteKind::ALL.len())],
        },
        5 => Edit::RemoveRoute { route },
        6 => Edit::SwitchRoute { route, on },
        7 => {
            let all = zolvik_patch::values::all(patch);
            let row = params().nth(dice.below(params().count())).unwrap();
            // mostly something that is there
            let address = match dice.below(4) {
                0 => Address::new(row.id, dice.below(20) as u16),
                _ => all[dice.below(all.len())].0,
            };
            let value = zolvik_patch::catalogue::param(address.param).value_at(dice.share());
            Edit::SetValue { address, value }
        }
        8 => Edit::SwapUnits { unit, with },
        9 => Edit::MakeModulator { unit, of: with },
        10 => Edit::MakeCarrier { unit },
        11 => Edit::SetWave {
            units,
            wave: Wave::default().stepped(&patch.tables, dice.below(99) as i32 - 50),
        },
        12 => Edit::SetMeta {
            meta: Meta {
                name: ["Fern", " ", "\u{202e}Fern"][dice.below(3)].into(),
                ..patch.meta.clone()
            },
        },
        13 => Edit::ShiftOctaves {
            units,
            octaves: dice.below(9) as i32 - 4,
        },
        14 => Edit::SpreadDetune {
            units,
            spread_cents: dice.share() * 50.0,
        },
        15 => Edit::SetRouteKind {
            route,
            kind: RouteKind::ALL[dice.below(RouteKind::ALL.len())],
        },
        16 => Edit::GroupUnits { units },
        17 => Edit::Ungroup { group },
        18 => Edit::AddUnit {
            kind: KindName::ALL[dice.below(KindName::ALL.len())],
            connect: match dice.below(3) {
                0 => Connect::Output,
                _ => Connect::Unit { id: unit },
            },
        },
        19 => Edit::TakeThrough { unit },
        20 => {
            let has = |c: &&zolvik_patch::choice::Choice| {
                let unit = patch.unit(unit);
                on && unit.is_some_and(|u| u.chosen_of(c.id).is_some())
            };
            let own: Vec<_> = choices().filter(has).chain(choices().take(1)).collect();
            let choice = own[dice.below(own.len())];
            Edit::Choose {
                units: vec![unit],
                choice: choice.id,
                at,
            }
        }
        21 => Edit::SetSound {
            units,
            sound: Box::new(Sound::Ready(ReadySound::ALL[dice.below(20)])),
        },
        22 => Edit::RenameUnit {
            unit,
            name: ["Bell", "", " Stem ", "\u{200b}", "x".repeat(50).as_str()][dice.below(5)].into(),
        },
        23 => Edit::SetBus {
            route,
            bus: [Bus::Main, Bus::Second, Bus::Clean][dice.below(3)],
        },
        24 => {
            let ids: Vec<UnitId> = patch.units.iter().map(|u| u.id).collect();
            let place = |(at, unit): (usize, &UnitId)| Place {
                unit: *unit,
                to: ids[..at]
                    .iter()
                    .copied()
                    .filter(|_| dice.below(3) == 0)
                    .collect(),
            };
            Edit::Arrange {
                places: ids.iter().enumerate().map(place).collect(),
            }
        }
        25 => Edit::Flip,
        26 => Edit::CopyToOther,
        27 => Edit::AddPoint {
            unit,
            time_s: dice.share() * 4.0 - 0.2,
            level: dice.share() * 1.2,
        },
        28 => Edit::RemovePoint { unit, at },
        29 => Edit::HoldPoint {
            units,
            at: at as u8,
        },
        30 => Edit::LoopFrom {
            units,
            from: on.then_some(at as u8),
        },
        31 => Edit::TieToTempo { units, on },
        32 => {
            let other = any_patch(dice.bits());
            let envelope = other.units.first().map(|u| u.envelope.clone());
            Edit::SetEnvelope {
                units,
                envelope: Box::new(envelope.unwrap_or_default()),
            }
        }
        33 => Edit::LinkEnvelopes { units, equal: on },
        34 => Edit::UnlinkEnvelopes { units },
        35 => Edit::RenameGroup {
            group,
            name: ["Choir", ""][dice.below(2)].into(),
        },
        36 => Edit::FoldGroup { group, folded: on },
        37 => Edit::AddTable {
            table: Box::new(OwnTable {
                id: TableId(dice.below(3) as u16),
                name: "Own".into(),
                harmonics: 1 + dice.below(3) as u16,
                cycles: Points(vec![100; 12].into()),
            }),
        },
        38 => Edit::RemoveTable {
            table: TableId(dice.below(3) as u16),
        },
        39 => Edit::SetScale {
            scale: on.then(|| {
                let cents = r#"{"name": "Five", "cents": [240.0, 480.0, 720.0, 960.0, 1200.0]}"#;
                Box::new(serde_json::from_str(cents).unwrap())
            }),
        },
        42 => Edit::Insert {
            route,
            kind: zolvik_patch::document::KindName::Filter,
            unit: on.then_some(unit),
        },
        43.. if dice.below(2) == 0 => any_playing(patch, dice),
        43.. => any_movement(patch, dice),
        41 => Edit::AddStrips {
            strips: zolvik_edit::line::copied(patch, &units),
            selected: (dice.below(2) == 0).then(|| units.clone()),
        },
        40 => Edit::Together {
            label: "both".into(),
            edits: vec![Edit::MakeCarrier { unit }, Edit::RemoveRoute { route }],
        },
    }
}

/// Some edit of sources and links, sensible or not.
fn any_movement(patch: &Patch, dice: &mut Dice) -> Edit {
    let movement = &patch.movement;
    let none = dice.below(8) == 0;
    let source = |dice: &mut Dice| match movement.sources.get(dice.below(movement.sources.len())) {
        Some(source) if !none => source.id,
        _ => SourceId(1000 + dice.below(5) as u16),
    };
    let link = match movement.links.get(dice.below(movement.links.len())) {
        Some(link) if !none => link.id,
        _ => LinkId(dice.below(20) as u16),
    };
    let all = zolvik_patch::values::all(patch);
    let to = vec![all[dice.below(all.len())].0, all[dice.below(all.len())].0];
    let (source, other) = (source(dice), source(dice));
    let (on, at, level) = (dice.below(2) == 0, dice.share() * 1.2 - 0.1, dice.share());
    match dice.below(22) {
        0 | 1 => Edit::AddSource {
            kind: SourceName::ALL[dice.below(SourceName::ALL.len())],
            to: if on { to } else { vec![] },
        },
        2 => Edit::RemoveSource { source },
        3 => Edit::DuplicateSource { source },
        4 => Edit::RenameSource {
            source,
            name: ["Sway", "", "\u{200b}"][dice.below(3)].into(),
        },
        5 => Edit::SwitchSource { source, on },
        6 => Edit::Follow {
            source,
            unit: UnitId(dice.below(6) as u16),
        },
        7 => Edit::AddLinks { from: source, to },
        8 => Edit::RemoveLink { link },
        9 => Edit::SwitchLink { link, on },
        10 => Edit::DirectLink {
            link,
            direction: Direction::ALL[dice.below(3)],
        },
        11 => Edit::ScaleLink {
            link,
            by: on.then_some(other),
        },
        12 => Edit::ResendLink { link, from: source },
        13 if on => Edit::TurnSource { source },
        13 => Edit::TurnLink { link },
        14 => Edit::SetEnds {
            link,
            low: level,
            high: level + at,
        },
        15 => Edit::SetShape {
            source,
            points: READY_SHAPES[dice.below(READY_SHAPES.len())].points(),
        },
        16 => Edit::AddShapePoint { source, at, level },
        17 => Edit::RemoveShapePoint {
            source,
            at: dice.below(8),
        },
        18 => Edit::MoveShapePoint {
            source,
            point: dice.below(8),
            at,
            level,
        },
        19 => Edit::TurnShape {
            source,
            how: [Turn::Flip, Turn::Reverse, Turn::Halve, Turn::Double][dice.below(4)],
        },
        20 => Edit::SetStepCount {
            source,
            count: dice.below(70),
        },
        _ => Edit::SetSource {
            source: Box::new(Source::new(source, SourceName::Random)),
        },
    }
}

/// Some edit of macros, phrases and articulations, sensible or not.
fn any_playing(patch: &Patch, dice: &mut Dice) -> Edit {
    let sources = &patch.movement.sources;
    let source = match sources.get(dice.below(sources.len())) {
        Some(source) if dice.below(6) > 0 => source.id,
        _ => SourceId(1000 + dice.below(5) as u16),
    };
    let links = &patch.movement.links;
    let link = |dice: &mut Dice| match links.get(dice.below(links.len())) {
        Some(link) if dice.below(6) > 0 => link.id,
        _ => LinkId(dice.below(20) as u16),
    };
    let (link, like) = (link(dice), link(dice));
    let (on, share) = (dice.below(2) == 0, dice.share());
    let at = dice.below(patch.playing.articulations.len() + 1) as u8;
    let name = || ["Closed", "", "\u{200b}"][on as usize].to_string();
    let note = PhraseNote {
        at_beats: share * 9.0 - 0.5,
        length_beats: dice.share() * 3.0,
        semitones: dice.below(40) as i16 - 20,
        velocity: dice.below(130) as u8,
    };
    let all = zolvik_patch::values::all(patch);
    match dice.below(18) {
        0 => Edit::SetWay {
            link,
            low: share,
            high: 0.3,
        },
        1 => Edit::LikeLink { link, like },
        2 => Edit::TakeEnd { source, high: on },
        3 => Edit::Morph {
            source: made(patch, SourceName::Macro).unwrap_or(source),
        },
        4 | 5 => Edit::SetPhrase {
            phrase: on.then(|| Box::new(READY_PHRASES[dice.below(READY_PHRASES.len())].phrase())),
        },
        6 => Edit::RenamePhrase { name: name() },
        7 => Edit::SetPhraseLength { beats: share * 9.0 },
        8 => Edit::AddNote { note },
        9 => Edit::ChangeNotes {
            notes: vec![(dice.below(6), note)],
        },
        10 => Edit::RemoveNotes {
            notes: vec![dice.below(4), dice.below(4)],
        },
        11 => Edit::SetTurns {
            bend: on,
            turns: vec![WheelPlace {
                at_beats: share * 4.0,
                place: share,
            }],
        },
        12 | 13 => Edit::AddArticulation { name: name() },
        14 => Edit::RemoveArticulation { at },
        15 => Edit::RenameArticulation { at, name: name() },
        16 => match on {
            true => Edit::KeyArticulation {
                at,
                key: Some(dice.below(140) as u8),
            },
            false => Edit::SwitchArticulation {
                at: (share < 0.7).then_some(at),
            },
        },
        _ => Edit::Settle {
            address: on.then(|| all[dice.below(all.len())].0),
            take_back: share < 0.5,
        },
    }
}

/// An edit of effects and chains, mostly one that fits.
fn of_effects(patch: &Patch, dice: &mut Dice) -> Edit {
    let (share, on) = (dice.share(), dice.below(2) == 0);
    let chain = ChainId::ALL[dice.below(3)];
    let ids: Vec<EffectId> = patch.finish.effects().map(|e| e.id).collect();
    let effect = match ids.len() {
        0 => EffectId(2_001),
        count => ids[dice.below(count)],
    };
    let eq = patch.finish.effects().find(|e| !e.bands().is_empty());
    let eq = eq.map_or(effect, |e| e.id);
    let kind = EffectName::ALL[dice.below(EffectName::ALL.len())];
    let at = dice.below(4);
    match 81 + dice.below(15) {
        82 => {
            let effects = vec![Effect::new(EffectId(2_001), kind); 1 + dice.below(2)];
            let at = on.then_some(at);
            Edit::PasteEffects { chain, at, effects }
        }
        83 => Edit::RemoveEffect { effect },
        84 => Edit::DuplicateEffect { effect },
        85 => Edit::MoveEffect { effect, chain, at },
        86 => Edit::SwitchEffect { effect, on },
        87 => Edit::RenameEffect {
            effect,
            name: "Mist".into(),
        },
        88 => Edit::SetEffect {
            effect,
            like: Box::new(Effect::new(EffectId(2_001), kind)),
        },
        89 => Edit::RenameChain {
            chain,
            name: if on { "Soil".into() } else { String::new() },
        },
        90 => Edit::SwitchChain { chain, on },
        91 => Edit::AddBand {
            effect: eq,
            band: EqBand::at(BandType::Peak, 20.0 + 20_000.0 * share),
        },
        92 => Edit::RemoveBand { effect: eq, at },
        93 => Edit::SwitchBand { effect: eq, at, on },
        94 => Edit::ChooseBand {
            effect: eq,
            at,
            choice: if on { EqBand::TYPE } else { EqBand::SLOPE },
            to: dice.below(8),
        },
        95 => Edit::Choose {
            units: vec![effect.into()],
            choice: choices()
                .map(|c| c.id)
                .nth(dice.below(choices().count()))
                .unwrap(),
            at,
        },
        _ => Edit::AddEffect {
            chain,
            kind: if share < 0.3 { EffectName::Eq } else { kind },
            at: on.then_some(at),
        },
    }
}

/// A source of a kind, if there is one.
fn made(patch: &Patch, kind: SourceName) -> Option<SourceId> {
    let found = patch
        .movement
        .sources
        .iter()
        .find(|s| s.kind.name() == kind);
    found.map(|s| s.id)
}
