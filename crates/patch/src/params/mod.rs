//! Parameters and choices: one row each, and where their values stand in a patch.

pub mod address;
pub mod catalogue;
pub mod choice;
pub mod limits;
pub mod param;
pub mod part;
pub mod section;
pub mod values;
