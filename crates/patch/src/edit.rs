//! Changes as data. Applying one gives a new document or a reason; the old one is never touched.

use std::sync::Arc;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::address::Address;
use crate::arrangement::Place;
use crate::catalogue::ParamId;
use crate::catalogue::param;
use crate::choice::{ChoiceId, choice, set_patch, set_unit};
use crate::document::{
    Bus, Envelope, EnvelopeLink, Group, GroupId, KindName, Meta, Patch, Route, RouteId, RouteKind,
    Send, Slot, TunedBy, Unit, UnitId, UnitKind,
};
use crate::error::PatchError;
use crate::pitch::{auditioned_hz, nominal_ratio};
use crate::plain::{clean_name, named_after};
use crate::scale::Scale;
use crate::shape::auditioned_scale;
use crate::sound::Sound;
use crate::validate::{MAX_UNIT_NAME, SHORTEST_STRETCH, validate};
use crate::wave::{OwnTable, TableId, Wave};

mod add;

/// Where a new unit is connected: nothing arrives silent.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case", tag = "to")]
pub enum Connect {
    /// Heard at once.
    Output,
    /// Into the phase of this unit.
    Unit {
        /// The unit it modulates.
        id: UnitId,
    },
}

/// One change of a patch.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case", tag = "do")]
pub enum Edit {
    /// Sets one value.
    SetValue {
        /// Which value.
        address: Address,
        /// In the parameter's unit.
        value: f64,
    },
    /// Adds an operator, connected gently.
    AddOperator {
        /// Where to.
        connect: Connect,
    },
    /// Adds a unit of any kind, connected gently. A filter or shaper is put behind the unit it is connected to, on its
    /// way out; connected to the output, everything that is heard goes through it.
    AddUnit {
        /// What it is.
        kind: KindName,
        /// Where to.
        connect: Connect,
    },
    /// Lets everything that is heard go through a filter or shaper.
    TakeThrough {
        /// Which.
        unit: UnitId,
    },
    /// Chooses one of a few.
    Choose {
        /// For which units; empty for the patch as a whole.
        units: Vec<UnitId>,
        /// What.
        choice: ChoiceId,
        /// Position of the option.
        at: usize,
    },
    /// Gives samples something to play. Chosen from a list or a checked file, never over the wire.
    #[serde(skip)]
    SetSound {
        /// Which units.
        units: Vec<UnitId>,
        /// What they play.
        sound: Box<Sound>,
    },
    /// Removes a unit and every route from or to it; what went through a filter or shaper goes on where that led.
    RemoveUnit {
        /// Which unit.
        unit: UnitId,
    },
    /// Copies a unit with all its routes, in and out.
    DuplicateUnit {
        /// Which unit.
        unit: UnitId,
    },
    /// Names a unit.
    RenameUnit {
        /// Which unit.
        unit: UnitId,
        /// The new name.
        name: String,
    },
    /// Switches a unit on or off.
    SwitchUnit {
        /// Which unit.
        unit: UnitId,
        /// Whether it takes part.
        on: bool,
    },
    /// Adds a route, gently: small index, moderate level.
    AddRoute {
        /// The source.
        from: UnitId,
        /// The unit it moves; none for the output.
        to: Option<UnitId>,
        /// What it does there; of no account for the output.
        #[serde(default)]
        kind: RouteKind,
    },
    /// Makes a route do something else at its target, gently.
    SetRouteKind {
        /// Which route.
        route: RouteId,
        /// What it does from now on.
        kind: RouteKind,
    },
    /// Sends a route to the output another way.
    SetBus {
        /// Which route.
        route: RouteId,
        /// Which way.
        bus: Bus,
    },
    /// Exchanges the places of two units in the routing; each keeps its sound.
    SwapUnits {
        /// One of them.
        unit: UnitId,
        /// The other.
        with: UnitId,
    },
    /// Takes a unit off the output and lets it move another one's phase instead.
    MakeModulator {
        /// Which unit.
        unit: UnitId,
        /// The unit it moves.
        of: UnitId,
    },
    /// Lets a unit be heard, and takes it off the units it moved.
    MakeCarrier {
        /// Which unit.
        unit: UnitId,
    },
    /// Routes units anew. Routes between them that stay keep all their values. Made here, never over the wire.
    #[serde(skip)]
    Arrange {
        /// Where each unit leads.
        places: Vec<Place>,
    },
    /// Gives units a wave. Chosen from a list, never over the wire.
    #[serde(skip)]
    SetWave {
        /// Which units.
        units: Vec<UnitId>,
        /// The wave.
        wave: Wave,
    },
    /// Gives the pitch of units another way; they keep it at the auditioned note.
    TuneBy {
        /// Which units.
        units: Vec<UnitId>,
        /// How it is given from now on.
        by: TunedBy,
    },
    /// Moves units up or down by octaves.
    ShiftOctaves {
        /// Which units.
        units: Vec<UnitId>,
        /// How many, with sign.
        octaves: i32,
    },
    /// Detunes units evenly around the middle of what they have.
    SpreadDetune {
        /// Which units, lowest first.
        units: Vec<UnitId>,
        /// From the lowest to the highest, in cents.
        spread_cents: f64,
    },
    /// Goes to the other of two states, keeping this one; the first time both are alike. Name, description and the
    /// auditioned note stay.
    Flip,
    /// Makes the other state like this one.
    CopyToOther,
    /// Adds a point to an envelope.
    AddPoint {
        /// Whose envelope.
        unit: UnitId,
        /// Where, in seconds from the press of the auditioned note.
        time_s: f64,
        /// 0 to 1.
        level: f64,
    },
    /// Takes a point out of an envelope.
    RemovePoint {
        /// Whose envelope.
        unit: UnitId,
        /// Position of the point.
        at: usize,
    },
    /// Makes a point the one that is held.
    HoldPoint {
        /// Whose envelopes.
        units: Vec<UnitId>,
        /// Position of the point.
        at: u8,
    },
    /// Lets the held note go round from a point, or stay.
    LoopFrom {
        /// Whose envelopes.
        units: Vec<UnitId>,
        /// Position of the point gone back to; none to stay.
        from: Option<u8>,
    },
    /// Ties times to the tempo, or lets them be seconds again; the auditioned note keeps its times.
    TieToTempo {
        /// Whose envelopes.
        units: Vec<UnitId>,
        /// Whether they follow the tempo.
        on: bool,
    },
    /// Gives units an envelope. Pasted or taken from the ready ones, never over the wire.
    #[serde(skip)]
    SetEnvelope {
        /// Whose envelopes.
        units: Vec<UnitId>,
        /// The envelope.
        envelope: Box<Envelope>,
    },
    /// Links envelopes, so that they are edited as one.
    LinkEnvelopes {
        /// Whose envelopes; the first is the one the others are made like.
        units: Vec<UnitId>,
        /// Made alike now and always; else each keeps its difference.
        equal: bool,
    },
    /// Takes envelopes out of their links.
    UnlinkEnvelopes {
        /// Whose envelopes.
        units: Vec<UnitId>,
    },
    /// Puts units into a group of their own, out of those they were in.
    GroupUnits {
        /// Which units.
        units: Vec<UnitId>,
    },
    /// Dissolves a group; its units stay.
    Ungroup {
        /// Which group.
        group: GroupId,
    },
    /// Names a group.
    RenameGroup {
        /// Which group.
        group: GroupId,
        /// The new name.
        name: String,
    },
    /// Draws a group as one strip, or all of its strips again.
    FoldGroup {
        /// Which group.
        group: GroupId,
        /// Whether it is folded.
        folded: bool,
    },
    /// Adds an imported table. Comes from a checked file, never over the wire.
    #[serde(skip)]
    AddTable {
        /// The table; its number must be free.
        table: Box<OwnTable>,
    },
    /// Removes an imported table; units that use it repeat a sine.
    RemoveTable {
        /// Which table.
        table: TableId,
    },
    /// Tunes the keys; none for equal temperament. Comes from a checked file, never over the wire.
    #[serde(skip)]
    SetScale {
        /// The scale.
        scale: Option<Box<Scale>>,
    },
    /// Removes a route.
    RemoveRoute {
        /// Which route.
        route: RouteId,
    },
    /// Switches a route on or off.
    SwitchRoute {
        /// Which route.
        route: RouteId,
        /// Whether it takes part.
        on: bool,
    },
    /// Names and describes the patch.
    SetMeta {
        /// The new name, tags and note.
        meta: Meta,
    },
    /// Puts another whole patch in place, such as an earlier version. Comes from a checked file, never over
    /// the wire.
    #[serde(skip)]
    Replace {
        /// The patch.
        patch: Box<Patch>,
    },
    /// Several changes as one.
    Together {
        /// What was done, for the undo list.
        label: String,
        /// The changes, in order.
        edits: Vec<Edit>,
    },
}

