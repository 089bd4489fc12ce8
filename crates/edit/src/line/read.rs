//! Reading a line of strips.

use super::strip::{NewSend, NewStrip, plain_out};
use zolvik_patch::document::Unit;
use zolvik_patch::document::UnitId;
use zolvik_patch::document::{Filter, FilterType};
use zolvik_patch::document::{KindName, UnitKind};
use zolvik_patch::document::{Operator, TunedBy};
use zolvik_patch::document::{RouteKind, Send};
use zolvik_patch::document::{Shaper, ShaperCurve};
use zolvik_patch::envelope::Point;
use zolvik_patch::param::ParamId;
use zolvik_patch::pitch::note_key;
use zolvik_patch::text;
use zolvik_patch::wave::Wave;

/// A word and what it was understood as.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Word {
    pub text: String,
    pub meaning: String,
}

/// Why a line was not understood.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum LineError {
    /// A strip begins with something that is no kind of strip.
    #[error(
        "“{word}” is not a strip; begin with a wave such as saw or sine, or with noise, low, high, band, soft, hard or level"
    )]
    NoKind {
        /// The word.
        word: String,
    },
    /// A word says nothing about a strip.
    #[error("“{word}” was not understood: say x0.5, 220Hz, -7ct, -14dB, 30L, a50ms, “> 2 1.2rad”")]
    NoWord {
        /// The word.
        word: String,
    },
    /// A value that cannot be.
    #[error("“{word}”: {problem}")]
    NoValue {
        /// The word.
        word: String,
        /// What is wrong with it.
        problem: String,
    },
}

/// Reads a line: the strips it names, and what every word of each was understood as.
///
/// # Errors
/// If a word is not understood; the error names it.
pub fn read(line: &str) -> Result<Vec<(NewStrip, Vec<Word>)>, LineError> {
    let parts = parts(line);
    let mut list = vec![];
    for words in parts.split(|word| word == ";") {
        if !words.is_empty() {
            list.push(strip(words)?);
        }
    }
    Ok(list)
}

/// Words, quoted names and semicolons.
fn parts(line: &str) -> Vec<String> {
    let (mut all, mut word, mut quoted) = (vec![], String::new(), false);
    for c in line.chars() {
        let ends = !quoted && (c.is_whitespace() || c == ';' || c == '>');
        if ends && !word.is_empty() {
            all.push(core::mem::take(&mut word));
        }
        match c {
            '"' | '“' | '”' => {
                quoted = !quoted;
                word.push('"');
            }
            ';' | '>' if !quoted => all.push(c.into()),
            c if c.is_whitespace() && !quoted => {}
            c => word.push(c),
        }
    }
    if !word.is_empty() {
        all.push(word);
    }
    all
}

fn strip(words: &[String]) -> Result<(NewStrip, Vec<Word>), LineError> {
    let mut words = words;
    let mut said = vec![];
    let mut called = None;
    if let [first, rest @ ..] = words
        && let Some(number) = first.strip_suffix(':').and_then(|n| n.parse().ok())
        && !rest.is_empty()
    {
        (called, words) = (Some(number), rest);
        said.push(word(first, "how the others call it"));
    }
    let (mut unit, rest) = kind(words, &mut said)?;
    unit.name = String::new();
    let mut new = NewStrip {
        called,
        unit,
        sends: vec![],
        level_db: None,
        pan: None,
    };
    let mut rest = rest.iter().peekable();
    while let Some(text) = rest.next() {
        if text != ">" {
            let meaning = value(&mut new, text)?;
            said.push(word(text, meaning));
            continue;
        }
        let to = rest
            .next()
            .ok_or_else(|| LineError::NoWord { word: text.clone() })?;
        if matches!(to.as_str(), "out" | "→" | "0") {
            new.sends.push(NewSend {
                to: None,
                send: plain_out(),
            });
            said.push(word(&format!("> {to}"), "heard"));
            continue;
        }
        let number: u16 = to.parse().map_err(|_| LineError::NoValue {
            word: to.clone(),
            problem: "after > stands the number of a strip, or out".into(),
        })?;
        let kind = match rest.peek().map(|w| w.as_str()) {
            Some("fm" | "frequency") => RouteKind::Frequency,
            Some("ring") => RouteKind::Ring,
            Some("am" | "amplitude") => RouteKind::Amplitude,
            Some("audio" | "through") => RouteKind::Audio,
            _ => RouteKind::Phase,
        };
        let mut text = format!("> {to}");
        if kind != RouteKind::Phase
            && let Some(next) = rest.next()
        {
            text = format!("{text} {next}");
        }
        let mut send = Send::to_unit(kind, UnitId(number));
        let depth = kind.depth();
        if let Some(next) = rest.peek()
            && let Ok(depth_value) = text::read(depth, next, 0.0)
            && next.chars().any(|c| c.is_ascii_digit())
        {
            set(&mut send, depth, depth_value);
            text = format!("{text} {next}");
            rest.next();
        }
        // what goes through another one has its place there
        if kind == RouteKind::Audio
            && let Some(next) = rest.peek()
            && let Some(pan) = place(next)
        {
            set(&mut send, Send::PASS_PAN, pan);
            text = format!("{text} {next}");
            rest.next();
        }
        let what = match kind {
            RouteKind::Audio => format!("through {number}"),
            _ => format!("moves {number} ({})", kind.label()),
        };
        said.push(word(&text, what));
        new.sends.push(NewSend {
            to: Some(number),
            send,
        });
    }
    Ok((new, said))
}

