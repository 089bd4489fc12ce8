//! Phrases: notes in time, with the wheel and the bend beside them.

use serde::{Deserialize, Serialize};

use crate::error::PatchError;
use crate::params::limits::{MAX_PHRASE_BEATS, MAX_PHRASE_NOTES, MAX_TURNS, MAX_UNIT_NAME};
use crate::parts::voice::Audition;
use crate::plain::clean_name;

/// A phrase. Keys are counted from the auditioned note, so that it can be played anywhere.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct Phrase {
    /// Its name, 1 to 40 characters.
    pub name: String,
    /// After how many beats it begins again, 0.25 to 2048.
    pub length_beats: f64,
    /// Up to 2000 notes, in time.
    pub notes: Vec<PhraseNote>,
    /// Places of the modulation wheel, 0 to 1, in time; in between it moves evenly.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub wheel: Vec<WheelPlace>,
    /// Places of the pitch bend, -1 to 1, in time; in between it moves evenly.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub bend: Vec<WheelPlace>,
}

/// A note of a phrase.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct PhraseNote {
    /// When the key goes down, in beats.
    pub at_beats: f64,
    /// How long it is held, in beats.
    pub length_beats: f64,
    /// Which key, in semitones from the auditioned note.
    pub semitones: i16,
    /// How hard it is struck, 1 to 127.
    pub velocity: u8,
}

/// How a note is moved.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct NoteMove {
    /// Later, in beats.
    pub by_beats: f64,
    /// Higher.
    pub by_semitones: i16,
    /// Longer, in beats.
    pub longer_beats: f64,
    /// Beats its begin is put on; 0 for none. Its end is put on quarters of them.
    pub grid_beats: f64,
}

impl PhraseNote {
    /// The note elsewhere, within a phrase so many beats long. What is not moved stays off the grid.
    pub fn moved(&self, by: NoteMove, phrase_beats: f64) -> PhraseNote {
        /// Shortest a hand makes a note where there is no grid.
        const SHORTEST_BY_HAND: f64 = 0.02;
        let shortest = match by.grid_beats > 0.0 {
            true => 0.5 * by.grid_beats,
            false => SHORTEST_BY_HAND,
        };
        let at = snapped(self.at_beats + by.by_beats, by.grid_beats);
        let length = snapped(self.length_beats + by.longer_beats, 0.25 * by.grid_beats);
        PhraseNote {
            at_beats: match by.by_beats {
                0.0 => self.at_beats,
                _ => at.clamp(0.0, phrase_beats - 0.001),
            },
            length_beats: match by.longer_beats {
                0.0 => self.length_beats,
                _ => length.max(shortest),
            },
            semitones: (self.semitones + by.by_semitones).clamp(-127, 127),
            velocity: self.velocity,
        }
    }

    /// The note struck harder, or softer: by so many steps of velocity, within its range.
    pub fn struck(&self, by_velocity: f64) -> PhraseNote {
        let row = Audition::ROWS.params[Audition::VELOCITY.at()];
        let velocity = f64::from(self.velocity) + by_velocity;
        PhraseNote {
            velocity: velocity.clamp(row.min, row.max).round() as u8,
            ..*self
        }
    }
}

/// Where a wheel stands at a moment.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct WheelPlace {
    /// When, in beats.
    pub at_beats: f64,
    /// Where.
    pub place: f64,
}

/// Shortest note, in beats.
pub const SHORTEST_BEATS: f64 = 1.0 / 64.0;

