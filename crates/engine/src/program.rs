//! A patch compiled for the engine: flat, of fixed size, with every index checked, so that it can cross
//! threads as bytes and be taken up without allocating.

use std::sync::Arc;

use bytemuck::{Pod, Zeroable};
use zolvik_patch::document::{
    FilterType, Glide, MAX_ROUTES, MAX_UNITS, Operator, Patch, Route, RouteKind, Send, Slope,
    UnitId, UnitKind, VoiceSettings,
};
use zolvik_patch::envelope::{Envelope, MAX_POINTS};
use zolvik_patch::graph::{groups, is_feedback};
use zolvik_patch::hearing::{Listening, passes, solo_straight};
use zolvik_patch::levels::{db_gain, pan_gains};
use zolvik_patch::pitch::{key_hz, patch_key_hz, tuning};
use zolvik_patch::timing::times_scale;
use zolvik_patch::wave::{Shape, Wave};
use zolvik_waves::recording::{key as recording_key, recording, samples};
use zolvik_waves::{Bank, Clips, NoClips, Recording};

/// Most routes from unit to unit.
pub const MAX_UNIT_ROUTES: usize = MAX_ROUTES;

/// Set in [`UnitProgram::mixed`] where a route moves the frequency.
pub(crate) const MOVES_CUTOFF: u32 = 2;

/// Most copies of a note.
pub const MAX_COPIES: u32 = 16;

/// Shortest round of a looped envelope, in seconds; below it stays at its held point.
const SHORTEST_ROUND_S: f64 = 0.002;

/// A compiled patch. Units stand in the order they are computed.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub struct Program {
    /// Frequency of each key in hertz, 0 for keys that stay silent.
    pub(crate) keys_hz: [f64; 128],
    pub(crate) units: [UnitProgram; MAX_UNITS],
    pub(crate) routes: [RouteProgram; MAX_UNIT_ROUTES],
    pub(crate) outs: [OutProgram; MAX_UNITS],
    pub(crate) unit_count: u32,
    pub(crate) route_count: u32,
    pub(crate) out_count: u32,
    pub(crate) reserved: u32,
    pub(crate) voice: VoiceProgram,
    pub(crate) trim: f32,
    /// Times the sample rate it is computed at: 1, 2, 4 or 8.
    pub(crate) oversampling: u32,
}

/// What holds for every note.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct VoiceProgram {
    /// Time from one pitch to the next.
    pub(crate) glide_s: f64,
    pub(crate) polyphony: u32,
    /// A [`Mode`] as number.
    pub(crate) mode: u32,
    /// A [`Priority`] as number.
    pub(crate) priority: u32,
    /// 1 where it glides always, 0 only while another key is held.
    pub(crate) glides_always: u32,
    pub(crate) copies: u32,
    /// A [`Start`] as number, for copies.
    pub(crate) copies_start: u32,
    pub(crate) detune_cents: f32,
    pub(crate) spread: f32,
    pub(crate) blend: f32,
    pub(crate) drift_cents: f32,
    pub(crate) bend_semitones: f32,
    pub(crate) seed: u32,
}

/// Most values of a unit that glide when they are changed.
pub(crate) const VALUES: usize = 12;

/// What a unit is, as number: a [`KindName`].
pub(crate) mod kind {
    use zolvik_patch::document::KindName;

    pub(crate) const OPERATOR: u32 = KindName::Operator as u32;
    pub(crate) const NOISE: u32 = KindName::Noise as u32;
    pub(crate) const SAMPLE: u32 = KindName::Sample as u32;
    pub(crate) const FILTER: u32 = KindName::Filter as u32;
    pub(crate) const SHAPER: u32 = KindName::Shaper as u32;
}

