//! Envelopes: dragging their points, adding and taking away, linking, tempo, ready shapes.

use proptest::prelude::*;
use rstest::rstest;
use zolvik_edit::{Connect, Edit, apply};
use zolvik_layout::handles::{Handle, drag, handles};
use zolvik_patch::Patch;
use zolvik_patch::document::{Point, UnitId};
use zolvik_patch::envelope::{MAX_POINTS, READY};
use zolvik_patch::testing::any_patch;
use zolvik_patch::text::{read_at, write_beats};
use zolvik_patch::timing::auditioned_scale;
use zolvik_patch::validate::validate;

const UNIT: UnitId = UnitId(1);

fn edited(patch: &Patch, edit: Edit) -> Patch {
    apply(patch, &edit).unwrap().0
}

fn handle(patch: &Patch, at: usize, bend: bool) -> Handle {
    let all = handles(patch, UNIT);
    *all.iter().find(|h| (h.at, h.bend) == (at, bend)).unwrap()
}

/// Attack, a step, sustain, two points of release.
fn five_points() -> Patch {
    let mut patch = Patch::empty();
    for (time_s, level) in [(0.3, 0.5), (1.7, 0.4)] {
        let unit = UNIT;
        patch = edited(
            &patch,
            Edit::AddPoint {
                unit,
                time_s,
                level,
            },
        );
    }
    patch
}

#[rstest]
#[case::attack(0, 0.12, 1.0)]
#[case::decay(1, 0.9, 0.35)]
#[case::release(2, 2.5, 0.0)]
fn a_dragged_point_lies_where_it_was_put(
    #[case] at: usize,
    #[case] time_s: f64,
    #[case] level: f64,
) {
    let patch = Patch::empty();
    let edit = drag(&patch, UNIT, (at, false), (time_s, level), false).unwrap();
    let moved = handle(&edited(&patch, edit), at, false);
    assert!((moved.time_s - time_s).abs() < 0.006, "{moved:?}");
    assert!((moved.level - level).abs() < 0.002, "{moved:?}");
}

#[rstest]
#[case(0, 0.3)]
#[case(0, 0.8)]
#[case(1, 0.85)]
#[case(2, 0.2)]
fn a_dragged_bend_passes_through_the_point(#[case] at: usize, #[case] level: f64) {
    let patch = Patch::empty();
    let edit = drag(&patch, UNIT, (at, true), (0.0, level), false).unwrap();
    let moved = handle(&edited(&patch, edit), at, true);
    assert!((moved.level - level).abs() < 0.01, "{moved:?}");
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 64, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn dragging_any_point_anywhere_keeps_any_patch_valid(seed in any::<u64>(), at in 0usize..16, bend: bool, free: bool, time_s in -1e3f64..1e3, level in -3f64..3.0) {
        let patch = any_patch(seed);
        if let Some(first) = patch.units.first() {
            for (t, l) in [(time_s, level), (f64::NAN, level), (time_s, f64::INFINITY)] {
                if let Some(edit) = drag(&patch, first.id, (at, bend), (t, l), free) {
                    prop_assert!(apply(&patch, &edit).is_ok());
                }
            }
        }
    }
}

#[test]
fn points_are_added_where_they_were_put_and_others_stay() {
    let patch = five_points();
    let env = &patch.units[0].envelope;
    assert_eq!((env.points.len(), env.held), (5, 2));
    let before = handles(&Patch::empty(), UNIT);
    let after = handles(&patch, UNIT);
    let places = |list: &[Handle]| -> Vec<(f64, f64)> {
        let points = list.iter().filter(|h| !h.bend);
        points
            .map(|h| ((h.time_s * 1e4).round() / 1e4, h.level))
            .collect()
    };
    for place in places(&before) {
        assert!(places(&after).contains(&place), "{place:?} stays");
    }
    assert!(places(&after).contains(&(0.3, 0.5)) && places(&after).contains(&(1.7, 0.4)));
}

#[test]
fn points_taken_out_again_leave_the_times_of_the_rest() {
    let patch = five_points();
    let unit = UNIT;
    let mut fewer = edited(&patch, Edit::RemovePoint { unit, at: 3 });
    fewer = edited(&fewer, Edit::RemovePoint { unit, at: 1 });
    let (now, was) = (&fewer.units[0].envelope, &Patch::empty().units[0].envelope);
    assert_eq!((now.points.len(), now.held), (3, 1));
    assert!((now.points[1].time_s - was.points[1].time_s).abs() < 1e-9);
    assert!((now.release_s() - was.release_s()).abs() < 1e-9);
    // the end stays, and something to hold
    assert!(apply(&fewer, &Edit::RemovePoint { unit, at: 2 }).is_err());
    let two = edited(&fewer, Edit::RemovePoint { unit, at: 0 });
    assert!(apply(&two, &Edit::RemovePoint { unit, at: 0 }).is_err());
}

