//! What is offered can be done, and does what its words say.

use rstest::rstest;
use zolvik_edit::offers::{OfferKind, drop, drop_words, offers};
use zolvik_edit::{Connect, Edit, apply};
use zolvik_patch::Patch;
use zolvik_patch::document::{Destination, KindName, RouteKind, UnitId};
use zolvik_patch::hearing::Listening;
use zolvik_patch::testing::any_patch;

fn with(patch: &Patch, kind: KindName, connect: Connect) -> Patch {
    apply(patch, &Edit::AddUnit { kind, connect }).unwrap().0
}

/// Operator 1, a modulator 2 of it, and a filter 3 after it.
fn three() -> Patch {
    let to = || Connect::Unit { id: UnitId(1) };
    let patch = with(&Patch::empty(), KindName::Operator, to());
    with(&patch, KindName::Filter, to())
}

#[test]
fn everything_offered_can_be_taken() {
    for seed in 0..25 {
        let patch = any_patch(seed);
        let full = patch.units.len() >= 16;
        for unit in patch.units.iter().map(|u| Some(u.id)).chain([None]) {
            for kind in [OfferKind::Add, OfferKind::Send, OfferKind::Place] {
                if kind == OfferKind::Add && full {
                    continue;
                }
                for group in offers(&patch, kind, unit) {
                    for item in group.items {
                        let taken = apply(&patch, &item.edit);
                        let changed = taken.as_ref().map(|(next, _)| *next != patch);
                        let is_new = kind != OfferKind::Place;
                        assert!(changed.is_ok(), "seed {seed}: {item:?}: {changed:?}");
                        assert!(!is_new || changed == Ok(true), "seed {seed}: {item:?}");
                    }
                }
            }
        }
    }
}

#[test]
fn additions_name_the_selected_strip_and_shapers_of_sound_go_after_it() {
    let patch = three();
    let labels = |unit| -> Vec<String> {
        let groups = offers(&patch, OfferKind::Add, unit);
        let items = groups.into_iter().flat_map(|g| g.items);
        items.map(|item| item.label).collect()
    };
    assert_eq!(
        labels(None),
        [
            "Noise",
            "Sample",
            "Operator through Filter 3",
            "Noise through Filter 3",
            "Sample through Filter 3",
            "Filter at the output",
            "Shaper at the output",
            "Level at the output"
        ]
    );
    let beside = labels(Some(UnitId(1)));
    assert!(beside.contains(&"Filter after Operator 1".into()));
    assert_eq!(beside.len(), 13, "noise and sample may also move it");
    assert_eq!(labels(Some(UnitId(3))).len(), 11, "nothing moves a filter");
}

#[rstest]
#[case::phase(2, Destination::Unit(UnitId(1)), "moves the phase of Operator 1")]
#[case::through(2, Destination::Unit(UnitId(3)), "goes through Filter 3 too")]
#[case::itself(2, Destination::Unit(UnitId(2)), "into itself: feedback")]
#[case::out(2, Destination::Output, "to the output")]
fn what_a_drop_does_is_said(#[case] unit: u16, #[case] onto: Destination, #[case] words: &str) {
    let said = drop_words(&three(), UnitId(unit), onto);
    assert!(said.contains(words), "{said}");
}

#[test]
fn a_drop_adds_a_route_and_with_only_changes_the_role() {
    let mut patch = three();
    patch.routes.retain(|r| r.from != UnitId(2));
    let onto = Destination::Unit(UnitId(3));
    let (next, _) = apply(&patch, &drop(&patch, UnitId(2), onto, false)).unwrap();
    let route = next.sends(UnitId(2)).next().unwrap();
    assert_eq!(route.send.kind(), Some(RouteKind::Audio), "as filters take");
    let onto = Destination::Unit(UnitId(1));
    let (next, _) = apply(&next, &drop(&next, UnitId(2), onto, true)).unwrap();
    let ends: Vec<_> = next
        .sends(UnitId(2))
        .map(|r| r.send.destination())
        .collect();
    assert_eq!(ends, [onto], "and is heard no more");
    let (next, _) = apply(&next, &drop(&next, UnitId(2), Destination::Output, true)).unwrap();
    assert!(next.sounds(UnitId(2)));
    assert!(next.sends(UnitId(2)).all(|r| r.send.target().is_none()));
}

#[test]
fn hearing_without_silences_sources_and_opens_filters_and_comes_back() {
    let patch = three();
    let mut before = Listening::default();
    before.muted.insert(UnitId(2));
    let all = [UnitId(1), UnitId(2), UnitId(3), UnitId(9)];
    let (mut without, changed) = before.without(&patch, &all);
    assert!(without.muted.contains(&UnitId(1)) && without.bypassed.contains(&UnitId(3)));
    assert!(!changed.contains(&UnitId(2)), "it was muted before");
    without.again(&changed);
    assert_eq!(without, before);
}