impl Phrase {
    /// Checks a phrase.
    ///
    /// # Errors
    /// What is out of place, under the path given.
    pub fn check(&self, path: &str) -> Result<(), PatchError> {
        let at = |rest: String| format!("{path}.{rest}");
        if clean_name(&self.name).is_empty() {
            return Err(PatchError::Shape {
                path: at("name".into()),
                problem: "is empty; give it a name".into(),
            });
        }
        let few = |rest: &str, max: usize, actual: usize| match actual > max {
            true => Err(PatchError::TooMany {
                path: at(rest.into()),
                max,
                actual,
            }),
            false => Ok(()),
        };
        few("name", MAX_UNIT_NAME, self.name.chars().count())?;
        few("notes", MAX_PHRASE_NOTES, self.notes.len())?;
        few("wheel", MAX_TURNS, self.wheel.len())?;
        few("bend", MAX_TURNS, self.bend.len())?;
        let within =
            |rest: String, actual: f64, min: f64, max: f64| match (min..=max).contains(&actual) {
                true => Ok(()),
                false => Err(PatchError::Range {
                    path: at(rest),
                    min,
                    max,
                    actual,
                }),
            };
        within(
            "length_beats".into(),
            self.length_beats,
            0.25,
            MAX_PHRASE_BEATS,
        )?;
        for (i, note) in self.notes.iter().enumerate() {
            let rest = |field: &str| format!("notes[{i}].{field}");
            within(rest("at_beats"), note.at_beats, 0.0, self.length_beats)?;
            let (shortest, longest) = (SHORTEST_BEATS, MAX_PHRASE_BEATS);
            within(rest("length_beats"), note.length_beats, shortest, longest)?;
            within(rest("semitones"), note.semitones.into(), -127.0, 127.0)?;
            within(rest("velocity"), note.velocity.into(), 1.0, 127.0)?;
        }
        for (name, list, min) in [("wheel", &self.wheel, 0.0), ("bend", &self.bend, -1.0)] {
            for (i, turn) in list.iter().enumerate() {
                let rest = |field: &str| format!("{name}[{i}].{field}");
                within(rest("at_beats"), turn.at_beats, 0.0, self.length_beats)?;
                within(rest("place"), turn.place, min, 1.0)?;
            }
        }
        let sorted = self.notes.is_sorted_by(|a, b| a.at_beats <= b.at_beats)
            && [&self.wheel, &self.bend]
                .iter()
                .all(|list| list.is_sorted_by(|a, b| a.at_beats <= b.at_beats));
        match sorted {
            true => Ok(()),
            false => Err(PatchError::Shape {
                path: at("notes".into()),
                problem: "are not in time; sort notes and turns by at_beats".into(),
            }),
        }
    }

    /// Puts notes and turns in time, and into its length.
    pub fn tidy(&mut self) {
        for note in &mut self.notes {
            note.at_beats = note.at_beats.clamp(0.0, self.length_beats);
            note.length_beats = note.length_beats.clamp(SHORTEST_BEATS, MAX_PHRASE_BEATS);
        }
        self.notes.retain(|n| n.at_beats < self.length_beats);
        self.notes.sort_by(|a, b| {
            let keys = a.semitones.cmp(&b.semitones);
            a.at_beats.total_cmp(&b.at_beats).then(keys)
        });
        for list in [&mut self.wheel, &mut self.bend] {
            list.retain(|t| t.at_beats <= self.length_beats);
            list.sort_by(|a, b| a.at_beats.total_cmp(&b.at_beats));
        }
    }

    /// Which of its notes begin while one before them is still held.
    pub fn overlapping(&self) -> Vec<bool> {
        let notes = self.notes.iter().enumerate();
        notes
            .map(|(at, note)| {
                self.notes[..at].iter().any(|before| {
                    before.at_beats < note.at_beats
                        && before.at_beats + before.length_beats > note.at_beats + 1e-9
                })
            })
            .collect()
    }

    /// Where a wheel stands at a moment; at rest where it is never touched.
    pub fn place_at(turns: &[WheelPlace], at_beats: f64) -> f64 {
        let after = turns.partition_point(|t| t.at_beats <= at_beats);
        match (after.checked_sub(1).map(|i| turns[i]), turns.get(after)) {
            (None, None) => 0.0,
            (None, Some(next)) => next.place,
            (Some(before), None) => before.place,
            (Some(before), Some(next)) => {
                let share = (at_beats - before.at_beats) / (next.at_beats - before.at_beats);
                before.place + share * (next.place - before.place)
            }
        }
    }
}

/// A time on a grid of so many beats; 0 is no grid.
pub fn snapped(beats: f64, grid_beats: f64) -> f64 {
    match grid_beats > 0.0 {
        true => libm::round(beats / grid_beats) * grid_beats,
        // to a thousandth, so that files stay readable
        false => libm::round(beats * 1e3) / 1e3,
    }
}
