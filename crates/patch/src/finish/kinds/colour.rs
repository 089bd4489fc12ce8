//! What bends, filters, rings along or shifts.

use crate::kinds::filter::{FilterType, Slope};
use crate::movement::shape::{ShapePoint, point};
use crate::params::choice::options;
use crate::params::param::{Quantity as Q, When, when};
use crate::params::part::part;
use crate::params::section::SectionId as S;
use crate::parts::look::look;

options! {
    /// How the wave is bent.
    pub enum Bend {
        /// Rounds the peaks.
        #[default]
        Soft,
        /// Cuts the peaks off.
        Hard,
        /// Turns the peaks back.
        Fold,
        /// Rounds one side more than the other.
        Tube,
        /// Rounds the highs more than the lows.
        Tape,
        /// Turns the lower half up.
        Rectify,
        /// As drawn.
        Drawn,
        /// Fewer steps, in level and in time.
        Bits,
    }
}

options! {
    /// How many times the rate a bend is computed at.
    pub enum Fineness {
        /// As it is.
        X1,
        /// Twice.
        X2,
        /// Four times.
        #[default]
        X4,
        /// Eight times.
        X8,
    }
}

part! {
    /// Bends the wave.
    #[serde(default)]
    pub struct Drive: Effect "drive" in "kind.drive." {
        also {
            /// From the lowest input to the highest: 2 to 16 points of the curve that is drawn.
            points: Vec<ShapePoint> = vec![point(0.0, 0.1, 0.0), point(0.35, 0.25, 0.0), point(0.65, 0.75, 0.0), point(1.0, 0.9, 0.0)],
        }
        choices {
            BEND bend: Bend = Bend::Soft, "Curve", Effect, When::Always,
                ["Soft", "Hard", "Fold", "Tube", "Tape", "Rectify", "Drawn", "Bits"],
                "Rounds peaks, cuts them, turns them back, one side more than the other, highs more than lows; turns the lower half up; as drawn; or in steps.";
            FINENESS fineness: Fineness = Fineness::X4, "Computed at", Effect, when!(Drive::BEND is Bend::{Soft, Hard, Fold, Tube, Tape, Rectify, Drawn}), ["1 ×", "2 ×", "4 ×", "8 ×"],
                "How many times the rate it is computed at: more costs more and adds fewer partials that do not belong.";
        }
        values {
            DRIVE_DB drive_db: f64 = 6.0, 0.0..48.0, look("Drive", Q::Gain, S::Effect).step(1.0, 0.1).decimals(1),
                "How hard the sound is pressed into the curve; it gets rougher, not louder.";
            BIAS bias: f64 = 0.0, -1.0..1.0, look("Bias", Q::Bipolar, S::Effect).step(0.05, 0.01).when(when!(Drive::BEND is Bend::{Soft, Hard, Fold, Tube, Tape, Drawn})),
                "Moves the sound to one side of the curve: even partials.";
            BITS bits: f64 = 8.0, 1.0..16.0, look("Bits", Q::Number, S::Effect).step(1.0, 0.1).decimals(1).when(when!(Drive::BEND is Bend::{Bits})),
                "How many bits are left of each sample.";
            STEP_HZ step_hz: f64 = 12000.0, 100.0..48000.0, look("Rate", Q::Hertz, S::Effect).log().decimals(0).when(when!(Drive::BEND is Bend::{Bits})),
                "How many samples are left of each second.";
            BEFORE_DB before_db: f64 = 0.0, -12.0..12.0, look("Tilt before", Q::Gain, S::Effect).step(1.0, 0.1).decimals(1),
                "Raises the highs and lowers the lows by so much before the curve, or the other way round.";
            AFTER_DB after_db: f64 = 0.0, -12.0..12.0, look("Tilt after", Q::Gain, S::Effect).step(1.0, 0.1).decimals(1),
                "The same after the curve.";
        }
    }
}

part! {
    /// A filter over a chain.
    #[serde(default)]
    pub struct FilterEffect: Effect "chain_filter" in "kind.filter." {
        choices {
            RESPONSE response: FilterType = FilterType::Low, "Type", Effect, When::Always,
                ["Low-pass", "High-pass", "Band-pass", "Notch", "Peak", "Comb +", "Comb −", "Vowel"],
                "What it does with frequencies; combs ring at the pitch of the newest note if they follow the key.";
            SLOPE slope: Slope = Slope::Db12, "Slope", Effect, when!(FilterEffect::RESPONSE is FilterType::{Low, High, Band, Notch, Peak}), ["12 dB", "24 dB"],
                "How steep it is, in decibels an octave.";
        }
        values {
            CUTOFF_HZ cutoff_hz: f64 = 8000.0, 20.0..20000.0, look("Cutoff", Q::Hertz, S::Effect).log().decimals(1),
                "Where the filter works, at C4 if it follows the key.";
            RESONANCE resonance: f64 = 0.0, 0.0..1.0, look("Resonance", Q::Share, S::Effect).step(0.05, 0.01),
                "How much it rings at its cutoff.";
            KEY_FOLLOW key_follow: f64 = 0.0, 0.0..1.0, look("Key follow", Q::Share, S::Effect).step(0.1, 0.01),
                "How far the cutoff follows the newest key.";
            DRIVE_DB drive_db: f64 = 0.0, 0.0..36.0, look("Drive", Q::Gain, S::Effect).step(1.0, 0.1).decimals(1),
                "How hard the sound is pressed into the filter; it gets rougher, not louder.";
            VOWEL vowel: f64 = 0.0, 0.0..1.0, look("Vowel", Q::Share, S::Effect).step(0.05, 0.01).when(when!(FilterEffect::RESPONSE is FilterType::{Vowel})),
                "Which vowel: from a through e, i and o to u.";
        }
    }
}

