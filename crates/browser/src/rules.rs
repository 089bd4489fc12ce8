//! Limits and laws the page needs to know, told once.

use serde::Serialize;
use zolvik_patch::levels::METER_DB;
use zolvik_patch::limits::{MAX_NAME, MAX_NOTE, MAX_UNIT_NAME};
use zolvik_patch::wave::{MAX_BARS, MAX_CYCLES};

/// Limits and laws.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Rules {
    /// Most characters of a patch's or version's name.
    pub name: usize,
    /// Most characters of a unit's or group's name.
    pub unit_name: usize,
    /// Most characters of a note.
    pub note: usize,
    /// Harmonics that can be drawn.
    pub bars: usize,
    /// Most cycles of a table.
    pub cycles: usize,
    /// Samples of a cycle most recordings of cycles have.
    pub cycle_samples: usize,
    /// The computer's keys.
    pub keys: KeyRules,
    /// Where full scale stands on the level meter, 0 to 1.
    pub meter_full_scale: f64,
    /// Place on the time axis is `(time / window)^exponent`: more room for the start, and even.
    pub time_exponents: [f64; 2],
}

/// The computer's keys and the keys on the screen.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct KeyRules {
    /// MIDI key of the lowest letter at first.
    pub base: u8,
    /// Lowest and highest it may be moved to.
    pub lowest: u8,
    pub highest: u8,
    /// Keys it is moved by.
    pub octave: u8,
    /// Velocity of a key struck at its upper edge, and at its foot.
    pub softest: u8,
    pub hardest: u8,
}

/// The rules.
pub const RULES: Rules = Rules {
    name: MAX_NAME,
    unit_name: MAX_UNIT_NAME,
    note: MAX_NOTE,
    bars: MAX_BARS,
    cycles: MAX_CYCLES,
    cycle_samples: 2048,
    keys: KeyRules {
        base: 48,
        lowest: 0,
        highest: 96,
        octave: 12,
        softest: 40,
        hardest: 120,
    },
    meter_full_scale: -METER_DB.0 / (METER_DB.1 - METER_DB.0),
    time_exponents: [0.6, 1.0],
};
