//! Values as people type them.

use super::times::Times;
use super::write::{Written, fixed, trimmed, write_as, write_in};
use crate::kinds::filter::Filter;
use crate::laws::expression::evaluate;
use crate::laws::pitch::{key_hz, note_key};
use crate::movement::Link;
use crate::params::catalogue::param;
use crate::params::param::{Param, ParamId, Quantity};

/// Why a typed text was not taken. The field keeps its old value.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum TextError {
    /// The text is no value of this kind.
    #[error("“{text}” is not {kind}; type {examples}")]
    NoValue {
        /// What was typed.
        text: String,
        /// What it would have to be.
        kind: &'static str,
        /// Examples of what would do.
        examples: &'static str,
    },
    /// The value lies outside the range.
    #[error("{label} goes from {min} to {max}")]
    OutOfRange {
        /// The field's label.
        label: &'static str,
        /// Lowest value, written.
        min: String,
        /// Highest value, written in the same unit.
        max: String,
    },
}

/// Reads a typed text as a value. `current` serves entries that change it, such as `*2` or `/2`, and says which unit is shown.
///
/// # Errors
/// If the text is no value of this kind or lies outside the range; the message says what would do.
pub fn read(id: ParamId, text: &str, current: f64) -> Result<f64, TextError> {
    read_as(param(id), text, current, Times::PLAIN)
}

/// As [`read`], where a beat has a length in seconds: times may then be note lengths.
///
/// # Errors
/// As [`read`].
pub fn read_at(id: ParamId, text: &str, current: f64, beat_s: f64) -> Result<f64, TextError> {
    let in_beats = false;
    read_as(param(id), text, current, Times { beat_s, in_beats })
}

/// As [`read`], by a row that may be another than the catalogue's, where times may be shown in beats.
///
/// # Errors
/// As [`read`].
pub fn read_as(row: &Param, text: &str, current: f64, times: Times) -> Result<f64, TextError> {
    let typed = Typed::new(row, text, current, times);
    let value = typed.value().ok_or_else(|| {
        let (kind, examples) = expected(row.quantity);
        TextError::NoValue {
            text: text.trim().into(),
            kind,
            examples,
        }
    })?;
    typed.held(value).ok_or_else(|| {
        let (min, max) = ends(row, times);
        TextError::OutOfRange {
            label: row.label,
            min,
            max,
        }
    })
}

/// Whether an entry changes what is there, as `*2` does, and so is another value wherever another one stands.
pub fn is_relative(text: &str) -> bool {
    text.trim_start().starts_with(['*', '/'])
}

/// What is good to know of an entry before it is taken: that a share is less than a percent, that a level is silence, that another unit is meant
/// than the one shown. None where it says all itself, or is no value.
pub fn hint(row: &Param, text: &str, current: f64, times: Times) -> Option<String> {
    let typed = Typed::new(row, text, current, times);
    let value = typed.held(typed.value()?)?;
    match row.quantity {
        Quantity::Share | Quantity::Bipolar => {
            let number = evaluate(&typed.plain).filter(|n| *n != 0.0 && n.abs() < 1.0)?;
            let (less, meant) = (trimmed(number, 4, 0), trimmed(number * 100.0, 4, 0));
            Some(format!("{less}%; for {meant}% type {meant}"))
        }
        Quantity::Level if value <= row.min && !typed.plain.starts_with("-inf") => {
            let silent = fixed(row.min, 0);
            Some(format!("{silent} dB and less is silence, −∞ dB"))
        }
        Quantity::Seconds | Quantity::Hertz => {
            typed.in_smaller_unit()?;
            Some(format!("taken as {}", write_in(row, value, times)))
        }
        _ => None,
    }
}

/// An entry, with all that its meaning depends on.
struct Typed<'a> {
    row: &'a Param,
    /// The text in small letters, with plain signs.
    plain: String,
    current: f64,
    /// What stood there.
    shown: Written,
    times: Times,
}

impl<'a> Typed<'a> {
    fn new(row: &'a Param, text: &str, current: f64, times: Times) -> Self {
        let plain = text.trim().trim_start_matches('=').trim_start();
        let plain = plain
            .to_lowercase()
            .replace('−', "-")
            .replace(',', ".")
            .replace('∞', "inf");
        Typed {
            row,
            plain,
            current,
            shown: write_in(row, current, times),
            times,
        }
    }

