//! Where it stands: middle and sides, the sides by bands. Where widths are not 100 % both go through the phases of the crossovers.

use zolvik_patch::finish::Stereo as Rows;

use crate::kind::Effect;
use crate::process::{BLOCK, Process, SILENT, Setting, Stereo as Block};
use crate::tools::biquad::{Biquad, Filter, butterworth};
use crate::tools::crossover::{Crossover, Turned};
use crate::tools::ringing::stages_s;

/// Below this, mono means nothing: all stays as it is.
const OFF_HZ: f32 = 20.5;
/// Difference from 100 % from which on the crossovers are heard alone.
const APART: f32 = 0.05;

pub(crate) struct Stereo {
    low: Crossover,
    high: Crossover,
    turned: [Turned; 3],
    mono: [Filter; 2],
}

impl Stereo {
    /// The sides by bands, each by its width, and the middle with the same phases.
    fn widened(&mut self, side: &[f32; BLOCK], block: &Block, set: &Setting<'_>) -> Block {
        let turns = |id| f64::from(set.value(id).next) / set.rate_hz;
        self.low.set_target(turns(Rows::LOW_HZ));
        self.high.set_target(turns(Rows::HIGH_HZ));
        for (turned, id) in self
            .turned
            .iter_mut()
            .zip([Rows::LOW_HZ, Rows::HIGH_HZ, Rows::HIGH_HZ])
        {
            turned.set_target(turns(id));
        }
        let mut middle = SILENT;
        for (frame, to) in middle[0].iter_mut().enumerate() {
            *to = 0.5 * (block[0][frame] + block[1][frame]);
        }
        self.turned[0].run(&mut middle);
        self.turned[1].run(&mut middle);
        let mut top = [*side, SILENT[0]];
        let mut bottom = self.low.split(&mut top);
        let between = self.high.split(&mut top);
        self.turned[2].run(&mut bottom);
        let widths = [Rows::LOW_WIDTH, Rows::MID_WIDTH, Rows::HIGH_WIDTH].map(|id| set.value(id));
        for frame in 0..BLOCK {
            let [l, m, h] = widths.map(|w| w.at(frame));
            let wide = bottom[0][frame] * l + between[0][frame] * m + top[0][frame] * h;
            middle[1][frame] = middle[0][frame] - wide;
            middle[0][frame] += wide;
        }
        middle
    }
}

/// What keeps the sides out of the lows; none where all stays as it is.
fn mono_stages(set: &Setting<'_>) -> Option<[Biquad; 2]> {
    let hz = set.end(Rows::MONO_HZ);
    let stage = |n| Biquad::high_pass(hz / set.rate_hz, butterworth(4, n));
    (hz > f64::from(OFF_HZ)).then(|| [stage(0), stage(1)])
}

impl Effect for Stereo {
    const SHORTEST_TAIL_S: f64 = 0.1;

    fn new(_rate_hz: f64) -> Self {
        Stereo {
            low: Crossover::QUIET,
            high: Crossover::QUIET,
            turned: [Turned::QUIET; 3],
            mono: [Filter::QUIET; 2],
        }
    }

    fn load(_set: &Setting<'_>) -> f64 {
        0.009_5
    }

    fn tail_s(set: &Setting<'_>, down_db: f64) -> f64 {
        let at = |id| Crossover::ring_s(set.end(id), set.rate_hz, down_db);
        let mono = mono_stages(set).map_or(0.0, |stages| stages_s(stages, set.rate_hz, down_db));
        at(Rows::LOW_HZ) + 2.0 * at(Rows::HIGH_HZ) + mono
    }
}

impl Process for Stereo {
    fn run(&mut self, block: &mut Block, set: &Setting<'_>) {
        let side: [f32; BLOCK] = std::array::from_fn(|n| 0.5 * (block[0][n] - block[1][n]));
        let wide = self.widened(&side, block, set);
        let apart = |frame: usize| {
            let ids = [Rows::LOW_WIDTH, Rows::MID_WIDTH, Rows::HIGH_WIDTH];
            let most = ids.map(|id| (set.value(id).at(frame) - 1.0).abs());
            (most.iter().fold(0.0f32, |a, b| a.max(*b)) / APART).min(1.0)
        };
        if apart(0) > 0.0 || apart(BLOCK) > 0.0 {
            for channel in 0..2 {
                for frame in 0..BLOCK {
                    let x = &mut block[channel][frame];
                    *x += (wide[channel][frame] - *x) * apart(frame);
                }
            }
        }
        let mono = mono_stages(set).unwrap_or([Biquad::PLAIN; 2]);
        for (filter, to) in self.mono.iter_mut().zip(mono) {
            filter.set_target(to);
        }
        if self.mono.iter().any(|f| !f.is_plain()) {
            let mut side: [f32; BLOCK] = std::array::from_fn(|n| 0.5 * (block[0][n] - block[1][n]));
            for filter in &mut self.mono {
                filter.run(0, &mut side);
            }
            for frame in 0..BLOCK {
                let middle = 0.5 * (block[0][frame] + block[1][frame]);
                block[0][frame] = middle + side[frame];
                block[1][frame] = middle - side[frame];
            }
        }
        let (pan, balance) = (set.value(Rows::PAN), set.value(Rows::BALANCE));
        for frame in 0..BLOCK {
            let (mut l, mut r) = (block[0][frame], block[1][frame]);
            let balance = balance.at(frame);
            l *= 1.0 - balance.max(0.0);
            r *= 1.0 + balance.min(0.0);
            // what leaves one side goes over to the other
            let pan = pan.at(frame);
            let (over_r, over_l) = (pan.max(0.0), -pan.min(0.0));
            let moved = (
                l * (1.0 - over_r) + r * over_l,
                r * (1.0 - over_l) + l * over_r,
            );
            (block[0][frame], block[1][frame]) = moved;
        }
    }

    fn clear(&mut self) {
        *self = Stereo::new(0.0);
    }
}
