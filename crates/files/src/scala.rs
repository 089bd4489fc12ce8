//! Scala scale (`.scl`) and keyboard map (`.kbm`) files, as their author describes them (Op de Coul, "Scala scale file
//! format" and "Scala keyboard mappings").

use zolvik_patch::scale::{KeyMap, MAX_CENTS, MAX_DEGREES, Scale};

/// Largest file read, in bytes.
pub const MAX_BYTES: usize = 256 * 1024;

/// Why a file was not read. Lines count from 1.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum ScalaError {
    /// It is larger than any scale.
    #[error("the file has {0} bytes, far more than a scale; choose another")]
    Large(usize),
    /// It ends before everything is said.
    #[error("the file ends where the {0} should stand")]
    Ends(&'static str),
    /// A line is not what should stand there.
    #[error("line {line}: “{text}” is no {expected}")]
    Line {
        /// Which line.
        line: usize,
        /// What stands there.
        text: String,
        /// What should.
        expected: &'static str,
    },
    /// Fewer or more pitches than announced.
    #[error("the file announces {announced} pitches but has {actual}")]
    Count {
        /// In the line of the number.
        announced: usize,
        /// In the lines after it.
        actual: usize,
    },
    /// The map does not fit the scale.
    #[error("the map does not fit: {0}")]
    Fit(String),
}

/// Lines that are no comments, with their numbers.
fn lines(text: &str) -> impl Iterator<Item = (usize, &str)> {
    let all = text.trim_start_matches('\u{feff}').lines().enumerate();
    all.map(|(i, line)| (i + 1, line.trim()))
        .filter(|(_, line)| !line.starts_with('!'))
}

fn first_word(line: &str) -> &str {
    line.split_whitespace().next().unwrap_or("")
}

fn wrong(line: usize, text: &str, expected: &'static str) -> ScalaError {
    ScalaError::Line {
        line,
        text: text.chars().take(40).collect(),
        expected,
    }
}

/// Reads a scale. `name` is taken where the file gives no description.
///
/// # Errors
/// What is wrong, and in which line.
pub fn read_scale(text: &str, name: &str) -> Result<Scale, ScalaError> {
    if text.len() > MAX_BYTES {
        return Err(ScalaError::Large(text.len()));
    }
    let mut lines = lines(text);
    let (_, described) = lines.next().ok_or(ScalaError::Ends("description"))?;
    let mut lines = lines.filter(|(_, line)| !line.is_empty());
    let (at, count) = lines.next().ok_or(ScalaError::Ends("number of notes"))?;
    let announced: usize = first_word(count)
        .parse()
        .ok()
        .filter(|n| (1..=MAX_DEGREES).contains(n))
        .ok_or_else(|| wrong(at, count, "number of notes, 1 to 1024"))?;
    let cents = lines
        .map(|(at, line)| {
            pitch(first_word(line)).ok_or_else(|| wrong(at, line, "pitch such as 701.955 or 3/2"))
        })
        .collect::<Result<Vec<f64>, ScalaError>>()?;
    if cents.len() != announced {
        return Err(ScalaError::Count {
            announced,
            actual: cents.len(),
        });
    }
    let named = if described.is_empty() {
        name
    } else {
        described
    };
    Ok(Scale {
        name: named.chars().take(80).collect(),
        cents,
        map: KeyMap::default(),
    })
}

/// Cents where there is a point, else a ratio.
fn pitch(word: &str) -> Option<f64> {
    let cents = if word.contains('.') {
        word.parse::<f64>().ok()?
    } else {
        let (up, down) = word.split_once('/').unwrap_or((word, "1"));
        let (up, down): (u64, u64) = (up.parse().ok()?, down.parse().ok()?);
        if up == 0 || down == 0 {
            return None;
        }
        1200.0 * libm::log2(up as f64 / down as f64)
    };
    (cents.abs() <= MAX_CENTS).then_some(cents)
}

/// Reads a keyboard map.
///
/// # Errors
/// What is wrong, and in which line.
pub fn read_map(text: &str) -> Result<KeyMap, ScalaError> {
    if text.len() > MAX_BYTES {
        return Err(ScalaError::Large(text.len()));
    }
    let mut lines = lines(text).filter(|(_, line)| !line.is_empty());
    let mut number = |what: &'static str, range: (f64, f64)| -> Result<f64, ScalaError> {
        let (at, line) = lines.next().ok_or(ScalaError::Ends(what))?;
        let value = first_word(line).parse::<f64>().ok();
        let value = value.filter(|v| (range.0..=range.1).contains(v));
        value.ok_or_else(|| wrong(at, line, what))
    };
    let key = (0.0, 127.0);
    let size = number("size of the map, 0 to 128", (0.0, 128.0))? as usize;
    let mut map = KeyMap {
        first_key: number("first key, 0 to 127", key)? as u8,
        last_key: number("last key, 0 to 127", key)? as u8,
        middle_key: number("middle key, 0 to 127", key)? as u8,
        reference_key: number("reference key, 0 to 127", key)? as u8,
        reference_hz: number(
            "frequency of the reference key, 1 to 20000 Hz",
            (1.0, 20_000.0),
        )?,
        octave_degree: number("degree of the octave, 0 to 1024", (0.0, 1024.0))? as u16,
        degrees: vec![],
    };
    for (at, line) in lines.take(size) {
        map.degrees.push(match first_word(line) {
            "x" | "X" => None,
            word => {
                let degree = word.parse().ok();
                Some(degree.ok_or_else(|| wrong(at, line, "degree, nor x for a silent key"))?)
            }
        });
    }
    // entries left out at the end are silent keys
    map.degrees.resize(size, None);
    Ok(map)
}

