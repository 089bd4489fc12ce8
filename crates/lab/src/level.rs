//! How loud a sound is.

use ebur128::{EbuR128, Mode};
use serde::Serialize;

use crate::rendered::Rendered;
use crate::true_peak::TruePeak;

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

/// Where the true peak of a trimmed patch lies, in decibels of full scale.
pub const TRIMMED_PEAK_DB: f64 = -1.0;

/// The trim that puts a measured true peak at [`TRIMMED_PEAK_DB`], or at most a tenth of a decibel below; none where there is nothing to be heard.
pub fn trimmed_db(trim_db: f64, true_peak_db: f64) -> Option<f64> {
    let goal = ((trim_db + TRIMMED_PEAK_DB - true_peak_db) * 10.0).floor() / 10.0;
    (true_peak_db > SILENT_PEAK_DB).then_some(goal)
}

/// Below this peak a sound is silent, in decibels of full scale.
const SILENT_PEAK_DB: f64 = -150.0;

/// Most a sound without a part of it is turned up to be as loud as with it, in decibels.
const MOST_RAISED_DB: f64 = 12.0;

/// How far a sound is turned up or down to be as loud as another one, in decibels: nothing where one is silent.
pub fn evened_db(here_lufs: f64, there_lufs: f64) -> f64 {
    match here_lufs.min(there_lufs) < FAINT_LUFS {
        true => 0.0,
        false => (there_lufs - here_lufs).min(MOST_RAISED_DB),
    }
}

/// Measures a sound while it grows: momentary loudness (ITU-R BS.1770-4, EBU Tech 3341), and the peak of its samples, or, sixteen times as
/// closely, of the curve through them.
pub struct LevelMeter {
    meter: Option<EbuR128>,
    loudest_lufs: f64,
    /// Frames between two looks at the loudness.
    step: usize,
    heard: usize,
    /// Of left and right, where the curve is measured.
    curves: Option<[TruePeak; 2]>,
}

impl LevelMeter {
    /// A meter of what true peak and loudness are.
    pub fn exact(rate_hz: f64) -> Self {
        LevelMeter {
            curves: Some(Default::default()),
            ..Self::quick(rate_hz)
        }
    }

    /// As [`LevelMeter::exact`], but the peak is that of the samples themselves, a few tenths of a dB low at most for sounds without much
    /// treble: four times as fast, for pictures drawn while something is dragged.
    pub fn quick(rate_hz: f64) -> Self {
        LevelMeter {
            meter: EbuR128::new(2, rate_hz as u32, Mode::M | Mode::SAMPLE_PEAK).ok(),
            loudest_lufs: SILENCE_DB,
            step: ((rate_hz * 0.1) as usize).max(1),
            heard: 0,
            curves: None,
        }
    }

    /// Measures what is new in a sound that goes on.
    pub fn hear(&mut self, left: &[f32], right: &[f32]) {
        while self.heard + self.step <= left.len().min(right.len()) {
            self.look(self.step, left, right);
        }
        for (curve, side) in self.curves.iter_mut().flatten().zip([left, right]) {
            curve.hear(side);
        }
    }

    fn look(&mut self, frames: usize, left: &[f32], right: &[f32]) {
        let part = self.heard..self.heard + frames;
        self.heard = part.end;
        let Some(meter) = &mut self.meter else { return };
        let sides = [&left[part.clone()], &right[part]];
        if meter.add_frames_planar_f32(&sides).is_ok() {
            let now = meter.loudness_momentary().unwrap_or(SILENCE_DB);
            self.loudest_lufs = self.loudest_lufs.max(now);
        }
    }

    /// Its level, now that nothing comes after.
    pub fn end(mut self, left: &[f32], right: &[f32]) -> Level {
        self.hear(left, right);
        let rest = left.len().min(right.len()) - self.heard;
        if rest > 0 {
            self.look(rest, left, right);
        }
        let sample = |channel| {
            let peak = self.meter.as_ref().map(|m| m.sample_peak(channel));
            peak.and_then(Result::ok).unwrap_or(0.0)
        };
        let peak = match self.curves {
            None => sample(0).max(sample(1)),
            Some([a, b]) => a.end(left).max(b.end(right)),
        };
        Level {
            true_peak_db: to_db(peak),
            loudness_lufs: self.loudest_lufs.max(SILENCE_DB),
        }
    }
}

/// True peak and loudness of a whole sound.
pub fn level(sound: &Rendered) -> Level {
    LevelMeter::exact(sound.rate_hz).end(&sound.left, &sound.right)
}

/// Decibels of an amplitude; [`Level`]'s floor for nothing.
pub fn to_db(amplitude: f64) -> f64 {
    if amplitude > 1e-10 {
        20.0 * amplitude.log10()
    } else {
        SILENCE_DB
    }
}
