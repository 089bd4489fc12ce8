//! The store on a real file.

use zolvik_patch::json;
use zolvik_store::{Store, StoreError};

use crate::support::*;

#[test]
fn what_was_saved_is_there_after_reopening() {
    let (folder, store) = store();
    let id = create(&store, &named("Frost Fern"));
    let saved = store.save(id, &named("Frost Fern II"), 1).unwrap();
    drop(store);
    let entry = Store::open(folder.path()).unwrap().get(id).unwrap();
    assert_eq!(entry.summary, saved);
    assert_eq!(json::read(&entry.document).unwrap(), named("Frost Fern II"));
    assert_eq!(entry.summary.revision, 2);
}

#[test]
fn a_stale_save_is_refused_and_changes_nothing() {
    let (_folder, store) = store();
    let id = create(&store, &named("one"));
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
    assert_eq!(store.get(id).unwrap().summary.name, "first window");
}

#[test]
fn the_bin_gives_back_what_it_took() {
    let (_folder, store) = store();
    let id = create(&store, &named("gone"));
    store.bin(id, true).unwrap();
    assert!(names(&store, false).is_empty());
    assert_eq!(store.list(true, 0, 9).unwrap().patches[0].id, id);
    store.bin(id, false).unwrap();
    assert_eq!(names(&store, false), ["gone"]);
}

#[test]
fn versions_stay_as_they_were() {
    let (_folder, store) = store();
    let id = create(&store, &named("early"));
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
    let (_folder, store) = store();
    let mut patch = named("x");
    patch.units[0].envelope.points[0].time_s = f64::NAN;
    assert!(matches!(store.create(&patch), Err(StoreError::Patch(_))));
    assert!(names(&store, false).is_empty());
}

