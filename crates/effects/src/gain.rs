//! Louder, softer, turned round.

use zolvik_patch::finish::{Gain as Rows, Polarity};

use crate::kind::Effect;
use crate::process::{Process, Setting, Stereo};
use crate::tools::gain;

/// Has nothing to remember.
pub(crate) struct Gain;

impl Effect for Gain {
    fn new(_rate_hz: f64) -> Self {
        Gain
    }

    fn load(_set: &Setting<'_>) -> f64 {
        0.003_5
    }

    fn tail_s(_set: &Setting<'_>, _down_db: f64) -> f64 {
        0.0
    }
}

impl Process for Gain {
    fn run(&mut self, block: &mut Stereo, set: &Setting<'_>) {
        let turned = set.chosen::<Polarity>(Rows::POLARITY) == Polarity::Turned;
        let sign = if turned { -1.0 } else { 1.0 };
        let factor = set.value(Rows::GAIN_DB).map(|db| {
            // the lowest level is silence
            if db <= -60.0 { 0.0 } else { sign * gain(db) }
        });
        for channel in block {
            for (frame, x) in channel.iter_mut().enumerate() {
                *x *= factor.at(frame);
            }
        }
    }

    fn clear(&mut self) {}
}
