//! How coarse a picture must be to keep up with the hand.

use zolvik_patch::Patch;
use zolvik_patch::document::Quality;
use zolvik_patch::finish::{EffectKind, Fineness};

/// How a note is rendered to be looked at.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Plan {
    /// Sample rate in hertz.
    pub rate_hz: f64,
    /// Whether as many times the rate as the patch asks for, not at the rate itself.
    pub fine: bool,
    /// Most copies of a note.
    pub copies: u8,
}

/// Ways to render, the exact one first, each quicker than the one before.
pub const PLANS: [Plan; 4] = [
    plan(48_000.0, true, 16),
    plan(48_000.0, false, 4),
    plan(24_000.0, false, 2),
    plan(16_000.0, false, 1),
];
/// How many times as long each takes as the next, until that is measured.
const TIMES: [f64; 3] = [3.0, 2.2, 1.6];
/// The one that is tried first on a patch.
const FIRST: usize = 2;
/// A picture is to be whole after this, in milliseconds.
const AIM_MS: f64 = 80.0;

const fn plan(rate_hz: f64, fine: bool, copies: u8) -> Plan {
    Plan {
        rate_hz,
        fine,
        copies,
    }
}

impl Plan {
    /// The patch as it is rendered by this plan.
    pub fn of(&self, patch: &Patch) -> Patch {
        let mut patch = patch.clone();
        if self.fine {
            return patch;
        }
        patch.voice.quality = Quality::X1;
        patch.voice.unison.copies = patch.voice.unison.copies.min(self.copies);
        for unit in &mut patch.units {
            unit.copies = unit.copies.min(self.copies);
        }
        for effect in patch.finish.effects_mut() {
            if let EffectKind::Drive(drive) = &mut effect.kind {
                drive.fineness = Fineness::X1;
            }
        }
        patch
    }
}

/// How long a second of sound takes by each plan, as it was measured, in milliseconds.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Pace {
    ms_a_second: [Option<f64>; PLANS.len()],
    /// The same for the exact plan, where the voices were kept.
    with_a_take: Option<f64>,
}

impl Pace {
    /// The finest plan by which so many seconds are rendered in time.
    pub fn choose(&self, length_s: f64) -> usize {
        let fits = |plan: &usize| self.guess(*plan).is_some_and(|ms| ms * length_s <= AIM_MS);
        match self.ms_a_second.iter().any(Option::is_some) {
            true => (0..PLANS.len()).find(fits).unwrap_or(PLANS.len() - 1),
            false => FIRST,
        }
    }

    /// Measured, or from what is nearest to it.
    fn guess(&self, plan: usize) -> Option<f64> {
        let times = |from: usize, to: usize| TIMES[from..to].iter().product::<f64>();
        let coarser = (plan..PLANS.len()).find_map(|p| Some(self.ms_a_second[p]? * times(plan, p)));
        let finer = || {
            (0..plan)
                .rev()
                .find_map(|p| Some(self.ms_a_second[p]? / times(p, plan)))
        };
        coarser.or_else(finer)
    }

    /// Whether so many seconds are rendered in time by the exact plan, where the voices were kept; until it is measured they are.
    pub fn is_in_time_with_a_take(&self, length_s: f64) -> bool {
        self.with_a_take.is_none_or(|ms| ms * length_s <= AIM_MS)
    }

    /// So much sound took so long.
    pub fn learn(&mut self, plan: usize, seconds: f64, ms: f64) {
        if let Some(known) = self.ms_a_second.get_mut(plan) {
            learn(known, seconds, ms);
        }
    }

    /// So much sound over kept voices took so long.
    pub fn learn_with_a_take(&mut self, seconds: f64, ms: f64) {
        learn(&mut self.with_a_take, seconds, ms);
    }
}

fn learn(known: &mut Option<f64>, seconds: f64, ms: f64) {
    if seconds > 0.05 {
        let now = ms / seconds;
        *known = Some(known.map_or(now, |before| 0.4 * before + 0.6 * now));
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_plan_follows_the_measured_speed() {
        let mut pace = Pace::default();
        assert_eq!(pace.choose(3.0), FIRST);
        pace.learn(FIRST, 1.0, 4.0);
        // 4 ms a second: even the exact one takes about 26
        assert_eq!(pace.choose(3.0), 0);
        for _ in 0..8 {
            pace.learn(0, 1.0, 120.0);
        }
        assert_eq!(pace.choose(3.0), 1, "the exact one was found too slow");
        for plan in 1..PLANS.len() {
            for _ in 0..8 {
                pace.learn(plan, 1.0, 80.0);
            }
        }
        assert_eq!(pace.choose(3.0), PLANS.len() - 1);
        // voices that were kept are another matter
        assert!(pace.is_in_time_with_a_take(3.0));
        pace.learn_with_a_take(1.0, 60.0);
        assert!(!pace.is_in_time_with_a_take(3.0) && pace.is_in_time_with_a_take(1.0));
        // what is too short to measure teaches nothing
        pace.learn(3, 0.01, 1e6);
        assert_eq!(pace.choose(1.0), 1);
    }
}
