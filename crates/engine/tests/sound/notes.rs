//! Notes: pedal, stealing, changes while sounding, none of which may click.

use rstest::rstest;
use zolvik_edit::{Edit, apply};
use zolvik_engine::Engine;
use zolvik_engine::program::{Program, ProgramError, compile, prepare};
use zolvik_patch::document::{Bus, RouteKind, Send, UnitId};
use zolvik_patch::hearing::Listening;
use zolvik_patch::{Patch, address::Address};

use crate::support::*;

fn two_operators() -> Patch {
    let mut patch = plain_units(&[1.0, 2.0]);
    connect(
        &mut patch,
        1,
        Send::Output {
            level_db: -12.0,
            pan: 0.0,
            bus: Bus::Main,
        },
    );
    connect(&mut patch, 2, index(1, 1.0));
    for unit in &mut patch.units {
        unit.envelope.points[0].time_s = 0.02;
        unit.envelope.points[2].time_s = 0.2;
    }
    patch
}

/// Roughness of the settled sound, against which a click is judged.
fn settled_roughness(patch: &Patch) -> f32 {
    let mut engine = engine(patch);
    engine.note_on(57, 100);
    take(&mut engine, 9600);
    roughness(&take(&mut engine, 9600).0)
}

#[test]
fn pedal_holds_notes_until_it_is_lifted() {
    let mut engine = engine(&two_operators());
    engine.midi([0xB0, 64, 127]);
    engine.midi([0x90, 57, 100]);
    take(&mut engine, 4800);
    engine.midi([0x80, 57, 0]);
    let held = take(&mut engine, 48_000).0;
    assert!(
        partial(&held[24_000..], 220.0).0 > 0.05,
        "the pedal did not hold"
    );
    engine.midi([0xB0, 64, 0]);
    take(&mut engine, 12_000);
    assert_eq!(engine.voices(), 0);
    assert!(take(&mut engine, 480).0.iter().all(|s| *s == 0.0));
}

#[test]
fn silent_within_the_stated_tail() {
    let patch = two_operators();
    let tail_s = compile(&patch, &Listening::default()).tail_s();
    assert!((tail_s - 0.2).abs() < 1e-9);
    let mut engine = engine(&patch);
    engine.note_on(57, 100);
    take(&mut engine, 4800);
    engine.all_notes_off();
    take(&mut engine, (tail_s * RATE_HZ) as usize + 48);
    assert!(take(&mut engine, 4800).0.iter().all(|s| *s == 0.0));
}

#[test]
fn stealing_does_not_click() {
    let mut patch = two_operators();
    patch.voice.polyphony = 2;
    let calm = settled_roughness(&patch);
    let mut engine = engine(&patch);
    engine.note_on(57, 100);
    engine.note_on(60, 100);
    take(&mut engine, 9600);
    let mut all = Vec::new();
    for key in [64, 67, 69, 72] {
        engine.note_on(key, 100);
        all.extend(take(&mut engine, 2400).0);
    }
    assert!(
        engine.voices() <= 2,
        "{} voices after the fades",
        engine.voices()
    );
    // higher notes are rougher by the square of their pitch; a click would be a hundred times that
    assert!(
        roughness(&all) < calm * 12.0,
        "{} against {calm}",
        roughness(&all)
    );
}

#[rstest]
#[case::index_up(Edit::SetValue { address: Address::new(Send::INDEX_RAD, 2 ), value: 3.0 })]
#[case::level_down(Edit::SetValue { address: Address::new(Send::LEVEL_DB, 1 ), value: -72.0 })]
#[case::operator_added(Edit::AddUnit { kind: zolvik_patch::document::KindName::Operator, connect: zolvik_edit::Connect::Unit { id: UnitId(1) } })]
#[case::modulator_removed(Edit::RemoveUnit { unit: UnitId(2) })]
#[case::carrier_removed(Edit::RemoveUnit { unit: UnitId(1) })]
#[case::carrier_off(Edit::SwitchUnit { unit: UnitId(1), on: false })]
#[case::feedback_added(Edit::AddRoute { from: UnitId(1), to: Some(UnitId(1)), kind: RouteKind::default() })]
fn a_change_while_sounding_does_not_click(#[case] edit: Edit) {
    let before = two_operators();
    let after = apply(&before, &edit).unwrap().0;
    let calm = settled_roughness(&before).max(settled_roughness(&after));
    let mut engine = engine(&before);
    engine.note_on(57, 100);
    take(&mut engine, 9600);
    engine.take(&prepare(&after, &Listening::default()));
    let during = roughness(&take(&mut engine, 9600).0);
    assert!(
        during < calm * 1.6,
        "{edit:?}: roughness {during}, settled {calm}"
    );
}

