//! How far sidebands reach, and the rate they need.

use rstest::rstest;
use zolvik_edit::{Connect, Edit, apply};
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::document::{KindName, Route, RouteId, Send, UnitId};
use zolvik_patch::movement::SourceName;
use zolvik_patch::reach::sidebands;

#[test]
fn only_what_is_moved_can_fold() {
    let mut patch = Patch::empty();
    patch.units[0].oscillator_mut().unwrap().ratio = 8.0;
    assert_eq!(patch.times_rate(5_000.0), 1);
    patch.routes.push(Route {
        id: RouteId(2),
        from: UnitId(1),
        on: true,
        send: Send::phase(UnitId(1)),
    });
    assert_eq!(patch.times_rate(5_000.0), 4);
    assert_eq!(patch.times_rate(50.0), 1);
    patch.routes[1].on = false;
    assert_eq!(patch.times_rate(5_000.0), 1);
}

#[test]
fn what_is_moved_counts_as_far_as_it_goes() {
    let add = Edit::AddUnit {
        kind: KindName::Operator,
        connect: Connect::Unit { id: UnitId(1) },
    };
    let (still, _) = apply(&Patch::empty(), &add).unwrap();
    assert_eq!(still.times_rate(3_000.0), 1);
    let index = Address::route(RouteId(2), Send::INDEX_RAD);
    let edit = Edit::AddSource {
        kind: SourceName::Macro,
        to: vec![index],
    };
    let (mut moved, _) = apply(&still, &edit).unwrap();
    moved.movement.links[0].amount = 8.0;
    assert_eq!(moved.times_rate(3_000.0), 2);
    moved.movement.links[0].on = false;
    assert_eq!(moved.times_rate(3_000.0), 1);
    let mut tuned = moved.clone();
    tuned.voice.tune_cents = 2_400.0;
    assert!(tuned.times_rate(3_000.0) > 1, "two octaves up");
}

/// The last order whose Bessel function is above 0.001.
fn last_order(index_rad: f64) -> f64 {
    let heard = |n: &i32| libm::jn(*n, index_rad).abs() > 1e-3;
    f64::from((0..200).rev().find(heard).unwrap_or(0))
}

#[rstest]
fn sidebands_are_those_of_the_bessel_functions(
    #[values(0.01, 0.1, 0.5, 1.0, 2.0, 4.0, 6.0, 10.0, 20.0, 40.0)] index_rad: f64,
) {
    let (is, should) = (sidebands(index_rad), last_order(index_rad));
    assert!((should..should + 3.0).contains(&is), "{is} {should}");
}