/// Positions of values in [`UnitProgram::values`], by kind.
pub(crate) mod value {
    /// Operator: position in a table or width of a pulse.
    pub(crate) const PLACE: usize = 0;
    pub(crate) const LEAN: usize = 1;
    pub(crate) const REPEAT: usize = 2;
    pub(crate) const FOLD: usize = 3;
    pub(crate) const STEPS: usize = 4;
    pub(crate) const LEVELS: usize = 5;
    pub(crate) const SPACING: usize = 6;
    pub(crate) const SHIFT: usize = 7;
    pub(crate) const TILT_DB: usize = 8;
    pub(crate) const BALANCE: usize = 9;
    pub(crate) const LOW: usize = 10;
    pub(crate) const HIGH: usize = 11;
    /// Noise.
    pub(crate) const COLOUR_DB: usize = 0;
    /// Filter: the cutoff at C4, in octaves above 1 Hz.
    pub(crate) const CUTOFF_OCT: usize = 0;
    pub(crate) const RESONANCE: usize = 1;
    pub(crate) const DRIVE_DB: usize = 2;
    pub(crate) const MIX: usize = 3;
    pub(crate) const SWEEP_OCT: usize = 4;
    pub(crate) const VOWEL: usize = 5;
    pub(crate) const FOLLOW: usize = 6;
    /// Shaper.
    pub(crate) const SHAPER_DRIVE_DB: usize = 0;
    pub(crate) const SHAPER_MIX: usize = 1;
}

/// One unit of a program.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct UnitProgram {
    /// Multiple of the key's frequency, detune included.
    pub(crate) multiple: f64,
    pub(crate) offset_hz: f64,
    pub(crate) envelope: EnvelopeProgram,
    /// Which bank it reads; 0 for the sine.
    pub(crate) wave_key: u64,
    /// What glides when it is changed, see [`value`].
    pub(crate) values: [f32; VALUES],
    /// What it is, see [`kind`].
    pub(crate) kind: u32,
    /// Of a filter a [`Response`], of a shaper a [`Bend`], of an operator a [`Start`], as number.
    pub(crate) variant: u32,
    /// 1 for 24 dB an octave.
    pub(crate) steep: u32,
    /// Where in its cycle a note begins, in turns of 2^32.
    pub(crate) start: u32,
    /// 1 for a source whose end is the end of the sound.
    pub(crate) sounds: u32,
    /// 1 where two saws make a pulse.
    pub(crate) is_pulse: u32,
    /// The unit's number in the patch.
    pub(crate) id: u32,
    /// Its routes in: a range of [`Program::routes`].
    pub(crate) first_route: u32,
    pub(crate) routes: u32,
    /// Units computed together from here on; more than one, or a loop on itself, go sample by sample.
    pub(crate) group_size: u32,
    pub(crate) feedback: u32,
    /// 1, or 0 when off or muted.
    pub(crate) gate: f32,
    pub(crate) velocity: f32,
    /// Change of its output per octave above key 60, in octaves of gain (powers of two).
    pub(crate) key_level: f32,
    /// How far keys and velocity scale the envelope's times.
    pub(crate) key_times: f32,
    pub(crate) velocity_times: f32,
    /// 1 where some route in moves more than the phase.
    pub(crate) mixed: u32,
    pub(crate) reserved: u32,
}

/// An envelope, its times scaled by the tempo.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct EnvelopeProgram {
    pub(crate) delay_s: f64,
    pub(crate) points: [PointProgram; MAX_POINTS],
    pub(crate) count: u32,
    /// The point held until the release.
    pub(crate) held: u32,
    /// Segment gone back to from the held point; one behind it where the note stays.
    pub(crate) loop_from: u32,
    pub(crate) reserved: u32,
}

/// A point and the segment that leads to it.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct PointProgram {
    pub(crate) time_s: f64,
    pub(crate) level: f64,
    pub(crate) curve: f64,
}

/// A route into a unit.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct RouteProgram {
    /// Position of the source.
    pub(crate) from: u32,
    /// 1 where the source is computed later or is the unit itself: its last two samples are averaged.
    pub(crate) back: u32,
    /// A [`RouteKind`] as number.
    pub(crate) kind: u32,
    /// Depth: in turns for the phase, as a multiple of the frequency, a share, or a factor.
    pub(crate) depth: f32,
}

/// A route to the output.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct OutProgram {
    pub(crate) from: u32,
    pub(crate) left: f32,
    pub(crate) right: f32,
}

impl UnitProgram {
    pub(crate) fn is_comb(&self) -> bool {
        let comb = [FilterType::CombPlus as u32, FilterType::CombMinus as u32];
        self.kind == kind::FILTER && comb.contains(&self.variant)
    }

