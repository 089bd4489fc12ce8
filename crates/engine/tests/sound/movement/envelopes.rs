//! Envelopes that move values, and values of envelopes that are moved, each note's by itself.

use rstest::rstest;
use zolvik_edit::{Edit, apply};
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::document::{Point, UnitId, VoiceSettings};
use zolvik_patch::envelope::Envelope;
use zolvik_patch::movement::{Direction, Scope, SourceKind, SourceName};

use crate::support::*;

#[test]
fn an_envelope_moves_and_is_let_go_with_its_note() {
    let to = Address::patch(VoiceSettings::TUNE_CENTS);
    let patch = moved(&plain_units(&[1.0]), SourceName::Envelope, to);
    let SourceKind::Envelope(envelope) = &patch.movement.sources[0].kind else {
        panic!("an envelope was added");
    };
    let mut patch_sound = patch.clone();
    connect(&mut patch_sound, 1, TO_LEFT);
    patch_sound.units[0].envelope.points[2].time_s = 5.0;
    let mut engine = engine(&patch_sound);
    engine.note_on(60, 127);
    for block in 1..=1_500u32 {
        take(&mut engine, 16);
        if block == 900 {
            engine.note_off(60);
        }
        let (time_s, hold_s) = (f64::from(block) * 16.0 / 48_000.0, 900.0 * 16.0 / 48_000.0);
        let expected = envelope.level_at(time_s, hold_s);
        let there = f64::from(place(&engine));
        assert!(
            (there - expected).abs() < 0.01,
            "{time_s}: {there} for {expected}"
        );
    }
}

/// An attack that velocity shortens: each note has the envelope it began with.
#[test]
fn velocity_moves_an_attack_of_each_note_by_itself() {
    use zolvik_patch::document::Point;
    let mut sine = plain_units(&[1.0]);
    connect(&mut sine, 1, TO_LEFT);
    sine.units[0].envelope.points[0].time_s = 0.4;
    let to = Address::point(UnitId(1), 0, Point::TIME_S);
    let patch = with_link(moved(&sine, SourceName::Played, to), |link| {
        (link.direction, link.amount) = (Direction::Down, 0.38);
    });
    let rise_s = |samples: &[f32], hz: f64| {
        let level = |chunk: &[f32]| partial(chunk, hz).0;
        let full = level(&samples[43_000..48_000]);
        let at = samples
            .windows(960)
            .step_by(96)
            .position(|w| level(w) > 0.9 * full);
        (at.unwrap() * 96 + 480) as f64 / RATE_HZ
    };
    let mut typed = sine.clone();
    for (velocity, expected_s) in [(127u8, 0.02), (64, 0.4 - 0.38 * 64.0 / 127.0), (1, 0.397)] {
        typed.units[0].envelope.points[0].time_s = expected_s;
        let sound = |patch: &Patch| {
            let mut engine = engine(patch);
            engine.note_on(69, velocity);
            take(&mut engine, 48_000).0
        };
        let (linked, typed) = (rise_s(&sound(&patch), 440.0), rise_s(&sound(&typed), 440.0));
        assert!(
            (linked - typed).abs() < 0.004,
            "{velocity}: {linked} s for {typed} s"
        );
    }
    // a soft and a hard note at once, each with its own
    let mut engine = engine(&patch);
    engine.note_on(69, 1);
    engine.note_on(81, 127);
    let samples = take(&mut engine, 48_000).0;
    let (slow, fast) = (rise_s(&samples, 440.0), rise_s(&samples, 880.0));
    assert!(slow > 0.3 && fast < 0.06, "{slow} and {fast}");
}

