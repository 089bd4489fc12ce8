//! Ways of tuning, detuning together, scales, and what ratios do.

use rstest::rstest;
use zolvik_edit::{Connect, Edit, apply};
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::character::{character, modulators, offers};
use zolvik_patch::document::{Operator, TunedBy, UnitId};
use zolvik_patch::param::ParamId;
use zolvik_patch::pitch::{auditioned_hz, key_hz, operator_hz, patch_key_hz};
use zolvik_patch::scale::{KeyMap, Scale};
use zolvik_patch::text;

fn hz(patch: &Patch) -> f64 {
    operator_hz(patch.units[0].oscillator().unwrap(), auditioned_hz(patch))
}

fn edited(patch: &Patch, edit: Edit) -> Patch {
    apply(patch, &edit).unwrap().0
}

fn tune_by(units: Vec<UnitId>, by: TunedBy) -> Edit {
    Edit::Choose {
        units,
        choice: Operator::TUNED_BY,
        at: by as usize,
    }
}

#[test]
fn another_way_of_tuning_keeps_the_pitch_of_the_auditioned_note() {
    let mut patch = Patch::empty();
    patch.units[0].oscillator_mut().unwrap().ratio = 3.53;
    let before = hz(&patch);
    for by in [TunedBy::Semitones, TunedBy::Fixed, TunedBy::Ratio] {
        let units = vec![UnitId(1)];
        patch = edited(&patch, tune_by(units, by));
        assert!((hz(&patch) / before - 1.0).abs() < 1e-12, "{by:?}");
    }
    let units = vec![UnitId(1)];
    patch = edited(&patch, tune_by(units, TunedBy::Fixed));
    patch.audition.note += 24;
    assert!((hz(&patch) / before - 1.0).abs() < 1e-12, "fixed stays");
}

#[rstest]
#[case(TunedBy::Ratio)]
#[case(TunedBy::Semitones)]
#[case(TunedBy::Fixed)]
fn an_octave_is_an_octave_in_every_way_of_tuning(#[case] by: TunedBy) {
    let units = vec![UnitId(1)];
    let patch = edited(&Patch::empty(), tune_by(units.clone(), by));
    let up = edited(&patch, Edit::ShiftOctaves { units, octaves: 2 });
    assert!((hz(&up) / hz(&patch) - 4.0).abs() < 1e-12);
}

#[test]
fn several_are_detuned_around_their_middle() {
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
    patch.units[1].oscillator_mut().unwrap().detune_cents = 8.0;
    let units = (1..=4).map(UnitId).collect();
    let patch = edited(
        &patch,
        Edit::SpreadDetune {
            units,
            spread_cents: 12.0,
        },
    );
    let cents: Vec<f64> = patch
        .units
        .iter()
        .map(|u| u.oscillator().unwrap().detune_cents)
        .collect();
    assert_eq!(cents, [-4.0, 0.0, 4.0, 8.0], "around the middle, 2 cents");
}

#[rstest]
#[case("3:2", 1.5)]
#[case("2.5 + 0.018", 2.518)]
#[case("sqrt(2)", std::f64::consts::SQRT_2)]
fn ratios_are_typed_as_people_say_them(#[case] typed: &str, #[case] ratio: f64) {
    let read = text::read(Operator::RATIO, typed, 1.0).unwrap();
    assert!((read - ratio).abs() < 1e-12);
}

#[rstest]
#[case(Operator::RATIO, "0")]
#[case(Operator::RATIO, "-2")]
#[case(Operator::RATIO, "1e99")]
#[case(Operator::RATIO, "1/0")]
#[case(Operator::FIXED_HZ, "40k")]
#[case(Operator::SEMITONES, "900")]
fn absurd_tunings_are_refused_with_the_range_or_an_example(
    #[case] param: ParamId,
    #[case] typed: &str,
) {
    let why = text::read(param, typed, 1.0).unwrap_err().to_string();
    assert!(why.contains("goes from") || why.contains("type "), "{why}");
    let address = Address::unit(UnitId(1), param);
    assert!(
        apply(
            &Patch::empty(),
            &Edit::SetValue {
                address,
                value: -1e6
            }
        )
        .is_err()
    );
}

#[rstest]
#[case(1.0, &[1.0], "all harmonics", &[])]
#[case(1.0, &[2.0], "odd harmonics only", &[2, 4, 6, 8, 10, 12])]
#[case(1.0, &[3.0], "without every third", &[3, 6, 9, 12])]
#[case(2.0, &[1.0], "an octave below", &[])]
// 1 : 4 gives 1, 3, 5, 7, ..: the same odd harmonics as 1 : 2
#[case(1.0, &[4.0], "odd harmonics only", &[2, 4, 6, 8, 10, 12])]
#[case(1.0, &[5.0], "Harmonic; 2, 3, 5, 7", &[2, 3, 5, 7, 8, 10, 12])]
fn whole_ratios_are_named_by_the_harmonics_they_lack(
    #[case] carrier: f64,
    #[case] modulators: &[f64],
    #[case] words: &str,
    #[case] missing: &[usize],
) {
    let found = character(carrier, modulators).unwrap();
    assert!(found.words.contains(words), "{}", found.words);
    assert_eq!(found.missing, missing);
    assert_eq!(found.off_cents, 0.0);
}

