//! How long names and lists may be.

use crate::error::PatchError;
use crate::plain::clean_name;

/// Most characters of a patch name.
pub const MAX_NAME: usize = 80;

/// Most characters of a unit name or tag.
pub const MAX_UNIT_NAME: usize = 40;

/// Most tags.
pub const MAX_TAGS: usize = 16;

/// Most characters of the note.
pub const MAX_NOTE: usize = 2000;

/// Shortest stretch of a recording that can be played or looped, as a share of it.
pub const SHORTEST_STRETCH: f64 = 0.0005;

pub(super) fn at_most(path: &str, max: usize, actual: usize) -> Result<(), PatchError> {
    if actual > max {
        Err(PatchError::TooMany {
            path: path.into(),
            max,
            actual,
        })
    } else {
        Ok(())
    }
}

pub(super) fn named(path: &str, text: &str, max: usize) -> Result<(), PatchError> {
    if clean_name(text).is_empty() {
        return Err(PatchError::Shape {
            path: path.into(),
            problem: "is empty; give it a name".into(),
        });
    }
    at_most(path, max, text.chars().count())
}
