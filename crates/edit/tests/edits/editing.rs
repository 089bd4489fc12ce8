//! Edits, undo and redo.

use zolvik_edit::history::History;
use zolvik_edit::{Connect, Edit, apply};
use zolvik_patch::address::Address;
use zolvik_patch::document::{MAX_UNITS, Patch, RouteKind, Send, UnitId};
use zolvik_patch::error::PatchError;

fn modulated() -> Patch {
    apply(
        &Patch::empty(),
        &Edit::AddUnit {
            kind: zolvik_patch::document::KindName::Operator,
            connect: Connect::Unit { id: UnitId(1) },
        },
    )
    .unwrap()
    .0
}

#[test]
fn a_new_operator_arrives_connected_and_gentle() {
    let patch = modulated();
    let route = patch.sends(UnitId(2)).next().expect("connected");
    assert_eq!(
        route.send,
        Send::Phase {
            to: UnitId(1),
            index_rad: 0.5
        }
    );
    let (patch, select) = apply(
        &patch,
        &Edit::AddUnit {
            kind: zolvik_patch::document::KindName::Operator,
            connect: Connect::Output,
        },
    )
    .unwrap();
    assert_eq!(select, [UnitId(3)], "the new one is selected");
    assert!(
        matches!(patch.sends(UnitId(3)).next().unwrap().send, Send::Output { level_db, .. } if level_db <= -6.0)
    );
}

#[test]
fn removing_a_unit_takes_its_routes_and_undo_brings_all_back() {
    let mut history = History::new(modulated());
    let before = history.present().clone();
    history
        .edit(
            &Edit::AddRoute {
                from: UnitId(1),
                to: Some(UnitId(1)),
                kind: RouteKind::default(),
            },
            None,
        )
        .unwrap();
    let with_feedback = history.present().clone();
    history
        .edit(&Edit::RemoveUnit { unit: UnitId(1) }, None)
        .unwrap();
    assert!(history.present().routes.is_empty());
    assert_eq!(history.undo_label(), Some("remove Operator 1"));
    assert!(history.undo());
    assert_eq!(*history.present(), with_feedback);
    assert!(history.undo());
    assert_eq!(*history.present(), before);
    assert!(!history.undo());
    assert!(history.redo() && history.redo() && !history.redo());
    assert_eq!(history.present().units.len(), 1);
}

#[test]
fn a_drag_is_one_step_and_a_drag_back_is_none() {
    let mut history = History::new(modulated());
    let address = Address::new(Send::INDEX_RAD, 2);
    for value in [0.6, 0.9, 1.4] {
        history
            .edit(&Edit::SetValue { address, value }, Some(1))
            .unwrap();
    }
    history.undo();
    assert_eq!(address.get(history.present()).unwrap(), 0.5);
    assert!(history.undo_label().is_none());
    history
        .edit(
            &Edit::SetValue {
                address,
                value: 3.0,
            },
            Some(2),
        )
        .unwrap();
    history
        .edit(
            &Edit::SetValue {
                address,
                value: 0.5,
            },
            Some(2),
        )
        .unwrap();
    assert!(history.undo_label().is_none(), "nothing was done");
}

#[test]
fn duplicating_copies_routes_in_and_out() {
    let (patch, select) = apply(
        &modulated(),
        &Edit::DuplicateUnits {
            units: vec![UnitId(1)],
        },
    )
    .unwrap();
    let [copy] = select[..] else {
        panic!("{select:?}")
    };
    assert!(
        patch.sends(copy).any(|r| r.send.target().is_none()),
        "the copy is heard"
    );
    assert!(
        patch
            .sends(UnitId(2))
            .any(|r| r.send.target() == Some(copy)),
        "and modulated alike"
    );
}

#[test]
fn refused_edits_change_nothing_and_say_why() {
    let patch = modulated();
    let mut history = History::new(patch.clone());
    let address = Address::new(Send::INDEX_RAD, 2);
    let edits = [
        Edit::AddRoute {
            from: UnitId(2),
            to: Some(UnitId(1)),
            kind: RouteKind::default(),
        },
        Edit::SetValue {
            address,
            value: f64::NAN,
        },
        Edit::SetValue {
            address,
            value: 1e9,
        },
        Edit::SetValue {
            address: Address::new(Send::PAN, 2),
            value: 0.0,
        },
        Edit::RenameUnit {
            unit: UnitId(1),
            name: "  ".into(),
        },
        Edit::RemoveUnit { unit: UnitId(9) },
        Edit::Together {
            label: "x".into(),
            edits: vec![
                Edit::SwitchUnit {
                    unit: UnitId(1),
                    on: false,
                },
                Edit::RemoveUnit { unit: UnitId(9) },
            ],
        },
    ];
    for edit in edits {
        let error = history.edit(&edit, None).unwrap_err();
        assert!(!error.to_string().is_empty());
        assert_eq!(*history.present(), patch, "{edit:?}");
    }
    assert!(history.undo_label().is_none());
}

#[test]
fn a_seventeenth_unit_is_refused() {
    let mut patch = Patch::empty();
    for _ in 1..MAX_UNITS {
        patch = apply(
            &patch,
            &Edit::AddUnit {
                kind: zolvik_patch::document::KindName::Operator,
                connect: Connect::Output,
            },
        )
        .unwrap()
        .0;
    }
    let error = apply(
        &patch,
        &Edit::AddUnit {
            kind: zolvik_patch::document::KindName::Operator,
            connect: Connect::Output,
        },
    )
    .unwrap_err();
    assert!(matches!(error, PatchError::TooMany { max: MAX_UNITS, .. }));
}

#[test]
fn a_copy_that_only_folds_a_group_is_no_step() {
    let units = vec![UnitId(1)];
    let (patch, _) = zolvik_edit::apply(&Patch::empty(), &Edit::GroupUnits { units }).unwrap();
    let mut history = History::new(patch);
    history.edit(&Edit::CopyToOther, None).unwrap();
    let label = history.undo_label().map(str::to_string);
    let id = history.present().groups[0].id;
    history
        .edit(
            &Edit::FoldGroup {
                group: id,
                folded: true,
            },
            None,
        )
        .unwrap();
    history.edit(&Edit::CopyToOther, None).unwrap();
    assert_eq!(history.undo_label().map(str::to_string), label);
    assert!(history.undo());
    assert!(!history.undo(), "one step, the first copy");
}
