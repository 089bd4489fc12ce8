//! What is heard and seen for now, without a change of the document.

use serde::Deserialize;
use zolvik_lab::spectrum::Span;
use zolvik_patch::document::UnitId;
use zolvik_patch::hearing::Listening;

/// What is heard and seen for now, without a change of the document.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case", remote = "Self")]
#[cfg_attr(feature = "types", ts(tag = "ask"))]
pub enum ListeningQuestion {
    /// Mutes and solos for now.
    Listen {
        /// What is muted and soloed.
        listening: Box<Listening>,
    },
    /// Lets hear without some units for now; with none, with all of them again.
    HearWithout { units: Vec<UnitId> },
    /// How far this state is turned down to be as loud as the other.
    Match {
        /// Loudness of this one.
        here_lufs: f64,
        /// Loudness of the other.
        there_lufs: f64,
    },
    /// What the strips put out, in words, for amplitudes in the order of the rows.
    Words {
        /// 0 to 1, one for each row.
        amplitudes: Vec<f64>,
        /// Position of the send shown, one for each row.
        sends: Vec<usize>,
    },
    /// Part of the frequencies, so many times as wide, around one that stays where it is.
    ZoomSpan {
        /// What is seen.
        span: Span,
        /// In hertz.
        around_hz: f64,
        /// Below 1 is nearer.
        times: f64,
    },
    /// Part of the frequencies, so many times higher.
    MoveSpan {
        /// What is seen.
        span: Span,
        /// Below 1 is lower.
        ratio: f64,
    },
}