/// Applies an edit. Gives the new document and the unit that should be selected after it.
///
/// # Errors
/// If the edit does not fit the document or would make it invalid.
pub fn apply(patch: &Patch, edit: &Edit) -> Result<(Patch, Option<UnitId>), PatchError> {
    let mut next = patch.clone();
    let select = change(&mut next, edit)?;
    validate(&next)?;
    Ok((next, select))
}

fn change(patch: &mut Patch, edit: &Edit) -> Result<Option<UnitId>, PatchError> {
    match edit {
        Edit::SetValue { address, value } => set_value(patch, *address, *value)?,
        Edit::AddOperator { connect } => {
            return add::unit(patch, KindName::Operator, connect).map(Some);
        }
        Edit::AddUnit { kind, connect } => return add::unit(patch, *kind, connect).map(Some),
        Edit::TakeThrough { unit } => add::take_through(patch, *unit)?,
        Edit::Choose { units, choice, at } => choose(patch, units, *choice, *at)?,
        Edit::SetSound { units, sound } => {
            each(patch, units, |_, unit| {
                if let UnitKind::Sample(sample) = &mut unit.kind {
                    sample.sound = (**sound).clone();
                }
            })?;
        }
        Edit::RemoveUnit { unit } => {
            let at = position(patch, *unit)?;
            add::lead_past(patch, *unit);
            patch.units.remove(at);
            patch
                .routes
                .retain(|r| r.from != *unit && r.send.target() != Some(*unit));
            leave_groups(patch, &[*unit]);
            leave_links(patch, &[*unit]);
            return Ok(patch
                .units
                .get(at.min(patch.units.len().saturating_sub(1)))
                .map(|u| u.id));
        }
        Edit::DuplicateUnit { unit } => return duplicate(patch, *unit).map(Some),
        Edit::RenameUnit { unit, name } => unit_mut(patch, *unit)?.name = clean_name(name),
        Edit::SwitchUnit { unit, on } => unit_mut(patch, *unit)?.on = *on,
        Edit::AddRoute { from, to, kind } => {
            let kind = |to| usual(patch, to, *kind);
            let send = to.map_or_else(Send::output, |to| Send::to_unit(kind(to), to));
            add::route(patch, *from, send);
        }
        Edit::SetRouteKind { route, kind } => {
            let send = &mut route_mut(patch, *route)?.send;
            if let (Some(to), true) = (send.target(), send.kind() != Some(*kind)) {
                *send = Send::to_unit(*kind, to);
            }
        }
        Edit::SetBus { route, bus: chosen } => {
            if let Send::Output { bus, .. } = &mut route_mut(patch, *route)?.send {
                *bus = *chosen;
            }
        }
        Edit::SwapUnits { unit, with } => swap(patch, *unit, *with)?,
        Edit::MakeModulator { unit, of } => {
            position(patch, *unit)?;
            position(patch, *of)?;
            // what leads to filters and shapers is a way out too
            let is_out = |r: &Route| matches!(r.send.kind(), None | Some(RouteKind::Audio));
            patch.routes.retain(|r| r.from != *unit || !is_out(r));
            if !patch.sends(*unit).any(|r| r.send.target() == Some(*of)) {
                let send = Send::to_unit(usual(patch, *of, RouteKind::Phase), *of);
                add::route(patch, *unit, send);
            }
            return Ok(Some(*unit));
        }
        Edit::MakeCarrier { unit } => {
            position(patch, *unit)?;
            let audio = |r: &Route| r.send.kind() == Some(RouteKind::Audio);
            patch.routes.retain(|r| {
                r.from != *unit || audio(r) || r.send.target().is_none_or(|to| to == *unit)
            });
            if !patch.sounds(*unit) {
                add::route(patch, *unit, Send::output());
            }
            return Ok(Some(*unit));
        }
        Edit::Arrange { places } => crate::arrangement::route(patch, places)?,
        Edit::SetWave { units, wave } => {
            each(patch, units, |_, unit| {
                if let Some(operator) = unit.oscillator_mut() {
                    operator.wave = wave.clone();
                }
            })?;
        }
        Edit::TuneBy { units, by } => {
            let hz = auditioned_hz(patch);
            each(patch, units, |_, unit| tune_by(unit, *by, hz))?;
        }
        Edit::ShiftOctaves { units, octaves } => {
            let factor = libm::exp2((*octaves).clamp(-20, 20).into());
            each(patch, units, |_, unit| shift(unit, factor))?;
        }
        Edit::SpreadDetune {
            units,
            spread_cents,
        } => spread(patch, units, *spread_cents)?,
        Edit::Flip => {
            let mut here = patch.clone();
            let there = here.other.take();
            let mut next = there.map_or_else(|| here.clone(), Arc::unwrap_or_clone);
            next.meta = here.meta.clone();
            next.audition = here.audition.clone();
            next.slot = match here.slot {
                Slot::A => Slot::B,
                Slot::B => Slot::A,
            };
            next.other = Some(Arc::new(here));
            *patch = next;
        }
        Edit::CopyToOther => {
            let mut copy = patch.clone();
            copy.other = None;
            copy.slot = match patch.slot {
                Slot::A => Slot::B,
                Slot::B => Slot::A,
            };
            patch.other = Some(Arc::new(copy));
        }
        Edit::AddPoint {
            unit,
            time_s,
            level,
        } => {
            let at = position(patch, *unit)?;
            let scale = auditioned_scale(patch, &patch.units[at]);
            let hold_s = patch.audition.hold_s / scale;
            let env = &mut patch.units[at].envelope;
            let (time_s, level) = (tidy_ms(time_s / scale), level.clamp(0.0, 1.0));
            *env = env.with_point(time_s, (level * 1000.0).round() / 1000.0, hold_s)?;
        }
        Edit::RemovePoint { unit, at } => {
            let env = &mut unit_mut(patch, *unit)?.envelope;
            *env = env.without_point(*at).ok_or_else(|| PatchError::Shape {
                path: "envelope.points".into(),
                problem: "an envelope needs a point to be held and its end".into(),
            })?;
        }
        Edit::HoldPoint { units, at } => each(patch, units, |_, unit| {
            let env = &mut unit.envelope;
            env.held = *at;
            env.loop_from = env.loop_from.filter(|from| from <= at);
        })?,
        Edit::LoopFrom { units, from } => each(patch, units, |_, unit| {
            unit.envelope.loop_from = *from;
        })?,
        Edit::TieToTempo { units, on } => {
            let tempo = patch.audition.tempo_bpm;
            each(patch, units, |_, unit| {
                let env = &mut unit.envelope;
                let before = env.tempo_scale(tempo);
                env.in_beats = *on;
                let times = before / env.tempo_scale(tempo);
                let most = param(ParamId::PointTimeS).max;
                for point in &mut env.points {
                    point.time_s = (point.time_s * times).min(most);
                }
                env.delay_s = (env.delay_s * times).min(param(ParamId::EnvelopeDelayS).max);
            })?;
        }
        Edit::SetEnvelope { units, envelope } => each(patch, units, |_, unit| {
            unit.envelope = (**envelope).clone();
        })?,
        Edit::LinkEnvelopes { units, equal } => {
            leave_links(patch, units);
            if let (true, Some(first)) = (*equal, units.first()) {
                let env = unit_mut(patch, *first)?.envelope.clone();
                each(patch, units, |_, unit| unit.envelope = env.clone())?;
            }
            patch.links.push(EnvelopeLink {
                units: units.clone(),
                equal: *equal,
            });
        }
        Edit::UnlinkEnvelopes { units } => leave_links(patch, units),
        Edit::GroupUnits { units } => {
            leave_groups(patch, units);
            let free = |n: &u16| patch.groups.iter().all(|g| g.id != GroupId(*n));
            let id = GroupId((1..).find(free).unwrap_or(1));
            patch.groups.push(Group {
                id,
                name: format!("Group {}", id.0),
                units: units.clone(),
                folded: false,
                level_db: crate::catalogue::default(ParamId::GroupLevelDb),
            });
        }
        Edit::Ungroup { group } => {
            group_mut(patch, *group)?;
            patch.groups.retain(|g| g.id != *group);
        }
        Edit::RenameGroup { group, name } => group_mut(patch, *group)?.name = clean_name(name),
        Edit::FoldGroup { group, folded } => group_mut(patch, *group)?.folded = *folded,
        Edit::AddTable { table } => patch.tables.push((**table).clone()),
        Edit::RemoveTable { table } => {
            patch.tables.retain(|t| t.id != *table);
            for operator in patch.units.iter_mut().filter_map(Unit::oscillator_mut) {
                if operator.wave == Wave::Own(*table) {
                    operator.wave = Wave::default();
                }
            }
        }
        Edit::SetScale { scale } => patch.scale = scale.as_deref().cloned(),
        Edit::RemoveRoute { route } => {
            route_mut(patch, *route)?;
            patch.routes.retain(|r| r.id != *route);
        }
        Edit::SwitchRoute { route, on } => route_mut(patch, *route)?.on = *on,
        Edit::SetMeta { meta } => {
            patch.meta = meta.clone();
            patch.meta.name = clean_name(&meta.name);
            for tag in &mut patch.meta.tags {
                *tag = clean_name(tag);
            }
        }
        Edit::Replace { patch: other } => *patch = (**other).clone(),
        Edit::Together { edits, .. } => {
            let mut select = None;
            for edit in edits {
                select = change(patch, edit)?.or(select);
            }
            return Ok(select);
        }
    }
    Ok(None)
}

