//! What the handlers share: the store, and how much heavy work goes on at a time.

use std::sync::Arc;
use std::time::Duration;

use tokio::sync::{OwnedSemaphorePermit, Semaphore};
use zolvik_store::{Store, StoreError};

use crate::pictures::Pictures;
use crate::problem::Problem;
use crate::renders::Jobs;

/// Large bodies taken in and parsed at a time.
const BODIES: usize = 2;
/// Recordings and bundles taken apart or packed at a time: each takes up to some hundred megabytes.
const FILES: usize = 1;
/// Pictures drawn at a time.
const PICTURES: usize = 1;

/// How long a render goes on that nobody follows, where nobody says otherwise.
pub const RENDER_PATIENCE: Duration = Duration::from_secs(60);

/// What the handlers share.
#[derive(Clone)]
pub struct App {
    store: Arc<Store>,
    writes: Arc<Semaphore>,
    bodies: Arc<Semaphore>,
    files: Arc<Semaphore>,
    drawing: Arc<Semaphore>,
    pictures: Arc<Pictures>,
    jobs: Arc<Jobs>,
    render_patience: Duration,
}

/// Leave to do heavy work, until it is dropped.
pub type Admission = OwnedSemaphorePermit;

impl App {
    /// An application on an open store.
    pub fn new(store: Store) -> Self {
        let some = |count| Arc::new(Semaphore::new(count));
        App {
            pictures: Arc::new(Pictures::new(store.folder())),
            store: Arc::new(store),
            jobs: Arc::new(Jobs::default()),
            render_patience: RENDER_PATIENCE,
            // the store writes one after the other; whoever waits holds no thread
            writes: some(1),
            bodies: some(BODIES),
            files: some(FILES),
            drawing: some(PICTURES),
        }
    }

    /// The library served.
    pub fn library(&self) -> &str {
        self.store.library()
    }

    /// The data folder.
    pub fn folder(&self) -> &std::path::Path {
        self.store.folder()
    }

    /// Pictures drawn before.
    pub fn pictures(&self) -> &Arc<Pictures> {
        &self.pictures
    }

    /// Renders that go on.
    pub fn jobs(&self) -> &Arc<Jobs> {
        &self.jobs
    }

    /// The same with another time until a render that nobody follows is stopped.
    pub fn with_render_patience(self, render_patience: Duration) -> Self {
        App {
            render_patience,
            ..self
        }
    }

    /// How long a render goes on that nobody follows.
    pub fn render_patience(&self) -> Duration {
        self.render_patience
    }

    /// Reads from the store, off the threads that answer requests.
    ///
    /// # Errors
    /// What the store says, as a problem.
    pub async fn read<T: Send + 'static>(
        &self,
        act: impl FnOnce(&Store) -> Result<T, StoreError> + Send + 'static,
    ) -> Result<T, Problem> {
        let store = Arc::clone(&self.store);
        Ok(aside(move || act(&store)).await??)
    }

    /// Writes to the store. When it is Ok it is on disk.
    ///
    /// # Errors
    /// What the store says, as a problem; then nothing was written.
    pub async fn write<T: Send + 'static>(
        &self,
        act: impl FnOnce(&Store) -> Result<T, StoreError> + Send + 'static,
    ) -> Result<T, Problem> {
        let turn = admit(&self.writes).await?;
        let done = self.read(act).await;
        drop(turn);
        done
    }

    /// Waits for leave to take in a large body.
    ///
    /// # Errors
    /// If the server stops.
    pub async fn admit_body(&self) -> Result<Admission, Problem> {
        admit(&self.bodies).await
    }

    /// Waits for leave to take a recording or bundle apart, or to pack one.
    ///
    /// # Errors
    /// If the server stops.
    pub async fn admit_file(&self) -> Result<Admission, Problem> {
        admit(&self.files).await
    }

    /// Waits for leave to draw a picture.
    ///
    /// # Errors
    /// If the server stops.
    pub async fn admit_drawing(&self) -> Result<Admission, Problem> {
        admit(&self.drawing).await
    }
}

async fn admit(places: &Arc<Semaphore>) -> Result<Admission, Problem> {
    let admitted = Arc::clone(places).acquire_owned().await;
    admitted.map_err(|_| Problem::failed("the server stops"))
}

/// Does something off the threads that answer requests.
///
/// # Errors
/// If it panicked.
pub async fn aside<T: Send + 'static>(
    act: impl FnOnce() -> T + Send + 'static,
) -> Result<T, Problem> {
    let done = tokio::task::spawn_blocking(act).await;
    done.map_err(|e| Problem::failed(&e.to_string()))
}
