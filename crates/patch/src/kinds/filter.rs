//! A filter.

use crate::params::choice::options;
use crate::params::param::{Quantity as Q, When, when};
use crate::params::part::part;
use crate::params::section::SectionId as S;
use crate::parts::look::look;

options! {
    /// What a filter does with frequencies.
    pub enum FilterType {
        /// Lets through what lies below the cutoff.
        #[default]
        Low,
        /// What lies above.
        High,
        /// What lies near.
        Band,
        /// All but what lies near.
        Notch,
        /// All, with what lies near raised.
        Peak,
        /// The cutoff's multiples.
        CombPlus,
        /// The cutoff's odd multiples.
        CombMinus,
        /// The ringing places of a vowel.
        Vowel,
    }
}

impl FilterType {
    /// Whether it is a comb, which is tuned rather than set.
    pub fn is_comb(self) -> bool {
        matches!(self, FilterType::CombPlus | FilterType::CombMinus)
    }
}

options! {
    /// How steep a filter is.
    pub enum Slope {
        /// 12 dB an octave.
        #[default]
        #[serde(rename = "12dB")]
        Db12,
        /// 24 dB an octave.
        #[serde(rename = "24dB")]
        Db24,
    }
}

part! {
    /// A filter. Its envelope moves the cutoff, see [`crate::parts::filter::cutoff_hz`].
    pub struct Filter: Unit "filter" in "kind.filter." {
        choices {
            RESPONSE response: FilterType = FilterType::Low, "Type", Filter, When::Always,
                ["Low-pass", "High-pass", "Band-pass", "Notch", "Peak", "Comb +", "Comb −", "Vowel"],
                "What it does with frequencies; combs ring at the key's pitch.";
            SLOPE slope: Slope = Slope::Db12, "Slope", Filter, when!(Filter::RESPONSE is FilterType::{Low, High, Band, Notch, Peak}), ["12 dB", "24 dB"],
                "How steep it is, in decibels an octave.";
        }
        values {
            CUTOFF_HZ cutoff_hz: f64 = 1000.0, 20.0..20000.0, look("Cutoff", Q::Hertz, S::Filter).log().decimals(1),
                "Where the filter works, at C4 if it follows the key.";
            RESONANCE resonance: f64 = 0.0, 0.0..1.0, look("Resonance", Q::Share, S::Filter).step(0.05, 0.01),
                "How much it rings at its cutoff; at 100 % it sings.";
            KEY_FOLLOW key_follow: f64 = 0.0, 0.0..1.0, look("Key follow", Q::Share, S::Filter).step(0.1, 0.01).shared(),
                "How far the cutoff follows the key: 100 % keeps the colour the same on every key.";
            SWEEP_OCT sweep_oct: f64 = 0.0, -8.0..8.0, look("Sweep", Q::Octaves, S::Filter).step(0.5, 0.1).decimals(2).shared(),
                "How far its envelope moves the cutoff, in octaves.";
            DRIVE_DB drive_db: f64 = 0.0, 0.0..36.0, look("Drive", Q::Gain, S::Filter).step(1.0, 0.1).decimals(1),
                "How hard the sound is pressed into the filter; it gets rougher, not louder.";
            VOWEL vowel: f64 = 0.0, 0.0..1.0, look("Vowel", Q::Share, S::Filter).step(0.05, 0.01).when(when!(Filter::RESPONSE is FilterType::{Vowel})),
                "Which vowel: from a through e, i and o to u.";
            MIX mix: f64 = 1.0, 0.0..1.0, look("Mix", Q::Share, S::Filter).step(0.05, 0.01),
                "Share of the filtered sound; the rest is the sound as it came.";
        }
    }
}
