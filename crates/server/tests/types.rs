//! The TypeScript types in the front end are those of the Rust ones; with `ZOLVIK_TYPES` they are written into that folder instead.
#![cfg(feature = "types")]

use std::path::Path;

use ts_rs::{Config, TS};
use zolvik_server::api::{backups, kept, renders, types};
use zolvik_server::problem;

#[test]
fn the_front_end_has_these_types() {
    let fresh = tempfile::tempdir().expect("a folder");
    let asked = std::env::var("ZOLVIK_TYPES").ok();
    let folder = asked.as_deref().map_or(fresh.path(), Path::new);
    let config = Config::default()
        .with_out_dir(folder)
        .with_large_int("number");
    types::PatchFull::export_all(&config).expect("the folder can be written");
    types::PatchList::export_all(&config).expect("the folder can be written");
    types::About::export_all(&config).expect("the folder can be written");
    types::Emptied::export_all(&config).expect("the folder can be written");
    types::NewPatch::export_all(&config).expect("the folder can be written");
    types::StoredSteps::export_all(&config).expect("the folder can be written");
    types::KeepBeside::export_all(&config).expect("the folder can be written");
    types::SavePatch::export_all(&config).expect("the folder can be written");
    types::Tagged::export_all(&config).expect("the folder can be written");
    types::Named::export_all(&config).expect("the folder can be written");
    types::VersionFull::export_all(&config).expect("the folder can be written");
    kept::KeptView::export_all(&config).expect("the folder can be written");
    renders::RenderView::export_all(&config).expect("the folder can be written");
    backups::BackupView::export_all(&config).expect("the folder can be written");
    backups::BackupContents::export_all(&config).expect("the folder can be written");
    renders::RenderJob::export_all(&config).expect("the folder can be written");
    zolvik_server::renders::Progress::export_all(&config).expect("the folder can be written");
    zolvik_server::renders::Format::export_all(&config).expect("the folder can be written");
    zolvik_lab::batch::Batch::export_all(&config).expect("the folder can be written");
    problem::Problem::export_all(&config).expect("the folder can be written");
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
