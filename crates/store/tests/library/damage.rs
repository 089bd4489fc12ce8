//! What is turned on the disk is seen, named, and stops nothing else.

use std::path::Path;

use diesel::connection::SimpleConnection;
use diesel::prelude::*;
use rstest::rstest;
use zolvik_patch::sound::OwnSound;
use zolvik_store::{Kept, Recording, Store, StoreError, Summary, Version};

use crate::support::{content_of, named};

fn recording() -> Recording {
    let wav = b"RIFF as many bytes as a short sound".to_vec();
    let content = "f2b9a1d2".to_owned();
    let sound = OwnSound {
        content,
        name: "knock".into(),
        frames: 4,
        rate_hz: 48_000,
    };
    Recording { sound, wav }
}

/// A library with something in every table, closed.
fn library() -> tempfile::TempDir {
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(folder.path()).unwrap();
    for name in ["one", "two", "three"] {
        store.create(&named(name)).unwrap();
    }
    store.keep_version(1, "early").unwrap();
    store.keep("phrase", "steps", "{\"notes\": []}").unwrap();
    store.bin(3, true).unwrap();
    folder
}

fn run(folder: &Path, sql: &str) {
    let file = folder.join("zolvik.sqlite");
    let mut other = SqliteConnection::establish(file.to_str().unwrap()).unwrap();
    other.batch_execute(sql).unwrap();
}

/// All there is to see of a library.
#[derive(Debug, PartialEq)]
struct Seen {
    lists: [Vec<Summary>; 2],
    documents: Vec<Vec<u8>>,
    versions: Vec<Version>,
    kept: Vec<Kept>,
}

fn seen(store: &Store) -> Result<Seen, StoreError> {
    Ok(Seen {
        lists: [
            store.list(false, 0, 99)?.patches,
            store.list(true, 0, 99)?.patches,
        ],
        documents: [1, 2, 3]
            .into_iter()
            .map(|id| store.raw(id))
            .collect::<Result<_, _>>()?,
        versions: store.versions(1)?,
        kept: store.kept("phrase")?,
    })
}

#[rstest]
#[case::wrong_hash("UPDATE patches SET document = replace(document, 'two', 'too') WHERE id = 2")]
#[case::no_json("UPDATE patches SET document = '{broken' WHERE id = 2")]
#[case::no_utf8("UPDATE patches SET document = CAST(x'7bff7d' AS TEXT) WHERE id = 2")]
#[case::a_broken_date("UPDATE patches SET changed_at = CAST(x'32ff' AS TEXT) WHERE id = 2")]
#[case::a_date_of_no_kind("UPDATE patches SET created_at = 12.5 WHERE id = 2")]
#[case::another_revision("UPDATE patches SET revision = revision + 1 WHERE id = 2")]
#[case::another_name("UPDATE patches SET name = CAST(x'74ff6f' AS TEXT) WHERE id = 2")]
#[case::no_number("UPDATE patches SET strips = 'many' WHERE id = 2")]
#[case::no_seal("UPDATE patches SET seal = '' WHERE id = 2")]
fn a_row_that_was_changed_is_marked_and_the_others_are_shown(#[case] sql: &str) {
    let folder = library();
    run(folder.path(), sql);
    let store = Store::open(folder.path()).unwrap();
    let list = store.list(false, 0, 99).unwrap().patches;
    let damaged: Vec<i32> = list
        .iter()
        .filter(|s| s.damage.is_some())
        .map(|s| s.id)
        .collect();
    assert_eq!((list.len(), damaged), (2, vec![2]));
    for summary in &list {
        assert!(chrono::DateTime::parse_from_rfc3339(&summary.changed_at).is_ok());
        assert!(chrono::DateTime::parse_from_rfc3339(&summary.created_at).is_ok());
    }
    assert!(matches!(
        store.readable(2),
        Err(StoreError::Unreadable { .. })
    ));
    assert!(store.readable(1).is_ok() && !store.raw(2).unwrap().is_empty());
    let faults = zolvik_store::check(folder.path()).unwrap().faults;
    assert!(
        faults.len() == 1 && faults[0].contains("patch"),
        "{faults:?}"
    );
    // moving it does not make it good; saving over it does
    store.bin(2, true).unwrap();
    store.bin(2, false).unwrap();
    assert_eq!(zolvik_store::check(folder.path()).unwrap().faults.len(), 1);
    let revision = list.iter().find(|s| s.id == 2).unwrap().revision;
    store.save(2, &named("two again"), revision).unwrap();
    assert_eq!(
        zolvik_store::check(folder.path()).unwrap().faults,
        Vec::<String>::new()
    );
    assert_eq!(store.get(2).unwrap().summary.damage, None);
}

