//! What is done to one of several selected strips is done to all, and what arrives is gentle and where one expects it.

use rstest::rstest;
use zolvik_edit::{Connect, Edit, apply, for_all};
use zolvik_patch::Patch;
use zolvik_patch::document::{Bus, KindName, RouteKind, Send, UnitId};

fn edited(patch: &Patch, edit: &Edit) -> (Patch, Vec<UnitId>) {
    apply(patch, edit).unwrap()
}

fn ids<const N: usize>(of: [u16; N]) -> [UnitId; N] {
    of.map(UnitId)
}

fn with(patch: &Patch, kind: KindName, connect: Connect) -> Patch {
    edited(patch, &Edit::AddUnit { kind, connect }).0
}

/// Three carriers at places of their own, the first two moved by the fourth.
fn stack() -> Patch {
    let mut patch = Patch::empty();
    for _ in 0..2 {
        patch = with(&patch, KindName::Operator, Connect::Output);
    }
    for (route, (level, place)) in
        patch
            .routes
            .iter_mut()
            .zip([(-9.0, -0.5), (-12.0, 0.0), (-15.0, 0.5)])
    {
        route.send = Send::Output {
            level_db: level,
            pan: place,
            bus: Bus::Main,
        };
    }
    let ids = ids([1, 2]).to_vec();
    with(&patch, KindName::Operator, Connect::Units { ids })
}

fn sends(patch: &Patch, unit: u16) -> Vec<Send> {
    patch.sends(UnitId(unit)).map(|r| r.send.clone()).collect()
}

#[test]
fn one_modulator_moves_all_and_has_the_envelope_of_the_first() {
    let mut patch = Patch::empty();
    patch.units[0].envelope.points[2].time_s = 3.5;
    patch = with(&patch, KindName::Operator, Connect::Output);
    let edit = Edit::AddUnit {
        kind: KindName::Operator,
        connect: Connect::Unit { id: UnitId(1) },
    };
    let (patch, select) = edited(&patch, &for_all(&patch, &edit, &ids([1, 2])));
    assert_eq!(select, ids([3]));
    assert_eq!(sends(&patch, 3), ids([1, 2]).map(Send::phase));
    assert_eq!(patch.units[2].envelope, patch.units[0].envelope);
}

#[test]
fn a_filter_after_several_keeps_their_levels_and_places() {
    let patch = stack();
    let edit = Edit::AddUnit {
        kind: KindName::Filter,
        connect: Connect::Unit { id: UnitId(1) },
    };
    let (patch, _) = edited(&patch, &for_all(&patch, &edit, &ids([1, 2, 3])));
    for (unit, pass_db, pass_pan) in [(1, -9.0, -0.5), (2, -12.0, 0.0), (3, -15.0, 0.5)] {
        let to = UnitId(5);
        assert_eq!(
            sends(&patch, unit),
            [Send::Audio {
                to,
                pass_db,
                pass_pan
            }]
        );
    }
    let (level_db, pan, bus) = (0.0, 0.0, Bus::Main);
    assert_eq!(sends(&patch, 5), [Send::Output { level_db, pan, bus }]);
    assert_eq!(sends(&patch, 4).len(), 2, "the modulator stays where it is");
}

#[test]
fn a_filter_after_a_modulator_filters_what_moves_and_makes_nothing_heard() {
    let mut patch = stack();
    patch.routes[3].send = Send::Phase {
        to: UnitId(1),
        index_rad: 2.5,
    };
    let patch = with(&patch, KindName::Filter, Connect::Unit { id: UnitId(4) });
    assert_eq!(sends(&patch, 4).len(), 1);
    assert_eq!(sends(&patch, 4)[0].kind(), Some(RouteKind::Audio));
    let moved = sends(&patch, 5);
    assert_eq!(
        moved[0],
        Send::Phase {
            to: UnitId(1),
            index_rad: 2.5
        }
    );
    assert!(
        moved.iter().all(|send| send.target().is_some()),
        "{moved:?}"
    );
}

#[test]
fn copies_of_a_stack_feed_copies() {
    let patch = stack();
    let edit = Edit::DuplicateUnits {
        units: vec![UnitId(1)],
    };
    let (patch, select) = edited(&patch, &for_all(&patch, &edit, &ids([1, 4])));
    assert_eq!(select, ids([5, 6]));
    let of = |unit: u16| {
        sends(&patch, unit)
            .iter()
            .map(|s| s.target().map(|t| t.0))
            .collect::<Vec<_>>()
    };
    assert_eq!(
        of(6),
        [Some(5), Some(2)],
        "the copy of 4 moves the copy of 1, and 2 as before"
    );
    assert_eq!(of(4), [Some(1), Some(2)]);
    assert_eq!(of(5), [None]);
    let order: Vec<u16> = patch.units.iter().map(|u| u.id.0).collect();
    assert_eq!(
        order,
        [1, 2, 3, 4, 5, 6],
        "together, after the last of them"
    );
}