#[test]
fn a_seventeenth_point_is_refused() {
    let mut patch = Patch::empty();
    let add = |i: usize| Edit::AddPoint {
        unit: UNIT,
        time_s: 0.01 + 0.02 * i as f64,
        level: 0.5,
    };
    for i in 3..MAX_POINTS {
        patch = edited(&patch, add(i));
    }
    assert!(validate(&patch).is_ok());
    let why = apply(&patch, &add(40)).unwrap_err().to_string();
    assert!(why.contains("16"), "{why}");
}

#[test]
fn tempo_keeps_the_auditioned_times_and_then_follows() {
    let mut patch = Patch::empty();
    patch.audition.tempo_bpm = 90.0;
    let end = |p: &Patch| handle(p, 1, false).time_s;
    let before = end(&patch);
    let tied = edited(
        &patch,
        Edit::TieToTempo {
            units: vec![UNIT],
            on: true,
        },
    );
    assert!((end(&tied) - before).abs() < 1e-9, "as it was");
    let mut faster = tied.clone();
    faster.audition.tempo_bpm = 180.0;
    assert!((end(&faster) - before / 2.0).abs() < 1e-9, "twice as fast");
    // dragged points snap to sixteenths: at 90 beats a minute each is 1/6 s
    let edit = drag(&tied, UNIT, (0, false), (0.35, 1.0), false).unwrap();
    let snapped = handle(&edited(&tied, edit), 0, false).time_s;
    assert!((snapped - 2.0 / 6.0).abs() < 1e-9, "{snapped}");
    let edit = drag(&tied, UNIT, (0, false), (0.35, 1.0), true).unwrap();
    let free = handle(&edited(&tied, edit), 0, false).time_s;
    assert!((free - 0.35).abs() < 0.002, "{free}");
}

#[rstest]
#[case("1/4", 0.5, "1/4")]
#[case("1/8 dotted", 0.375, "1/8 dotted")]
#[case("1/8 triplet", 1.0 / 6.0, "1/8 triplet")]
#[case("1 bar", 2.0, "1/1")]
#[case("3 beats", 1.5, "1/2 dotted")]
#[case("0.7 beats", 0.35, "0.7 beats")]
fn note_lengths_are_read_and_written(
    #[case] typed: &str,
    #[case] time_s: f64,
    #[case] written: &str,
) {
    let id = Point::TIME_S;
    let read = read_at(id, typed, 0.0, 0.5).unwrap();
    assert!((read - time_s).abs() < 1e-12, "{read}");
    assert_eq!(write_beats(read, 0.5).to_string(), written);
}

#[test]
fn keys_and_strokes_scale_times_for_the_auditioned_note() {
    let mut patch = Patch::empty();
    patch.units[0].key_times = 1.0;
    patch.audition.note = 84;
    assert!((auditioned_scale(&patch, &patch.units[0]) - 0.25).abs() < 1e-12);
    patch.units[0].key_times = 0.0;
    patch.units[0].velocity_times = 1.0;
    patch.audition.velocity = 127;
    assert!((auditioned_scale(&patch, &patch.units[0]) - 0.25).abs() < 1e-12);
}

#[test]
fn links_hold_at_least_two_and_follow_their_units() {
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
    patch.units[2].envelope.points[0].time_s = 0.7;
    let units: Vec<UnitId> = [3, 1, 2].map(UnitId).into();
    let equal = true;
    let alike = edited(&patch, Edit::LinkEnvelopes { units, equal });
    let attack = |p: &Patch, i: usize| p.units[i].envelope.points[0].time_s;
    assert_eq!(
        [0, 1, 2, 3].map(|i| attack(&alike, i)),
        [0.7, 0.7, 0.7, 0.005]
    );
    assert_eq!(alike.linked(UnitId(1)), (vec![UnitId(3), UnitId(2)], true));
    let fewer = edited(&alike, Edit::RemoveUnit { unit: UnitId(3) });
    assert_eq!(fewer.linked(UnitId(1)), (vec![UnitId(2)], true));
    let none = edited(&fewer, Edit::UnlinkEnvelopes { units: vec![UNIT] });
    assert!(none.envelope_links.is_empty());
}

#[test]
fn ready_shapes_are_whole_distinct_and_named() {
    assert!(READY.len() >= 12);
    for (i, ready) in READY.iter().enumerate() {
        let env = ready.envelope();
        assert!(env.check("ready").is_ok(), "{}", ready.name);
        assert!(
            READY[..i]
                .iter()
                .all(|r| r.name != ready.name && r.envelope() != env)
        );
        let units = vec![UNIT];
        let envelope = Box::new(env);
        edited(&Patch::empty(), Edit::SetEnvelope { units, envelope });
    }
}

#[test]
fn silence_is_known_for_shapes_that_fall_silent_while_held() {
    let named = |name: &str| READY.iter().find(|r| r.name == name).unwrap().envelope();
    assert!((named("Plucked").silent_from_s(2.0) - 0.901).abs() < 1e-9);
    assert!((named("Steady").silent_from_s(2.0) - 2.05).abs() < 1e-9);
    assert!(
        (named("Chopper").silent_from_s(2.0) - 2.02).abs() < 1e-9,
        "it goes round"
    );
}