#[test]
fn a_database_from_a_newer_version_is_left_alone() {
    let (folder, store) = store();
    drop(store);
    let sql = "INSERT INTO __diesel_schema_migrations (version) VALUES ('9999')";
    run(&mut raw(folder.path()), sql);
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
    let (_folder, store) = store();
    let recording = zolvik_store::Recording {
        sound: zolvik_patch::sound::OwnSound {
            content: content_of(&[1, 2, 3, 4]),
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
    assert!(names(&store, false).is_empty());
    store.create_with(&named("Wet Stone"), kept).unwrap();
    assert_eq!(
        store.recording(&recording.sound.content).unwrap(),
        [1, 2, 3, 4]
    );
    assert!(!store.keep_recording(&recording).unwrap(), "kept once");
}

#[test]
fn the_same_save_sent_again_does_no_harm_and_another_one_does_not_pass_for_it() {
    let (_folder, store) = store();
    let id = create(&store, &named("one"));
    let first = store.save(id, &named("two"), 1).unwrap();
    // its answer was lost on the way
    assert_eq!(store.save(id, &named("two"), 1).unwrap(), first);
    assert!(matches!(
        store.save(id, &named("three"), 1),
        Err(StoreError::Stale { .. })
    ));
    store.save(id, &named("four"), 2).unwrap();
    assert!(matches!(
        store.save(id, &named("two"), 1),
        Err(StoreError::Stale { .. })
    ));
}

#[test]
fn a_damaged_row_is_listed_as_damaged_and_the_rest_works() {
    let (folder, store) = store();
    let good = create(&store, &named("good"));
    let bad = create(&store, &named("bad"));
    run(
        &mut raw(folder.path()),
        &format!("UPDATE patches SET document = '{{broken' WHERE id = {bad}"),
    );
    let check = |store: &Store| {
        let listed = store.list(false, 0, 9).unwrap().patches;
        let of = |id| listed.iter().find(|p| p.id == id).unwrap();
        assert!(
            of(bad)
                .damage
                .as_deref()
                .unwrap()
                .contains("changed on the disk"),
            "{:?}",
            of(bad)
        );
        assert_eq!((of(good).damage.clone(), of(good).strips), (None, 1));
        assert!(matches!(
            store.patch(bad),
            Err(StoreError::Unreadable { .. })
        ));
        assert!(matches!(
            store.rename(bad, "x"),
            Err(StoreError::Unreadable { .. })
        ));
        assert_eq!(store.get(bad).unwrap().document, "{broken");
        assert_eq!(store.look_over().unwrap().faults.len(), 1);
    };
    // seen at once, and after opening anew
    check(&store);
    drop(store);
    let store = Store::open(folder.path()).unwrap();
    check(&store);
    store.bin(bad, true).unwrap();
    assert_eq!(names(&store, false), ["good"]);
}

#[test]
fn a_library_knows_itself_and_others() {
    let ((one, a), (_two, b)) = (store(), store());
    assert_eq!(a.library().len(), 32);
    assert_ne!(a.library(), b.library());
    let before = a.library().to_owned();
    drop(a);
    assert_eq!(Store::open(one.path()).unwrap().library(), before);
}

#[test]
fn reading_does_not_wait_for_a_writer_elsewhere_and_writing_says_why_it_cannot() {
    let (folder, store) = store();
    let id = create(&store, &named("free"));
    let mut other = raw(folder.path());
    run(&mut other, "BEGIN IMMEDIATE");
    let started = std::time::Instant::now();
    assert_eq!(names(&store, false), ["free"]);
    assert_eq!(store.get(id).unwrap().summary.name, "free");
    assert!(
        started.elapsed().as_secs_f64() < 2.0,
        "well below the writer's patience"
    );
    assert!(matches!(store.bin(id, true), Err(StoreError::Busy)));
    run(&mut other, "ROLLBACK");
    store.bin(id, true).unwrap();
}

#[test]
fn a_folder_that_was_taken_away_is_noticed_and_found_again() {
    let (folder, store) = store();
    create(&store, &named("before"));
    let away = folder.path().with_extension("away");
    std::fs::rename(folder.path(), &away).unwrap();
    let why = store.create(&named("lost")).unwrap_err();
    assert!(matches!(why, StoreError::Gone { .. }), "{why}");
    // another database in its place is not written either
    std::fs::create_dir(folder.path()).unwrap();
    drop(Store::open(folder.path()).unwrap());
    assert!(matches!(
        store.create(&named("lost")),
        Err(StoreError::Gone { .. })
    ));
    std::fs::remove_dir_all(folder.path()).unwrap();
    std::fs::rename(&away, folder.path()).unwrap();
    store.create(&named("after")).unwrap();
    assert_eq!(names(&store, false), ["after", "before"]);
}

/// The same file, but what it holds is another library's, or the same one's of before: nothing is written over it, and what lay
/// beside it is not played over it either.
#[rstest::rstest]
#[case::another_library(false)]
#[case::a_backup_of_this_one(true)]
fn a_database_that_is_written_over_is_noticed_and_left_as_it_is(#[case] own: bool) {
    let (folder, store) = store();
    let id = create(&store, &named("kept"));
    let backup = back_up(&store, 0).unwrap();
    store.save(id, &named("later"), 1).unwrap();
    let (foreign, other) = crate::support::store();
    create(&other, &named("foreign"));
    drop(other);
    let from = match own {
        true => folder.path().join("backups").join(backup),
        false => foreign.path().join("zolvik.sqlite"),
    };
    let file = folder.path().join("zolvik.sqlite");
    std::fs::copy(&from, &file).unwrap();
    for _ in 0..2 {
        let why = store.save(id, &named("lost"), 2).unwrap_err();
        assert!(matches!(why, StoreError::Gone { .. }), "{why}");
        // nor is half of the one and half of the other read
        assert!(matches!(store.get(id), Err(StoreError::Gone { .. })));
    }
    drop(store);
    assert_eq!(std::fs::read(&file).unwrap(), std::fs::read(&from).unwrap());
    let store = Store::open(folder.path()).unwrap();
    assert_eq!(names(&store, false), [if own { "kept" } else { "foreign" }]);
    assert!(store.look_over().unwrap().faults.is_empty());
    create(&store, &named("goes on"));
}

/// Two of ours on one library: what one writes to the file does not look to the other like somebody's meddling.
#[test]
fn two_programs_on_one_library_write_in_turn() {
    let (folder, one) = store();
    let two = Store::open(folder.path()).unwrap();
    let id = create(&one, &named("both"));
    for n in 1..20 {
        let writer = if n % 2 == 0 { &one } else { &two };
        writer.save(id, &named(&format!("save {n}")), n).unwrap();
    }
    assert_eq!(names(&one, false), ["save 19"]);
}

/// Many read while one writes: what is written meanwhile looks neither like somebody's meddling nor like damage.
#[test]
fn many_read_while_one_writes() {
    let (_folder, store) = store();
    let id = create(&store, &named("busy"));
    let goes_on = std::sync::atomic::AtomicBool::new(true);
    std::thread::scope(|scope| {
        for _ in 0..4 {
            scope.spawn(|| {
                while goes_on.load(std::sync::atomic::Ordering::Relaxed) {
                    assert_eq!(store.get(id).unwrap().summary.damage, None);
                    let listed = store.list(false, 0, 9).unwrap();
                    assert_eq!(listed.patches[0].damage, None);
                    let checked = zolvik_store::check(store.folder()).unwrap();
                    assert_eq!(checked.faults, Vec::<String>::new());
                }
            });
        }
        for n in 1..60 {
            store.save(id, &named(&format!("save {n}")), n).unwrap();
        }
        goes_on.store(false, std::sync::atomic::Ordering::Relaxed);
    });
    assert_eq!(names(&store, false), ["save 59"]);
}

#[test]
fn the_database_is_the_users_alone() {
    use std::os::unix::fs::PermissionsExt;
    let parent = tempfile::tempdir().unwrap();
    let folder = parent.path().join("data");
    let store = Store::open(&folder).unwrap();
    create(&store, &named("x"));
    back_up(&store, 0).unwrap();
    let mode = |path: &std::path::Path| path.metadata().unwrap().permissions().mode() & 0o777;
    assert_eq!(mode(&folder), 0o700);
    let mut files = 0;
    for entry in std::fs::read_dir(&folder)
        .unwrap()
        .chain(std::fs::read_dir(folder.join("backups")).unwrap())
    {
        let path = entry.unwrap().path();
        let wanted = if path.is_dir() { 0o700 } else { 0o600 };
        assert_eq!(mode(&path), wanted, "{}", path.display());
        files += 1;
    }
    assert!(files >= 5, "database, log, index, lock, backup: {files}");
    // a folder that is not ours keeps its rights
    std::fs::write(parent.path().join("diary.txt"), "x").unwrap();
    std::fs::set_permissions(parent.path(), std::fs::Permissions::from_mode(0o755)).unwrap();
    drop(Store::open(parent.path()).unwrap());
    assert_eq!(mode(parent.path()), 0o755);
}

#[test]
fn emptying_the_bin_takes_what_only_the_bin_played() {
    let (_folder, store) = store();
    let recording = |sign: &str| zolvik_store::Recording {
        sound: zolvik_patch::sound::OwnSound {
            content: content_of(sign.as_bytes()),
            name: "Stone".into(),
            frames: 4,
            rate_hz: 48_000,
        },
        wav: sign.as_bytes().to_vec(),
    };
    let playing = |name: &str, sign: &str| {
        use zolvik_patch::document::{KindName, Unit, UnitId, UnitKind};
        let mut patch = named(name);
        let mut unit = Unit::new(UnitId(9), KindName::Sample);
        if let UnitKind::Sample(sample) = &mut unit.kind {
            sample.sound = zolvik_patch::sound::Sound::Own(recording(sign).sound);
        }
        patch.units.push(unit);
        patch
    };
    for sign in ["aa", "bb", "cc"] {
        store.keep_recording(&recording(sign)).unwrap();
    }
    let gone = create(&store, &playing("gone", "aa"));
    let shared = create(&store, &playing("shared", "bb"));
    create(&store, &playing("stays", "bb"));
    store.keep_version(gone, "early").unwrap();
    store.bin(gone, true).unwrap();
    store.bin(shared, true).unwrap();
    assert_eq!(store.empty_bin().unwrap(), (2, 1));
    assert_eq!(names(&store, true).len() + names(&store, false).len(), 1);
    assert!(store.recording(&content_of(b"aa")).is_err());
    assert!(store.recording(&content_of(b"bb")).is_ok(), "still played");
    assert!(
        store.recording(&content_of(b"cc")).is_ok(),
        "not in any patch yet: it may be about to be"
    );
    assert!(matches!(
        store.versions(gone),
        Err(StoreError::NoPatch { .. })
    ));
}

#[test]
fn a_list_comes_in_stretches() {
    let (_folder, store) = store();
    for n in 0..7 {
        create(&store, &named(&format!("p{n}")));
    }
    let (first, rest) = (
        store.list(false, 0, 3).unwrap(),
        store.list(false, 3, 100).unwrap(),
    );
    assert_eq!(
        (first.total, first.patches.len(), rest.patches.len()),
        (7, 3, 4)
    );
    let all: Vec<String> = first
        .patches
        .into_iter()
        .chain(rest.patches)
        .map(|p| p.name)
        .collect();
    assert_eq!(all, ["p6", "p5", "p4", "p3", "p2", "p1", "p0"]);
}