#[test]
fn every_table_is_checked_to_its_end_and_each_fault_is_named() {
    let folder = library();
    run(
        folder.path(),
        "UPDATE patches SET document = '{' WHERE id = 1; UPDATE patches SET note = 'x' WHERE id = 3; \
         UPDATE versions SET name = 'late'; UPDATE kept SET document = '[]'; UPDATE library SET made_at = ''",
    );
    let report = zolvik_store::check(folder.path()).unwrap();
    let about = |what: &str| report.faults.iter().filter(|f| f.starts_with(what)).count();
    assert_eq!(
        (about("patch 1"), about("patches 3")),
        (1, 1),
        "{:?}",
        report.faults
    );
    assert_eq!(
        (
            about("versions 1"),
            about("kept phrase steps"),
            about("library")
        ),
        (1, 1, 1)
    );
    let store = Store::open(folder.path()).unwrap();
    let version = store.versions(1).unwrap().remove(0);
    assert!(version.damage.is_some());
    assert!(matches!(
        store.version(1, version.id),
        Err(StoreError::FaultyVersion { .. })
    ));
    assert!(!store.kept("phrase").unwrap()[0].is_whole);
}

#[test]
fn a_recording_that_was_changed_is_told_and_made_good_by_importing_it_again() {
    let folder = library();
    let mut it = recording();
    it.sound.content = content_of(&it.wav);
    let content = it.sound.content.clone();
    let store = Store::open(folder.path()).unwrap();
    assert!(store.keep_recording(&it).unwrap());
    run(folder.path(), "UPDATE recordings SET wav = x'00'");
    assert!(matches!(
        store.recording(&content),
        Err(StoreError::FaultyRecording { .. })
    ));
    assert_eq!(zolvik_store::check(folder.path()).unwrap().faults.len(), 1);
    assert!(store.keep_recording(&it).unwrap(), "it is taken anew");
    assert_eq!(store.recording(&content).unwrap(), it.wav);
    assert_eq!(
        zolvik_store::check(folder.path()).unwrap().faults,
        Vec::<String>::new()
    );
}

#[test]
fn looking_over_a_folder_without_a_library_makes_nothing_and_says_so() {
    let folder = tempfile::tempdir().unwrap();
    assert!(matches!(
        zolvik_store::check(folder.path()),
        Err(StoreError::NoDatabase { .. })
    ));
    assert_eq!(std::fs::read_dir(folder.path()).unwrap().count(), 0);
    let other = folder.path().join("zolvik.sqlite");
    std::fs::write(&other, "no tables").unwrap();
    assert!(matches!(
        zolvik_store::check(folder.path()),
        Err(StoreError::Open { .. })
    ));
    assert_eq!(std::fs::read(&other).unwrap(), b"no tables");
}

/// One byte of the file turned: noticed on reading or in the check, or without effect on any row.
fn turned(whole: &[u8], at: usize, bit: u8, before: &Seen) -> bool {
    let folder = tempfile::tempdir().unwrap();
    let mut bytes = whole.to_vec();
    bytes[at] ^= 1 << bit;
    std::fs::write(folder.path().join("zolvik.sqlite"), bytes).unwrap();
    let is_told = match zolvik_store::check(folder.path()) {
        Ok(report) => !report.faults.is_empty(),
        Err(_) => true,
    };
    is_told
        || Store::open(folder.path())
            .and_then(|store| seen(&store))
            .is_ok_and(|now| now == *before)
}

fn turn_bytes(offsets: impl Iterator<Item = usize>) -> (usize, Vec<usize>) {
    let folder = library();
    let before = {
        let store = Store::open(folder.path()).unwrap();
        seen(&store).unwrap()
    };
    let whole = std::fs::read(folder.path().join("zolvik.sqlite")).unwrap();
    let mut dice = zolvik_patch::testing::Dice(7);
    let (mut count, mut unseen) = (0, vec![]);
    for at in offsets.map(|at| at % whole.len()) {
        count += 1;
        if !turned(&whole, at, dice.below(8) as u8, &before) {
            unseen.push(at);
        }
    }
    (count, unseen)
}

#[test]
fn five_hundred_turned_bytes_are_each_noticed_or_without_effect() {
    let mut dice = zolvik_patch::testing::Dice(0xf11b);
    let offsets: Vec<usize> = (0..500).map(|_| dice.below(1 << 30)).collect();
    assert_eq!(turn_bytes(offsets.into_iter()), (500, vec![]));
}

#[test]
#[ignore = "every offset of the file takes minutes; cargo xtask measure flips"]
fn every_turned_byte_is_noticed_or_without_effect() {
    let folder = library();
    let length = folder
        .path()
        .join("zolvik.sqlite")
        .metadata()
        .unwrap()
        .len() as usize;
    let (count, unseen) = turn_bytes(0..length);
    println!("{count} bytes turned, {} unseen", unseen.len());
    assert_eq!(unseen, Vec::<usize>::new());
}
