//! Pictures in words, for those who do not see them: what is where, in two sentences.

use serde::Serialize;
use zolvik_lab::Unfolded;
use zolvik_lab::axis::FLOOR_DB;
use zolvik_lab::spectrum::Span;
use zolvik_patch::text::{fixed, seconds};

use crate::view::hertz;

/// A picture in words.
#[derive(Debug, Clone, Default, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct PictureWords {
    /// The spectrogram, and the loudness over it.
    pub spectrogram: String,
    /// What each unit puts out, in their order.
    pub curves: Vec<String>,
    /// How each source of movement goes, in their order.
    pub places: Vec<String>,
}

/// What falls so far below its loudest has ended, in decibels.
const ENDED_DB: f32 = 60.0;
/// Between these shares of all power lies most of it.
const MOST: [f64; 2] = [0.05, 0.95];
/// What lies within this is level.
const LEVEL: f32 = 0.005;

impl PictureWords {
    /// Of a picture whose rows span some frequencies, and the places of its sources, one after the other.
    pub(crate) fn of(drawn: &Unfolded, places: &[f32], span: Span) -> Self {
        let time_s = |column: usize| drawn.frames[column] as f64 / drawn.sound.rate_hz;
        PictureWords {
            spectrogram: spectrogram(drawn, span, &time_s),
            curves: drawn.curves.iter().map(|c| course(c, &time_s)).collect(),
            places: places
                .chunks(drawn.columns.max(1))
                .map(|c| course(c, &time_s))
                .collect(),
        }
    }
}

fn at(time_s: f64) -> String {
    let (number, unit) = seconds(time_s);
    format!("{number} {unit}")
}

fn spectrogram(drawn: &Unfolded, span: Span, time_s: &dyn Fn(usize) -> f64) -> String {
    let Some(loudest) = highest(&drawn.loudness_db) else {
        return String::new();
    };
    let top_db = drawn.loudness_db[loudest];
    let powers: Vec<f64> = (0..drawn.rows)
        .map(|row| power(drawn, row, time_s))
        .collect();
    let all: f64 = powers.iter().sum();
    if top_db <= FLOOR_DB || all <= 0.0 {
        return "Silence.".into();
    }
    let below = |share: f64| {
        let mut sum = 0.0;
        let reached = powers.iter().position(|p| {
            sum += p;
            sum >= share * all
        });
        hertz(span.row_hz(reached.unwrap_or(0) as f64 + 0.5, drawn.rows))
    };
    let strongest = (0..drawn.rows).max_by(|a, b| powers[*a].total_cmp(&powers[*b]));
    let strongest_hz = span.row_hz(strongest.unwrap_or(0) as f64 + 0.5, drawn.rows);
    let [low, high] = MOST.map(below);
    let sounds = |db: &f32| *db > top_db - ENDED_DB;
    let last = drawn.loudness_db.iter().rposition(sounds).unwrap_or(0);
    let end = match last + 1 < drawn.columns {
        true => format!("It has fallen by 60 dB at {}.", at(time_s(last + 1))),
        false => "It sounds to the end of the picture.".into(),
    };
    format!(
        "Loudest at {}, with most of its power between {low} and {high}, strongest at {}. {end}",
        at(time_s(loudest)),
        hertz(strongest_hz)
    )
}

/// Power of a row over the whole picture: each column for as long as it stands for.
fn power(drawn: &Unfolded, row: usize, time_s: &dyn Fn(usize) -> f64) -> f64 {
    let points = &drawn.spectrogram[row * drawn.columns..][..drawn.columns];
    let columns = points.iter().enumerate().filter(|(_, level)| **level > 0);
    let of = |(column, level): (usize, &u8)| {
        let db = FLOOR_DB * (1.0 - f32::from(*level) / 255.0);
        let long_s = time_s(column) - time_s(column.saturating_sub(1));
        long_s * 10f64.powf(f64::from(db) / 10.0)
    };
    columns.map(of).sum()
}

fn highest(values: &[f32]) -> Option<usize> {
    (0..values.len()).max_by(|a, b| values[*a].total_cmp(&values[*b]))
}

/// A course from 0 to 1: where it begins, its ends, and where it ends.
fn course(values: &[f32], time_s: &dyn Fn(usize) -> f64) -> String {
    let (Some(high), Some(low)) = (
        highest(values),
        (0..values.len()).min_by(|a, b| values[*a].total_cmp(&values[*b])),
    ) else {
        return String::new();
    };
    let said = |at: usize| fixed(values[at].into(), 2);
    if values[high] - values[low] < LEVEL {
        return format!("Stays at {}.", said(high));
    }
    let last = values.len() - 1;
    format!(
        "Begins at {}, highest {} at {}, lowest {} at {}, ends at {}.",
        said(0),
        said(high),
        at(time_s(high)),
        said(low),
        at(time_s(low)),
        said(last)
    )
}
