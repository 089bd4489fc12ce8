//! JSON of any part, by one reader and one writer: code that is generic over readers and writers is made anew for each, and was half of the
//! browser module.

use serde::{Deserialize, Serialize};
use serde_json::ser::{Formatter, PrettyFormatter};

use crate::plain::{quoted, visible};

/// Most characters of a path that is told.
const MAX_PATH: usize = 100;

/// Where and why a text is not what it should be.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{path}: {problem}")]
pub struct Misread {
    /// Fields and positions from the root, such as `units[2].envelope`.
    pub path: String,
    /// What is wrong there.
    pub problem: String,
}

/// Reads a part from JSON text.
///
/// # Errors
/// If the text is no JSON, is not of this kind, or goes on after its end.
pub fn read<'a, T: Deserialize<'a>>(text: &'a str) -> Result<T, Misread> {
    let mut reader = serde_json::Deserializer::from_str(text);
    let mut track = serde_path_to_error::Track::new();
    let tracked = serde_path_to_error::Deserializer::new(&mut reader, &mut track);
    let mut erased = <dyn erased_serde::Deserializer>::erase(tracked);
    let part = erased_serde::deserialize::<T>(&mut erased);
    drop(erased);
    let part = part.map_err(|e| Misread {
        path: visible(&track.path().to_string(), MAX_PATH),
        problem: quoted(&e.to_string()),
    })?;
    reader.end().map_err(|e| Misread {
        path: format!("line {}, column {}", e.line(), e.column()),
        problem: "goes on after its end".into(),
    })?;
    Ok(part)
}

/// How a text is laid out: both by the same writer.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Form {
    /// Without a blank, for programs.
    Dense,
    /// One field a line, for people.
    Lines,
}

/// Writes a part as JSON text.
pub fn write<T: Serialize + ?Sized>(part: &T, form: Form) -> Vec<u8> {
    let lines = (form == Form::Lines).then(PrettyFormatter::new);
    let mut text = Vec::with_capacity(256);
    let mut writer = serde_json::Serializer::with_formatter(&mut text, Laid { lines });
    // memory takes everything, and none of our parts has keys that are no text
    match part.serialize(&mut writer) {
        Ok(()) => text,
        Err(_) => vec![],
    }
}

/// As [`write`], as a string.
pub fn text<T: Serialize + ?Sized>(part: &T, form: Form) -> String {
    String::from_utf8(write(part, form)).unwrap_or_default()
}

/// Both layouts as one type.
struct Laid {
    lines: Option<PrettyFormatter<'static>>,
}

macro_rules! laid {
    ($($verb:ident($($more:ident: $what:ty)?) $dense:literal;)*) => {
        $(fn $verb<W: ?Sized + std::io::Write>(&mut self, to: &mut W $(, $more: $what)?) -> std::io::Result<()> {
            match &mut self.lines {
                Some(lines) => lines.$verb(to $(, $more)?),
                None => laid!(@ to $dense $($more)?),
            }
        })*
    };
    (@ $to:ident "," $first:ident) => { if $first { Ok(()) } else { $to.write_all(b",") } };
    (@ $to:ident $dense:literal) => { $to.write_all($dense.as_bytes()) };
}

impl Formatter for Laid {
    laid! {
        begin_array() "[";
        end_array() "]";
        begin_array_value(first: bool) ",";
        end_array_value() "";
        begin_object() "{";
        end_object() "}";
        begin_object_key(first: bool) ",";
        begin_object_value() ":";
        end_object_value() "";
    }
}

#[cfg(test)]
mod tests {
    use std::collections::BTreeMap;

    use super::*;

    #[derive(Debug, PartialEq, Serialize, Deserialize)]
    #[serde(deny_unknown_fields)]
    struct Part {
        at: f64,
        list: Vec<Inner>,
        #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
        named: BTreeMap<String, u8>,
    }
    #[derive(Debug, PartialEq, Serialize, Deserialize)]
    #[serde(rename_all = "snake_case", tag = "is")]
    enum Inner {
        Plain,
        With { level_db: f64, on: Option<bool> },
    }

    fn part() -> Part {
        Part {
            at: 0.1 + 0.2,
            list: vec![
                Inner::Plain,
                Inner::With {
                    level_db: -6.5,
                    on: None,
                },
            ],
            named: [("a \"b\"".to_owned(), 3)].into(),
        }
    }

    #[test]
    fn both_layouts_are_those_of_the_usual_writer() {
        assert_eq!(
            text(&part(), Form::Dense),
            serde_json::to_string(&part()).unwrap()
        );
        assert_eq!(
            text(&part(), Form::Lines),
            serde_json::to_string_pretty(&part()).unwrap()
        );
        assert_eq!(text(&Vec::<u8>::new(), Form::Lines), "[]");
    }

    #[test]
    fn what_was_written_is_read_to_the_bit() {
        assert_eq!(read::<Part>(&text(&part(), Form::Lines)), Ok(part()));
    }

    #[rstest::rstest]
    #[case::field(r#"{"at":1,"list":[],"more":1}"#, "more", "unknown field")]
    #[case::lacks(r#"{"at":1,"list":[{"is":"with"}]}"#, "list[0]", "missing field")]
    #[case::kind(r#"{"at":"x","list":[]}"#, "at", "invalid type")]
    #[case::end(r#"{"at":1,"list":[]} x"#, "line 1", "goes on")]
    #[case::none("{", "", "EOF")]
    fn what_is_wrong_is_said_with_its_place(
        #[case] text: &str,
        #[case] path: &str,
        #[case] problem: &str,
    ) {
        let wrong = read::<Part>(text).unwrap_err();
        assert!(wrong.path.contains(path), "{wrong}");
        assert!(wrong.problem.contains(problem), "{wrong}");
    }
}
