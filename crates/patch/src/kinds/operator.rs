//! An operator: what it repeats, how high, and how its cycle and harmonics are shaped.

use crate::params::choice::options;
use crate::params::param::{Quantity as Q, When, when};
use crate::params::part::part;
use crate::params::section::SectionId as S;
use crate::parts::look::look;
use crate::parts::wave::Wave;

options! {
    /// How an operator's pitch is given.
    pub enum TunedBy {
        /// As a multiple of the key's frequency.
        #[default]
        Ratio,
        /// As a distance from the key in semitones.
        Semitones,
        /// As a frequency that is the same on every key.
        Fixed,
    }
}

options! {
    /// Where in its cycle something begins.
    pub enum Start {
        /// Always at the same place.
        #[default]
        Fixed,
        /// Anywhere, by the patch's seed.
        Random,
        /// Wherever it would be had it never stopped.
        Free,
    }
}

part! {
    /// Tuning and wave of an operator. See [`crate::laws::pitch::tuning`] for its frequency.
    #[serde(default)]
    pub struct Operator: Unit "operator" in "kind.operator." {
        also {
            /// What it repeats.
            wave: Wave = Wave::default(),
        }
        parts {
            /// How its cycle is bent.
            cycle: CycleShape,
            /// What is done to its harmonics.
            harmonics: Harmonics,
        }
        choices {
            TUNED_BY tuned_by: TunedBy = TunedBy::Ratio, "Tuned by", Pitch, When::Always, ["Ratio", "Semitones", "Fixed"],
                "Which of ratio, semitones and fixed frequency counts; the others are kept for switching back.";
            START start: Start = Start::Fixed, "Phase", Cycle, When::Always, ["Fixed", "Random", "Free"],
                "Where in its cycle a note begins: always the same, by chance, or running on.";
        }
        values {
            RATIO ratio: f64 = 1.0, 0.01..64.0, look("Ratio", Q::Ratio, S::Pitch).log().step(0.5, 0.01).decimals(4).when(when!(Operator::TUNED_BY is TunedBy::{Ratio})),
                "Multiple of the key's frequency.";
            SEMITONES semitones: f64 = 0.0, -72.0..72.0, look("Semitones", Q::Semitones, S::Pitch).step(1.0, 0.1).decimals(2).when(when!(Operator::TUNED_BY is TunedBy::{Semitones})),
                "Distance from the key in semitones; 12 is an octave.";
            FIXED_HZ fixed_hz: f64 = 440.0, 0.01..20000.0, look("Fixed", Q::Hertz, S::Pitch).log().decimals(2).when(when!(Operator::TUNED_BY is TunedBy::{Fixed})),
                "The same frequency on every key.";
            DETUNE_CENTS detune_cents: f64 = 0.0, -1200.0..1200.0, look("Fine", Q::Cents, S::Pitch).step(1.0, 0.1).decimals(1),
                "Fine tuning in cents; its beat grows with the key.";
            OFFSET_HZ offset_hz: f64 = 0.0, -200.0..200.0, look("Offset", Q::Offset, S::Pitch).step(0.1, 0.01).decimals(3),
                "Constant offset in hertz; its beat is the same on every key.";
            POSITION position: f64 = 0.0, 0.0..1.0, look("Position", Q::Share, S::Wave).step(0.01, 0.001).decimals(1).shared().when(When::Scanned),
                "Place in the table, from its first cycle to its last.";
            WIDTH width: f64 = 0.25, 0.01..0.99, look("Width", Q::Share, S::Wave).step(0.01, 0.001).decimals(1).shared().when(When::Pulse),
                "Share of the pulse that is up; 50 % is a square.";
            START_TURNS start_turns: f64 = 0.0, 0.0..1.0, look("Start at", Q::Share, S::Cycle).step(0.05, 0.01).decimals(1).onset().when(when!(Operator::START is Start::{Fixed})),
                "Place in the cycle a note begins at; 25 % is a sine's peak.";
        }
    }
}

