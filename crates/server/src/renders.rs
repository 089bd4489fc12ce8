//! Rendering many files as a job that can be watched and cancelled.

use std::collections::HashMap;
use std::fs::File;
use std::io::{Seek, Write};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};

use serde::{Deserialize, Serialize};
use tokio::sync::watch;
use utoipa::ToSchema;
use uuid::Uuid;
use zip::write::SimpleFileOptions;
use zolvik_files::{flac, wav};
use zolvik_lab::Rendered;
use zolvik_lab::batch::{Batch, Piece, pieces, render_piece};
use zolvik_patch::Patch;

use crate::clips::StoredClips;

/// Jobs that are kept at once: running ones, and finished ones whose file waits.
const MOST_JOBS: usize = 8;
/// How long a finished file waits to be fetched.
const WAITS: Duration = Duration::from_secs(3600);

/// How files are written.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum Format {
    /// WAV.
    Wav,
    /// FLAC.
    Flac,
}

/// How files are written.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Written {
    /// WAV or FLAC.
    pub format: Format,
    /// 16, 24 or, of WAV, 32 (float).
    pub bits: u32,
    /// Sample rate in hertz.
    pub rate_hz: u32,
}

impl Written {
    /// The ending of a file's name.
    pub fn ending(self) -> &'static str {
        match self.format {
            Format::Wav => "wav",
            Format::Flac => "flac",
        }
    }

    /// A sound as the bytes of a file.
    ///
    /// # Errors
    /// Why not, in words.
    pub fn bytes(self, sound: &Rendered) -> Result<Vec<u8>, String> {
        let (left, right) = (&sound.left, &sound.right);
        match self.format {
            Format::Wav => {
                let depth = wav::Depth::try_from(self.bits).map_err(|e| e.to_string())?;
                wav::write(left, right, self.rate_hz, depth).map_err(|e| e.to_string())
            }
            Format::Flac => {
                flac::write(left, right, self.rate_hz, self.bits).map_err(|e| e.to_string())
            }
        }
    }
}

/// How far a job has come.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Progress {
    /// Files that are done.
    pub done: usize,
    /// Of how many.
    pub of: usize,
    /// The one that is rendered now, or was last.
    pub file: String,
    /// Whether it is over.
    pub ended: bool,
    /// Why it failed or was given up; none if it did not.
    pub problem: Option<String>,
}

/// A job.
pub struct Job {
    progress: watch::Sender<Progress>,
    cancelled: AtomicBool,
    file: Mutex<Option<File>>,
    /// Name of the file to take along.
    pub name: String,
    begun: Instant,
}

impl Job {
    /// Follows how far it has come.
    pub fn watch(&self) -> watch::Receiver<Progress> {
        self.progress.subscribe()
    }

    /// Gives it up before its next file.
    pub fn cancel(&self) {
        self.cancelled.store(true, Ordering::Relaxed);
    }

    /// The finished file, from its beginning; none while there is none.
    pub fn file(&self) -> Option<File> {
        let mut held = self.file.lock().unwrap_or_else(PoisonError::into_inner);
        let file = held.as_mut()?;
        file.rewind().ok()?;
        file.try_clone().ok()
    }
}

/// All jobs there are.
#[derive(Default)]
pub struct Jobs(Mutex<HashMap<Uuid, Arc<Job>>>);

impl Jobs {
    fn all(&self) -> std::sync::MutexGuard<'_, HashMap<Uuid, Arc<Job>>> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// A job by its number.
    pub fn get(&self, id: Uuid) -> Option<Arc<Job>> {
        self.all().get(&id).cloned()
    }

    /// Gives a job up and forgets its file.
    pub fn forget(&self, id: Uuid) -> bool {
        match self.all().remove(&id) {
            Some(job) => {
                job.cancel();
                true
            }
            None => false,
        }
    }

