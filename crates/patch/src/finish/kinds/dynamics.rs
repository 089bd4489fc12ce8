//! What turns the sound up and down by how loud it is, or by the beat.

use crate::movement::shape::{ShapePoint, point};
use crate::params::choice::options;
use crate::params::param::{Quantity as Q, When, when};
use crate::params::part::part;
use crate::params::section::SectionId as S;
use crate::parts::look::look;

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
            points: Vec<ShapePoint> = vec![point(0.0, 0.0, 0.0), point(0.6, 1.0, 0.3), point(1.0, 1.0, 0.0)],
        }
        choices {
            BY by: DuckBy = DuckBy::Kick, "Steps back", Effect, When::Always, ["With the kick", "By the shape"],
                "With every kick of the beat, or along the shape that is drawn, once a cycle.";
        }
        values {
            DEPTH_DB depth_db: f64 = 6.0, 0.0..60.0, look("Depth", Q::Gain, S::Effect).step(1.0, 0.1).decimals(1),
                "How far it steps back.";
            ATTACK_S attack_s: f64 = 0.005, 0.0005..0.1, look("Attack", Q::Seconds, S::Effect).log().decimals(4).when(when!(Ducker::BY is DuckBy::{Kick})),
                "Time in which it steps back.";
            RELEASE_S release_s: f64 = 0.2, 0.01..2.0, look("Release", Q::Seconds, S::Effect).log().decimals(3).when(when!(Ducker::BY is DuckBy::{Kick})),
                "Time in which it comes back.";
            CYCLE_BEATS cycle_beats: f64 = 1.0, 0.125..16.0, look("Cycle", Q::Beats, S::Effect).log().when(when!(Ducker::BY is DuckBy::{Shape})),
                "How long the shape takes.";
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
