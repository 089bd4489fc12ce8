//! Three compressors side by side, that press what is loud and lift what is quiet.

use zolvik_patch::finish::ThreeBand as Rows;

use crate::filter::add;
use crate::kind::{Effect, LOUDEST_DB};
use crate::process::{BLOCK, Process, Setting, Stereo};
use crate::tools::crossover::{Crossover, Turned};
use crate::tools::follow::{Slope, power_db};
use crate::tools::{flush_denormal, gain, one_pole_coefficient};

/// Above the first levels are pressed, below the second they are lifted, down to the third, where nothing is left but noise.
const PRESSED_DB: f32 = -24.0;
const LIFTED_DB: f32 = -32.0;
const LOST_DB: f32 = -72.0;
/// How far at the most of the way back to these.
const STRENGTH: f32 = 0.85;
/// Most it lifts.
const MOST_DB: f32 = 24.0;
const DOWN_S: f64 = 0.01;
const BACK_S: f64 = 0.1;

#[derive(Debug, Clone, Copy, Default)]
struct Band {
    power: f32,
    gain_db: Slope,
}

pub(crate) struct ThreeBand {
    low: Crossover,
    high: Crossover,
    turned: Turned,
    dry: [Turned; 2],
    phased: Stereo,
    bands: [Band; 3],
}

/// Where a level is to go, as a change of it.
fn goal_db(level_db: f32, amount: f32, up: f32, down: f32) -> f32 {
    if level_db > PRESSED_DB {
        (PRESSED_DB - level_db) * STRENGTH * amount * down
    } else if level_db < LIFTED_DB {
        // what is all but silent is let be
        let there = ((level_db - LOST_DB) / 24.0).clamp(0.0, 1.0);
        ((LIFTED_DB - level_db) * STRENGTH * amount * up * there).min(MOST_DB)
    } else {
        0.0
    }
}

impl Effect for ThreeBand {
    const SHORTEST_TAIL_S: f64 = 0.1;

    fn new(_rate_hz: f64) -> Self {
        ThreeBand {
            low: Crossover::QUIET,
            high: Crossover::QUIET,
            turned: Turned::QUIET,
            dry: [Turned::QUIET; 2],
            phased: crate::process::SILENT,
            bands: [Band::default(); 3],
        }
    }

    fn load(_set: &Setting<'_>) -> f64 {
        0.017
    }

    fn tail_s(set: &Setting<'_>, down_db: f64) -> f64 {
        // what rings below and above is lifted as it fades
        let down_db = down_db + Self::lift_db(set);
        let at = |id| Crossover::ring_s(set.end(id), set.rate_hz, down_db);
        at(Rows::LOW_HZ) + 2.0 * at(Rows::HIGH_HZ)
    }

    fn lift_db(set: &Setting<'_>) -> f64 {
        let pressed_db = f64::from(STRENGTH) * (LOUDEST_DB - f64::from(PRESSED_DB));
        set.end(Rows::AMOUNT) * (pressed_db + f64::from(MOST_DB))
    }
}

impl Process for ThreeBand {
    fn run(&mut self, block: &mut Stereo, set: &Setting<'_>) {
        let low = f64::from(set.value(Rows::LOW_HZ).next) / set.rate_hz;
        let high = f64::from(set.value(Rows::HIGH_HZ).next) / set.rate_hz;
        self.low.set_target(low);
        self.high.set_target(high);
        self.turned.set_target(high);
        self.dry[0].set_target(low);
        self.dry[1].set_target(high);
        self.phased = *block;
        self.dry[0].run(&mut self.phased);
        self.dry[1].run(&mut self.phased);
        let mut top = *block;
        let mut bottom = self.low.split(&mut top);
        let middle = self.high.split(&mut top);
        // the lows wait as the other two do at the upper crossover
        self.turned.run(&mut bottom);
        let mut bands = [bottom, middle, top];
        let time = f64::from(set.value(Rows::TIME).next);
        let down_share = one_pole_coefficient(DOWN_S * time, set.rate_hz);
        let back_share = one_pole_coefficient(BACK_S * time, set.rate_hz);
        let amount = set.value(Rows::AMOUNT);
        let rows = [
            [Rows::LOW_DB, Rows::LOW_UP, Rows::LOW_DOWN],
            [Rows::MID_DB, Rows::MID_UP, Rows::MID_DOWN],
            [Rows::HIGH_DB, Rows::HIGH_UP, Rows::HIGH_DOWN],
        ];
        for ((band, state), rows) in bands.iter_mut().zip(&mut self.bands).zip(rows) {
            let [level, up, down] = rows.map(|id| set.value(id));
            for frame in 0..BLOCK {
                let (l, r) = (band[0][frame], band[1][frame]);
                let power = 0.5 * (l * l + r * r);
                state.power += (power - state.power) * down_share;
                let goal = goal_db(
                    power_db(state.power),
                    amount.at(frame),
                    up.at(frame),
                    down.at(frame),
                );
                let gain_db = state.gain_db.toward(goal, (back_share, down_share));
                let factor = gain(gain_db + level.at(frame));
                band[0][frame] = l * factor;
                band[1][frame] = r * factor;
            }
            state.power = flush_denormal(state.power);
            state.gain_db.settle();
        }
        let [bottom, middle, top] = bands;
        *block = bottom;
        add(block, &middle);
        add(block, &top);
    }

    fn clear(&mut self) {
        *self = ThreeBand::new(0.0);
    }

    fn gain_db(&self) -> Option<f32> {
        let most = |a: f32, b: &Band| {
            if b.gain_db.state.abs() > a.abs() {
                b.gain_db.state
            } else {
                a
            }
        };
        Some(self.bands.iter().fold(0.0, most))
    }

    fn phased(&self) -> Option<&Stereo> {
        Some(&self.phased)
    }
}