/// What links can make of a release or a resonance counts in the time a note may take.
#[test]
fn a_note_that_is_moved_longer_ends_in_its_stated_time() {
    use zolvik_engine::program::compile;
    use zolvik_patch::document::Point;
    use zolvik_patch::hearing::Listening;
    let mut sine = plain_units(&[1.0]);
    connect(&mut sine, 1, TO_LEFT);
    sine.units[0].envelope.points[2].time_s = 0.1;
    let to = Address::point(UnitId(1), 2, Point::TIME_S);
    let patch = with_link(moved(&sine, SourceName::Played, to), |link| {
        link.amount = 1.0
    });
    let tail_s = compile(&patch, &Listening::default()).tail_of_s(69, 127);
    assert!((tail_s - 1.1).abs() < 1e-6, "{tail_s}");
    let mut engine = engine(&patch);
    engine.note_on(69, 127);
    take(&mut engine, 4_800);
    engine.note_off(69);
    take(&mut engine, 43_200);
    assert_eq!(engine.voices(), 1, "still there after 0.9 s");
    take(&mut engine, 9_700);
    assert_eq!(engine.voices(), 0);
}

/// A sine, an envelope as source, and velocity that moves a value of that by so much.
fn moved_envelope(to: impl Fn(UnitId) -> Address, amount: f64) -> (Patch, Envelope) {
    let pitch = Address::patch(VoiceSettings::TUNE_CENTS);
    let mut patch = moved(&plain_units(&[1.0]), SourceName::Envelope, pitch);
    connect(&mut patch, 1, TO_LEFT);
    patch.units[0].envelope.points[2].time_s = 5.0;
    let source = patch.movement.sources[0].id;
    let patch = moved(&patch, SourceName::Played, to(UnitId::from(source)));
    let patch = with_link(patch, |link| {
        (link.direction, link.amount) = (Direction::Up, amount);
    });
    let SourceKind::Envelope(envelope) = patch.movement.sources[0].kind.clone() else {
        panic!("an envelope was added");
    };
    (patch, envelope)
}

/// Follows the first source through a note and compares it with an envelope.
fn assert_runs_as(patch: &Patch, velocity: u8, expected: &Envelope, what: &str) {
    let mut engine = engine(patch);
    engine.note_on(60, velocity);
    let hold_s = 900.0 * 16.0 / 48_000.0;
    for block in 1..=1_500u32 {
        take(&mut engine, 16);
        if block == 900 {
            engine.note_off(60);
        }
        let time_s = f64::from(block) * 16.0 / 48_000.0;
        let (there, wanted) = (f64::from(place(&engine)), expected.level_at(time_s, hold_s));
        assert!(
            (there - wanted).abs() < 0.01,
            "{what}, {time_s}: {there} for {wanted}"
        );
    }
}

#[rstest]
#[case::attack(0, Point::TIME_S, 0.2)]
#[case::decay(1, Point::TIME_S, 0.1)]
#[case::sustain(1, Point::LEVEL, -0.4)]
#[case::release(2, Point::TIME_S, 0.3)]
#[case::curve(0, Point::CURVE, 0.5)]
fn velocity_moves_an_envelope_that_is_a_source(
    #[case] at: usize,
    #[case] what: zolvik_patch::param::ParamId,
    #[case] amount: f64,
    #[values(Scope::Note, Scope::Shared)] scope: Scope,
) {
    let (mut patch, base) = moved_envelope(|unit| Address::point(unit, at, what), amount);
    patch.movement.sources[0].scope = scope;
    for velocity in [1, 64, 127] {
        let by = amount * f64::from(velocity) / 127.0;
        let mut expected = base.clone();
        let point = &mut expected.points[at];
        match what {
            Point::TIME_S => point.time_s += by,
            Point::LEVEL => point.level += by,
            _ => point.curve += by,
        }
        assert_runs_as(&patch, velocity, &expected, &format!("velocity {velocity}"));
    }
}

