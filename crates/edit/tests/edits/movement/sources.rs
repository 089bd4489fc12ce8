//! Sources: their envelopes, cycles, rates and names.

use super::*;
use rstest::rstest;
use zolvik_edit::{Edit, apply};
use zolvik_patch::address::Address;
use zolvik_patch::document::{Patch, RouteId, Send};
use zolvik_patch::envelope::READY;
use zolvik_patch::movement::shape::{READY_SHAPES, Turn, freehand, level_at, turned};
use zolvik_patch::movement::{ShapePoint, SourceName, Timing};
use zolvik_patch::text;

#[test]
fn an_envelope_of_a_source_is_edited_like_any_other() {
    let patch = after(&Patch::empty(), &[add(SourceName::Envelope, LEVEL())]);
    let unit = SOURCE.into();
    let edits = [
        Edit::AddPoint {
            unit,
            time_s: 0.2,
            level: 0.5,
        },
        Edit::HoldPoint {
            units: vec![unit],
            at: 1,
        },
        Edit::LoopFrom {
            units: vec![unit],
            from: Some(0),
        },
        Edit::TieToTempo {
            units: vec![unit],
            on: true,
        },
        Edit::SetValue {
            address: Address::point(unit, 0, zolvik_patch::document::Point::TIME_S),
            value: 0.25,
        },
    ];
    let patch = after(&patch, &edits);
    let envelope = patch.envelope(unit).unwrap();
    assert_eq!(
        (envelope.points.len(), envelope.held, envelope.loop_from),
        (4, 1, Some(0))
    );
    assert_eq!(envelope.points[0].time_s, 0.25);
    let ready = Edit::SetEnvelope {
        units: vec![unit],
        envelope: Box::new(READY[0].envelope()),
    };
    assert_eq!(
        after(&patch, &[ready]).envelope(unit),
        Some(&READY[0].envelope())
    );
}

#[rstest]
#[case::flipped(Turn::Flip, |t: f64| (t, true))]
#[case::reversed(Turn::Reverse, |t: f64| (1.0 - t, false))]
#[case::first_half(Turn::Halve, |t: f64| (0.5 * t, false))]
#[case::twice(Turn::Double, |t: f64| ((2.0 * t).fract(), false))]
fn turning_a_cycle_about_gives_the_same_levels_elsewhere(
    #[case] how: Turn,
    #[case] from: fn(f64) -> (f64, bool),
) {
    for ready in READY_SHAPES {
        // bent segments that are cut in the middle keep their ends alone
        let points: Vec<ShapePoint> = ready
            .points()
            .iter()
            .map(|p| ShapePoint {
                curve: if how == Turn::Halve { 0.0 } else { p.curve },
                ..*p
            })
            .collect();
        let turned = turned(&points, how);
        if how == Turn::Double && turned.len() == points.len() {
            continue;
        }
        for i in 1..200 {
            let at = f64::from(i) / 200.0 + 0.001;
            if at >= 1.0 || (at - 0.5).abs() < 0.01 {
                continue;
            }
            let (there, upside_down) = from(at);
            let level = level_at(&points, there);
            let expected = if upside_down { 1.0 - level } else { level };
            let off = (level_at(&turned, at) - expected).abs();
            // where it jumps either side may hold
            let jumps = points
                .windows(2)
                .any(|w| w[0].at == w[1].at && (w[0].at - there).abs() < 2e-3);
            assert!(jumps || off < 1e-6, "{} {how:?} at {at}: {off}", ready.name);
        }
    }
}

#[test]
fn a_line_drawn_by_hand_keeps_its_course_with_few_points() {
    let drawn: Vec<f64> = (0..200)
        .map(|i| 0.5 + 0.4 * (f64::from(i) / 199.0 * 12.0).sin())
        .collect();
    let points = freehand(&drawn, 0.012);
    assert!(points.len() <= 64, "{}", points.len());
    for (i, level) in drawn.iter().enumerate() {
        let off = (level_at(&points, i as f64 / 199.0) - level).abs();
        assert!(off < 0.03, "{i}: {off}");
    }
    let noise: Vec<f64> = (0..500)
        .map(|i| f64::from(i * 7919 % 101) / 100.0)
        .collect();
    assert!(freehand(&noise, 0.012).len() <= 64, "however it was drawn");
}

#[rstest]
#[case("0.3 Hz", 0.3)]
#[case("4 s", 0.25)]
#[case("0.01 s", 100.0)]
#[case("250 ms", 4.0)]
#[case("2", 2.0)]
fn rates_are_typed_as_rates_or_periods(#[case] typed: &str, #[case] hz: f64) {
    assert_eq!(text::read(Timing::RATE_HZ, typed, 1.0), Ok(hz));
}

#[rstest]
#[case("1/8 dotted", 0.75)]
#[case("1/4 triplet", 2.0 / 3.0)]
#[case("2 bars", 8.0)]
#[case("32 bars", 128.0)]
#[case("1/64", 0.0625)]
fn lengths_are_typed_as_notes_and_written_so(#[case] typed: &str, #[case] beats: f64) {
    let read = text::read(Timing::CYCLE_BEATS, typed, 1.0).unwrap();
    assert!((read - beats).abs() < 1e-12);
    assert_eq!(text::write(Timing::CYCLE_BEATS, read).to_string(), typed);
}

/// A source is called by what it moved first, a macro by that alone, until somebody names it.
#[test]
fn sources_are_named_after_their_first_target() {
    let level = Address::route(RouteId(1), Send::LEVEL_DB);
    let pan = Address::route(RouteId(1), Send::PAN);
    let add = |patch: &Patch, kind: SourceName, to: &[Address]| {
        let to = to.to_vec();
        apply(patch, &Edit::AddSource { kind, to }).unwrap().0
    };
    let link = |patch: &Patch, source: usize, to: Address| {
        let from = patch.movement.sources[source].id;
        apply(patch, &Edit::AddLinks { from, to: vec![to] })
            .unwrap()
            .0
    };
    let names = |patch: &Patch| -> Vec<String> {
        let sources = patch.movement.sources.iter();
        sources.map(|s| s.name.clone()).collect()
    };
    let patch = add(&Patch::empty(), SourceName::Lfo, &[pan]);
    let patch = add(&patch, SourceName::Macro, &[level, pan]);
    let patch = add(&patch, SourceName::Macro, &[]);
    let patch = add(&patch, SourceName::Envelope, &[]);
    assert_eq!(names(&patch), ["Pan LFO", "Level", "Macro 1", "Envelope 1"]);
    // another one of the same is counted; what was named by hand keeps its name
    let patch = link(&patch, 2, level);
    let source = patch.movement.sources[3].id;
    let name = "Swell".into();
    let (patch, _) = apply(&patch, &Edit::RenameSource { source, name }).unwrap();
    let patch = link(&patch, 3, level);
    // a further target changes no name
    let patch = link(&patch, 0, level);
    assert_eq!(names(&patch), ["Pan LFO", "Level", "Level 2", "Swell"]);
    // a version that is brought back comes as it was
    let mut other = add(&Patch::empty(), SourceName::Macro, &[level]);
    other.movement.sources[0].name = "Macro 1".into();
    let patch_of = Box::new(other);
    let (back, _) = apply(&patch, &Edit::Replace { patch: patch_of }).unwrap();
    assert_eq!(names(&back), ["Macro 1"]);
}
