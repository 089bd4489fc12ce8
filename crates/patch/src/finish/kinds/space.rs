//! Echoes, rooms, and where the sound stands.

use crate::params::choice::options;
use crate::params::param::{Quantity as Q, When, when};
use crate::params::part::part;
use crate::params::section::SectionId as S;
use crate::parts::look::look;

/// Longest echo, in seconds.
pub const LONGEST_DELAY_S: f64 = 4.0;

options! {
    /// What times are counted in.
    pub enum DelayIn {
        /// Seconds.
        Seconds,
        /// Beats of the tempo.
        #[default]
        Beats,
    }
}

options! {
    /// Where echoes go.
    pub enum DelayWay {
        /// Each side by itself.
        #[default]
        Straight,
        /// From side to side.
        PingPong,
        /// Only once.
        Single,
    }
}

part! {
    /// Echoes.
    #[serde(default)]
    pub struct Delay: Effect "delay" in "kind.delay." {
        choices {
            CLOCK clock: DelayIn = DelayIn::Beats, "Times in", Effect, When::Always, ["Seconds", "Beats"],
                "Whether times are seconds or beats of the tempo.";
            WAY way: DelayWay = DelayWay::Straight, "Echoes", Effect, When::Always, ["Straight", "Ping-pong", "Once"],
                "Each side by itself, from side to side, or only once.";
        }
        values {
            LEFT_S left_s: f64 = 0.3, 0.001..4.0, look("Left", Q::Seconds, S::Effect).log().decimals(4).when(when!(Delay::CLOCK is DelayIn::{Seconds})),
                "From the sound to its first echo at the left.";
            RIGHT_S right_s: f64 = 0.3, 0.001..4.0, look("Right", Q::Seconds, S::Effect).log().decimals(4).when(when!(Delay::CLOCK is DelayIn::{Seconds})),
                "From the sound to its first echo at the right.";
            LEFT_BEATS left_beats: f64 = 0.75, 0.03125..8.0, look("Left", Q::Beats, S::Effect).log().when(when!(Delay::CLOCK is DelayIn::{Beats})),
                "From the sound to its first echo at the left, in beats.";
            RIGHT_BEATS right_beats: f64 = 0.5, 0.03125..8.0, look("Right", Q::Beats, S::Effect).log().when(when!(Delay::CLOCK is DelayIn::{Beats})),
                "From the sound to its first echo at the right, in beats.";
            FEEDBACK feedback: f64 = 0.35, 0.0..1.0, look("Feedback", Q::Share, S::Effect).step(0.05, 0.01).when(when!(Delay::WAY is DelayWay::{Straight, PingPong})),
                "How much of each echo comes again.";
            LOW_CUT_HZ low_cut_hz: f64 = 100.0, 20.0..2000.0, look("Low cut", Q::Hertz, S::Effect).log().decimals(0),
                "What echoes lose below.";
            HIGH_CUT_HZ high_cut_hz: f64 = 6000.0, 500.0..20000.0, look("High cut", Q::Hertz, S::Effect).log().decimals(0),
                "What echoes lose above.";
            DUCK_DB duck_db: f64 = 0.0, 0.0..36.0, look("Ducking", Q::Gain, S::Effect).step(1.0, 0.1).decimals(1),
                "How far echoes are ducked while the sound itself is there.";
            DRIVE_DB drive_db: f64 = 0.0, 0.0..24.0, look("Drive", Q::Gain, S::Effect).step(1.0, 0.1).decimals(1),
                "How hard echoes are pressed into a round curve.";
            SHIFT_ST shift_st: f64 = 0.0, -12.0..12.0, look("Shift", Q::Semitones, S::Effect).step(1.0, 0.01).decimals(2),
                "How far each echo is shifted in pitch.";
        }
    }
}

options! {
    /// Whether a room lets go of what is in it.
    pub enum Freeze {
        /// It dies away.
        #[default]
        Off,
        /// It stays.
        On,
    }
}

options! {
    /// What of a room its cuts reach.
    pub enum Cuts {
        /// The first reflections and what comes after.
        #[default]
        All,
        /// Only what comes after.
        Late,
    }
}