/// What was typed and what a link at its end makes of it are the same to the bit.
#[test]
fn an_envelope_moved_to_its_end_sounds_like_the_one_typed() {
    let attack = |unit| Address::point(unit, 0, Point::TIME_S);
    let (linked, _) = moved_envelope(attack, 0.25);
    let (mut typed, _) = moved_envelope(attack, 0.0);
    if let SourceKind::Envelope(envelope) = &mut typed.movement.sources[0].kind {
        envelope.points[0].time_s += 0.25;
    }
    let sound = |patch: &Patch| {
        let mut engine = engine(patch);
        engine.note_on(60, 127);
        take(&mut engine, 24_000).0
    };
    assert!(sound(&linked).iter().any(|s| s.abs() > 0.1));
    assert_eq!(sound(&linked), sound(&typed));
}

#[test]
fn an_envelope_that_moves_its_own_attack_is_refused() {
    let (patch, _) = moved_envelope(|unit| Address::point(unit, 0, Point::TIME_S), 0.1);
    let own = patch.movement.sources[0].id;
    let edit = Edit::AddLinks {
        from: own,
        to: vec![Address::point(UnitId::from(own), 0, Point::TIME_S)],
    };
    let refused = apply(&patch, &edit).unwrap_err();
    assert!(
        refused
            .to_string()
            .contains(&patch.movement.sources[0].name),
        "{refused}"
    );
}

#[rstest]
#[case::half(32, 2.0)]
#[case::nearly_holding(48, 4.0)]
fn a_pedal_that_is_half_down_slows_envelopes_that_are_sources(
    #[case] pedal: u8,
    #[case] times: f64,
    #[values(false, true)] late: bool,
    #[values(Scope::Note, Scope::Shared)] scope: Scope,
) {
    let (mut patch, base) = moved_envelope(|unit| Address::point(unit, 0, Point::TIME_S), 0.0);
    let SourceKind::Envelope(envelope) = &mut patch.movement.sources[0].kind else {
        panic!("an envelope was added");
    };
    let release = envelope.points.last_mut().unwrap();
    (release.time_s, release.curve) = (0.4, 0.0);
    patch.movement.sources[0].scope = scope;
    let mut engine = engine(&patch);
    if !late {
        engine.midi([0xB0, 64, pedal]);
    }
    engine.midi([0x90, 57, 100]);
    take(&mut engine, 24_000);
    engine.midi([0x80, 57, 0]);
    if late {
        engine.midi([0xB0, 64, pedal]);
    }
    take(&mut engine, 4_800);
    let held = base.points[1].level;
    let expected = held * (1.0 - 0.1 / (0.4 * times));
    let there = f64::from(place(&engine));
    assert!((there - expected).abs() < 0.01, "{there} for {expected}");
    // lifted, the rest goes as fast as ever
    engine.midi([0xB0, 64, 0]);
    take(&mut engine, 2_400);
    let expected = expected - held * 0.05 / 0.4;
    let there = f64::from(place(&engine));
    assert!(
        (there - expected.max(0.0)).abs() < 0.01,
        "{there} for {expected}"
    );
}

/// Struck and let go between two blocks: nothing hangs, neither the note nor the source.
#[rstest]
fn a_key_that_is_let_go_at_once_does_not_hang(#[values(false, true)] half_pedal: bool) {
    let mut sine = plain_units(&[1.0]);
    connect(&mut sine, 1, TO_LEFT);
    sine.units[0].envelope.points[2].time_s = 0.05;
    let to = Address::point(UnitId(1), 0, Point::TIME_S);
    let own_unit = moved(&sine, SourceName::Played, to);
    let (own_source, _) = moved_envelope(|unit| Address::point(unit, 0, Point::TIME_S), 0.1);
    for (what, patch) in [("unit", own_unit), ("source", own_source)] {
        let mut engine = engine(&patch);
        if half_pedal {
            engine.midi([0xB0, 64, 32]);
        }
        engine.note_on(60, 100);
        engine.note_off(60);
        take(&mut engine, 48_000);
        match what {
            "unit" => assert_eq!(engine.voices(), 0, "the note hangs"),
            _ => assert!(
                place(&engine) < 1e-3,
                "the source hangs at {}",
                place(&engine)
            ),
        }
    }
}
