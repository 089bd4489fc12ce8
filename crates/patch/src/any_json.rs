//! JSON of any part, by one reader and one writer: code that is generic over readers and writers is made anew for each, and was half of the
//! browser module.

use serde::{Deserialize, Serialize};
use serde_json::error::Category;
use serde_json::ser::{CompactFormatter, Formatter, PrettyFormatter};

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
    serde_json::from_str(text).map_err(|e| Misread {
        path: match e.classify() {
            Category::Data => visible(&path_at(text, e.line(), e.column()), MAX_PATH),
            _ => format!("line {}, column {}", e.line(), e.column()),
        },
        problem: quoted(&e.to_string()),
    })
}

/// What encloses a place in a text.
enum Within<'a> {
    /// An object, and the field that was named last.
    Object(&'a str),
    /// A list, and the position in it.
    List(usize),
}

/// The path to a place in a text that is JSON up to there. Found from the place, as a reader that keeps its path would be made anew for every type it reads.
fn path_at(text: &str, line: usize, column: usize) -> String {
    let start: usize = text
        .split_inclusive('\n')
        .take(line.saturating_sub(1))
        .map(str::len)
        .sum();
    let end = (start + column).min(text.len());
    let mut stack: Vec<Within> = vec![];
    let (mut at, mut names) = (0, false);
    let bytes = text.as_bytes();
    while at < end {
        match bytes[at] {
            b'{' => stack.push(Within::Object("")),
            b'[' => stack.push(Within::List(0)),
            b'}' | b']' => drop(stack.pop()),
            b',' => {
                if let Some(Within::List(position)) = stack.last_mut() {
                    *position += 1;
                }
            }
            b'"' => {
                let close = string_end(bytes, at + 1);
                if let (true, Some(Within::Object(name))) = (names, stack.last_mut()) {
                    *name = text.get(at + 1..close).unwrap_or_default();
                }
                at = close;
            }
            _ => {}
        }
        // a string names a field where it is the first after a brace or a comma
        if at < end && !bytes[at].is_ascii_whitespace() {
            names = matches!(bytes[at], b'{' | b',');
        }
        at += 1;
    }
    let mut path = String::new();
    for within in stack {
        match within {
            Within::Object("") => {}
            Within::Object(name) => {
                let dot = if path.is_empty() { "" } else { "." };
                path += &format!("{dot}{name}");
            }
            Within::List(position) => path += &format!("[{position}]"),
        }
    }
    match path.is_empty() {
        true => ".".into(),
        false => path,
    }
}

/// Where a string closes that begins at a place.
fn string_end(bytes: &[u8], mut at: usize) -> usize {
    while at < bytes.len() && bytes[at] != b'"' {
        at += if bytes[at] == b'\\' { 2 } else { 1 };
    }
    at
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

macro_rules! either {
    ($($verb:ident($($more:ident: $what:ty)?);)*) => {
        $(fn $verb<W: ?Sized + std::io::Write>(&mut self, to: &mut W $(, $more: $what)?) -> std::io::Result<()> {
            match &mut self.lines {
                Some(lines) => lines.$verb(to $(, $more)?),
                None => CompactFormatter.$verb(to $(, $more)?),
            }
        })*
    };
}

impl Formatter for Laid {
    either! {
        begin_array();
        end_array();
        begin_array_value(first: bool);
        end_array_value();
        begin_object();
        end_object();
        begin_object_key(first: bool);
        begin_object_value();
        end_object_value();
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
    #[case::lacks(r#"{"at":1,"list":[{"is":"with"}]}"#, "list", "missing field")]
    #[case::kind(r#"{"at":"x","list":[]}"#, "at", "invalid type")]
    #[case::deep(
        "{\"list\":[{\"is\":\"plain\"},\n {\"is\":\"[,{\\\"\"}],\"at\":1}",
        "list[1]",
        "unknown variant"
    )]
    #[case::end(r#"{"at":1,"list":[]} x"#, "line 1", "trailing")]
    #[case::none("{", "line 1", "EOF")]
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
