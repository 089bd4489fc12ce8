//! What can go wrong with the store.

use std::path::PathBuf;

/// Why a call failed. Nothing was changed.
#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    /// The data folder cannot be used: choose another or change its rights.
    #[error("the data folder {} cannot be written ({problem}); choose another with --data", path.display())]
    Folder {
        /// The folder.
        path: PathBuf,
        /// What the system says.
        problem: String,
    },
    /// The database was written by a newer version of the application: update it.
    #[error("the database in {} is from a newer version of zolvik; update, or choose another folder with --data", path.display())]
    Newer {
        /// The folder.
        path: PathBuf,
    },
    /// The database could not be opened or brought up to date.
    #[error("the database in {} cannot be opened: {problem}", path.display())]
    Open {
        /// The folder.
        path: PathBuf,
        /// What SQLite says.
        problem: String,
    },
    /// No such patch, or it is in the bin.
    #[error("there is no patch {id}; it may have been deleted")]
    NoPatch {
        /// The number asked for.
        id: i32,
    },
    /// No such recording.
    #[error("there is no recording {content}; import it again")]
    NoRecording {
        /// The content asked for.
        content: String,
    },
    /// No such version.
    #[error("there is no version {id} of this patch")]
    NoVersion {
        /// The number asked for.
        id: i32,
    },
    /// The patch was changed elsewhere since it was read: keep both or take the other.
    #[error(
        "the patch was changed elsewhere: revision {actual} is stored, yours is based on {expected}"
    )]
    Stale {
        /// Revision the save was based on.
        expected: i32,
        /// Revision stored.
        actual: i32,
    },
    /// The document is no valid patch.
    #[error(transparent)]
    Patch(#[from] zolvik_patch::PatchError),
    /// SQLite failed: the disk may be full.
    #[error("the database failed: {0}")]
    Database(#[from] diesel::result::Error),
}
