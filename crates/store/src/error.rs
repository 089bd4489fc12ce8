//! What can go wrong with the store.

use std::path::PathBuf;

use diesel::result::Error as Database;

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
    #[error("the database in {} cannot be opened: {problem}; zolvik library restore brings a backup back", path.display())]
    Open {
        /// The folder.
        path: PathBuf,
        /// What SQLite says.
        problem: String,
    },
    /// There is no library.
    #[error("there is no library in {}; name its folder with --data", path.display())]
    NoDatabase {
        /// The folder.
        path: PathBuf,
    },
    /// The database's file was taken away or exchanged while it was in use.
    #[error("the library in {} was moved, deleted or replaced while zolvik runs; nothing is written over it: put the right one back, or start zolvik again", path.display())]
    Gone {
        /// The folder.
        path: PathBuf,
    },
    /// There is no room to write: make some and try again.
    #[error("the disk is full; make room on it, then try again")]
    Full,
    /// Reading or writing the disk failed.
    #[error("the disk failed ({0}); check it, and make sure there is a backup of the data folder")]
    Disk(String),
    /// Somebody else writes for longer than was waited: try again.
    #[error("another program is writing to the library; try again in a moment")]
    Busy,
    /// The database's file is damaged.
    #[error("the database is damaged ({0}); stop zolvik and run zolvik library check")]
    Damaged(String),
    /// Another process has the library open.
    #[error("the library in {} is in use; stop zolvik first", path.display())]
    InUse {
        /// The folder.
        path: PathBuf,
    },
    /// No such backup.
    #[error("there is no backup {name}; there are: {present}")]
    NoBackup {
        /// The name asked for.
        name: String,
        /// The names there are.
        present: String,
    },
    /// What should be put in place is no library, or none that can be read.
    #[error("{name} is not restored: {problem}; the library stays as it is, choose another backup")]
    NoLibrary {
        /// The name asked for.
        name: String,
        /// What is wrong with it.
        problem: String,
    },
    /// No such patch, or it is in the bin.
    #[error("there is no patch {id}; it may have been deleted")]
    NoPatch {
        /// The number asked for.
        id: i32,
    },
    /// The stored document of a patch cannot be read; it can be exported as it is.
    #[error("patch {id} is damaged: {problem}; export it as it is, or move it to the bin")]
    Unreadable {
        id: i32,
        /// What is wrong with the document.
        problem: String,
    },
    /// A version that is not as it was kept.
    #[error("version {id} is damaged: {problem}")]
    FaultyVersion {
        /// Its number.
        id: i32,
        /// What is wrong with it.
        problem: String,
    },
    /// A recording that is not what its name says.
    #[error("recording {content} was changed on the disk; import its file again")]
    FaultyRecording {
        /// The content asked for.
        content: String,
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
    /// SQLite failed in another way.
    #[error("the database failed: {0}")]
    Database(Database),
}

impl From<Database> for StoreError {
    fn from(error: Database) -> Self {
        let error = match error {
            // why the commit failed matters, not that there was nothing left to roll back
            Database::RollbackErrorOnCommit { commit_error, .. } => *commit_error,
            error => error,
        };
        let told = error.to_string();
        // Diesel keeps SQLite's words only, not its codes
        match told.as_str() {
            t if t.contains("disk is full") => StoreError::Full,
            t if t.contains("I/O error")
                || t.contains("readonly")
                || t.contains("unable to open") =>
            {
                StoreError::Disk(told)
            }
            t if t.contains("is locked") => StoreError::Busy,
            t if t.contains("malformed") || t.contains("not a database") => {
                StoreError::Damaged(told)
            }
            _ => StoreError::Database(error),
        }
    }
}

impl From<diesel::r2d2::PoolError> for StoreError {
    fn from(error: diesel::r2d2::PoolError) -> Self {
        StoreError::Disk(error.to_string())
    }
}

impl StoreError {
    /// Whether the connection it happened on is not to be trusted any more.
    pub(crate) fn breaks_connection(&self) -> bool {
        use StoreError as E;
        matches!(self, E::Full | E::Disk(_) | E::Damaged(_) | E::Database(_))
    }
}