/// What a route to a unit does there: as wished where the unit can take it, else the usual.
fn usual(patch: &Patch, to: UnitId, wished: RouteKind) -> RouteKind {
    let takes = patch.unit(to).map_or(&[][..], |u| u.kind.name().takes());
    match takes.first() {
        Some(first) if !takes.contains(&wished) => *first,
        _ => wished,
    }
}

/// Sets a value and what hangs together with it.
fn set_value(patch: &mut Patch, address: Address, value: f64) -> Result<(), PatchError> {
    let unit = patch.unit(UnitId(address.id));
    let mut value = value;
    match (unit.map(|u| &u.kind), address.param) {
        // switching key follow keeps the present note's cutoff
        (Some(UnitKind::Filter(filter)), ParamId::FilterKeyFollow) => {
            let row = param(ParamId::FilterCutoffHz);
            let kept = crate::filter::kept_cutoff_hz(filter, value, patch);
            let cutoff = Address::unit(UnitId(address.id), ParamId::FilterCutoffHz);
            cutoff.set(patch, kept.clamp(row.min, row.max))?;
        }
        // a place is stopped by the other end of its stretch
        (Some(UnitKind::Sample(s)), id) => {
            value = match id {
                ParamId::SampleStart => value.min(s.end - SHORTEST_STRETCH),
                ParamId::SampleEnd => value.max(s.start + SHORTEST_STRETCH),
                ParamId::SampleLoopStart => value.min(s.loop_end - SHORTEST_STRETCH),
                ParamId::SampleLoopEnd => value.max(s.loop_start + SHORTEST_STRETCH),
                _ => value,
            };
        }
        _ => {}
    }
    address.set(patch, value)
}