    fn value(&self) -> Option<f64> {
        // typed over the number alone, with a unit, the one that stood there is left behind it
        let unit = self.shown.unit.to_lowercase();
        let before_unit = || self.said(self.plain.strip_suffix(&unit)?.trim_end());
        self.of_range()
            .or_else(|| self.said(&self.plain))
            .or_else(before_unit)
    }

    /// How far a link moves may be said as a share of all there is.
    fn of_range(&self) -> Option<f64> {
        let has_percent = matches!(
            self.row.quantity,
            Quantity::Share | Quantity::Bipolar | Quantity::Radians
        );
        let number = self.plain.strip_suffix('%')?;
        let share = evaluate(number.trim_end())? / 100.0;
        Some(share * self.row.max).filter(|_| self.row.id == Link::AMOUNT && !has_percent)
    }

    fn said(&self, plain: &str) -> Option<f64> {
        self.note_length(plain)
            .or_else(|| relative(plain, self.current))
            .or_else(|| self.bare(plain))
            .or_else(|| absolute(self.row, plain))
    }

    /// A note length, as a time or in beats.
    fn note_length(&self, plain: &str) -> Option<f64> {
        match self.row.quantity {
            Quantity::Seconds => read_beats(plain).map(|beats| beats * self.times.beat_s),
            Quantity::Beats => read_beats(plain),
            _ => None,
        }
    }

    /// A number without a unit, in the one that is shown.
    fn bare(&self, plain: &str) -> Option<f64> {
        let value = evaluate(plain)? * self.shown_unit(plain)?;
        let small = || self.in_smaller_unit();
        self.held(value).or_else(small).or(Some(value))
    }

    /// A number without a unit in a smaller one than that shown, where only that can be meant: 3000 where 12 kHz stands.
    fn in_smaller_unit(&self) -> Option<f64> {
        let small = match (self.row.quantity, self.shown.unit.as_str()) {
            (Quantity::Seconds, "s") => 0.001,
            (Quantity::Hertz, "kHz") => 1.0,
            _ => return None,
        };
        let number = evaluate(&self.plain)?;
        let fits = |unit: f64| self.held(number * unit).is_some();
        (!fits(self.shown_unit(&self.plain)?) && fits(small)).then_some(number * small)
    }

    /// What one of the unit shown is in the row's own, where that depends on what is shown.
    fn shown_unit(&self, plain: &str) -> Option<f64> {
        let has_sign = plain.starts_with(['+', '-']);
        match (self.row.quantity, self.shown.unit.as_str()) {
            (Quantity::Seconds, "ms") => Some(0.001),
            (Quantity::Seconds, "s") => Some(1.0),
            // beats, or a note length
            (Quantity::Seconds, _) => Some(self.times.beat_s),
            (Quantity::Hertz, "kHz") => Some(1000.0),
            (Quantity::Hertz, _) => Some(1.0),
            (Quantity::Beats, "bars") => Some(4.0),
            (Quantity::Pan, "L") if !has_sign => Some(-0.01),
            _ => None,
        }
    }

    /// The value as it is taken; none out of range. What is written as an end of the range is that end, and levels below the lowest are silence.
    fn held(&self, value: f64) -> Option<f64> {
        /// What is written alike is no further apart, as a share.
        const NEAR: f64 = 0.05;
        let row = self.row;
        // typed values may be written with fewer digits than the range's ends have
        let slack = (row.max - row.min) * 1e-9;
        let is_silence = row.quantity == Quantity::Level && value < row.min;
        if is_silence || (row.min - slack..=row.max + slack).contains(&value) {
            return Some(value.clamp(row.min, row.max));
        }
        let shown = |value| write_in(row, value, self.times);
        [row.min, row.max]
            .into_iter()
            .find(|end| (value - end).abs() <= NEAR * end.abs() && shown(*end) == shown(value))
    }
}

/// Both ends of a range, in one unit.
fn ends(row: &Param, times: Times) -> (String, String) {
    let both = |scale: f64, unit: &str| {
        let end = |value: f64| format!("{} {unit}", trimmed(value * scale, 5, 0));
        (end(row.min), end(row.max))
    };
    match row.quantity {
        _ if times.of(row) => both(1.0 / times.beat_s, "beats"),
        Quantity::Seconds if row.max < 1.0 => both(1000.0, "ms"),
        Quantity::Seconds => both(1.0, "s"),
        Quantity::Hertz => both(1.0, "Hz"),
        Quantity::Beats => both(1.0, "beats"),
        _ => {
            let end = |value| write_as(row, value).to_string();
            (end(row.min), end(row.max))
        }
    }
}

