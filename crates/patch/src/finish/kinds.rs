//! What effects can be, with their rows.

use crate::choice::options;
use crate::kinds::filter::{FilterType, Slope};
use crate::look::look;
use crate::movement::shape::ShapePoint;
use crate::param::{Quantity as Q, When};
use crate::part::part;
use crate::section::SectionId as S;

/// Most bands of an EQ.
pub const MAX_EQ_BANDS: usize = 8;
/// Most points of a curve or shape drawn in an effect.
pub const MAX_EFFECT_POINTS: usize = 16;
/// Longest echo, in seconds.
pub const LONGEST_DELAY_S: f64 = 4.0;

const fn point(at: f64, level: f64) -> ShapePoint {
    ShapePoint {
        at,
        level,
        curve: 0.0,
    }
}

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
            points: Vec<ShapePoint> = vec![point(0.0, 0.1), point(0.35, 0.25), point(0.65, 0.75), point(1.0, 0.9)],
        }
        choices {
            BEND bend: Bend = Bend::Soft, "Curve", Effect, When::Always,
                ["Soft", "Hard", "Fold", "Tube", "Tape", "Rectify", "Drawn", "Bits"],
                "Rounds peaks, cuts them, turns them back, one side more than the other, highs more than lows; turns the lower half up; as drawn; or in steps.";
            FINENESS fineness: Fineness = Fineness::X4, "Computed at", Effect, When::Chosen(Drive::BEND, &[0, 1, 2, 3, 4, 5, 6]), ["1 ×", "2 ×", "4 ×", "8 ×"],
                "How many times the rate it is computed at: more costs more and adds fewer partials that do not belong.";
        }
        values {
            DRIVE_DB drive_db: f64 = 6.0, 0.0..48.0, look("Drive", Q::Gain, S::Effect).step(1.0, 0.1).decimals(1),
                "How hard the sound is pressed into the curve; it gets rougher, not louder.";
            BIAS bias: f64 = 0.0, -1.0..1.0, look("Bias", Q::Bipolar, S::Effect).step(0.05, 0.01).when(When::Chosen(Drive::BEND, &[0, 1, 2, 3, 4, 6])),
                "Moves the sound to one side of the curve: even partials.";
            BITS bits: f64 = 8.0, 1.0..16.0, look("Bits", Q::Number, S::Effect).step(1.0, 0.1).decimals(1).when(When::Chosen(Drive::BEND, &[7])),
                "How many bits are left of each sample.";
            STEP_HZ step_hz: f64 = 12000.0, 100.0..48000.0, look("Rate", Q::Hertz, S::Effect).log().decimals(0).when(When::Chosen(Drive::BEND, &[7])),
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
            SLOPE slope: Slope = Slope::Db12, "Slope", Effect, When::Chosen(FilterEffect::RESPONSE, &[0, 1, 2, 3, 4]), ["12 dB", "24 dB"],
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
            VOWEL vowel: f64 = 0.0, 0.0..1.0, look("Vowel", Q::Share, S::Effect).step(0.05, 0.01).when(When::Chosen(FilterEffect::RESPONSE, &[7])),
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
            SEMITONES semitones: f64 = 0.0, -36.0..36.0, look("Pitch", Q::Semitones, S::Effect).step(1.0, 0.01).decimals(2).when(When::Chosen(Resonators::TUNED_TO, &[0])),
                "How far above the key the lowest is tuned.";
            PITCH_HZ pitch_hz: f64 = 220.0, 20.0..5000.0, look("Pitch", Q::Hertz, S::Effect).log().decimals(1).when(When::Chosen(Resonators::TUNED_TO, &[1])),
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
            SLOPE slope: CutSlope = CutSlope::Db12, "Slope", Band, When::Chosen(EqBand::TYPE, &[0, 5]), ["6 dB", "12 dB", "24 dB", "36 dB", "48 dB"],
                "How steep it cuts, in decibels an octave.";
        }
        values {
            HZ hz: f64 = 1000.0, 20.0..20000.0, look("Frequency", Q::Hertz, S::Band).log().decimals(1),
                "Where it works.";
            #[serde(default)]
            GAIN_DB gain_db: f64 = 0.0, -24.0..24.0, look("Gain", Q::Gain, S::Band).step(0.5, 0.1).decimals(1).when(When::Chosen(EqBand::TYPE, &[1, 2, 4, 6])),
                "By how much it raises or lowers.";
            #[serde(default = "plain_q")]
            Q q: f64 = 0.707, 0.1..18.0, look("Q", Q::Number, S::Band).log().decimals(2).when(When::Chosen(EqBand::TYPE, &[0, 1, 2, 3, 4, 5])),
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

options! {
    /// What a compressor listens to.
    pub enum SideChain {
        /// What it works on.
        #[default]
        Own,
        /// The kick of the beat.
        Beat,
    }
}

options! {
    /// What counts as loud.
    pub enum Detector {
        /// The highest of the moment.
        #[default]
        Peak,
        /// The mean power of 10 ms.
        Power,
    }
}

part! {
    /// Holds what is loud down.
    #[serde(default)]
    pub struct Compressor: Effect "compressor" in "kind.compressor." {
        choices {
            SIDE side: SideChain = SideChain::Own, "Listens to", Effect, When::Always, ["Itself", "The beat"],
                "What decides how far it presses: the sound itself, or the kick of the beat.";
            DETECTOR detector: Detector = Detector::Peak, "Level is", Effect, When::Always, ["Peak", "Power"],
                "Whether peaks count or the power of 10 ms.";
        }
        values {
            THRESHOLD_DB threshold_db: f64 = -18.0, -60.0..0.0, look("Threshold", Q::Gain, S::Effect).step(1.0, 0.1).decimals(1),
                "Above this level it presses.";
            RATIO ratio: f64 = 2.0, 1.0..20.0, look("Ratio", Q::Number, S::Effect).log().decimals(2),
                "How many decibels more go in for one more that comes out.";
            KNEE_DB knee_db: f64 = 6.0, 0.0..24.0, look("Knee", Q::Gain, S::Effect).step(1.0, 0.1).decimals(1),
                "Over how many decibels around the threshold it begins to press.";
            ATTACK_S attack_s: f64 = 0.01, 0.0001..0.5, look("Attack", Q::Seconds, S::Effect).log().decimals(4),
                "Time in which two thirds of the way down are gone.";
            RELEASE_S release_s: f64 = 0.15, 0.005..3.0, look("Release", Q::Seconds, S::Effect).log().decimals(3),
                "Time in which two thirds of the way back are gone.";
            MAKEUP_DB makeup_db: f64 = 0.0, 0.0..36.0, look("Make-up", Q::Gain, S::Effect).step(1.0, 0.1).decimals(1),
                "By how much what comes out is raised.";
            AHEAD_S ahead_s: f64 = 0.0, 0.0..0.01, look("Look-ahead", Q::Seconds, S::Effect).step(0.001, 0.0001).decimals(4).still(),
                "How long before a peak it begins to press; all else waits as long.";
            SIDE_HZ side_hz: f64 = 20.0, 20.0..2000.0, look("Listens above", Q::Hertz, S::Effect).log().decimals(0),
                "What lies below does not decide how far it presses.";
        }
    }
}

part! {
    /// Three compressors side by side.
    #[serde(default)]
    pub struct ThreeBand: Effect "three_band" in "kind.three_band." {
        values {
            AMOUNT amount: f64 = 0.3, 0.0..1.0, look("Amount", Q::Share, S::Effect).step(0.05, 0.01),
                "How far levels are pressed and lifted towards the middle of each band.";
            TIME time: f64 = 1.0, 0.1..10.0, look("Time", Q::Ratio, S::Effect).log().decimals(2),
                "How slowly it follows: 1 is 10 ms down and 100 ms back.";
            LOW_HZ low_hz: f64 = 120.0, 40.0..600.0, look("Low up to", Q::Hertz, S::Effect).log().decimals(0),
                "Where the lows end.";
            HIGH_HZ high_hz: f64 = 2500.0, 800.0..12000.0, look("High from", Q::Hertz, S::Effect).log().decimals(0),
                "Where the highs begin.";
            LOW_DB low_db: f64 = 0.0, -24.0..24.0, look("Low gain", Q::Gain, S::Bands).step(1.0, 0.1).decimals(1),
                "Level of the lows.";
            LOW_UP low_up: f64 = 1.0, 0.0..1.0, look("Low up", Q::Share, S::Bands).step(0.05, 0.01),
                "How far quiet lows are lifted.";
            LOW_DOWN low_down: f64 = 1.0, 0.0..1.0, look("Low down", Q::Share, S::Bands).step(0.05, 0.01),
                "How far loud lows are pressed.";
            MID_DB mid_db: f64 = 0.0, -24.0..24.0, look("Mid gain", Q::Gain, S::Bands).step(1.0, 0.1).decimals(1),
                "Level of the middle.";
            MID_UP mid_up: f64 = 1.0, 0.0..1.0, look("Mid up", Q::Share, S::Bands).step(0.05, 0.01),
                "How far a quiet middle is lifted.";
            MID_DOWN mid_down: f64 = 1.0, 0.0..1.0, look("Mid down", Q::Share, S::Bands).step(0.05, 0.01),
                "How far a loud middle is pressed.";
            HIGH_DB high_db: f64 = 0.0, -24.0..24.0, look("High gain", Q::Gain, S::Bands).step(1.0, 0.1).decimals(1),
                "Level of the highs.";
            HIGH_UP high_up: f64 = 1.0, 0.0..1.0, look("High up", Q::Share, S::Bands).step(0.05, 0.01),
                "How far quiet highs are lifted.";
            HIGH_DOWN high_down: f64 = 1.0, 0.0..1.0, look("High down", Q::Share, S::Bands).step(0.05, 0.01),
                "How far loud highs are pressed.";
        }
    }
}

part! {
    /// Attack and sustain.
    #[serde(default)]
    pub struct Transients: Effect "transients" in "kind.transients." {
        values {
            ATTACK_DB attack_db: f64 = 3.0, -18.0..18.0, look("Attack", Q::Gain, S::Effect).step(1.0, 0.1).decimals(1),
                "How much louder or softer beginnings are.";
            SUSTAIN_DB sustain_db: f64 = 0.0, -18.0..18.0, look("Sustain", Q::Gain, S::Effect).step(1.0, 0.1).decimals(1),
                "How much louder or softer what follows is.";
        }
    }
}

options! {
    /// What a ducker steps back for.
    pub enum DuckBy {
        /// Each kick of the beat.
        #[default]
        Kick,
        /// A drawn shape that goes round with the tempo.
        Shape,
    }
}

part! {
    /// Makes room for the beat.
    #[serde(default)]
    pub struct Ducker: Effect "ducker" in "kind.ducker." {
        also {
            /// Levels over one cycle, from the depth to the full sound: 2 to 16 points.
            points: Vec<ShapePoint> = vec![point(0.0, 0.0), ShapePoint { at: 0.6, level: 1.0, curve: 0.3 }, point(1.0, 1.0)],
        }
        choices {
            BY by: DuckBy = DuckBy::Kick, "Steps back", Effect, When::Always, ["With the kick", "By the shape"],
                "With every kick of the beat, or along the shape that is drawn, once a cycle.";
        }
        values {
            DEPTH_DB depth_db: f64 = 6.0, 0.0..60.0, look("Depth", Q::Gain, S::Effect).step(1.0, 0.1).decimals(1),
                "How far it steps back.";
            ATTACK_S attack_s: f64 = 0.005, 0.0005..0.1, look("Attack", Q::Seconds, S::Effect).log().decimals(4).when(When::Chosen(Ducker::BY, &[0])),
                "Time in which it steps back.";
            RELEASE_S release_s: f64 = 0.2, 0.01..2.0, look("Release", Q::Seconds, S::Effect).log().decimals(3).when(When::Chosen(Ducker::BY, &[0])),
                "Time in which it comes back.";
            CYCLE_BEATS cycle_beats: f64 = 1.0, 0.125..16.0, look("Cycle", Q::Beats, S::Effect).log().when(When::Chosen(Ducker::BY, &[1])),
                "How long the shape takes.";
        }
    }
}

part! {
    /// Copies that drift.
    #[serde(default)]
    pub struct Chorus: Effect "chorus" in "kind.chorus." {
        values {
            VOICES voices: f64 = 2.0, 2.0..8.0, look("Voices", Q::Count, S::Effect).step(1.0, 1.0).still(),
                "How many copies there are.";
            RATE_HZ rate_hz: f64 = 0.5, 0.0..10.0, look("Rate", Q::Rate, S::Effect).zero_or_log(0.01).decimals(3),
                "How often they drift to and fro in a second; at 0 they stand still.";
            DEPTH_S depth_s: f64 = 0.0025, 0.0..0.015, look("Depth", Q::Seconds, S::Effect).step(0.0005, 0.0001).decimals(4),
                "How far they drift.";
            DELAY_S delay_s: f64 = 0.012, 0.002..0.05, look("Delay", Q::Seconds, S::Effect).log().decimals(4),
                "How late they are in the middle.";
            WIDTH width: f64 = 1.0, 0.0..1.0, look("Width", Q::Share, S::Effect).step(0.05, 0.01),
                "How far apart they stand.";
            LOW_CUT_HZ low_cut_hz: f64 = 150.0, 10.0..2000.0, look("Low cut", Q::Hertz, S::Effect).log().decimals(0),
                "What lies below goes past it, by 12 dB an octave, so that a bass keeps its fundamental; at the lowest all is copied.";
        }
    }
}

part! {
    /// A comb that moves.
    #[serde(default)]
    pub struct Flanger: Effect "flanger" in "kind.flanger." {
        values {
            RATE_HZ rate_hz: f64 = 0.2, 0.0..10.0, look("Rate", Q::Rate, S::Effect).zero_or_log(0.01).decimals(3),
                "How often it sweeps in a second; at 0 it stands still.";
            DEPTH_S depth_s: f64 = 0.002, 0.0..0.01, look("Depth", Q::Seconds, S::Effect).step(0.0005, 0.0001).decimals(4),
                "How far it sweeps.";
            DELAY_S delay_s: f64 = 0.0005, 0.0001..0.02, look("Delay", Q::Seconds, S::Effect).log().decimals(4),
                "How late the echo is at its earliest.";
            FEEDBACK feedback: f64 = 0.3, -0.98..0.98, look("Feedback", Q::Bipolar, S::Effect).step(0.05, 0.01),
                "How much of the echo goes in again; below zero turned over.";
            WIDTH width: f64 = 0.5, 0.0..1.0, look("Width", Q::Share, S::Effect).step(0.05, 0.01),
                "How far left and right are apart in their sweep.";
            LOW_CUT_HZ low_cut_hz: f64 = 150.0, 10.0..2000.0, look("Low cut", Q::Hertz, S::Effect).log().decimals(0),
                "What lies below goes past it, by 12 dB an octave, so that a bass keeps its fundamental; at the lowest all is swept.";
        }
    }
}

options! {
    /// Whether a phaser moves.
    pub enum Sweep {
        /// To and fro.
        #[default]
        Moves,
        /// It stands at its centre, for links to move.
        Stands,
    }
}

part! {
    /// Notches that move.
    #[serde(default)]
    pub struct Phaser: Effect "phaser" in "kind.phaser." {
        choices {
            SWEEP sweep: Sweep = Sweep::Moves, "Notches", Effect, When::Always, ["Move", "Stand"],
                "To and fro around the centre, or standing there.";
        }
        values {
            STAGES stages: f64 = 6.0, 2.0..12.0, look("Stages", Q::Count, S::Effect).step(2.0, 1.0).still(),
                "How many there are: two for each notch.";
            CENTRE_HZ centre_hz: f64 = 800.0, 50.0..8000.0, look("Centre", Q::Hertz, S::Effect).log().decimals(0),
                "Around which frequency the notches lie.";
            RATE_HZ rate_hz: f64 = 0.3, 0.0..10.0, look("Rate", Q::Rate, S::Effect).zero_or_log(0.01).decimals(3).when(When::Chosen(Phaser::SWEEP, &[0])),
                "How often they move to and fro in a second; at 0 they stand still.";
            DEPTH_OCT depth_oct: f64 = 1.5, 0.0..4.0, look("Depth", Q::Octaves, S::Effect).step(0.25, 0.05).decimals(2).when(When::Chosen(Phaser::SWEEP, &[0])),
                "How far they move, either way.";
            FEEDBACK feedback: f64 = 0.3, -0.95..0.95, look("Feedback", Q::Bipolar, S::Effect).step(0.05, 0.01),
                "How much of it goes in again; below zero turned over.";
            WIDTH width: f64 = 0.25, 0.0..1.0, look("Width", Q::Share, S::Effect).step(0.05, 0.01).when(When::Chosen(Phaser::SWEEP, &[0])),
                "How far left and right are apart in their sweep.";
        }
    }
}

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
            LEFT_S left_s: f64 = 0.3, 0.001..4.0, look("Left", Q::Seconds, S::Effect).log().decimals(4).when(When::Chosen(Delay::CLOCK, &[0])),
                "From the sound to its first echo at the left.";
            RIGHT_S right_s: f64 = 0.3, 0.001..4.0, look("Right", Q::Seconds, S::Effect).log().decimals(4).when(When::Chosen(Delay::CLOCK, &[0])),
                "From the sound to its first echo at the right.";
            LEFT_BEATS left_beats: f64 = 0.75, 0.03125..8.0, look("Left", Q::Beats, S::Effect).log().when(When::Chosen(Delay::CLOCK, &[1])),
                "From the sound to its first echo at the left, in beats.";
            RIGHT_BEATS right_beats: f64 = 0.5, 0.03125..8.0, look("Right", Q::Beats, S::Effect).log().when(When::Chosen(Delay::CLOCK, &[1])),
                "From the sound to its first echo at the right, in beats.";
            FEEDBACK feedback: f64 = 0.35, 0.0..1.0, look("Feedback", Q::Share, S::Effect).step(0.05, 0.01).when(When::Chosen(Delay::WAY, &[0, 1])),
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
            SEMITONES semitones: f64 = 12.0, -24.0..24.0, look("Pitch", Q::Semitones, S::Effect).step(1.0, 0.01).decimals(2).when(When::Chosen(Shifter::WHAT, &[0])),
                "How far up or down.";
            CENTS cents: f64 = 0.0, -100.0..100.0, look("Cents", Q::Cents, S::Effect).step(1.0, 0.1).decimals(1).when(When::Chosen(Shifter::WHAT, &[0])),
                "The same, finely.";
            GRAIN_S grain_s: f64 = 0.06, 0.02..0.2, look("Grain", Q::Seconds, S::Effect).log().decimals(3).when(When::Chosen(Shifter::WHAT, &[0])),
                "Length of the pieces it is made of: short ones follow quickly, long ones are smooth.";
            HERTZ hertz: f64 = 5.0, -2000.0..2000.0, look("Shift", Q::Offset, S::Effect).step(1.0, 0.1).decimals(1).when(When::Chosen(Shifter::WHAT, &[1])),
                "By how much every partial is moved.";
            FEEDBACK feedback: f64 = 0.0, 0.0..0.9, look("Feedback", Q::Share, S::Effect).step(0.05, 0.01),
                "How much of it is shifted again.";
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
            TIME_S time_s: f64 = 0.012, 0.001..0.04, look("Time", Q::Seconds, S::Effect).log().decimals(4).when(When::Chosen(Widening::BY, &[0])),
                "How much later.";
            DETUNE_CENTS detune_cents: f64 = 8.0, 0.0..50.0, look("Detune", Q::Cents, S::Effect).step(1.0, 0.1).decimals(1).when(When::Chosen(Widening::BY, &[1])),
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

part! {
    /// Never louder.
    #[serde(default)]
    pub struct Limiter: Effect "limiter" in "kind.limiter." {
        values {
            CEILING_DB ceiling_db: f64 = -1.0, -24.0..0.0, look("Ceiling", Q::Gain, S::Effect).step(0.5, 0.1).decimals(1),
                "No true peak leaves it louder than this.";
            RELEASE_S release_s: f64 = 0.08, 0.005..1.0, look("Release", Q::Seconds, S::Effect).log().decimals(3),
                "Time in which it comes back after a peak.";
            AHEAD_S ahead_s: f64 = 0.003, 0.001..0.01, look("Look-ahead", Q::Seconds, S::Effect).step(0.001, 0.0001).decimals(4).still(),
                "How long before a peak it begins; all else waits as long.";
        }
    }
}

options! {
    /// Which way up.
    pub enum Polarity {
        /// As it came.
        #[default]
        Plain,
        /// Turned upside down.
        Turned,
    }
}

part! {
    /// Louder, softer, turned round.
    #[serde(default)]
    pub struct Gain: Effect "gain" in "kind.level." {
        choices {
            POLARITY polarity: Polarity = Polarity::Plain, "Polarity", Effect, When::Always, ["As it is", "Turned"],
                "Turned upside down it takes away what is the same elsewhere.";
        }
        values {
            GAIN_DB gain_db: f64 = 0.0, -60.0..24.0, look("Gain", Q::Level, S::Effect).step(1.0, 0.1).decimals(1),
                "Louder or softer.";
        }
    }
}
