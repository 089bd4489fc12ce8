//! How much a patch may hold.

/// Most units.
pub const MAX_UNITS: usize = 16;
/// Most routes: as many as every unit into every unit, and each into the output.
pub const MAX_ROUTES: usize = MAX_UNITS * (MAX_UNITS + 1);
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
/// Most sources of movement.
pub const MAX_SOURCES: usize = 32;
/// Most links from sources to values.
pub const MAX_LINKS: usize = 64;
/// Most macros.
pub const MAX_MACROS: usize = 8;
/// Most notes of a phrase.
pub const MAX_PHRASE_NOTES: usize = 2000;
/// Shortest phrase, in beats.
pub const MIN_PHRASE_BEATS: f64 = 0.25;
/// Beats of a bar.
pub const BEATS_OF_A_BAR: f64 = 4.0;
/// Longest phrase, in beats.
pub const MAX_PHRASE_BEATS: f64 = 2048.0;
/// Most turns of one wheel in a phrase.
pub const MAX_TURNS: usize = 2000;
/// Most articulations.
pub const MAX_ARTICULATIONS: usize = 8;
/// Most differences of one.
pub const MAX_DIFFERENCES: usize = 2000;
/// Most points of a drawn cycle, and most steps.
pub const MAX_SHAPE_POINTS: usize = 64;
