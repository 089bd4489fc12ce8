//! Two states of a patch, kept and flipped.

use zolvik_edit::history::History;
use zolvik_edit::{Edit, apply, flipped};
use zolvik_patch::address::Address;
use zolvik_patch::document::{Operator, Patch, Slot, UnitId};
use zolvik_patch::json;
use zolvik_patch::testing::any_patch;

fn edited(patch: &Patch, edit: Edit) -> Patch {
    apply(patch, &edit).unwrap().0
}

fn with_ratio(patch: &Patch, value: f64) -> Patch {
    let address = Address::unit(UnitId(1), Operator::RATIO);
    edited(patch, Edit::SetValue { address, value })
}

fn ratio(patch: &Patch) -> f64 {
    patch.units[0].oscillator().unwrap().ratio
}

#[test]
fn both_states_are_kept_flipped_and_written() {
    let a = with_ratio(&Patch::empty(), 2.0);
    let b = edited(&a, Edit::Flip);
    assert_eq!(
        (b.slot, ratio(&b)),
        (Slot::B, 2.0),
        "at first both are alike"
    );
    let b = with_ratio(&b, 3.5);
    let back = edited(&b, Edit::Flip);
    assert_eq!((back.slot, ratio(&back)), (Slot::A, 2.0));
    let again = edited(&back, Edit::Flip);
    assert_eq!(again, b, "flipping twice changes nothing");
    assert_eq!(
        json::read(&json::write(&b)),
        Ok(b.clone()),
        "both are in the file"
    );
    let copied = edited(&b, Edit::CopyToOther);
    assert_eq!(ratio(&edited(&copied, Edit::Flip)), 3.5);
}

#[test]
fn the_name_and_the_auditioned_note_stay_with_the_eye() {
    let mut b = edited(&Patch::empty(), Edit::Flip);
    b.meta.name = "Renamed".into();
    b.audition.note = 40;
    let a = edited(&b, Edit::Flip);
    assert_eq!((a.meta.name.as_str(), a.audition.note), ("Renamed", 40));
}

#[test]
fn flipping_is_undone_like_anything_else() {
    let mut history = History::new(Patch::empty());
    let start = history.present().clone();
    history.edit(&Edit::Flip, None).unwrap();
    assert_eq!(history.undo_label(), Some("flip A and B"));
    history.undo();
    assert_eq!(*history.present(), start);
}

#[test]
fn a_kept_state_is_checked_and_holds_no_other() {
    let b = edited(&Patch::empty(), Edit::Flip);
    let mut faulty = b.clone();
    std::sync::Arc::make_mut(faulty.other.as_mut().unwrap())
        .voice
        .polyphony = 99;
    assert!(json::read(&json::write(&faulty)).is_err());
    let mut nested = b.clone();
    std::sync::Arc::make_mut(nested.other.as_mut().unwrap()).other =
        Some(std::sync::Arc::new(Patch::empty()));
    let why = json::read(&json::write(&nested)).unwrap_err().to_string();
    assert!(why.contains("other"), "{why}");
}

#[test]
fn what_is_said_of_a_patch_and_its_other_state_are_nothing_that_sounds() {
    let a = with_ratio(&Patch::empty(), 2.0);
    let group = Edit::GroupUnits {
        units: vec![UnitId(1)],
    };
    let a = edited(&a, group);
    let b = with_ratio(&edited(&a, Edit::Flip), 3.5);
    let back = edited(&b, Edit::Flip);
    assert_ne!(back, a, "it holds another state");
    assert_eq!(back.sounding(), a.sounding());
    assert_eq!(
        flipped(&back).sounding(),
        b.sounding(),
        "what the other is before it is flipped to"
    );
    let mut said = a.clone();
    said.meta.name = "Renamed".into();
    said.meta.note = "Low keys only".into();
    said.groups[0].folded = true;
    assert_eq!(said.sounding(), a.sounding());
    assert_ne!(
        with_ratio(&a, 2.01).sounding(),
        a.sounding(),
        "all else is heard"
    );
}

#[test]
fn what_sounds_of_any_patch_is_a_patch_with_all_that_is_heard() {
    for seed in 0..60 {
        for patch in [any_patch(seed), flipped(&any_patch(seed))] {
            let sounding = patch.sounding();
            assert_eq!(
                json::read(&json::write(&sounding)),
                Ok(sounding.clone()),
                "{seed}"
            );
            let put_back = Patch {
                meta: patch.meta.clone(),
                slot: patch.slot,
                other: patch.other.clone(),
                ..sounding
            };
            assert_eq!(put_back.unfolded(), patch.unfolded(), "{seed}");
        }
    }
}
