//! Changes of a patch: edits as data with exact undo, and what offers, reads and mends them. It knows no screen.
//!
//! - [`Edit`], [`apply`], [`for_all`]: a change and what it makes of a document, or why it does not.
//! - [`history`]: undo and redo, in memory and as differences to be kept.
//! - [`line`]: strips as text.
//! - [`arrangement`], [`offers`], [`unheard`]: what may be done next, as edits.
//! - [`linked`], [`twins`]: what follows from an edit for values that belong together.
//! - [`mend`]: the nearest valid patch to a text that is none.
//!
//! ```
//! use zolvik_edit::{Connect, Edit, apply};
//! use zolvik_patch::document::{KindName, Patch, UnitId};
//! let patch = Patch::empty();
//! let edit = Edit::AddUnit { kind: KindName::Operator, connect: Connect::Unit { id: UnitId(1) } };
//! let (patch, _) = apply(&patch, &edit).unwrap();
//! assert_eq!(patch.units.len(), 2);
//! ```

pub mod arrangement;
mod edit;
pub mod history;
pub mod line;
pub mod linked;
pub mod mend;
pub mod offers;
pub mod twins;
pub mod unheard;

pub use edit::{Connect, Edit, apply, everywhere, flipped, for_all};
