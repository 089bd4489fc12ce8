//! The patch file, good and bad.

use proptest::prelude::*;
use rstest::rstest;
use zolvik_patch::document::{FORMAT, Quality};
use zolvik_patch::testing::{Dice, any_patch};
use zolvik_patch::{Patch, PatchError, json};

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn any_patch_comes_back_exactly(seed in any::<u64>()) {
        let patch = any_patch(seed);
        prop_assert_eq!(json::read(&json::write(&patch)), Ok(patch));
    }

    #[test]
    fn damaged_files_are_refused_without_a_panic(seed in any::<u64>()) {
        let mut dice = Dice(seed);
        let mut text = json::write(&any_patch(seed)).into_bytes();
        for _ in 0..1 + dice.below(4) {
            let at = dice.below(text.len());
            text[at] = dice.bits() as u8;
        }
        if let Ok(patch) = json::read(&String::from_utf8_lossy(&text)) {
            prop_assert!(zolvik_patch::validate::validate(&patch).is_ok());
        }
    }
}

#[rstest]
#[case::value_out_of_range(
    r#""time_s": 0.005"#,
    r#""time_s": -1"#,
    "units[0].envelope.points[0].time_s"
)]
#[case::unknown_field(
    r#""time_s": 0.005"#,
    r#""time_s": 0.005, "swing": 1"#,
    "units[0].envelope.points[0].swing"
)]
#[case::text_for_number(r#""polyphony": 16"#, r#""polyphony": "many""#, "voice.polyphony")]
#[case::route_from_nowhere(r#""from": 1"#, r#""from": 7"#, "routes[0].from")]
#[case::empty_name(r#""name": "Untitled""#, r#""name": "  ""#, "meta.name")]
fn a_fault_is_named_by_its_path(#[case] good: &str, #[case] bad: &str, #[case] path: &str) {
    let text = json::write(&Patch::empty());
    assert!(text.contains(good), "the empty patch has {good}");
    let error = json::read(&text.replacen(good, bad, 1))
        .unwrap_err()
        .to_string();
    assert!(error.contains(path), "“{error}” names {path}");
}

#[rstest]
#[case::foreign("{\"tempo\": 120}", "format")]
#[case::no_json("RIFF....WAVE", "line 1")]
#[case::empty("", "not JSON")]
fn foreign_files_are_recognised(#[case] text: &str, #[case] words: &str) {
    let error = json::read(text).unwrap_err().to_string();
    assert!(error.contains(words), "{error}");
}

#[test]
fn newer_and_oversized_files_are_refused() {
    let newer = json::write(&Patch::empty()).replacen(
        &format!("\"format\": {FORMAT}"),
        "\"format\": 99",
        1,
    );
    assert_eq!(
        json::read(&newer),
        Err(PatchError::Newer {
            expected: FORMAT,
            actual: 99
        })
    );
    let big = " ".repeat(json::MAX_BYTES + 1);
    assert!(matches!(json::read(&big), Err(PatchError::TooMany { .. })));
}

#[test]
fn the_schema_carries_the_catalogues_ranges() {
    let schema = json::schema();
    let property = |path: &str| {
        schema
            .pointer(path)
            .unwrap_or_else(|| panic!("no {path}"))
            .clone()
    };
    assert_eq!(
        property("/$defs/VoiceSettings/properties/polyphony")["maximum"],
        32.0
    );
    assert_eq!(property("/$defs/Point/properties/level")["minimum"], 0.0);
    let text = schema.to_string();
    assert!(
        text.contains("Modulation index") && text.contains("\"maximum\":40.0"),
        "routes too"
    );
}