#[rstest]
#[case::removed(Edit::RemoveUnit { unit: UnitId(1) }, |p: &Patch| p.units.len() == 2)]
#[case::off(Edit::SwitchUnit { unit: UnitId(2), on: false }, |p: &Patch| p.units.iter().filter(|u| u.on).count() == 2)]
#[case::bus(Edit::SetBus { route: zolvik_patch::document::RouteId(1), bus: Bus::Clean }, |p: &Patch| p.routes.iter().filter(|r| matches!(r.send, Send::Output { bus: Bus::Clean, .. })).count() == 2)]
#[case::feedback(Edit::AddRoute { from: UnitId(1), to: Some(UnitId(1)), kind: RouteKind::Phase }, |p: &Patch| [1, 2].iter().all(|id| p.sends(UnitId(*id)).any(|r| r.send.target() == Some(UnitId(*id)))))]
#[case::another(Edit::SwitchUnit { unit: UnitId(4), on: false }, |p: &Patch| p.units.iter().filter(|u| !u.on).count() == 1)]
fn an_edit_of_one_of_those_selected_is_an_edit_of_all(
    #[case] edit: Edit,
    #[case] done: fn(&Patch) -> bool,
) {
    let patch = stack();
    assert!(!done(&patch));
    let all = for_all(&patch, &edit, &ids([1, 2]));
    let (next, _) = edited(&patch, &all);
    assert!(done(&next), "{all:?}");
    // alone it is what it was
    assert_eq!(for_all(&patch, &edit, &ids([1])), edit);
}

#[test]
fn a_new_carrier_goes_straight_out_whatever_the_others_go_through() {
    let patch = with(&stack(), KindName::Filter, Connect::Output);
    let patch = with(&patch, KindName::Level, Connect::Unit { id: UnitId(5) });
    let patch = with(&patch, KindName::Operator, Connect::Output);
    let of = |patch: &Patch, unit: u16| patch.sends(UnitId(unit)).next().unwrap().send.target();
    assert_eq!(of(&patch, 7), None);
    let past = Edit::AddRoute {
        from: UnitId(1),
        to: None,
        kind: RouteKind::Phase,
    };
    let patch = with(&edited(&patch, &past).0, KindName::Noise, Connect::Output);
    let Send::Output { level_db, .. } = sends(&patch, 8)[0] else {
        panic!("{:?}", sends(&patch, 8))
    };
    assert_eq!(level_db, -30.0, "noise arrives quietly");
}

#[test]
fn a_modulator_of_a_filter_moves_its_cutoff_by_little() {
    let patch = with(&stack(), KindName::Filter, Connect::Output);
    let patch = with(&patch, KindName::Operator, Connect::Unit { id: UnitId(5) });
    let to = UnitId(5);
    assert_eq!(sends(&patch, 6), [Send::Frequency { to, deviation: 0.1 }]);
}

#[test]
fn what_is_inserted_keeps_level_index_and_place_on_both_sides() {
    let mut patch = stack();
    let route = |patch: &Patch, unit: u16| patch.sends(UnitId(unit)).next().unwrap().id;
    let kind = KindName::Filter;
    // between a carrier and the output
    let edit = Edit::Insert {
        route: route(&patch, 1),
        kind,
        unit: None,
    };
    let (next, select) = edited(&patch, &edit);
    assert_eq!(select, ids([5]));
    let (level_db, pan, bus) = (-9.0, -0.5, Bus::Main);
    assert_eq!(sends(&next, 5), [Send::Output { level_db, pan, bus }]);
    let (to, pass_db, pass_pan) = (UnitId(5), 0.0, 0.0);
    assert_eq!(
        sends(&next, 1),
        [Send::Audio {
            to,
            pass_db,
            pass_pan
        }]
    );
    // between a modulator and one of its carriers; the other stays as it was
    patch.routes[3].send = Send::Phase {
        to: UnitId(1),
        index_rad: 2.5,
    };
    let edit = Edit::Insert {
        route: route(&patch, 4),
        kind,
        unit: None,
    };
    let (next, _) = edited(&patch, &edit);
    assert_eq!(
        sends(&next, 5),
        [Send::Phase {
            to: UnitId(1),
            index_rad: 2.5
        }]
    );
    let kinds: Vec<_> = sends(&next, 4)
        .iter()
        .map(|s| (s.target(), s.kind()))
        .collect();
    assert!(
        kinds.contains(&(Some(UnitId(5)), Some(RouteKind::Audio)))
            && kinds.contains(&(Some(UnitId(2)), Some(RouteKind::Phase)))
    );
    // one that is there already; an operator cannot stand between
    let with_filter = with(&patch, KindName::Filter, Connect::Unit { id: UnitId(3) });
    let edit = Edit::Insert {
        route: route(&with_filter, 1),
        kind,
        unit: Some(UnitId(5)),
    };
    let (next, _) = edited(&with_filter, &edit);
    assert_eq!(
        sends(&next, 1),
        [Send::Audio {
            to,
            pass_db,
            pass_pan
        }]
    );
    let edit = Edit::Insert {
        route: route(&patch, 1),
        kind,
        unit: Some(UnitId(2)),
    };
    assert!(apply(&patch, &edit).is_err());
}

