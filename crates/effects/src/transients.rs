//! Attack and sustain: a fast and a slow follower differ where sounds begin, two with fast and slow fall where they last.

use zolvik_patch::finish::Transients as Rows;

use crate::kind::Effect;
use crate::process::{BLOCK, Process, Setting, Stereo};
use crate::tools::follow::Slope;
use crate::tools::{decibels, gain, one_pole_coefficient};

/// Over how many decibels of difference it takes full hold.
const FULL_DB: f32 = 12.0;

pub(crate) struct Transients {
    fast: Slope,
    slow: Slope,
    short: Slope,
    long: Slope,
    gain_db: Slope,
}

impl Effect for Transients {
    fn new(_rate_hz: f64) -> Self {
        Transients {
            fast: Slope::default(),
            slow: Slope::default(),
            short: Slope::default(),
            long: Slope::default(),
            gain_db: Slope::default(),
        }
    }

    fn load(_set: &Setting<'_>) -> f64 {
        0.007
    }

    fn tail_s(_set: &Setting<'_>, _down_db: f64) -> f64 {
        0.0
    }

    fn lift_db(set: &Setting<'_>) -> f64 {
        [Rows::ATTACK_DB, Rows::SUSTAIN_DB]
            .map(|id| set.end(id).abs())
            .iter()
            .sum()
    }
}

impl Process for Transients {
    fn run(&mut self, block: &mut Stereo, set: &Setting<'_>) {
        let of = |seconds: f64| one_pole_coefficient(seconds, set.rate_hz);
        let (quick, held) = (of(0.001), of(0.06));
        let (slow_up, long_down) = (of(0.03), of(0.6));
        let smooth = of(0.0015);
        let [attack, sustain] = [Rows::ATTACK_DB, Rows::SUSTAIN_DB].map(|id| set.value(id));
        for frame in 0..BLOCK {
            let x = block[0][frame].abs().max(block[1][frame].abs()) + 1e-6;
            let fast = self.fast.toward(x, (quick, held));
            let slow = self.slow.toward(x, (slow_up, held));
            let short = self.short.toward(x, (quick, held));
            let long = self.long.toward(x, (quick, long_down));
            let begins = (decibels(fast / slow.max(1e-6)) / FULL_DB).clamp(0.0, 1.0);
            let lasts = (decibels(long / short.max(1e-6)) / FULL_DB).clamp(0.0, 1.0);
            let goal = attack.at(frame) * begins + sustain.at(frame) * lasts;
            let factor = gain(self.gain_db.toward(goal, (smooth, smooth)));
            block[0][frame] *= factor;
            block[1][frame] *= factor;
        }
    }

    fn clear(&mut self) {
        *self = Transients::new(0.0);
    }

    fn gain_db(&self) -> Option<f32> {
        Some(self.gain_db.state)
    }
}
