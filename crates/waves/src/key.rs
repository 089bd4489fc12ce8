//! Keys that tell waves and recordings apart.

use std::hash::Hasher;

use twox_hash::XxHash3_64;

/// A key in the making.
pub(crate) struct Key(XxHash3_64);

impl Key {
    pub(crate) fn new() -> Self {
        Key(XxHash3_64::with_seed(0))
    }

    pub(crate) fn words(&mut self, words: impl IntoIterator<Item = u64>) {
        for word in words {
            self.0.write(&word.to_le_bytes());
        }
    }

    pub(crate) fn bytes(&mut self, bytes: &[u8]) {
        self.0.write(bytes);
    }

    /// The key; never 0.
    pub(crate) fn done(self) -> u64 {
        self.0.finish().max(1)
    }
}
