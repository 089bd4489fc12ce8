//! Copies, combs and notches that move.

use crate::params::choice::options;
use crate::params::param::{Quantity as Q, When, when};
use crate::params::part::part;
use crate::params::section::SectionId as S;
use crate::parts::look::look;

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
            RATE_HZ rate_hz: f64 = 0.3, 0.0..10.0, look("Rate", Q::Rate, S::Effect).zero_or_log(0.01).decimals(3).when(when!(Phaser::SWEEP is Sweep::{Moves})),
                "How often they move to and fro in a second; at 0 they stand still.";
            DEPTH_OCT depth_oct: f64 = 1.5, 0.0..4.0, look("Depth", Q::Octaves, S::Effect).step(0.25, 0.05).decimals(2).when(when!(Phaser::SWEEP is Sweep::{Moves})),
                "How far they move, either way.";
            FEEDBACK feedback: f64 = 0.3, -0.95..0.95, look("Feedback", Q::Bipolar, S::Effect).step(0.05, 0.01),
                "How much of it goes in again; below zero turned over.";
            WIDTH width: f64 = 0.25, 0.0..1.0, look("Width", Q::Share, S::Effect).step(0.05, 0.01).when(when!(Phaser::SWEEP is Sweep::{Moves})),
                "How far left and right are apart in their sweep.";
        }
    }
}
