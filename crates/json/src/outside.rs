//! Text from outside made safe to show: errors repeat little of what was sent, and hide nothing in it.

/// Most characters of a quotation in an error.
pub const MAX_QUOTED: usize = 60;

/// Directs how text runs, or is no visible sign at all.
fn is_hidden(c: char) -> bool {
    c.is_control() || is_direction(c) || is_zero_width(c)
}

/// Turns the direction of the text around it: a name with one of these can show as another.
pub fn is_direction(c: char) -> bool {
    matches!(c, '\u{61c}' | '\u{200e}' | '\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}')
}

/// Takes no room where it stands.
pub fn is_zero_width(c: char) -> bool {
    matches!(c, '\u{ad}' | '\u{180e}' | '\u{200b}'..='\u{200d}' | '\u{2060}'..='\u{2064}' | '\u{feff}' | '\u{2028}' | '\u{2029}')
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
