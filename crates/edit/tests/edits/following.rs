//! Links go on when what they move is routed anew.

use rstest::rstest;
use zolvik_edit::{Connect, Edit, apply};
use zolvik_patch::address::Address;
use zolvik_patch::document::{Bus, KindName, Patch, RouteId, RouteKind, Send, SourceId, UnitId};
use zolvik_patch::hearing::{Listening, heard};
use zolvik_patch::movement::SourceName;
use zolvik_patch::movement::amount::ends;

fn after(patch: &Patch, edits: &[Edit]) -> Patch {
    let one = |patch: Patch, edit: &Edit| apply(&patch, edit).unwrap().0;
    edits.iter().fold(patch.clone(), one)
}

const ALL: Connect = Connect::Output;
const CARRIER: UnitId = UnitId(1);
const MODULATOR: UnitId = UnitId(2);

fn add(kind: KindName, connect: Connect) -> Edit {
    Edit::AddUnit { kind, connect }
}

/// A carrier and its modulator; an LFO moves level, place and index, a macro the level.
fn linked() -> Patch {
    let to = vec![
        Address::route(RouteId(1), Send::LEVEL_DB),
        Address::route(RouteId(1), Send::PAN),
        Address::route(RouteId(2), Send::INDEX_RAD),
    ];
    let on_level = vec![to[0]];
    after(
        &Patch::empty(),
        &[
            add(KindName::Operator, Connect::Unit { id: CARRIER }),
            Edit::AddSource {
                kind: SourceName::Lfo,
                to,
            },
            Edit::AddSource {
                kind: SourceName::Macro,
                to: on_level,
            },
        ],
    )
}

fn filtered() -> Patch {
    let patch = after(&linked(), &[add(KindName::Filter, ALL)]);
    assert_eq!(patch.movement.links.len(), 4, "the filter took links");
    patch
}

fn to_level_of(patch: &Patch, from: UnitId) -> usize {
    let of = |id: u16| patch.route(RouteId(id)).map(|r| (r.from, r.send.depth()));
    let links = patch.movement.links.iter();
    links
        .filter(|l| of(l.to.id) == Some((from, l.to.param)))
        .count()
}

#[rstest]
#[case::a_filter_after_everything(add(KindName::Filter, ALL))]
#[case::a_shaper_after_everything(add(KindName::Shaper, ALL))]
#[case::a_level_after_everything(add(KindName::Level, ALL))]
#[case::a_filter_after_one(add(KindName::Filter, Connect::Unit { id: CARRIER }))]
#[case::a_filter_after_some(add(KindName::Filter, Connect::Units { ids: vec![CARRIER, MODULATOR] }))]
#[case::frequency(Edit::SetRouteKind { route: RouteId(2), kind: RouteKind::Frequency })]
#[case::ring(Edit::SetRouteKind { route: RouteId(2), kind: RouteKind::Ring })]
#[case::amplitude(Edit::SetRouteKind { route: RouteId(2), kind: RouteKind::Amplitude })]
#[case::past_the_effects(Edit::SetBus { route: RouteId(1), bus: Bus::Clean })]
#[case::on_the_way(Edit::Insert { route: RouteId(1), kind: KindName::Filter, unit: None })]
#[case::places_changed(Edit::SwapUnits { unit: CARRIER, with: MODULATOR })]
fn no_link_is_lost_where_a_way_is_kept(#[case] edit: Edit) {
    let patch = after(&linked(), &[edit]);
    assert_eq!(patch.movement.links.len(), 4);
}

#[test]
fn out_of_a_filter_and_without_it_they_go_on() {
    let patch = filtered();
    let level = Address::route(RouteId(1), Send::PASS_DB);
    assert_eq!(
        patch
            .movement
            .links
            .iter()
            .filter(|l| l.to == level)
            .count(),
        2
    );
    let straight = Edit::SetBus {
        route: RouteId(1),
        bus: Bus::Clean,
    };
    assert_eq!(to_level_of(&after(&patch, &[straight]), CARRIER), 2);
    let filter = patch.units.last().unwrap().id;
    let without = after(&patch, &[Edit::RemoveUnit { unit: filter }]);
    assert_eq!(to_level_of(&without, CARRIER), 2);
    assert_eq!(without.movement.links.len(), 4);
}

/// What moved the level of a filter that all went through moves that of each.
#[test]
fn what_moved_the_level_of_what_is_gone_moves_all_that_went_through_it() {
    let two = after(
        &Patch::empty(),
        &[add(KindName::Operator, ALL), add(KindName::Filter, ALL)],
    );
    let filter = two.units.last().unwrap().id;
    let out = two.sends(filter).next().unwrap().id;
    let to = vec![Address::route(out, Send::LEVEL_DB)];
    let moved = after(
        &two,
        &[Edit::AddSource {
            kind: SourceName::Lfo,
            to,
        }],
    );
    let without = after(&moved, &[Edit::RemoveUnit { unit: filter }]);
    assert_eq!(without.movement.links.len(), 2);
    assert_eq!(
        to_level_of(&without, UnitId(1)) + to_level_of(&without, UnitId(2)),
        2
    );
}

/// Of a depth of another kind it moves as large a share.
#[test]
fn an_amount_keeps_what_it_changes() {
    let mut patch = linked();
    let index = patch.movement.links[2].clone();
    patch.movement.links[2].amount = 0.25; // of 0.5 rad
    assert_eq!(index.to.param, Send::INDEX_RAD);
    let kind = RouteKind::Frequency;
    let patch = after(
        &patch,
        &[Edit::SetRouteKind {
            route: RouteId(2),
            kind,
        }],
    );
    let link = &patch.movement.links[2];
    let deviation = patch.route(RouteId(2)).unwrap().send.strength();
    assert_eq!(link.to.param, Send::DEVIATION);
    assert!(
        (link.amount / deviation - 0.5).abs() < 1e-9,
        "{}",
        link.amount
    );
}

/// A level at silence is brought in by what goes up.
#[test]
fn a_silent_send_that_is_brought_in_is_heard() {
    let silent = Edit::SetValue {
        address: Address::route(RouteId(1), Send::LEVEL_DB),
        value: -72.0,
    };
    let listening = Listening::default();
    let alone = after(&Patch::empty(), std::slice::from_ref(&silent));
    assert!(!heard(&alone, &listening).contains(&CARRIER));
    let mut patch = after(&linked(), &[silent]);
    patch.movement.links[0].amount = 48.0;
    assert!(heard(&patch, &listening).contains(&CARRIER));
    let (low, high) = ends(&patch, &patch.movement.links[0]).unwrap();
    assert_eq!((low, high), (-72.0, -24.0));
    patch.movement.links.retain(|l| l.from == SourceId(1003));
    assert!(!heard(&patch, &listening).contains(&CARRIER));
}
