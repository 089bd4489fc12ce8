//! A table cut from a recording: cycles of a fixed length, or of the pitch it has.

use std::f64::consts::TAU;
use std::sync::Arc;

use zolvik_patch::wave::{MAX_CYCLES, MAX_HARMONICS, MAX_TABLE_POINTS, OwnTable, Points, TableId};

/// Longest recording a table is cut from, in seconds.
pub const MAX_LENGTH_S: f64 = 60.0;
/// Shortest and longest cycle, in samples.
pub const CYCLE_RANGE: (usize, usize) = (8, 8192);
/// Lowest and highest pitch looked for, in hertz.
pub const PITCH_RANGE_HZ: (f64, f64) = (25.0, 2000.0);

/// Where one cycle ends and the next begins.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Cycle {
    /// After so many samples.
    Samples(usize),
    /// After one period of the pitch that is found.
    Pitch,
}

/// Why no table was cut.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum CutError {
    /// Nothing is heard.
    #[error("the recording is silent; choose another")]
    Silent,
    /// Samples are not numbers.
    #[error("sample {0} is not a number; the file is damaged")]
    NotANumber(usize),
    /// It is too long for a table.
    #[error(
        "the recording lasts {actual_s:.0} s; a table is cut from at most {MAX_LENGTH_S} s, so shorten it first"
    )]
    Long {
        /// Its length in seconds.
        actual_s: f64,
    },
    /// It is shorter than a cycle.
    #[error(
        "the recording has {actual} samples, fewer than one cycle of {cycle}; choose a shorter cycle"
    )]
    Short {
        /// Its samples.
        actual: usize,
        /// The cycle's.
        cycle: usize,
    },
    /// The cycle length is out of range.
    #[error("a cycle has {min} to {max} samples, not {actual}")]
    Length {
        /// Fewest.
        min: usize,
        /// Most.
        max: usize,
        /// Asked for.
        actual: usize,
    },
    /// No pitch was found.
    #[error("no steady pitch between 25 and 2000 Hz was found; cut it by a fixed length instead")]
    NoPitch,
}

/// Cuts a table from one channel. At most 256 cycles are taken, evenly spread over the recording, and as many
/// harmonics as the size of a table allows; the loudest cycle is brought to full and the others keep their
/// distance to it.
///
/// # Errors
/// What is wrong with the recording, and what to do.
pub fn cut(samples: &[f32], rate_hz: f64, how: Cycle, name: &str) -> Result<OwnTable, CutError> {
    if let Some(at) = samples.iter().position(|s| !s.is_finite()) {
        return Err(CutError::NotANumber(at));
    }
    let actual_s = samples.len() as f64 / rate_hz;
    if actual_s > MAX_LENGTH_S {
        return Err(CutError::Long { actual_s });
    }
    if samples.iter().all(|s| s.abs() < 1e-5) {
        return Err(CutError::Silent);
    }
    let spans = match how {
        Cycle::Samples(length) => fixed(samples.len(), length)?,
        Cycle::Pitch => by_pitch(samples, rate_hz)?,
    };
    let spans = spread(spans);
    let length = spans.iter().map(|(_, length)| *length).fold(0.0, f64::max);
    let harmonics = (MAX_TABLE_POINTS / spans.len())
        .min(MAX_HARMONICS)
        .min((length / 2.0) as usize)
        .max(1);
    let cycles: Vec<Vec<f64>> = spans
        .iter()
        .map(|(start, length)| analyse(samples, *start, *length, harmonics))
        .collect();
    let peak = cycles.iter().map(|c| peak(c)).fold(1e-9, f64::max);
    let full = |x: &f64| libm::round(x / peak * 32767.0).clamp(-32767.0, 32767.0) as i16;
    let points: Vec<i16> = cycles.iter().flatten().map(full).collect();
    let name: String = name.trim().chars().take(40).collect();
    Ok(OwnTable {
        id: TableId(1),
        name: if name.is_empty() {
            "Imported".into()
        } else {
            name
        },
        harmonics: harmonics as u16,
        cycles: Points(Arc::from(points)),
    })
}

/// Start and length of cycles, in samples.
type Spans = Vec<(f64, f64)>;

fn fixed(samples: usize, length: usize) -> Result<Spans, CutError> {
    let (min, max) = CYCLE_RANGE;
    if !(min..=max).contains(&length) {
        return Err(CutError::Length {
            min,
            max,
            actual: length,
        });
    }
    if samples < length {
        return Err(CutError::Short {
            actual: samples,
            cycle: length,
        });
    }
    let start = |i: usize| ((i * length) as f64, length as f64);
    Ok((0..samples / length).map(start).collect())
}

/// At most as many spans as a table has cycles, the first and the last among them.
fn spread(spans: Spans) -> Spans {
    if spans.len() <= MAX_CYCLES {
        return spans;
    }
    let last = spans.len() - 1;
    (0..MAX_CYCLES)
        .map(|i| spans[(i * last + (MAX_CYCLES - 1) / 2) / (MAX_CYCLES - 1)])
        .collect()
}