#[test]
fn the_note_goes_on_through_a_change_of_routing() {
    let before = two_operators();
    let after = apply(&before, &Edit::RemoveUnit { unit: UnitId(2) })
        .unwrap()
        .0;
    let mut engine = engine(&before);
    engine.note_on(57, 100);
    take(&mut engine, 9600);
    engine.take(&prepare(&after, &Listening::default()));
    take(&mut engine, 4800);
    let (amplitude, _) = partial(&take(&mut engine, 48_000).0, 220.0);
    let level = 10f64.powf(-12.0 / 20.0) * std::f64::consts::FRAC_1_SQRT_2;
    assert!(
        (amplitude / level - 1.0).abs() < 0.01,
        "{amplitude}, a plain sine would be {level}"
    );
}

#[test]
fn many_changes_in_a_row_end_at_the_last() {
    let mut patch = two_operators();
    let mut engine = engine(&patch);
    engine.note_on(57, 100);
    for n in 0..6 {
        let connect = zolvik_edit::Connect::Unit { id: UnitId(1) };
        let edit = match n % 2 {
            0 => Edit::AddUnit {
                kind: zolvik_patch::document::KindName::Operator,
                connect,
            },
            _ => Edit::DuplicateUnits {
                units: vec![UnitId(2)],
            },
        };
        patch = apply(&patch, &edit).unwrap().0;
        engine.take(&prepare(&patch, &Listening::default()));
        take(&mut engine, 32); // far shorter than a fade: the next change finds this one under way
    }
    take(&mut engine, 4800);
    let last = patch.units.iter().map(|u| u.id).max().unwrap();
    assert_eq!(last, UnitId(8));
    assert!(
        engine.unit_amplitude(last) > 0.5,
        "the operator added last takes part"
    );
    assert!(
        engine.unit_amplitude(UnitId(1)) > 0.5,
        "the carrier goes on"
    );
}

#[test]
fn muting_and_soloing_change_what_is_heard_and_nothing_else() {
    let patch = two_operators();
    let hear = |listening: &Listening| {
        let mut engine = engine(&patch);
        engine.take(&prepare(&patch, listening));
        engine.note_on(57, 127);
        take(&mut engine, 4800);
        let samples = take(&mut engine, 48_000).0;
        [220.0, 440.0, 660.0].map(|hz| partial(&samples, hz).0)
    };
    let mute = hear(&Listening {
        muted: [UnitId(2)].into(),
        ..Listening::default()
    });
    assert!(
        mute[0] > 0.1 && mute[2] < 1e-5,
        "without its modulator a plain sine is left: {mute:?}"
    );
    let solo = hear(&Listening {
        soloed: [UnitId(2)].into(),
        ..Listening::default()
    });
    assert!(
        solo[1] > 0.1 && solo[0] < 1e-5,
        "a soloed modulator is heard itself: {solo:?}"
    );
}

#[test]
fn foreign_bytes_are_no_program() {
    let program = compile(&two_operators(), &Listening::default());
    assert_eq!(Program::from_bytes(program.bytes()), Ok(program));
    assert!(matches!(
        Program::from_bytes(&program.bytes()[1..]),
        Err(ProgramError::Length { .. })
    ));
    let ones = vec![0xFF; program.bytes().len()];
    assert_eq!(Program::from_bytes(&ones), Err(ProgramError::Unsound));
}

#[test]
fn in_a_zone_of_channels_each_note_is_bent_and_pressed_by_itself() {
    let mut patch = plain_units(&[1.0]);
    connect(&mut patch, 1, Send::output());
    let mut engine = engine(&patch);
    // a zone of fifteen: controller 6 of registered parameter 6 on channel 1
    for (controller, value) in [(101, 0), (100, 6), (6, 15)] {
        engine.midi([0xB0, controller, value]);
    }
    // the bend of a note is told before it begins: two semitones of 48 up
    let bend = |semitones: f64| {
        let bits = (8192.0 + semitones / 48.0 * 8191.0).round() as u16;
        [(bits & 127) as u8, (bits >> 7) as u8]
    };
    let [low, high] = bend(2.0);
    engine.midi([0xE1, low, high]);
    engine.midi([0x91, 57, 100]);
    engine.midi([0x92, 64, 100]);
    take(&mut engine, 4_800);
    let near = |sound: &[f32], hz: f64| partial(sound, hz).0;
    let cents = |st: f64| 220.0 * 2f64.powf(st / 12.0);
    let sound = take(&mut engine, 48_000).0;
    assert!(near(&sound, cents(2.0)) > 0.1, "bent from the start");
    assert!(near(&sound, cents(0.0)) < 0.001);
    assert!(near(&sound, cents(7.0)) > 0.1, "the other one is not bent");
    let [low, high] = bend(-1.0);
    engine.midi([0xE2, low, high]);
    take(&mut engine, 9_600);
    let sound = take(&mut engine, 48_000).0;
    assert!(near(&sound, cents(6.0)) > 0.1 && near(&sound, cents(7.0)) < 0.001);
    assert!(near(&sound, cents(2.0)) > 0.1, "the first stays");
    // channel 1 bends them all
    engine.midi([0xE0, 127, 127]);
    take(&mut engine, 9_600);
    let sound = take(&mut engine, 48_000).0;
    assert!(near(&sound, cents(4.0)) > 0.1 && near(&sound, cents(8.0)) > 0.1);
    // outside of a zone a bend is everyone's
    engine.midi([0xB0, 101, 0]);
    engine.midi([0xB0, 100, 6]);
    engine.midi([0xB0, 6, 0]);
    engine.midi([0xE2, 0, 64]);
    engine.midi([0xE0, 0, 64]);
    take(&mut engine, 9_600);
    let sound = take(&mut engine, 48_000).0;
    assert!(near(&sound, cents(6.0)) > 0.1);
}

