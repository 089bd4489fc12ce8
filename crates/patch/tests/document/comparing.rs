//! Two states of a patch, kept and flipped.

use zolvik_patch::address::Address;
use zolvik_patch::document::{Operator, Patch, Slot, UnitId};
use zolvik_patch::edit::{Edit, apply};
use zolvik_patch::history::History;
use zolvik_patch::json;

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
