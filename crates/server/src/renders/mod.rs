//! Rendering many files as a job that can be watched, stopped and gone on with.

mod written;

pub use self::written::{Format, RenderError, Written};
use std::collections::HashMap;
use std::fs::File;
use std::io::{Seek, Write};
use std::os::unix::fs::FileExt;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::time::{Duration, Instant};

use serde::Serialize;
use tokio::sync::watch;
use utoipa::ToSchema;
use uuid::Uuid;
use zip::ZipWriter;
use zip::write::SimpleFileOptions;
use zolvik_lab::batch::{Batch, Piece, pieces, render_piece};
use zolvik_patch::Patch;

use crate::clips::StoredClips;

/// Jobs that are kept at once: running ones, and finished ones whose file waits.
const MOST_JOBS: usize = 8;
/// How long a finished file waits to be fetched.
const WAITS: Duration = Duration::from_secs(3600);

/// How far a job has come.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Progress {
    /// Files that are done.
    pub done: usize,
    /// Of how many.
    pub of: usize,
    /// The one that is rendered now, or was last.
    pub file: String,
    /// How much of that one is done, from 0 to 1.
    pub part: f64,
    /// Whether it is over, or stopped.
    pub ended: bool,
    /// Why it failed or was stopped; none if it did not. What is done is there all the same, and it can be gone on with.
    pub problem: Option<String>,
}

/// Who looks on.
struct Watched {
    by: usize,
    /// Since when nobody does.
    since: Instant,
}

/// A job.
pub struct Job {
    work: Work,
    progress: watch::Sender<Progress>,
    stopped: AtomicBool,
    /// Whether it goes on though nobody looks on.
    kept: bool,
    watched: Mutex<Watched>,
    /// What is done, while nothing is written to it.
    file: Mutex<Option<Arc<File>>>,
    /// Where files lie that pass.
    folder: PathBuf,
    /// Name of the file to take along.
    pub name: String,
    begun: Instant,
}

/// Somebody looks on, until this is dropped.
pub struct Watching(Arc<Job>);

impl Watching {
    /// Begins to look on.
    pub fn new(job: &Arc<Job>) -> Self {
        job.watched().by += 1;
        Watching(Arc::clone(job))
    }

    /// Follows how far it has come.
    pub fn watch(&self) -> watch::Receiver<Progress> {
        self.0.progress.subscribe()
    }
}

impl Drop for Watching {
    fn drop(&mut self) {
        let mut watched = self.0.watched();
        watched.by -= 1;
        watched.since = Instant::now();
    }
}

impl Job {
    fn watched(&self) -> MutexGuard<'_, Watched> {
        self.watched.lock().unwrap_or_else(PoisonError::into_inner)
    }

    fn held(&self) -> MutexGuard<'_, Option<Arc<File>>> {
        self.file.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// How far it has come.
    pub fn progress(&self) -> Progress {
        self.progress.borrow().clone()
    }

    /// Stops it in the middle of what it does; what is done of it stays.
    pub fn stop(&self) {
        self.stopped.store(true, Ordering::Relaxed);
    }

    fn goes_on(&self) -> bool {
        !self.stopped.load(Ordering::Relaxed)
    }

    /// Whether nobody has looked on for so long, and it was not said to go on all the same.
    pub fn is_left_alone(&self, patience: Duration) -> bool {
        let watched = self.watched();
        !self.kept && watched.by == 0 && watched.since.elapsed() > patience
    }

    /// The file of what is done; none while there is none, or it is being written.
    pub fn file(&self) -> Option<Arc<File>> {
        self.held().clone().filter(|_| self.progress().done > 0)
    }

    /// Prepares to go on where it was stopped; gives whether there is more to do.
    pub fn resume(&self) -> bool {
        let mut resumed = false;
        self.progress.send_if_modified(|p| {
            resumed = p.ended && p.done < p.of;
            if resumed {
                (p.ended, p.problem, p.part) = (false, None, 0.0);
            }
            resumed
        });
        if resumed {
            self.stopped.store(false, Ordering::Relaxed);
            self.watched().since = Instant::now();
        }
        resumed
    }

    /// Renders what is not done yet into its file: a ZIP of all, or the only one itself. Takes its time; to be called off the threads that answer.
    pub fn run(&self) {
        let file = self.held().take();
        let problem = file.and_then(|file| {
            let file = match self.apart(file) {
                Ok(file) => file,
                Err(problem) => return Some(problem),
            };
            let done = self.all(&file);
            if done.is_err() && self.progress().done == 0 {
                let _ = file.set_len(0);
            }
            *self.held() = Some(file);
            done.err()
        });
        self.progress.send_modify(|p| {
            p.ended = true;
            p.problem = problem.map(|e| e.to_string());
        });
    }

    /// The file to write to: where somebody takes it along just now another one like it.
    fn apart(&self, file: Arc<File>) -> Result<Arc<File>, RenderError> {
        if Arc::strong_count(&file) == 1 {
            return Ok(file);
        }
        let copied = (|| {
            let mut own = tempfile::tempfile_in(&self.folder)?;
            let (mut at, mut part) = (0, vec![0; 1 << 20]);
            loop {
                match file.read_at(&mut part, at)? {
                    0 => return Ok(own),
                    count => {
                        own.write_all(&part[..count])?;
                        at += count as u64;
                    }
                }
            }
        })();
        let put = |file| *self.held() = Some(file);
        copied.map(Arc::new).map_err(|problem: std::io::Error| {
            put(file);
            problem.into()
        })
    }

    fn all(&self, mut file: &File) -> Result<(), RenderError> {
        let pieces = &self.work.pieces;
        let done = self.progress().done;
        if let [only] = &pieces[..] {
            file.rewind()?;
            file.write_all(&self.each(only)?.1)?;
            self.progress.send_modify(|p| p.done = 1);
            return Ok(());
        }
        let mut zip = match done {
            0 => ZipWriter::new(file),
            _ => ZipWriter::new_append(file)?,
        };
        // sound hardly packs, and this is to be quick
        let stored =
            SimpleFileOptions::default().compression_method(zip::CompressionMethod::Stored);
        let mut packed = Ok(());
        for piece in &pieces[done..] {
            packed = self.each(piece).and_then(|(name, bytes)| {
                zip.start_file(name, stored)?;
                if let Err(problem) = zip.write_all(&bytes) {
                    // what is half there is taken back
                    let _ = zip.abort_file();
                    return Err(problem.into());
                }
                Ok(())
            });
            if packed.is_err() {
                break;
            }
            self.progress
                .send_modify(|p| (p.done, p.part) = (p.done + 1, 0.0));
        }
        if let Err(problem) = zip.finish() {
            // without its list nothing of it can be read
            self.progress.send_modify(|p| p.done = 0);
            return Err(problem.into());
        }
        packed
    }

    fn each(&self, piece: &Piece) -> Result<(String, Vec<u8>), RenderError> {
        self.progress
            .send_modify(|p| (p.file, p.part) = (piece.name.clone(), 0.0));
        self.work.render(piece, &|part| {
            self.progress.send_if_modified(|p| {
                let tells = part - p.part > 0.02;
                if tells {
                    p.part = part;
                }
                tells
            });
            self.goes_on()
        })
    }
}

