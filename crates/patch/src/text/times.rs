//! How times are said.

use crate::params::param::{Param, Quantity};
use crate::parts::envelope::BEAT_S;

/// How times are said where a value stands.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Times {
    /// Length of a beat in seconds, for note lengths that are typed.
    pub beat_s: f64,
    /// Whether times are shown in beats.
    pub in_beats: bool,
}

impl Times {
    /// In seconds, at 120 beats a minute.
    pub const PLAIN: Times = Times {
        beat_s: BEAT_S,
        in_beats: false,
    };

    /// Whether a value of a row is shown in beats.
    pub(super) fn of(self, row: &Param) -> bool {
        self.in_beats && row.quantity == Quantity::Seconds
    }
}
