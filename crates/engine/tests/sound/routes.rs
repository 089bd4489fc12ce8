//! Kinds of routes against theory, and keys tuned by a scale.

use rstest::rstest;
use zolvik_patch::document::{Send, UnitId};
use zolvik_patch::scale::{KeyMap, Scale};

use crate::support::*;

const CARRIER_HZ: f64 = 4.0 * 440.0;
const MODULATOR_HZ: f64 = 0.312 * 440.0;

fn two(send: Send) -> Vec<f32> {
    let mut patch = plain_units(&[4.0, 0.312]);
    connect(&mut patch, 1, TO_LEFT);
    connect(&mut patch, 2, send);
    let mut engine = engine(&patch);
    engine.note_on(69, 127);
    take(&mut engine, 4800);
    take(&mut engine, 4 * 48_000).0
}

const TO: UnitId = UnitId(1);

#[rstest]
#[case(0.05)]
#[case(0.4)]
#[case::through_zero(1.3)]
fn frequency_modulation_has_the_sidebands_of_its_deviation(#[case] deviation: f64) {
    let samples = two(Send::Frequency { to: TO, deviation });
    // the index is the greatest change of frequency over the modulator's frequency
    let index = deviation * CARRIER_HZ / MODULATOR_HZ;
    let mut checked = 0;
    for n in -40i32..=40 {
        let hz = CARRIER_HZ + f64::from(n) * MODULATOR_HZ;
        // partials folded at 0 Hz fall between the others here and are left out
        let theory = libm::jn(n, index).abs();
        if theory < 2e-3 || hz <= 0.0 {
            continue;
        }
        let (measured, _) = partial(&samples, hz);
        let error_db = 20.0 * (measured / theory).log10();
        assert!(
            error_db.abs() < 0.1,
            "partial {n}: {measured}, theory {theory}"
        );
        checked += 1;
    }
    assert!(checked >= 3);
}

#[rstest]
#[case(1.0)]
#[case(0.4)]
fn ring_modulation_crosses_from_the_carrier_to_the_product(#[case] mix: f64) {
    let samples = two(Send::Ring { to: TO, mix });
    assert!((partial(&samples, CARRIER_HZ).0 - (1.0 - mix)).abs() < 1e-4);
    for side in [CARRIER_HZ - MODULATOR_HZ, CARRIER_HZ + MODULATOR_HZ] {
        assert!((partial(&samples, side).0 - 0.5 * mix).abs() < 1e-4);
    }
}

#[test]
fn amplitude_modulation_adds_two_sidebands_of_half_its_amount() {
    let samples = two(Send::Amplitude {
        to: TO,
        amount: 0.6,
    });
    assert!((partial(&samples, CARRIER_HZ).0 - 1.0).abs() < 1e-4);
    for side in [CARRIER_HZ - MODULATOR_HZ, CARRIER_HZ + MODULATOR_HZ] {
        assert!((partial(&samples, side).0 - 0.3).abs() < 1e-4);
    }
}

#[test]
fn two_kinds_between_the_same_units_add_up() {
    let mut patch = plain_units(&[4.0, 0.312]);
    connect(&mut patch, 1, TO_LEFT);
    connect(&mut patch, 2, index(1, 1.0));
    connect(&mut patch, 2, Send::Ring { to: TO, mix: 1.0 });
    let mut engine = engine(&patch);
    engine.note_on(69, 127);
    take(&mut engine, 4800);
    let samples = take(&mut engine, 4 * 48_000).0;
    // sin(c + I sin m) sin m: the carrier's place takes (J_1 - J_-1)/2 = J_1
    let theory = libm::jn(1, 1.0);
    let (measured, _) = partial(&samples, CARRIER_HZ);
    assert!(
        (measured - theory).abs() < 1e-4,
        "{measured}, theory {theory}"
    );
}

#[test]
fn loops_of_every_kind_stay_bounded() {
    for kind in zolvik_patch::document::KindName::Operator
        .takes()
        .iter()
        .copied()
    {
        let mut patch = plain_units(&[0.01, 1.0]);
        connect(&mut patch, 1, TO_LEFT);
        for (from, to) in [(1, 2), (2, 1), (1, 1), (2, 2)] {
            let mut send = Send::to_unit(kind, UnitId(to));
            match &mut send {
                Send::Phase { index_rad, .. } => *index_rad = 40.0,
                Send::Frequency { deviation, .. } => *deviation = 32.0,
                Send::Ring { mix, .. } => *mix = 1.0,
                Send::Amplitude { amount, .. } => *amount = 1.0,
                Send::Audio { .. } | Send::Output { .. } => unreachable!(),
            }
            connect(&mut patch, from, send);
        }
        let mut engine = engine(&patch);
        engine.note_on(60, 127);
        let samples = take(&mut engine, 48_000).0;
        assert!(samples.iter().all(|s| s.abs() <= 4.0), "{kind:?}");
    }
}

#[test]
fn a_scale_tunes_the_keys_and_silences_those_it_leaves_out() {
    let mut patch = plain_units(&[1.0]);
    connect(&mut patch, 1, TO_LEFT);
    // nineteen equal steps, every second key silent
    patch.scale = Some(Scale {
        name: "Nineteen".into(),
        cents: (1..=19).map(|n| f64::from(n) * 1200.0 / 19.0).collect(),
        map: KeyMap {
            middle_key: 60,
            reference_key: 60,
            reference_hz: 300.0,
            octave_degree: 1,
            degrees: vec![Some(0), None],
            ..KeyMap::default()
        },
    });
    let mut engine = engine(&patch);
    engine.note_on(61, 127);
    assert!(take(&mut engine, 4800).0.iter().all(|s| *s == 0.0));
    assert_eq!(engine.voices(), 0);
    engine.note_on(66, 127);
    take(&mut engine, 4800);
    let samples = take(&mut engine, 4 * 48_000).0;
    let hz = 300.0 * 2f64.powf(3.0 / 19.0);
    assert!(
        (partial(&samples, hz).0 - 1.0).abs() < 1e-3,
        "three steps up"
    );
}

#[test]
fn a_groups_level_is_heard_at_the_output_and_never_changes_an_index() {
    let grouped = |level_db: f64| {
        let mut patch = plain_units(&[4.0, 0.312]);
        connect(&mut patch, 1, TO_LEFT);
        connect(&mut patch, 2, index(1, 2.0));
        patch.groups.push(zolvik_patch::document::Group {
            id: zolvik_patch::document::GroupId(1),
            name: "Both".into(),
            units: vec![UnitId(1), UnitId(2)],
            folded: false,
            level_db,
        });
        let mut engine = engine(&patch);
        engine.note_on(69, 127);
        take(&mut engine, 4800);
        take(&mut engine, 48_000).0
    };
    let (full, lower) = (grouped(0.0), grouped(-6.0));
    for n in -2i32..=2 {
        let hz = CARRIER_HZ + f64::from(n) * MODULATOR_HZ;
        let db = 20.0 * (partial(&lower, hz).0 / partial(&full, hz).0).log10();
        assert!((db + 6.0).abs() < 0.01, "partial {n}: {db} dB");
    }
    assert!(
        grouped(-72.0).iter().all(|s| *s == 0.0),
        "the lowest is silence"
    );
}
