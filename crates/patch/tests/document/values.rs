//! Values as text, in and out.

use proptest::prelude::*;
use rstest::rstest;
use zolvik_patch::catalogue::params;
use zolvik_patch::document::{Audition, Filter, Operator, Point, Send, VoiceSettings};
use zolvik_patch::param::ParamId;
use zolvik_patch::text::{TextError, read, write};

#[rstest]
#[case::ratio_as_fraction(Operator::RATIO, "3:2", 1.5)]
#[case::ratio_with_a_hair(Operator::RATIO, "2.5 + 0.018", 2.518)]
#[case::ratio_of_a_root(Operator::RATIO, "sqrt(2)", std::f64::consts::SQRT_2)]
#[case::ratio_with_sign(Operator::RATIO, "7.07 ×", 7.07)]
#[case::comma_for_point(Operator::RATIO, "3,5", 3.5)]
#[case::milliseconds(Point::TIME_S, "340 ms", 0.34)]
#[case::bare_number_is_seconds(Point::TIME_S, "1.2", 1.2)]
#[case::true_minus(Send::LEVEL_DB, "−6 dB", -6.0)]
#[case::silence(Send::LEVEL_DB, "-inf", -72.0)]
#[case::note_with_sharp(Audition::NOTE, "C#3", 49.0)]
#[case::note_with_flat(Audition::NOTE, "bb2", 46.0)]
#[case::note_as_key(Audition::NOTE, "57", 57.0)]
#[case::note_length(Point::TIME_S, "1/8", 0.25)]
#[case::dotted(Point::TIME_S, "1/4 dotted", 0.75)]
#[case::triplet(Point::TIME_S, "1/16t", 0.125 * 2.0 / 3.0)]
#[case::bars(Point::TIME_S, "2 bars", 4.0)]
#[case::signed_percent(Point::CURVE, "-15%", -0.15)]
#[case::percent_without_sign(Point::LEVEL, "60", 0.6)]
#[case::kilo(Operator::OFFSET_HZ, "0.1k", 100.0)]
#[case::semitones(Operator::DETUNE_CENTS, "2 st", 200.0)]
#[case::radians_of_pi(Send::INDEX_RAD, "pi/2", std::f64::consts::FRAC_PI_2)]
#[case::degrees(Send::INDEX_RAD, "90 deg", std::f64::consts::FRAC_PI_2)]
#[case::pan_left(Send::PAN, "30 L", -0.3)]
#[case::pan_side_first(Send::PAN, "R60", 0.6)]
#[case::pan_centre(Send::PAN, "C", 0.0)]
#[case::doubled(Operator::RATIO, "*2", 2.0)]
#[case::an_octave_down(Operator::RATIO, "/2", 0.5)]
#[case::an_octave_up(Operator::RATIO, "12 st", 2.0)]
#[case::two_octaves(Operator::RATIO, "2 oct", 4.0)]
#[case::cents_as_a_ratio(Operator::RATIO, "700 ct", 1.498_307_076_876_681_5)]
#[case::share_of_a_turn(Send::INDEX_RAD, "50%", std::f64::consts::PI)]
#[case::reckoned(Operator::RATIO, "=3*2", 6.0)]
#[case::quality(Filter::RESONANCE, "Q sqrt(0.5)", 0.0)]
#[case::quality_of_two(Filter::RESONANCE, "q 2", 0.5)]
#[case::typed_before_the_unit_that_stood_there(Point::TIME_S, "120 ms s", 0.12)]
#[case::and_with_another_one(Operator::RATIO, "7 st ×", 1.498_307_076_876_681_5)]
fn typed_text_is_understood(#[case] id: ParamId, #[case] text: &str, #[case] expected: f64) {
    let value = read(id, text, 1.0).unwrap_or_else(|error| panic!("“{text}” refused: {error}"));
    assert!((value - expected).abs() < 1e-12, "“{text}” read as {value}");
}

#[rstest]
#[case::empty("")]
#[case::words("loud")]
#[case::division_by_zero("1/0")]
#[case::open_bracket("(2")]
#[case::two_numbers("2 3")]
#[case::wrong_unit("3 dB")]
#[case::nan("nan")]
#[case::deep("((((((((((((((((((((((((((((((1))))))))))))))))))))))))))))))")]
fn what_is_no_value_is_refused_with_examples(#[case] text: &str) {
    let error = read(Point::TIME_S, text, 0.1).unwrap_err();
    assert!(matches!(error, TextError::NoValue { .. }), "{error}");
    assert!(
        error.to_string().contains("340 ms"),
        "says what would do: {error}"
    );
}

#[test]
fn out_of_range_names_the_range_in_words() {
    let error = read(VoiceSettings::POLYPHONY, "99", 8.0).unwrap_err();
    assert_eq!(error.to_string(), "Polyphony goes from 1 to 32");
}

#[rstest]
#[case(Point::TIME_S, 0.005, "5 ms")]
#[case(Point::TIME_S, 1.35, "1.35 s")]
#[case(Operator::RATIO, 3.5, "3.50 ×")]
#[case(Operator::OFFSET_HZ, -0.018, "−0.018 Hz")]
#[case(Send::LEVEL_DB, -72.0, "−∞ dB")]
#[case(Send::PAN, -0.3, "30 L")]
#[case(Audition::NOTE, 57.0, "A3")]
#[case(Point::CURVE, 0.5, "+50 %")]
fn values_are_written_as_people_say_them(
    #[case] id: ParamId,
    #[case] value: f64,
    #[case] expected: &str,
) {
    assert_eq!(write(id, value).to_string(), expected);
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn what_is_written_can_be_read_back(row in 0..params().count(), place in 0.0f64..=1.0) {
        let row = params().nth(row).unwrap();
        let value = row.nudge(row.value_at(place), 0.0, false);
        let text = write(row.id, value).to_string();
        let back = read(row.id, &text, 0.0).map_err(|e| TestCaseError::fail(format!("{text}: {e}")))?;
        let again = write(row.id, back).to_string();
        prop_assert_eq!(text, again, "{} at {}", row.name, value);
    }

    #[test]
    fn no_text_and_no_gesture_leaves_the_range(row in 0..params().count(), text in ".{0,12}", start in -1e9f64..1e9, by in -1e3f64..1e3) {
        let row = params().nth(row).unwrap();
        if let Ok(value) = read(row.id, &text, start) {
            prop_assert!((row.min..=row.max).contains(&value));
        }
        for value in [row.nudge(start, by, true), row.drag(start, by, false)] {
            prop_assert!((row.min..=row.max).contains(&value), "{} from {start} by {by}: {value}", row.name);
        }
    }
}