/// Lays a scale on the keys by a map.
///
/// # Errors
/// If the map makes no sense for this scale.
pub fn lay(scale: &Scale, map: KeyMap) -> Result<Scale, ScalaError> {
    let laid = Scale {
        map,
        ..scale.clone()
    };
    laid.check().map_err(|e| ScalaError::Fit(e.to_string()))?;
    Ok(laid)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    const JUST: &str = "! just.scl\n!\nJust fifths\n 3\n!\n 5/4 third\n 701.955 fifth\n 2\n";
    const THIRD_CENTS: f64 = 386.313_713_864_834_8;

    #[test]
    fn a_scale_is_read_with_ratios_and_cents() {
        let scale = read_scale(JUST, "file").unwrap();
        assert_eq!(scale.name, "Just fifths");
        for (a, b) in scale.cents.iter().zip([THIRD_CENTS, 701.955, 1200.0]) {
            assert!((a - b).abs() < 1e-9, "{a}, {b}");
        }
        let nameless = read_scale(&JUST.replace("Just fifths", ""), "file").unwrap();
        assert_eq!(nameless.name, "file");
    }

    #[test]
    fn a_map_is_read_with_silent_keys() {
        let text = "! white keys\n4\n0\n127\n60\n69\n440.0\n3\n0\nx\n1\n";
        let map = read_map(text).unwrap();
        assert_eq!(map.degrees, [Some(0), None, Some(1), None]);
        let scale = read_scale(JUST, "").unwrap();
        // key 69 is the second of its pattern of four: silent, so no reference
        let why = lay(&scale, map.clone()).unwrap_err().to_string();
        assert!(why.contains("silent"), "{why}");
        let good = KeyMap {
            reference_key: 60,
            ..map
        };
        let hz = lay(&scale, good).unwrap().key_hz(62).unwrap();
        assert!((hz - 550.0).abs() < 1e-9, "a third above 440: {hz}");
    }

    #[rstest]
    #[case::empty("", "ends where the description")]
    #[case::no_count("name", "ends where the number of notes")]
    #[case::count_is_text("name\nmany\n1.0", "line 2: “many”")]
    #[case::pitch_is_text("! x\nname\n2\n100.0\nhigh\n", "line 5: “high”")]
    #[case::zero_ratio("name\n1\n0/4", "line 3")]
    #[case::not_a_number("name\n1\nNaN.", "line 3")]
    #[case::infinite("name\n1\n1e999.0", "line 3")]
    #[case::huge_pitch("name\n1\n99999999.0", "line 3")]
    #[case::too_few("name\n3\n100.0\n", "announces 3 pitches but has 1")]
    #[case::binary("\0\u{1}\u{2}\n\u{3}", "line 2")]
    fn faulty_scales_name_the_line(#[case] text: &str, #[case] words: &str) {
        let why = read_scale(text, "x").unwrap_err().to_string();
        assert!(why.contains(words), "“{why}” has “{words}”");
    }

    #[rstest]
    #[case::empty("", "ends where the size")]
    #[case::frequency("12\n0\n127\n60\n69\n-1\n12\n", "line 6: “-1”")]
    #[case::key("12\n0\n300\n60\n69\n440\n12\n", "line 3: “300”")]
    #[case::entry("2\n0\n127\n60\n69\n440\n12\n0\nhigh\n", "line 9: “high”")]
    #[case::not_a_number("2\n0\n127\n60\n69\nNaN\n12\n", "line 6")]
    fn faulty_maps_name_the_line(#[case] text: &str, #[case] words: &str) {
        let why = read_map(text).unwrap_err().to_string();
        assert!(why.contains(words), "“{why}” has “{words}”");
    }

    #[test]
    fn a_huge_file_is_refused_unread() {
        let text = "1\n".repeat(MAX_BYTES);
        assert_eq!(read_scale(&text, "x"), Err(ScalaError::Large(text.len())));
    }
}
