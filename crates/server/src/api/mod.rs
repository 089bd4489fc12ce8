//! The API. Documents travel as the text of the patch file, so that nothing is lost on the way.

pub mod backups;
pub mod files;
pub mod kept;
pub mod library;
pub mod patches;
pub mod renders;
pub mod types;
pub mod versions;
