//! Values as people write them, in and out. The unit of each parameter comes from the catalogue.

use crate::catalogue::param;
use crate::param::{Param, ParamId, Quantity};
use serde::{Deserialize, Serialize};

use crate::expression::evaluate;
use crate::kinds::filter::Filter;
use crate::movement::Link;
use crate::pitch::{key_hz, note_key, note_name};

/// A value in words: number and unit apart, so that the screen can set them differently.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Written {
    /// The number, with a true minus sign.
    pub number: String,
    /// The unit, may be empty.
    pub unit: String,
}

impl core::fmt::Display for Written {
    fn fmt(&self, f: &mut core::fmt::Formatter<'_>) -> core::fmt::Result {
        let gap = if self.unit.is_empty() { "" } else { " " };
        write!(f, "{}{gap}{}", self.number, self.unit)
    }
}

/// Writes a time as a note length, where it is one to a thousandth; else in beats. `beat_s` is a beat's length.
pub fn write_beats(time_s: f64, beat_s: f64) -> Written {
    let beats = time_s / beat_s;
    let written = |number: String, unit: &str| Written {
        number,
        unit: unit.into(),
    };
    for (name, times) in [("", 1.0), (" dotted", 1.5), (" triplet", 2.0 / 3.0)] {
        for part in [1, 2, 4, 8, 16, 32, 64] {
            let length = 4.0 / f64::from(part) * times;
            if (beats / length - 1.0).abs() < 1e-3 {
                return written(format!("1/{part}"), name.trim());
            }
        }
    }
    written(trimmed(beats, 3, 0), "beats")
}

/// Writes a length in beats as a note length, or in bars where it is whole ones.
pub fn write_length(beats: f64) -> Written {
    let bars = beats / 4.0;
    if bars >= 2.0 && (bars - libm::round(bars)).abs() < 1e-6 {
        return Written {
            number: format!("{bars:.0}"),
            unit: "bars".into(),
        };
    }
    write_beats(beats, 1.0)
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

/// Why a typed text was not taken. The field keeps its old value.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum TextError {
    /// The text is no value of this kind.
    #[error("“{text}” is no value for {label}; type {expected}")]
    NoValue {
        /// What was typed.
        text: String,
        /// The field's label.
        label: &'static str,
        /// Examples of what would do.
        expected: &'static str,
    },
    /// The value lies outside the range.
    #[error("{label} goes from {min} to {max}")]
    OutOfRange {
        /// The field's label.
        label: &'static str,
        /// Lowest value, written.
        min: String,
        /// Highest value, written.
        max: String,
    },
}

/// Writes a value.
pub fn write(id: ParamId, value: f64) -> Written {
    write_as(param(id), value)
}

/// Writes a value as a row says, which may be another than the catalogue's: a link's amount is written as what it moves.
pub fn write_as(row: &Param, value: f64) -> Written {
    let (number, unit) = match row.quantity {
        Quantity::Ratio => (trimmed(value, row.decimals, 2), "×"),
        Quantity::Cents => (signed(value, row.decimals), "ct"),
        Quantity::Offset => (signed(value, row.decimals), "Hz"),
        Quantity::Hertz if value >= 10_000.0 => (trimmed(value / 1000.0, 4, 1), "kHz"),
        Quantity::Hertz => (trimmed(value, 3, 1), "Hz"),
        Quantity::Semitones => (signed_trimmed_to(value, row.decimals), "st"),
        Quantity::Seconds => seconds(value),
        Quantity::Tempo => (trimmed(value, row.decimals, 0), "bpm"),
        Quantity::Beats => return write_length(value),
        Quantity::Rate => (trimmed(value, if value < 10.0 { 3 } else { 1 }, 1), "Hz"),
        Quantity::Share => (trimmed(value * 100.0, 1, 0), "%"),
        Quantity::Bipolar => (signed_trimmed(value * 100.0), "%"),
        Quantity::Radians => (trimmed(value, 3, row.decimals), "rad"),
        Quantity::Level if value <= row.min => ("−∞".into(), "dB"),
        Quantity::Level | Quantity::Gain => (signed(value, row.decimals), "dB"),
        Quantity::Pan => pan(value),
        Quantity::Note => (note_name(value as i32), ""),
        Quantity::Copies if value == 0.0 => ("as voice".into(), ""),
        Quantity::Count | Quantity::Copies => (format!("{value:.0}"), ""),
        Quantity::Number => (trimmed(value, row.decimals, 0), ""),
        Quantity::Octaves => (signed_trimmed_to(value, row.decimals), "oct"),
    };
    Written {
        number,
        unit: unit.into(),
    }
}

