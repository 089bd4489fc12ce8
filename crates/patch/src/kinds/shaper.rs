//! A shaper.

use crate::params::choice::options;
use crate::params::param::{Quantity as Q, When};
use crate::params::part::part;
use crate::params::section::SectionId as S;
use crate::parts::look::look;

options! {
    /// The curve of a shaper.
    pub enum ShaperCurve {
        /// Rounds the peaks.
        #[default]
        Soft,
        /// Cuts the peaks off.
        Hard,
        /// Turns the peaks back.
        Fold,
        /// Turns what is below zero up.
        Rectify,
    }
}

part! {
    /// A shaper. Its envelope moves the mix.
    pub struct Shaper: Unit "shaper" in "kind.shaper." {
        choices {
            #[serde(rename = "bend")]
            CURVE curve: ShaperCurve = ShaperCurve::Soft, "Curve", Shaper, When::Always, ["Soft", "Hard", "Fold", "Rectify"],
                "Rounds peaks, cuts them, turns them back, or turns the lower half up.";
        }
        values {
            DRIVE_DB drive_db: f64 = 6.0, 0.0..48.0, look("Drive", Q::Gain, S::Shaper).step(1.0, 0.1).decimals(1),
                "How hard the sound is pressed into the curve.";
            MIX mix: f64 = 0.5, 0.0..1.0, look("Mix", Q::Share, S::Shaper).step(0.05, 0.01),
                "Share of the bent sound at the envelope's peak; the rest is the sound as it came.";
        }
    }
}
