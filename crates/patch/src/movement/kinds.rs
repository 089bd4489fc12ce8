//! What a source can be.

use serde::{Deserialize, Serialize};

use super::shape::{ShapePoint, sine};
use crate::ids::UnitId;
use crate::params::address::Address;
use crate::params::choice::options;
use crate::params::param::{ParamId, Quantity as Q, When};
use crate::params::part::{Part, Rows, part};
use crate::params::section::SectionId as S;
use crate::parts::envelope::Envelope;
use crate::parts::look::look;
use crate::parts::voice::Audition;

/// One row for each kind: the struct, its label, and its rows.
macro_rules! source_kinds {
    ($($(#[$meta:meta])* $Kind:ident($Type:ty) $label:literal, $help:literal, rows $rows:expr;)*) => {
        /// What a source is.
        #[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
        #[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
        #[cfg_attr(feature = "types", derive(ts_rs::TS))]
        #[serde(rename_all = "snake_case")]
        pub enum SourceKind { $($(#[$meta])* $Kind($Type)),* }

        /// A kind of source by name, for making one.
        #[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
        #[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
        #[cfg_attr(feature = "types", derive(ts_rs::TS))]
        #[serde(rename_all = "snake_case")]
        pub enum SourceName { $($(#[$meta])* $Kind),* }

        impl SourceName {
            /// All kinds.
            pub const ALL: &'static [SourceName] = &[$(SourceName::$Kind),*];

            /// As it is called on the screen.
            pub fn label(self) -> &'static str {
                match self { $(SourceName::$Kind => $label),* }
            }

            /// What it is for, in one sentence.
            pub fn help(self) -> &'static str {
                match self { $(SourceName::$Kind => $help),* }
            }

            /// A new one of this kind.
            pub fn make(self) -> SourceKind {
                match self { $(SourceName::$Kind => SourceKind::$Kind(Default::default())),* }
            }

            /// The rows of its parts the engine knows, in the order of their positions.
            pub fn rows(self) -> &'static [Rows] {
                match self { $(SourceName::$Kind => $rows),* }
            }
        }

        impl SourceKind {
            /// Which kind it is.
            pub fn name(&self) -> SourceName {
                match self { $(SourceKind::$Kind(_) => SourceName::$Kind),* }
            }
        }
    };
}

source_kinds! {
    /// A cycle that is drawn and goes round.
    Lfo(Lfo) "LFO", "A drawn shape that goes round, or runs once: slow for swelling, fast for vibrato.", rows &[];
    /// Values one after the other.
    Steps(Steps) "Steps", "Values one after the other, in time.", rows &[];
    /// A course from the press to the end.
    Envelope(Envelope) "Envelope", "A course from the press of the key to the end.", rows &[];
    /// Chance.
    Random(Random) "Random", "A new value for every note, now and then, or a slow wander.", rows &[Random::ROWS];
    /// What the player does.
    Played(Played) "Performance", "Velocity, key, wheel, pressure: what the player does.", rows &[];
    /// The level of a strip.
    Follower(Follower) "Follower", "The level of another strip.", rows &[];
    /// A knob with a name.
    Macro(Macro) "Macro", "A knob with a name that moves several values at once.", rows &[Macro::ROWS];
}

part! {
    /// A drawn cycle.
    pub struct Lfo: Source "lfo" in "kind.lfo." {
        also {
            /// 2 to 64 points from place 0 to place 1.
            points: Vec<ShapePoint> = sine(),
        }
    }
}

part! {
    /// Values one after the other.
    pub struct Steps: Source "steps" in "kind.steps." {
        also {
            /// 1 to 64 steps, evenly over the cycle.
            steps: Vec<Step> = [1.0, 0.25, 0.6, 0.0, 0.8, 0.4, 0.6, 0.15].map(Step::at).to_vec(),
        }
    }
}

part! {
    /// One step.
    #[derive(Copy)]
    pub struct Step: Place "step" in "" {
        values {
            LEVEL level: f64 = 0.5, 0.0..1.0, look("Level", Q::Share, S::Steps).step(0.05, 0.01).decimals(1).unmoved(),
                "Value of the step.";
            GLIDE glide: f64 = 0.0, 0.0..1.0, look("Glide", Q::Share, S::Steps).step(0.05, 0.01).unmoved(),
                "Share of the step's time in which it is reached from the one before.";
        }
    }
}

impl Step {
    /// A step that is reached at once.
    pub const fn at(level: f64) -> Self {
        Step { level, glide: 0.0 }
    }
}

options! {
    /// When chance throws anew.
    pub enum Chance {
        /// With every note.
        #[default]
        Note,
        /// Each time round, and holds that.
        Hold,
        /// Each time round, going there smoothly.
        Drift,
    }
}

part! {
    /// Chance, the same every time for the same seed.
    pub struct Random: Source "random" in "kind.random." {
        choices {
            CHANCE chance: Chance = Chance::Note, "New value", Random, When::Always, ["Each note", "Sample and hold", "Drift"],
                "With every note; each time round, held until the next; or gone to smoothly.";
        }
        values {
            LOW low: f64 = 0.0, 0.0..1.0, look("From", Q::Share, S::Random).step(0.05, 0.01),
                "The lowest it comes to.";
            HIGH high: f64 = 1.0, 0.0..1.0, look("To", Q::Share, S::Random).step(0.05, 0.01),
                "The highest it comes to.";
            SEED seed: u8 = 1, 0..255, look("Seed", Q::Count, S::Random).step(1.0, 1.0).still(),
                "The same seed gives the same values; another one other values.";
        }
    }
}

options! {
    /// What the player does.
    pub enum PlayedWhat {
        /// How hard the key was struck.
        #[default]
        Velocity,
        /// How fast it was let go.
        ReleaseVelocity,
        /// Which key: C4 is the middle, five octaves either way.
        Key,
        /// The modulation wheel.
        Wheel,
        /// The pitch bend, its rest in the middle.
        Bend,
        /// Pressure on the keys, of the note's own key where it is told.
        Pressure,
        /// The expression pedal.
        Expression,
        /// The sustain pedal.
        Pedal,
        /// 0 and 1 in turn, from note to note.
        Alternate,
        /// How many notes are held, up to eight.
        Held,
        /// The place of a copy among those of its note.
        Copy,
        /// The third way of moving on a note's own key, up and down say, where it is told.
        Timbre,
    }
}

impl PlayedWhat {
    /// Where it is set for the auditioned note; none where that has it by itself.
    pub fn auditioned(self) -> Option<ParamId> {
        Some(match self {
            PlayedWhat::Velocity => Audition::VELOCITY,
            PlayedWhat::ReleaseVelocity => Audition::LIFT,
            PlayedWhat::Key => Audition::NOTE,
            PlayedWhat::Wheel => Audition::WHEEL,
            PlayedWhat::Bend => Audition::BEND,
            PlayedWhat::Pressure => Audition::PRESSURE,
            PlayedWhat::Expression => Audition::EXPRESSION,
            PlayedWhat::Pedal => Audition::PEDAL,
            PlayedWhat::Timbre => Audition::TIMBRE,
            PlayedWhat::Alternate | PlayedWhat::Held | PlayedWhat::Copy => return None,
        })
    }
}

part! {
    /// What the player does.
    pub struct Played: Source "played" in "kind.played." {
        choices {
            WHAT what: PlayedWhat = PlayedWhat::Velocity, "What", Played, When::Always,
                ["Velocity", "Release velocity", "Key", "Wheel", "Bend", "Pressure", "Expression", "Pedal", "Alternating", "Notes held", "Copy", "Slide (CC 74)"],
                "What the player does that moves it.";
        }
    }
}

part! {
    /// The level of another strip.
    pub struct Follower: Source "follower" in "kind.follower." {
        also {
            /// Which strip.
            unit: UnitId = UnitId(1),
        }
    }
}

part! {
    /// A knob with a name.
    pub struct Macro: Source "macro" in "kind.macro." {
        also {
            /// What its targets were as it was turned up from its low end.
            #[serde(default, skip_serializing_if = "Vec::is_empty")]
            kept: Vec<Kept> = vec![],
        }
        values {
            PLACE place: f64 = 0.0, 0.0..1.0, look("Place", Q::Share, S::Macro).step(0.05, 0.01).decimals(1),
                "Where the knob stands.";
        }
    }
}

/// A value as it was.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct Kept {
    /// Which value.
    pub address: Address,
    /// In the parameter's unit.
    pub value: f64,
}

impl SourceKind {
    /// Its parameters and choices; none for an envelope, which has those of envelopes.
    pub fn part(&self) -> Option<&dyn Part> {
        Some(match self {
            SourceKind::Lfo(part) => part,
            SourceKind::Steps(part) => part,
            SourceKind::Envelope(_) => return None,
            SourceKind::Random(part) => part,
            SourceKind::Played(part) => part,
            SourceKind::Follower(part) => part,
            SourceKind::Macro(part) => part,
        })
    }

    /// The same, for writing.
    pub fn part_mut(&mut self) -> Option<&mut dyn Part> {
        Some(match self {
            SourceKind::Lfo(part) => part,
            SourceKind::Steps(part) => part,
            SourceKind::Envelope(_) => return None,
            SourceKind::Random(part) => part,
            SourceKind::Played(part) => part,
            SourceKind::Follower(part) => part,
            SourceKind::Macro(part) => part,
        })
    }
}
