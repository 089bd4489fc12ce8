//! The store on a real file.

use diesel::prelude::*;
use zolvik_patch::{Patch, json};
use zolvik_store::{Store, StoreError};

fn named(name: &str) -> Patch {
    let mut patch = Patch::empty();
    patch.meta.name = name.into();
    patch
}

fn store() -> (tempfile::TempDir, Store) {
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(folder.path()).unwrap();
    (folder, store)
}

#[test]
fn what_was_saved_is_there_after_reopening() {
    let (folder, mut store) = store();
    let id = store.create(&named("Frost Fern")).unwrap().id;
    let saved = store.save(id, &named("Frost Fern II"), 1).unwrap();
    drop(store);
    let entry = Store::open(folder.path()).unwrap().get(id).unwrap();
    assert_eq!(entry, saved);
    assert_eq!(json::read(&entry.document).unwrap(), named("Frost Fern II"));
    assert_eq!(entry.revision, 2);
}

#[test]
fn a_stale_save_is_refused_and_changes_nothing() {
    let (_folder, mut store) = store();
    let id = store.create(&named("one")).unwrap().id;
    store.save(id, &named("first window"), 1).unwrap();
    let refused = store.save(id, &named("second window"), 1).unwrap_err();
    assert!(
        matches!(
            refused,
            StoreError::Stale {
                expected: 1,
                actual: 2
            }
        ),
        "{refused}"
    );
    assert_eq!(store.get(id).unwrap().name, "first window");
}

#[test]
fn the_bin_gives_back_what_it_took() {
    let (_folder, mut store) = store();
    let id = store.create(&named("gone")).unwrap().id;
    store.bin(id, true).unwrap();
    assert!(store.list(false).unwrap().is_empty());
    assert_eq!(store.list(true).unwrap()[0].id, id);
    store.bin(id, false).unwrap();
    assert_eq!(store.list(false).unwrap()[0].name, "gone");
}

#[test]
fn versions_stay_as_they_were() {
    let (_folder, mut store) = store();
    let id = store.create(&named("early")).unwrap().id;
    let kept = store.keep_version(id, " before the filter ").unwrap();
    store.save(id, &named("late"), 1).unwrap();
    let read = store.version(id, kept.id).unwrap();
    assert_eq!(read.name, "before the filter");
    assert_eq!(json::read(&read.document).unwrap().meta.name, "early");
    assert!(matches!(
        store.version(id + 1, kept.id),
        Err(StoreError::NoVersion { .. })
    ));
}

#[test]
fn invalid_patches_are_not_stored() {
    let (_folder, mut store) = store();
    let mut patch = named("x");
    patch.units[0].envelope.points[0].time_s = f64::NAN;
    assert!(matches!(store.create(&patch), Err(StoreError::Patch(_))));
    assert!(store.list(false).unwrap().is_empty());
}

#[test]
fn a_database_from_a_newer_version_is_left_alone() {
    let (folder, store) = store();
    drop(store);
    let file = folder.path().join("zolvik.sqlite");
    let mut raw = diesel::SqliteConnection::establish(&file.to_string_lossy()).unwrap();
    diesel::sql_query("INSERT INTO __diesel_schema_migrations (version) VALUES ('9999')")
        .execute(&mut raw)
        .unwrap();
    assert!(matches!(
        Store::open(folder.path()),
        Err(StoreError::Newer { .. })
    ));
}

#[test]
fn a_folder_that_is_a_file_is_named_in_the_error() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("taken");
    std::fs::write(&file, "x").unwrap();
    let error = Store::open(&file).err().unwrap().to_string();
    assert!(
        error.contains("taken") && error.contains("--data"),
        "{error}"
    );
}

#[test]
fn a_patch_and_its_recordings_come_in_together_or_not_at_all() {
    let (_folder, mut store) = store();
    let recording = zolvik_store::Recording {
        sound: zolvik_patch::sound::OwnSound {
            content: "ab".repeat(32),
            name: "Stone".into(),
            frames: 4,
            rate_hz: 48_000,
        },
        wav: vec![1, 2, 3, 4],
    };
    let kept = std::slice::from_ref(&recording);
    // an empty name is no valid patch
    assert!(store.create_with(&named(""), kept).is_err());
    let missing = store.recording(&recording.sound.content);
    assert!(matches!(missing, Err(StoreError::NoRecording { .. })));
    assert!(store.list(false).unwrap().is_empty());
    store.create_with(&named("Wet Stone"), kept).unwrap();
    assert_eq!(
        store.recording(&recording.sound.content).unwrap(),
        [1, 2, 3, 4]
    );
    assert!(!store.keep_recording(&recording).unwrap(), "kept once");
}
