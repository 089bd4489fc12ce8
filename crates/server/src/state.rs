//! What the handlers share: the store, and how much heavy work goes on at a time.

use std::path::{Path, PathBuf};
use std::sync::{Arc, PoisonError, RwLock, RwLockReadGuard};
use std::time::{Duration, Instant};

use axum::http::StatusCode;
use tokio::sync::{OwnedSemaphorePermit, Semaphore};
use zolvik_store::{Store, StoreError, set_aside};

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
    store: Arc<RwLock<Served>>,
    folder: PathBuf,
    writes: Arc<Semaphore>,
    bodies: Arc<Semaphore>,
    files: Arc<Semaphore>,
    drawing: Arc<Semaphore>,
    pictures: Arc<Pictures>,
    jobs: Arc<Jobs>,
    render_patience: Duration,
    backup_bytes: u64,
}

/// The store, and which opening of it this is.
struct Served {
    /// None while another library is put in its place.
    store: Option<Arc<Store>>,
    library: String,
    /// What was set aside last: another name once a backup was put in the library's place, by whoever, and the same after a new start.
    opening: String,
}

/// Leave to do heavy work, until it is dropped.
pub type Admission = OwnedSemaphorePermit;

impl Served {
    fn new(store: Store) -> Self {
        Served {
            library: store.library().into(),
            opening: set_aside(store.folder())
                .into_iter()
                .next()
                .unwrap_or("first".into()),
            store: Some(Arc::new(store)),
        }
    }
}

/// How long those that read the library are waited for when another is put in its place.
const LAST_READERS: Duration = Duration::from_secs(10);

impl App {
    /// An application on an open store.
    pub fn new(store: Store) -> Self {
        let some = |count| Arc::new(Semaphore::new(count));
        App {
            pictures: Arc::new(Pictures::new(store.folder())),
            folder: store.folder().into(),
            store: Arc::new(RwLock::new(Served::new(store))),
            jobs: Arc::new(Jobs::default()),
            render_patience: RENDER_PATIENCE,
            backup_bytes: zolvik_store::MOST_BYTES,
            // the store writes one after the other; whoever waits holds no thread
            writes: some(1),
            bodies: some(BODIES),
            files: some(FILES),
            drawing: some(PICTURES),
        }
    }

    fn served(&self) -> RwLockReadGuard<'_, Served> {
        self.store.read().unwrap_or_else(PoisonError::into_inner)
    }

    /// The library served.
    pub fn library(&self) -> String {
        self.served().library.clone()
    }

    /// Which opening of a library this is: another one since a backup was put in its place.
    pub fn opening(&self) -> String {
        self.served().opening.clone()
    }

    /// The data folder.
    pub fn folder(&self) -> &Path {
        &self.folder
    }

    fn store(&self) -> Result<Arc<Store>, Problem> {
        let busy = || {
            let detail = "a backup is being put in place; try again in a moment, or start zolvik again if it stays so";
            Problem::new(StatusCode::SERVICE_UNAVAILABLE, "busy", detail)
        };
        self.served().store.clone().ok_or_else(busy)
    }

    /// Puts a backup in the library's place: closes the library, sets it aside, opens the backup. Gives the name of what was set aside.
    ///
    /// # Errors
    /// If it cannot be put in place; then the library is served as before.
    pub async fn put_in_place(&self, name: String) -> Result<String, Problem> {
        let turn = admit(&self.writes).await?;
        let app = self.clone();
        let done = aside(move || app.exchange(&name)).await?;
        drop(turn);
        done
    }

    fn exchange(&self, name: &str) -> Result<String, Problem> {
        let write = || self.store.write().unwrap_or_else(PoisonError::into_inner);
        let store = write()
            .store
            .take()
            .ok_or_else(|| Problem::failed("the library is closed"))?;
        // whoever reads just now ends soon
        let began = Instant::now();
        while Arc::strong_count(&store) > 1 && began.elapsed() < LAST_READERS {
            std::thread::sleep(Duration::from_millis(10));
        }
        let closed = Arc::try_unwrap(store).map_err(|store| {
            write().store = Some(store);
            let detail = "the library is being read; try again in a moment";
            Problem::new(StatusCode::SERVICE_UNAVAILABLE, "busy", detail)
        })?;
        drop(closed);
        let done = zolvik_store::restore(&self.folder, name, chrono::Utc::now());
        // whichever library it is now
        let opened = Store::open(&self.folder)?;
        match &done {
            Ok(_) => *write() = Served::new(opened),
            Err(_) => write().store = Some(Arc::new(opened)),
        }
        Ok(done?)
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

    /// The same with another size for all backups together.
    pub fn with_backup_bytes(self, backup_bytes: u64) -> Self {
        App {
            backup_bytes,
            ..self
        }
    }

    /// Most bytes of all backups together.
    pub fn backup_bytes(&self) -> u64 {
        self.backup_bytes
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
        let store = self.store()?;
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
