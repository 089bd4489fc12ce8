//! Backups: made, thinned out, put in place; and older libraries brought up to date.

use diesel::prelude::*;
use zolvik_patch::json;
use zolvik_store::{Store, StoreError};

use crate::support::*;

/// A library as version 1 of the tables held it.
fn old_library(folder: &std::path::Path) {
    let mut old = raw(folder);
    for sql in [
        include_str!("../../migrations/0001_patches/up.sql"),
        include_str!("../../migrations/0002_recordings/up.sql"),
    ] {
        diesel::connection::SimpleConnection::batch_execute(&mut old, sql).unwrap();
    }
    run(
        &mut old,
        "CREATE TABLE __diesel_schema_migrations (version VARCHAR(50) PRIMARY KEY NOT NULL, run_on TIMESTAMP NOT NULL DEFAULT CURRENT_TIMESTAMP)",
    );
    run(
        &mut old,
        "INSERT INTO __diesel_schema_migrations (version) VALUES ('0001'), ('0002')",
    );
    let document = json::write(&named("old")).replace('\'', "''");
    run(
        &mut old,
        &format!(
            "INSERT INTO patches (id, name, document, revision, created_at, changed_at) VALUES (3, 'old', '{document}', 7, 'a', 'b'), (8, 'gone', 'x', 1, 'a', 'b')"
        ),
    );
    run(
        &mut old,
        &format!(
            "INSERT INTO versions (patch_id, name, document, created_at) VALUES (3, 'early', '{document}', 'a')"
        ),
    );
    run(&mut old, "DELETE FROM patches WHERE id = 8");
}

#[test]
fn an_older_database_is_backed_up_and_brought_up_to_date_without_losing_anything() {
    let folder = tempfile::tempdir().unwrap();
    old_library(folder.path());
    let store = Store::open(folder.path()).unwrap();
    assert_eq!(store.look_over().unwrap().faults, Vec::<String>::new());
    let entry = store.get(3).unwrap();
    assert_eq!((entry.summary.revision, entry.summary.strips), (7, 1));
    assert_eq!(store.versions(3).unwrap()[0].name, "early");
    assert_eq!(
        create(&store, &named("new")),
        9,
        "numbers are never given twice"
    );
    let backups = zolvik_store::backups(folder.path());
    assert_eq!(backups.len(), 1, "{backups:?}");
    // the backup is the library as it was: it can be restored and is brought up to date again
    drop(store);
    zolvik_store::restore(folder.path(), &backups[0], day(9)).unwrap();
    let store = Store::open(folder.path()).unwrap();
    assert_eq!(names(&store, false), ["old"]);
}

#[test]
fn a_backup_is_made_once_a_day_and_one_can_be_restored() {
    let (folder, store) = store();
    assert_eq!(back_up(&store, 0), None, "nothing to lose yet");
    create(&store, &named("kept"));
    let made = back_up(&store, 0).unwrap();
    assert_eq!(back_up(&store, 0), None, "once a day");
    // what somebody called otherwise is left alone, and stops none
    let renamed = folder.path().join("backups/zolvik-zz-mine.sqlite");
    std::fs::write(&renamed, "mine").unwrap();
    let id = create(&store, &named("later"));
    let next = back_up(&store, 1).unwrap();
    assert!(renamed.exists());
    assert_eq!(zolvik_store::backups(folder.path()), [next, made.clone()]);
    let refused = zolvik_store::restore(folder.path(), &made, day(2));
    assert!(matches!(refused, Err(StoreError::InUse { .. })));
    let library = store.library().to_owned();
    drop(store);
    assert!(matches!(
        zolvik_store::restore(folder.path(), "nothing", day(2)),
        Err(StoreError::NoBackup { .. })
    ));
    let aside = zolvik_store::restore(folder.path(), &made, day(2)).unwrap();
    let store = Store::open(folder.path()).unwrap();
    assert_eq!(names(&store, false), ["kept"]);
    assert_eq!(store.library(), library, "it is still the same library");
    assert!(store.get(id).is_err());
    drop(store);
    // what was set aside is listed, and taken back
    assert_eq!(
        zolvik_store::set_aside(folder.path()),
        std::slice::from_ref(&aside)
    );
    zolvik_store::restore(folder.path(), &aside, day(3)).unwrap();
    let store = Store::open(folder.path()).unwrap();
    assert!(store.get(id).is_ok());
}

