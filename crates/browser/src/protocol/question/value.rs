//! Values: typed, dragged, stepped, compared, and put in words.

use serde::Deserialize;
use zolvik_patch::address::Address;
use zolvik_patch::document::UnitId;

/// Values: typed, dragged, stepped, compared, and put in words.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case", remote = "Self")]
#[cfg_attr(feature = "types", ts(tag = "ask"))]
pub enum ValueQuestion {
    /// Sets a value from typed text.
    Type {
        /// Which value.
        address: Address,
        /// The selected units: the same value of all of them is meant where it is one of theirs.
        #[serde(default)]
        units: Vec<UnitId>,
        /// As typed.
        text: String,
    },
    /// How far a value differs among the selected units.
    Spread {
        /// The value of the first of them.
        address: Address,
        /// The selected units.
        units: Vec<UnitId>,
    },
    /// What is good to know of a text before it is taken; empty where it says all itself.
    Hint {
        /// Which value.
        address: Address,
        /// As typed so far.
        text: String,
    },
    /// Moves a value by steps, as arrow keys and the wheel do.
    Nudge {
        /// Which value.
        address: Address,
        /// The selected units: the same value of all of them is meant where it is one of theirs.
        #[serde(default)]
        units: Vec<UnitId>,
        /// How many, with sign.
        steps: f64,
        /// Fine steps.
        fine: bool,
        /// Number of the gesture, if it is one.
        gesture: Option<u32>,
    },
    /// Moves a value by a share of its bar from where the drag began.
    Drag {
        /// Which value.
        address: Address,
        /// The selected units: the same value of all of them is meant where it is one of theirs.
        #[serde(default)]
        units: Vec<UnitId>,
        /// Value at the drag's begin.
        start: f64,
        /// Share of the bar, with sign.
        moved: f64,
        /// A tenth as far.
        fine: bool,
        /// Number of the gesture.
        gesture: u32,
    },
    /// Moves a value to a place on its bar, as a controller does.
    Place {
        /// Which value.
        address: Address,
        /// 0 to 1.
        place: f64,
        /// Number of the gesture.
        gesture: u32,
    },
    /// Puts a value back to its default.
    Reset {
        /// Which value.
        address: Address,
        /// The selected units: the same value of all of them is meant where it is one of theirs.
        #[serde(default)]
        units: Vec<UnitId>,
    },
    /// Lowers or raises the trim so that the true peak comes to lie at -1 dB.
    TrimTo {
        /// The measured true peak.
        true_peak_db: f64,
    },
    /// A change of level in words.
    ChangeWords { change_db: f64 },
    /// A time in words.
    TimeWords {
        /// In seconds.
        time_s: f64,
    },
    /// A level in words.
    LevelWords {
        /// As a factor of full scale.
        amplitude: f64,
    },
    /// The key of a typed note.
    KeyOf { text: String },
}