/// All jobs there are.
#[derive(Default)]
pub struct Jobs(Mutex<HashMap<Uuid, Arc<Job>>>);

impl Jobs {
    fn all(&self) -> MutexGuard<'_, HashMap<Uuid, Arc<Job>>> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// A job by its number.
    pub fn get(&self, id: Uuid) -> Option<Arc<Job>> {
        self.all().get(&id).cloned()
    }

    /// All there are, the newest first.
    pub fn list(&self) -> Vec<(Uuid, Arc<Job>)> {
        let mut all = self.all();
        all.retain(|_, job| !job.is_stale());
        let mut list: Vec<_> = all.iter().map(|(id, job)| (*id, Arc::clone(job))).collect();
        list.sort_by_key(|(_, job)| std::cmp::Reverse(job.begun));
        list
    }

    /// Gives a job up and forgets what is done of it.
    pub fn forget(&self, id: Uuid) -> bool {
        match self.all().remove(&id) {
            Some(job) => {
                job.stop();
                true
            }
            None => false,
        }
    }

    /// A new job that writes into a file of its own in a folder; none if there are too many already. Old ones whose files were not fetched go.
    ///
    /// # Errors
    /// If there can be no file.
    pub fn begin(
        &self,
        work: Work,
        kept: bool,
        name: String,
        folder: &Path,
    ) -> std::io::Result<Option<(Uuid, Arc<Job>)>> {
        let mut all = self.all();
        all.retain(|_, job| !job.is_stale());
        if all.len() >= MOST_JOBS {
            // of finished ones the oldest makes room
            let ended = all.iter().filter(|(_, job)| job.progress.borrow().ended);
            let oldest = ended.min_by_key(|(_, job)| job.begun).map(|(id, _)| *id);
            let Some(oldest) = oldest else {
                return Ok(None);
            };
            all.remove(&oldest);
        }
        let into = tempfile::tempfile_in(folder)?;
        let job = Arc::new(Job {
            progress: watch::Sender::new(Progress {
                done: 0,
                of: work.pieces.len(),
                file: String::new(),
                part: 0.0,
                ended: false,
                problem: None,
            }),
            work,
            stopped: AtomicBool::new(false),
            kept,
            watched: Mutex::new(Watched {
                by: 0,
                since: Instant::now(),
            }),
            file: Mutex::new(Some(Arc::new(into))),
            folder: folder.into(),
            name,
            begun: Instant::now(),
        });
        let id = Uuid::new_v4();
        all.insert(id, Arc::clone(&job));
        Ok(Some((id, job)))
    }
}

impl Job {
    /// Whether its file has waited long enough.
    fn is_stale(&self) -> bool {
        self.progress.borrow().ended && self.begun.elapsed() > WAITS
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
    /// Why it cannot be rendered.
    pub fn new(
        patch: Patch,
        clips: StoredClips,
        batch: &Batch,
        written: Written,
    ) -> Result<Work, RenderError> {
        written.check()?;
        let pieces = pieces(&patch, batch)?;
        Ok(Work {
            patch,
            clips,
            pieces,
            written,
        })
    }

    /// One of its files: name and bytes. Asked now and then whether to go on, with how much of it is done.
    ///
    /// # Errors
    /// Why not.
    pub fn render(
        &self,
        piece: &Piece,
        go_on: &dyn Fn(f64) -> bool,
    ) -> Result<(String, Vec<u8>), RenderError> {
        let rate_hz = self.written.rate_hz.into();
        let sound = render_piece(&self.patch, piece, rate_hz, &self.clips, go_on);
        let sound = sound.ok_or(RenderError::Stopped)?;
        let bytes = self.written.bytes(&sound, &|| go_on(1.0))?;
        if !go_on(1.0) {
            return Err(RenderError::Stopped);
        }
        Ok((format!("{}.{}", piece.name, self.written.ending()), bytes))
    }
}