fn choose(patch: &mut Patch, units: &[UnitId], id: ChoiceId, to: usize) -> Result<(), PatchError> {
    let no_such = || PatchError::NotThere {
        param: choice(id).label,
        owner: "this, or not with that option".into(),
    };
    if units.is_empty() {
        return set_patch(patch, id, to).ok_or_else(no_such);
    }
    let mut done = false;
    each(patch, units, |_, unit| {
        done |= set_unit(unit, id, to).is_some();
    })?;
    // of several, those that have the choice take it
    if done { Ok(()) } else { Err(no_such()) }
}

fn duplicate(patch: &mut Patch, unit: UnitId) -> Result<UnitId, PatchError> {
    let at = position(patch, unit)?;
    let mut copy = patch.units[at].clone();
    copy.id = patch.free_unit();
    copy.name = named_after(&copy.name, "copy", MAX_UNIT_NAME);
    let id = copy.id;
    patch.units.insert(at + 1, copy);
    if let Some(group) = patch.groups.iter_mut().find(|g| g.units.contains(&unit)) {
        group.units.push(id);
    }
    for route in patch.routes.clone() {
        let into = matches!(route.send.target(), Some(to) if to == unit);
        let mut send = route.send;
        if into {
            send.redirect(id);
        }
        let from = if route.from == unit { id } else { route.from };
        if into || from == id {
            add::route(patch, from, send);
            if let Some(last) = patch.routes.last_mut() {
                last.on = route.on;
            }
        }
    }
    Ok(id)
}

