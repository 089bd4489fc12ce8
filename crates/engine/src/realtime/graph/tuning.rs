//! Frequencies while notes sound: what links move, with every block, and what the hand tunes anew.

use wide::f32x8;
use zolvik_patch::document::TunedBy;

use crate::program::kind;
use crate::program::params::PITCH;
use crate::realtime::graph::Graph;
use crate::realtime::nodes::Node;
use crate::realtime::power::exp2;
use crate::realtime::sine::Lanes;
use crate::realtime::tables::bank_cache::BankCache;
use crate::realtime::voices::lanes::Lane;
use crate::sizes::LANES;

impl Graph {
    /// Brings the lanes of an operator to frequencies that are moved, each by itself.
    pub(super) fn tune_moved(&mut self, set: usize, u: usize, bank_cache: &BankCache) {
        let unit = &self.program.units[u];
        if unit.kind == kind::SAMPLE {
            return self.tune_recording(set, u, bank_cache);
        }
        let first = unit.first_param as usize;
        let lanes = |at: usize| self.in_lanes(set, first + at);
        let [ratio, semitones, fixed_hz, cents, offset_hz] = PITCH;
        let octave = f32x8::splat(1.0 / 1200.0);
        let all = self.cents_of_all(set, unit.is_carrier != 0);
        let strip = &self.strips[set][u];
        let key_hz = strip.key_hz_lanes;
        let fine = (lanes(cents) + all) * octave;
        let nominal_hz = match TunedBy::ALL[unit.tuned_by as usize % TunedBy::ALL.len()] {
            TunedBy::Ratio => key_hz * lanes(ratio) * exp2(fine),
            TunedBy::Semitones => key_hz * exp2(fine + lanes(semitones) * f32x8::splat(1.0 / 12.0)),
            TunedBy::Fixed => lanes(fixed_hz) * exp2(fine),
        };
        let offset_hz = lanes(offset_hz);
        let offset_hz = match offset_hz == f32x8::ZERO {
            true => f32x8::ZERO,
            false => offset_hz * exp2(all * octave),
        };
        let hz = (nominal_hz + offset_hz) * strip.drift_lanes;
        let bank = bank_cache.get(self.banks[u]);
        let is_plain = bank.is_none() && !self.is_shaped(u);
        if is_plain && let Node::Operator(oscillator) = &mut self.nodes[set][u] {
            return oscillator.glide(hz, self.rate_hz);
        }
        let hz = hz.to_array();
        for (lane, hz) in hz.into_iter().enumerate() {
            let pitch = self.pitch(hz.into(), self.strips[set][u].key_hz[lane]);
            self.nodes[set][u].tune(lane, &pitch, bank, None);
        }
    }

    /// The same of a recording, which only what tunes all units moves.
    fn tune_recording(&mut self, set: usize, u: usize, bank_cache: &BankCache) {
        let carrier = self.program.units[u].is_carrier != 0;
        let first = self.program.movement.first_voice as usize;
        let still = |i: usize| self.values.at(first + i).next;
        // what stands still is in its tuning already
        let still = still(0) + still(if carrier { 1 } else { 2 });
        let moved = self.cents_of_all(set, carrier) - f32x8::splat(still);
        let times = exp2(moved * f32x8::splat(1.0 / 1200.0)).to_array();
        let (tuning, strip) = (&self.tunings[u], &self.strips[set][u]);
        let (multiple, offset_hz) = (tuning.multiple, tuning.offset_hz);
        let (key_hz, drift) = (strip.key_hz, strip.drift);
        let recording = bank_cache.recording(self.banks[u]);
        for lane in 0..LANES {
            let own = (key_hz[lane] * multiple + offset_hz) * drift[lane];
            let pitch = self.pitch(own * f64::from(times[lane]), key_hz[lane]);
            self.nodes[set][u].tune(lane, &pitch, None, recording);
        }
    }

    /// Cents in each lane that tune all units.
    fn cents_of_all(&self, set: usize, carrier: bool) -> Lanes {
        let first = self.program.movement.first_voice as usize;
        let of = |i: usize| self.in_lanes(set, first + i);
        of(0) + of(if carrier { 1 } else { 2 })
    }

    /// Where a parameter goes to in the lanes of a set, each its own or all the same.
    #[inline(always)]
    fn in_lanes(&self, set: usize, at: usize) -> Lanes {
        match self.values.lanes(set, self.program.params[at].slot) {
            Some(ramp) => ramp.next,
            None => f32x8::splat(self.values.at(at).next),
        }
    }

    /// Glides a unit that was tuned anew to where it is tuned now.
    pub(super) fn advance_tuning(&mut self, u: usize, lanes: &[Lane], bank_cache: &BankCache) {
        let (unit, tuning) = (&self.program.units[u], &mut self.tunings[u]);
        if tuning.multiple == unit.multiple && tuning.offset_hz == unit.offset_hz {
            return;
        }
        let glide = |now: f64, goal: f64| {
            let next = now + (goal - now) * f64::from(self.follow.tuning);
            if (next - goal).abs() < 1e-7 * (1.0 + goal.abs()) {
                goal
            } else {
                next
            }
        };
        tuning.multiple = glide(tuning.multiple, unit.multiple);
        tuning.offset_hz = glide(tuning.offset_hz, unit.offset_hz);
        self.retune(u, lanes, bank_cache);
    }
}
