//! The patch document: what a sound designer builds, and every rule about it. No sound is made here.
//!
//! - [`document`]: the patch as data, read and written as JSON by [`json`], checked by [`validate`].
//! - [`catalogue`]: one row per parameter; engine, screen, text, checks and schema all read it.
//! - [`wave`] and [`scale`]: what an operator repeats, and what the keys are tuned to.
//! - [`plain`]: names and quotations from outside made safe.
//! - [`text`]: values as people write them, in and out.
//! - [`edit`] and [`history`]: changes as data, with exact undo and redo.
//! - [`graph`], [`arrange`], [`hearing`]: what follows from the routing: order, rails, what can be heard.
//!
//! ```
//! use zolvik_patch::{edit::{Connect, Edit, apply}, document::{Patch, UnitId}};
//! let patch = Patch::empty();
//! let edit = Edit::AddOperator { connect: Connect::Unit { id: UnitId(1) } };
//! let (patch, _) = apply(&patch, &edit).unwrap();
//! assert_eq!(patch.units.len(), 2);
//! ```

pub mod address;
pub mod arrange;
pub mod arrangement;
pub mod catalogue;
pub mod character;
pub mod choice;
pub mod document;
pub mod edit;
pub mod envelope;
pub mod error;
pub mod expression;
pub mod filter;
pub mod graph;
pub mod hearing;
pub mod history;
pub mod json;
mod packed;
pub mod pitch;
pub mod plain;
pub mod scale;
pub mod shape;
pub mod sound;
#[cfg(feature = "testing")]
pub mod testing;
pub mod text;
pub mod units;
pub mod validate;
pub mod voice;
pub mod wave;

pub use document::Patch;
pub use error::PatchError;
