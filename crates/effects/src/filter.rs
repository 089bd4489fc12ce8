//! All kinds of filters of strips, over a whole chain.

use zolvik_patch::document::{FilterType, Slope};
use zolvik_patch::filter::{
    FORMANT_GAINS, PEAK_GAIN, band_gain, comb_feedback, dampings, formant_damping, formants,
    reference_hz,
};
use zolvik_patch::finish::FilterEffect as Rows;

use crate::kind::Effect;
use crate::process::{BLOCK, Process, SILENT, Setting, Stereo, Value};
use crate::tools::biquad::{Biquad, Filter as Stage};
use crate::tools::line::Line;
use crate::tools::ringing::{rounds_s, stages_s};
use crate::tools::{gain, wave::sine};

/// Lowest pitch of a comb.
const LOWEST_HZ: f64 = 10.0;

pub(crate) struct Filter {
    stages: [Stage; 3],
    lines: [Line; 2],
}

impl Filter {
    fn comb(&mut self, block: &mut Stereo, hz: f64, set: &Setting<'_>, negative: bool) {
        let back = comb_feedback(set.value(Rows::RESONANCE).next.into()) as f32;
        let sign = if negative { -1.0 } else { 1.0 };
        let period = period_frames(hz, set.rate_hz, negative);
        let even = 1.0 - back;
        for (channel, samples) in block.iter_mut().enumerate() {
            for x in samples {
                let line = &mut self.lines[channel];
                let y = line.between((period - 1.0).max(1.0) as f32);
                let sum = *x * even + sign * back * y;
                line.push(sum);
                *x = sum;
            }
        }
    }
}

/// The cutoff for the newest key.
fn cutoff_hz(set: &Setting<'_>) -> f64 {
    let follow = f64::from(set.value(Rows::KEY_FOLLOW).next);
    let octaves = libm::log2(f64::from(set.key_hz).max(1.0) / reference_hz());
    f64::from(set.value(Rows::CUTOFF_HZ).next) * libm::exp2(octaves * follow)
}

/// Frames of a round of a comb; turned over, a line half as long rings at the odd multiples.
fn period_frames(hz: f64, rate_hz: f64, negative: bool) -> f64 {
    rate_hz / hz.max(LOWEST_HZ) * if negative { 0.5 } else { 1.0 }
}

/// The bands of a vowel, side by side.
fn formant_stages(turns: f64, vowel: f64, resonance: f64) -> [Biquad; 3] {
    let damping = formant_damping(resonance);
    let times = formants(vowel);
    std::array::from_fn(|stage| {
        let one = Biquad::band_pass((turns * times[stage]).min(0.46), 1.0 / damping);
        one.times(FORMANT_GAINS[stage])
    })
}

/// One stage, or two one behind the other.
fn stages(
    response: FilterType,
    slope: Slope,
    turns: f64,
    resonance: f64,
) -> impl Iterator<Item = Biquad> {
    let turns = turns.clamp(1e-5, 0.46);
    let count = 1 + usize::from(slope == Slope::Db24);
    dampings(response, slope, resonance)
        .into_iter()
        .take(count)
        .map(move |damping| {
            // a filter that sings by itself would never end here
            let damping = damping.max(0.01);
            let q = 1.0 / damping;
            match response {
                FilterType::Low => Biquad::low_pass(turns, q),
                FilterType::High => Biquad::high_pass(turns, q),
                FilterType::Notch => Biquad::notch(turns, q),
                FilterType::Peak => Biquad::resonance(turns, damping, PEAK_GAIN * damping),
                _ => Biquad::band_pass(turns, q).times(band_gain(resonance) / damping),
            }
        })
}

/// Presses a sound into a round curve without making it louder.
fn press(block: &mut Stereo, drive_db: Value) {
    if drive_db.now <= 0.0 && drive_db.next <= 0.0 {
        return;
    }
    let times = drive_db.map(gain);
    for channel in block {
        for (frame, x) in channel.iter_mut().enumerate() {
            let times = times.at(frame);
            // as loud as it was where it is a quarter of the full height
            let kept = 0.25 / crate::drive::soft(0.25 * times);
            *x = crate::drive::soft(*x * times) * kept;
        }
    }
}

impl Effect for Filter {
    fn new(rate_hz: f64) -> Self {
        let line = Line::new((rate_hz / LOWEST_HZ) as usize + 8);
        Filter {
            stages: [Stage::QUIET; 3],
            lines: [line.clone(), line],
        }
    }

    fn load(_set: &Setting<'_>) -> f64 {
        0.0055
    }

    fn tail_s(set: &Setting<'_>, down_db: f64) -> f64 {
        let hz = cutoff_hz(set);
        let (slope, resonance) = (set.chosen(Rows::SLOPE), set.end(Rows::RESONANCE));
        // what fades in the drive before it is raised by it
        let down_db = down_db + Self::lift_db(set);
        let ring_s = match set.chosen(Rows::RESPONSE) {
            response @ (FilterType::CombPlus | FilterType::CombMinus) => {
                let kept = comb_feedback(resonance);
                let round = period_frames(hz, set.rate_hz, response == FilterType::CombMinus);
                rounds_s(round / set.rate_hz, kept, down_db)
            }
            FilterType::Vowel => {
                let all = formant_stages(hz / set.rate_hz, set.end(Rows::VOWEL), resonance);
                all.map(|stage| stages_s([stage], set.rate_hz, down_db))
                    .into_iter()
                    .fold(0.0, f64::max)
            }
            response => stages_s(
                stages(response, slope, hz / set.rate_hz, resonance),
                set.rate_hz,
                down_db,
            ),
        };
        // files made before are as long
        ring_s.max(0.05 + 2.0 * resonance)
    }

    fn lift_db(set: &Setting<'_>) -> f64 {
        set.end(Rows::DRIVE_DB)
    }
}

impl Process for Filter {
    fn run(&mut self, block: &mut Stereo, set: &Setting<'_>) {
        let response: FilterType = set.chosen(Rows::RESPONSE);
        let slope: Slope = set.chosen(Rows::SLOPE);
        let resonance = f64::from(set.value(Rows::RESONANCE).next);
        let hz = cutoff_hz(set);
        let turns = (hz / set.rate_hz).clamp(1e-5, 0.46);
        press(block, set.value(Rows::DRIVE_DB));
        match response {
            kind if kind.is_comb() => {
                self.comb(block, hz, set, kind == FilterType::CombMinus);
            }
            FilterType::Vowel => {
                let mut sum = SILENT;
                let all = formant_stages(turns, set.end(Rows::VOWEL), resonance);
                for (stage, to) in self.stages.iter_mut().zip(all) {
                    let mut band = *block;
                    stage.set_target(to);
                    stage.both(&mut band);
                    add(&mut sum, &band);
                }
                *block = sum;
            }
            response => {
                for (stage, to) in self
                    .stages
                    .iter_mut()
                    .zip(stages(response, slope, turns, resonance))
                {
                    stage.set_target(to);
                    stage.both(block);
                }
            }
        }
    }

    fn clear(&mut self) {
        self.stages.iter_mut().for_each(Stage::clear);
        self.lines.iter_mut().for_each(Line::clear);
    }
}

/// Adds a block to another.
pub(crate) fn add(to: &mut Stereo, from: &Stereo) {
    for channel in 0..2 {
        for frame in 0..BLOCK {
            to[channel][frame] += from[channel][frame];
        }
    }
}

/// A slow wave from 0 to 1.
pub(crate) fn swing(turns: f32) -> f32 {
    0.5 - 0.5 * sine(turns + 0.25)
}