options! {
    /// What rings along.
    pub enum Ringing {
        /// Combs: strings with all their partials.
        #[default]
        Strings,
        /// Single partials.
        Plates,
    }
}

options! {
    /// What resonators are tuned to.
    pub enum TunedTo {
        /// The newest key.
        #[default]
        Key,
        /// A frequency.
        Fixed,
    }
}

part! {
    /// Tuned strings or plates that ring along.
    #[serde(default)]
    pub struct Resonators: Effect "resonators" in "kind.resonators." {
        choices {
            RINGING ringing: Ringing = Ringing::Strings, "What rings", Effect, When::Always, ["Strings", "Plates"],
                "Strings with all their partials, or single partials as plates and bars have them.";
            TUNED_TO tuned_to: TunedTo = TunedTo::Key, "Tuned to", Effect, When::Always, ["Newest key", "Frequency"],
                "Whether they follow the newest key or stay at a frequency.";
        }
        values {
            COUNT count: f64 = 6.0, 1.0..16.0, look("How many", Q::Count, S::Effect).step(1.0, 1.0).still(),
                "How many there are.";
            SEMITONES semitones: f64 = 0.0, -36.0..36.0, look("Pitch", Q::Semitones, S::Effect).step(1.0, 0.01).decimals(2).when(when!(Resonators::TUNED_TO is TunedTo::{Key})),
                "How far above the key the lowest is tuned.";
            PITCH_HZ pitch_hz: f64 = 220.0, 20.0..5000.0, look("Pitch", Q::Hertz, S::Effect).log().decimals(1).when(when!(Resonators::TUNED_TO is TunedTo::{Fixed})),
                "Frequency of the lowest.";
            SPREAD spread: f64 = 0.5, 0.0..1.0, look("Spread", Q::Share, S::Effect).step(0.05, 0.01),
                "How the others lie above the lowest: at 50 % its harmonics, below that closer, above that wider, as bars have them.";
            DECAY_S decay_s: f64 = 1.0, 0.02..20.0, look("Decay", Q::Seconds, S::Effect).log().decimals(2),
                "Time in which they fall by 60 dB.";
            BRIGHT bright: f64 = 0.5, 0.0..1.0, look("Brightness", Q::Share, S::Effect).step(0.05, 0.01),
                "How long high partials ring beside low ones.";
        }
    }
}

options! {
    /// What is shifted.
    pub enum ShiftWhat {
        /// Pitches, so that intervals stay.
        #[default]
        Pitch,
        /// All partials by as many hertz.
        Frequency,
    }
}

part! {
    /// Other pitches.
    #[serde(default)]
    pub struct Shifter: Effect "shifter" in "kind.shifter." {
        choices {
            WHAT what: ShiftWhat = ShiftWhat::Pitch, "Shifts", Effect, When::Always, ["Pitch", "Frequency"],
                "Pitches, so that intervals stay, or all partials by as many hertz, so that they go apart.";
        }
        values {
            SEMITONES semitones: f64 = 12.0, -24.0..24.0, look("Pitch", Q::Semitones, S::Effect).step(1.0, 0.01).decimals(2).when(when!(Shifter::WHAT is ShiftWhat::{Pitch})),
                "How far up or down.";
            CENTS cents: f64 = 0.0, -100.0..100.0, look("Cents", Q::Cents, S::Effect).step(1.0, 0.1).decimals(1).when(when!(Shifter::WHAT is ShiftWhat::{Pitch})),
                "The same, finely.";
            GRAIN_S grain_s: f64 = 0.06, 0.02..0.2, look("Grain", Q::Seconds, S::Effect).log().decimals(3).when(when!(Shifter::WHAT is ShiftWhat::{Pitch})),
                "Length of the pieces it is made of: short ones follow quickly, long ones are smooth.";
            HERTZ hertz: f64 = 5.0, -2000.0..2000.0, look("Shift", Q::Offset, S::Effect).step(1.0, 0.1).decimals(1).when(when!(Shifter::WHAT is ShiftWhat::{Frequency})),
                "By how much every partial is moved.";
            FEEDBACK feedback: f64 = 0.0, 0.0..0.9, look("Feedback", Q::Share, S::Effect).step(0.05, 0.01),
                "How much of it is shifted again.";
        }
    }
}