    /// Factor of the envelope's times for a note.
    pub(crate) fn times_scale(&self, key: u8, velocity: u8) -> f64 {
        let (by_key, by_velocity) = (self.key_times.into(), self.velocity_times.into());
        times_scale(by_key, by_velocity, key, velocity)
    }

    /// Factor of what it puts out for a key: at most 2, so that nothing gets out of hand.
    pub(crate) fn key_gain(&self, key: u8) -> f32 {
        let octaves = (f32::from(key) - 60.0) / 12.0;
        libm::exp2f(self.key_level * octaves).min(2.0)
    }
}

/// Why bytes were not taken as a program.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum ProgramError {
    /// The length is not that of a program of this version.
    #[error("a program has {expected} bytes, these are {actual}")]
    Length {
        /// Bytes a program has.
        expected: usize,
        /// Bytes given.
        actual: usize,
    },
    /// An index points outside.
    #[error("the program points outside itself")]
    Unsound,
}

/// A patch ready to be played: its program and the banks that reads.
#[derive(Debug, Clone, PartialEq)]
pub struct Prepared {
    /// The program.
    pub program: Program,
    /// Each bank once.
    pub banks: Vec<Arc<Bank>>,
    /// Each recording once; those whose audio is missing are left out, their units are silent.
    pub recordings: Vec<Arc<Recording>>,
}

/// Compiles a valid patch and fetches the banks it reads; recordings only those that come with the application.
pub fn prepare(patch: &Patch, listening: &Listening) -> Prepared {
    prepare_with(patch, listening, &NoClips)
}

/// As [`prepare`], with recordings that were brought in.
pub fn prepare_with(patch: &Patch, listening: &Listening, clips: &dyn Clips) -> Prepared {
    let waves = patch
        .units
        .iter()
        .filter_map(|u| Some(&u.oscillator()?.wave));
    let mut banks: Vec<Arc<Bank>> = vec![];
    for bank in waves.filter_map(|wave| zolvik_waves::bank(wave, &patch.tables)) {
        if banks.iter().all(|b| b.key != bank.key) {
            banks.push(bank);
        }
    }
    let mut recordings: Vec<Arc<Recording>> = vec![];
    for found in samples(patch).filter_map(|sample| recording(sample, clips)) {
        if recordings.iter().all(|r| r.key != found.key) {
            recordings.push(found);
        }
    }
    Prepared {
        program: compile(patch, listening),
        banks,
        recordings,
    }
}

/// Compiles a valid patch. What is off or muted stays in the program at depth zero, so that switching it
/// back is a smooth change of a value.
pub fn compile(patch: &Patch, listening: &Listening) -> Program {
    let mut program = Program::zeroed();
    let groups = groups(patch);
    let order: Vec<UnitId> = groups.concat();
    for group in &groups {
        for (i, id) in group.iter().enumerate() {
            let at = program.unit_count as usize;
            let Some(unit) = unit_program(patch, listening, *id) else {
                continue;
            };
            program.units[at] = unit;
            program.units[at].group_size = if i == 0 { group.len() as u32 } else { 0 };
            program.units[at].feedback = u32::from(is_feedback(patch, group));
            add_routes(&mut program, patch, listening, &order, at);
            add_out(&mut program, patch, listening, at);
            program.unit_count += 1;
        }
    }
    for (key, hz) in program.keys_hz.iter_mut().enumerate() {
        *hz = patch_key_hz(patch, key as u8).unwrap_or(0.0);
    }
    program.oversampling = patch.voice.quality.factor() as u32;
    program.voice = voice_program(&patch.voice);
    program.trim = db_gain(patch.voice.trim_db) as f32;
    program
}

