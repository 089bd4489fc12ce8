//! The library, drafts, restarts, bad days.

mod keeping;
mod library;
pub(crate) mod losing;
mod opening;
mod restoring;
