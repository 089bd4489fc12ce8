//! Order of strips and lanes of rails.

use proptest::prelude::*;
use zolvik_layout::rails::rails;
use zolvik_patch::Patch;
use zolvik_patch::document::{Route, RouteId, Send, Unit, UnitId};
use zolvik_patch::graph::rows;
use zolvik_patch::graph::{components, is_feedback};
use zolvik_patch::order::order;
use zolvik_patch::testing::any_patch;

/// Units 1 to `count` with phase routes between these numbers; 0 is the output.
fn routed(count: u16, routes: &[(u16, u16)]) -> Patch {
    let mut patch = Patch {
        units: (1..=count).map(|n| Unit::operator(UnitId(n))).collect(),
        routes: vec![],
        ..Patch::empty()
    };
    for (i, (from, to)) in routes.iter().enumerate() {
        let send = if *to == 0 {
            Send::output()
        } else {
            Send::phase(UnitId(*to))
        };
        patch.routes.push(Route {
            id: RouteId(i as u16 + 1),
            from: UnitId(*from),
            on: true,
            send,
        });
    }
    patch
}

fn numbers(patch: &Patch) -> Vec<u16> {
    rows(patch).iter().map(|u| u.0).collect()
}

#[test]
fn modulators_stand_right_above_what_they_modulate() {
    let patch = routed(4, &[(1, 0), (3, 0), (2, 1), (4, 3)]);
    assert_eq!(numbers(&patch), [2, 1, 4, 3]);
}

#[test]
fn loops_are_one_group_in_the_users_order() {
    let patch = routed(4, &[(1, 0), (2, 1), (3, 2), (2, 3), (4, 4), (4, 1)]);
    let found = components(&patch);
    let group = found.iter().find(|g| g.contains(&UnitId(2))).unwrap();
    assert_eq!(group[..], [UnitId(2), UnitId(3)]);
    assert!(
        is_feedback(&patch, group)
            && is_feedback(&patch, &[UnitId(4)])
            && !is_feedback(&patch, &[UnitId(1)])
    );
}

#[test]
fn self_feedback_is_a_rail_on_its_own_row() {
    let patch = routed(1, &[(1, 0), (1, 1)]);
    assert!(
        rails(&patch)
            .iter()
            .any(|rail| rail.branches[0].row == rail.row)
    );
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn every_unit_stands_once_below_its_sources(seed in any::<u64>()) {
        let patch = any_patch(seed);
        let order = rows(&patch);
        prop_assert_eq!(order.len(), patch.units.len());
        let found = components(&patch);
        let group_of = |id: UnitId| found.iter().position(|g| g.contains(&id)).unwrap();
        for route in &patch.routes {
            if let Some(to) = route.send.target() {
                prop_assert!(group_of(route.from) <= group_of(to));
            }
        }
    }

    #[test]
    fn rails_in_one_lane_never_overlap_and_every_route_is_drawn(seed in any::<u64>()) {
        let patch = any_patch(seed);
        let drawn = rails(&patch);
        prop_assert_eq!(drawn.iter().map(|r| r.branches.len()).sum::<usize>(), patch.routes.len());
        let span = |r: &zolvik_layout::rails::Rail| {
            let far = r.branches.last().unwrap().row;
            (r.row.min(far), r.row.max(far))
        };
        let trunks: Vec<_> = drawn.iter().filter(|r| span(r).0 != span(r).1).collect();
        for (i, a) in trunks.iter().enumerate() {
            for b in &trunks[i + 1..] {
                let ((a0, a1), (b0, b1)) = (span(a), span(b));
                prop_assert!(a.lane != b.lane || a1 <= b0 || b1 <= a0, "{a:?} and {b:?}");
            }
        }
    }
}

/// The same patch as another file may have it: units and routes listed in another order.
fn listed_otherwise(patch: &Patch, by: usize) -> Patch {
    let mut other = patch.clone();
    let (units, routes) = (other.units.len().max(1), other.routes.len().max(1));
    other.units.rotate_left(by % units);
    other.routes.rotate_left((by * 7) % routes);
    other.routes.reverse();
    other
}

#[test]
fn the_route_that_closes_a_loop_is_late_and_none_before_it() {
    let patch = routed(3, &[(1, 0), (2, 1), (3, 2), (1, 3)]);
    let found = order(&patch);
    assert_eq!(found.components, [[UnitId(3), UnitId(2), UnitId(1)]]);
    assert_eq!(found.late, [RouteId(4)].into());
    // the same loop closed by another one
    let patch = routed(3, &[(1, 0), (1, 3), (2, 1), (3, 2)]);
    assert_eq!(order(&patch).late, [RouteId(4)].into());
    assert_eq!(
        order(&patch).components,
        [[UnitId(2), UnitId(1), UnitId(3)]]
    );
    let own = routed(1, &[(1, 1), (1, 0)]);
    assert_eq!(order(&own).late, [RouteId(1)].into());
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn what_is_heard_at_once_is_computed_before(seed in any::<u64>(), by in 0usize..20) {
        let patch = any_patch(seed);
        let found = order(&patch);
        let all = found.components.concat();
        prop_assert_eq!(all.len(), patch.units.len());
        let at = |id: UnitId| all.iter().position(|u| *u == id).unwrap();
        let component = |id: UnitId| found.components.iter().position(|c| c.contains(&id));
        for route in &patch.routes {
            let Some(to) = route.send.target() else { continue };
            if found.late.contains(&route.id) {
                prop_assert_eq!(component(route.from), component(to), "only in loops");
            } else {
                prop_assert!(at(route.from) < at(to));
            }
        }
        prop_assert_eq!(order(&listed_otherwise(&patch, by)), found);
    }

    #[test]
    fn a_new_route_leaves_the_others_as_they_are(seed in any::<u64>(), from in 0usize..16, to in 0usize..16) {
        let mut patch = any_patch(seed);
        let count = patch.units.len();
        prop_assume!(count > 0);
        let before = order(&patch);
        let id = patch.free_route();
        let (from, to) = (patch.units[from % count].id, patch.units[to % count].id);
        patch.routes.push(Route { id, from, on: true, send: Send::phase(to) });
        let mut after = order(&patch).late;
        after.remove(&id);
        prop_assert_eq!(after, before.late);
    }
}
