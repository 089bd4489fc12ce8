//! Text from outside made safe to keep and to show: names without what cannot be seen, and errors that repeat little of what
//! was sent and hide nothing in it.

/// Most characters of a quotation in an error.
pub const MAX_QUOTED: usize = 60;

/// Directs how text runs, or is no visible sign at all.
fn is_hidden(c: char) -> bool {
    c.is_control() || is_direction(c) || is_zero_width(c)
}

/// Turns the direction of the text around it: a name with one of these can show as another.
fn is_direction(c: char) -> bool {
    matches!(c, '\u{61c}' | '\u{200e}' | '\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}')
}

fn is_zero_width(c: char) -> bool {
    matches!(c, '\u{ad}' | '\u{180e}' | '\u{200b}'..='\u{200d}' | '\u{2060}'..='\u{2064}' | '\u{feff}' | '\u{2028}' | '\u{2029}')
}

/// A name as it is kept: no control or direction signs, and nothing invisible at its ends.
pub fn clean_name(text: &str) -> String {
    let kept: String = text
        .chars()
        .filter(|c| !c.is_control() && !is_direction(*c))
        .collect();
    let blank = |c: char| c.is_whitespace() || is_zero_width(c);
    kept.trim_matches(blank).into()
}

/// Text from outside for an error: at most so many characters are shown, everything hidden in it is written out.
pub fn visible(text: &str, most: usize) -> String {
    let mut shown = String::new();
    let mut room = most;
    for c in text.chars() {
        let sign = match is_hidden(c) {
            true => c.escape_unicode().to_string(),
            false => c.to_string(),
        };
        let length = sign.chars().count();
        if length > room {
            shown.push('…');
            break;
        }
        room -= length;
        shown += &sign;
    }
    shown
}

/// A reader's message whose quotations (in back ticks or quotes) come from outside: each is shortened and made visible.
pub fn quoted(message: &str) -> String {
    let mut shown = String::new();
    let mut rest = message;
    while let Some(from) = rest.find(['`', '"']) {
        let (before, at) = rest.split_at(from);
        shown += &visible(before, usize::MAX);
        let mark = if at.starts_with('`') { '`' } else { '"' };
        let inside = &at[1..];
        // what was sent may hold the mark itself: the last one before the reader's own words ends it
        let end = match mark {
            '`' => inside.find("`, ").or_else(|| inside.rfind('`')),
            _ => inside.find("\", ").or_else(|| inside.rfind('"')),
        };
        let Some(end) = end else {
            rest = at;
            break;
        };
        shown.push(mark);
        shown += &visible(&inside[..end], MAX_QUOTED);
        shown.push(mark);
        rest = &inside[end + 1..];
    }
    shown + &visible(rest, 2 * MAX_QUOTED)
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