/// Reads a note length such as `1/8`, `1/4 dotted`, `1/16 triplet`, `2 beats` or `1 bar`, as beats.
fn read_beats(plain: &str) -> Option<f64> {
    for (unit, beats) in [("beats", 1.0), ("beat", 1.0), ("bars", 4.0), ("bar", 4.0)] {
        if let Some(number) = plain.strip_suffix(unit) {
            return Some(evaluate(number)? * beats);
        }
    }
    let (note, times) = [
        ("dotted", 1.5),
        ("triplet", 2.0 / 3.0),
        ("d", 1.5),
        ("t", 2.0 / 3.0),
    ]
    .iter()
    .find_map(|(name, times)| Some((plain.strip_suffix(name)?, *times)))
    .unwrap_or((plain, 1.0));
    let (one, part) = note.trim().split_once('/')?;
    let (one, part): (f64, f64) = (one.trim().parse().ok()?, part.trim().parse().ok()?);
    Some(one / part * 4.0 * times).filter(|beats| beats.is_finite())
}

fn relative(plain: &str, current: f64) -> Option<f64> {
    let (sign, rest) = (plain.chars().next()?, plain.get(1..)?);
    match sign {
        '*' => Some(current * evaluate(rest)?),
        '/' => Some(current / evaluate(rest)?).filter(|v| v.is_finite()),
        _ => None,
    }
}

fn absolute(row: &Param, plain: &str) -> Option<f64> {
    match row.quantity {
        Quantity::Ratio => {
            let interval = || {
                let units = [
                    ("octaves", 1200.0),
                    ("oct", 1200.0),
                    ("semitones", 100.0),
                    ("st", 100.0),
                    ("cents", 1.0),
                    ("ct", 1.0),
                ];
                united(plain, &units).map(|cents| libm::exp2(cents / 1200.0))
            };
            interval().or_else(|| scaled(plain, &[("×", 1.0), ("x", 1.0)]))
        }
        Quantity::Cents => scaled(
            plain,
            &[
                ("cents", 1.0),
                ("ct", 1.0),
                ("semitones", 100.0),
                ("st", 100.0),
                ("c", 1.0),
            ],
        ),
        Quantity::Offset | Quantity::Hertz => {
            let hz = scaled(plain, &[("khz", 1000.0), ("mhz", 0.001), ("hz", 1.0)]);
            // a fixed frequency may be named by its note
            let note = || note_key(plain).filter(|_| row.quantity == Quantity::Hertz);
            hz.or_else(|| note().map(|key| key_hz(key.into())))
        }
        Quantity::Semitones => scaled(
            plain,
            &[
                ("semitones", 1.0),
                ("st", 1.0),
                ("octaves", 12.0),
                ("oct", 12.0),
                ("cents", 0.01),
                ("ct", 0.01),
            ],
        ),
        Quantity::Seconds => scaled(plain, &[("ms", 0.001), ("sec", 1.0), ("s", 1.0)]),
        Quantity::Tempo => scaled(plain, &[("bpm", 1.0)]),
        Quantity::Beats => evaluate(plain),
        Quantity::Rate => {
            let period_s = || united(plain, &[("ms", 0.001), ("sec", 1.0), ("s", 1.0)]);
            let hz = || scaled(plain, &[("khz", 1000.0), ("hz", 1.0)]);
            let of_period = period_s().map(|s| 1.0 / s).filter(|hz| hz.is_finite());
            of_period.or_else(hz)
        }
        // a bare number in a percent field means percent
        Quantity::Share if row.id == Filter::RESONANCE && plain.starts_with('q') => {
            resonance_of(evaluate(plain.get(1..)?)?)
        }
        Quantity::Share | Quantity::Bipolar => Some(scaled(plain, &[("%", 1.0)])? / 100.0),
        Quantity::Radians => scaled(
            plain,
            &[
                ("rad", 1.0),
                ("deg", DEGREE),
                ("°", DEGREE),
                ("turns", 360.0 * DEGREE),
                // of a turn
                ("%", 3.6 * DEGREE),
            ],
        ),
        Quantity::Level if plain.starts_with("-inf") => Some(row.min),
        Quantity::Level | Quantity::Gain => scaled(plain, &[("db", 1.0)]),
        Quantity::Pan => read_pan(plain),
        Quantity::Note => note_key(plain).map(f64::from).or_else(|| whole(plain)),
        Quantity::Copies if matches!(plain, "voice" | "as voice" | "as the voice") => Some(0.0),
        Quantity::Count | Quantity::Copies => whole(plain),
        Quantity::Number => evaluate(plain),
        Quantity::Octaves => scaled(
            plain,
            &[
                ("octaves", 1.0),
                ("oct", 1.0),
                ("semitones", 1.0 / 12.0),
                ("st", 1.0 / 12.0),
            ],
        ),
    }
}

