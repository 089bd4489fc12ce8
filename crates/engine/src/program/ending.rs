//! How long a note sounds after its release.

use zolvik_patch::catalogue::param;
use zolvik_patch::choice::Options;
use zolvik_patch::document::{FilterType, MAX_UNITS, RouteKind, Slope, VoiceSettings};
use zolvik_patch::filter::{comb_feedback, dampings, formant_damping, formants, reference_hz};

use super::layout::{Program, UnitProgram, kind};
use super::movement::onset;
use super::params::{LINK, NO_SLOT};

/// Positions of the parameters read here, among those of their unit.
mod at {
    use zolvik_patch::catalogue::position;
    use zolvik_patch::document;

    pub(super) const CUTOFF_OCT: usize = position(document::Filter::CUTOFF_HZ);
    pub(super) const KEY_FOLLOW: usize = position(document::Filter::KEY_FOLLOW);
    pub(super) const SWEEP_OCT: usize = position(document::Filter::SWEEP_OCT);
    pub(super) const RESONANCE: usize = position(document::Filter::RESONANCE);
    pub(super) const DRIVE_DB: usize = position(document::Filter::DRIVE_DB);
    pub(super) const VOWEL: usize = position(document::Filter::VOWEL);
    pub(super) const LEVEL_MIX: usize = position(document::Level::MIX);
}

/// What has fallen so far below its peak has rung out, in decibels.
const RUNG_OUT_DB: f64 = 80.0;
/// See [`Program::quiet_s`].
const QUIET_S: f64 = 0.15;
/// The same and the fade at the end.
const FADED_S: f64 = QUIET_S + 0.01;

/// When after its release a note ends.
#[derive(Debug, Clone, Copy, Default)]
struct Life {
    /// When what feeds it has ended, in seconds.
    fed_s: f64,
    /// When what rings after it has ended too, in seconds.
    whole_s: f64,
}

impl Life {
    fn longer(self, other: Life) -> Life {
        Life {
            fed_s: self.fed_s.max(other.fed_s),
            whole_s: self.whole_s.max(other.whole_s),
        }
    }
}

impl UnitProgram {
    /// Whether it ends what goes through it: a level strip that takes hold of all of it.
    pub(crate) fn ends_sound(&self, program: &Program) -> bool {
        let mix = &program.params[self.first_param as usize + at::LEVEL_MIX];
        self.kind == kind::LEVEL && mix.value >= 1.0 && mix.slot == NO_SLOT
    }
}

impl Program {
    /// Longest time a note sounds after its release, in seconds, whatever its key and velocity.
    pub fn tail_s(&self) -> f64 {
        (0..128)
            .flat_map(|key| [1, 127].map(|velocity| self.tail_of_s(key, velocity)))
            .fold(0.0, f64::max)
    }

    /// Time a note sounds after its release, in seconds.
    pub fn tail_of_s(&self, key: u8, velocity: u8) -> f64 {
        let life = self.life_of(key, velocity);
        let voice_s = match self.ring_of_s(&life) {
            0.0 => life.fed_s,
            ring_s => life.fed_s + ring_s + FADED_S,
        };
        voice_s + f64::from(self.rack.tail_s)
    }

    /// Longest time a note rings after all that feeds it has ended, in seconds, what is faint at the end included; nothing where
    /// nothing rings.
    pub(crate) fn longest_ring_of_s(&self, key: u8, velocity: u8) -> f64 {
        match self.ring_of_s(&self.life_of(key, velocity)) {
            0.0 => 0.0,
            ring_s => ring_s + QUIET_S,
        }
    }

    fn ring_of_s(&self, life: &Life) -> f64 {
        (life.whole_s - life.fed_s).min(self.voice.longest_ring_s.into())
    }

    fn life_of(&self, key: u8, velocity: u8) -> Life {
        let mut lives = [Life::default(); MAX_UNITS];
        for (u, unit) in self.units[..self.unit_count()].iter().enumerate() {
            let env = &unit.envelope;
            let after = env.held as usize + 1..env.count as usize;
            let mut release_s: f64 = env.points[after].iter().map(|p| p.time_s).sum();
            if unit.own_envelope != 0 {
                release_s += self.lengthened_s(u);
            }
            let own_s = release_s * unit.times_scale(key, velocity);
            let own = Life {
                fed_s: own_s,
                whole_s: own_s,
            };
            let fed = self
                .audio_in(unit)
                .map(|from| lives[from])
                .fold(Life::default(), Life::longer);
            lives[u] = match unit.kind {
                kind::FILTER => Life {
                    whole_s: fed.whole_s + self.ring_of_filter_s(unit, key),
                    ..fed
                },
                kind::LEVEL if unit.ends_sound(self) => Life {
                    fed_s: fed.fed_s.min(own_s),
                    whole_s: fed.whole_s.min(own_s),
                },
                kind::LEVEL | kind::SHAPER => fed,
                _ => own,
            };
        }
        let outs = &self.outs[..self.out_count as usize];
        outs.iter()
            .map(|out| lives[out.from as usize])
            .fold(Life::default(), Life::longer)
    }

