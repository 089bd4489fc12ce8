//! The patch file: JSON in and out, with a published schema.

use crate::patch::{FORMAT, Patch};
use std::collections::HashSet;
use std::sync::Arc;

use serde::Deserialize;

use crate::error::PatchError;
use crate::ids::ChainId;
use crate::plain::clean_name;
use crate::playing::differing;
use crate::validate::{states, validate};
use zolvik_json::{Form, Misread};

/// Largest patch file read, in bytes. Two states with eight full tables each, the most the application can make, are below.
pub const MAX_BYTES: usize = 8 << 20;
/// The first format whose envelopes are points.
const ENVELOPES_OF_POINTS: u64 = 3;
/// The first one whose effects have cuts that older files do without. All others only add fields, which older files leave at their defaults.
const CUTS_OF_EFFECTS: u64 = 11;
/// Most values in a file, which are all in memory before they are looked at. Two states with full phrases and articulations have some 300,000.
const MAX_VALUES: usize = 500_000;

/// What is looked at before anything else; the rest is passed over without taking memory.
#[derive(Deserialize)]
struct Head {
    format: Option<u64>,
}

/// Reads a patch from JSON text and checks it. A byte order mark is passed over; names are cleaned of what cannot be seen.
///
/// # Errors
/// What is wrong and at which path. Unknown fields are refused, newer formats too.
pub fn read(text: &str) -> Result<Patch, PatchError> {
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    if text.len() > MAX_BYTES {
        return Err(PatchError::TooMany {
            path: "file (bytes)".into(),
            max: MAX_BYTES,
            actual: text.len(),
        });
    }
    format_of(text)?;
    let actual = values_in(text);
    if actual > MAX_VALUES {
        return Err(PatchError::TooMany {
            path: "file (values)".into(),
            max: MAX_VALUES,
            actual,
        });
    }
    let mut tree = zolvik_json::tree(text).map_err(misread)?;
    migrate(&mut tree);
    // two states were kept in one file from format 3 on, each with a format of its own
    if let Some(other) = tree.get_mut("other") {
        migrate(other);
    }
    let mut patch: Patch = zolvik_json::read_tree(&tree).map_err(misread)?;
    say_present(&mut patch);
    clean_names(&mut patch);
    validate(&patch)?;
    states(&patch)?;
    heard(&mut patch);
    validate(&patch)?;
    Ok(patch)
}

/// Makes a patch, and its other state, as what is heard of it has it.
fn heard(patch: &mut Patch) {
    differing::from_file(patch);
    if let Some(other) = patch
        .other
        .as_mut()
        .filter(|o| o.playing.articulation.is_some())
    {
        differing::from_file(Arc::make_mut(other));
    }
}

/// Reads a patch from the bytes of a file.
///
/// # Errors
/// As [`read`]; also if the bytes are no UTF-8.
pub fn read_bytes(bytes: &[u8]) -> Result<Patch, PatchError> {
    let text = std::str::from_utf8(bytes).map_err(|e| PatchError::Shape {
        path: format!("byte {}", e.valid_up_to()),
        problem: "is not JSON in UTF-8; choose a patch file".into(),
    })?;
    read(text)
}

fn format_of(text: &str) -> Result<u64, PatchError> {
    let missing = || PatchError::Shape {
        path: "format".into(),
        problem: "is missing or no whole number; this is not a patch file".into(),
    };
    let head: Head = serde_json::from_str(text).map_err(|e| match e.classify() {
        serde_json::error::Category::Data => missing(),
        _ => PatchError::Shape {
            path: format!("line {}, column {}", e.line(), e.column()),
            problem: "is not JSON; choose a patch file".into(),
        },
    })?;
    let is_object = text.trim_start().starts_with('{');
    let format = head.format.filter(|_| is_object).ok_or_else(missing)?;
    if format > FORMAT.into() {
        return Err(PatchError::Newer {
            expected: FORMAT,
            actual: format,
        });
    }
    Ok(format)
}

fn misread(Misread { path, problem }: Misread) -> PatchError {
    PatchError::Shape { path, problem }
}

/// Says of a patch that was read, and of its other state, that it has the present format.
fn say_present(patch: &mut Patch) {
    patch.format = FORMAT;
    let older = patch.other.as_mut().filter(|o| o.format < FORMAT);
    if let Some(other) = older {
        Arc::make_mut(other).format = FORMAT;
    }
}

/// Makes a file of an older format one of the present format that sounds as it did.
fn migrate(patch: &mut serde_json::Value) {
    let format = patch.get("format").and_then(serde_json::Value::as_u64);
    let Some(format) = format.filter(|f| *f < FORMAT.into()) else {
        return;
    };
    if format < ENVELOPES_OF_POINTS {
        envelopes_of_points(patch);
    }
    if format < CUTS_OF_EFFECTS {
        effects_without_cuts(patch);
    }
    patch["format"] = FORMAT.into();
}

