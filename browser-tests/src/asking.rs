//! What is asked beside the page: the library, files that were saved, pictures.

use std::path::{Path, PathBuf};
use std::time::Duration;

use diesel::connection::SimpleConnection;
use diesel::{Connection, SqliteConnection};
use serde_json::Value;

use crate::stage::{PATIENCE, Stage};

impl Stage {
    /// The documents in the store, by the API.
    pub async fn patches(&self) -> Vec<Value> {
        let list: Vec<Value> = self.get("/api/patches").await["patches"]
            .as_array()
            .cloned()
            .unwrap_or_default();
        list
    }

    /// Changes the library behind the server's back, as another program would.
    pub fn run_sql(&self, sql: &str) {
        let file = self.data.path().join("zolvik.sqlite");
        let mut connection =
            SqliteConnection::establish(&file.to_string_lossy()).expect("the database opens");
        connection
            .batch_execute(sql)
            .expect("the database takes it");
    }

    /// The stored document of a patch.
    pub async fn stored(&self, id: i64) -> zolvik_patch::Patch {
        let full = self.get(&format!("/api/patches/{id}")).await;
        let document = full["document"].as_str();
        let document = document.unwrap_or_else(|| panic!("patch {id} is not given: {full}"));
        zolvik_patch::json::read(document).expect("a valid document is stored")
    }

    async fn get(&self, path: &str) -> Value {
        let response = reqwest::get(format!("{}{path}", self.server.address))
            .await
            .expect("the server answers");
        serde_json::from_str(&response.text().await.expect("text")).expect("JSON")
    }

    /// Saves a picture of the page.
    pub async fn picture(&self, path: &Path) {
        self.driver.screenshot(path).await.expect("a picture");
    }

    /// A picture of the page into the folder `ZOLVIK_LOOK` names, for who works on it; without that nothing.
    pub async fn look(&self, name: &str) {
        if let Ok(folder) = std::env::var("ZOLVIK_LOOK") {
            let path = Path::new(&folder).join(name).with_extension("png");
            self.picture(&path).await;
        }
    }

    pub(crate) async fn picture_of_failure(&self) {
        let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("../target/failed.png");
        if self.driver.screenshot(&path).await.is_ok() {
            eprintln!("the page as it was: {}", path.display());
        }
    }

    /// Waits for a finished download with this ending and gives its path.
    pub async fn download(&self, ending: &str) -> PathBuf {
        let end = std::time::Instant::now() + PATIENCE;
        while std::time::Instant::now() < end {
            let files = std::fs::read_dir(self.downloads.path()).expect("the folder");
            let all: Vec<PathBuf> = files.flatten().map(|f| f.path()).collect();
            let ends = |path: &Path, with: &str| path.extension().is_some_and(|e| e == with);
            // the browser puts an empty file there first, and writes beside it
            let comes = all.iter().any(|path| ends(path, "crdownload"));
            let is_whole = |path: &Path| std::fs::metadata(path).is_ok_and(|file| file.len() > 0);
            let mut found = all.into_iter().filter(|path| ends(path, ending));
            if let Some(file) = found.next().filter(|path| !comes && is_whole(path)) {
                return file;
            }
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
        self.picture_of_failure().await;
        panic!("no .{ending} file was downloaded");
    }
}