/// Changes each of several units.
fn each(
    patch: &mut Patch,
    units: &[UnitId],
    mut act: impl FnMut(usize, &mut Unit),
) -> Result<(), PatchError> {
    for (i, id) in units.iter().enumerate() {
        act(i, unit_mut(patch, *id)?);
    }
    Ok(())
}

fn swap(patch: &mut Patch, a: UnitId, b: UnitId) -> Result<(), PatchError> {
    position(patch, a)?;
    position(patch, b)?;
    let other = |id: UnitId| match id {
        id if id == a => b,
        id if id == b => a,
        id => id,
    };
    for route in &mut patch.routes {
        route.from = other(route.from);
        if let Some(to) = route.send.target() {
            route.send.redirect(other(to));
        }
    }
    Ok(())
}

fn tune_by(unit: &mut Unit, by: TunedBy, key_hz: f64) {
    let within = |id: ParamId, value: f64| {
        let row = param(id);
        value.clamp(row.min, row.max)
    };
    let Some(operator) = unit.oscillator_mut() else {
        return;
    };
    let ratio = nominal_ratio(operator, key_hz);
    match by {
        _ if by == operator.tuned_by => {}
        TunedBy::Ratio => operator.ratio = within(ParamId::OperatorRatio, ratio),
        TunedBy::Semitones => {
            let semitones = 12.0 * libm::log2(ratio);
            operator.semitones = within(ParamId::OperatorSemitones, semitones);
        }
        TunedBy::Fixed => {
            operator.fixed_hz = within(ParamId::OperatorFixedHz, ratio * key_hz);
        }
    }
    operator.tuned_by = by;
}

