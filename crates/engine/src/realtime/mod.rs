//! The audio path. Nothing here allocates, locks, logs or panics once an engine is made.
#![deny(clippy::unwrap_used, clippy::expect_used, clippy::panic)]

mod begins;
mod block;
mod chance;
mod channels;
mod clock;
mod controls;
pub(crate) mod decimate;
pub(crate) mod engine;
pub(crate) mod envelope;
pub(crate) mod giving;
pub(crate) mod graph;
pub(crate) mod guard;
pub(crate) mod keys;
mod lanes;
mod late;
mod midi;
mod movers;
pub(crate) mod nodes;
mod notes;
mod own;
pub(crate) mod power;
mod quality;
pub mod rack;
mod relief;
mod ringing;
pub(crate) mod shelf;
pub(crate) mod sine;
pub(crate) mod smooth;
mod stealing;
mod stereo;
pub(crate) mod tape;
mod taping;
pub(crate) mod values;
pub(crate) mod voices;
mod within;

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