fn word(text: &str, meaning: impl Into<String>) -> Word {
    Word {
        text: text.into(),
        meaning: meaning.into(),
    }
}

fn set(send: &mut Send, id: ParamId, value: f64) {
    use zolvik_patch::part::Part;
    if let Some(slot) = send.slot(id) {
        slot.write(value);
    }
}

/// What kind of strip the first words name.
fn kind<'a>(words: &'a [String], said: &mut Vec<Word>) -> Result<(Unit, &'a [String]), LineError> {
    let Some(first) = words.first() else {
        return Err(LineError::NoKind { word: ":".into() });
    };
    let id = UnitId(1);
    for count in (1..=words.len().min(3)).rev() {
        let name = words[..count].join(" ").to_lowercase();
        let wave = Wave::all().find(|wave| wave.label() == name);
        if let Some(wave) = wave {
            let mut unit = Unit::operator(id);
            said.push(word(
                &words[..count].join(" "),
                format!("wave: {}", wave.label()),
            ));
            if let UnitKind::Operator(operator) = &mut unit.kind {
                operator.wave = wave;
            }
            return Ok((unit, &words[count..]));
        }
    }
    let name = first.to_lowercase();
    let filter = match name.as_str() {
        "low" | "low-pass" | "lowpass" => Some(FilterType::Low),
        "high" | "high-pass" | "highpass" => Some(FilterType::High),
        "band" | "band-pass" | "bandpass" => Some(FilterType::Band),
        "notch" => Some(FilterType::Notch),
        "peak" => Some(FilterType::Peak),
        "comb" | "comb+" => Some(FilterType::CombPlus),
        "comb-" => Some(FilterType::CombMinus),
        "vowel" => Some(FilterType::Vowel),
        _ => None,
    };
    let curve = match name.as_str() {
        "soft" => Some(ShaperCurve::Soft),
        "hard" => Some(ShaperCurve::Hard),
        "fold" => Some(ShaperCurve::Fold),
        "rectify" => Some(ShaperCurve::Rectify),
        _ => None,
    };
    let named = |kind: KindName| kind.label().to_lowercase() == name;
    let unit = if let Some(response) = filter {
        let mut unit = Unit::new(id, KindName::Filter);
        unit.kind = UnitKind::Filter(Filter {
            response,
            ..Filter::default()
        });
        unit
    } else if let Some(curve) = curve {
        let mut unit = Unit::new(id, KindName::Shaper);
        unit.kind = UnitKind::Shaper(Shaper {
            curve,
            ..Shaper::default()
        });
        unit
    } else if let Some(kind) = KindName::ALL.iter().find(|kind| named(**kind)) {
        Unit::new(id, *kind)
    } else {
        return Err(LineError::NoKind {
            word: first.clone(),
        });
    };
    said.push(word(first, unit.kind.name().label().to_lowercase()));
    Ok((unit, &words[1..]))
}