#[test]
fn a_file_of_the_first_format_is_read_as_it_sounded() {
    let now = json::write(&Patch::empty());
    let mut old: serde_json::Value = serde_json::from_str(&now).unwrap();
    old["format"] = 1.into();
    old["voice"].as_object_mut().unwrap().remove("quality");
    let operator = old["units"][0]["kind"]["operator"].as_object_mut().unwrap();
    for new in [
        "tuned_by",
        "semitones",
        "fixed_hz",
        "wave",
        "position",
        "width",
    ] {
        operator.remove(new).expect("a field of format 2");
    }
    let env = old["units"][0]["envelope"].take();
    let of = |i: usize, leaf: &str| env["points"][i][leaf].clone();
    old["units"][0]["envelope"] = serde_json::json!({
        "attack_s": of(0, "time_s"), "attack_curve": of(0, "curve"),
        "decay_s": of(1, "time_s"), "decay_curve": of(1, "curve"), "sustain": of(1, "level"),
        "release_s": of(2, "time_s"), "release_curve": of(2, "curve"),
    });
    let unit = old["units"][0].as_object_mut().unwrap();
    for new in ["velocity_times", "key_level_db", "key_times"] {
        unit.remove(new).expect("a field of format 3");
    }
    let audition = old["audition"].as_object_mut().unwrap();
    audition.remove("tempo_bpm").expect("a field of format 3");
    let output = old["routes"][0]["send"]["output"].as_object_mut().unwrap();
    output.remove("bus").expect("a field of format 2");
    // quality was as it is said until format 6 could leave it to the keys
    let mut same = Patch::empty();
    same.voice.quality = Quality::X1;
    assert_eq!(json::read(&old.to_string()), Ok(same));
}

#[rstest]
#[case::table_that_is_not_there(
    r#""wave": {
            "shape": "sine"
          }"#,
    r#""wave": { "own": 3 }"#,
    "wave.own"
)]
#[case::bar_too_high(
    r#""wave": {
            "shape": "sine"
          }"#,
    r#""wave": { "bars": { "amplitudes": [0.5, 1.5], "phases_turns": [] } }"#,
    "amplitudes[1]"
)]
#[case::unknown_shape(r#""shape": "sine""#, r#""shape": "wobble""#, "wave.shape")]
#[case::broken_table(
    r#""routes": ["#,
    r#""tables": [{"id": 1, "name": "x", "harmonics": 4, "cycles": "AAA"}], "routes": ["#,
    "tables[0].cycles: "
)]
#[case::half_a_cycle(
    r#""routes": ["#,
    r#""tables": [{"id": 1, "name": "x", "harmonics": 4, "cycles": "AAAA"}], "routes": ["#,
    "tables[0].cycles: "
)]
fn faulty_waves_are_named_by_their_path(#[case] good: &str, #[case] bad: &str, #[case] path: &str) {
    let text = json::write(&Patch::empty());
    let damaged = text.replacen(good, bad, 1);
    assert_ne!(text, damaged, "the empty patch has {good}");
    let error = json::read(&damaged).unwrap_err().to_string();
    assert!(error.contains(path), "“{error}” names {path}");
}

#[test]
fn a_fault_of_the_second_state_says_so() {
    let mut patch = Patch::empty();
    patch.other = Some(std::sync::Arc::new(Patch::empty()));
    let two = |text: &str, good: &str, bad: &str| {
        let at = text.rfind(good).unwrap();
        json::read(&format!("{}{bad}{}", &text[..at], &text[at + good.len()..]))
            .unwrap_err()
            .to_string()
    };
    let text = json::write(&patch);
    let range = two(&text, "\"time_s\": 0.005", "\"time_s\": -1");
    assert!(
        range.starts_with("at other.units[0].envelope.points[0].time_s:"),
        "{range}"
    );
    let name = two(&text, "\"name\": \"Untitled\"", "\"name\": \"\u{200b}\"");
    assert!(name.starts_with("at other.meta.name:"), "{name}");
    let newer = two(&text, &format!("\"format\": {FORMAT}"), "\"format\": 99");
    assert!(newer.starts_with("at other: format 99"), "{newer}");
    let route = two(&text, "\"from\": 1", "\"from\": 7");
    assert!(route.starts_with("at other.routes[0].from:"), "{route}");
}

