//! Stored recordings as the engine reads them.

use std::collections::HashMap;
use std::sync::Arc;

use zolvik_files::wav;
use zolvik_patch::sound::{MAX_FRAMES, RATES_HZ};
use zolvik_waves::{Clip, Clips};

/// Recordings as the engine reads them, by content.
#[derive(Default)]
pub struct StoredClips(HashMap<String, Arc<Clip>>);

impl StoredClips {
    /// From WAV files by content; those that cannot be read are missing.
    pub fn new(files: &HashMap<String, Vec<u8>>) -> Self {
        let longest_s = f64::from(MAX_FRAMES) / f64::from(RATES_HZ.0);
        let read = |(content, file): (&String, &Vec<u8>)| {
            let read = wav::read(file, longest_s).ok()?;
            let clip = Clip {
                samples: read.samples,
                rate_hz: read.rate_hz,
            };
            Some((content.clone(), Arc::new(clip)))
        };
        StoredClips(files.iter().filter_map(read).collect())
    }
}

impl Clips for StoredClips {
    fn clip(&self, content: &str) -> Option<Arc<Clip>> {
        self.0.get(content).cloned()
    }
}
