//! From patch to program.

use std::collections::BTreeSet;

use bytemuck::Zeroable;
use zolvik_patch::address::Address;
use zolvik_patch::catalogue::{param, unit_params};
use zolvik_patch::document::{
    Bus, Filter, Glide, Level, Patch, Quality, Route, RouteId, RouteKind, Send, Shaper, Slope,
    UnitId, UnitKind, VoiceSettings,
};
use zolvik_patch::graph::is_feedback;
use zolvik_patch::hearing::{Listening, passes, solo_straight};
use zolvik_patch::levels::{db_gain, pan_gains};
use zolvik_patch::order::{Order, order};
use zolvik_patch::pitch::{key_hz, patch_key_hz, tuned_all, tuning};
use zolvik_patch::wave::{Shape, Wave};
use zolvik_waves::recording::{key as recording_key, played};

use super::copies::Copies;
use super::envelopes::envelope_program;
use super::layout::{
    ArpeggioProgram, MOVES_FREQUENCY, OutProgram, Program, RouteProgram, UnitProgram, VoiceProgram,
    kind,
};
use super::movement::adding::{self, RoutePlace};
use super::params::{Law, NO_SLOT, PITCH, ParamProgram, plain};
#[cfg(test)]
use super::params::{MAX_MOVES, MAX_SLOTS, MoveProgram, Source};

const TURNS_PER_RADIAN: f64 = 0.5 / core::f64::consts::PI;

/// Compiles a valid patch. What is off or muted stays in the program at depth zero, so that switching it
/// back is a smooth change of a value.
pub fn compile(patch: &Patch, listening: &Listening) -> Program {
    let mut program = Program::zeroed();
    let copies = Copies::new(patch);
    let stereo = stereo(patch);
    let Order { components, late } = order(patch);
    let order: Vec<UnitId> = components.concat();
    // whatever the file lists first
    let mut routes: Vec<&Route> = patch.routes.iter().collect();
    routes.sort_unstable_by_key(|r| r.id);
    for component in &components {
        for (i, id) in component.iter().enumerate() {
            let at = program.unit_count as usize;
            let Some(unit) = unit_program(patch, listening, &copies, *id) else {
                continue;
            };
            program.units[at] = unit;
            program.units[at].component_size = if i == 0 { component.len() as u32 } else { 0 };
            program.units[at].feedback = u32::from(is_feedback(patch, component));
            program.units[at].stereo = u32::from(stereo.contains(id));
            add_params(&mut program, patch, listening, at);
            program.unit_count += 1;
        }
    }
    for (key, hz) in program.keys_hz.iter_mut().enumerate() {
        *hz = patch_key_hz(patch, key as u8).unwrap_or(0.0);
    }
    let mut places = vec![];
    for at in 0..program.unit_count() {
        let into: Vec<&Route> = routes
            .iter()
            .copied()
            .filter(|r| r.send.target() == Some(order[at]))
            .collect();
        let others = Others {
            order: &order,
            late: &late,
            copies: &copies,
        };
        add_routes(
            &mut program,
            patch,
            listening,
            &others,
            (&into, at),
            &mut places,
        );
        add_out(&mut program, patch, listening, at, &mut places);
    }
    program.trim = program.add(ParamProgram {
        value: db_gain(patch.voice.trim_db) as f32,
        law: Law::Decibels as u32,
        ..plain(param(VoiceSettings::TRIM_DB))
    });
    adding::add(&mut program, patch, listening, &places);
    program.tempo_bpm = patch.audition.tempo_bpm;
    program.arpeggio = ArpeggioProgram::of(&patch.playing.arpeggio);
    let reach = patch.reach();
    let times = |key_hz: &f64| match *key_hz > 0.0 {
        true => reach.times_rate(*key_hz) as u8,
        false => 1,
    };
    if patch.voice.quality == Quality::Auto {
        program.oversampling = 1;
        program.key_oversampling = program.keys_hz.each_ref().map(times);
    } else {
        program.oversampling = patch.times_rate_auditioned() as u32;
    }
    program.voice = voice_program(&patch.voice, copies.lanes);
    let units = &program.units[..program.unit_count()];
    let differs = |u: &UnitProgram| u.copies != copies.lanes || u.spread_share != 1.0;
    program.voice.own_copies = u32::from(copies.lanes > 1 && units.iter().any(differs));
    program
}

