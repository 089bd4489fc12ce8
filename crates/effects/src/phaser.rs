//! Notches that move: all-pass stages of one pole in a row; added to the sound as it came they make a notch for every two.

use zolvik_patch::choice::Options;
use zolvik_patch::finish::{Phaser as Rows, Sweep};

use crate::process::{BLOCK, Process, Setting, Stereo};
use crate::tools::calm;
use crate::tools::wave::{Turns, sine};

const MOST: usize = 12;

pub(crate) struct Phaser {
    states: [[f32; MOST]; 2],
    last: [f32; 2],
    coefficients: [f32; 2],
    turns: Turns,
}

impl Phaser {
    pub(crate) fn new() -> Self {
        Phaser {
            states: [[0.0; MOST]; 2],
            last: [0.0; 2],
            coefficients: [f32::NAN; 2],
            turns: Turns::default(),
        }
    }
}

/// The coefficient of an all-pass stage that turns by a quarter at a frequency over the rate.
fn coefficient(turns: f32) -> f32 {
    let t = libm::tanf(core::f32::consts::PI * turns.clamp(1e-5, 0.46));
    (t - 1.0) / (t + 1.0)
}

impl Process for Phaser {
    fn run(&mut self, block: &mut Stereo, set: &Setting<'_>) {
        let rate_hz = set.rate_hz as f32;
        let stands = Sweep::at(set.choices[0].into()) == Sweep::Stands;
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
            states.iter_mut().for_each(|s| *s = calm(*s));
            self.last[channel] = calm(self.last[channel]);
        }
    }

    fn clear(&mut self) {
        *self = Phaser::new();
    }
}
