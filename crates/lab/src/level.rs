//! How loud a sound is.

use ebur128::{EbuR128, Mode};
use serde::Serialize;

use crate::render::Rendered;
use crate::true_peak::true_peak;

/// Level of a whole render.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Level {
    /// Highest point of the curve between samples too, in dB of full scale; -200 for silence.
    pub true_peak_db: f64,
    /// Loudest 400 ms in LUFS; -200 for silence.
    pub loudness_lufs: f64,
}

const SILENCE_DB: f64 = -200.0;
/// Below this a note is as good as silent, and nothing is matched to it.
const FAINT_LUFS: f64 = -70.0;

/// How far one of two states is turned down to be as loud as the other, in decibels: 0 for the softer one, and where one is silent.
pub fn lowered_db(here_lufs: f64, there_lufs: f64) -> f64 {
    match here_lufs.min(there_lufs) < FAINT_LUFS {
        true => 0.0,
        false => (here_lufs - there_lufs).max(0.0),
    }
}

/// Most a sound without a part of it is turned up to be as loud as with it, in decibels.
const MOST_RAISED_DB: f64 = 12.0;

/// How far a sound is turned up or down to be as loud as another one, in decibels: nothing where one is silent.
pub fn evened_db(here_lufs: f64, there_lufs: f64) -> f64 {
    match here_lufs.min(there_lufs) < FAINT_LUFS {
        true => 0.0,
        false => (there_lufs - here_lufs).min(MOST_RAISED_DB),
    }
}

/// Measures true peak, at sixteen times the rate, and momentary loudness (ITU-R BS.1770-4, EBU Tech 3341).
pub fn level(sound: &Rendered) -> Level {
    let peaks = [&sound.left, &sound.right].map(|side| true_peak(side));
    Level {
        true_peak_db: to_db(peaks[0].max(peaks[1])),
        ..quick_level(sound)
    }
}

/// As [`level`], but the peak is that of the samples themselves, a few tenths of a dB low at most for sounds
/// without much treble: four times as fast, for pictures drawn while something is dragged.
pub fn quick_level(sound: &Rendered) -> Level {
    let silent = Level {
        true_peak_db: SILENCE_DB,
        loudness_lufs: SILENCE_DB,
    };
    let Ok(mut meter) = EbuR128::new(2, sound.rate_hz as u32, Mode::M | Mode::SAMPLE_PEAK) else {
        return silent;
    };
    let mut loudest = SILENCE_DB;
    let step = (sound.rate_hz * 0.1) as usize;
    for (left, right) in sound.left.chunks(step).zip(sound.right.chunks(step)) {
        if meter.add_frames_planar_f32(&[left, right]).is_ok() {
            loudest = loudest.max(meter.loudness_momentary().unwrap_or(SILENCE_DB));
        }
    }
    let peak = |channel| meter.sample_peak(channel).unwrap_or(0.0);
    let highest = peak(0).max(peak(1));
    Level {
        true_peak_db: to_db(highest),
        loudness_lufs: loudest.max(SILENCE_DB),
    }
}

/// Decibels of an amplitude; [`Level`]'s floor for nothing.
pub fn to_db(amplitude: f64) -> f64 {
    if amplitude > 1e-10 {
        20.0 * amplitude.log10()
    } else {
        SILENCE_DB
    }
}