fn unit_program(patch: &Patch, listening: &Listening, id: UnitId) -> Option<UnitProgram> {
    let unit = patch.unit(id)?;
    let works = unit.on && !listening.muted.contains(&id);
    let passes_by = !unit.on || listening.bypassed.contains(&id);
    let mut program = UnitProgram {
        envelope: envelope_program(&unit.envelope, patch.audition.tempo_bpm),
        key_level: (unit.key_level_db / 20.0 * core::f64::consts::LOG2_10) as f32,
        key_times: unit.key_times as f32,
        velocity_times: unit.velocity_times as f32,
        id: id.0.into(),
        gate: if works { 1.0 } else { 0.0 },
        velocity: unit.velocity as f32,
        kind: unit.kind.name() as u32,
        sounds: u32::from(unit.kind.name().is_source() && patch.sounds(id)),
        ..UnitProgram::zeroed()
    };
    let values = &mut program.values;
    match &unit.kind {
        UnitKind::Operator(operator) => {
            (program.multiple, program.offset_hz) = tuning(operator);
            program.wave_key = zolvik_waves::key(&operator.wave, &patch.tables).unwrap_or(0);
            (values[value::PLACE], program.is_pulse) = wave_place(operator);
            program.variant = operator.start as u32;
            program.start = turns_of_u32(operator.start_turns);
            let (cycle, harmonics) = (&operator.cycle, &operator.harmonics);
            for (at, v) in [
                (value::LEAN, cycle.lean),
                (value::REPEAT, cycle.repeat),
                (value::FOLD, cycle.fold),
                (value::STEPS, cycle.steps),
                (value::LEVELS, cycle.levels),
                (value::SPACING, harmonics.spacing),
                (value::SHIFT, harmonics.shift),
                (value::TILT_DB, harmonics.tilt_db),
                (value::BALANCE, harmonics.balance),
                (value::LOW, harmonics.low),
                (value::HIGH, harmonics.high),
            ] {
                values[at] = v as f32;
            }
        }
        UnitKind::Noise(noise) => values[value::COLOUR_DB] = noise.colour_db as f32,
        UnitKind::Sample(sample) => {
            let times = libm::exp2(sample.semitones / 12.0);
            // in recordings a second: as recorded at the root key
            (program.multiple, program.offset_hz) = match sample.key_follow {
                true => (times / key_hz(sample.root_key.into()), 0.0),
                false => (0.0, times),
            };
            program.wave_key = recording_key(sample);
        }
        UnitKind::Filter(filter) => {
            program.variant = filter.response as u32;
            program.steep = u32::from(filter.slope == Slope::Db24);
            // bypassed or off it lets everything through; muted it is silent
            program.gate = if listening.muted.contains(&id) {
                0.0
            } else {
                1.0
            };
            for (at, v) in [
                (value::CUTOFF_OCT, libm::log2(filter.cutoff_hz)),
                (value::RESONANCE, filter.resonance),
                (value::DRIVE_DB, filter.drive_db),
                (value::MIX, if passes_by { 0.0 } else { filter.mix }),
                (value::SWEEP_OCT, filter.sweep_oct),
                (value::VOWEL, filter.vowel),
                (value::FOLLOW, filter.key_follow),
            ] {
                values[at] = v as f32;
            }
        }
        UnitKind::Shaper(shaper) => {
            program.variant = shaper.curve as u32;
            program.gate = if listening.muted.contains(&id) {
                0.0
            } else {
                1.0
            };
            values[value::SHAPER_DRIVE_DB] = shaper.drive_db as f32;
            values[value::SHAPER_MIX] = if passes_by { 0.0 } else { shaper.mix as f32 };
        }
    }
    Some(program)
}

