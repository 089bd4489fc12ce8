//! The patch file: JSON in and out, with a published schema.

use crate::document::{FORMAT, Patch};
use crate::error::PatchError;
use crate::validate::validate;

/// Largest patch file read, in bytes. A full patch with eight full tables is below.
pub const MAX_BYTES: usize = 4 << 20;

/// Reads a patch from JSON text and checks it.
///
/// # Errors
/// What is wrong and at which path. Unknown fields are refused, newer formats too.
pub fn read(text: &str) -> Result<Patch, PatchError> {
    if text.len() > MAX_BYTES {
        return Err(PatchError::TooMany {
            path: "file (bytes)".into(),
            max: MAX_BYTES,
            actual: text.len(),
        });
    }
    let mut value: serde_json::Value =
        serde_json::from_str(text).map_err(|e| PatchError::Shape {
            path: format!("line {}, column {}", e.line(), e.column()),
            problem: "is not JSON; choose a patch file".into(),
        })?;
    let format = value
        .get("format")
        .and_then(serde_json::Value::as_u64)
        .ok_or_else(|| PatchError::Shape {
            path: "format".into(),
            problem: "is missing or no whole number; this is not a patch file".into(),
        })?;
    if format > FORMAT.into() {
        return Err(PatchError::Newer {
            expected: FORMAT,
            actual: format,
        });
    }
    // read from text, not from the value: what is wrong then has a place, and the place gives the path
    let migrated;
    let text = if format < FORMAT.into() {
        // formats 2 and 4 only add fields, which older files leave at their defaults
        envelopes_of_points(&mut value);
        value["format"] = FORMAT.into();
        migrated = value.to_string();
        &migrated
    } else {
        text
    };
    let patch: Patch = serde_json::from_str(text).map_err(|e| PatchError::Shape {
        path: path_at(text, e.line(), e.column()),
        problem: e.to_string(),
    })?;
    validate(&patch)?;
    Ok(patch)
}

/// Format 3 keeps envelopes as points; those before had attack, decay, sustain and release.
fn envelopes_of_points(value: &mut serde_json::Value) {
    let units = value.get_mut("units").and_then(|u| u.as_array_mut());
    for unit in units.into_iter().flatten() {
        let Some(old) = unit.get_mut("envelope") else {
            continue;
        };
        let of = |key: &str| old.get(key).cloned().unwrap_or_default();
        let point = |time: &str, level: serde_json::Value, curve: &str| serde_json::json!({ "time_s": of(time), "level": level, "curve": of(curve) });
        if old.get("points").is_none() {
            *old = serde_json::json!({
                "delay_s": 0.0,
                "points": [
                    point("attack_s", 1.0.into(), "attack_curve"),
                    point("decay_s", of("sustain"), "decay_curve"),
                    point("release_s", 0.0.into(), "release_curve"),
                ],
                "held": 1,
            });
        }
    }
}

/// The path of what stands at a place of a JSON text, such as `units[2].name`. Line and column count from 1.
fn path_at(text: &str, line: usize, column: usize) -> String {
    let before: usize = text
        .split_inclusive('\n')
        .take(line - 1)
        .map(str::len)
        .sum();
    let end = (before + column).min(text.len());
    // each open list or object: where it stands inside
    let mut open: Vec<Step> = vec![];
    let (mut at, mut last) = (0, None);
    let bytes = text.as_bytes();
    while at < end {
        match bytes[at] {
            b'"' => {
                let from = at + 1;
                at = from;
                while at < bytes.len() && bytes[at] != b'"' {
                    at += if bytes[at] == b'\\' { 2 } else { 1 };
                }
                last = text.get(from..at);
                // a key that is itself at fault is named before its colon comes
                if at + 1 >= end && bytes.get(at + 1) == Some(&b':') {
                    set_key(&mut open, last);
                }
            }
            b':' => set_key(&mut open, last),
            b'{' => open.push(Step::Key(String::new())),
            b'[' => open.push(Step::Index(0)),
            b'}' | b']' if at + 1 < end => drop(open.pop()),
            b',' => {
                if let Some(Step::Index(i)) = open.last_mut() {
                    *i += 1;
                }
            }
            _ => {}
        }
        at += 1;
    }
    open.iter().fold(String::new(), |path, step| match step {
        Step::Key(key) if path.is_empty() || key.is_empty() => path + key,
        Step::Key(key) => format!("{path}.{key}"),
        Step::Index(i) => format!("{path}[{i}]"),
    })
}

enum Step {
    Key(String),
    Index(usize),
}

fn set_key(open: &mut [Step], key: Option<&str>) {
    if let (Some(Step::Key(place)), Some(key)) = (open.last_mut(), key) {
        key.clone_into(place);
    }
}

/// Writes a patch as JSON text, one field a line.
pub fn write(patch: &Patch) -> String {
    let mut text = serde_json::to_string_pretty(patch).unwrap_or_default();
    text.push('\n');
    text
}

/// The JSON Schema of the patch file, with the catalogue's ranges.
pub fn schema() -> serde_json::Value {
    let mut root = serde_json::to_value(schemars::schema_for!(Patch)).unwrap_or_default();
    for row in crate::catalogue::CATALOGUE {
        let Some((group, leaf)) = row.name.split_once('.') else {
            continue;
        };
        let places: &[String] = &match group {
            "audition" => vec![format!("/$defs/Audition/properties/{leaf}")],
            "envelope" => vec![format!("/$defs/Envelope/properties/{leaf}")],
            "point" => vec![format!("/$defs/Point/properties/{leaf}")],
            "group" => vec![format!("/$defs/Group/properties/{leaf}")],
            "operator" => vec![format!("/$defs/Operator/properties/{leaf}")],
            "cycle" => vec![format!("/$defs/Cycle/properties/{leaf}")],
            "harmonics" => vec![format!("/$defs/Harmonics/properties/{leaf}")],
            "noise" => vec![format!("/$defs/Noise/properties/{leaf}")],
            "sample" => vec![format!("/$defs/Sample/properties/{leaf}")],
            "filter" => vec![format!("/$defs/Filter/properties/{leaf}")],
            "shaper" => vec![format!("/$defs/Shaper/properties/{leaf}")],
            "unison" => vec![format!("/$defs/Unison/properties/{leaf}")],
            "unit" => vec![format!("/$defs/Unit/properties/{leaf}")],
            "voice" => vec![format!("/$defs/Voice/properties/{leaf}")],
            _ => (0..6)
                .flat_map(|i| {
                    ["phase", "frequency", "ring", "amplitude", "audio", "output"]
                        .map(|k| format!("/$defs/Send/oneOf/{i}/properties/{k}/properties/{leaf}"))
                })
                .collect(),
        };
        for place in places {
            if let Some(serde_json::Value::Object(property)) = root.pointer_mut(place) {
                property.insert("minimum".into(), row.min.into());
                property.insert("maximum".into(), row.max.into());
                property.insert("description".into(), row.help.into());
            }
        }
    }
    root
}
