//! Samples with what describes them in one piece of memory, so that they cross to another thread without being copied there.

/// A head of some words, then samples.
#[derive(Debug, Clone)]
pub(crate) struct Words {
    all: Vec<f32>,
    head: usize,
}

impl Words {
    /// Samples alone.
    pub(crate) fn of(samples: Vec<f32>) -> Self {
        Words {
            all: samples,
            head: 0,
        }
    }

    /// Memory that came from elsewhere, whose first words are the head.
    pub(crate) fn after(all: Vec<f32>, head: usize) -> Self {
        let head = head.min(all.len());
        Words { all, head }
    }

    pub(crate) fn samples(&self) -> &[f32] {
        &self.all[self.head..]
    }
}

impl PartialEq for Words {
    fn eq(&self, other: &Self) -> bool {
        self.samples() == other.samples()
    }
}

/// Bytes as words; what is left of a last one is filled with zeros.
pub(crate) fn from_bytes(bytes: &[u8]) -> Vec<f32> {
    let mut words = vec![0.0f32; bytes.len().div_ceil(4)];
    bytemuck::cast_slice_mut(&mut words)[..bytes.len()].copy_from_slice(bytes);
    words
}

/// A word of a head as a whole number.
pub(crate) fn word(head: &[f32], at: usize) -> u32 {
    head.get(at).map_or(0, |word| word.to_bits())
}

/// Two words of a head as one whole number, the lower one first.
pub(crate) fn double(head: &[f32], at: usize) -> u64 {
    u64::from(word(head, at)) | u64::from(word(head, at + 1)) << 32
}