#[test]
fn what_moves_one_of_several_moves_them_all() {
    use zolvik_patch::address::Address;
    use zolvik_patch::document::{Operator, RouteId};
    use zolvik_patch::movement::SourceName;
    let patch = stack();
    let filtered = with(&patch, KindName::Filter, Connect::Output);
    let moved = |patch: &Patch, to: Address, units: &[UnitId]| -> Vec<Address> {
        let edit = Edit::AddSource {
            kind: SourceName::Lfo,
            to: vec![to],
        };
        let (after, _) = edited(patch, &for_all(patch, &edit, units));
        after.movement.links.iter().map(|l| l.to).collect()
    };
    let ratio = |unit: u16| Address::unit(UnitId(unit), Operator::RATIO);
    // the same value of each, where there is one; a filter has no ratio
    let found = moved(&filtered, ratio(1), &ids([1, 2, 5]));
    assert_eq!(found, [ratio(1), ratio(2)]);
    // of sends those that lead to the same place
    let level = |route: u16| Address::route(RouteId(route), Send::LEVEL_DB);
    assert_eq!(moved(&patch, level(1), &ids([1, 2])), [level(1), level(2)]);
    // one that is not among them is meant alone
    assert_eq!(moved(&patch, ratio(3), &ids([1, 2])), [ratio(3)]);
    assert_eq!(moved(&patch, ratio(1), &[]), [ratio(1)]);
}

#[test]
fn an_edit_of_a_link_is_one_of_the_same_links_of_those_selected() {
    use zolvik_patch::address::Address;
    use zolvik_patch::document::{LinkId, Operator, SourceId};
    use zolvik_patch::movement::{Direction, Link, SourceName};
    let ratio = |unit: u16| Address::unit(UnitId(unit), Operator::RATIO);
    let source = |patch: &Patch, to: Vec<Address>| {
        let kind = SourceName::Lfo;
        edited(patch, &Edit::AddSource { kind, to }).0
    };
    let patch = source(&stack(), (1..4).map(ratio).collect());
    let patch = source(&patch, vec![]);
    let (first, other) = (patch.movement.sources[0].id, patch.movement.sources[1].id);
    let link: LinkId = patch.movement.links[0].id;
    type Said = fn(&Link, SourceId) -> bool;
    let cases: [(Edit, Said); 4] = [
        (
            Edit::DirectLink {
                link,
                direction: Direction::Down,
            },
            |l, _| l.direction == Direction::Down,
        ),
        (Edit::SwitchLink { link, on: false }, |l, _| !l.on),
        (
            Edit::ScaleLink {
                link,
                by: Some(other),
            },
            |l, other| l.scaled_by == Some(other),
        ),
        (Edit::ResendLink { link, from: other }, |l, other| {
            l.from == other
        }),
    ];
    for (edit, is_so) in cases {
        let changed = |units: &[UnitId]| -> Vec<Address> {
            let (after, _) = edited(&patch, &for_all(&patch, &edit, units));
            let links = after.movement.links.iter().filter(|l| is_so(l, other));
            links.map(|l| l.to).collect()
        };
        assert!(patch.movement.links.iter().all(|l| !is_so(l, other)));
        assert_eq!(changed(&ids([1, 2])), [ratio(1), ratio(2)], "{edit:?}");
        assert_eq!(
            changed(&ids([2, 3])),
            [ratio(1)],
            "not among them: {edit:?}"
        );
        assert_eq!(changed(&[]), [ratio(1)], "{edit:?}");
    }
    let remove = for_all(&patch, &Edit::RemoveLink { link }, &ids([1, 2]));
    let left: Vec<Address> = edited(&patch, &remove)
        .0
        .movement
        .links
        .iter()
        .map(|l| l.to)
        .collect();
    assert_eq!((left, first == other), (vec![ratio(3)], false));
    // settings taken from the link of one that is not among them reach all that are
    let like = patch.movement.links[2].id;
    let direction = Direction::Down;
    let (patch, _) = edited(
        &patch,
        &Edit::DirectLink {
            link: like,
            direction,
        },
    );
    let taken = for_all(&patch, &Edit::LikeLink { link, like }, &ids([1, 2]));
    let (after, _) = edited(&patch, &taken);
    let downward = after
        .movement
        .links
        .iter()
        .filter(|l| l.direction == direction);
    assert_eq!(downward.count(), 3);
}
