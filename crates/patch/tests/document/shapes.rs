//! Dragging the envelope on the drawing.

use rstest::rstest;
use zolvik_patch::Patch;
use zolvik_patch::document::UnitId;
use zolvik_patch::edit::apply;
use zolvik_patch::shape::{HandleKind, drag, handles};

#[rstest]
#[case(HandleKind::Attack, 0.12, 1.0)]
#[case(HandleKind::Decay, 0.9, 0.35)]
#[case(HandleKind::Release, 2.5, 0.0)]
fn a_dragged_point_lies_where_it_was_put(
    #[case] kind: HandleKind,
    #[case] time_s: f64,
    #[case] level: f64,
) {
    let patch = Patch::empty();
    let edit = drag(&patch, UnitId(1), kind, time_s, level).unwrap();
    let moved = apply(&patch, &edit).unwrap().0;
    let handle = handles(&moved, UnitId(1))
        .into_iter()
        .find(|h| h.kind == kind)
        .unwrap();
    assert!((handle.time_s - time_s).abs() < 0.006, "{handle:?}");
    assert!((handle.level - level).abs() < 0.002, "{handle:?}");
}

#[rstest]
#[case(HandleKind::AttackBend, 0.3)]
#[case(HandleKind::AttackBend, 0.8)]
#[case(HandleKind::DecayBend, 0.85)]
#[case(HandleKind::ReleaseBend, 0.2)]
fn a_dragged_bend_passes_through_the_point(#[case] kind: HandleKind, #[case] level: f64) {
    let patch = Patch::empty();
    let edit = drag(&patch, UnitId(1), kind, 0.0, level).unwrap();
    let moved = apply(&patch, &edit).unwrap().0;
    let handle = handles(&moved, UnitId(1))
        .into_iter()
        .find(|h| h.kind == kind)
        .unwrap();
    assert!((handle.level - level).abs() < 0.01, "{handle:?}");
}

#[test]
fn nonsense_is_pulled_into_range() {
    let patch = Patch::empty();
    for kind in [
        HandleKind::Attack,
        HandleKind::Decay,
        HandleKind::Release,
        HandleKind::DecayBend,
    ] {
        for (time_s, level) in [(f64::NAN, f64::NAN), (-5.0, -5.0), (1e9, 1e9)] {
            let edit = drag(&patch, UnitId(1), kind, time_s, level).unwrap();
            assert!(
                apply(&patch, &edit).is_ok(),
                "{kind:?} to {time_s}, {level}"
            );
        }
    }
}