/// Whatever the clock says the backup that was just made is there, and another day has another one.
#[test]
fn a_clock_that_jumps_loses_no_backup() {
    let (folder, store) = store();
    create(&store, &named("kept"));
    for of in [400, 401, 402, 403, 404, 405, 0, -3000, 1, 406] {
        let made = back_up(&store, of).unwrap();
        let left = zolvik_store::backups(folder.path());
        assert!(left.contains(&made), "{made} of {left:?}");
        assert_eq!(back_up(&store, of), None, "once on day {of}");
    }
}

/// Five weeks of days on which a document is damaged: the last backup that was whole is still there, and says which it is.
#[test]
fn damage_does_not_push_the_last_good_backup_out() {
    let (folder, store) = store();
    let id = create(&store, &named("kept"));
    let good = back_up(&store, 0).unwrap();
    let mut connection = raw(folder.path());
    run(
        &mut connection,
        &format!("UPDATE patches SET document = '{{' WHERE id = {id}"),
    );
    for of in 1..36 {
        let made = back_up(&store, of).unwrap();
        assert!(made.ends_with("-faulty.sqlite"), "{made}");
    }
    let left = zolvik_store::backups(folder.path());
    assert!(left.contains(&good), "{left:?}");
    assert_eq!(left.len(), 3);
}

#[test]
fn what_is_no_library_of_a_known_version_is_not_restored_and_leaves_nothing() {
    let (folder, store) = store();
    create(&store, &named("kept"));
    let good = back_up(&store, 0).unwrap();
    drop(store);
    let backups = folder.path().join("backups");
    let place = |day: u8| {
        let name = format!("zolvik-202604{day:02}-100000.000.sqlite");
        (backups.join(&name), name)
    };
    let sqlite = |path: &std::path::Path, statements: &str| {
        let mut made = SqliteConnection::establish(path.to_str().unwrap()).unwrap();
        diesel::connection::SimpleConnection::batch_execute(&mut made, statements).unwrap();
    };
    let (empty, empty_name) = place(1);
    std::fs::write(empty, "").unwrap();
    let (words, words_name) = place(2);
    std::fs::write(words, "these are no tables at all").unwrap();
    let (foreign, foreign_name) = place(3);
    sqlite(&foreign, "CREATE TABLE notes (text TEXT)");
    let (newer, newer_name) = place(4);
    std::fs::copy(backups.join(&good), &newer).unwrap();
    sqlite(
        &newer,
        "INSERT INTO __diesel_schema_migrations (version) VALUES ('99999999999999')",
    );
    let (cut, cut_name) = place(5);
    let whole = std::fs::read(backups.join(&good)).unwrap();
    std::fs::write(cut, &whole[..whole.len() / 2]).unwrap();
    let files = || {
        let mut list: Vec<_> = std::fs::read_dir(folder.path())
            .unwrap()
            .map(|entry| entry.unwrap().file_name())
            .collect();
        list.sort();
        list
    };
    let before = files();
    for name in [empty_name, words_name, foreign_name, newer_name, cut_name] {
        let refused = zolvik_store::restore(folder.path(), &name, day(9));
        let Err(StoreError::NoLibrary { problem, .. }) = refused else {
            panic!("{name}: {refused:?}")
        };
        assert!(!problem.is_empty());
        assert_eq!(files(), before, "{name} left something");
        assert!(zolvik_store::set_aside(folder.path()).is_empty());
    }
    let store = Store::open(folder.path()).unwrap();
    assert_eq!(names(&store, false), ["kept"]);
}
