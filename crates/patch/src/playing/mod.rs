//! Playing: the phrase a patch is tried with, the beat beside it, the arpeggiator, and articulations.

pub mod articulation;
pub mod beat;
pub mod controllers;
pub mod differing;
pub mod phrase;
pub mod ready;

use crate::params::choice::options;
use crate::params::param::{Quantity as Q, When};
use crate::params::part::part;
use crate::params::section::SectionId as S;
use crate::parts::look::look;

pub use self::articulation::{Articulation, Difference};
pub use self::beat::Beat;
pub use self::phrase::{Phrase, PhraseNote, WheelPlace};

options! {
    /// What the arpeggiator makes of the keys that are held.
    pub enum Order {
        /// Nothing: every key sounds as it is pressed.
        #[default]
        Off,
        /// From the lowest upward.
        Up,
        /// From the highest downward.
        Down,
        /// Up and down again; the ends once.
        UpDown,
        /// As they were pressed.
        Played,
        /// By chance.
        Chance,
        /// All at once.
        Chord,
    }
}

options! {
    /// Which notes of an arpeggio are louder.
    pub enum Accent {
        /// All as they were pressed.
        #[default]
        Played,
        /// The first of two.
        Two,
        /// The first of three.
        Three,
        /// The first of four.
        Four,
        /// Rising over eight.
        Rising,
    }
}

part! {
    /// Keys that are held, one after the other in time.
    #[serde(default)]
    pub struct Arpeggio: Patch "arpeggio" in "playing.arpeggio." {
        choices {
            ORDER order: Order = Order::Off, "Order", Arpeggio, When::Always, ["Off", "Up", "Down", "Up and down", "As played", "Chance", "Chord"],
                "In which order the keys that are held sound one after the other.";
            ACCENT accent: Accent = Accent::Played, "Accents", Arpeggio, When::Always, ["None", "2", "3", "4", "Rising"],
                "The first of so many notes is struck as hard as the keys were, the others softer; or louder from note to note over eight.";
            HOLD hold: bool = false, "Hold", Arpeggio, When::Always, ["While held", "Goes on"],
                "Whether it ends with the keys, or goes on until others are pressed.";
        }
        values {
            RATE_BEATS rate_beats: f64 = 0.25, 0.03125..16.0, look("Rate", Q::Beats, S::Arpeggio).log().still(),
                "From one note to the next, as a note length.";
            OCTAVES octaves: u8 = 1, 1..4, look("Octaves", Q::Count, S::Arpeggio).step(1.0, 1.0).still(),
                "Over how many octaves the keys are repeated upward.";
            GATE gate: f64 = 0.6, 0.05..1.5, look("Gate", Q::Share, S::Arpeggio).step(0.05, 0.01).still(),
                "How long each note is held, as a share of the time to the next; above 100 % notes overlap.";
            SWING swing: f64 = 0.5, 0.5..0.75, look("Swing", Q::Share, S::Arpeggio).step(0.01, 0.01).still(),
                "Where every second note falls between its neighbours: 50 % is even.";
            SEED seed: u8 = 1, 0..255, look("Seed", Q::Count, S::Arpeggio).step(1.0, 1.0).still(),
                "What the order by chance follows.";
        }
    }
}

part! {
    /// What a patch is tried with, and how it is played.
    #[serde(default)]
    pub struct Playing: Patch "playing" in "playing." {
        also {
            /// What is played; none for the auditioned note by itself.
            #[serde(skip_serializing_if = "Option::is_none")]
            phrase: Option<std::sync::Arc<Phrase>> = None,
            /// Up to eight variants of the patch.
            #[serde(skip_serializing_if = "Vec::is_empty")]
            #[cfg_attr(feature = "types", ts(skip))]
            articulations: Vec<Articulation> = vec![],
            /// Position of the one that is heard; none for the base.
            #[serde(skip_serializing_if = "Option::is_none")]
            articulation: Option<u8> = None,
        }
        parts {
            /// Keys one after the other.
            arpeggio: Arpeggio,
        }
        choices {
            BEAT beat: Beat = Beat::None, "Beat", Beat, When::Always,
                ["None", "Paper lantern", "Wet stairs", "Half moon", "Night train", "Slow gate", "Broken pane"],
                "What plays beside the phrase; it is in no file unless asked for.";
        }
        values {
            BEAT_DB beat_db: f64 = -9.0, -60.0..0.0, look("Beat level", Q::Level, S::Beat).power(0.5).step(0.5, 0.1).decimals(1).still(),
                "Level of the beat.";
            SWING swing: f64 = 0.5, 0.5..0.75, look("Swing", Q::Share, S::Phrase).step(0.01, 0.01).still(),
                "Where every second sixteenth of phrase and beat falls: 50 % is even.";
        }
    }
}

impl Playing {
    /// Whether nothing of it was ever set.
    pub fn is_plain(&self) -> bool {
        *self == Playing::default()
    }

    /// When a moment of an even grid falls with swing, in beats: every second sixteenth is late.
    pub fn swung(&self, beats: f64) -> f64 {
        swung(beats, SWING_GRID_BEATS, self.swing)
    }
}

/// Grid on which swing works, in beats.
const SWING_GRID_BEATS: f64 = 0.25;

/// When a moment of an even grid falls with swing: every second step of the grid begins at that share of two steps, and what lies in
/// between is stretched alike.
pub fn swung(beats: f64, grid_beats: f64, swing: f64) -> f64 {
    if swing == 0.5 {
        return beats;
    }
    let pair = 2.0 * grid_beats;
    let begin = (beats / pair).floor() * pair;
    let within = beats - begin;
    let first = swing * pair;
    begin
        + match within < grid_beats {
            true => within / grid_beats * first,
            false => first + (within - grid_beats) / grid_beats * (pair - first),
        }
}