/// Takes up a word about a strip; gives what it meant.
fn value(new: &mut NewStrip, text: &str) -> Result<String, LineError> {
    let unknown = || LineError::NoWord { word: text.into() };
    let plain = text.to_lowercase().replace('−', "-");
    if let Some(name) = text.strip_prefix('"') {
        let name = name.trim_end_matches('"');
        new.unit.name = zolvik_patch::plain::clean_name(name);
        return Ok("its name".into());
    }
    let is_operator = new.unit.oscillator().is_some();
    let is_filter = matches!(new.unit.kind, UnitKind::Filter(_));
    let digits = |rest: &str| rest.starts_with(|c: char| c.is_ascii_digit() || c == '.');
    let counted = ["copies", "copy", "voices", "voice"];
    if let Some(count) = counted.iter().find_map(|what| plain.strip_suffix(what)) {
        return put(new, Unit::COPIES, count, text);
    }
    let times = [('a', 0), ('d', 1), ('r', usize::MAX)];
    let timed = plain
        .chars()
        .next()
        .and_then(|c| times.iter().find(|(name, _)| *name == c));
    if let Some((_, at)) = timed
        && digits(&plain[1..])
        && (plain.ends_with('s')
            || plain.ends_with(|c: char| c.is_ascii_digit()) && note_key(&plain).is_none())
    {
        let points = &mut new.unit.envelope.points;
        let at = (*at).min(points.len() - 1);
        points[at].time_s = valued(Point::TIME_S, &timed_as(&plain), text)?;
        return Ok(format!(
            "{} of the envelope",
            ["attack", "decay", "release"][at.min(2)]
        ));
    }
    let is_share = |c: char| c == '%' || c.is_ascii_digit();
    if plain.starts_with('s') && digits(&plain[1..]) && plain.ends_with(is_share) {
        new.unit.envelope.points[1].level = valued(Point::LEVEL, &plain[1..], text)?;
        return Ok("sustain of the envelope".into());
    }
    if let Some(ratio) = plain
        .strip_prefix(['x', '×'])
        .or_else(|| plain.strip_suffix(['x', '×']))
        && is_operator
    {
        return put(new, Operator::RATIO, ratio, text);
    }
    if let Some(share) = plain.strip_prefix("res")
        && is_filter
    {
        return put(new, Filter::RESONANCE, share, text);
    }
    if plain.starts_with('q') && is_filter {
        return put(new, Filter::RESONANCE, &plain, text);
    }
    if plain.ends_with("ct") && is_operator {
        return put(new, Operator::DETUNE_CENTS, &plain, text);
    }
    if (plain.ends_with("st") || plain.ends_with("oct")) && is_operator {
        choose(new, TunedBy::Semitones);
        return put(new, Operator::SEMITONES, &plain, text);
    }
    let pitched =
        plain.ends_with("hz") || note_key(&plain).is_some() && !plain.ends_with(['l', 'r']);
    if (pitched || digits(&plain) && zolvik_patch::expression::evaluate(&plain).is_some())
        && is_filter
    {
        return put(new, Filter::CUTOFF_HZ, &plain, text);
    }
    if pitched && is_operator {
        choose(new, TunedBy::Fixed);
        return put(new, Operator::FIXED_HZ, &plain, text);
    }
    if let Some(pan) = place(text) {
        new.pan = Some(pan);
        return Ok("place".into());
    }
    let is_level = plain.starts_with('-') && digits(&plain[1..]) || plain.starts_with("-inf");
    if plain.ends_with("db") || is_level {
        new.level_db = Some(valued(Send::LEVEL_DB, &plain, text)?);
        return Ok("level on its way out".into());
    }
    Err(unknown())
}

/// A place between left and right; none where the word is something else.
fn place(text: &str) -> Option<f64> {
    let plain = text.to_lowercase();
    let has_number = plain.starts_with(|c: char| c.is_ascii_digit() || c == '.');
    let is_place =
        matches!(plain.as_str(), "c" | "l" | "r") || plain.ends_with(['l', 'r']) && has_number;
    is_place
        .then(|| text::read(Send::PAN, &plain, 0.0).ok())
        .flatten()
}

/// A time of the envelope: without a unit attack and decay are milliseconds and the release seconds, as the help says them.
fn timed_as(plain: &str) -> String {
    /// Nobody means a release of so many seconds.
    const LONGEST_S: f64 = 20.0;
    let number = plain.get(1..).unwrap_or_default();
    let is_long = zolvik_patch::expression::evaluate(number).is_some_and(|n| n > LONGEST_S);
    match (plain.ends_with('s'), plain.starts_with('r')) {
        (true, _) => number.into(),
        (false, true) if !is_long => format!("{number}s"),
        _ => format!("{number}ms"),
    }
}

fn choose(new: &mut NewStrip, by: TunedBy) {
    if let UnitKind::Operator(operator) = &mut new.unit.kind {
        operator.tuned_by = by;
    }
}

fn valued(id: ParamId, text: &str, whole: &str) -> Result<f64, LineError> {
    text::read(id, text, 0.0).map_err(|e| LineError::NoValue {
        word: whole.into(),
        problem: e.to_string(),
    })
}

fn put(new: &mut NewStrip, id: ParamId, text: &str, whole: &str) -> Result<String, LineError> {
    let value = valued(id, text, whole)?;
    let slot = new.unit.value_slot(id);
    slot.ok_or_else(|| LineError::NoWord { word: whole.into() })?
        .write(value);
    Ok(format!(
        "{} {}",
        zolvik_patch::catalogue::param(id).label.to_lowercase(),
        text::write(id, value)
    ))
}
