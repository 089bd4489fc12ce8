//! Other pitches, or all partials moved by as many hertz.
//!
//! Frequencies are moved by a pair of all-pass chains that stay a quarter of a turn apart from 20 Hz to 0.48 of the rate (Niemitalo, "Hilbert
//! transform with all-pass pairs", 1999), turned round by a sine and a cosine.

use zolvik_patch::finish::{ShiftWhat, Shifter as Rows};

use crate::kind::Effect;
use crate::process::{BLOCK, Process, Setting, Stereo};
use crate::tools::flush_denormal;
use crate::tools::grains::Grains;
use crate::tools::ringing::rounds_s;
use crate::tools::wave::{Turns, sine};

const LONGEST_GRAIN_S: f64 = 0.2;
/// Coefficients of both chains, before they are squared.
const STRAIGHT: [f32; 4] = [0.692_387_8, 0.936_065_4, 0.988_229_5, 0.998_748_84];
const TURNED: [f32; 4] = [0.402_192_1, 0.856_171_1, 0.972_290_95, 0.995_288_5];

/// Stages of the form `y = c² (x + y'') - x''`.
#[derive(Debug, Clone, Copy, Default)]
struct Chain {
    x: [[f32; 2]; 4],
    y: [[f32; 2]; 4],
}

impl Chain {
    #[inline(always)]
    fn next(&mut self, coefficients: &[f32; 4], mut x: f32) -> f32 {
        for (i, c) in coefficients.iter().enumerate() {
            let y = c * c * (x + self.y[i][1]) - self.x[i][1];
            self.x[i] = [x, self.x[i][0]];
            self.y[i] = [flush_denormal(y), self.y[i][0]];
            x = y;
        }
        x
    }
}

pub(crate) struct Shifter {
    grains: [Grains; 2],
    chains: [[Chain; 2]; 2],
    late: [f32; 2],
    turns: Turns,
    last: [f32; 2],
}

impl Effect for Shifter {
    fn new(rate_hz: f64) -> Self {
        let grains = Grains::new(LONGEST_GRAIN_S, rate_hz);
        Shifter {
            grains: [grains.clone(), grains],
            chains: [[Chain::default(); 2]; 2],
            late: [0.0; 2],
            turns: Turns::default(),
            last: [0.0; 2],
        }
    }

    fn load(_set: &Setting<'_>) -> f64 {
        0.011
    }

    fn tail_s(set: &Setting<'_>, down_db: f64) -> f64 {
        let ratio = libm::exp2(set.end(Rows::SEMITONES) / 12.0 + set.end(Rows::CENTS) / 1200.0);
        let each_s = match set.chosen(Rows::WHAT) {
            ShiftWhat::Pitch => set.end(Rows::GRAIN_S) * ((1.0 - ratio).abs() + 1.0),
            ShiftWhat::Frequency => 0.0,
        };
        rounds_s(each_s.max(0.2), set.end(Rows::FEEDBACK), down_db)
    }
}

impl Process for Shifter {
    fn run(&mut self, block: &mut Stereo, set: &Setting<'_>) {
        let rate_hz = set.rate_hz as f32;
        let what: ShiftWhat = set.chosen(Rows::WHAT);
        let [semitones, cents, grain, hertz, feedback] = [
            Rows::SEMITONES,
            Rows::CENTS,
            Rows::GRAIN_S,
            Rows::HERTZ,
            Rows::FEEDBACK,
        ]
        .map(|id| set.value(id));
        let ratio = libm::exp2f(semitones.next / 12.0 + cents.next / 1200.0);
        let frames = grain.next * rate_hz;
        for frame in 0..BLOCK {
            let turns = self.turns.next(hertz.at(frame), rate_hz);
            let (s, c) = (sine(turns), sine(turns + 0.25));
            let back = feedback.at(frame);
            for channel in 0..2 {
                let x = block[channel][frame] + back * self.last[channel];
                let x = x.clamp(-32.0, 32.0);
                let y = match what {
                    ShiftWhat::Pitch => self.grains[channel].next(x, ratio, frames),
                    ShiftWhat::Frequency => {
                        let [straight, turned] = &mut self.chains[channel];
                        let a = straight.next(&STRAIGHT, x);
                        let b = turned.next(&TURNED, x);
                        let a = core::mem::replace(&mut self.late[channel], a);
                        a * c + b * s
                    }
                };
                self.last[channel] = flush_denormal(y);
                block[channel][frame] = y;
            }
        }
    }

    fn clear(&mut self) {
        self.grains.iter_mut().for_each(Grains::clear);
        self.chains = [[Chain::default(); 2]; 2];
        (self.late, self.last) = ([0.0; 2], [0.0; 2]);
    }
}
