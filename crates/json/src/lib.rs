//! JSON of any part, by one reader and one writer: code that is generic over readers and writers is made anew for each, and was half of the
//! browser module.

mod misread;
pub mod outside;
pub mod tagged;
mod tree;
mod whole;

use serde::Serialize;
use serde::de::DeserializeOwned;
use serde_json::Value;
use serde_json::ser::{CompactFormatter, Formatter, PrettyFormatter};

pub use self::misread::Misread;
use self::outside::{quoted, visible};
use self::tree::Node;
use self::whole::Whole;

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
