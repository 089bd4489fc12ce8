//! A program: flat, of a fixed size, without pointers.

use bytemuck::{Pod, Zeroable};
use zolvik_patch::catalogue::unit_params;
use zolvik_patch::document::{EffectId, FilterType, KindName, MAX_UNITS, UnitId};
use zolvik_patch::playing::Arpeggio;
use zolvik_patch::timing::times_scale;

use super::envelope::{EnvelopeProgram, envelope_ok};
use super::movement::MovementProgram;
use super::params::{
    LINK, MAX_MOVES, MAX_PARAMS, MAX_SLOTS, MAX_UNIT_ROUTES, MoveProgram, NO_SLOT, ParamProgram,
};
use super::rack;

/// Set in [`UnitProgram::mixed`] where a route moves the frequency.
pub(crate) const MOVES_FREQUENCY: u32 = 2;

/// Most copies of a note.
pub const MAX_COPIES: u32 = 16;

/// A compiled patch. Units stand in the order they are computed.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub struct Program {
    /// Frequency of each key in hertz, 0 for keys that stay silent.
    pub(crate) keys_hz: [f64; 128],
    /// At how many times the rate each key is to be computed, where that is left to the keys; else 0.
    pub(crate) key_oversampling: [u8; 128],
    pub(crate) tempo_bpm: f64,
    pub(crate) units: [UnitProgram; MAX_UNITS],
    pub(crate) routes: [RouteProgram; MAX_UNIT_ROUTES],
    pub(crate) outs: [OutProgram; MAX_UNITS],
    pub(crate) params: [ParamProgram; MAX_PARAMS],
    pub(crate) moves: [MoveProgram; MAX_MOVES],
    pub(crate) movement: MovementProgram,
    pub(crate) rack: rack::RackProgram,
    pub(crate) arpeggio: ArpeggioProgram,
    pub(crate) unit_count: u32,
    pub(crate) route_count: u32,
    pub(crate) out_count: u32,
    pub(crate) param_count: u32,
    pub(crate) move_count: u32,
    pub(crate) slot_count: u32,
    pub(crate) shared_count: u32,
    /// The ways out that are taken, one bit each.
    pub(crate) buses: u32,
    /// Position of the trim among the parameters.
    pub(crate) trim: u32,
    /// Times the sample rate it is computed at: 1, 2, 4 or 8.
    pub(crate) oversampling: u32,
    pub(crate) voice: VoiceProgram,
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
    /// 1 where some unit sounds otherwise than the voice says.
    pub(crate) own_copies: u32,
    pub(crate) longest_ring_s: f32,
    pub(crate) detune_cents: f32,
    pub(crate) spread: f32,
    pub(crate) blend: f32,
    pub(crate) drift_cents: f32,
    pub(crate) bend_semitones: f32,
    pub(crate) seed: u32,
}

/// What becomes of keys that are held, one after the other.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub struct ArpeggioProgram {
    /// From one note to the next, in beats.
    pub rate_beats: f64,
    /// How long a note is held, as a share of that.
    pub gate: f64,
    /// Where every second note falls between its neighbours, 0.5 to 0.75.
    pub swing: f64,
    /// A `playing::Order` as number; 0 is off.
    pub order: u32,
    /// A `playing::Accent` as number.
    pub accent: u32,
    /// 1 where it goes on after the keys are let go.
    pub holds: u32,
    /// 1 to 4.
    pub octaves: u32,
    /// What chance follows.
    pub seed: u32,
    pub reserved: u32,
}

impl ArpeggioProgram {
    pub(super) fn of(arpeggio: &Arpeggio) -> Self {
        ArpeggioProgram {
            rate_beats: arpeggio.rate_beats,
            gate: arpeggio.gate,
            swing: arpeggio.swing,
            order: arpeggio.order as u32,
            accent: arpeggio.accent as u32,
            holds: arpeggio.hold.into(),
            octaves: arpeggio.octaves.into(),
            seed: arpeggio.seed.into(),
            reserved: 0,
        }
    }

    /// Whether its numbers can be worked with.
    fn is_sound(&self) -> bool {
        (1.0 / 64.0..=64.0).contains(&self.rate_beats)
            && (0.0..=2.0).contains(&self.gate)
            && (0.5..=0.75).contains(&self.swing)
            && self.octaves <= 8
            || self.order == 0
    }
}

/// What a unit is, as number: a [`KindName`].
pub(crate) mod kind {
    use zolvik_patch::document::KindName;

    pub(crate) const OPERATOR: u32 = KindName::Operator as u32;
    pub(crate) const NOISE: u32 = KindName::Noise as u32;
    pub(crate) const SAMPLE: u32 = KindName::Sample as u32;
    pub(crate) const FILTER: u32 = KindName::Filter as u32;
    pub(crate) const SHAPER: u32 = KindName::Shaper as u32;
    pub(crate) const LEVEL: u32 = KindName::Level as u32;
}

