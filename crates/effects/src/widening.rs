//! Wider, above a frequency.

use zolvik_patch::finish::{WidenBy, Widening as Rows};

use crate::filter::add;
use crate::kind::Effect;
use crate::process::{BLOCK, Process, SILENT, Setting, Stereo};
use crate::tools::crossover::{Crossover, Turned};
use crate::tools::grains::Grains;
use crate::tools::line::Line;

const GRAIN_S: f64 = 0.1;

pub(crate) struct Widening {
    split: Crossover,
    dry: Turned,
    phased: Stereo,
    line: Line,
    grains: [Grains; 2],
}

impl Effect for Widening {
    const SHORTEST_TAIL_S: f64 = 0.15;

    fn new(rate_hz: f64) -> Self {
        let grains = Grains::new(GRAIN_S, rate_hz);
        Widening {
            split: Crossover::QUIET,
            dry: Turned::QUIET,
            phased: SILENT,
            line: Line::new((0.041 * rate_hz) as usize + 8),
            grains: [grains.clone(), grains],
        }
    }

    fn load(_set: &Setting<'_>) -> f64 {
        0.008_5
    }

    fn tail_s(set: &Setting<'_>, down_db: f64) -> f64 {
        let own_s = match set.chosen(Rows::BY) {
            WidenBy::Delay => set.end(Rows::TIME_S),
            WidenBy::Copies => GRAIN_S,
        };
        // what is split, and its other half, which is turned once more
        own_s + 1.5 * Crossover::ring_s(set.end(Rows::ABOVE_HZ), set.rate_hz, down_db)
    }
}

impl Process for Widening {
    fn run(&mut self, block: &mut Stereo, set: &Setting<'_>) {
        let turns = f64::from(set.value(Rows::ABOVE_HZ).next) / set.rate_hz;
        self.split.set_target(turns);
        self.dry.set_target(turns);
        self.phased = *block;
        self.dry.run(&mut self.phased);
        let low = self.split.split(block);
        let by: WidenBy = set.chosen(Rows::BY);
        let (time, cents) = (set.value(Rows::TIME_S), set.value(Rows::DETUNE_CENTS));
        let frames = (GRAIN_S * set.rate_hz) as f32;
        let up = libm::exp2f(cents.next / 1200.0);
        let rate_hz = set.rate_hz as f32;
        for frame in 0..BLOCK {
            match by {
                WidenBy::Delay => {
                    self.line.push(block[1][frame]);
                    block[1][frame] = self.line.between(time.at(frame) * rate_hz);
                }
                WidenBy::Copies => {
                    let (l, r) = (block[0][frame], block[1][frame]);
                    block[0][frame] = self.grains[0].next(l, up, frames);
                    block[1][frame] = self.grains[1].next(r, 1.0 / up, frames);
                }
            }
        }
        add(block, &low);
    }

    fn clear(&mut self) {
        self.split.clear();
        self.dry.clear();
        self.line.clear();
        self.grains.iter_mut().for_each(Grains::clear);
    }

    fn phased(&self) -> Option<&Stereo> {
        Some(&self.phased)
    }
}
