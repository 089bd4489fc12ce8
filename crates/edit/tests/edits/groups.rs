//! Groups of strips.

use rstest::rstest;
use zolvik_edit::{Connect, Edit, apply};
use zolvik_patch::document::{GroupId, Patch, UnitId};
use zolvik_patch::hearing::{Listening, heard};
use zolvik_patch::json;

fn edited(patch: &Patch, edit: Edit) -> Patch {
    apply(patch, &edit).unwrap().0
}

/// Four carriers, the first three in a group.
fn grouped() -> Patch {
    let mut patch = Patch::empty();
    for _ in 0..3 {
        let connect = Connect::Output;
        patch = edited(
            &patch,
            Edit::AddUnit {
                kind: zolvik_patch::document::KindName::Operator,
                connect,
            },
        );
    }
    let units = vec![UnitId(1), UnitId(2), UnitId(3)];
    edited(&patch, Edit::GroupUnits { units })
}

fn members(patch: &Patch) -> Vec<Vec<u16>> {
    let of = |g: &zolvik_patch::document::Group| g.units.iter().map(|u| u.0).collect();
    patch.groups.iter().map(of).collect()
}

#[test]
fn a_group_follows_its_units_and_goes_with_the_last() {
    let mut patch = grouped();
    assert_eq!(members(&patch), [[1, 2, 3]]);
    patch = edited(
        &patch,
        Edit::DuplicateUnits {
            units: vec![UnitId(2)],
        },
    );
    assert_eq!(members(&patch), [[1, 2, 3, 5]], "a copy belongs to it too");
    let units = vec![UnitId(3), UnitId(4)];
    patch = edited(&patch, Edit::GroupUnits { units });
    assert_eq!(members(&patch), [vec![1, 2, 5], vec![3, 4]], "one at most");
    for unit in [1, 2, 5] {
        let unit = UnitId(unit);
        patch = edited(&patch, Edit::RemoveUnit { unit });
    }
    assert_eq!(members(&patch), [[3, 4]]);
    assert_eq!(json::read(&json::write(&patch)), Ok(patch));
}

#[rstest]
#[case(
    "\"units\": [\n        1,",
    "\"units\": [\n        9,",
    "groups[0].units"
)]
#[case(
    "\"units\": [\n        1,",
    "\"units\": [\n        2,",
    "groups[0].units"
)]
#[case("\"name\": \"Group 1\"", "\"name\": \"\"", "groups[0].name")]
#[case(
    "\"folded\": false,\n      \"level_db\": 0.0",
    "\"folded\": false,\n      \"level_db\": 40.0",
    "groups[0].level_db"
)]
fn faulty_groups_are_named_by_their_path(
    #[case] good: &str,
    #[case] bad: &str,
    #[case] path: &str,
) {
    let text = json::write(&grouped());
    let damaged = text.replacen(good, bad, 1);
    assert_ne!(text, damaged, "{text}");
    let error = json::read(&damaged).unwrap_err().to_string();
    assert!(error.contains(path), "“{error}” names {path}");
}

#[test]
fn unknown_groups_are_refused() {
    let group = GroupId(7);
    for edit in [
        Edit::Ungroup { group },
        Edit::FoldGroup {
            group,
            folded: true,
        },
    ] {
        assert!(apply(&grouped(), &edit).is_err());
    }
}

#[test]
fn a_solo_of_one_route_outdoes_the_others_that_arrive_there() {
    let mut patch = Patch::empty();
    for _ in 0..2 {
        let connect = Connect::Unit { id: UnitId(1) };
        patch = edited(
            &patch,
            Edit::AddUnit {
                kind: zolvik_patch::document::KindName::Operator,
                connect,
            },
        );
    }
    let route = patch.sends(UnitId(2)).next().unwrap().id;
    let listening = Listening {
        soloed_routes: [route].into(),
        ..Listening::default()
    };
    let found: Vec<u16> = heard(&patch, &listening).iter().map(|u| u.0).collect();
    assert_eq!(found, [1, 2], "3 arrives at the same place and is outdone");
    let bypassed = Listening {
        bypassed: [UnitId(1)].into(),
        ..Listening::default()
    };
    let found: Vec<u16> = heard(&patch, &bypassed).iter().map(|u| u.0).collect();
    assert_eq!(found, [1], "nothing moves it");
}