/// How many parameters a unit of a kind has.
fn params_of(kind: u32) -> usize {
    let kind = KindName::ALL.get(kind as usize);
    kind.map_or(0, |kind| unit_params(*kind).count())
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
    /// What it is, see [`kind`].
    pub(crate) kind: u32,
    /// Of a filter a [`FilterType`], of a shaper a [`ShaperCurve`], of an operator a [`Start`], as number.
    pub(crate) variant: u32,
    /// 1 for 24 dB an octave.
    pub(crate) steep: u32,
    /// Where in its cycle a note begins, in turns of 2^32.
    pub(crate) start: u32,
    /// How often it sounds in a note.
    pub(crate) copies: u32,
    /// 1 where it works on left and right by itself.
    pub(crate) stereo: u32,
    /// What its copies have of the voice's detune, spread and drift.
    pub(crate) detune_share: f32,
    pub(crate) spread_share: f32,
    pub(crate) drift_share: f32,
    /// 1 where two saws make a pulse.
    pub(crate) is_pulse: u32,
    /// The unit's number in the patch.
    pub(crate) id: u32,
    /// Its routes in: a range of [`Program::routes`].
    pub(crate) first_route: u32,
    pub(crate) routes: u32,
    /// Units computed together from here on; more than one, or a loop on itself, go sample by sample.
    pub(crate) component_size: u32,
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
    /// Its parameters: a range of [`Program::params`].
    pub(crate) first_param: u32,
    pub(crate) params: u32,
    /// What moves them: a range of [`Program::moves`].
    pub(crate) first_move: u32,
    pub(crate) moves: u32,
    /// A [`TunedBy`] as number, for operators whose pitch is moved.
    pub(crate) tuned_by: u32,
    /// 1 where some parameter the pitch is made from has a slot.
    pub(crate) pitch_moved: u32,
    /// 1 where it is heard itself.
    pub(crate) is_carrier: u32,
    /// 1 where each note has an envelope of its own.
    pub(crate) own_envelope: u32,
    pub(crate) reserved: u32,
}

/// A route into a unit.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct RouteProgram {
    /// Position of the source.
    pub(crate) from: u32,
    /// 1 where it closes a loop: the source is heard a little later.
    pub(crate) late: u32,
    /// A [`RouteKind`] as number.
    pub(crate) kind: u32,
    /// Its depth, a parameter: in turns for the phase, as a multiple of the frequency, a share, or a factor.
    pub(crate) depth: u32,
    /// Its place between left and right, a parameter; of sounds alone.
    pub(crate) pan: u32,
}

/// A route to the output.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct OutProgram {
    pub(crate) from: u32,
    /// A [`Bus`] as number.
    pub(crate) bus: u32,
    /// Its level, a parameter; its pan is the next one.
    pub(crate) level: u32,
    /// Factors of both channels while neither is moved.
    pub(crate) left: f32,
    pub(crate) right: f32,
}

impl UnitProgram {
    pub(crate) fn is_comb(&self) -> bool {
        let comb = [FilterType::CombPlus as u32, FilterType::CombMinus as u32];
        self.kind == kind::FILTER && comb.contains(&self.variant)
    }

    /// Delay lines it needs.
    pub(crate) fn lines(&self) -> usize {
        usize::from(self.is_comb()) * (1 + self.stereo as usize)
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
            || self.param_count as usize > MAX_PARAMS
            || self.move_count as usize > MAX_MOVES
            || self.slot_count as usize > MAX_SLOTS
            || self.shared_count as usize > MAX_MOVES
            || ![1, 2, 4, 8].contains(&self.oversampling)
            || self
                .key_oversampling
                .iter()
                .any(|times| ![0, 1, 2, 4, 8].contains(times))
            || !(1..=MAX_COPIES).contains(&self.voice.copies)
            || !self.arpeggio.is_sound()
        {
            return false;
        }
        let params = u64::from(self.param_count);
        let span = |first: u32, count: u32| u64::from(first) + u64::from(count);
        let param_ok = |p: &ParamProgram| {
            (p.slot == NO_SLOT || p.slot < self.slot_count)
                && (p.shared == NO_SLOT || p.shared < self.shared_count)
        };
        let move_ok = |m: &MoveProgram| {
            u64::from(m.to) < params
                && u64::from(m.depth) < params
                && (m.unit == NO_SLOT || (m.unit as usize) < units)
                && (m.source < LINK || m.source - LINK < self.movement.link_count)
        };
        let unit_ok = |(at, u): (usize, &UnitProgram)| {
            envelope_ok(&u.envelope)
                && u.envelope.count > 0
                && span(u.first_route, u.routes) <= u64::from(self.route_count)
                && span(u.first_param, u.params) <= params
                && u.params as usize >= params_of(u.kind)
                && span(u.first_move, u.moves) <= u64::from(self.move_count)
                && (u.component_size as usize) <= units - at
        };
        u64::from(self.trim) < params
            && self
                .movement
                .is_sound(units, self.param_count, self.move_count)
            && self.rack.is_sound(self.param_count)
            && self.params().iter().all(param_ok)
            && self.moves[..self.move_count as usize].iter().all(move_ok)
            && self.units[..units].iter().enumerate().all(unit_ok)
            && self.routes[..self.route_count as usize].iter().all(|r| {
                (r.from as usize) < units
                    && u64::from(r.depth) < params
                    && u64::from(r.pan) < params
            })
            && self.outs[..self.out_count as usize]
                .iter()
                .all(|o| (o.from as usize) < units && span(o.level, 2) <= params && o.bus < 3)
    }

