//! Arrangements of operators.

use serde::Deserialize;

/// Arrangements of operators.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case", remote = "Self")]
#[cfg_attr(feature = "types", ts(tag = "ask"))]
pub enum ArrangingQuestion {
    /// The useful arrangements of the operators there are.
    Arrangements,
    /// Tries an arrangement in place of the one there was when the first was tried.
    TryArrangement {
        /// Its place in the list of [`crate::protocol::Answer::Arrangements`] given last.
        at: usize,
    },
    /// Ends trying.
    EndTrial {
        /// Whether the arrangement tried last stays.
        keep: bool,
    },
    /// The arrangement there is, as text to be kept for other patches.
    KeepArrangement,
    /// An arrangement kept before, laid on the operators there are.
    LayArrangement {
        /// As [`ArrangingQuestion::KeepArrangement`] gave it.
        text: String,
    },
}
