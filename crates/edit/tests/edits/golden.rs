//! Files as every version wrote them. What a file says is what is read, in every state it holds.

use std::path::PathBuf;

use rstest::rstest;
use serde_json::Value;
use zolvik_edit::{Edit, apply};
use zolvik_patch::document::FORMAT;
use zolvik_patch::json;

#[rstest]
fn every_format_ever_written_is_read_as_it_was(
    #[files("../patch/tests/golden/*.json")] file: PathBuf,
) {
    let text = std::fs::read_to_string(&file).unwrap();
    let old: Value = serde_json::from_str(&text).unwrap();
    let patch = json::read(&text).unwrap_or_else(|e| panic!("{}: {e}", file.display()));
    let now: Value = serde_json::from_str(&json::write(&patch)).unwrap();
    assert_eq!(now["format"], FORMAT);
    compare(&old, &now, &file.display().to_string());
    // and what was read is stable
    assert_eq!(json::read(&json::write(&patch)), Ok(patch));
}

/// Everything the old file says stands in the new one; envelopes of the first formats in their new form.
fn compare(old: &Value, now: &Value, path: &str) {
    match (old, now) {
        (Value::Object(old), _) if old.contains_key("decay_curve") => {
            let point = |i: usize, leaf: &str| now["points"][i][leaf].clone();
            let pairs = [
                ("attack_s", point(0, "time_s")),
                ("attack_curve", point(0, "curve")),
                ("decay_s", point(1, "time_s")),
                ("decay_curve", point(1, "curve")),
                ("sustain", point(1, "level")),
                ("release_s", point(2, "time_s")),
                ("release_curve", point(2, "curve")),
            ];
            assert_eq!(
                old.len(),
                pairs.len(),
                "{path}: fields of the first envelope"
            );
            for (field, read) in pairs {
                compare(&old[field], &read, &format!("{path}.{field}"));
            }
        }
        (Value::Object(old), Value::Object(now)) => {
            for (field, value) in old.iter().filter(|(field, _)| *field != "format") {
                let read = now
                    .get(field)
                    .unwrap_or_else(|| panic!("{path}.{field} is gone"));
                compare(value, read, &format!("{path}.{field}"));
            }
        }
        (Value::Array(old), Value::Array(now)) => {
            assert_eq!(old.len(), now.len(), "{path}");
            for (at, (old, now)) in old.iter().zip(now).enumerate() {
                compare(old, now, &format!("{path}[{at}]"));
            }
        }
        // 0 and 0.0 are one number
        (Value::Number(old), Value::Number(now)) => {
            assert_eq!(old.as_f64(), now.as_f64(), "{path}");
        }
        _ => assert_eq!(old, now, "{path}"),
    }
}

#[rstest]
#[case::first(1, &["sustain", "attack_curve", "index_rad", "level_db"])]
#[case::second(2, &["groups", "tables", "scale", "bars", "frequency", "ring", "amplitude", "semitones", "bus"])]
#[case::third(3, &["links", "other", "loop_from", "held", "in_beats", "velocity_times", "tables", "scale", "slot"])]
#[case::fourth(4, &["other", "noise", "sample", "filter", "shaper", "audio", "harmonics", "cycle", "unison", "own"])]
#[case::fifth(5, &["level", "pass_pan", "copies", "detune_share", "spread_share", "drift_share", "longest_ring_s", "other"])]
#[case::sixth(6, &["quality", "level", "pass_pan", "copies", "other"])]
#[case::seventh(7, &["movement", "links", "lfo", "steps", "random", "played", "envelope", "scaled_by", "cycle_beats", "tune_cents"])]
#[case::eighth(8, &["playing", "phrase", "arpeggio", "articulations", "macro", "differences"])]
#[case::ninth(9, &["finish", "effects", "bands", "mix", "second_db", "playing", "movement"])]
#[case::tenth(10, &["effect", "finish", "differences", "movement"])]
fn the_golden_files_of_a_format_hold_what_it_had(#[case] format: u64, #[case] features: &[&str]) {
    let folder = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../patch/tests/golden");
    let texts: Vec<String> = std::fs::read_dir(folder)
        .unwrap()
        .map(|file| std::fs::read_to_string(file.unwrap().path()).unwrap())
        .filter(|text| serde_json::from_str::<Value>(text).unwrap()["format"] == format)
        .collect();
    assert!(texts.len() >= 3, "{} files", texts.len());
    for feature in features {
        let field = format!("\"{feature}\":");
        assert!(
            texts.iter().any(|t| t.contains(&field)),
            "no {feature} in format {format}"
        );
    }
}

