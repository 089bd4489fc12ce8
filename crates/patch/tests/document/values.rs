//! Values as text, in and out.

use proptest::prelude::*;
use rstest::rstest;
use zolvik_patch::catalogue::{param, params};
use zolvik_patch::document::{Audition, Filter, Operator, Point, Send, Unit, VoiceSettings};
use zolvik_patch::envelope::BEAT_S;
use zolvik_patch::movement::Timing;
use zolvik_patch::movement::amount::amount_row;
use zolvik_patch::param::{Param, ParamId, Quantity as Q};
use zolvik_patch::text::{TextError, Times, hint, read, read_as, write, write_exact_in, write_in};

#[rstest]
#[case::ratio_as_fraction(Operator::RATIO, "3:2", 1.5)]
#[case::ratio_with_a_hair(Operator::RATIO, "2.5 + 0.018", 2.518)]
#[case::ratio_of_a_root(Operator::RATIO, "sqrt(2)", std::f64::consts::SQRT_2)]
#[case::ratio_with_sign(Operator::RATIO, "7.07 ×", 7.07)]
#[case::comma_for_point(Operator::RATIO, "3,5", 3.5)]
#[case::milliseconds(Point::TIME_S, "340 ms", 0.34)]
#[case::seconds(Point::TIME_S, "1.2", 1.2)]
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
#[case::as_quiet_as_can_be(Send::LEVEL_DB, "-80 dB", -72.0)]
#[case::quality(Filter::RESONANCE, "Q sqrt(0.5)", 0.0)]
#[case::quality_of_two(Filter::RESONANCE, "q 2", 0.5)]
#[case::typed_before_the_unit_that_stood_there(Point::TIME_S, "120 ms s", 0.12)]
#[case::voices(Unit::COPIES, "1 voice", 1.0)]
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

#[rstest]
#[case::of_milliseconds(Point::TIME_S, 0.25, "8", 0.008)]
#[case::of_seconds(Point::TIME_S, 1.35, "8", 8.0)]
#[case::from_nothing(Point::TIME_S, 0.0, "8", 0.008)]
#[case::said_otherwise(Point::TIME_S, 0.25, "8s", 8.0)]
#[case::no_second_can_be_meant(Point::TIME_S, 1.35, "120", 0.12)]
#[case::of_kilohertz(Filter::CUTOFF_HZ, 12_000.0, "5", 5000.0)]
#[case::no_kilohertz_can_be_meant(Filter::CUTOFF_HZ, 12_000.0, "3000", 3000.0)]
#[case::of_hertz(Filter::CUTOFF_HZ, 440.0, "3000", 3000.0)]
#[case::of_bars(Timing::CYCLE_BEATS, 8.0, "3", 12.0)]
#[case::of_a_note_length(Timing::CYCLE_BEATS, 0.75, "2", 2.0)]
#[case::a_note_length_over_a_dotted_one(Timing::CYCLE_BEATS, 0.75, "1/4", 1.0)]
#[case::on_the_left(Send::PAN, -0.3, "20", -0.2)]
#[case::with_its_sign(Send::PAN, -0.3, "+20", 0.2)]
#[case::in_the_middle(Send::PAN, 0.0, "20", 0.2)]
#[case::percent(Point::LEVEL, 0.003, "35", 0.35)]
fn a_bare_number_has_the_unit_that_is_shown(
    #[case] id: ParamId,
    #[case] shown: f64,
    #[case] typed: &str,
    #[case] expected: f64,
) {
    let value = read(id, typed, shown).unwrap_or_else(|why| panic!("{typed}: {why}"));
    assert!((value - expected).abs() < 1e-12, "{typed} is {value}");
}

#[test]
fn a_bare_number_of_an_envelope_in_beats_is_beats() {
    let (beat_s, in_beats) = (0.5, true);
    let row = param(Point::TIME_S);
    let value = read_as(row, "3", 0.25, Times { beat_s, in_beats });
    assert_eq!(value, Ok(1.5));
}