#[test]
fn pressure_and_timbre_of_a_zone_move_only_their_own_note() {
    use zolvik_patch::movement::{Played, PlayedWhat, SourceKind, SourceName};
    let level = Address::route(zolvik_patch::document::RouteId(1), Send::LEVEL_DB);
    let heard = |what: PlayedWhat, message: [u8; 3]| {
        let mut patch = plain_units(&[1.0]);
        connect(&mut patch, 1, Send::output());
        let add = Edit::AddSource {
            kind: SourceName::Played,
            to: vec![level],
        };
        let mut patch = apply(&patch, &add).unwrap().0;
        patch.movement.sources[0].kind = SourceKind::Played(Played { what });
        patch.movement.links[0].amount = -24.0;
        let mut engine = engine(&patch);
        for (controller, value) in [(101, 0), (100, 6), (6, 4)] {
            engine.midi([0xB0, controller, value]);
        }
        engine.midi([0x91, 57, 100]);
        engine.midi([0x92, 69, 100]);
        take(&mut engine, 9_600);
        engine.midi(message);
        take(&mut engine, 9_600);
        let sound = take(&mut engine, 48_000).0;
        (partial(&sound, 220.0).0, partial(&sound, 440.0).0)
    };
    let (pressed, other) = heard(PlayedWhat::Pressure, [0xD1, 127, 0]);
    assert!(other > 12.0 * pressed, "{pressed} beside {other}");
    let (moved, other) = heard(PlayedWhat::Timbre, [0xB1, 74, 127]);
    assert!(other > 3.0 * moved, "{moved} beside {other}");
}

#[rstest]
// a release of 0.4 s, straight down: half of it is gone after 0.2 s; the pedal makes it 1 / (1 - value / 64) times as long
#[case::up(0, 1.0)]
#[case::a_little(16, 4.0 / 3.0)]
#[case::half(32, 2.0)]
#[case::nearly_holding(48, 4.0)]
fn a_pedal_that_is_half_down_lets_notes_end_more_slowly(#[case] value: u8, #[case] times: f64) {
    let mut patch = two_operators();
    patch.routes.truncate(1);
    let release = patch.units[0].envelope.points.last_mut().unwrap();
    (release.time_s, release.curve) = (0.4, 0.0);
    let level = |engine: &mut Engine| partial(&take(engine, 4800).0, 220.0).0;
    for late in [false, true] {
        let mut engine = engine(&patch);
        if !late {
            engine.midi([0xB0, 64, value]);
        }
        engine.midi([0x90, 57, 100]);
        take(&mut engine, 24_000);
        let held = level(&mut engine);
        engine.midi([0x80, 57, 0]);
        // also one that is caught on its way
        if late {
            engine.midi([0xB0, 64, value]);
        }
        let found = level(&mut engine) / held;
        // in the mean over 0.1 s, as far as it is after 0.05 s
        let expected = 1.0 - 0.05 / (0.4 * times);
        assert!(
            (found - expected).abs() < 0.01,
            "{late}: {found} {expected}"
        );
        // lifted, the rest goes as fast as ever
        engine.midi([0xB0, 64, 0]);
        let left_s = 0.4 * (1.0 - 0.1 / (0.4 * times));
        take(&mut engine, ((left_s + 0.01) * 48_000.0) as usize);
        assert_eq!(engine.voices(), 0, "{late}");
    }
}

#[test]
fn a_pedal_that_goes_down_and_up_again_without_a_stop_is_a_switch() {
    let render = |pedal: &[u8]| {
        let mut engine = engine(&two_operators());
        engine.midi([0x90, 57, 100]);
        take(&mut engine, 4800);
        pedal
            .iter()
            .for_each(|value| engine.midi([0xB0, 64, *value]));
        engine.midi([0x80, 57, 0]);
        take(&mut engine, 9600).0
    };
    assert_eq!(render(&[127, 0]), render(&[]));
    assert_eq!(render(&[64]), render(&[127]), "from half on it holds");
}