/// The units that work in stereo: what a sound goes through that stands aside, and all it goes through after that.
pub(crate) fn stereo(patch: &Patch) -> BTreeSet<UnitId> {
    let mut wide = BTreeSet::new();
    for _ in 0..patch.units.len() {
        for route in &patch.routes {
            if let Send::Audio { to, pass_pan, .. } = route.send
                && (pass_pan != 0.0 || wide.contains(&route.from) || pan_moves(patch, route))
            {
                wide.insert(to);
            }
        }
    }
    wide
}

fn pan_moves(patch: &Patch, route: &Route) -> bool {
    let pan = Address::route(route.id, Send::PASS_PAN);
    patch.movement.links.iter().any(|link| link.to == pan)
}

/// What a route's way depends on beside its ends.
struct Others<'a> {
    order: &'a [UnitId],
    late: &'a BTreeSet<RouteId>,
    copies: &'a Copies,
}

fn unit_program(
    patch: &Patch,
    listening: &Listening,
    copies: &Copies,
    id: UnitId,
) -> Option<UnitProgram> {
    let unit = patch.unit(id)?;
    let works = unit.on && !listening.muted.contains(&id);
    let mut program = UnitProgram {
        envelope: envelope_program(&unit.envelope, patch.audition.tempo_bpm),
        key_level: (unit.key_level_db / 20.0 * core::f64::consts::LOG2_10) as f32,
        key_times: unit.key_times as f32,
        velocity_times: unit.velocity_times as f32,
        id: id.0.into(),
        is_carrier: u32::from(patch.sounds(id)),
        gate: if works { 1.0 } else { 0.0 },
        velocity: unit.velocity as f32,
        kind: unit.kind.name() as u32,
        copies: copies.of(id),
        detune_share: unit.detune_share as f32,
        spread_share: unit.spread_share as f32,
        drift_share: unit.drift_share as f32,
        ..UnitProgram::zeroed()
    };
    match &unit.kind {
        UnitKind::Operator(operator) => {
            let times = tuned_all(patch, id);
            let (multiple, offset_hz) = tuning(operator);
            (program.multiple, program.offset_hz) = (multiple * times, offset_hz * times);
            program.wave_key = zolvik_waves::key(&operator.wave, &patch.tables).unwrap_or(0);
            program.is_pulse = u32::from(operator.wave == Wave::Shape(Shape::Pulse));
            program.variant = operator.start as u32;
            program.tuned_by = operator.tuned_by as u32;
            program.start = turns_of_u32(operator.start_turns);
        }
        UnitKind::Noise(_) | UnitKind::Level(_) => {}
        UnitKind::Sample(sample) => {
            let times = libm::exp2(sample.semitones / 12.0) * tuned_all(patch, id);
            // in recordings a second: as recorded at the root key
            (program.multiple, program.offset_hz) = match sample.key_follow {
                true => (times / key_hz(sample.root_key.into()), 0.0),
                false => (0.0, times),
            };
            program.wave_key = played(patch, unit).map_or(0, recording_key);
        }
        UnitKind::Filter(filter) => {
            program.variant = filter.response as u32;
            program.steep = u32::from(filter.slope == Slope::Db24);
        }
        UnitKind::Shaper(shaper) => program.variant = shaper.curve as u32,
    }
    if !unit.kind.name().is_source() {
        // bypassed or off it lets everything through; muted it is silent
        let muted = listening.muted.contains(&id);
        program.gate = if muted { 0.0 } else { 1.0 };
    }
    Some(program)
}

impl Program {
    /// Adds a parameter; gives its position.
    pub(super) fn add(&mut self, param: ParamProgram) -> u32 {
        let at = self.param_count;
        self.params[at as usize] = param;
        self.param_count += 1;
        at
    }

