//! Changes as data. Applying one gives a new document or a reason; the old one is never touched.
//!
//! To add a change: its variant in [`Edit`], what it does in the file of its subject, and its words in [`label`].

mod all;
mod edits;
mod envelopes;
mod find;
mod finish;
mod followed;
mod groups;
mod label;
mod lines;
mod movement;
mod playing;
mod routing;
mod states;
mod units;
mod values;

use self::find::{link_mut, route_mut, source_mut, unit_mut};
use zolvik_patch::Patch;
use zolvik_patch::document::UnitId;
use zolvik_patch::error::PatchError;
use zolvik_patch::plain::clean_name;
use zolvik_patch::playing::differing;
use zolvik_patch::validate::{savable, validate};

pub use self::all::{everywhere, for_all};
pub use self::edits::{Connect, Edit};
pub use self::states::flipped;
pub(crate) use self::units::common_way;

/// Applies an edit. Gives the new document and the units that should be selected after it; none for those that were.
///
/// # Errors
/// If the edit does not fit the document or would make it invalid.
pub fn apply(patch: &Patch, edit: &Edit) -> Result<(Patch, Vec<UnitId>), PatchError> {
    let mut next = patch.clone();
    let select = change(&mut next, edit)?;
    followed::links_go_on(patch, &mut next);
    // what led to something that is gone goes with it
    movement::tidy(&mut next);
    differing::tidy(&mut next);
    let goes_on = !matches!(
        edit,
        Edit::Settle { .. } | Edit::Replace { .. } | Edit::Flip
    );
    if goes_on {
        differing::keep(patch, &mut next);
    }
    validate(&next)?;
    // a value within its range is one everywhere, and a hand that drags it does not wait
    if !matches!(edit, Edit::SetValue { .. }) {
        savable(&next)?;
    }
    if goes_on {
        movement::name_after_targets(patch, &mut next);
    }
    Ok((next, select))
}

