//! Makes room for the beat.

use zolvik_patch::finish::{DuckBy, Ducker as Rows};

use crate::kind::Effect;
use crate::process::{BLOCK, Process, Setting, Stereo};
use crate::tools::drawn::level;
use crate::tools::follow::Slope;
use crate::tools::{gain, one_pole_coefficient};

/// A shape follows within so many seconds, so that a corner does not click.
const SMOOTH_S: f64 = 0.002;

pub(crate) struct Ducker {
    /// How far it has stepped back, 0 to 1.
    down: Slope,
    gain_db: f32,
}

impl Effect for Ducker {
    fn new(_rate_hz: f64) -> Self {
        Ducker {
            down: Slope::default(),
            gain_db: 0.0,
        }
    }

    fn load(_set: &Setting<'_>) -> f64 {
        0.004
    }

    fn tail_s(_set: &Setting<'_>, _down_db: f64) -> f64 {
        0.0
    }

    fn lift_db(set: &Setting<'_>) -> f64 {
        set.end(Rows::DEPTH_DB)
    }
}

impl Process for Ducker {
    fn run(&mut self, block: &mut Stereo, set: &Setting<'_>) {
        let by_shape = set.chosen::<DuckBy>(Rows::BY) == DuckBy::Shape;
        let depth = set.value(Rows::DEPTH_DB);
        let of = |seconds: f32| one_pole_coefficient(seconds.into(), set.rate_hz);
        let shares = match by_shape {
            true => (
                one_pole_coefficient(SMOOTH_S, set.rate_hz),
                one_pole_coefficient(SMOOTH_S, set.rate_hz),
            ),
            false => (
                of(set.value(Rows::ATTACK_S).next),
                of(set.value(Rows::RELEASE_S).next),
            ),
        };
        let cycle = f64::from(set.value(Rows::CYCLE_BEATS).next).max(1e-3);
        let step = set.tempo_bpm / 60.0 / set.rate_hz;
        for frame in 0..BLOCK {
            let goal = if by_shape {
                let turns = (set.beats + step * frame as f64) / cycle;
                1.0 - level(set.points, (turns - turns.floor()) as f32)
            } else {
                // a kick holds it down while it is there
                if set.kick[frame] > 0.1 { 1.0 } else { 0.0 }
            };
            self.gain_db = -depth.at(frame) * self.down.toward(goal, shares);
            let factor = gain(self.gain_db);
            block[0][frame] *= factor;
            block[1][frame] *= factor;
        }
        self.down.settle();
    }

    fn clear(&mut self) {
        *self = Ducker::new(0.0);
    }

    fn gain_db(&self) -> Option<f32> {
        Some(self.gain_db)
    }
}
