//! Phrases of our own. Each says where it sounds good.

use super::phrase::{Phrase, PhraseNote, WheelPlace};

/// A phrase that comes with the application.
#[derive(Debug, Clone, Copy)]
pub struct ReadyPhrase {
    /// Its name.
    pub name: &'static str,
    /// What it is good for.
    pub help: &'static str,
    /// A key it sounds good from.
    pub key: u8,
    length_beats: f64,
    /// Begin and length in sixteenths, semitones, velocity.
    pub notes: &'static [(f64, f64, i16, u8)],
    /// Beats and places.
    wheel: &'static [(f64, f64)],
    bend: &'static [(f64, f64)],
}

impl ReadyPhrase {
    /// The phrase.
    pub fn phrase(&self) -> Phrase {
        let turns = |list: &[(f64, f64)]| {
            let turn = |(at_beats, place): &(f64, f64)| WheelPlace {
                at_beats: *at_beats,
                place: *place,
            };
            list.iter().map(turn).collect()
        };
        let note = |(at, length, semitones, velocity): &(f64, f64, i16, u8)| PhraseNote {
            at_beats: at / 4.0,
            length_beats: length / 4.0,
            semitones: *semitones,
            velocity: *velocity,
        };
        let mut phrase = Phrase {
            name: self.name.into(),
            length_beats: self.length_beats,
            notes: self.notes.iter().map(note).collect(),
            wheel: turns(self.wheel),
            bend: turns(self.bend),
        };
        phrase.tidy();
        phrase
    }
}

const fn ready(
    name: &'static str,
    help: &'static str,
    key: u8,
    length_beats: f64,
    notes: &'static [(f64, f64, i16, u8)],
) -> ReadyPhrase {
    ReadyPhrase {
        name,
        help,
        key,
        length_beats,
        notes,
        wheel: &[],
        bend: &[],
    }
}

