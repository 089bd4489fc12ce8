//! Tuned strings or plates that ring along: combs that lose as much as their decay asks for (after Karplus and Strong, "Digital Synthesis of
//! Plucked-String and Drum Timbres", 1983), or single modes.

use zolvik_patch::finish::{Resonators as Rows, Ringing, TunedTo};

use crate::kind::Effect;
use crate::process::{BLOCK, Process, Setting, Stereo};
use crate::tools::flush_denormal;
use crate::tools::line::Line;

const MOST: usize = 16;
const LOWEST_HZ: f64 = 16.0;
/// Highest a mode rings, as a share of the rate.
const HIGHEST: f64 = 0.42;

#[derive(Debug, Clone, Copy, Default)]
struct Mode {
    /// `y = 2 r cos y' - r² y'' + x`.
    turn: f64,
    fall: f64,
    level: f32,
    y: [f64; 2],
    /// Of a string: its period in frames, what it keeps each time round, and what highs it loses.
    period: f32,
    kept: f32,
    pole: f32,
    damped: f32,
}

pub(crate) struct Resonators {
    modes: [Mode; MOST],
    lines: Vec<Line>,
    known: [f32; 6],
}

/// How far the n-th lies above the lowest, as a factor: harmonics in the middle, closer below, as bars have them above.
pub(crate) fn ratio(n: usize, spread: f64) -> f64 {
    let n = n as f64;
    // a power of the number: 0 is unison, 1 the harmonics, 2 as bars
    libm::pow(n + 1.0, 2.0 * spread)
}

impl Effect for Resonators {
    fn new(rate_hz: f64) -> Self {
        Resonators {
            modes: [Mode::default(); MOST],
            lines: vec![Line::new((rate_hz / LOWEST_HZ) as usize + 8); MOST],
            known: [f32::NAN; 6],
        }
    }

    fn load(set: &Setting<'_>) -> f64 {
        0.003 + 0.001_05 * set.end(Rows::COUNT)
    }

    fn tail_s(set: &Setting<'_>, down_db: f64) -> f64 {
        set.end(Rows::DECAY_S) * down_db / 60.0 + 0.1
    }
}

impl Process for Resonators {
    fn run(&mut self, block: &mut Stereo, set: &Setting<'_>) {
        let strings = set.chosen::<Ringing>(Rows::RINGING) == Ringing::Strings;
        let [count, spread, decay, bright] =
            [Rows::COUNT, Rows::SPREAD, Rows::DECAY_S, Rows::BRIGHT].map(|id| set.value(id).next);
        let lowest_hz = match set.chosen(Rows::TUNED_TO) {
            TunedTo::Key => {
                let up = libm::exp2f(set.value(Rows::SEMITONES).next / 12.0);
                set.key_hz * up
            }
            TunedTo::Fixed => set.value(Rows::PITCH_HZ).next,
        };
        let count = (count.round() as usize).clamp(1, MOST);
        let asked = [
            count as f32,
            spread,
            decay,
            bright,
            lowest_hz,
            f32::from(u8::from(strings)),
        ];
        if self.known != asked {
            self.known = asked;
            for (n, mode) in self.modes[..count].iter_mut().enumerate() {
                let hz = f64::from(lowest_hz) * ratio(n, spread.into());
                mode.tune(
                    hz.max(LOWEST_HZ),
                    decay.into(),
                    bright.into(),
                    n,
                    set.rate_hz,
                );
            }
        }
        let scale = 1.0 / (count as f32).sqrt();
        for frame in 0..BLOCK {
            let x = 0.5 * (block[0][frame] + block[1][frame]);
            let (mut left, mut right) = (0.0, 0.0);
            for (n, mode) in self.modes[..count].iter_mut().enumerate() {
                let y = match strings {
                    true => mode.string(x, &mut self.lines[n]),
                    false => mode.plate(x),
                };
                let place = if n == 0 {
                    0.5
                } else if n % 2 == 0 {
                    0.2
                } else {
                    0.8
                };
                left += y * (1.0 - place);
                right += y * place;
            }
            block[0][frame] = left * scale;
            block[1][frame] = right * scale;
        }
    }

    fn clear(&mut self) {
        self.lines.iter_mut().for_each(Line::clear);
        for mode in &mut self.modes {
            (mode.y, mode.damped) = ([0.0; 2], 0.0);
        }
    }
}

impl Mode {
    fn tune(&mut self, hz: f64, decay_s: f64, bright: f64, n: usize, rate_hz: f64) {
        let turns = hz / rate_hz;
        // higher ones ring shorter the darker it is
        let own_s = decay_s * libm::pow((n + 1) as f64, -1.5 * (1.0 - bright));
        let radius = libm::pow(10.0, -3.0 / (own_s.max(1e-3) * rate_hz));
        let w = core::f64::consts::TAU * turns;
        let heard = turns < HIGHEST;
        self.turn = 2.0 * radius * libm::cos(w);
        self.fall = radius * radius;
        // at its pitch about as loud as what comes
        self.level = match heard {
            true => (libm::sin(w) * (1.0 - radius) * 24.0).min(1.0) as f32,
            false => 0.0,
        };
        // one pole is late by p / (1 - p) frames at low frequencies
        let pole = 0.75 * libm::pow(1.0 - bright, 1.5);
        let late = pole / (1.0 - pole);
        let period = rate_hz / hz;
        self.period = (period - late).max(2.0) as f32;
        self.pole = if period > late + 2.0 {
            pole as f32
        } else {
            0.0
        };
        self.kept = match heard {
            true => libm::pow(10.0, -3.0 * period / (rate_hz * decay_s)).min(0.9999) as f32,
            false => 0.0,
        };
    }

    #[inline(always)]
    fn plate(&mut self, x: f32) -> f32 {
        let y = f64::from(x) + self.turn * self.y[0] - self.fall * self.y[1];
        let y = if y.abs() < 1e-30 { 0.0 } else { y };
        self.y = [y, self.y[0]];
        (y as f32) * self.level
    }

    #[inline(always)]
    fn string(&mut self, x: f32, line: &mut Line) -> f32 {
        let back = line.between(self.period - 1.0);
        self.damped += (back - self.damped) * (1.0 - self.pole);
        let sum = flush_denormal(x * (1.0 - self.kept) * 4.0 + self.kept * self.damped);
        line.push(sum);
        sum
    }
}