    /// How much longer links can make a unit's release, in seconds.
    fn lengthened_s(&self, u: usize) -> f64 {
        let held = self.units[u].envelope.held;
        let onsets = self.movement.onsets_of_unit(u);
        let longer = onsets.filter(|o| o.what == onset::TIME && o.point > held);
        longer
            .map(|o| self.farthest(o.link) * f64::from(o.scale))
            .sum()
    }

    /// How far a link can move its value at the most, either way.
    fn farthest(&self, link: u32) -> f64 {
        let Some(link) = self.movement.links().get(link as usize) else {
            return 0.0;
        };
        let own = f64::from(self.params[link.amount as usize].value.abs());
        // links do not go round in loops, so this comes to an end
        own + self.moves_far(link.amount, (link.first_move, link.moves))
    }

    fn moves_far(&self, to: u32, (first, count): (u32, u32)) -> f64 {
        let range = first as usize..(first + count) as usize;
        let moves = self.moves.get(range).unwrap_or(&[]).iter();
        let links = moves.filter(|m| m.to == to && m.source >= LINK);
        links.map(|m| self.farthest(m.source - LINK)).sum()
    }

    /// Lowest and highest value links can take a unit's parameter to.
    fn reached(&self, unit: &UnitProgram, at: usize) -> [f64; 2] {
        let to = unit.first_param + at as u32;
        let param = &self.params[to as usize];
        let shared = (self.movement.first_shared, self.movement.shared);
        let far = self.moves_far(to, (unit.first_move, unit.moves)) + self.moves_far(to, shared);
        match far {
            0.0 => [f64::from(param.value); 2],
            far => [-far, far].map(|by| f64::from(param.moved(param.value, by as f32))),
        }
    }

    /// The units whose sound goes into one, those heard late left out.
    pub(crate) fn audio_in(&self, unit: &UnitProgram) -> impl Iterator<Item = usize> {
        let range = unit.first_route as usize..(unit.first_route + unit.routes) as usize;
        self.routes[range]
            .iter()
            .filter(|r| r.kind == RouteKind::Audio as u32 && r.late == 0)
            .map(|r| r.from as usize)
    }

    /// Whether a note may end by itself, its key still held.
    pub(crate) fn ends_by_itself(&self) -> bool {
        let units = &self.units[..self.unit_count()];
        units.iter().any(|u| u.ends_sound(self))
    }

    /// Whether anything rings on after what feeds it.
    pub(crate) fn rings(&self) -> bool {
        let units = &self.units[..self.unit_count()];
        units.iter().any(|u| u.kind == kind::FILTER)
    }

    /// How long a filter rings until it has fallen by 80 dB, at its lowest cutoff, in seconds.
    fn ring_of_filter_s(&self, unit: &UnitProgram, key: u8) -> f64 {
        let reached = |at: usize| self.reached(unit, at);
        let octaves = libm::log2(self.keys_hz[usize::from(key)].max(1.0) / reference_hz());
        let sweep_oct = reached(at::SWEEP_OCT)[0].min(0.0);
        let [a, b] = reached(at::KEY_FOLLOW).map(|follow| follow * octaves);
        let cutoff_oct = reached(at::CUTOFF_OCT)[0] + a.min(b) + sweep_oct;
        let cutoff_hz = libm::exp2(cutoff_oct.clamp(-3.0, 15.0));
        let resonance = reached(at::RESONANCE)[1];
        let filter_type = FilterType::at(unit.variant);
        // driven, it is held down by as much as it then has to fall first
        let driven_db = reached(at::DRIVE_DB)[1].max(0.0);
        let falls = (RUNG_OUT_DB + driven_db) / 20.0 * core::f64::consts::LN_10;
        let two_poles = |hz: f64, damping: f64| {
            // the slower of both where they do not ring
            let rate = match damping {
                k if k < 2.0 => 0.5 * k,
                k => 0.5 * k - (0.25 * k * k - 1.0).sqrt(),
            };
            falls / (core::f64::consts::TAU * hz * rate.max(1e-6))
        };
        let ring_s = match filter_type {
            FilterType::CombPlus | FilterType::CombMinus => {
                let period_s = match filter_type {
                    FilterType::CombMinus => 0.5 / cutoff_hz,
                    _ => 1.0 / cutoff_hz,
                };
                let round = -libm::log(comb_feedback(resonance).max(1e-9));
                period_s * (1.0 + falls / round.max(1e-9))
            }
            FilterType::Vowel => {
                let vowels = reached(at::VOWEL).map(|vowel| formants(vowel)[0]);
                let lowest = match vowels[0] == vowels[1] {
                    true => vowels[0],
                    // the lowest there is lies at one of the five
                    false => (0..5)
                        .map(|n| formants(0.25 * f64::from(n))[0])
                        .fold(vowels[0], f64::min),
                };
                two_poles(cutoff_hz * lowest, formant_damping(resonance))
            }
            _ => {
                let [first, second] = dampings(filter_type, Slope::at(unit.steep), resonance);
                let both = match unit.steep {
                    0 => two_poles(cutoff_hz, first),
                    _ => two_poles(cutoff_hz, first) + two_poles(cutoff_hz, second),
                };
                1.1 * both
            }
        };
        ring_s.min(param(VoiceSettings::LONGEST_RING_S).max)
    }

    /// How long what rings must be faint until it has rung out: longer than a comb takes for a round.
    pub(crate) fn quiet_s(&self) -> f64 {
        QUIET_S
    }
}