fn voice_program(voice: &VoiceSettings) -> VoiceProgram {
    let unison = &voice.unison;
    VoiceProgram {
        glide_s: voice.glide_s,
        polyphony: voice.polyphony.into(),
        mode: voice.mode as u32,
        priority: voice.priority as u32,
        glides_always: u32::from(voice.glide == Glide::Always),
        copies: unison.copies.into(),
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

fn envelope_program(env: &Envelope, tempo_bpm: f64) -> EnvelopeProgram {
    let scale = env.tempo_scale(tempo_bpm);
    let mut points = [PointProgram::zeroed(); MAX_POINTS];
    for (to, point) in points.iter_mut().zip(&env.points) {
        *to = PointProgram {
            time_s: point.time_s * scale,
            level: point.level,
            curve: point.curve,
        };
    }
    let held = usize::from(env.held);
    let from = env.loop_from.map_or(held + 1, usize::from);
    let round_s: f64 = points[from.min(held + 1)..=held]
        .iter()
        .map(|p| p.time_s)
        .sum();
    EnvelopeProgram {
        delay_s: env.delay_s * scale,
        points,
        count: env.points.len() as u32,
        held: held as u32,
        // a round of no length would never end
        loop_from: if round_s < SHORTEST_ROUND_S {
            held + 1
        } else {
            from
        } as u32,
        reserved: 0,
    }
}

fn wave_place(operator: &Operator) -> (f32, u32) {
    match operator.wave {
        Wave::Shape(Shape::Pulse) => (operator.width as f32, 1),
        _ if operator.wave.is_scanned() => (operator.position as f32, 0),
        _ => (0.0, 0),
    }
}

/// What a route does at its destination, and how strongly in the engine's terms.
fn effect(patch: &Patch, route: &Route) -> Option<(RouteKind, f64)> {
    const TURNS_PER_RADIAN: f64 = 0.5 / core::f64::consts::PI;
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
    order: &[UnitId],
    at: usize,
) {
    program.units[at].first_route = program.route_count;
    for route in &patch.routes {
        if route.send.target() != Some(order[at]) {
            continue;
        }
        let from = order.iter().position(|id| *id == route.from);
        let (Some(from), Some((kind, depth))) = (from, effect(patch, route)) else {
            continue;
        };
        program.routes[program.route_count as usize] = RouteProgram {
            from: from as u32,
            back: u32::from(from >= at),
            kind: kind as u32,
            depth: if route.on && listening.lets_through(patch, route) {
                depth as f32
            } else {
                0.0
            },
        };
        program.route_count += 1;
        program.units[at].routes += 1;
        program.units[at].mixed |= u32::from(kind != RouteKind::Phase);
        if kind == RouteKind::Frequency {
            program.units[at].mixed |= MOVES_CUTOFF;
        }
    }
}

fn add_out(program: &mut Program, patch: &Patch, listening: &Listening, at: usize) {
    let id = UnitId(program.units[at].id as u16);
    let own = patch.sends(id).find(|r| r.send.target().is_none());
    let straight = solo_straight(patch, listening, id);
    let open = |r| passes(r) && listening.lets_through(patch, r);
    let (gain, pan) = match own.map(|r| (r, &r.send, open(r))) {
        _ if straight => (db_gain(-12.0), 0.0),
        Some((route, Send::Output { pan, .. }, true)) => (patch.strength(route), *pan),
        Some(_) => (0.0, 0.0),
        None => return,
    };
    let heard = listening.brings_solo(patch, id);
    let gain = if heard { gain } else { 0.0 };
    let [left, right] = pan_gains(pan);
    program.outs[program.out_count as usize] = OutProgram {
        from: at as u32,
        left: (gain * left) as f32,
        right: (gain * right) as f32,
    };
    program.out_count += 1;
}

impl Program {
    /// The program as bytes, for another thread's engine of the same version.
    pub fn bytes(&self) -> &[u8] {
        bytemuck::bytes_of(self)
    }

    /// Reads what [`Program::bytes`] gave.
    ///
    /// # Errors
    /// If length or indices do not fit. Never panics.
    pub fn from_bytes(bytes: &[u8]) -> Result<Program, ProgramError> {
        let expected = size_of::<Program>();
        let program: Program =
            bytemuck::try_pod_read_unaligned(bytes).map_err(|_| ProgramError::Length {
                expected,
                actual: bytes.len(),
            })?;
        if program.is_sound() {
            Ok(program)
        } else {
            Err(ProgramError::Unsound)
        }
    }

    /// Whether every index lies inside, so that the audio path need not ask again.
    fn is_sound(&self) -> bool {
        let units = self.unit_count as usize;
        if units > MAX_UNITS
            || self.route_count as usize > MAX_UNIT_ROUTES
            || self.out_count as usize > MAX_UNITS
            || ![1, 2, 4, 8].contains(&self.oversampling)
            || !(1..=MAX_COPIES).contains(&self.voice.copies)
        {
            return false;
        }
        let unit_ok = |(at, u): (usize, &UnitProgram)| {
            let env = &u.envelope;
            (env.count as usize) <= MAX_POINTS
                && env.held < env.count
                && env.loop_from <= env.held + 1
                && u64::from(u.first_route) + u64::from(u.routes) <= u64::from(self.route_count)
                && (u.group_size as usize) <= units - at
        };
        self.units[..units].iter().enumerate().all(unit_ok)
            && self.routes[..self.route_count as usize]
                .iter()
                .all(|r| (r.from as usize) < units)
            && self.outs[..self.out_count as usize]
                .iter()
                .all(|o| (o.from as usize) < units)
    }

    /// Whether two programs differ only in values, so that a sounding note can glide from one to the other.
    pub(crate) fn same_shape(&self, other: &Program) -> bool {
        let counts = |p: &Program| (p.unit_count, p.route_count, p.out_count, p.oversampling);
        counts(self) == counts(other)
            && self.keys_hz == other.keys_hz
            && self.units.iter().zip(&other.units).all(|(a, b)| {
                (a.id, a.first_route, a.routes, a.group_size, a.feedback)
                    == (b.id, b.first_route, b.routes, b.group_size, b.feedback)
                    && (a.wave_key, a.is_pulse) == (b.wave_key, b.is_pulse)
                    && (a.kind, a.variant, a.steep, a.sounds)
                        == (b.kind, b.variant, b.steep, b.sounds)
            })
            && self
                .routes
                .iter()
                .zip(&other.routes)
                .all(|(a, b)| (a.from, a.back, a.kind) == (b.from, b.back, b.kind))
            && self
                .outs
                .iter()
                .zip(&other.outs)
                .all(|(a, b)| a.from == b.from)
    }

    /// How many times the rate it is computed at: 1, 2, 4 or 8.
    pub fn oversampling(&self) -> usize {
        self.oversampling as usize
    }

    /// Computes it at another multiple of the rate: 1, 2, 4 or 8; others are passed over.
    pub fn set_oversampling(&mut self, times: usize) {
        if [1, 2, 4, 8].contains(&times) {
            self.oversampling = times as u32;
        }
    }

    /// Longest time a note sounds after its release, in seconds, whatever its key and velocity.
    pub fn tail_s(&self) -> f64 {
        (0..128)
            .step_by(127)
            .flat_map(|key| [1, 127].map(|velocity| self.tail_of_s(key, velocity)))
            .fold(0.0, f64::max)
    }

    /// Time a note sounds after its release, in seconds.
    pub fn tail_of_s(&self, key: u8, velocity: u8) -> f64 {
        let units = &self.units[..self.unit_count()];
        let release_s = |unit: &UnitProgram| {
            let env = &unit.envelope;
            let behind = env.held as usize + 1..env.count as usize;
            let release_s: f64 = env.points[behind].iter().map(|p| p.time_s).sum();
            release_s * unit.times_scale(key, velocity)
        };
        let sources = units.iter().filter(|u| u.sounds == 1);
        // what rings on is faded out in the end
        let ring_s = match self.ring_s() {
            0.0 => 0.0,
            ring_s => ring_s + 0.01,
        };
        sources.map(release_s).fold(0.0, f64::max) + ring_s
    }

    /// How long filters may ring on after everything that feeds them has ended, in seconds.
    pub(crate) fn ring_s(&self) -> f64 {
        let units = &self.units[..self.unit_count()];
        let rings = |unit: &UnitProgram| match unit.kind {
            kind::FILTER => {
                let resonance = f64::from(unit.values[value::RESONANCE]);
                0.05 + 2.5 * resonance * resonance * resonance
            }
            _ => 0.0,
        };
        // filters in a row ring into each other
        units.iter().map(rings).sum::<f64>().min(4.0)
    }

    /// Combs it has; each needs a delay line, see `Engine::make_room`.
    pub fn combs(&self) -> usize {
        let units = &self.units[..self.unit_count()];
        units.iter().filter(|u| u.is_comb()).count()
    }

    /// Number of units.
    pub fn unit_count(&self) -> usize {
        self.unit_count as usize
    }

    /// The unit numbers in the order of computation.
    pub fn unit_ids(&self) -> impl Iterator<Item = UnitId> + '_ {
        self.units[..self.unit_count()]
            .iter()
            .map(|u| UnitId(u.id as u16))
    }
}