/// Rooms cut the late part alone, and copies had all of the lows.
fn effects_without_cuts(patch: &mut serde_json::Value) {
    let Some(finish) = patch.get_mut("finish").and_then(|f| f.as_object_mut()) else {
        return;
    };
    let effects = |chain: &mut serde_json::Value| {
        chain
            .get_mut("effects")
            .and_then(|e| e.as_array_mut().map(core::mem::take))
    };
    for chain in finish.values_mut() {
        let Some(mut list) = effects(chain) else {
            continue;
        };
        for kind in list.iter_mut().filter_map(|effect| effect.get_mut("kind")) {
            for (name, field, value) in AS_THEY_WERE {
                if let Some(part) = kind.get_mut(*name).and_then(|part| part.as_object_mut()) {
                    part.entry(*field).or_insert_with(value);
                }
            }
        }
        chain["effects"] = list.into();
    }
}

/// What effects of older files have: kind, field, value.
type Was = (&'static str, &'static str, fn() -> serde_json::Value);
const AS_THEY_WERE: &[Was] = &[
    ("reverb", "cuts", || "late".into()),
    ("chorus", "low_cut_hz", || 10.0.into()),
    ("flanger", "low_cut_hz", || 10.0.into()),
];

/// How many values a JSON text has at most, counted without taking memory.
fn values_in(text: &str) -> usize {
    let (mut inside, mut escaped, mut count) = (false, false, 1);
    for byte in text.bytes() {
        match byte {
            _ if escaped => escaped = false,
            b'\\' if inside => escaped = true,
            b'"' => inside = !inside,
            b',' | b'[' | b'{' if !inside => count += 1,
            _ => {}
        }
    }
    count
}

fn clean_names(patch: &mut Patch) {
    let clean = |name: &mut String| *name = clean_name(name);
    clean(&mut patch.meta.name);
    patch.meta.tags.iter_mut().for_each(clean);
    patch.units.iter_mut().for_each(|u| clean(&mut u.name));
    patch.groups.iter_mut().for_each(|g| clean(&mut g.name));
    patch.tables.iter_mut().for_each(|t| clean(&mut t.name));
    let sources = patch.movement.sources.iter_mut();
    sources.for_each(|s| clean(&mut s.name));
    for id in ChainId::ALL {
        let chain = patch.finish.chain_mut(id);
        clean(&mut chain.name);
        chain.effects.iter_mut().for_each(|e| clean(&mut e.name));
    }
    let mut switching = HashSet::new();
    for articulation in &mut patch.playing.articulations {
        clean(&mut articulation.name);
        // a key switches to one of them, the first; one that is none switches to none
        let is_free = |key: &u8| *key < 128 && switching.insert(*key);
        articulation.key = articulation.key.filter(is_free);
    }
    if let Some(phrase) = &mut patch.playing.phrase {
        clean(&mut Arc::make_mut(phrase).name);
    }
    if let Some(other) = &mut patch.other {
        clean_names(Arc::make_mut(other));
    }
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

/// Writes a patch as JSON text, one field a line.
pub fn write(patch: &Patch) -> String {
    let mut base = differing::for_file(patch);
    if let Some(other) = base
        .other
        .as_mut()
        .filter(|o| o.playing.articulation.is_some())
    {
        *other = Arc::new(differing::for_file(other));
    }
    let mut text = zolvik_json::text(&base, Form::Lines);
    text.push('\n');
    text
}

/// The JSON Schema of the patch file, with the catalogue's ranges.
#[cfg(feature = "schema")]
pub fn schema() -> serde_json::Value {
    let mut root = serde_json::to_value(schemars::schema_for!(Patch)).unwrap_or_default();
    for row in crate::params::catalogue::params() {
        // routes are one of several; every other part is a definition by its own name
        let place = match row.path.strip_prefix("send.") {
            None => format!("/$defs/{:?}/properties/{}", row.id.part, row.field),
            Some(kind) => {
                let kind = kind.trim_end_matches('.');
                let of = |i| {
                    format!(
                        "/$defs/Send/oneOf/{i}/properties/{kind}/properties/{}",
                        row.field
                    )
                };
                let found = (0..8).map(of).find(|place| root.pointer(place).is_some());
                found.unwrap_or_default()
            }
        };
        if let Some(serde_json::Value::Object(property)) = root.pointer_mut(&place) {
            property.insert("minimum".into(), row.min.into());
            property.insert("maximum".into(), row.max.into());
            property.insert("description".into(), row.help.into());
        }
    }
    root
}
