//! Values as people write them, in and out. The unit of each parameter comes from the catalogue.
//!
//! A bare number has the unit the value is shown in, however typing began; what is shown is always taken back.

pub mod phrase;
mod read;
mod times;
mod write;

pub use self::read::{TextError, hint, is_relative, read, read_as, read_at};
pub use self::times::Times;
pub use self::write::{
    Written, decibels, fixed, seconds, signed_decibels, write, write_as, write_beats, write_exact,
    write_exact_as, write_exact_in, write_in, write_length,
};