/// Multiplies a unit's frequency, however it is given. A step that would leave the range is not made, so that
/// the octaves of several units stay together.
fn shift(unit: &mut Unit, factor: f64) {
    let octaves = libm::log2(factor);
    let (id, value, next) = match &mut unit.kind {
        UnitKind::Operator(operator) => match operator.tuned_by {
            TunedBy::Ratio => {
                let next = operator.ratio * factor;
                (ParamId::OperatorRatio, &mut operator.ratio, next)
            }
            TunedBy::Semitones => {
                let next = operator.semitones + 12.0 * octaves;
                (ParamId::OperatorSemitones, &mut operator.semitones, next)
            }
            TunedBy::Fixed => {
                let next = operator.fixed_hz * factor;
                (ParamId::OperatorFixedHz, &mut operator.fixed_hz, next)
            }
        },
        UnitKind::Sample(sample) => {
            let next = sample.semitones + 12.0 * octaves;
            (ParamId::SampleSemitones, &mut sample.semitones, next)
        }
        UnitKind::Filter(filter) => {
            let next = filter.cutoff_hz * factor;
            (ParamId::FilterCutoffHz, &mut filter.cutoff_hz, next)
        }
        UnitKind::Noise(_) | UnitKind::Shaper(_) => return,
    };
    let row = param(id);
    if (row.min..=row.max).contains(&next) {
        *value = next;
    }
}