    /// Whether two programs differ only in values, so that a sounding note can glide from one to the other.
    pub(crate) fn same_shape(&self, other: &Program) -> bool {
        let counts = |p: &Program| (p.unit_count, p.route_count, p.out_count, p.oversampling);
        // effects are the rack's: what is put into a chain or taken out does not change what the voices do
        fn slots(program: &Program) -> impl Iterator<Item = (u32, u32)> + '_ {
            let own = (program.rack.first_param as usize).min(program.params().len());
            program.params()[..own].iter().map(|p| (p.slot, p.shared))
        }
        counts(self) == counts(other)
            && self.follows_keys() == other.follows_keys()
            && self.keys_hz == other.keys_hz
            && self.units.iter().zip(&other.units).all(|(a, b)| {
                (a.id, a.first_route, a.routes, a.component_size, a.feedback)
                    == (b.id, b.first_route, b.routes, b.component_size, b.feedback)
                    && (a.wave_key, a.is_pulse) == (b.wave_key, b.is_pulse)
                    && (a.kind, a.variant, a.steep) == (b.kind, b.variant, b.steep)
                    && (a.copies, a.stereo) == (b.copies, b.stereo)
            })
            && self
                .routes
                .iter()
                .zip(&other.routes)
                .all(|(a, b)| (a.from, a.late, a.kind) == (b.from, b.late, b.kind))
            && self
                .outs
                .iter()
                .zip(&other.outs)
                .all(|(a, b)| (a.from, a.bus) == (b.from, b.bus))
            && self.moves == other.moves
            && self.movement.same_shape(&other.movement)
            && slots(self).eq(slots(other))
    }

    /// Its parameters.
    pub(crate) fn params(&self) -> &[ParamProgram] {
        &self.params[..(self.param_count as usize).min(MAX_PARAMS)]
    }

    /// How many times the rate it is computed at: 1, 2, 4 or 8.
    pub fn oversampling(&self) -> usize {
        self.oversampling as usize
    }

    /// Whether that follows the keys.
    pub(crate) fn follows_keys(&self) -> bool {
        self.key_oversampling[0] != 0
    }

    /// The most times the rate it can come to.
    pub fn most_oversampling(&self) -> usize {
        let keys = self.key_oversampling.iter().max();
        keys.map_or(0, |most| usize::from(*most))
            .max(self.oversampling())
    }

    /// How many times a rate in hertz a key asks for: what is left of it where the rate itself is higher than usual.
    pub(crate) fn oversampling_for(&self, key: u8, rate_hz: f64) -> usize {
        let asked = match self.follows_keys() {
            true => usize::from(self.key_oversampling[usize::from(key & 127)]),
            false => return self.oversampling(),
        };
        match rate_hz {
            hz if hz < 88_000.0 => asked,
            hz if hz < 176_000.0 => asked.div_ceil(2),
            _ => asked.div_ceil(4),
        }
    }

    /// Computes it at no more than so many times the rate: 1, 2, 4 or 8; others are passed over.
    pub fn cap_oversampling(&mut self, times: usize) {
        if [1, 2, 4, 8].contains(&times) {
            self.oversampling = self.oversampling.min(times as u32);
            for key in &mut self.key_oversampling {
                *key = (*key).min(times as u8);
            }
        }
    }

    /// Delay lines its combs need, see `Engine::reserve`.
    pub fn lines(&self) -> usize {
        let units = &self.units[..self.unit_count()];
        units.iter().map(UnitProgram::lines).sum()
    }

    /// Number of sources and of links.
    pub fn movement_counts(&self) -> (usize, usize) {
        (self.movement.sources().len(), self.movement.links().len())
    }

    /// Takes all effects and chains out: what leaves is what the voices sound like.
    pub fn without_effects(&mut self) {
        let rack = &mut self.rack;
        rack.effect_count = 0;
        for chain in &mut rack.chains {
            (chain.first, chain.count) = (0, 0);
        }
        (rack.plain, rack.tail_s) = (1, 0.0);
    }

    /// The effects, in the order of the chains.
    pub fn effect_ids(&self) -> impl Iterator<Item = EffectId> + '_ {
        self.rack.effects().iter().map(|e| EffectId(e.id as u16))
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