#[rstest]
#[case::of_a_time(Point::TIME_S, 0.25, "99 s", "Time goes from 0 s to 20 s")]
#[case::of_a_cutoff(
    Filter::CUTOFF_HZ,
    12_000.0,
    "0.5 Hz",
    "Cutoff goes from 20 Hz to 20000 Hz"
)]
#[case::of_a_level(Send::LEVEL_DB, 0.0, "40", "Level goes from −∞ dB to +6.0 dB")]
fn a_refusal_names_the_range_in_one_unit(
    #[case] id: ParamId,
    #[case] shown: f64,
    #[case] typed: &str,
    #[case] expected: &str,
) {
    assert_eq!(read(id, typed, shown).unwrap_err().to_string(), expected);
}

#[rstest]
#[case::less_than_a_percent(Point::LEVEL, 0.5, "0.35", Some("0.35%; for 35% type 35"))]
#[case::said_to_be_percent(Point::LEVEL, 0.5, "0.35%", None)]
#[case::a_percentage(Point::LEVEL, 0.5, "35", None)]
#[case::silence(Send::LEVEL_DB, -6.0, "-80", Some("−72 dB and less is silence, −∞ dB"))]
#[case::another_unit(Filter::CUTOFF_HZ, 12_000.0, "3000", Some("taken as 3000.0 Hz"))]
#[case::the_unit_shown(Filter::CUTOFF_HZ, 12_000.0, "5", None)]
fn what_is_good_to_know_is_said_while_typing(
    #[case] id: ParamId,
    #[case] shown: f64,
    #[case] typed: &str,
    #[case] expected: Option<&str>,
) {
    let said = hint(param(id), typed, shown, Times::PLAIN);
    assert_eq!(said.as_deref(), expected);
}

/// Rows as fields have them: all of the catalogue, and amounts of links that lead to each.
fn all_rows() -> impl Iterator<Item = Param> {
    params().flat_map(|row| [*row, amount_row(row)])
}

/// Ways in which times are said, and what stood in the field before.
fn settings() -> impl Iterator<Item = Times> {
    let tempos = [30.0, 97.0, 120.0, 299.0];
    let both = [false, true];
    let time = |tempo_bpm: f64, in_beats| Times {
        beat_s: if in_beats { BEAT_S } else { 60.0 / tempo_bpm },
        in_beats,
    };
    tempos
        .into_iter()
        .flat_map(move |tempo| both.map(|in_beats| time(tempo, in_beats)))
}

fn taken_back(row: &Param, value: f64, before: f64, times: Times) {
    let whole = matches!(row.quantity, Q::Count | Q::Copies | Q::Note);
    let value = if whole { value.round() } else { value };
    let shown = write_in(row, value, times).to_string();
    let exact = write_exact_in(row, value, times);
    for (text, is_exact) in [
        (shown.clone(), false),
        (shown.replace('.', ","), false),
        (exact.clone(), true),
        (exact.replace('.', ","), true),
    ] {
        let back = read_as(row, &text, before, times)
            .unwrap_or_else(|why| panic!("{} at {value}: “{text}”: {why}", row.name));
        let again = write_in(row, back, times).to_string();
        let near = 1e-8 * (1.0 + value.abs());
        match is_exact {
            true => assert!(
                (back - value).abs() < near,
                "{}: “{text}” is {back}, not {value}",
                row.name
            ),
            false => assert_eq!(again, shown, "{} at {value}: “{text}” is {back}", row.name),
        }
    }
}

#[test]
fn what_a_field_shows_is_taken_back_in_every_unit_and_at_every_tempo() {
    const PLACES: usize = 6;
    for row in all_rows() {
        // other values say nothing of beats
        let settings = match row.quantity {
            Q::Seconds => settings().collect(),
            _ => vec![Times::PLAIN],
        };
        for times in settings {
            for at in 0..=PLACES {
                let place = at as f64 / PLACES as f64;
                let value = row.value_at(place);
                for value in [value, row.nudge(value, 0.0, false)] {
                    // whatever stood there before
                    for before in [value, row.min, row.max] {
                        taken_back(&row, value, before, times);
                    }
                }
            }
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn what_a_field_shows_is_taken_back(row in 0..2 * params().count(), place in 0.0f64..=1.0, before in 0.0f64..=1.0, tempo in 20.0f64..300.0, in_beats: bool) {
        let row = all_rows().nth(row).unwrap();
        let beat_s = if in_beats { BEAT_S } else { 60.0 / tempo };
        let value = row.value_at(place);
        taken_back(&row, value, row.value_at(before), Times { beat_s, in_beats });
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
