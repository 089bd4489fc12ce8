//! An equalizer of up to eight bands.

use crate::params::choice::options;
use crate::params::param::{Quantity as Q, When, when};
use crate::params::part::part;
use crate::params::section::SectionId as S;
use crate::parts::look::look;

/// Most bands of an EQ.
pub const MAX_EQ_BANDS: usize = 8;

options! {
    /// What a band does.
    pub enum BandType {
        /// Takes away what lies below.
        LowCut,
        /// Raises or lowers what lies below.
        LowShelf,
        /// Raises or lowers what lies near.
        #[default]
        Peak,
        /// Takes away what lies near.
        Notch,
        /// Raises or lowers what lies above.
        HighShelf,
        /// Takes away what lies above.
        HighCut,
        /// Raises the highs and lowers the lows.
        Tilt,
    }
}

options! {
    /// How steep a cut is, in decibels an octave.
    pub enum CutSlope {
        /// One pole.
        #[serde(rename = "6dB")]
        Db6,
        /// Two.
        #[default]
        #[serde(rename = "12dB")]
        Db12,
        /// Four.
        #[serde(rename = "24dB")]
        Db24,
        /// Six.
        #[serde(rename = "36dB")]
        Db36,
        /// Eight.
        #[serde(rename = "48dB")]
        Db48,
    }
}

part! {
    /// One band of an EQ.
    #[derive(Copy)]
    pub struct EqBand: Band "band" in "" {
        also {
            /// Whether it does anything.
            #[serde(default = "yes")]
            on: bool = true,
        }
        choices {
            #[serde(default)]
            TYPE what: BandType = BandType::Peak, "Type", Band, When::Always, ["Low cut", "Low shelf", "Bell", "Notch", "High shelf", "High cut", "Tilt"],
                "What it does with what lies below, near or above its frequency.";
            #[serde(default)]
            SLOPE slope: CutSlope = CutSlope::Db12, "Slope", Band, when!(EqBand::TYPE is BandType::{LowCut, HighCut}), ["6 dB", "12 dB", "24 dB", "36 dB", "48 dB"],
                "How steep it cuts, in decibels an octave.";
        }
        values {
            HZ hz: f64 = 1000.0, 20.0..20000.0, look("Frequency", Q::Hertz, S::Band).log().decimals(1),
                "Where it works.";
            #[serde(default)]
            GAIN_DB gain_db: f64 = 0.0, -24.0..24.0, look("Gain", Q::Gain, S::Band).step(0.5, 0.1).decimals(1).when(when!(EqBand::TYPE is BandType::{LowShelf, Peak, HighShelf, Tilt})),
                "By how much it raises or lowers.";
            #[serde(default = "plain_q")]
            Q q: f64 = 0.707, 0.1..18.0, look("Q", Q::Number, S::Band).log().decimals(2).when(when!(EqBand::TYPE is BandType::{LowCut, LowShelf, Peak, Notch, HighShelf, HighCut})),
                "How narrow it is; of a cut how much it rings at its edge.";
        }
    }
}

fn yes() -> bool {
    true
}

fn plain_q() -> f64 {
    0.707
}

impl EqBand {
    /// A band of a type at a frequency that does nothing yet, if its type can do nothing.
    pub const fn at(what: BandType, hz: f64) -> Self {
        EqBand {
            on: true,
            what,
            slope: CutSlope::Db12,
            hz,
            gain_db: 0.0,
            q: 0.707,
        }
    }
}

part! {
    /// Up to eight bands.
    #[serde(default)]
    pub struct Eq: Effect "eq" in "kind.eq." {
        also {
            /// 1 to 8 bands.
            bands: Vec<EqBand> = vec![
                EqBand::at(BandType::LowShelf, 120.0),
                EqBand::at(BandType::Peak, 400.0),
                EqBand::at(BandType::Peak, 2000.0),
                EqBand::at(BandType::HighShelf, 8000.0),
            ],
        }
    }
}