/// A level in words, such as `−6.0 dB`; what lies below -150 is silence.
pub fn decibels(db: f64, unit: &str) -> String {
    match db < -150.0 {
        true => format!("−∞ {unit}"),
        false => format!("{} {unit}", fixed(db, 1)),
    }
}

/// A change of level with its sign, such as `+1.2 dB`.
pub fn signed_decibels(db: f64) -> String {
    let tenths = libm::round(db * 10.0) / 10.0;
    let sign = if tenths > 0.0 { "+" } else { "" };
    format!("{sign}{} dB", fixed(tenths + 0.0, 1))
}

/// Reads a typed text as a value. `current` serves entries that change it, such as `*2` or `/2`.
///
/// # Errors
/// If the text is no value of this kind or lies outside the range; the message says what would do.
pub fn read(id: ParamId, text: &str, current: f64) -> Result<f64, TextError> {
    read_at(id, text, current, crate::envelope::BEAT_S)
}

/// As [`read`], where a beat has a length in seconds: times may then be note lengths.
///
/// # Errors
/// As [`read`].
pub fn read_at(id: ParamId, text: &str, current: f64, beat_s: f64) -> Result<f64, TextError> {
    read_as(param(id), text, current, beat_s)
}

/// As [`read_at`], by a row that may be another than the catalogue's.
///
/// # Errors
/// As [`read`].
pub fn read_as(row: &Param, text: &str, current: f64, beat_s: f64) -> Result<f64, TextError> {
    let plain = text
        .trim()
        .trim_start_matches('=')
        .trim_start()
        .to_lowercase()
        .replace('−', "-")
        .replace(',', ".")
        .replace('∞', "inf");
    let no_value = || TextError::NoValue {
        text: text.trim().into(),
        label: row.label,
        expected: expected(row.quantity),
    };
    let read = |plain: &str| {
        let note = match row.quantity {
            Quantity::Seconds => read_beats(plain).map(|beats| beats * beat_s),
            Quantity::Beats => read_beats(plain),
            _ => None,
        };
        note.or_else(|| relative(plain, current))
            .or_else(|| absolute(row, plain))
    };
    // typed over the number alone, with a unit, the one that stood there is left behind it
    let unit = write_as(row, current).unit.to_lowercase();
    let alone = || read(plain.strip_suffix(&unit)?.trim_end());
    // how far a link moves may be said as a share of all there is
    let own_percent = matches!(
        row.quantity,
        Quantity::Share | Quantity::Bipolar | Quantity::Radians
    );
    let of_range = || {
        let number = plain.strip_suffix('%')?;
        Some(evaluate(number.trim_end())? / 100.0 * row.max)
            .filter(|_| row.id == Link::AMOUNT && !own_percent)
    };
    let value = of_range()
        .or_else(|| read(&plain))
        .or_else(alone)
        .ok_or_else(no_value)?;
    // typed values may be written with fewer digits than the range's ends have
    let slack = (row.max - row.min) * 1e-9;
    if !(row.min - slack..=row.max + slack).contains(&value) {
        let bound = |v| write_as(row, v).to_string();
        return Err(TextError::OutOfRange {
            label: row.label,
            min: bound(row.min),
            max: bound(row.max),
        });
    }
    Ok(value.clamp(row.min, row.max))
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

fn whole(plain: &str) -> Option<f64> {
    evaluate(plain).filter(|v| v.fract() == 0.0)
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

/// Writes a value for typing on: with as many digits as it has, and its unit.
pub fn write_exact(id: ParamId, value: f64) -> String {
    write_exact_as(param(id), value)
}

/// As [`write_exact`], by a row that may be another than the catalogue's.
pub fn write_exact_as(row: &Param, value: f64) -> String {
    let written = write_as(row, value);
    let times = match (row.quantity, written.unit.as_str()) {
        (Quantity::Share | Quantity::Bipolar, _) => 100.0,
        (Quantity::Seconds, "ms") => 1000.0,
        (Quantity::Hertz, "kHz") => 0.001,
        (Quantity::Pan | Quantity::Note | Quantity::Beats, _) => return written.to_string(),
        (Quantity::Level, _) if value <= row.min => return "-inf dB".into(),
        (Quantity::Copies, _) if value == 0.0 => return written.to_string(),
        _ => 1.0,
    };
    // digits beyond these are those of binary numbers, not of what was typed
    let number = trimmed((value * times * 1e9).round() / 1e9, 9, 0).replace('−', "-");
    let gap = if written.unit.is_empty() { "" } else { " " };
    format!("{number}{gap}{}", written.unit)
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

fn expected(quantity: Quantity) -> &'static str {
    match quantity {
        Quantity::Ratio => "a ratio such as 3.5, 3:2 or 2.5 + 0.018, or 12 st",
        Quantity::Cents => "cents such as -7, or 2 st",
        Quantity::Offset => "hertz such as 0.4 Hz or -1.5",
        Quantity::Hertz => "hertz such as 440, 1.2k or A3",
        Quantity::Semitones => "semitones such as 7 or -12, 2 oct or 50 ct",
        Quantity::Seconds => "a time such as 340 ms, 1.2 s or 1/8 dotted",
        Quantity::Tempo => "beats a minute such as 96",
        Quantity::Beats => "a length such as 1/8 dotted, 1/4 triplet or 2 bars",
        Quantity::Rate => "a rate such as 0.3 Hz, or a period such as 4 s",
        Quantity::Share => "a share such as 60 %",
        Quantity::Bipolar => "a share with sign such as -15 %",
        Quantity::Radians => "an index such as 2.1 rad, pi/2, 90 deg or 53 % of a turn",
        Quantity::Level => "a level such as -6 dB, or -inf for silence",
        Quantity::Gain => "a gain such as -6 dB",
        Quantity::Pan => "a place such as 30 L, C or 30 R",
        Quantity::Note => "a note such as C#3, or a key from 0 to 127",
        Quantity::Count => "a whole number",
        Quantity::Copies => "a whole number, or “as voice”",
        Quantity::Number => "a number such as 12 or 2.5",
        Quantity::Octaves => "octaves such as -2 or 1.5, or 7 st",
    }
}

/// Fixed number of digits, with a true minus sign and no minus before zero.
pub fn fixed(value: f64, decimals: usize) -> String {
    let text = format!("{value:.decimals$}");
    let is_zero = text
        .trim_start_matches('-')
        .chars()
        .all(|c| c == '0' || c == '.');
    if is_zero {
        text.trim_start_matches('-').into()
    } else {
        text.replace('-', "−")
    }
}

fn signed(value: f64, decimals: usize) -> String {
    let text = fixed(value, decimals);
    let is_zero = text.chars().all(|c| c == '0' || c == '.');
    if value > 0.0 && !is_zero {
        format!("+{text}")
    } else {
        text
    }
}

fn signed_trimmed(value: f64) -> String {
    signed_trimmed_to(value, 1)
}

fn signed_trimmed_to(value: f64, most: usize) -> String {
    let text = trimmed(value, most, 0);
    if value > 0.0 && text != "0" {
        format!("+{text}")
    } else {
        text
    }
}

/// Up to `most` digits, but no zeros after the `least`-th.
fn trimmed(value: f64, most: usize, least: usize) -> String {
    let mut text = fixed(value, most);
    let Some(point) = text.find('.') else {
        return text;
    };
    while text.ends_with('0') && text.len() - point - 1 > least {
        text.pop();
    }
    if text.ends_with('.') {
        text.pop();
    }
    text
}

/// A time with its unit.
pub fn seconds(value: f64) -> (String, &'static str) {
    if value < 0.9995 {
        (
            trimmed(value * 1000.0, if value < 0.1 { 2 } else { 0 }, 0),
            "ms",
        )
    } else {
        (fixed(value, 2), "s")
    }
}

fn pan(value: f64) -> (String, &'static str) {
    let percent = libm::round(value * 100.0);
    match percent {
        p if p < 0.0 => (format!("{:.0}", -p), "L"),
        p if p > 0.0 => (format!("{p:.0}"), "R"),
        _ => ("C".into(), ""),
    }
}
