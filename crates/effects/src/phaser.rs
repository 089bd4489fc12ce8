//! Notches that move: all-pass stages of one pole in a row; added to the sound as it came they make a notch for every two.

use zolvik_patch::finish::{Phaser as Rows, Sweep};

use crate::kind::Effect;
use crate::process::{BLOCK, Process, Setting, Stereo};
use crate::tools::flush_denormal;
use crate::tools::ringing::time_constants;
use crate::tools::wave::{Turns, sine};

const MOST: usize = 12;

pub(crate) struct Phaser {
    states: [[f32; MOST]; 2],
    last: [f32; 2],
    coefficients: [f32; 2],
    turns: Turns,
}

/// The coefficient of an all-pass stage that turns by a quarter at a frequency over the rate.
fn coefficient(turns: f32) -> f32 {
    let t = libm::tanf(core::f32::consts::PI * turns.clamp(1e-5, 0.46));
    (t - 1.0) / (t + 1.0)
}

impl Effect for Phaser {
    const SHORTEST_TAIL_S: f64 = 0.01;

    fn new(_rate_hz: f64) -> Self {
        Phaser {
            states: [[0.0; MOST]; 2],
            last: [0.0; 2],
            coefficients: [f32::NAN; 2],
            turns: Turns::default(),
        }
    }

    fn load(set: &Setting<'_>) -> f64 {
        0.004 + 0.000_55 * set.end(Rows::STAGES)
    }

    fn tail_s(set: &Setting<'_>, down_db: f64) -> f64 {
        let stages = set.end(Rows::STAGES).round();
        let octaves = match set.chosen(Rows::SWEEP) {
            Sweep::Stands => 0.0,
            Sweep::Moves => set.end(Rows::DEPTH_OCT),
        };
        let lowest = core::f64::consts::TAU * set.end(Rows::CENTRE_HZ) * libm::exp2(-octaves);
        // poles where all stages together give back what the feedback takes: `((w - s) / (w + s))^n = 1 / feedback`
        let each = libm::pow(set.end(Rows::FEEDBACK).abs().max(1e-6), -1.0 / stages);
        let slowest = lowest * (each - 1.0) / (each + 1.0);
        time_constants(down_db) / slowest + 1.5 * stages / lowest
    }
}

impl Process for Phaser {
    fn run(&mut self, block: &mut Stereo, set: &Setting<'_>) {
        let rate_hz = set.rate_hz as f32;
        let stands = set.chosen::<Sweep>(Rows::SWEEP) == Sweep::Stands;
        let stages = (set.value(Rows::STAGES).next.round() as usize).clamp(2, MOST);
        let [centre, rate, depth, feedback, width] = [
            Rows::CENTRE_HZ,
            Rows::RATE_HZ,
            Rows::DEPTH_OCT,
            Rows::FEEDBACK,
            Rows::WIDTH,
        ]
        .map(|id| set.value(id));
        for _ in 0..BLOCK {
            self.turns.next(rate.next, rate_hz);
        }
        for (channel, samples) in block.iter_mut().enumerate() {
            let swept = match stands {
                true => 0.0,
                false => depth.next * sine(self.turns.0 + 0.5 * width.next * channel as f32),
            };
            let goal = coefficient(centre.next * libm::exp2f(swept) / rate_hz);
            let from = match self.coefficients[channel].is_nan() {
                true => goal,
                false => self.coefficients[channel],
            };
            self.coefficients[channel] = goal;
            let step = (goal - from) / BLOCK as f32;
            let mut c = from;
            let states = &mut self.states[channel][..stages];
            for (frame, x) in samples.iter_mut().enumerate() {
                c += step;
                let mut y = *x + feedback.at(frame) * self.last[channel];
                for state in states.iter_mut() {
                    let out = c * y + *state;
                    *state = y - c * out;
                    y = out;
                }
                self.last[channel] = y;
                *x = y;
            }
            states.iter_mut().for_each(|s| *s = flush_denormal(*s));
            self.last[channel] = flush_denormal(self.last[channel]);
        }
    }

    fn clear(&mut self) {
        *self = Phaser::new(0.0);
    }
}
