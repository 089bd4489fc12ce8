//! Steps of undo as they are kept beside a patch, and as they come back.

use proptest::prelude::*;
use zolvik_edit::Edit;
use zolvik_edit::history::difference::Difference;
use zolvik_edit::history::{
    History, KeptStep, KeptSteps, MAX_KEPT_BYTES, MAX_KEPT_STEPS, NewSteps,
};
use zolvik_patch::Patch;
use zolvik_patch::document::{GroupId, UnitId};
use zolvik_patch::json;
use zolvik_patch::testing::{Dice, any_patch};

use crate::any::dice::any_edit;

/// What is kept of steps, as a store would keep it: what is the same stays, the rest gives way to what is new.
fn keep(kept: &mut KeptSteps, new: NewSteps) {
    let end = kept.before + kept.past.len() as u64;
    if new.same > end || new.same < kept.before {
        kept.past.clear();
        kept.before = new.same;
    } else {
        kept.past.truncate((new.same - kept.before) as usize);
    }
    kept.past.extend(new.past);
    kept.future = new.future;
}

/// All documents one comes to by undo, and then by redo from there.
fn walk(history: &mut History) -> Vec<(Option<String>, Patch)> {
    let mut seen = vec![];
    while let Some(label) = history.undo_label().map(str::to_owned) {
        assert!(history.undo());
        seen.push((Some(label), history.present().clone()));
    }
    while history.redo() {
        seen.push((None, history.present().clone()));
    }
    seen
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]
    /// Edits, undo, redo, ways of looking at it; kept now and then; come back in another window, and on from there.
    #[test]
    fn steps_that_were_kept_lead_to_the_same_documents(seed: u64) {
        let mut dice = Dice(seed);
        let mut history = History::new(any_patch(seed));
        let (mut kept, mut acknowledged) = (KeptSteps::default(), 0);
        for _ in 0..dice.below(24) {
            match dice.below(8) {
                0 => drop(history.undo()),
                1 => drop(history.redo()),
                2 => drop(history.edit(&Edit::FoldGroup { group: GroupId(1), folded: dice.below(2) == 0 }, None)),
                3 => {
                    keep(&mut kept, history.since(acknowledged));
                    acknowledged = history.made();
                }
                4 => {
                    // another window, from what is kept
                    keep(&mut kept, history.since(acknowledged));
                    let text = json::write(history.present());
                    history = History::with_kept(json::read(&text).unwrap(), &kept);
                    acknowledged = history.made();
                }
                _ => {
                    let edit = any_edit(history.present(), &mut dice);
                    let _ = history.edit(&edit, Some(dice.below(3) as u32));
                }
            }
        }
        keep(&mut kept, history.since(acknowledged));
        let mut again = History::with_kept(history.present().clone(), &kept);
        prop_assert_eq!(again.undo_label(), history.undo_label());
        prop_assert_eq!(walk(&mut again), walk(&mut history));
    }

    #[test]
    fn a_difference_leads_from_any_text_to_any_other(from in "[ab\n]{0,40}", to in "[ab\n]{0,40}", other in "[ab\n]{0,40}") {
        let difference = Difference::between(&from, &to);
        let read = Difference::read(&difference.text());
        prop_assert_eq!(read.as_ref(), Some(&difference));
        prop_assert_eq!(difference.apply(&from), Some(to));
        // on another text it may lead anywhere, but never fails otherwise
        let _ = difference.apply(&other);
    }
}

fn with_ratio(history: &mut History, ratio: f64) {
    use zolvik_patch::address::Address;
    use zolvik_patch::document::Operator;
    let address = Address::new(Operator::RATIO, UnitId(1).0);
    history
        .edit(
            &Edit::SetValue {
                address,
                value: ratio,
            },
            None,
        )
        .unwrap();
}

#[test]
fn the_newest_five_hundred_are_kept_and_no_more_than_there_is_room_for() {
    let mut history = History::new(Patch::empty());
    for n in 0..700 {
        with_ratio(&mut history, 1.1 + f64::from(n % 90) * 0.1);
    }
    let new = history.since(0);
    assert_eq!((new.past.len(), new.same), (MAX_KEPT_STEPS, 200));
    let bytes: usize = new.past.iter().map(|s| s.difference.len()).sum();
    assert!(
        bytes < 120 * MAX_KEPT_STEPS,
        "a step of one value is a few bytes: {bytes}"
    );
    // in memory there is no limit
    let mut count = 0;
    while history.undo() {
        count += 1;
    }
    assert_eq!((count, history.present()), (700, &Patch::empty()));
    // large ones: whole notes that are typed anew each time
    for n in 0..400 {
        let mut meta = history.present().meta.clone();
        meta.note = format!("{n}").repeat(1_000)[..1_000].into();
        history.edit(&Edit::SetMeta { meta }, None).unwrap();
    }
    let new = history.since(0);
    let bytes: usize = new
        .past
        .iter()
        .map(|s| s.difference.len() + s.label.len())
        .sum();
    assert!(bytes <= MAX_KEPT_BYTES && new.past.len() == 400, "{bytes}");
}

#[test]
fn what_cannot_be_read_of_kept_steps_ends_the_way_back() {
    let mut history = History::new(Patch::empty());
    for n in 0..6 {
        with_ratio(&mut history, 2.0 + f64::from(n));
    }
    let new = history.since(0);
    let mut kept = KeptSteps::default();
    keep(&mut kept, new);
    kept.past[2].difference = "no difference".into();
    let mut again = History::with_kept(history.present().clone(), &kept);
    assert_eq!(
        walk(&mut again)
            .iter()
            .filter(|(label, _)| label.is_some())
            .count(),
        3
    );
    // one that leads to no patch ends it too, and nothing is lost of what there is
    kept.past[4] = KeptStep {
        label: "x".into(),
        difference: "[[0,9999,\"\"]]".into(),
    };
    let mut again = History::with_kept(history.present().clone(), &kept);
    assert!(again.undo());
    let there = again.present().clone();
    assert!(!again.undo() && again.undo_label().is_none());
    assert_eq!(*again.present(), there);
}
