//! Values as people read them.

use serde::{Deserialize, Serialize};

use super::times::Times;
use crate::laws::pitch::note_name;
use crate::params::catalogue::param;
use crate::params::param::{Param, ParamId, Quantity};

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
    as_note_length(beats, 1e-3, if beats < 0.1 { 5 } else { 3 })
}

fn as_note_length(beats: f64, tolerance: f64, digits: usize) -> Written {
    let written = |number: String, unit: &str| Written {
        number,
        unit: unit.into(),
    };
    for (name, times) in [("", 1.0), (" dotted", 1.5), (" triplet", 2.0 / 3.0)] {
        for part in [1, 2, 4, 8, 16, 32, 64, 128] {
            let length = 4.0 / f64::from(part) * times;
            if (beats / length - 1.0).abs() < tolerance {
                return written(format!("1/{part}"), name.trim());
            }
        }
    }
    written(trimmed(beats, digits, 0), "beats")
}

/// Writes a length in beats as a note length, or in bars where it is whole ones.
pub fn write_length(beats: f64) -> Written {
    in_bars(beats).unwrap_or_else(|| write_beats(beats, 1.0))
}

fn in_bars(beats: f64) -> Option<Written> {
    let bars = beats / 4.0;
    let whole = libm::round(bars);
    (whole >= 2.0 && (bars - whole).abs() < 1e-6).then(|| Written {
        number: format!("{whole:.0}"),
        unit: "bars".into(),
    })
}

/// As [`write_as`], where times may be said in beats.
pub fn write_in(row: &Param, value: f64, times: Times) -> Written {
    match times.of(row) {
        true => write_beats(value, times.beat_s),
        false => write_as(row, value),
    }
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
        Quantity::Share => (trimmed(value * 100.0, percent_digits(value), 0), "%"),
        Quantity::Bipolar => (signed_trimmed_to(value * 100.0, percent_digits(value)), "%"),
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

/// Digits of a percentage after its point: more of what is less than one.
fn percent_digits(share: f64) -> usize {
    if share.abs() < 0.01 { 2 } else { 1 }
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

/// Writes a value for typing on: with as many digits as it has, and its unit.
pub fn write_exact(id: ParamId, value: f64) -> String {
    write_exact_as(param(id), value)
}

/// As [`write_exact`], by a row that may be another than the catalogue's.
pub fn write_exact_as(row: &Param, value: f64) -> String {
    write_exact_in(row, value, Times::PLAIN)
}

/// As [`write_exact_as`], where times may be said in beats.
pub fn write_exact_in(row: &Param, value: f64, times: Times) -> String {
    /// Beats that differ by less are the same.
    const SAME: f64 = 1e-9;
    if times.of(row) {
        return ascii(&as_note_length(value / times.beat_s, SAME, DIGITS));
    }
    let written = write_as(row, value);
    let scale = match (row.quantity, written.unit.as_str()) {
        (Quantity::Share | Quantity::Bipolar, _) => 100.0,
        (Quantity::Seconds, "ms") => 1000.0,
        (Quantity::Hertz, "kHz") => 0.001,
        (Quantity::Beats, _) => {
            let length = in_bars(value).unwrap_or_else(|| as_note_length(value, SAME, DIGITS));
            return ascii(&length);
        }
        (Quantity::Note, _) => return ascii(&written),
        (Quantity::Pan, _) => return exact_pan(value),
        (Quantity::Level, _) if value <= row.min => return "-inf dB".into(),
        (Quantity::Copies, _) if value == 0.0 => return ascii(&written),
        _ => 1.0,
    };
    // digits beyond these are those of binary numbers, not of what was typed
    let number = trimmed((value * scale * 1e9).round() / 1e9, DIGITS, 0);
    let unit = written.unit;
    ascii(&Written { number, unit })
}

/// Digits after the point of a value that is typed on.
const DIGITS: usize = 9;

fn exact_pan(value: f64) -> String {
    let percent = trimmed((value.abs() * 1e11).round() / 1e9, DIGITS, 0);
    match value {
        v if v < 0.0 => format!("{percent} L"),
        v if v > 0.0 => format!("{percent} R"),
        _ => "C".into(),
    }
}

/// As it is typed.
fn ascii(written: &Written) -> String {
    written.to_string().replace('−', "-")
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

fn signed_trimmed_to(value: f64, most: usize) -> String {
    let text = trimmed(value, most, 0);
    if value > 0.0 && text != "0" {
        format!("+{text}")
    } else {
        text
    }
}

/// Up to `most` digits, but no zeros after the `least`-th.
pub(super) fn trimmed(value: f64, most: usize, least: usize) -> String {
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
    let long = value.abs();
    if long < 0.9995 {
        let digits = if long < 0.1 { 2 } else { 0 };
        (trimmed(value * 1000.0, digits, 0), "ms")
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