const DEGREE: f64 = core::f64::consts::PI / 180.0;

/// A whole number, with what is counted or without.
fn whole(plain: &str) -> Option<f64> {
    let counted = [
        "voices", "voice", "copies", "copy", "notes", "note", "stages", "×", "x",
    ];
    let number = counted.iter().find_map(|what| plain.strip_suffix(what));
    evaluate(number.unwrap_or(plain)).filter(|v| v.fract() == 0.0)
}

/// A number with one of some units.
fn united(plain: &str, units: &[(&str, f64)]) -> Option<f64> {
    let (unit, factor) = units.iter().find(|(unit, _)| plain.ends_with(unit))?;
    Some(evaluate(plain.strip_suffix(unit)?)? * factor)
}

fn scaled(plain: &str, units: &[(&str, f64)]) -> Option<f64> {
    match units.iter().any(|(unit, _)| plain.ends_with(unit)) {
        true => united(plain, units),
        false => evaluate(plain),
    }
}

/// The resonance of a quality factor: the damping is `sqrt(2) (1 - resonance)^1.5`, and the quality one by that.
fn resonance_of(q: f64) -> Option<f64> {
    let damping = 1.0 / q;
    let share = 1.0 - libm::pow(damping / core::f64::consts::SQRT_2, 1.0 / 1.5);
    Some(share).filter(|share| q > 0.0 && share.is_finite())
}

fn read_pan(plain: &str) -> Option<f64> {
    match plain {
        "c" | "centre" | "center" => return Some(0.0),
        "l" => return Some(-1.0),
        "r" => return Some(1.0),
        _ => {}
    }
    let number = plain.trim_matches(['l', 'r', '%', ' ']);
    let is_left = plain.ends_with('l') || plain.starts_with('l');
    let sign = if is_left { -1.0 } else { 1.0 };
    Some(sign * evaluate(number)? / 100.0)
}

/// What a value of a kind is called, and examples of what can be typed.
fn expected(quantity: Quantity) -> (&'static str, &'static str) {
    match quantity {
        Quantity::Ratio => ("a ratio", "3.5, 3:2 or 2.5 + 0.018, or 12 st"),
        Quantity::Cents => ("a number of cents", "-7 ct or 2 st"),
        Quantity::Offset => ("a number of hertz", "0.4 Hz or -1.5"),
        Quantity::Hertz => ("a frequency", "440, 1.2k or A3"),
        Quantity::Semitones => ("a number of semitones", "7 or -12, 2 oct or 50 ct"),
        Quantity::Seconds => ("a time", "340 ms, 1.2 s or 1/8 dotted"),
        Quantity::Tempo => ("a tempo", "96"),
        Quantity::Beats => ("a length", "1/8 dotted, 1/4 triplet or 2 bars"),
        Quantity::Rate => ("a rate", "0.3 Hz, or a period such as 4 s"),
        Quantity::Share => ("a percentage", "60 %"),
        Quantity::Bipolar => ("a percentage", "-15 %"),
        Quantity::Radians => ("an index", "2.1 rad, pi/2, 90 deg or 53 % of a turn"),
        Quantity::Level => ("a level", "-6 dB, or -inf for silence"),
        Quantity::Gain => ("a gain", "-6 dB"),
        Quantity::Pan => ("a place", "30 L, C or 30 R"),
        Quantity::Note => ("a note", "C#3, or a key from 0 to 127"),
        Quantity::Count => ("a whole number", "4"),
        Quantity::Copies => ("a whole number", "4, or “as voice”"),
        Quantity::Number => ("a number", "12 or 2.5"),
        Quantity::Octaves => ("a number of octaves", "-2 or 1.5, or 7 st"),
    }
}