    /// Lets a source of a unit move a parameter, each lane by itself, as far as another parameter says; what does not fit any
    /// more is left out. To be called for the last unit alone.
    #[cfg(test)]
    pub(crate) fn link(&mut self, unit: usize, to: u32, source: Source, depth: u32) {
        if self.move_count as usize == MAX_MOVES || self.slot_count as usize == MAX_SLOTS {
            return;
        }
        let slot = &mut self.params[to as usize].slot;
        if *slot == NO_SLOT {
            *slot = self.slot_count;
            self.slot_count += 1;
        }
        self.moves[self.move_count as usize] = MoveProgram {
            to,
            source: source as u32,
            depth,
            unit: unit as u32,
        };
        self.move_count += 1;
        self.units[unit].moves += 1;
    }
}

impl Program {
    /// Whether the pitch of an operator is moved.
    pub(crate) fn moves_pitch(&self, unit: usize) -> bool {
        let unit = &self.units[unit];
        let first = unit.first_param as usize;
        let moved = |at: &usize| self.params[first + at].slot != NO_SLOT;
        let all = self.movement.moves_pitch != 0;
        match unit.kind {
            kind::OPERATOR => all || PITCH.iter().any(moved),
            kind::SAMPLE => all,
            _ => false,
        }
    }
}

/// The parameters of a unit, in the order of the catalogue, and what moves them.
fn add_params(program: &mut Program, patch: &Patch, listening: &Listening, at: usize) {
    let id = UnitId(program.units[at].id as u16);
    let Some(unit) = patch.unit(id) else { return };
    let passes_by = !unit.on || listening.bypassed.contains(&id);
    program.units[at].first_param = program.param_count;
    for row in unit_params(unit.kind.name()) {
        let value = unit.value(row.id).unwrap_or(row.default);
        program.add(match row.id {
            // the engine reckons cutoffs in octaves above 1 Hz, far beyond what can be set
            Filter::CUTOFF_HZ => ParamProgram {
                value: libm::log2(value) as f32,
                law: Law::Plain as u32,
                low: -10.0,
                high: 20.0,
                ..plain(row)
            },
            Level::LEVEL_DB => ParamProgram {
                value: row.gain(value) as f32,
                law: Law::Decibels as u32,
                low: 0.0,
                high: db_gain(row.max) as f32,
                ..plain(row)
            },
            // what passes by cannot be brought in by what moves it either
            Filter::MIX | Shaper::MIX | Level::MIX if passes_by => ParamProgram {
                value: 0.0,
                high: 0.0,
                ..plain(row)
            },
            _ => ParamProgram {
                value: value as f32,
                ..plain(row)
            },
        });
        program.units[at].params += 1;
    }
}

fn voice_program(voice: &VoiceSettings, copies: u32) -> VoiceProgram {
    let unison = &voice.unison;
    VoiceProgram {
        // as links move it, in the digits of a parameter
        glide_s: f64::from(voice.glide_s as f32),
        polyphony: voice.polyphony.into(),
        mode: voice.mode as u32,
        priority: voice.priority as u32,
        glides_always: u32::from(voice.glide == Glide::Always),
        copies,
        own_copies: 0,
        longest_ring_s: voice.longest_ring_s as f32,
        copies_start: unison.start as u32,
        detune_cents: unison.detune_cents as f32,
        spread: unison.spread as f32,
        blend: unison.blend as f32,
        drift_cents: voice.drift_cents as f32,
        bend_semitones: voice.bend_semitones as f32,
        seed: voice.seed.into(),
    }
}

/// A share of a turn as a whole number of 32 bits; a full turn is none.
fn turns_of_u32(turns: f64) -> u32 {
    (turns.fract() * 4_294_967_296.0) as u64 as u32
}

/// What a route does at its destination, and how strongly in the engine's terms.
fn effect(patch: &Patch, route: &Route) -> Option<(RouteKind, f64)> {
    let kind = route.send.kind()?;
    let depth = match kind {
        RouteKind::Phase => patch.strength(route) * TURNS_PER_RADIAN,
        _ => patch.strength(route),
    };
    Some((kind, depth))
}