fn change(patch: &mut Patch, edit: &Edit) -> Result<Vec<UnitId>, PatchError> {
    let one = |id: UnitId| vec![id];
    match edit {
        Edit::SetValue { address, value } => values::set(patch, *address, *value)?,
        Edit::Choose { units, choice, at } => values::choose(patch, units, *choice, *at)?,
        Edit::SetSound { units, sound } => values::set_sound(patch, units, sound)?,
        Edit::SetWave { units, wave } => values::set_wave(patch, units, wave)?,
        Edit::ShiftOctaves { units, octaves } => values::shift_octaves(patch, units, *octaves)?,
        Edit::SpreadDetune {
            units,
            spread_cents,
        } => values::spread_detune(patch, units, *spread_cents)?,
        Edit::AddUnit { kind, connect } => return units::add(patch, *kind, connect).map(one),
        Edit::Insert { route, kind, unit } => {
            return units::insert(patch, *route, *kind, *unit).map(one);
        }
        Edit::AddStrips { strips, selected } => {
            return lines::add(patch, strips, selected.as_deref());
        }
        Edit::TakeThrough { unit } => units::take_through(patch, *unit)?,
        Edit::RemoveUnit { unit } => return Ok(units::remove(patch, *unit)?.into_iter().collect()),
        Edit::DuplicateUnits { units } => return units::duplicate(patch, units),
        Edit::RenameUnit { unit, name } => units::rename(patch, *unit, name)?,
        Edit::SwitchUnit { unit, on } => unit_mut(patch, *unit)?.on = *on,
        Edit::AddRoute { from, to, kind } => routing::connect(patch, *from, *to, *kind),
        Edit::SetRouteKind { route, kind } => routing::set_kind(patch, *route, *kind)?,
        Edit::SetBus { route, bus } => routing::set_bus(patch, *route, *bus)?,
        Edit::RemoveRoute { route } => routing::remove(patch, *route)?,
        Edit::SwitchRoute { route, on } => route_mut(patch, *route)?.on = *on,
        Edit::SwapUnits { unit, with } => routing::swap(patch, *unit, *with)?,
        Edit::MakeModulator { unit, of } => {
            return routing::make_modulator(patch, *unit, *of).map(one);
        }
        Edit::MakeCarrier { unit } => return routing::make_carrier(patch, *unit).map(one),
        Edit::Arrange { places } => crate::arrangement::route(patch, places)?,
        Edit::AddPoint {
            unit,
            time_s,
            level,
        } => envelopes::add_point(patch, *unit, *time_s, *level)?,
        Edit::RemovePoint { unit, at } => envelopes::remove_point(patch, *unit, *at)?,
        Edit::HoldPoint { units, at } => envelopes::hold(patch, units, *at)?,
        Edit::LoopFrom { units, from } => envelopes::loop_from(patch, units, *from)?,
        Edit::TieToTempo { units, on } => envelopes::tie_to_tempo(patch, units, *on)?,
        Edit::SetEnvelope { units, envelope } => envelopes::set(patch, units, envelope)?,
        Edit::LinkEnvelopes { units, equal } => envelopes::link(patch, units, *equal)?,
        Edit::UnlinkEnvelopes { units } => envelopes::unlink(patch, units),
        Edit::GroupUnits { units } => groups::gather(patch, units),
        Edit::Ungroup { group } => groups::dissolve(patch, *group)?,
        Edit::RenameGroup { group, name } => groups::rename(patch, *group, name)?,
        Edit::FoldGroup { group, folded } => groups::fold(patch, *group, *folded)?,
        Edit::AddSource { kind, to } => return movement::add(patch, *kind, to).map(one),
        Edit::RemoveSource { source } => movement::remove(patch, *source)?,
        Edit::DuplicateSource { source } => return movement::duplicate(patch, *source).map(one),
        Edit::RenameSource { source, name } => movement::rename(patch, *source, name)?,
        Edit::SwitchSource { source, on } => source_mut(patch, *source)?.on = *on,
        Edit::Follow { source, unit } => movement::follow(patch, *source, *unit)?,
        Edit::AddLinks { from, to } => movement::link(patch, *from, to)?,
        Edit::RemoveLink { link } => movement::unlink(patch, *link)?,
        Edit::SwitchLink { link, on } => link_mut(patch, *link)?.on = *on,
        Edit::DirectLink { link, direction } => link_mut(patch, *link)?.direct(*direction),
        Edit::ScaleLink { link, by } => link_mut(patch, *link)?.scaled_by = *by,
        Edit::ResendLink { link, from } => link_mut(patch, *link)?.from = *from,
        Edit::TurnLink { link } => link_mut(patch, *link)?.turn(),
        Edit::TurnSource { source } => movement::turn_source(patch, *source)?,
        Edit::SetEnds { link, low, high } => movement::set_ends(patch, *link, (*low, *high))?,
        Edit::SetWay { link, low, high } => movement::set_way(patch, *link, (*low, *high))?,
        Edit::LikeLink { link, like } => movement::like_link(patch, *link, *like)?,
        Edit::TakeEnd { source, high } => movement::take_end(patch, *source, *high)?,
        Edit::Morph { source } => movement::morph(patch, *source)?,
        Edit::SetPhrase { phrase } => playing::set_phrase(patch, phrase.as_deref()),
        Edit::RenamePhrase { name } => playing::phrase_mut(patch, |p| p.name = clean_name(name))?,
        Edit::SetPhraseLength { beats } => playing::set_length(patch, *beats)?,
        Edit::AddNote { note } => playing::add_note(patch, *note)?,
        Edit::ChangeNotes { notes } => playing::change_notes(patch, notes)?,
        Edit::RemoveNotes { notes } => playing::remove_notes(patch, notes)?,
        Edit::SetTurns { bend, turns } => playing::set_turns(patch, *bend, turns)?,
        Edit::AddArticulation { name } => playing::add_articulation(patch, name)?,
        Edit::RemoveArticulation { at } => playing::remove_articulation(patch, *at)?,
        Edit::RenameArticulation { at, name } => {
            playing::articulation_mut(patch, *at)?.name = clean_name(name);
        }
        Edit::KeyArticulation { at, key } => playing::give_key(patch, *at, *key)?,
        Edit::SwitchArticulation { at } => playing::switch(patch, *at)?,
        Edit::Settle { address, take_back } => differing::settle(patch, *address, *take_back),
        Edit::SetShape { source, points } => movement::set_shape(patch, *source, points)?,
        Edit::AddShapePoint { source, at, level } => {
            movement::add_point(patch, *source, *at, *level)?;
        }
        Edit::RemoveShapePoint { source, at } => movement::remove_point(patch, *source, *at)?,
        Edit::MoveShapePoint {
            source,
            point,
            at,
            level,
        } => movement::move_point(patch, *source, *point, (*at, *level))?,
        Edit::TurnShape { source, how } => movement::turn_shape(patch, *source, *how)?,
        Edit::SetStepCount { source, count } => movement::set_step_count(patch, *source, *count)?,
        Edit::SetSource { source } => *source_mut(patch, source.id)? = (**source).clone(),
        Edit::AddEffect { chain, kind, at } => {
            return finish::add(patch, *chain, *kind, *at).map(|id| one(id.into()));
        }
        Edit::PasteEffects { chain, at, effects } => {
            let made = finish::paste(patch, *chain, *at, effects)?;
            return Ok(made.into_iter().map(UnitId::from).collect());
        }
        Edit::RemoveEffect { effect } => {
            let next = finish::remove(patch, *effect)?;
            return Ok(next.into_iter().map(UnitId::from).collect());
        }
        Edit::DuplicateEffect { effect } => {
            return finish::duplicate(patch, *effect).map(|id| one(id.into()));
        }
        Edit::MoveEffect { effect, chain, at } => finish::move_to(patch, *effect, *chain, *at)?,
        Edit::SwitchEffect { effect, on } => finish::switch(patch, *effect, *on)?,
        Edit::RenameEffect { effect, name } => finish::rename(patch, *effect, name)?,
        Edit::SetEffect { effect, like } => finish::set(patch, *effect, like)?,
        Edit::RenameChain { chain, name } => {
            patch.finish.chain_mut(*chain).name = clean_name(name);
        }
        Edit::SwitchChain { chain, on } => patch.finish.chain_mut(*chain).on = *on,
        Edit::AddBand { effect, band } => finish::add_band(patch, *effect, *band)?,
        Edit::RemoveBand { effect, at } => finish::remove_band(patch, *effect, *at)?,
        Edit::SwitchBand { effect, at, on } => finish::switch_band(patch, *effect, *at, *on)?,
        Edit::ChooseBand {
            effect,
            at,
            choice,
            to,
        } => finish::choose_band(patch, *effect, *at, *choice, *to)?,
        Edit::Flip => *patch = flipped(patch),
        Edit::CopyToOther => states::copy_to_other(patch),
        Edit::AddTable { table } => patch.tables.push((**table).clone()),
        Edit::RemoveTable { table } => states::remove_table(patch, *table),
        Edit::SetScale { scale } => patch.scale = scale.as_deref().cloned(),
        Edit::SetMeta { meta } => states::describe(patch, meta),
        Edit::Replace { patch: other } => *patch = (**other).clone(),
        Edit::Together { edits, .. } => {
            let mut select: Vec<UnitId> = vec![];
            for edit in edits {
                let removes = matches!(edit, Edit::RemoveUnit { .. });
                let next = change(patch, edit)?;
                // of several that go, what is next to the last of them
                if removes {
                    select.clear();
                }
                select.extend(
                    next.iter()
                        .filter(|id| !select.contains(id))
                        .copied()
                        .collect::<Vec<_>>(),
                );
            }
            return Ok(select);
        }
    }
    Ok(vec![])
}
