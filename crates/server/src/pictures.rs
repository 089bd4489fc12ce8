//! Small pictures of sounds, drawn once for each content and kept as files. They can be drawn again at any time, so nothing is
//! lost when one cannot be kept.

use std::path::{Path, PathBuf};

use crate::atomic;

/// Most pictures kept; beyond that the oldest go when the server starts.
const MOST: usize = 5_000;
/// Changes when pictures are drawn differently.
const MANNER: u32 = 1;

/// Pictures in the data folder, by what they show.
pub struct Pictures {
    folder: PathBuf,
}

impl Pictures {
    /// Those of a data folder.
    pub fn new(data: &Path) -> Self {
        let pictures = Pictures {
            folder: data.join("cache"),
        };
        pictures.drop_oldest();
        pictures
    }

    fn path(&self, content: &str, recordings: usize) -> PathBuf {
        self.folder
            .join(format!("{MANNER}-{content}-{recordings}.png"))
    }

    /// The picture of a document's content, with so many of its recordings at hand.
    pub fn get(&self, content: &str, recordings: usize) -> Option<Vec<u8>> {
        std::fs::read(self.path(content, recordings)).ok()
    }

    /// Keeps a picture if it can be kept.
    pub fn keep(&self, content: &str, recordings: usize, png: &[u8]) {
        let kept = std::fs::create_dir_all(&self.folder)
            .and_then(|()| atomic::write(&self.path(content, recordings), png));
        if let Err(error) = kept {
            eprintln!("zolvik: a picture was not kept ({error}); it will be drawn again");
        }
    }

    fn drop_oldest(&self) {
        let Ok(entries) = std::fs::read_dir(&self.folder) else {
            return;
        };
        let mut files: Vec<_> = entries
            .flatten()
            .filter_map(|e| Some((e.metadata().ok()?.modified().ok()?, e.path())))
            .collect();
        files.sort_unstable();
        let surplus = files.len().saturating_sub(MOST);
        for (_, path) in &files[..surplus] {
            let _ = std::fs::remove_file(path);
        }
    }
}
