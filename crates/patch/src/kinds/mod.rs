//! What a unit can be. One table has the kinds: label, whether they make sound, what routes may do to them.

pub mod filter;
pub mod level;
pub mod noise;
pub mod operator;
pub mod sample;
pub mod shaper;

use serde::{Deserialize, Serialize};

use self::filter::Filter;
use self::level::Level;
use self::noise::Noise;
use self::operator::{CycleShape, Harmonics, Operator};
use self::sample::Sample;
use self::shaper::Shaper;
use crate::params::part::{Part, Rows};
use crate::params::section::SectionId;
use crate::parts::route::RouteKind::{self, Amplitude, Audio, Frequency, Phase, Ring};

/// One row for each kind: the struct, its label, whether it makes sound of its own, what routes may do to it (the usual first), its parts
/// with parameters, and the sections of its sheet before those all units have.
macro_rules! kinds {
    ($($(#[$meta:meta])* $Kind:ident $label:literal, source $source:literal, takes [$($takes:ident),*], parts [$($part:ident),*], sheet [$($section:ident),*];)*) => {
        /// What a unit is.
        #[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
        #[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
        #[cfg_attr(feature = "types", derive(ts_rs::TS))]
        #[serde(rename_all = "snake_case")]
        pub enum UnitKind { $($(#[$meta])* $Kind($Kind)),* }

        /// A kind of unit by name, for making one.
        #[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
        #[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
        #[cfg_attr(feature = "types", derive(ts_rs::TS))]
        #[serde(rename_all = "snake_case")]
        pub enum KindName { $($(#[$meta])* $Kind),* }

        impl KindName {
            /// All kinds.
            pub const ALL: &'static [KindName] = &[$(KindName::$Kind),*];

            /// As it is called on the screen.
            pub fn label(self) -> &'static str {
                match self { $(KindName::$Kind => $label),* }
            }

            /// A new one of this kind.
            pub fn make(self) -> UnitKind {
                match self { $(KindName::$Kind => UnitKind::$Kind(Default::default())),* }
            }

            /// What routes may do to it, the usual first.
            pub fn takes(self) -> &'static [RouteKind] {
                match self { $(KindName::$Kind => &[$($takes),*]),* }
            }

            /// Whether it makes sound of its own; the others change what they are sent.
            pub fn is_source(self) -> bool {
                match self { $(KindName::$Kind => $source),* }
            }

            /// The rows of its parts, in the order of their positions.
            pub fn rows(self) -> &'static [Rows] {
                match self { $(KindName::$Kind => &[$($part::ROWS),*]),* }
            }

            /// The sections of its sheet, before those all units have.
            pub fn sheet(self) -> &'static [SectionId] {
                match self { $(KindName::$Kind => &[$(SectionId::$section),*]),* }
            }
        }

        impl UnitKind {
            /// Which kind it is.
            pub fn name(&self) -> KindName {
                match self { $(UnitKind::$Kind(_) => KindName::$Kind),* }
            }

            /// Its parameters and choices.
            pub fn part(&self) -> &dyn Part {
                match self { $(UnitKind::$Kind(part) => part),* }
            }

            /// The same, for writing.
            pub fn part_mut(&mut self) -> &mut dyn Part {
                match self { $(UnitKind::$Kind(part) => part),* }
            }
        }
    };
}

kinds! {
    /// An oscillator that other units may move.
    Operator "Operator", source true, takes [Phase, Frequency, Ring, Amplitude], parts [Operator, CycleShape, Harmonics], sheet [Pitch, Wave, Cycle, Harmonics];
    /// Noise of a colour.
    Noise "Noise", source true, takes [Amplitude, Ring], parts [Noise], sheet [Noise];
    /// A recording, played once or round and round.
    Sample "Sample", source true, takes [Phase, Frequency, Ring, Amplitude], parts [Sample], sheet [Sample];
    /// Takes parts of a sound away.
    Filter "Filter", source false, takes [Audio, Frequency, Ring, Amplitude], parts [Filter], sheet [Filter];
    /// Bends a sound's own waveform.
    Shaper "Shaper", source false, takes [Audio, Ring, Amplitude], parts [Shaper], sheet [Shaper];
    /// Lets a sound rise and fall with its envelope, and end with it.
    Level "Level", source false, takes [Audio, Ring, Amplitude], parts [Level], sheet [Level];
}
