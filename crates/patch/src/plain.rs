//! Names made safe to keep and to show: without what cannot be seen, and fit for file names.

use zolvik_json::outside::{is_direction, is_zero_width};

/// A name as it is kept: no control or direction signs, and nothing invisible at its ends.
pub fn clean_name(text: &str) -> String {
    let kept: String = text
        .chars()
        .filter(|c| !c.is_control() && !is_direction(*c))
        .collect();
    let blank = |c: char| c.is_whitespace() || is_zero_width(c);
    kept.trim_matches(blank).into()
}

/// A name with something after it, cut so that it stays a name: `Frost Fern copy`.
pub fn named_after(name: &str, after: &str, most: usize) -> String {
    let room = most.saturating_sub(after.chars().count() + 1);
    let kept: String = name.chars().take(room).collect();
    format!("{} {after}", kept.trim_end())
}

/// Names that some systems keep for themselves, whatever comes behind a dot.
const KEPT_BY_SYSTEMS: [&str; 6] = ["con", "prn", "aux", "nul", "com", "lpt"];

/// The stem of a safe file name: letters and digits in lower case, joined by dashes, in so many bytes; nothing if there are none. In lower case,
/// so that no two differ in that only.
pub fn file_stem(name: &str, most_bytes: usize) -> Option<String> {
    let words = name.split(|c: char| !c.is_alphanumeric());
    let words: Vec<&str> = words.filter(|w| !w.is_empty()).collect();
    let mut stem = words.join("-").to_lowercase();
    while stem.len() > most_bytes {
        stem.pop();
    }
    let stem = stem.trim_end_matches('-');
    let bare = stem.trim_end_matches(|c: char| c.is_ascii_digit());
    match KEPT_BY_SYSTEMS.contains(&bare) {
        _ if stem.is_empty() => None,
        true => Some(format!("{stem}-sound")),
        false => Some(stem.to_owned()),
    }
}