fn add_routes(
    program: &mut Program,
    patch: &Patch,
    listening: &Listening,
    others: &Others<'_>,
    (into, at): (&[&Route], usize),
    places: &mut Vec<RoutePlace>,
) {
    program.units[at].first_route = program.route_count;
    for route in into {
        let from = others.order.iter().position(|id| *id == route.from);
        let (Some(from), Some((kind, depth))) = (from, effect(patch, route)) else {
            continue;
        };
        let open = route.on && listening.lets_through(patch, route);
        let share = match (kind, route.send.target()) {
            (RouteKind::Audio, Some(to)) => others.copies.share(patch, route.from, to),
            _ => 1.0,
        };
        let row = param(route.send.depth());
        let depth = program.add(ParamProgram {
            value: if open { (depth * share) as f32 } else { 0.0 },
            law: match kind {
                RouteKind::Audio => Law::Decibels,
                _ => Law::Plain,
            } as u32,
            scale: if kind == RouteKind::Phase {
                TURNS_PER_RADIAN as f32
            } else {
                1.0
            },
            low: 0.0,
            high: match kind {
                _ if !open => 0.0,
                RouteKind::Phase => (row.max * TURNS_PER_RADIAN) as f32,
                RouteKind::Audio => (db_gain(row.max) * share) as f32,
                _ => row.max as f32,
            },
            floor: (db_gain(row.min) * patch.group_gain(route) * share) as f32,
            ..plain(row)
        });
        let pan = match route.send {
            Send::Audio { pass_pan, .. } => program.add(ParamProgram {
                value: pass_pan as f32,
                ..plain(param(Send::PASS_PAN))
            }),
            _ => depth,
        };
        program.routes[program.route_count as usize] = RouteProgram {
            from: from as u32,
            late: u32::from(others.late.contains(&route.id)),
            kind: kind as u32,
            depth,
            pan,
        };
        places.push(RoutePlace {
            id: route.id,
            unit: at,
            depth,
            pan,
        });
        program.route_count += 1;
        program.units[at].routes += 1;
        program.units[at].mixed |= u32::from(kind != RouteKind::Phase);
        if kind == RouteKind::Frequency {
            program.units[at].mixed |= MOVES_FREQUENCY;
        }
    }
}

fn add_out(
    program: &mut Program,
    patch: &Patch,
    listening: &Listening,
    at: usize,
    places: &mut Vec<RoutePlace>,
) {
    let id = UnitId(program.units[at].id as u16);
    let own = patch.sends(id).find(|r| r.send.target().is_none());
    let straight = solo_straight(patch, listening, id);
    let open = |r| passes(patch, r) && listening.lets_through(patch, r);
    let (gain, pan, bus) = match own.map(|r| (r, &r.send, open(r))) {
        _ if straight => (db_gain(-12.0), 0.0, Bus::Main),
        Some((route, Send::Output { pan, bus, .. }, true)) => (patch.strength(route), *pan, *bus),
        Some((_, Send::Output { bus, .. }, _)) => (0.0, 0.0, *bus),
        Some(_) => (0.0, 0.0, Bus::Main),
        None => return,
    };
    let heard = listening.brings_solo(patch, id);
    let gain = if heard { gain } else { 0.0 };
    let [left, right] = pan_gains(pan);
    let level = program.add(ParamProgram {
        value: gain as f32,
        law: Law::Decibels as u32,
        low: 0.0,
        high: db_gain(param(Send::LEVEL_DB).max) as f32,
        floor: own.map_or(0.0, |r| {
            db_gain(param(Send::LEVEL_DB).min) * patch.group_gain(r)
        }) as f32,
        ..plain(param(Send::LEVEL_DB))
    });
    program.add(ParamProgram {
        value: pan as f32,
        ..plain(param(Send::PAN))
    });
    if let Some(route) = own {
        places.push(RoutePlace {
            id: route.id,
            unit: at,
            depth: level,
            pan: level + 1,
        });
    }
    program.outs[program.out_count as usize] = OutProgram {
        from: at as u32,
        bus: bus as u32,
        level,
        left: (gain * left) as f32,
        right: (gain * right) as f32,
    };
    program.buses |= 1 << bus as u32;
    program.out_count += 1;
}
