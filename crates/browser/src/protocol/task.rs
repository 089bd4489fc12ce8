//! What the page asks of its worker.

use serde::Deserialize;
use zolvik_lab::Detail;
use zolvik_lab::spectrum::Span;
use zolvik_patch::document::{EffectId, UnitId};
use zolvik_patch::hearing::Listening;

zolvik_json::kind_read_in_field!(Task, "task");

/// What the worker does: drawing, measuring, rendering.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case", remote = "Self")]
#[cfg_attr(feature = "types", ts(tag = "task"))]
pub enum Task {
    /// Begins to render a picture's sound, in place of the one before.
    Render {
        /// Of what.
        of: PictureOf,
    },
    /// Renders its next slice.
    RenderOn {
        /// How long the slice before took, in milliseconds; 0 at the first.
        spent_ms: f64,
        /// How long it had to wait before that, for the page to draw a frame.
        #[serde(default)]
        waited_ms: f64,
    },
    /// Tries another seed of what was rendered last.
    Chance {
        /// Shape of the time axis.
        exponent: f64,
    },
    /// Begins to draw a picture, over the one before.
    Draw {
        /// Of what.
        of: PictureOf,
        /// Rate of its sound in hertz.
        rate_hz: f64,
        /// Its length in seconds.
        length_s: f64,
    },
    /// Draws the piece of its sound that was put in.
    DrawOn {
        /// Whether it is wanted as far as it is.
        look: bool,
    },
    /// Its sound is whole.
    DrawEnd {
        /// A number it is kept under, beside the last few.
        key: u32,
    },
    /// A picture that was kept, as a whole.
    DrawAgain {
        /// Its number.
        key: u32,
    },
    /// Spectrum of what was drawn last, around a moment.
    Spectrum {
        /// In seconds from the press.
        time_s: f64,
        /// Rows of logarithmic frequency.
        rows: usize,
        /// The frequencies of the rows.
        #[serde(default)]
        span: Span,
        /// A filter whose response is wanted too.
        #[serde(default)]
        filter: Option<UnitId>,
    },
    /// What stands at a point of what was drawn last.
    Point {
        /// In seconds from the press.
        time_s: f64,
        /// In hertz.
        hz: f64,
    },
    /// Highest and lowest samples of stretches of what was drawn last, left and right.
    Cycles {
        /// Where it begins, in seconds.
        from_s: f64,
        /// Where it ends.
        to_s: f64,
        /// How many stretches.
        columns: usize,
    },
    /// JSON of a short note of a bit of everything, to be drawn once while nobody waits.
    Everything,
    /// Bytes of a wave for the audio thread.
    Bank {
        /// JSON of the patch.
        text: String,
        /// Which, as [`crate::view::DocumentView::banks`] names it.
        key: String,
    },
    /// Takes the file that was put in as the recording with a content.
    PutClip {
        /// SHA-256 of the file.
        content: String,
    },
    /// Highest and lowest sample of each of many stretches of what a sample plays.
    Waveform {
        /// JSON of the patch.
        text: String,
        unit: UnitId,
        /// How many stretches.
        columns: usize,
    },
    /// Looks at the beginning of a recording that was put in.
    LookRecording,
    /// Cuts a table from the recording that was put in; gives JSON of the table.
    CutTable {
        /// A name for it.
        name: String,
        /// Samples of a cycle; by pitch if none.
        cycle: Option<usize>,
    },
    /// How loud a file of it would be: as finely as files are rendered, with all effects.
    Level {
        /// JSON of the patch.
        text: String,
        /// What is muted for now and left out.
        listening: Listening,
        /// What is measured.
        what: RenderOf,
    },
    /// Renders the note of a patch as a WAV file.
    Wav {
        /// JSON of the patch.
        text: String,
        /// 16, 24 or 32.
        bits: u32,
        /// Sample rate in hertz.
        rate_hz: u32,
        /// Until it has sounded out, instead of the length of the window.
        to_its_end: bool,
        /// What is muted for now and left out.
        #[serde(default)]
        listening: Listening,
        /// What is rendered.
        #[serde(default)]
        what: RenderOf,
    },
}

/// What is drawn.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct PictureOf {
    /// JSON of the patch.
    pub text: String,
    /// What is muted and soloed.
    pub listening: Listening,
    /// Shape of the time axis.
    pub exponent: f64,
    /// How fine.
    pub detail: Detail,
    /// The patch's phrase, not its auditioned note.
    #[serde(default)]
    pub phrase: bool,
    /// To be laid beside the picture there is: spectra stay those of that.
    #[serde(default)]
    pub aside: bool,
    /// Without effects: what the voices sound like.
    #[serde(default)]
    pub voice: bool,
    /// An effect to be looked at.
    #[serde(default)]
    pub effect: Option<EffectId>,
    /// The frequencies that are looked at.
    #[serde(default)]
    pub span: Span,
}

/// What is rendered.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum RenderOf {
    /// The auditioned note.
    #[default]
    Note,
    /// The phrase.
    Phrase,
    /// The phrase with its beat.
    Beat,
}
