//! The audio path, by subject. Nothing here allocates, locks, logs or panics once an engine is made.
//!
//! - [`engine`]: events in, samples out.
//! - `input`: keys, wheels, MIDI messages. `voices`: which note sounds in which lanes; stealing, onset, ringing, shedding under overload.
//! - `graph`: one program with its state in all lanes, computed block by block. `nodes`: what units are made of.
//! - `modulation`: sources, links, envelopes, and values that follow changes.
//! - `output`: the rack of effects, oversampling, capture of what left the voices. `tables`: banks and recordings.
#![deny(clippy::unwrap_used, clippy::expect_used, clippy::panic)]

pub(crate) mod engine;
pub(crate) mod graph;
pub(crate) mod input;
mod installing;
pub(crate) mod modulation;
pub(crate) mod nodes;
pub(crate) mod output;
pub(crate) mod power;
pub(crate) mod sine;
pub(crate) mod tables;
pub(crate) mod voices;

use wide::{f32x4, f32x8};

use self::sine::Lanes;
use crate::sizes::{BLOCK, BUSES};

/// A block of eight lanes.
pub(crate) type Block = [Lanes; BLOCK];
/// A block as halves: four lanes fill a register of the targets we build for, so that all a half needs stays
/// in registers over the whole block.
pub(crate) type Halves = [[f32x4; 2]; BLOCK];

pub(crate) const SILENT: Block = [f32x8::ZERO; BLOCK];

/// Left and right of each way out.
pub(crate) type Buses = [[Block; 2]; BUSES];