part! {
    /// How a cycle is shaped, in the order it is done: `lean` moves its places, `repeat` runs through it several times,
    /// `fold` turns its peaks back, `steps` draws its level toward a staircase. All at rest leave it as it is.
    #[derive(Copy)]
    #[serde(default)]
    pub struct CycleShape: Unit "cycle" in "kind.operator.cycle." {
        values {
            LEAN lean: f64 = 0.0, -1.0..1.0, look("Lean", Q::Bipolar, S::Cycle).step(0.05, 0.01).shared(),
                "Moves the cycle's peaks earlier or later: one flank steeper, the other flatter.";
            REPEAT repeat: f64 = 1.0, 1.0..16.0, look("Repeat", Q::Ratio, S::Cycle).log().step(0.5, 0.01).decimals(2).shared(),
                "How many times the cycle runs in one period; what does not fit is faded over, and the pitch stays.";
            FOLD fold: f64 = 0.0, 0.0..1.0, look("Fold", Q::Share, S::Cycle).step(0.05, 0.01).shared(),
                "Turns the cycle's peaks back, again and again: more and more partials.";
            STEPS steps: f64 = 0.0, 0.0..1.0, look("Steps", Q::Share, S::Cycle).step(0.05, 0.01).shared(),
                "How far the level keeps to steps, like a staircase with round edges.";
            LEVELS levels: f64 = 4.0, 2.0..16.0, look("Levels", Q::Count, S::Cycle).step(1.0, 1.0).shared(),
                "Steps of level from zero to the peak.";
        }
    }
}

impl CycleShape {
    /// Whether it changes nothing.
    pub fn is_plain(&self) -> bool {
        self.lean == 0.0 && self.repeat == 1.0 && self.fold == 0.0 && self.steps == 0.0
    }
}

part! {
    /// What is done to an operator's harmonics. Partial `k` (from 1) comes to lie at `1 + shift + (k - 1) spacing` times the
    /// operator's frequency.
    #[derive(Copy)]
    #[serde(default)]
    pub struct Harmonics: Unit "harmonics" in "kind.operator.harmonics." {
        values {
            SPACING spacing: f64 = 1.0, 0.1..4.0, look("Spacing", Q::Ratio, S::Harmonics).log().step(0.1, 0.01).decimals(3).shared(),
                "Distance from partial to partial; 1 is in tune, 1.05 rings like metal, 2 leaves the odd ones.";
            SHIFT shift: f64 = 0.0, 0.0..16.0, look("Shift", Q::Ratio, S::Harmonics).power(2.0).step(0.1, 0.01).decimals(3).shared(),
                "Moves all partials up by so many times the operator's frequency; whole numbers stay in tune.";
            TILT_DB tilt_db: f64 = 0.0, -12.0..12.0, look("Tilt", Q::Gain, S::Harmonics).step(0.5, 0.1).decimals(1).shared(),
                "Change of level with each octave of harmonics: below zero darker, above zero brighter.";
            BALANCE balance: f64 = 0.0, -1.0..1.0, look("Odd / even", Q::Bipolar, S::Harmonics).step(0.05, 0.01).shared(),
                "Below zero the even harmonics fade, above zero the odd ones.";
            LOW low: f64 = 1.0, 1.0..256.0, look("From", Q::Number, S::Harmonics).log().step(1.0, 0.1).decimals(1).shared(),
                "Harmonics below this number are taken away.";
            HIGH high: f64 = 256.0, 1.0..256.0, look("To", Q::Number, S::Harmonics).log().step(1.0, 0.1).decimals(1).shared(),
                "Harmonics above this number are taken away.";
        }
    }
}

impl Harmonics {
    /// Whether it changes nothing.
    pub fn is_plain(&self) -> bool {
        *self == Harmonics::default()
    }
}
