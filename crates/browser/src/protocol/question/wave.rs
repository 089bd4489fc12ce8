//! Waves, tables, recordings and scales.

use serde::Deserialize;
use zolvik_patch::document::UnitId;

/// Waves, tables, recordings and scales.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case", remote = "Self")]
#[cfg_attr(feature = "types", ts(tag = "ask"))]
pub enum WaveQuestion {
    /// Gives units the wave some steps further in the list.
    StepWave {
        /// Which units; each steps from its own wave.
        units: Vec<UnitId>,
        /// How many, with sign.
        steps: i32,
    },
    /// Draws one of a unit's bars.
    DrawBar {
        /// Which unit; its wave becomes bars if it is none.
        unit: UnitId,
        /// Which harmonic, from 1.
        harmonic: usize,
        /// 0 to 1; as it is if none.
        amplitude: Option<f64>,
        /// In turns; as it is if none.
        phase_turns: Option<f64>,
        /// Number of the gesture, if it is one.
        gesture: Option<u32>,
    },
    /// Gives units a wave.
    ChooseWave {
        units: Vec<UnitId>,
        /// Its place in the list of [`crate::protocol::Answer::Waves`].
        at: usize,
    },
    /// Adds an imported table and gives it to units.
    AddTable {
        units: Vec<UnitId>,
        /// JSON of the table, as [`crate::protocol::Answer::Text`] gave it; its number is chosen here.
        table: String,
    },
    /// Sets a bar of a wave from typed text.
    TypeBar {
        unit: UnitId,
        /// From 1.
        harmonic: usize,
        part: BarPart,
        text: String,
    },
    /// All waves there are.
    Waves,
    /// The recordings samples can play: those of the application and those the patch has.
    Sounds,
    /// Gives samples something to play.
    ChooseSound {
        units: Vec<UnitId>,
        /// Its place in the list of [`crate::protocol::Answer::Sounds`].
        at: usize,
    },
    /// Gives samples a recording that was brought in; where none is told a new strip plays it.
    AddSound {
        units: Vec<UnitId>,
        /// JSON of the recording's description, as the store gave it.
        sound: String,
    },
    /// Tells which recordings the store does not have.
    Missing {
        /// Their contents.
        contents: Vec<String>,
    },
    /// Tunes the keys by the text of a Scala file: a scale, or a map for the scale that is there.
    LoadScale {
        /// Name of the file; its ending tells scales from maps.
        file_name: String,
        /// What it holds.
        text: String,
    },
    /// Back to equal temperament.
    ClearScale,
}

/// What of a bar is typed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum BarPart {
    /// In percent.
    Amplitude,
    /// In degrees.
    Phase,
}
