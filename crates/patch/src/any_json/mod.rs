//! JSON of any part, by one reader and one writer: code that is generic over readers and writers is made anew for each, and was half of the
//! browser module.

mod misread;
pub mod tagged;
mod tree;
mod whole;

pub(crate) use tagged::kind_in_field;

use serde::Serialize;
use serde::de::DeserializeOwned;
use serde_json::Value;
use serde_json::ser::{CompactFormatter, Formatter, PrettyFormatter};

pub use self::misread::Misread;
use self::tree::Node;
use self::whole::Whole;
use crate::plain::{quoted, visible};

/// Most characters of a path that is told.
const MAX_PATH: usize = 100;

/// Reads a part from JSON text.
///
/// # Errors
/// If the text is no JSON, is not of this kind, or goes on after its end.
pub fn read<T: DeserializeOwned>(text: &str) -> Result<T, Misread> {
    read_tree(&tree(text)?)
}

/// Reads JSON text as what it is.
///
/// # Errors
/// If the text is no JSON, goes on after its end, or has a field twice.
pub fn tree(text: &str) -> Result<Value, Misread> {
    let read = serde_json::from_str(text).map(|Whole(tree)| tree);
    read.map_err(|error| Misread {
        path: format!("line {}, column {}", error.line(), error.column()),
        problem: quoted(&error.to_string()),
    })
}

/// Reads a part from what was read as JSON.
///
/// # Errors
/// If it is not of this kind.
pub fn read_tree<T: DeserializeOwned>(tree: &Value) -> Result<T, Misread> {
    T::deserialize(Node(tree)).map_err(|wrong| {
        let Misread { path, problem } = wrong.told();
        Misread {
            path: visible(&path, MAX_PATH),
            problem: quoted(&problem),
        }
    })
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

    use serde::Deserialize;

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
    #[serde(rename_all = "snake_case", remote = "Self")]
    enum Inner {
        Plain,
        With { level_db: f64, on: Option<bool> },
        Deep { inner: Box<Inner>, wave: Plain },
    }
    kind_in_field!(Inner, "is");

    /// The same by serde's own way.
    #[derive(Debug, PartialEq, Serialize, Deserialize)]
    #[serde(rename_all = "snake_case", tag = "is")]
    enum Usual {
        Plain,
        With { level_db: f64, on: Option<bool> },
        Deep { inner: Box<Usual>, wave: Plain },
    }

    #[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
    #[serde(rename_all = "snake_case")]
    enum Plain {
        Sine,
        Partials(u8, f32),
        Own { id: i64 },
        Named(String),
    }

    #[rstest::rstest]
    #[case(Plain::Sine)]
    #[case(Plain::Partials(7, 0.1))]
    #[case(Plain::Own { id: -3 })]
    #[case(Plain::Named("ä \u{1f33f}".into()))]
    fn kinds_are_written_and_read_as_by_the_usual_way(#[case] wave: Plain) {
        let inner = Inner::With {
            level_db: -0.1,
            on: Some(true),
        };
        let usual = Usual::With {
            level_db: -0.1,
            on: Some(true),
        };
        let ours = Inner::Deep {
            inner: Box::new(inner),
            wave: wave.clone(),
        };
        let theirs = Usual::Deep {
            inner: Box::new(usual),
            wave,
        };
        let written = text(&ours, Form::Dense);
        assert_eq!(written, serde_json::to_string(&theirs).unwrap());
        assert_eq!(read::<Inner>(&written), Ok(ours));
        assert_eq!(read::<Usual>(&written), Ok(theirs));
        assert_eq!(
            text(&Inner::Plain, Form::Dense),
            serde_json::to_string(&Usual::Plain).unwrap()
        );
    }

    #[rstest::rstest]
    #[case("-9007199254740993")]
    #[case("18446744073709551615")]
    #[case("0.1")]
    #[case("1e-320")]
    #[case("-0.0")]
    #[case("2.2250738585072011e-308")]
    #[case("123456789012345680000")]
    fn numbers_are_those_of_the_usual_reader(#[case] text: &str) {
        let ours: f64 = read(text).unwrap();
        let theirs: f64 = serde_json::from_str(text).unwrap();
        assert_eq!(ours.to_bits(), theirs.to_bits());
        assert_eq!(read::<u64>(text).ok(), serde_json::from_str(text).ok());
        assert_eq!(read::<i64>(text).ok(), serde_json::from_str(text).ok());
        assert_eq!(read::<f32>(text).ok(), serde_json::from_str(text).ok());
        assert!(read::<u8>(text).is_err());
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
    #[case::inside(
        r#"{"at":1,"list":[{"is":"plain"},{"is":"with","level_db":[]}]}"#,
        "list[1]",
        "level_db: invalid type"
    )]
    #[case::untold(r#"{"at":1,"list":[{"level_db":1}]}"#, "list[0]", "missing field")]
    #[case::number(r#"{"at":1,"list":[{"is":3}]}"#, "list[0]", "is: invalid type")]
    #[case::named(r#"{"at":1,"list":[],"named":{"x":300}}"#, "named.x", "invalid value")]
    #[case::list(r#"{"at":1,"list":{}}"#, "list", "invalid type")]
    #[case::whole("[1]", ".", "invalid type")]
    #[case::kind(r#"{"at":"x","list":[]}"#, "at", "invalid type")]
    #[case::deep(
        "{\"list\":[{\"is\":\"plain\"},\n {\"is\":\"[,{\\\"\"}],\"at\":1}",
        "list[1]",
        "unknown variant"
    )]
    #[case::twice("{\"at\":1,\n\"list\":[],\"at\":2}", "line 2", "stands twice")]
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
