//! What is to be played, in beats, with swing worked in.

use bytemuck::{Pod, Zeroable};
use zolvik_patch::Patch;
use zolvik_patch::playing::beat::PATTERN_BEATS;
use zolvik_patch::playing::{Phrase, WheelPlace};
use zolvik_patch::timing::auditioned_end_s;

/// No score is shorter.
const SHORTEST_BEATS: f64 = 0.0025;
/// Most entries of each list, so that bytes from elsewhere cannot take all memory.
const MOST: usize = 4096;

/// A key that goes down and up.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct ScoreNote {
    pub(crate) at_beats: f64,
    pub(crate) end_beats: f64,
    pub(crate) key: u32,
    pub(crate) velocity: u32,
}

/// Where a wheel stands at a moment.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct ScoreTurn {
    pub(crate) at_beats: f64,
    pub(crate) place: f64,
}

/// A stroke of the beat.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct ScoreStroke {
    pub(crate) at_beats: f64,
    /// A `Drum` as number.
    pub(crate) drum: u32,
    pub(crate) gain: f32,
}

#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
struct Head {
    length_beats: f64,
    notes: u32,
    wheel: u32,
    bend: u32,
    strokes: u32,
}

/// What is to be played.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Score {
    /// After how many beats the notes begin again.
    pub length_beats: f64,
    pub(crate) notes: Vec<ScoreNote>,
    pub(crate) wheel: Vec<ScoreTurn>,
    pub(crate) bend: Vec<ScoreTurn>,
    pub(crate) strokes: Vec<ScoreStroke>,
}

/// Why bytes are no score.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
#[error("these bytes are no score of this version")]
pub struct NoScore;

impl Score {
    /// What a patch is tried with: its phrase, or else its auditioned note; and its beat.
    pub fn of(patch: &Patch) -> Score {
        match &patch.playing.phrase {
            Some(phrase) => Score::phrase(patch, phrase),
            None => Score::note(patch),
        }
    }

    /// The phrase of a patch from its auditioned key on, with its beat. Keys beyond the keyboard are left out.
    pub fn phrase(patch: &Patch, phrase: &Phrase) -> Score {
        let at = |beats: f64| patch.playing.swung(beats);
        let root = i32::from(patch.audition.note);
        let notes = phrase.notes.iter().filter_map(|note| {
            let key = root + i32::from(note.semitones);
            (0..128).contains(&key).then(|| ScoreNote {
                at_beats: at(note.at_beats),
                end_beats: at(note.at_beats + note.length_beats),
                key: key as u32,
                velocity: note.velocity.into(),
            })
        });
        let turns = |list: &[WheelPlace]| {
            let turn = |t: &WheelPlace| ScoreTurn {
                at_beats: at(t.at_beats),
                place: t.place,
            };
            list.iter().map(turn).collect()
        };
        Score {
            length_beats: at(phrase.length_beats),
            notes: notes.collect(),
            wheel: turns(&phrase.wheel),
            bend: turns(&phrase.bend),
            ..Score::beat(patch)
        }
    }

    /// The auditioned note of a patch by itself, again after its end; with its beat.
    pub fn note(patch: &Patch) -> Score {
        let a = &patch.audition;
        let beats = |time_s: f64| time_s * a.tempo_bpm / 60.0;
        Score {
            length_beats: beats(auditioned_end_s(patch).max(a.hold_s + 0.1)),
            notes: vec![ScoreNote {
                at_beats: 0.0,
                end_beats: beats(a.hold_s),
                key: a.note.into(),
                velocity: a.velocity.into(),
            }],
            ..Score::beat(patch)
        }
    }

    /// The beat of a patch by itself.
    pub fn beat(patch: &Patch) -> Score {
        let strokes = patch.playing.beat.strokes().into_iter();
        let stroke = |s: zolvik_patch::playing::beat::Stroke| ScoreStroke {
            at_beats: patch.playing.swung(s.at_beats),
            drum: s.drum as u32,
            gain: s.accent as f32,
        };
        Score {
            length_beats: PATTERN_BEATS,
            strokes: strokes.map(stroke).collect(),
            ..Score::default()
        }
    }

    /// Keys and how hard they are struck.
    pub fn keys(&self) -> impl Iterator<Item = (u8, u8)> + '_ {
        self.notes.iter().map(|n| (n.key as u8, n.velocity as u8))
    }

    /// When the last key goes up, in beats.
    pub fn end_beats(&self) -> f64 {
        self.notes.iter().map(|n| n.end_beats).fold(0.0, f64::max)
    }

    /// As bytes, for another thread's player of the same version.
    pub fn bytes(&self) -> Vec<u8> {
        let head = Head {
            length_beats: self.length_beats,
            notes: self.notes.len() as u32,
            wheel: self.wheel.len() as u32,
            bend: self.bend.len() as u32,
            strokes: self.strokes.len() as u32,
        };
        let mut bytes = bytemuck::bytes_of(&head).to_vec();
        bytes.extend_from_slice(bytemuck::cast_slice(&self.notes));
        bytes.extend_from_slice(bytemuck::cast_slice(&self.wheel));
        bytes.extend_from_slice(bytemuck::cast_slice(&self.bend));
        bytes.extend_from_slice(bytemuck::cast_slice(&self.strokes));
        bytes
    }

    /// Reads what [`Score::bytes`] gave.
    ///
    /// # Errors
    /// If they are none.
    pub fn from_bytes(bytes: &[u8]) -> Result<Score, NoScore> {
        let (head, rest) = bytes.split_at_checked(size_of::<Head>()).ok_or(NoScore)?;
        let head: Head = bytemuck::try_pod_read_unaligned(head).map_err(|_| NoScore)?;
        let mut rest = rest;
        let score = Score {
            length_beats: head.length_beats,
            notes: list(&mut rest, head.notes)?,
            wheel: list(&mut rest, head.wheel)?,
            bend: list(&mut rest, head.bend)?,
            strokes: list(&mut rest, head.strokes)?,
        };
        let whole = score.length_beats.is_finite() && score.length_beats >= SHORTEST_BEATS;
        let notes = score.notes.iter().all(|n| {
            n.at_beats.is_finite() && n.end_beats.is_finite() && n.key < 128 && n.velocity < 128
        });
        let drums = zolvik_patch::playing::beat::Drum::ALL.len();
        let strokes = score
            .strokes
            .iter()
            .all(|s| s.at_beats.is_finite() && (s.drum as usize) < drums);
        match whole && notes && strokes && rest.is_empty() {
            true => Ok(score),
            false => Err(NoScore),
        }
    }
}

fn list<T: Pod>(rest: &mut &[u8], count: u32) -> Result<Vec<T>, NoScore> {
    let count = count as usize;
    if count > MOST {
        return Err(NoScore);
    }
    let (own, after) = rest
        .split_at_checked(count * size_of::<T>())
        .ok_or(NoScore)?;
    *rest = after;
    Ok(own
        .chunks_exact(size_of::<T>())
        .map(bytemuck::pod_read_unaligned)
        .collect())
}