/// All phrases that come with the application.
pub const READY_PHRASES: &[ReadyPhrase] = &[
    ready(
        "One long note",
        "One note over four bars: what moves by itself is heard. Good everywhere.",
        57,
        16.0,
        &[(0.0, 58.0, 0, 96)],
    ),
    ready(
        "Octaves",
        "The same note in five octaves: where a patch turns thin, harsh or dull.",
        36,
        10.0,
        &[
            (0.0, 6.0, 0, 96),
            (8.0, 6.0, 12, 96),
            (16.0, 6.0, 24, 96),
            (24.0, 6.0, 36, 96),
            (32.0, 6.0, 48, 96),
        ],
    ),
    ready(
        "Glasshouse chords",
        "Four slow chords for pads: do the notes stand apart, does the low end stay clear?",
        57,
        16.0,
        &[
            (0.0, 15.5, 0, 84),
            (0.0, 15.5, 3, 78),
            (0.0, 15.5, 7, 80),
            (0.0, 15.5, 14, 74),
            (16.0, 15.5, -4, 84),
            (16.0, 15.5, 3, 78),
            (16.0, 15.5, 8, 80),
            (16.0, 15.5, 12, 74),
            (32.0, 15.5, -2, 84),
            (32.0, 15.5, 5, 78),
            (32.0, 15.5, 7, 80),
            (32.0, 15.5, 10, 74),
            (48.0, 14.0, -5, 84),
            (48.0, 14.0, 2, 78),
            (48.0, 14.0, 7, 80),
            (48.0, 14.0, 11, 72),
        ],
    ),
    ready(
        "Root walk",
        "A bass line that leaves room, with two notes that are slid into. Low: from A1.",
        33,
        8.0,
        &[
            (0.0, 2.5, 0, 110),
            (3.0, 1.0, 0, 84),
            (6.0, 1.5, 3, 100),
            (8.0, 3.5, 0, 108),
            (11.0, 2.0, 12, 88),
            (14.0, 2.5, 10, 96),
            (16.0, 2.5, 0, 112),
            (19.0, 1.0, 0, 80),
            (22.0, 2.5, 5, 100),
            (24.0, 3.0, 3, 104),
            (28.0, 1.5, -2, 98),
            (30.0, 2.0, -1, 92),
        ],
    ),
    ready(
        "Deep steps",
        "Short bass notes on and off the beat: attack and low end. From E1.",
        28,
        4.0,
        &[
            (0.0, 1.2, 0, 118),
            (2.0, 0.8, 0, 80),
            (3.0, 0.8, 12, 92),
            (6.0, 1.2, 0, 108),
            (8.0, 0.8, 7, 90),
            (10.0, 1.2, 0, 112),
            (12.0, 0.8, 10, 86),
            (14.0, 1.6, 12, 100),
        ],
    ),
    ready(
        "Offbeat",
        "Between the beats only: leave it on with a beat. From A1.",
        33,
        4.0,
        &[
            (2.0, 1.5, 0, 100),
            (6.0, 1.5, 0, 96),
            (10.0, 1.5, 0, 100),
            (14.0, 1.5, 3, 104),
        ],
    ),
    ready(
        "Moth steps",
        "A slow line in broken chords with overlaps: glide, legato, pressure of time. From A2.",
        45,
        8.0,
        &[
            (0.0, 4.2, 0, 96),
            (4.0, 2.0, 12, 84),
            (6.0, 1.5, 3, 90),
            (8.0, 2.6, 7, 100),
            (10.0, 4.0, 24, 108),
            (15.0, 1.0, 22, 80),
            (16.0, 4.0, 0, 100),
            (20.0, 1.5, 3, 84),
            (22.0, 2.5, 19, 96),
            (24.0, 2.2, 14, 92),
            (27.0, 1.0, 20, 84),
            (28.0, 4.0, 19, 100),
        ],
    ),
    ready(
        "Drip ladder",
        "Sixteenths up and down a chord: does every note speak? From A3.",
        57,
        4.0,
        &[
            (0.0, 0.8, 0, 104),
            (1.0, 0.8, 3, 80),
            (2.0, 0.8, 7, 88),
            (3.0, 0.8, 12, 80),
            (4.0, 0.8, 15, 100),
            (5.0, 0.8, 12, 80),
            (6.0, 0.8, 7, 88),
            (7.0, 0.8, 3, 80),
            (8.0, 0.8, -2, 104),
            (9.0, 0.8, 3, 80),
            (10.0, 0.8, 5, 88),
            (11.0, 0.8, 10, 80),
            (12.0, 0.8, 15, 100),
            (13.0, 0.8, 10, 80),
            (14.0, 0.8, 5, 88),
            (15.0, 0.8, 3, 80),
        ],
    ),
    ready(
        "Copper stabs",
        "Short chords, hard and soft: the attack, and what the release leaves. From A3.",
        57,
        8.0,
        &[
            (0.0, 0.8, 0, 118),
            (0.0, 0.8, 3, 112),
            (0.0, 0.8, 10, 112),
            (3.0, 0.8, 0, 76),
            (3.0, 0.8, 3, 72),
            (3.0, 0.8, 10, 72),
            (10.0, 0.8, -2, 108),
            (10.0, 0.8, 2, 104),
            (10.0, 0.8, 7, 104),
            (16.0, 0.8, 0, 118),
            (16.0, 0.8, 3, 112),
            (16.0, 0.8, 12, 112),
            (22.0, 0.8, 0, 64),
            (22.0, 0.8, 3, 60),
            (22.0, 0.8, 12, 60),
            (27.0, 1.6, 5, 110),
            (27.0, 1.6, 8, 106),
            (27.0, 1.6, 15, 106),
        ],
    ),
    ReadyPhrase {
        bend: &[
            (5.5, 0.0),
            (5.75, 1.0),
            (6.5, 1.0),
            (6.75, 0.0),
            (7.5, 0.0),
            (8.0, -1.0),
        ],
        wheel: &[(2.0, 0.0), (4.0, 0.7), (5.0, 0.1), (7.0, 1.0), (8.0, 0.3)],
        ..ready(
            "Heron calls",
            "A lead with slides, the wheel and the bend: vibrato, glide, how it answers. From A3.",
            57,
            8.0,
            &[
                (0.0, 3.2, 0, 92),
                (3.0, 1.2, 7, 96),
                (4.0, 8.4, 12, 108),
                (12.0, 2.2, 10, 88),
                (14.0, 2.2, 7, 90),
                (16.0, 4.5, 15, 112),
                (20.0, 2.2, 14, 96),
                (22.0, 9.0, 12, 110),
            ],
        )
    },
    ready(
        "Soft to hard",
        "One note eight times, from the softest to the hardest: velocity. Good everywhere.",
        57,
        8.0,
        &[
            (0.0, 3.0, 0, 12),
            (4.0, 3.0, 0, 28),
            (8.0, 3.0, 0, 44),
            (12.0, 3.0, 0, 60),
            (16.0, 3.0, 0, 77),
            (20.0, 3.0, 0, 94),
            (24.0, 3.0, 0, 111),
            (28.0, 3.0, 0, 127),
        ],
    ),
    ready(
        "Seed hats",
        "Sixteenths with accents and one long note: for hats and short noises. From C5.",
        72,
        4.0,
        &[
            (0.0, 0.4, 0, 108),
            (1.0, 0.4, 0, 52),
            (2.0, 0.4, 0, 84),
            (3.0, 0.4, 0, 52),
            (4.0, 0.4, 0, 108),
            (5.0, 0.4, 0, 52),
            (6.0, 1.8, 0, 96),
            (8.0, 0.4, 0, 108),
            (9.0, 0.4, 0, 52),
            (10.0, 0.4, 0, 84),
            (11.0, 0.4, 0, 64),
            (12.0, 0.4, 0, 108),
            (13.0, 0.4, 0, 52),
            (14.0, 1.8, 0, 96),
        ],
    ),
    ready(
        "All over",
        "From the lowest useful key to the highest in fifths: what carries, what whistles. From C1.",
        24,
        12.0,
        &[
            (0.0, 3.6, 0, 96),
            (4.0, 3.6, 7, 96),
            (8.0, 3.6, 14, 96),
            (12.0, 3.6, 21, 96),
            (16.0, 3.6, 28, 96),
            (20.0, 3.6, 35, 96),
            (24.0, 3.6, 42, 96),
            (28.0, 3.6, 49, 96),
            (32.0, 3.6, 56, 96),
            (36.0, 3.6, 63, 96),
            (40.0, 3.6, 70, 96),
            (44.0, 3.6, 77, 96),
        ],
    ),
    ready(
        "Slow horns",
        "Long notes that fall and rise by a step, with breath between: swells and releases. From A2.",
        45,
        16.0,
        &[
            (0.0, 13.0, 0, 100),
            (0.0, 13.0, 7, 92),
            (16.0, 13.0, -2, 104),
            (16.0, 13.0, 5, 96),
            (32.0, 13.0, -4, 108),
            (32.0, 13.0, 3, 100),
            (48.0, 14.0, -5, 116),
            (48.0, 14.0, 7, 104),
        ],
    ),
];