part! {
    /// A room.
    #[serde(default)]
    pub struct Reverb: Effect "reverb" in "kind.reverb." {
        choices {
            FREEZE freeze: Freeze = Freeze::Off, "Freeze", Effect, When::Always, ["Off", "On"],
                "Holds what is in the room as it is, and lets nothing in.";
            CUTS cuts: Cuts = Cuts::All, "Cuts reach", Effect, When::Always, ["Early and late", "Late"],
                "Whether the cuts reach the first reflections too.";
        }
        values {
            SIZE size: f64 = 0.5, 0.0..1.0, look("Size", Q::Share, S::Effect).step(0.05, 0.01),
                "From a box to a hall.";
            TIME_S time_s: f64 = 2.0, 0.1..30.0, look("Time", Q::Seconds, S::Effect).log().decimals(2),
                "Time in which it falls by 60 dB.";
            PRE_S pre_s: f64 = 0.02, 0.0..0.25, look("Pre-delay", Q::Seconds, S::Effect).step(0.005, 0.001).decimals(3),
                "Time before it begins.";
            DAMP_HZ damp_hz: f64 = 6000.0, 500.0..20000.0, look("Damping", Q::Hertz, S::Effect).log().decimals(0),
                "Above this it falls twice as fast and faster.";
            EARLY early: f64 = 0.3, 0.0..1.0, look("Early", Q::Share, S::Effect).step(0.05, 0.01),
                "How much is heard of the first reflections.";
            LOW_CUT_HZ low_cut_hz: f64 = 120.0, 20.0..2000.0, look("Low cut", Q::Hertz, S::Effect).log().decimals(0),
                "What does not come into the room below, by 6 dB an octave.";
            HIGH_CUT_HZ high_cut_hz: f64 = 12000.0, 500.0..20000.0, look("High cut", Q::Hertz, S::Effect).log().decimals(0),
                "What does not come into the room above, by 6 dB an octave.";
            MOVE movement: f64 = 0.3, 0.0..1.0, look("Movement", Q::Share, S::Effect).step(0.05, 0.01),
                "How much its echoes wander.";
            WIDTH width: f64 = 1.0, 0.0..1.0, look("Width", Q::Share, S::Effect).step(0.05, 0.01),
                "How wide it is; at 0 it is mono.";
            SHIMMER shimmer: f64 = 0.0, 0.0..1.0, look("Shimmer", Q::Share, S::Effect).step(0.05, 0.01),
                "How much of it rises by an octave each time round.";
        }
    }
}

options! {
    /// How it is made wider.
    pub enum WidenBy {
        /// One side later than the other.
        #[default]
        Delay,
        /// A copy a little higher at one side, one a little lower at the other.
        Copies,
    }
}

part! {
    /// Wider.
    #[serde(default)]
    pub struct Widening: Effect "widening" in "kind.widening." {
        choices {
            BY by: WidenBy = WidenBy::Delay, "By", Effect, When::Always, ["A short delay", "Detuned copies"],
                "One side a little later than the other, or copies a little higher and lower at the sides.";
        }
        values {
            TIME_S time_s: f64 = 0.012, 0.001..0.04, look("Time", Q::Seconds, S::Effect).log().decimals(4).when(when!(Widening::BY is WidenBy::{Delay})),
                "How much later.";
            DETUNE_CENTS detune_cents: f64 = 8.0, 0.0..50.0, look("Detune", Q::Cents, S::Effect).step(1.0, 0.1).decimals(1).when(when!(Widening::BY is WidenBy::{Copies})),
                "How much higher and lower.";
            ABOVE_HZ above_hz: f64 = 150.0, 20.0..2000.0, look("Above", Q::Hertz, S::Effect).log().decimals(0),
                "What lies below stays as it is.";
        }
    }
}

part! {
    /// Where it stands.
    #[serde(default)]
    pub struct Stereo: Effect "stereo" in "kind.stereo." {
        values {
            MONO_HZ mono_hz: f64 = 20.0, 20.0..500.0, look("Mono below", Q::Hertz, S::Effect).log().decimals(0),
                "What lies below stands in the middle; 20 Hz leaves all as it is.";
            LOW_WIDTH low_width: f64 = 1.0, 0.0..2.0, look("Low width", Q::Share, S::Effect).step(0.05, 0.01),
                "How wide the lows are: 0 is mono, 100 % as they came.";
            MID_WIDTH mid_width: f64 = 1.0, 0.0..2.0, look("Mid width", Q::Share, S::Effect).step(0.05, 0.01),
                "How wide the middle is.";
            HIGH_WIDTH high_width: f64 = 1.0, 0.0..2.0, look("High width", Q::Share, S::Effect).step(0.05, 0.01),
                "How wide the highs are.";
            LOW_HZ low_hz: f64 = 250.0, 60.0..1000.0, look("Low up to", Q::Hertz, S::Effect).log().decimals(0),
                "Where the lows end.";
            HIGH_HZ high_hz: f64 = 3000.0, 1000.0..12000.0, look("High from", Q::Hertz, S::Effect).log().decimals(0),
                "Where the highs begin.";
            PAN pan: f64 = 0.0, -1.0..1.0, look("Pan", Q::Pan, S::Effect).step(0.05, 0.01),
                "Where all of it stands.";
            BALANCE balance: f64 = 0.0, -1.0..1.0, look("Balance", Q::Pan, S::Effect).step(0.05, 0.01),
                "Makes the other side softer, and leaves what stands where.";
        }
    }
}
