//! What stands at the head of a strip: wave or type, ratio, frequency, note.

use zolvik_patch::Patch;
use zolvik_patch::catalogue::choice;
use zolvik_patch::document::{
    Filter, FilterType, Level, Noise, Operator, Shaper, TunedBy, Unit, UnitKind,
};
use zolvik_patch::filter::cutoff_hz;
use zolvik_patch::pitch::{
    auditioned_hz, key_hz as hz_of_key, nearest_note, note_name, running_hz,
};
use zolvik_patch::text;

use crate::inspect::wave_name;

/// What stands at the head of a strip.
#[derive(Default)]
pub(super) struct Heading {
    pub(super) label: String,
    pub(super) ratio: String,
    pub(super) fine: String,
    pub(super) hz: String,
    pub(super) note: String,
}

pub(super) fn heading(patch: &Patch, unit: &Unit) -> Heading {
    let key_hz = auditioned_hz(patch);
    let noted =
        |hz: f64| nearest_note(hz).map_or_else(String::new, |(key, cents)| note_words(key, cents));
    match &unit.kind {
        UnitKind::Operator(operator) => {
            let hz = running_hz(patch, unit.id, operator, key_hz);
            Heading {
                label: wave_name(patch, &operator.wave).0,
                ratio: match operator.tuned_by {
                    TunedBy::Ratio => {
                        let written = text::write(Operator::RATIO, operator.ratio);
                        format!("×{}", written.number)
                    }
                    TunedBy::Semitones => {
                        text::write(Operator::SEMITONES, operator.semitones).to_string()
                    }
                    TunedBy::Fixed => "fixed".into(),
                },
                fine: fine(operator),
                hz: hertz(hz),
                note: noted(hz),
            }
        }
        UnitKind::Noise(noise) => Heading {
            ratio: match noise.colour_db {
                c if c < -4.5 => "Very dark".into(),
                c if c < -0.5 => "Dark".into(),
                c if c <= 0.5 => "White".into(),
                _ => "Bright".into(),
            },
            hz: format!("{}/oct", text::write(Noise::COLOUR_DB, noise.colour_db)),
            ..Heading::default()
        },
        UnitKind::Sample(sample) => {
            let semitones = match sample.key_follow {
                true => 12.0 * (key_hz / hz_of_key(sample.root_key.into())).log2(),
                false => 0.0,
            };
            let moved = semitones + sample.semitones;
            Heading {
                label: sample.sound.label().into(),
                ratio: sample.sound.label().into(),
                fine: match moved.abs() < 0.005 {
                    true => String::new(),
                    false => text::write(Operator::SEMITONES, moved).to_string(),
                },
                hz: if sample.looped { "loop" } else { "once" }.into(),
                note: if sample.reverse { "reverse" } else { "" }.into(),
            }
        }
        UnitKind::Filter(filter) => {
            let hz = cutoff_hz(filter, key_hz, 0.0);
            let comb = filter.response.is_comb();
            let label = choice(Filter::RESPONSE).options[filter.response as usize];
            let slope = choice(Filter::SLOPE).options[filter.slope as usize];
            let sloped = !comb && filter.response != FilterType::Vowel;
            Heading {
                ratio: if sloped {
                    format!("{label} {slope}")
                } else {
                    label.into()
                },
                hz: hertz(hz),
                note: if comb { noted(hz) } else { String::new() },
                ..Heading::default()
            }
        }
        UnitKind::Level(level) => Heading {
            ratio: "Level".into(),
            hz: text::write(Level::LEVEL_DB, level.level_db).to_string(),
            ..Heading::default()
        },
        UnitKind::Shaper(shaper) => Heading {
            ratio: choice(Shaper::CURVE).options[shaper.curve as usize].into(),
            hz: text::write(Shaper::DRIVE_DB, shaper.drive_db).to_string(),
            ..Heading::default()
        },
    }
}

/// A frequency as it is written on strips.
pub(crate) fn hertz(hz: f64) -> String {
    if hz < 9999.5 {
        format!("{} Hz", text::fixed(hz, 1))
    } else {
        format!("{} kHz", text::fixed(hz / 1000.0, 2))
    }
}

fn fine(tuning: &Operator) -> String {
    let parts = [
        (Operator::DETUNE_CENTS, tuning.detune_cents),
        (Operator::OFFSET_HZ, tuning.offset_hz),
    ];
    let words = parts
        .iter()
        .filter(|(_, v)| *v != 0.0)
        .map(|(id, v)| text::write(*id, *v).to_string());
    words.collect::<Vec<_>>().join(" ")
}

/// A frequency with the note next to it.
pub(crate) fn pitch_words(hz: f64) -> String {
    let decimals = if hz < 1000.0 { 1 } else { 0 };
    let note = nearest_note(hz).map_or_else(String::new, |(key, cents)| note_words(key, cents));
    format!("{} Hz {note}", text::fixed(hz, decimals))
}

fn note_words(key: i32, cents: f64) -> String {
    let cents = cents.round();
    if cents == 0.0 {
        note_name(key)
    } else {
        format!(
            "{} {}{} ct",
            note_name(key),
            if cents > 0.0 { "+" } else { "−" },
            cents.abs()
        )
    }
}
