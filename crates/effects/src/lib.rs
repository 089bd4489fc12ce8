//! Effects on a stereo sound.
//!
//! [`make`] gives an effect of a kind; [`Process::run`] lets a block go through it, as a [`Setting`] says. Everything after `make` runs on
//! the audio path: nothing allocates, locks, logs or panics.

// both channels of a frame are worked on together, by its number
#![allow(clippy::needless_range_loop)]

mod chorus;
mod compressor;
mod delay;
mod drive;
mod ducker;
mod eq;
mod filter;
mod gain;
mod limiter;
mod phaser;
mod process;
mod resonators;
mod reverb;
mod shifter;
mod stereo;
mod still;
mod tail;
mod three_band;
pub mod tools;
mod transients;
mod widening;

use zolvik_patch::finish::EffectName;

pub use drive::{bent, curve_points};
pub use eq::{Curve, band_curve};
pub use process::{BAND_ALONE, BLOCK, Band, Block, Process, SILENT, Setting, Stereo, Value};
pub use still::Still;
pub use tail::{LONGEST_TAIL_S, latency_s, tail_s};
pub use tools::drawn::Point;

/// An effect of a kind for a rate. Allocates; not for the audio path.
pub fn make(kind: EffectName, rate_hz: f64) -> Box<dyn Process> {
    match kind {
        EffectName::Drive => Box::new(drive::Drive::new(rate_hz)),
        EffectName::Filter => Box::new(filter::Filter::new(rate_hz)),
        EffectName::Resonators => Box::new(resonators::Resonators::new(rate_hz)),
        EffectName::Eq => Box::new(eq::Eq::new()),
        EffectName::Compressor => Box::new(compressor::Compressor::new(rate_hz)),
        EffectName::ThreeBand => Box::new(three_band::ThreeBand::new()),
        EffectName::Transients => Box::new(transients::Transients::new()),
        EffectName::Ducker => Box::new(ducker::Ducker::new()),
        EffectName::Chorus => Box::new(chorus::Chorus::new(rate_hz)),
        EffectName::Flanger => Box::new(chorus::Flanger::new(rate_hz)),
        EffectName::Phaser => Box::new(phaser::Phaser::new()),
        EffectName::Delay => Box::new(delay::Delay::new(rate_hz)),
        EffectName::Reverb => Box::new(reverb::Reverb::new(rate_hz)),
        EffectName::Shifter => Box::new(shifter::Shifter::new(rate_hz)),
        EffectName::Widening => Box::new(widening::Widening::new(rate_hz)),
        EffectName::Stereo => Box::new(stereo::Stereo::new()),
        EffectName::Limiter => Box::new(limiter::Limiter::new(rate_hz)),
        EffectName::Level => Box::new(gain::Gain),
    }
}
