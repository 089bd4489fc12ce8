//! Values as people write them, in and out. The unit of each parameter comes from the catalogue.
//!
//! A bare number has the unit the value is shown in, however typing began; what is shown is always taken back.

mod read;
mod write;

pub use self::read::{TextError, hint, is_relative, read, read_as, read_at};
pub use self::write::{
    Written, decibels, fixed, seconds, signed_decibels, write, write_as, write_beats, write_exact,
    write_exact_as, write_exact_in, write_in, write_length,
};
use crate::envelope::BEAT_S;
use crate::param::{Param, Quantity};

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
    fn of(self, row: &Param) -> bool {
        self.in_beats && row.quantity == Quantity::Seconds
    }
}
