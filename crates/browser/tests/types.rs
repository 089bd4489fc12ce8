//! The TypeScript types in the front end are those of the Rust ones; with `ZOLVIK_TYPES` they are written into that folder instead.
#![cfg(feature = "types")]

use std::path::Path;

use ts_rs::{Config, TS};
use zolvik_browser::protocol::{Answer, Question, Task};
use zolvik_browser::shared::Shared;

#[test]
fn the_front_end_has_these_types() {
    let fresh = tempfile::tempdir().expect("a folder");
    let asked = std::env::var("ZOLVIK_TYPES").ok();
    let folder = asked.as_deref().map_or(fresh.path(), Path::new);
    let config = Config::default()
        .with_out_dir(folder)
        .with_large_int("number");
    Question::export_all(&config).expect("the folder can be written");
    Task::export_all(&config).expect("the folder can be written");
    Answer::export_all(&config).expect("the folder can be written");
    std::fs::write(folder.join("shared.ts"), Shared::typescript())
        .expect("the folder can be written");
    let kept = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../web/src/engine/generated");
    for entry in std::fs::read_dir(fresh.path()).expect("the types") {
        let entry = entry.expect("a file");
        let read = |path: &Path| std::fs::read_to_string(path).unwrap_or_default();
        let kept = kept.join(entry.file_name());
        assert_eq!(
            read(&kept),
            read(&entry.path()),
            "{kept:?} is stale; run cargo xtask types and commit"
        );
    }
}
