//! Noise.

use crate::params::param::Quantity as Q;
use crate::params::part::part;
use crate::params::section::SectionId as S;
use crate::parts::look::look;

part! {
    /// Noise.
    pub struct Noise: Unit "noise" in "kind.noise." {
        values {
            COLOUR_DB colour_db: f64 = 0.0, -6.0..6.0, look("Colour", Q::Gain, S::Noise).step(0.5, 0.1).decimals(1).shared(),
                "Change of level with each octave: below zero darker than white, above zero brighter.";
        }
    }
}
