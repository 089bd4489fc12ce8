//! A level strip.

use crate::params::param::Quantity as Q;
use crate::params::part::part;
use crate::params::section::SectionId as S;
use crate::parts::look::look;

part! {
    /// A level strip. What goes through it rises and falls with its envelope; when that ends, so does the note.
    pub struct Level: Unit "level" in "kind.level." {
        values {
            LEVEL_DB level_db: f64 = 0.0, -72.0..12.0, look("Level", Q::Level, S::Level).step(1.0, 0.1).decimals(1),
                "How strong it lets the sound through at its envelope's peak. The lowest value is silence.";
            MIX mix: f64 = 1.0, 0.0..1.0, look("Mix", Q::Share, S::Level).step(0.05, 0.01),
                "Share of the sound its envelope takes hold of; the rest goes by as it came.";
        }
    }
}