#[test]
fn a_byte_order_mark_is_passed_over_and_broken_utf_8_refused() {
    let text = json::write(&Patch::empty());
    assert_eq!(json::read(&format!("\u{feff}{text}")), Ok(Patch::empty()));
    let mut bytes = text.clone().into_bytes();
    assert_eq!(json::read_bytes(&bytes), Ok(Patch::empty()));
    let at = text.find("Untitled").unwrap();
    bytes[at] = 0xff;
    let error = json::read_bytes(&bytes).unwrap_err().to_string();
    assert!(
        error.contains(&format!("byte {at}")) && error.contains("UTF-8"),
        "{error}"
    );
}

#[test]
fn names_lose_what_cannot_be_seen() {
    let mut patch = Patch::empty();
    patch.meta.name = "\u{200b} Frost\u{7}\u{202e} Fern\u{feff}".into();
    patch.units[0].name = "Bo\u{0}dy ".into();
    let read = json::read(&json::write(&patch)).unwrap();
    assert_eq!(
        (read.meta.name.as_str(), read.units[0].name.as_str()),
        ("Frost Fern", "Body")
    );
}

#[test]
fn errors_do_not_repeat_long_input() {
    let long = "\u{202e}evil".repeat(4000);
    let text = json::write(&Patch::empty()).replacen(
        "\"format\"",
        &format!("\"{long}\": 1, \"format\""),
        1,
    );
    let error = json::read(&text).unwrap_err().to_string();
    assert!(
        error.chars().count() < 500,
        "{} characters",
        error.chars().count()
    );
    assert!(
        !error.contains('\u{202e}') && error.contains("unknown field"),
        "{error}"
    );
}

#[test]
fn the_largest_patch_that_can_be_made_is_read_back() {
    use zolvik_patch::document::{MAX_UNITS, Unit, UnitId};
    use zolvik_patch::wave::{
        Bars, MAX_BARS, MAX_HARMONICS, MAX_TABLE_POINTS, MAX_TABLES, OwnTable, Points, TableId,
        Wave,
    };
    let mut patch = Patch::empty();
    let full = Points(vec![-12_345i16; 2 * MAX_TABLE_POINTS].into());
    patch.tables = (1..=MAX_TABLES as u16)
        .map(|id| OwnTable {
            id: TableId(id),
            name: "x".repeat(40),
            harmonics: MAX_HARMONICS as u16,
            cycles: full.clone(),
        })
        .collect();
    let mut bars = Bars::single();
    (1..=MAX_BARS).for_each(|n| bars.set(n, 0.123_456_789_012_345, 0.987_654_321_098_765));
    patch.units = (1..=MAX_UNITS as u16)
        .map(|n| Unit::operator(UnitId(n)))
        .collect();
    for unit in &mut patch.units {
        unit.oscillator_mut().unwrap().wave = Wave::Bars(bars.clone());
    }
    patch.meta.note = "\u{1}".repeat(2000);
    patch.other = Some(std::sync::Arc::new(patch.clone()));
    let text = json::write(&patch);
    assert!(
        text.len() > 5 << 20,
        "as large as it was measured: {}",
        text.len()
    );
    assert!(text.len() < json::MAX_BYTES, "{} bytes", text.len());
    assert_eq!(json::read(&text), Ok(patch));
}

#[test]
fn a_file_of_tiny_objects_is_refused_by_their_number() {
    for format in [1, 4] {
        let tiny = "{\"\":{}},".repeat(700_000);
        let text = format!("{{\"format\": {format}, \"units\": [{}{{}}]}}", tiny);
        let error = json::read(&text).unwrap_err();
        assert!(
            matches!(&error, PatchError::TooMany { path, .. } if path == "file (values)"),
            "{error}"
        );
    }
}