    /// A new job for so many files; none if there are too many already. Old ones whose files were not fetched go.
    pub fn begin(&self, of: usize, name: String) -> Option<(Uuid, Arc<Job>)> {
        let mut all = self.all();
        all.retain(|_, job| !job.progress.borrow().ended || job.begun.elapsed() < WAITS);
        if all.len() >= MOST_JOBS {
            // of finished ones the oldest makes room
            let ended = all.iter().filter(|(_, job)| job.progress.borrow().ended);
            let oldest = ended.min_by_key(|(_, job)| job.begun).map(|(id, _)| *id);
            all.remove(&oldest?);
        }
        let job = Arc::new(Job {
            progress: watch::Sender::new(Progress {
                done: 0,
                of,
                file: String::new(),
                ended: false,
                problem: None,
            }),
            cancelled: AtomicBool::new(false),
            file: Mutex::new(None),
            name,
            begun: Instant::now(),
        });
        let id = Uuid::new_v4();
        all.insert(id, Arc::clone(&job));
        Some((id, job))
    }
}

/// What a job renders.
pub struct Work {
    /// The patch.
    pub patch: Patch,
    /// Its recordings.
    pub clips: StoredClips,
    /// The files.
    pub pieces: Vec<Piece>,
    /// How they are written.
    pub written: Written,
}

impl Work {
    /// For a batch of a patch.
    ///
    /// # Errors
    /// Why it cannot be rendered, in words.
    pub fn new(
        patch: Patch,
        clips: StoredClips,
        batch: &Batch,
        written: Written,
    ) -> Result<Work, String> {
        let pieces = pieces(&patch, batch).map_err(|e| e.to_string())?;
        Ok(Work {
            patch,
            clips,
            pieces,
            written,
        })
    }

    /// One of its files: name and bytes.
    ///
    /// # Errors
    /// Why not, in words.
    pub fn render(&self, piece: &Piece) -> Result<(String, Vec<u8>), String> {
        let sound = render_piece(&self.patch, piece, self.written.rate_hz.into(), &self.clips);
        let bytes = self.written.bytes(&sound)?;
        Ok((format!("{}.{}", piece.name, self.written.ending()), bytes))
    }

    /// Renders all into a file: a ZIP of them, or the only one itself. Takes its time; to be called off the threads that answer.
    pub fn run(&self, job: &Job, mut into: File) {
        let problem = self.all(job, &mut into).err();
        if problem.is_none() {
            *job.file.lock().unwrap_or_else(PoisonError::into_inner) = Some(into);
        }
        job.progress.send_modify(|p| {
            p.ended = true;
            p.problem = problem;
        });
    }

    fn all(&self, job: &Job, into: &mut File) -> Result<(), String> {
        let said = |e: std::io::Error| match e.kind() {
            std::io::ErrorKind::StorageFull => {
                "the disk is full; make room and render again".into()
            }
            _ => e.to_string(),
        };
        let each = |piece: &Piece| {
            if job.cancelled.load(Ordering::Relaxed) {
                return Err("cancelled".to_string());
            }
            job.progress.send_modify(|p| p.file = piece.name.clone());
            self.render(piece)
        };
        if let [only] = &self.pieces[..] {
            let (_, bytes) = each(only)?;
            into.write_all(&bytes).map_err(said)?;
            job.progress.send_modify(|p| p.done = 1);
            return Ok(());
        }
        let mut zip = zip::ZipWriter::new(into);
        // sound hardly packs, and this is to be quick
        let stored =
            SimpleFileOptions::default().compression_method(zip::CompressionMethod::Stored);
        for piece in &self.pieces {
            let (name, bytes) = each(piece)?;
            zip.start_file(name, stored).map_err(|e| e.to_string())?;
            zip.write_all(&bytes).map_err(said)?;
            job.progress.send_modify(|p| p.done += 1);
        }
        zip.finish().map_err(|e| e.to_string())?;
        Ok(())
    }
}
