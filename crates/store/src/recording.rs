//! A recording as it is handed in and out.

use zolvik_patch::sound::OwnSound;

/// A recording to be kept.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Recording {
    /// As patches name it.
    pub sound: OwnSound,
    /// The WAV file with that content.
    pub wav: Vec<u8>,
}
