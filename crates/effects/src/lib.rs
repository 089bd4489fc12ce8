//! Effects on a stereo sound.
//!
//! [`kind`] gives what a kind says of itself, and makes one; [`Process::run`] lets a block go through it, as a [`Setting`] says: that runs on
//! the audio path, where nothing allocates, locks, logs or panics.

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
mod kind;
mod limiter;
mod phaser;
mod process;
mod resonators;
mod reverb;
mod shifter;
mod stereo;

mod three_band;
pub mod tools;
mod transients;
mod widening;

use zolvik_patch::finish::EffectName;

pub use drive::{bent, curve_points};
pub use eq::{Curve, band_curve};
pub use kind::{Effect, FAINT_DB, Kind, LONGEST_TAIL_S};
pub use process::{BAND_ALONE, BLOCK, Band, Block, Process, SILENT, Setting, Stereo, Value};
pub use tools::drawn::Point;
pub use tools::still::Still;

/// What there is to know of a kind.
pub fn kind(name: EffectName) -> Kind {
    match name {
        EffectName::Drive => Kind::of::<drive::Drive>(),
        EffectName::Filter => Kind::of::<filter::Filter>(),
        EffectName::Resonators => Kind::of::<resonators::Resonators>(),
        EffectName::Eq => Kind::of::<eq::Eq>(),
        EffectName::Compressor => Kind::of::<compressor::Compressor>(),
        EffectName::ThreeBand => Kind::of::<three_band::ThreeBand>(),
        EffectName::Transients => Kind::of::<transients::Transients>(),
        EffectName::Ducker => Kind::of::<ducker::Ducker>(),
        EffectName::Chorus => Kind::of::<chorus::Chorus>(),
        EffectName::Flanger => Kind::of::<chorus::Flanger>(),
        EffectName::Phaser => Kind::of::<phaser::Phaser>(),
        EffectName::Delay => Kind::of::<delay::Delay>(),
        EffectName::Reverb => Kind::of::<reverb::Reverb>(),
        EffectName::Shifter => Kind::of::<shifter::Shifter>(),
        EffectName::Widening => Kind::of::<widening::Widening>(),
        EffectName::Stereo => Kind::of::<stereo::Stereo>(),
        EffectName::Limiter => Kind::of::<limiter::Limiter>(),
        EffectName::Level => Kind::of::<gain::Gain>(),
    }
}