#[test]
fn odd_ratios_are_inharmonic_and_hairs_beside_whole_ones_beat() {
    let bell = character(1.0, &[1.41]).unwrap();
    assert!(bell.ground.is_none() && bell.off_cents > 60.0, "{bell:?}");
    let beating = character(1.0, &[2.003]).unwrap();
    assert!(beating.words.contains("beating"), "{beating:?}");
    // sidebands of 1 : 2.003 at orders 1 and 2: 1.003, 3.003, 3.006, 5.006 times the carrier
    let exact: f64 = [1.003f64, 3.003 / 3.0, 3.006 / 3.0, 5.006 / 5.0]
        .iter()
        .map(|r| 1200.0 * r.log2())
        .sum::<f64>()
        / 4.0;
    assert!((beating.off_cents - exact).abs() < 1e-9);
    assert!(character(1.0, &[]).is_none());
}

#[test]
fn offers_lie_near_and_never_repeat_what_is_there() {
    let offers = offers(1.0, 2.0);
    assert_eq!(offers.len(), 6);
    assert!(offers.iter().all(|o| o.ratio != 2.0 && !o.words.is_empty()));
    assert!(offers.iter().all(|o| (0.9..6.0).contains(&o.ratio)));
}

fn scale(cents: &[f64], map: KeyMap) -> Scale {
    Scale {
        name: "Test".into(),
        cents: cents.into(),
        map,
    }
}

#[test]
fn twelve_equal_steps_are_equal_temperament() {
    let cents: Vec<f64> = (1..=12).map(|n| f64::from(n) * 100.0).collect();
    let twelve = scale(&cents, KeyMap::default());
    for key in 0..=127 {
        let ratio = twelve.key_hz(key).unwrap() / key_hz(key.into());
        assert!((1200.0 * ratio.log2()).abs() < 1e-9, "key {key}");
    }
}

#[test]
fn a_map_leaves_keys_silent_and_repeats_at_its_octave() {
    let map = KeyMap {
        reference_key: 60,
        reference_hz: 261.0,
        octave_degree: 3,
        degrees: vec![Some(0), None, Some(1), Some(2)],
        ..KeyMap::default()
    };
    let just = scale(&[386.0, 702.0, 1200.0], map);
    assert_eq!(just.key_hz(60), Some(261.0));
    assert_eq!(just.key_hz(61), None);
    assert!((just.key_hz(64).unwrap() - 522.0).abs() < 1e-9);
    assert!((just.key_hz(63).unwrap() / 261.0 - 2f64.powf(702.0 / 1200.0)).abs() < 1e-12);
    assert!((just.key_hz(56).unwrap() - 130.5).abs() < 1e-9);
    let patch = Patch {
        scale: Some(just),
        ..Patch::empty()
    };
    assert_eq!(patch_key_hz(&patch, 61), None);
}

#[test]
fn faulty_scales_are_refused_by_path() {
    let cases = [
        (scale(&[], KeyMap::default()), "scale.cents"),
        (scale(&[f64::NAN], KeyMap::default()), "scale.cents[0]"),
        (
            scale(
                &[1200.0],
                KeyMap {
                    reference_hz: 0.0,
                    ..KeyMap::default()
                },
            ),
            "scale.map.reference_hz",
        ),
        (
            scale(
                &[1200.0],
                KeyMap {
                    degrees: vec![None],
                    ..KeyMap::default()
                },
            ),
            "scale.map.reference_key",
        ),
    ];
    for (scale, path) in cases {
        let why = scale.check().unwrap_err().to_string();
        assert!(why.contains(path), "{why} names {path}");
    }
}

#[test]
fn slow_movement_is_no_modulator_of_the_spectrum() {
    let connect = Connect::Unit { id: UnitId(1) };
    let mut patch = edited(
        &Patch::empty(),
        Edit::AddUnit {
            kind: zolvik_patch::document::KindName::Operator,
            connect,
        },
    );
    patch.units[1].oscillator_mut().unwrap().ratio = 1.41;
    assert_eq!(modulators(&patch, UnitId(1)), [(UnitId(2), 1.41)]);
    let operator = patch.units[1].oscillator_mut().unwrap();
    (operator.tuned_by, operator.fixed_hz) = (TunedBy::Fixed, 5.8);
    assert!(modulators(&patch, UnitId(1)).is_empty());
}
