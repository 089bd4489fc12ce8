//! The auditioned note, unfolded: all the screen draws of it, from the engine that plays it.

use serde::{Deserialize, Serialize};
use zolvik_engine::program::Prepared;

use crate::level::{Level, LevelMeter, to_db};
use crate::note::Note;
use crate::picture::{Grid, Painter};
use crate::render::render_program;
use crate::rendered::Rendered;
use crate::spectrum::Span;

/// How fine the picture is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum Detail {
    /// At once, while something is dragged.
    Coarse,
    /// When the hand rests.
    Fine,
}

/// A note, drawn. All pictures share the time axis: column `i` of `n` lies at [`time_at`] `((i + 0.5) / n)`.
#[derive(Debug, Clone, PartialEq)]
pub struct Unfolded {
    /// The sound itself.
    pub sound: Rendered,
    /// Columns of the spectrogram.
    pub columns: usize,
    /// Rows of the spectrogram, lowest frequency first.
    pub rows: usize,
    /// Row by row: 0 is silence ([`FLOOR_DB`]), 255 is full scale.
    pub spectrogram: Vec<u8>,
    /// Level of 60 ms around each column, in dB, -200 for silence.
    pub loudness_db: Vec<f32>,
    /// For each unit of `sound.units`, what it puts out at each column, 0 to 1.
    pub curves: Vec<Vec<f32>>,
    /// Where each source of movement stands at each column, 0 to 1.
    pub places: Vec<Vec<f32>>,
    /// How far each link moves its value at each column, in the value's domain.
    pub motions: Vec<Vec<f32>>,
    /// Frames of the columns.
    pub frames: Vec<usize>,
    /// True peak and loudness; in a coarse picture the peak is that of the samples.
    pub level: Level,
}

/// Renders and draws a note. `exponent` shapes the time axis, see [`time_at`].
pub fn unfold(prepared: &Prepared, note: &Note, exponent: f64, detail: Detail) -> Unfolded {
    draw(
        render_program(prepared, note),
        note.length_s,
        exponent,
        detail,
    )
}

impl Detail {
    /// What measures the level of a sound for its picture.
    pub fn meter(self, rate_hz: f64) -> LevelMeter {
        match self {
            Detail::Coarse => LevelMeter::quick(rate_hz),
            Detail::Fine => LevelMeter::exact(rate_hz),
        }
    }

    /// Where columns and rows lie of a picture of so many seconds.
    pub fn grid(self, length_s: f64, exponent: f64, rate_hz: f64, span: Span) -> Grid {
        let (columns, rows) = match self {
            Detail::Coarse => (148, 128),
            Detail::Fine => (444, 256),
        };
        Grid {
            columns,
            rows,
            length_s,
            exponent,
            rate_hz,
            span,
            whole: self == Detail::Fine,
        }
    }
}

/// Draws a sound that was rendered, over so many seconds.
pub fn draw(sound: Rendered, length_s: f64, exponent: f64, detail: Detail) -> Unfolded {
    let mut painter = Painter::new(detail.grid(length_s, exponent, sound.rate_hz, Span::default()));
    painter.hear(&sound.left, &sound.right);
    painter.end();
    let level = detail.meter(sound.rate_hz).end(&sound.left, &sound.right);
    drawn(&painter, sound, level)
}

/// All that is drawn of a sound beside the picture that was painted of it and the level it was measured to have.
pub fn drawn(painter: &Painter, sound: Rendered, level: Level) -> Unfolded {
    let grid = painter.grid();
    let frames: Vec<usize> = (0..grid.columns).map(|column| grid.frame(column)).collect();
    Unfolded {
        columns: grid.columns,
        rows: grid.rows,
        spectrogram: painter.picture().to_vec(),
        loudness_db: frames.iter().map(|f| loudness(&sound, *f)).collect(),
        curves: at_columns(&sound.amplitudes, &frames),
        places: at_columns(&sound.places, &frames),
        motions: at_columns(&sound.motions, &frames),
        level,
        sound,
        frames,
    }
}

fn at_columns(curves: &[Vec<f32>], frames: &[usize]) -> Vec<Vec<f32>> {
    let at = |curve: &Vec<f32>| frames.iter().map(|f| sample_curve(curve, *f)).collect();
    curves.iter().map(at).collect()
}

fn sample_curve(amplitudes: &[f32], frame: usize) -> f32 {
    let at = (frame / zolvik_engine::BLOCK).min(amplitudes.len().saturating_sub(1));
    amplitudes.get(at).copied().unwrap_or(0.0)
}

/// Level of 60 ms around a frame of what there is of a sound, in dB.
pub fn loudness(sound: &Rendered, frame: usize) -> f32 {
    let half = (0.03 * sound.rate_hz) as usize;
    let range =
        frame.saturating_sub(half).min(sound.left.len())..(frame + half).min(sound.left.len());
    let power = |channel: &[f32]| {
        channel[range.clone()]
            .iter()
            .map(|s| f64::from(s * s))
            .sum::<f64>()
    };
    let mean = (power(&sound.left) + power(&sound.right)) / (range.len().max(1) as f64);
    to_db(mean.sqrt()) as f32
}
