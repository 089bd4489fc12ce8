//! Steps of undo beside a patch.

use zolvik_patch::{Patch, json};
use zolvik_store::{Store, StoreError};

use crate::support::*;

fn kept_step(label: &str, now: &Patch, before: &Patch) -> zolvik_edit::history::KeptStep {
    let difference = zolvik_edit::history::difference::Difference::between(
        &json::write(now),
        &json::write(before),
    );
    zolvik_edit::history::KeptStep {
        label: label.into(),
        difference: difference.text(),
    }
}

/// Goes all the way back from what is stored; gives the names it comes by and what took it there.
fn way_back(store: &Store, id: i32) -> Vec<(String, String)> {
    let (revision, kept) = store.steps(id).unwrap();
    let entry = store.get(id).unwrap();
    assert_eq!(revision, entry.summary.revision);
    let patch = json::read(&entry.document).unwrap();
    let mut history = zolvik_edit::history::History::with_kept(patch, &kept);
    let mut way = vec![];
    while let Some(label) = history.undo_label().map(str::to_owned) {
        assert!(history.undo(), "{label} leads nowhere");
        way.push((label, history.present().meta.name.clone()));
    }
    way
}

#[test]
fn steps_are_saved_with_the_patch_and_a_save_without_is_one_on_top() {
    use zolvik_edit::history::NewSteps;
    let (folder, store) = store();
    let id = create(&store, &named("one"));
    let step = |same, now: &str, before: &str| NewSteps {
        same,
        past: vec![kept_step("name", &named(now), &named(before))],
        future: vec![],
    };
    let save = |store: &Store, name: &str, on, steps: Option<&NewSteps>| {
        store.save_with(id, &named(name), on, steps).unwrap();
    };
    save(&store, "two", 1, Some(&step(0, "two", "one")));
    save(&store, "three", 2, Some(&step(1, "three", "two")));
    // sent again after its answer was lost
    save(&store, "three", 2, Some(&step(1, "three", "two")));
    drop(store);
    let store = Store::open(folder.path()).unwrap();
    let both = |a: &str, b: &str| (a.to_owned(), b.to_owned());
    assert_eq!(
        way_back(&store, id),
        [both("name", "two"), both("name", "one")]
    );
    // whoever knows no steps: the state there was before is one back, and the rest behind it
    save(&store, "elsewhere", 3, None);
    store.rename(id, "renamed").unwrap();
    let elsewhere = "change made elsewhere";
    assert_eq!(
        way_back(&store, id),
        [
            both(elsewhere, "elsewhere"),
            both(elsewhere, "three"),
            both("name", "two"),
            both("name", "one")
        ]
    );
    // one undone: what is behind it stays, and it can be done again
    let undone = NewSteps {
        same: 3,
        past: vec![],
        future: vec![kept_step("name", &named("elsewhere"), &named("renamed"))],
    };
    save(&store, "elsewhere", 5, Some(&undone));
    assert_eq!(way_back(&store, id).len(), 3);
    assert_eq!(store.steps(id).unwrap().1.future.len(), 1);
    // where some are missing between, nothing leads over them
    let far = step(90, "far", "near");
    save(&store, "far", 6, Some(&far));
    assert_eq!(way_back(&store, id), [both("name", "near")]);
    // one that was damaged ends the way, and a copy begins without any
    run(&mut raw(folder.path()), "UPDATE steps SET label = 'x'");
    assert_eq!(way_back(&store, id), []);
    let copy = store.duplicate(id).unwrap().summary.id;
    assert_eq!(way_back(&store, copy), []);
    store.bin(id, true).unwrap();
    store.empty_bin().unwrap();
    assert!(matches!(store.steps(id), Err(StoreError::NoPatch { .. })));
}

#[test]
fn no_more_steps_are_stored_than_there_is_room_for() {
    use zolvik_edit::history::{KeptStep, MAX_KEPT_BYTES, MAX_KEPT_STEPS, NewSteps};
    let (_folder, store) = store();
    let id = create(&store, &named("x"));
    let step = |bytes: usize| KeptStep {
        label: "long".into(),
        difference: format!("[[0,0,\"{}\"]]", "y".repeat(bytes)),
    };
    let many = NewSteps {
        same: 0,
        past: vec![step(10); MAX_KEPT_STEPS + 40],
        future: vec![step(10); 3],
    };
    let summary = store.save_with(id, &named("y"), 1, Some(&many)).unwrap();
    let kept = store.steps(id).unwrap().1;
    assert_eq!(
        (kept.past.len(), kept.before, kept.future.len()),
        (MAX_KEPT_STEPS, 40, 3)
    );
    let large = NewSteps {
        same: MAX_KEPT_STEPS as u64 + 40,
        past: vec![step(MAX_KEPT_BYTES / 10); 12],
        future: vec![],
    };
    store
        .save_with(id, &named("z"), summary.revision, Some(&large))
        .unwrap();
    let kept = store.steps(id).unwrap().1;
    assert_eq!(kept.past.len(), 9);
}