fn spread(patch: &mut Patch, units: &[UnitId], spread_cents: f64) -> Result<(), PatchError> {
    let mut sum = 0.0;
    each(patch, units, |_, unit| {
        sum += unit.oscillator_mut().map_or(0.0, |o| o.detune_cents);
    })?;
    let (middle, last) = (sum / units.len().max(1) as f64, units.len().max(2) - 1);
    each(patch, units, |i, unit| {
        let place = i as f64 / last as f64 - 0.5;
        let place = if units.len() == 1 { 0.0 } else { place };
        let cents = middle + place * spread_cents;
        if let Some(operator) = unit.oscillator_mut() {
            operator.detune_cents = libm::round(cents * 1000.0) / 1000.0;
        }
    })
}

/// Takes units out of their groups; groups that are then empty go.
fn leave_groups(patch: &mut Patch, units: &[UnitId]) {
    for group in &mut patch.groups {
        group.units.retain(|u| !units.contains(u));
    }
    patch.groups.retain(|g| !g.units.is_empty());
}

/// Takes units out of their links; links of fewer than two go.
fn leave_links(patch: &mut Patch, units: &[UnitId]) {
    for link in &mut patch.links {
        link.units.retain(|u| !units.contains(u));
    }
    patch.links.retain(|l| l.units.len() > 1);
}

/// To the tenth of a millisecond.
fn tidy_ms(time_s: f64) -> f64 {
    (time_s * 10_000.0).round() / 10_000.0
}

fn group_mut(patch: &mut Patch, group: GroupId) -> Result<&mut Group, PatchError> {
    let found = patch.groups.iter_mut().find(|g| g.id == group);
    found.ok_or(PatchError::NoGroup { group })
}

fn position(patch: &Patch, unit: UnitId) -> Result<usize, PatchError> {
    let at = patch.units.iter().position(|u| u.id == unit);
    at.ok_or_else(|| PatchError::NoUnit {
        path: "edit".into(),
        unit,
    })
}

fn unit_mut(patch: &mut Patch, unit: UnitId) -> Result<&mut Unit, PatchError> {
    patch.unit_mut(unit).ok_or_else(|| PatchError::NoUnit {
        path: "edit".into(),
        unit,
    })
}

fn route_mut(patch: &mut Patch, route: RouteId) -> Result<&mut Route, PatchError> {
    patch
        .routes
        .iter_mut()
        .find(|r| r.id == route)
        .ok_or(PatchError::NoRoute { route })
}

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
            Edit::AddOperator { .. } => "add operator".into(),
            Edit::RemoveUnit { unit } => format!("remove {}", name(unit)),
            Edit::DuplicateUnit { unit } => format!("duplicate {}", name(unit)),
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
            Edit::TuneBy { .. } => "way of tuning".into(),
            Edit::ShiftOctaves { .. } => "octave".into(),
            Edit::SpreadDetune { .. } => "detune together".into(),
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
