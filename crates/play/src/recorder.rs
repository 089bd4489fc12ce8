//! What is played, made into a phrase.

use zolvik_patch::limits::{MAX_PHRASE_BEATS, MAX_PHRASE_NOTES, MAX_TURNS, MAX_UNIT_NAME};
use zolvik_patch::plain::clean_name;
use zolvik_patch::playing::phrase::{Phrase, PhraseNote, SHORTEST_BEATS, WheelPlace, snapped};

/// Why what was played is no phrase.
#[derive(Debug, Clone, Copy, PartialEq, thiserror::Error)]
pub enum NoPhrase {
    /// Nothing was played.
    #[error("no note was played")]
    Empty,
    /// Too much.
    #[error(
        "there are {actual} notes, at most {MAX_PHRASE_NOTES} make a phrase; take a part of it"
    )]
    Many {
        /// Notes there are.
        actual: usize,
    },
    /// Too long.
    #[error(
        "this is {actual:.0} beats long, at most {MAX_PHRASE_BEATS:.0} make a phrase; take a part of it"
    )]
    Long {
        /// Its length in beats.
        actual: f64,
    },
}

/// Listens to MIDI messages in time and makes a phrase of them.
#[derive(Debug, Clone, Default)]
pub struct Recorder {
    root: i16,
    notes: Vec<PhraseNote>,
    /// Keys that are down: channel, key, and which note.
    down: Vec<(u8, u8, usize)>,
    wheel: Vec<WheelPlace>,
    bend: Vec<WheelPlace>,
    last_beats: f64,
}

impl Recorder {
    /// Counts keys from a root.
    pub fn new(root: u8) -> Self {
        Recorder {
            root: root.into(),
            ..Recorder::default()
        }
    }

    /// Takes a message: keys, the wheel, the bend; others are passed over.
    pub fn take(&mut self, at_beats: f64, message: [u8; 3]) {
        let [status, first, second] = [message[0], message[1] & 127, message[2] & 127];
        let channel = status & 15;
        match (status & 0xF0, first, second) {
            (0x90, key, velocity) if velocity > 0 => {
                self.lift(at_beats, channel, key);
                self.down.push((channel, key, self.notes.len()));
                self.notes.push(PhraseNote {
                    at_beats,
                    length_beats: SHORTEST_BEATS,
                    semitones: i16::from(key) - self.root,
                    velocity,
                });
                self.last_beats = self.last_beats.max(at_beats);
            }
            (0x80 | 0x90, key, _) => self.lift(at_beats, channel, key),
            (0xB0, 1, value) => self.wheel.push(WheelPlace {
                at_beats,
                place: f64::from(value) / 127.0,
            }),
            (0xE0, low, high) => {
                let place = f64::from(u16::from(low) | u16::from(high) << 7) - 8192.0;
                let place = (place / 8191.0).clamp(-1.0, 1.0);
                self.bend.push(WheelPlace { at_beats, place });
            }
            _ => {}
        }
    }

    fn lift(&mut self, at_beats: f64, channel: u8, key: u8) {
        let same = |d: &(u8, u8, usize)| (d.0, d.1) == (channel, key);
        if let Some(at) = self.down.iter().position(same) {
            let (_, _, note) = self.down.swap_remove(at);
            let length = at_beats - self.notes[note].at_beats;
            self.notes[note].length_beats = length.clamp(SHORTEST_BEATS, MAX_PHRASE_BEATS);
            self.last_beats = self.last_beats.max(at_beats);
        }
    }

    /// Nothing comes after this moment: what is still down goes up.
    pub fn end(&mut self, at_beats: f64) {
        while let Some((channel, key, _)) = self.down.first().copied() {
            self.lift(at_beats, channel, key);
        }
    }

    /// Leaves out what is too much for a phrase at its end.
    #[must_use]
    pub fn cut(mut self) -> Self {
        self.notes.sort_by(|a, b| a.at_beats.total_cmp(&b.at_beats));
        self.notes.truncate(MAX_PHRASE_NOTES);
        self.notes.retain(|n| n.at_beats < MAX_PHRASE_BEATS - 4.0);
        let ends = self.notes.iter().map(|n| n.at_beats + n.length_beats);
        self.last_beats = ends.fold(0.0, f64::max).min(MAX_PHRASE_BEATS - 4.0);
        self
    }

    /// The same where it is too much, with a word on what was left out; as it is where it fits.
    #[must_use]
    pub fn fitted(self) -> (Self, Option<String>) {
        let notes = self.notes.len();
        let is_long = self.last_beats > MAX_PHRASE_BEATS;
        if notes <= MAX_PHRASE_NOTES && !is_long {
            return (self, None);
        }
        let length_beats = self.last_beats;
        let cut = self.cut();
        let taken = cut.notes.len();
        let words = match is_long {
            true => format!(
                "the file is {length_beats:.0} beats long; its first {taken} of {notes} notes, as far as a phrase goes, were taken"
            ),
            false => format!(
                "the file has {notes} notes; the first {taken} were taken, the most a phrase has"
            ),
        };
        (cut, Some(words))
    }

    /// The phrase, its begins on a grid (0 for none), as many whole bars of four as it needs.
    ///
    /// # Errors
    /// If nothing was played, or too much.
    pub fn phrase(self, name: &str, grid_beats: f64) -> Result<Phrase, NoPhrase> {
        let actual = self.notes.len();
        if actual == 0 {
            return Err(NoPhrase::Empty);
        }
        if actual > MAX_PHRASE_NOTES {
            return Err(NoPhrase::Many { actual });
        }
        let bars = (self.last_beats / 4.0 - 1e-6).ceil().max(1.0);
        if bars * 4.0 > MAX_PHRASE_BEATS {
            return Err(NoPhrase::Long {
                actual: self.last_beats,
            });
        }
        let name: String = clean_name(name).chars().take(MAX_UNIT_NAME).collect();
        let mut phrase = Phrase {
            name: if name.is_empty() {
                "Phrase".into()
            } else {
                name
            },
            length_beats: bars * 4.0,
            notes: self.notes,
            wheel: thinned(self.wheel),
            bend: thinned(self.bend),
        };
        if grid_beats > 0.0 {
            for note in &mut phrase.notes {
                note.at_beats = snapped(note.at_beats, grid_beats);
            }
        }
        phrase.tidy();
        Ok(phrase)
    }
}

/// At most as many as a phrase takes, evenly left out.
fn thinned(list: Vec<WheelPlace>) -> Vec<WheelPlace> {
    let each = list.len().div_ceil(MAX_TURNS).max(1);
    list.into_iter().step_by(each).collect()
}
