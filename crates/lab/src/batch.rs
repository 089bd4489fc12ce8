//! Several renders of a patch at once: its articulations, its phrase, or a set of keys and velocities for a sampler.

use std::collections::HashSet;

use serde::{Deserialize, Serialize};
use zolvik_engine::program::prepare_with;
use zolvik_patch::Patch;
use zolvik_patch::hearing::Listening;
use zolvik_patch::pitch::note_name;
use zolvik_patch::plain::file_stem;
use zolvik_patch::playing::differing;
use zolvik_waves::Clips;

use crate::note::Note;
use crate::render::{GoOn, Phrased, render_phrase_while, render_while};
use crate::rendered::Rendered;

/// Most files of one batch.
pub const MOST: usize = 1024;

/// What is rendered.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case", tag = "of")]
pub enum What {
    /// The auditioned note.
    Note,
    /// The phrase.
    Phrase,
    /// The phrase with its beat.
    Beat,
    /// Keys by velocities.
    Set {
        /// Lowest key.
        from: u8,
        /// Highest key.
        to: u8,
        /// Semitones from one to the next, 1 to 24.
        every: u8,
        /// 1 to 127, up to 16 of them.
        velocities: Vec<u8>,
    },
}

/// A batch.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct Batch {
    /// What.
    pub what: What,
    /// In the base and in every articulation; else only in the one that is heard.
    pub all_articulations: bool,
}

/// One file of a batch.
#[derive(Debug, Clone, PartialEq)]
pub struct Piece {
    /// Its name without an ending.
    pub name: String,
    /// In which articulation; none for the base.
    pub articulation: Option<u8>,
    played: Played,
}

#[derive(Debug, Clone, Copy, PartialEq)]
enum Played {
    Note { key: u8, velocity: u8 },
    Phrase { with_beat: bool },
}

/// Why a batch cannot be rendered.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum BatchError {
    /// No key or no velocity.
    #[error(
        "a set needs keys from low to high, 1 to 24 semitones apart, and 1 to 16 velocities from 1 to 127"
    )]
    Empty,
    /// Too many files.
    #[error(
        "this makes {actual} files, at most {MOST} are rendered at once; take fewer keys or velocities"
    )]
    Many {
        /// Files it would make.
        actual: usize,
    },
}

/// The files of a batch, in order.
///
/// # Errors
/// If there are none, or too many.
pub fn pieces(patch: &Patch, batch: &Batch) -> Result<Vec<Piece>, BatchError> {
    let list = &patch.playing.articulations;
    let heard = patch.playing.articulation;
    let states: Vec<Option<u8>> = match batch.all_articulations {
        true => (0..=list.len())
            .map(|n| n.checked_sub(1).map(|at| at as u8))
            .collect(),
        false => vec![heard],
    };
    let a = &patch.audition;
    let plays: Vec<(String, Played)> = match &batch.what {
        What::Note => {
            let (key, velocity) = (a.note, a.velocity);
            vec![(String::new(), Played::Note { key, velocity })]
        }
        What::Phrase => vec![("-phrase".into(), Played::Phrase { with_beat: false })],
        What::Beat => vec![("-phrase-beat".into(), Played::Phrase { with_beat: true })],
        What::Set {
            from,
            to,
            every,
            velocities,
        } => {
            let right = from <= to
                && *to < 128
                && (1..=24).contains(every)
                && (1..=16).contains(&velocities.len())
                && velocities.iter().all(|v| (1..=127).contains(v));
            if !right {
                return Err(BatchError::Empty);
            }
            // one that is named twice is one
            let mut once = HashSet::new();
            let velocities: Vec<u8> = velocities
                .iter()
                .copied()
                .filter(|v| once.insert(*v))
                .collect();
            let keys = (*from..=*to).step_by(usize::from(*every));
            let each = |key: u8| {
                velocities.clone().into_iter().map(move |velocity| {
                    // with the key's number in front, so that files stand in order
                    let name = format!("-{key:03}-{}-v{velocity:03}", note_name(key.into()));
                    (name.replace('#', "s"), Played::Note { key, velocity })
                })
            };
            keys.flat_map(each).collect()
        }
    };
    let actual = plays.len() * states.len();
    if actual > MOST {
        return Err(BatchError::Many { actual });
    }
    let own = file_stem(&patch.meta.name, MAX_PART).unwrap_or_else(|| "patch".into());
    let mut given = HashSet::new();
    let stems = states.into_iter().map(|state| {
        let articulation = state.and_then(|at| list.get(usize::from(at)));
        let stem = match articulation {
            None => own.clone(),
            // one of signs only is told from the others by its number
            Some(a) => match file_stem(&a.name, MAX_PART) {
                Some(name) => format!("{own}-{name}"),
                None => format!("{own}-articulation"),
            },
        };
        (state, free(stem, &mut given))
    });
    let mut pieces = vec![];
    for (articulation, stem) in stems {
        pieces.extend(plays.iter().map(|(suffix, played)| Piece {
            name: format!("{stem}{suffix}"),
            articulation,
            played: *played,
        }));
    }
    Ok(pieces)
}

/// Most bytes of a patch's or an articulation's name in a file's: names have at most 255 in all, with key, velocity and ending.
const MAX_PART: usize = 100;

/// A name nothing else has.
fn free(name: String, given: &mut HashSet<String>) -> String {
    let counted = (2..).map(|n| format!("{name}-{n}"));
    let mut names = std::iter::once(name.clone()).chain(counted);
    let found = names.find(|name| !given.contains(name)).unwrap_or(name);
    given.insert(found.clone());
    found
}

/// Renders one file of a batch, as finely as the patch asks for files; nothing if it is given up meanwhile.
pub fn render_piece(
    patch: &Patch,
    piece: &Piece,
    rate_hz: f64,
    clips: &dyn Clips,
    go_on: GoOn<'_>,
) -> Option<Rendered> {
    let mut there = patch.clone();
    differing::switch(&mut there, piece.articulation);
    match piece.played {
        Played::Note { key, velocity } => {
            let note = Note {
                key,
                velocity,
                ..Note::auditioned(&there, rate_hz)
            };
            render_while(&there, &note.to_its_end(&there), clips, go_on)
        }
        Played::Phrase { with_beat } => {
            let how = Phrased {
                with_beat,
                ..Phrased::to_its_end(&there, rate_hz)
            };
            let prepared = prepare_with(&there.for_files(), &Listening::default(), clips);
            render_phrase_while(&prepared, &there, &how, go_on)
        }
    }
}
