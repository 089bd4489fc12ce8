//! The patch file: JSON in and out, with a published schema.

use serde::Deserialize;

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
    if format == 1 {
        // format 2 only adds fields that format 1 leaves at their defaults
        value["format"] = 2.into();
    }
    let mut track = serde_path_to_error::Track::new();
    let reader = serde_path_to_error::Deserializer::new(value, &mut track);
    let patch = Patch::deserialize(reader).map_err(|e: serde_json::Error| PatchError::Shape {
        path: track.path().to_string(),
        problem: e.to_string(),
    })?;
    validate(&patch)?;
    Ok(patch)
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
            "operator" => vec![format!("/$defs/Operator/properties/{leaf}")],
            "unit" => vec![format!("/$defs/Unit/properties/{leaf}")],
            "voice" => vec![format!("/$defs/Voice/properties/{leaf}")],
            _ => (0..5)
                .flat_map(|i| {
                    ["phase", "frequency", "ring", "amplitude", "output"]
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