/// Cycles one after another, each as long as the period found around it.
fn by_pitch(samples: &[f32], rate_hz: f64) -> Result<Spans, CutError> {
    let loudest = samples.iter().fold(0.0f32, |a, s| a.max(s.abs()));
    let first = samples.iter().position(|s| s.abs() > 0.02 * loudest);
    let mut at = first.unwrap_or(0) as f64;
    let mut spans = vec![];
    let mut period = None;
    while at + 2.0 < samples.len() as f64 {
        let found = period_at(samples, at as usize, rate_hz, period);
        let Some(length) = found.or(period) else {
            // nothing yet: look a little further on
            at += rate_hz * 0.02;
            continue;
        };
        if at + length + 1.0 >= samples.len() as f64 {
            break;
        }
        let range = at as usize..(at + length) as usize;
        let heard = samples[range].iter().any(|s| s.abs() > 0.01 * loudest);
        if heard {
            spans.push((at, length));
        }
        period = Some(length);
        at += length;
    }
    if spans.is_empty() || period.is_none() {
        return Err(CutError::NoPitch);
    }
    Ok(spans)
}

/// The period at a place, in samples, by the normalised difference of the signal and itself later (de Cheveigné
/// and Kawahara, "YIN, a fundamental frequency estimator for speech and music", 2002).
fn period_at(samples: &[f32], at: usize, rate_hz: f64, near: Option<f64>) -> Option<f64> {
    const THRESHOLD: f64 = 0.15;
    let (lowest, highest) = PITCH_RANGE_HZ;
    let (mut shortest, mut longest) = ((rate_hz / highest) as usize, (rate_hz / lowest) as usize);
    if let Some(near) = near {
        // once found, a pitch moves slowly
        shortest = shortest.max((near * 0.8) as usize);
        longest = longest.min((near * 1.25) as usize + 2);
    }
    let window = longest;
    let part = samples.get(at..(at + window + longest + 2).min(samples.len()))?;
    if part.len() < 2 * shortest + 4 {
        return None;
    }
    let window = window.min(part.len() / 2);
    let longest = longest.min(part.len() - window - 2);
    let difference = |lag: usize| -> f64 {
        let pairs = part[..window].iter().zip(&part[lag..lag + window]);
        pairs.map(|(a, b)| squared(f64::from(a - b))).sum()
    };
    let all: Vec<f64> = (0..=longest + 1).map(difference).collect();
    let mut sum = 0.0;
    let mut normal = vec![1.0; all.len()];
    for lag in 1..all.len() {
        sum += all[lag];
        normal[lag] = if sum > 0.0 {
            all[lag] * lag as f64 / sum
        } else {
            1.0
        };
    }
    let from = shortest.max(2);
    let dip = (from..longest).find(|lag| {
        normal[*lag] < THRESHOLD
            && normal[*lag] <= normal[lag - 1]
            && normal[*lag] <= normal[lag + 1]
    })?;
    // the lowest point of a parabola through three values
    let (a, b, c) = (all[dip - 1], all[dip], all[dip + 1]);
    let bend = a - 2.0 * b + c;
    let shift = if bend > 0.0 {
        0.5 * (a - c) / bend
    } else {
        0.0
    };
    Some(dip as f64 + shift.clamp(-0.5, 0.5))
}

/// Cosine and sine parts of one cycle by turns. The samples between are read along straight lines, since a cycle's
/// length need not be whole.
fn analyse(samples: &[f32], start: f64, length: f64, harmonics: usize) -> Vec<f64> {
    let count = length.ceil() as usize;
    let read = |i: usize| {
        let place = start + i as f64 * length / count as f64;
        let (below, share) = (place as usize, place.fract());
        let of = |at: usize| f64::from(samples.get(at).copied().unwrap_or(0.0));
        of(below) * (1.0 - share) + of(below + 1) * share
    };
    let cycle: Vec<f64> = (0..count).map(read).collect();
    let wheel: Vec<(f64, f64)> = (0..count)
        .map(|i| {
            let angle = TAU * i as f64 / count as f64;
            (libm::cos(angle), libm::sin(angle))
        })
        .collect();
    let mut parts = vec![0.0; 2 * harmonics];
    for n in 1..=harmonics.min((count - 1) / 2) {
        let (mut cosine, mut sine) = (0.0, 0.0);
        for (i, x) in cycle.iter().enumerate() {
            let (c, s) = wheel[i * n % count];
            cosine += x * c;
            sine += x * s;
        }
        parts[2 * n - 2] = 2.0 * cosine / count as f64;
        parts[2 * n - 1] = 2.0 * sine / count as f64;
    }
    parts
}

fn peak(parts: &[f64]) -> f64 {
    let spectrum = crate::spectrum::Spectrum {
        cosine: parts.iter().step_by(2).copied().collect(),
        sine: parts.iter().skip(1).step_by(2).copied().collect(),
    };
    let cycle = spectrum.cycle(2048, MAX_HARMONICS);
    cycle.iter().fold(0.0, |peak, x| peak.max(x.abs()))
}
use crate::squared::squared;
