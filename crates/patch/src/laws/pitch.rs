//! Keys, frequencies, note names and ratios.

use crate::ids::UnitId;
use crate::kinds::operator::{Operator, TunedBy};
use crate::patch::Patch;

/// Frequency of a key in equal temperament, A4 = 440 Hz. `key` may be fractional.
pub fn key_hz(key: f64) -> f64 {
    440.0 * libm::exp2((key - 69.0) / 12.0)
}

/// Frequency of a key in a patch, in hertz: by its scale, else in equal temperament; none if the scale leaves
/// the key silent.
pub fn patch_key_hz(patch: &Patch, key: u8) -> Option<f64> {
    match &patch.scale {
        Some(scale) => scale.key_hz(key),
        None => Some(key_hz(key.into())),
    }
}

/// Frequency of the auditioned key, in hertz; of the same key in equal temperament where the scale is silent.
pub fn auditioned_hz(patch: &Patch) -> f64 {
    let key = patch.audition.note;
    patch_key_hz(patch, key).unwrap_or_else(|| key_hz(key.into()))
}

/// An operator's frequency as `key_hz * multiple + constant_hz`.
pub fn tuning(operator: &Operator) -> (f64, f64) {
    let nominal = [operator.ratio, operator.semitones, operator.fixed_hz];
    tuned(
        operator.tuned_by,
        nominal,
        (operator.detune_cents, operator.offset_hz),
    )
}

/// The same from ratio, semitones and fixed frequency, one of which counts, and fine tuning in cents and hertz.
pub fn tuned(
    by: TunedBy,
    [ratio, semitones, fixed_hz]: [f64; 3],
    (detune_cents, offset_hz): (f64, f64),
) -> (f64, f64) {
    let fine = libm::exp2(detune_cents / 1200.0);
    match by {
        TunedBy::Ratio => (ratio * fine, offset_hz),
        TunedBy::Semitones => (libm::exp2(semitones / 12.0) * fine, offset_hz),
        TunedBy::Fixed => (0.0, fixed_hz * fine + offset_hz),
    }
}

/// Frequency of an operator at a key's frequency, in hertz; never below zero.
pub fn operator_hz(operator: &Operator, key_hz: f64) -> f64 {
    let (multiple, constant_hz) = tuning(operator);
    (key_hz * multiple + constant_hz).max(0.0)
}

/// Factor of a unit's pitch from what tunes all of them: everything, and what is heard itself or only moves others.
pub fn tuned_all(patch: &Patch, id: UnitId) -> f64 {
    let voice = &patch.voice;
    let own = match patch.sounds(id) {
        true => voice.carriers_cents,
        false => voice.modulators_cents,
    };
    match voice.tune_cents + own {
        0.0 => 1.0,
        cents => libm::exp2(cents / 1200.0),
    }
}

/// Frequency at which an operator of a patch runs at a key's frequency, in hertz, with all that tunes it; never below zero.
pub fn running_hz(patch: &Patch, id: UnitId, operator: &Operator, key_hz: f64) -> f64 {
    operator_hz(operator, key_hz) * tuned_all(patch, id)
}

/// An operator's frequency as a multiple of the key's, without detune and offset: what a ratio is read from.
pub fn nominal_ratio(operator: &Operator, key_hz: f64) -> f64 {
    match operator.tuned_by {
        TunedBy::Ratio => operator.ratio,
        TunedBy::Semitones => libm::exp2(operator.semitones / 12.0),
        TunedBy::Fixed => operator.fixed_hz / key_hz,
    }
}

const NAMES: [&str; 12] = [
    "C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B",
];

/// Name of a key, such as `A3` for 57.
pub fn note_name(key: i32) -> String {
    format!(
        "{}{}",
        NAMES[key.rem_euclid(12) as usize],
        key.div_euclid(12) - 1
    )
}

/// Key of a note name such as `A3`, `c#4` or `Bb2`; none if it is no note between C-1 and G9.
pub fn note_key(text: &str) -> Option<i32> {
    let mut chars = text.trim().chars();
    let step = match chars.next()?.to_ascii_lowercase() {
        'c' => 0,
        'd' => 2,
        'e' => 4,
        'f' => 5,
        'g' => 7,
        'a' => 9,
        'b' => 11,
        _ => return None,
    };
    let rest = chars.as_str();
    let (shift, octave) = match rest.chars().next()? {
        '#' | '♯' => (1, rest.trim_start_matches(['#', '♯'])),
        'b' | '♭' => (-1, rest.trim_start_matches(['b', '♭'])),
        _ => (0, rest),
    };
    let key = (octave.parse::<i32>().ok()?.checked_add(1)?).checked_mul(12)? + step + shift;
    (0..=127).contains(&key).then_some(key)
}

/// Nearest key to a frequency and the distance from it in cents; none for frequencies near or below zero.
pub fn nearest_note(hz: f64) -> Option<(i32, f64)> {
    if hz < 1.0 {
        return None;
    }
    let key = 69.0 + 12.0 * libm::log2(hz / 440.0);
    let nearest = libm::round(key);
    Some((nearest as i32, (key - nearest) * 100.0))
}

/// Carrier to modulator as people say it: `1 : 4` where small whole numbers fit within a tenth of a cent,
/// else with the modulator as decimal number, `1 : 3.53`.
pub fn ratio_pair(carrier: f64, modulator: f64) -> String {
    const TENTH_OF_A_CENT: f64 = 1.000_057_8;
    for c in 1..=16u32 {
        let m = modulator / carrier * f64::from(c);
        let whole = libm::round(m);
        if (1.0..=64.0).contains(&whole) && (m / whole).max(whole / m) < TENTH_OF_A_CENT {
            return format!("{c} : {whole}");
        }
    }
    format!("1 : {:.3}", modulator / carrier)
}
