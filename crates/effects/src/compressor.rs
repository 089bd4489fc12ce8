//! Holds what is loud down.
//!
//! The level is the peak of some milliseconds, or the power of ten; the curve and its knee follow Giannoulis, Massberg and Reiss, "Digital
//! Dynamic Range Compressor Design", 2012; the gain follows in decibels, so that its times are those that are set.

use zolvik_patch::finish::{Compressor as Rows, Detector, SideChain};

use crate::kind::{Effect, LOUDEST_DB};
use crate::process::{Process, Setting, Stereo};
use crate::tools::biquad::{Biquad, Filter};
use crate::tools::follow::{Peak, Slope, gain_reduction_db, power_db};
use crate::tools::line::Line;
use crate::tools::{decibels, flush_denormal, gain, one_pole_coefficient};

/// Longest moment whose peak counts, in seconds.
const MOMENT_S: f64 = 0.005;
/// Time over which power is averaged.
const POWER_S: f64 = 0.01;
/// Longest look-ahead.
const AHEAD_S: f64 = 0.01;

pub(crate) struct Compressor {
    side: [Filter; 1],
    peak: Peak,
    power: f32,
    gain_db: Slope,
    lines: [Line; 2],
}

fn ahead_frames(set: &Setting<'_>) -> usize {
    let ahead_s = f64::from(set.value(Rows::AHEAD_S).next).clamp(0.0, AHEAD_S);
    libm::round(ahead_s * set.rate_hz) as usize
}

impl Effect for Compressor {
    const LATEST_S: f64 = 0.02;
    const SHORTEST_TAIL_S: f64 = 0.05;

    fn new(rate_hz: f64) -> Self {
        let line = Line::new((AHEAD_S * rate_hz) as usize + 2);
        Compressor {
            side: [Filter::QUIET],
            peak: Peak::default(),
            power: 0.0,
            gain_db: Slope::default(),
            lines: [line.clone(), line],
        }
    }

    fn latency_frames(set: &Setting<'_>) -> usize {
        ahead_frames(set)
    }

    fn load(_set: &Setting<'_>) -> f64 {
        0.007
    }

    fn tail_s(_set: &Setting<'_>, _down_db: f64) -> f64 {
        0.0
    }

    fn lift_db(set: &Setting<'_>) -> f64 {
        let above_db = (LOUDEST_DB - set.end(Rows::THRESHOLD_DB)).max(0.0);
        above_db * (1.0 - 1.0 / set.end(Rows::RATIO).max(1.0))
    }
}

impl Process for Compressor {
    fn run(&mut self, block: &mut Stereo, set: &Setting<'_>) {
        let by_beat = set.chosen::<SideChain>(Rows::SIDE) == SideChain::Beat;
        let by_power = set.chosen::<Detector>(Rows::DETECTOR) == Detector::Power;
        let mut heard = *block;
        let above_hz = f64::from(set.value(Rows::SIDE_HZ).next);
        self.side[0].set_target(match above_hz > 20.5 {
            true => Biquad::high_pass(above_hz / set.rate_hz, core::f64::consts::FRAC_1_SQRT_2),
            false => Biquad::PLAIN,
        });
        if !self.side[0].is_plain() {
            self.side[0].both(&mut heard);
        }
        let release_s = f64::from(set.value(Rows::RELEASE_S).next);
        let moment = (MOMENT_S.min(0.03 * release_s) * set.rate_hz) as u32;
        let down = one_pole_coefficient(set.value(Rows::ATTACK_S).next.into(), set.rate_hz);
        let back = one_pole_coefficient(release_s, set.rate_hz);
        let of_power = one_pole_coefficient(POWER_S, set.rate_hz);
        let [threshold, ratio, knee, makeup] = [
            Rows::THRESHOLD_DB,
            Rows::RATIO,
            Rows::KNEE_DB,
            Rows::MAKEUP_DB,
        ]
        .map(|id| set.value(id));
        let ahead = ahead_frames(set);
        let [left, right] = block;
        for (frame, (l, r)) in left.iter_mut().zip(right.iter_mut()).enumerate() {
            let (a, b) = (heard[0][frame], heard[1][frame]);
            let level_db = if by_beat {
                decibels(set.kick[frame])
            } else if by_power {
                self.power += (0.5 * (a * a + b * b) - self.power) * of_power;
                power_db(self.power)
            } else {
                decibels(self.peak.next(a.abs().max(b.abs()), moment))
            };
            let goal = gain_reduction_db(
                level_db,
                threshold.at(frame),
                ratio.at(frame).max(1.0),
                knee.at(frame),
            );
            let gain_db = self.gain_db.toward(goal, (back, down));
            let factor = gain(gain_db + makeup.at(frame));
            self.lines[0].push(*l);
            self.lines[1].push(*r);
            *l = self.lines[0].back(ahead) * factor;
            *r = self.lines[1].back(ahead) * factor;
        }
        self.power = flush_denormal(self.power);
        self.gain_db.settle();
    }

    fn clear(&mut self) {
        self.side[0].clear();
        self.peak = Peak::default();
        self.power = 0.0;
        self.gain_db = Slope::default();
        self.lines.iter_mut().for_each(Line::clear);
    }

    fn gain_db(&self) -> Option<f32> {
        Some(self.gain_db.state)
    }
}