/// Writes the golden files of the present format anew; only for a format that was never shipped.
#[test]
#[ignore = "rewrites golden files"]
fn write_golden_files_of_the_present_format() {
    use zolvik_patch::testing::any_patch;
    let whole = |seed: &u64| {
        let patch = any_patch(*seed);
        let moves = patch.movement.sources.len() > 3 && patch.movement.links.len() > 5;
        let finished = patch.finish.effects().count() > 3
            && patch.finish.effects().any(|e| !e.bands().is_empty());
        patch.units.len() > 9
            && finished
            && patch.routes.len() > 14
            && !patch.groups.is_empty()
            && moves
    };
    for (n, seed) in (0..).filter(whole).take(3).enumerate() {
        let mut patch = any_patch(seed);
        let n = n + 1;
        // an effect that is off in an articulation alone
        let effect = patch.finish.effects().next().unwrap();
        let (effect, on) = (effect.id, !effect.on);
        patch.playing.articulations.truncate(3);
        let add = Edit::AddArticulation { name: "Own".into() };
        for edit in [add, Edit::SwitchEffect { effect, on }] {
            patch = apply(&patch, &edit).unwrap().0;
        }
        patch.meta.name = format!("Everything of format {FORMAT}, {n}");
        patch.tables = serde_json::from_str(
            r#"[{"id": 1, "name": "Own", "harmonics": 2, "cycles": "/38AAAAAAAAAQAAAAAAAIA=="}]"#,
        )
        .unwrap();
        patch.scale = serde_json::from_str(
            r#"{"name": "Five", "cents": [240.0, 480.0, 720.0, 960.0, 1200.0]}"#,
        )
        .unwrap();
        for unit in &mut patch.units {
            if let zolvik_patch::document::UnitKind::Sample(sample) = &mut unit.kind {
                sample.sound = serde_json::from_str(&format!(
                    r#"{{"own": {{"content": "{}", "name": "Stone", "frames": 4800, "rate_hz": 48000}}}}"#,
                    "ab".repeat(32)
                ))
                .unwrap();
            }
        }
        let mut other = any_patch(seed + 5000);
        other.slot = zolvik_patch::document::Slot::B;
        patch.slot = zolvik_patch::document::Slot::A;
        other.other = None;
        patch.other = Some(std::sync::Arc::new(other));
        zolvik_patch::validate::validate(&patch).unwrap();
        std::fs::write(
            format!("../patch/tests/golden/format-{FORMAT}-{n}.json"),
            json::write(&patch),
        )
        .unwrap();
    }
}

/// Effects of files from before their cuts sound as they did; new ones cut all.
#[test]
fn older_effects_keep_their_sound() {
    use zolvik_patch::document::ChainId;
    use zolvik_patch::finish::{Chorus, EffectName, Reverb};
    let mut patch = zolvik_patch::Patch::empty();
    for kind in [EffectName::Reverb, EffectName::Chorus, EffectName::Flanger] {
        let chain = ChainId::First;
        let at = None;
        patch = apply(&patch, &Edit::AddEffect { chain, kind, at })
            .unwrap()
            .0;
    }
    let new = json::write(&patch);
    let mut old: Value = serde_json::from_str(&new).unwrap();
    old["format"] = 10.into();
    for effect in old["finish"]["first"]["effects"].as_array_mut().unwrap() {
        for part in effect["kind"].as_object_mut().unwrap().values_mut() {
            let part = part.as_object_mut().unwrap();
            part.remove("cuts");
            if part.contains_key("voices") || part.contains_key("feedback") {
                part.remove("low_cut_hz");
            }
        }
    }
    let read = |text: &str| {
        let patch = json::read(text).unwrap();
        let effects: Vec<_> = patch.finish.first.effects.clone();
        let cuts = effects[0].kind.part().chosen(Reverb::CUTS);
        (cuts, effects[1].value(Chorus::LOW_CUT_HZ))
    };
    assert_eq!(read(&new), (Some(0), Some(150.0)));
    assert_eq!(read(&old.to_string()), (Some(1), Some(10.0)));
}
