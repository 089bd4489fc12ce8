//! Edits, undo and redo.

use proptest::prelude::*;
use zolvik_patch::address::Address;
use zolvik_patch::catalogue::ParamId;
use zolvik_patch::document::{GroupId, MAX_UNITS, Patch, RouteKind, Send, TunedBy, UnitId};
use zolvik_patch::edit::{Connect, Edit, apply};
use zolvik_patch::error::PatchError;
use zolvik_patch::history::History;
use zolvik_patch::testing::{Dice, any_patch};
use zolvik_patch::validate::validate;
use zolvik_patch::wave::Wave;

fn modulated() -> Patch {
    apply(
        &Patch::empty(),
        &Edit::AddOperator {
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
        &Edit::AddOperator {
            connect: Connect::Output,
        },
    )
    .unwrap();
    assert_eq!(select, Some(UnitId(3)), "the new one is selected");
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
    let address = Address::new(ParamId::RouteIndexRad, 2);
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
    let (patch, select) = apply(&modulated(), &Edit::DuplicateUnit { unit: UnitId(1) }).unwrap();
    let copy = select.unwrap();
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
    let address = Address::new(ParamId::RouteIndexRad, 2);
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
            address: Address::new(ParamId::RoutePan, 2),
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
            &Edit::AddOperator {
                connect: Connect::Output,
            },
        )
        .unwrap()
        .0;
    }
    let error = apply(
        &patch,
        &Edit::AddOperator {
            connect: Connect::Output,
        },
    )
    .unwrap_err();
    assert!(matches!(error, PatchError::TooMany { max: MAX_UNITS, .. }));
}

/// Some edit, sensible or not.
fn any_edit(dice: &mut Dice) -> Edit {
    let unit = UnitId(dice.below(18) as u16);
    let route = zolvik_patch::document::RouteId(dice.below(40) as u16);
    let with = UnitId(dice.below(18) as u16);
    match dice.below(18) {
        16 => Edit::GroupUnits {
            units: vec![unit, with],
        },
        17 => Edit::Ungroup {
            group: GroupId(dice.below(3) as u16),
        },
        8 => Edit::SwapUnits { unit, with },
        9 => Edit::MakeModulator { unit, of: with },
        10 => Edit::MakeCarrier { unit },
        11 => Edit::SetWave {
            units: vec![unit],
            wave: Wave::default().stepped(&[], dice.below(99) as i32 - 50),
        },
        12 => Edit::TuneBy {
            units: vec![unit, with],
            by: [TunedBy::Ratio, TunedBy::Semitones, TunedBy::Fixed][dice.below(3)],
        },
        13 => Edit::ShiftOctaves {
            units: vec![unit, with],
            octaves: dice.below(9) as i32 - 4,
        },
        14 => Edit::SpreadDetune {
            units: vec![unit, with],
            spread_cents: dice.share() * 50.0,
        },
        15 => Edit::SetRouteKind {
            route,
            kind: RouteKind::ALL[dice.below(4)],
        },
        0 => Edit::AddOperator {
            connect: Connect::Unit { id: unit },
        },
        1 => Edit::RemoveUnit { unit },
        2 => Edit::DuplicateUnit { unit },
        3 => Edit::SwitchUnit {
            unit,
            on: dice.below(2) == 0,
        },
        4 => Edit::AddRoute {
            from: unit,
            to: (dice.below(3) > 0).then(|| UnitId(dice.below(18) as u16)),
            kind: RouteKind::default(),
        },
        5 => Edit::RemoveRoute { route },
        6 => Edit::SwitchRoute {
            route,
            on: dice.below(2) == 0,
        },
        _ => {
            let row = &zolvik_patch::catalogue::CATALOGUE
                [dice.below(zolvik_patch::catalogue::CATALOGUE.len())];
            Edit::SetValue {
                address: Address::new(row.id, dice.below(20) as u16),
                value: row.value_at(dice.share()),
            }
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 128, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn any_edits_keep_the_patch_valid_and_undo_is_exact(seed in any::<u64>()) {
        let mut dice = Dice(seed);
        let start = any_patch(dice.bits());
        let mut history = History::new(start.clone());
        let mut states = vec![start];
        for _ in 0..30 {
            let edit = any_edit(&mut dice);
            if history.edit(&edit, None).is_ok() && history.present() != states.last().unwrap() {
                prop_assert!(validate(history.present()).is_ok());
                states.push(history.present().clone());
            }
        }
        for state in states.iter().rev().skip(1) {
            prop_assert!(history.undo());
            prop_assert_eq!(history.present(), state);
        }
        for state in states.iter().skip(1) {
            prop_assert!(history.redo());
            prop_assert_eq!(history.present(), state);
        }
    }
}
