//! Why a command fails.

use std::path::PathBuf;

/// Why a command failed, in one line.
#[derive(Debug, thiserror::Error)]
pub(super) enum Failure {
    #[error("{}: {problem}", path.display())]
    File { path: PathBuf, problem: String },
    #[error("{0}")]
    Argument(String),
    #[error(transparent)]
    Store(#[from] zolvik_store::StoreError),
    #[error("port {port} on 127.0.0.1 cannot be used ({problem}); choose another with --port")]
    Port { port: u16, problem: String },
    #[error("the server stopped: {0}")]
    Server(std::io::Error),
    #[error("{0} found in the library; what can be done stands beside each")]
    Faults(String),
}
