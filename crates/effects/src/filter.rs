//! All kinds of filters of strips, over a whole chain.

use zolvik_patch::choice::Options;
use zolvik_patch::document::{FilterType, Slope};
use zolvik_patch::filter::{
    FORMANT_GAINS, PEAK_GAIN, band_gain, comb_feedback, dampings, formant_damping, formants,
    reference_hz,
};
use zolvik_patch::finish::FilterEffect as Rows;

use crate::process::{BLOCK, Process, SILENT, Setting, Stereo, Value};
use crate::tools::biquad::{Biquad, Filter as Stage};
use crate::tools::line::Line;
use crate::tools::{calm, gain, wave::sine};

/// Lowest pitch of a comb.
const LOWEST_HZ: f64 = 10.0;

pub(crate) struct Filter {
    stages: [Stage; 3],
    lines: [Line; 2],
    damped: [f32; 2],
}

impl Filter {
    pub(crate) fn new(rate_hz: f64) -> Self {
        let line = Line::new((rate_hz / LOWEST_HZ) as usize + 8);
        Filter {
            stages: [Stage::QUIET; 3],
            lines: [line.clone(), line],
            damped: [0.0; 2],
        }
    }

    fn comb(&mut self, block: &mut Stereo, hz: f64, set: &Setting<'_>, negative: bool) {
        let back = comb_feedback(set.value(Rows::RESONANCE).next.into()) as f32;
        let sign = if negative { -1.0 } else { 1.0 };
        // turned over, a line half as long rings at the odd multiples
        let period = set.rate_hz / hz.max(LOWEST_HZ) * if negative { 0.5 } else { 1.0 };
        let even = 1.0 - back;
        for (channel, samples) in block.iter_mut().enumerate() {
            for x in samples {
                let line = &mut self.lines[channel];
                let y = line.between((period - 1.0).max(1.0) as f32);
                self.damped[channel] = calm(y);
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

impl Process for Filter {
    fn run(&mut self, block: &mut Stereo, set: &Setting<'_>) {
        let response = FilterType::at(set.choices[0].into());
        let slope = Slope::at(set.choices[1].into());
        let resonance = f64::from(set.value(Rows::RESONANCE).next);
        let hz = cutoff_hz(set);
        let turns = (hz / set.rate_hz).clamp(1e-5, 0.46);
        press(block, set.value(Rows::DRIVE_DB));
        match response {
            kind if kind.is_comb() => {
                self.comb(block, hz, set, kind == FilterType::CombMinus);
            }
            FilterType::Vowel => {
                let damping = formant_damping(resonance);
                let mut sum = SILENT;
                let times = formants(set.value(Rows::VOWEL).next.into());
                for (stage, (times, gain)) in times.iter().zip(FORMANT_GAINS).enumerate() {
                    let mut band = *block;
                    let one = Biquad::band_pass((turns * times).min(0.46), 1.0 / damping);
                    self.stages[stage].aim(one.times(gain));
                    self.stages[stage].both(&mut band);
                    add(&mut sum, &band);
                }
                *block = sum;
            }
            kind => {
                let damping = dampings(kind, slope, resonance);
                let count = 1 + usize::from(slope == Slope::Db24);
                for (stage, damping) in self.stages[..count].iter_mut().zip(damping) {
                    // a filter that sings by itself would never end here
                    let damping = damping.max(0.01);
                    let q = 1.0 / damping;
                    stage.aim(match kind {
                        FilterType::Low => Biquad::low_pass(turns, q),
                        FilterType::High => Biquad::high_pass(turns, q),
                        FilterType::Notch => Biquad::notch(turns, q),
                        FilterType::Peak => Biquad::resonance(turns, damping, PEAK_GAIN * damping),
                        _ => Biquad::band_pass(turns, q).times(band_gain(resonance) / damping),
                    });
                    stage.both(block);
                }
            }
        }
    }

    fn clear(&mut self) {
        self.stages.iter_mut().for_each(Stage::clear);
        self.lines.iter_mut().for_each(Line::clear);
        self.damped = [0.0; 2];
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
