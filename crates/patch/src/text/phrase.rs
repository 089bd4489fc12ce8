//! What is typed of a phrase: lengths, places, velocities. They are no rows of the catalogue, but are refused in the same words.

use super::read::{TextError, read};
use crate::laws::expression::evaluate;
use crate::params::limits::{BEATS_OF_A_BAR, MAX_PHRASE_BEATS, MIN_PHRASE_BEATS};
use crate::parts::voice::Audition;

fn no_value(typed: &str, kind: &'static str, examples: &'static str) -> TextError {
    let text = typed.trim().into();
    TextError::NoValue {
        text,
        kind,
        examples,
    }
}

/// The length of a phrase in beats, from a typed number of bars, or of beats: `2`, `1.5 bars`, `6 beats`.
///
/// # Errors
/// If it is no length, or one no phrase has.
pub fn length_beats(typed: &str) -> Result<f64, TextError> {
    let plain = typed.trim().to_lowercase().replace(',', ".");
    let number = |text: &str| evaluate(text.trim());
    let beats = match plain.trim_end_matches('s') {
        bars if bars.ends_with("bar") => {
            number(&bars[..bars.len() - 3]).map(|n| n * BEATS_OF_A_BAR)
        }
        beats if beats.ends_with("beat") => number(&beats[..beats.len() - 4]),
        bare => number(bare).map(|n| n * BEATS_OF_A_BAR),
    };
    let beats = beats.ok_or_else(|| no_value(typed, "a length", "bars such as 2, or 6 beats"))?;
    if (MIN_PHRASE_BEATS..=MAX_PHRASE_BEATS).contains(&beats) {
        return Ok(beats);
    }
    let bars = |beats: f64| format!("{} bars", beats / BEATS_OF_A_BAR);
    Err(TextError::OutOfRange {
        label: "The length of a phrase",
        min: bars(MIN_PHRASE_BEATS),
        max: bars(MAX_PHRASE_BEATS),
    })
}

/// A place in a phrase so many beats long, typed in beats (`2.5`) or as bar, beat and hundredths of it (`1.3.50`), both counted from 1.
///
/// # Errors
/// If it is no place, or lies outside of the phrase.
pub fn place_beats(typed: &str, length_beats: f64) -> Result<f64, TextError> {
    let examples = "beats such as 2.5, or bar.beat.hundredths such as 1.3.50";
    let number = |text: &str| evaluate(text).ok_or_else(|| no_value(typed, "a place", examples));
    let plain = typed.replace(',', ".");
    let plain = plain.trim();
    let parts: Vec<&str> = plain.split('.').collect();
    let place = match parts[..] {
        [bar, beat, part] => {
            let (bar, beat, part) = (number(bar)?, number(beat)?, number(part)?);
            (bar - 1.0) * BEATS_OF_A_BAR + (beat - 1.0) + part / 100.0
        }
        _ => number(plain.trim_end_matches("beats").trim_end_matches("beat"))?,
    };
    match (0.0..length_beats).contains(&place) {
        true => Ok(place),
        false => Err(TextError::OutOfRange {
            label: "The start of a note",
            min: "0".into(),
            max: format!("just before {length_beats} beats"),
        }),
    }
}

/// Velocities typed one after the other: `50, 90, 120`.
///
/// # Errors
/// At the first that is none.
pub fn velocities(typed: &str) -> Result<Vec<u8>, TextError> {
    let each = typed.split(|c: char| c.is_whitespace() || ",;".contains(c));
    let each = each.filter(|one| !one.is_empty());
    each.map(|one| Ok(read(Audition::VELOCITY, one, 0.0)? as u8))
        .collect()
}
