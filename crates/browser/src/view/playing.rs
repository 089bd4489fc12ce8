//! Phrase, macros and articulations.

use serde::Serialize;
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::document::{LinkId, SourceId};
use zolvik_patch::movement::{Macro, SourceKind};
use zolvik_patch::pitch::note_name;
use zolvik_play::Score;

use super::value::{ValueView, value_view};

/// A phrase.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct PhraseView {
    pub name: String,
    /// After how many beats it begins again.
    pub length_beats: f64,
    /// The same with swing and tempo, in seconds.
    pub length_s: f64,
    pub notes: Vec<NoteView>,
    /// Turns of the wheel: seconds, beats, 0 to 1.
    pub wheel: Vec<[f64; 3]>,
    /// Turns of the bend: seconds, beats, -1 to 1.
    pub bend: Vec<[f64; 3]>,
    /// Strokes of the beat within the phrase: seconds, which drum, how hard.
    pub strokes: Vec<(f64, u8, f64)>,
    /// The beat in words.
    pub beat: String,
}

/// A note of a phrase.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct NoteView {
    /// In beats, without swing.
    pub at_beats: f64,
    pub length_beats: f64,
    /// When it sounds, in seconds, with swing.
    pub at_s: f64,
    pub end_s: f64,
    /// MIDI key.
    pub key: i16,
    pub name: String,
    /// 1 to 127.
    pub velocity: u8,
    /// Whether another note is held as it begins: it is slid into where the patch glides.
    pub slid: bool,
    /// Bar, beat and hundredths of it, and its length, written.
    pub place: String,
    pub length: String,
}

/// A macro.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct MacroView {
    pub source: SourceId,
    pub name: String,
    /// Where it stands.
    pub value: ValueView,
    /// What it moves.
    pub links: Vec<LinkId>,
}

/// An articulation.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct ArticulationView {
    pub name: String,
    /// The key that switches to it, and its name; none for none.
    pub key: Option<u8>,
    pub key_name: Option<String>,
    /// How many things are different in it.
    pub differences: usize,
}

/// Longest picture of a phrase, in seconds.
const LONGEST_S: f64 = 24.0;
/// What is shown of a phrase after its end, in seconds.
const TAIL_S: f64 = 1.0;

/// Over how many seconds a phrase is drawn.
pub(crate) fn phrase_window_s(patch: &Patch) -> f64 {
    let beats = match &patch.playing.phrase {
        Some(phrase) => phrase.length_beats,
        None => Score::note(patch).length_beats,
    };
    (beats * 60.0 / patch.audition.tempo_bpm + TAIL_S).min(LONGEST_S)
}

pub(super) fn phrase(patch: &Patch) -> Option<PhraseView> {
    let phrase = patch.playing.phrase.as_deref()?;
    let beat_s = 60.0 / patch.audition.tempo_bpm;
    let time_s = |beats: f64| patch.playing.swung(beats) * beat_s;
    let slid = phrase.overlapping();
    let notes = phrase.notes.iter().zip(slid).map(|(note, slid)| {
        let key = i16::from(patch.audition.note) + note.semitones;
        let beat = note.at_beats;
        NoteView {
            at_beats: beat,
            length_beats: note.length_beats,
            at_s: time_s(beat),
            end_s: time_s(beat + note.length_beats),
            key,
            name: note_name(key.into()),
            velocity: note.velocity,
            slid,
            place: format!(
                "{}.{}.{:02}",
                (beat / 4.0).floor() + 1.0,
                (beat % 4.0).floor() + 1.0,
                (beat.fract() * 100.0).round().min(99.0)
            ),
            length: format!("{}", (note.length_beats * 1000.0).round() / 1000.0),
        }
    });
    let turns = |list: &[zolvik_patch::playing::WheelPlace]| {
        list.iter()
            .map(|t| [time_s(t.at_beats), t.at_beats, t.place])
            .collect()
    };
    let pattern = zolvik_patch::playing::beat::PATTERN_BEATS;
    let rounds = (phrase.length_beats / pattern).ceil() as usize;
    let strokes = (0..rounds.min(16)).flat_map(|round| {
        let own = patch.playing.beat.strokes().into_iter();
        own.map(move |s| (round as f64 * pattern + s.at_beats, s.drum as u8, s.accent))
    });
    Some(PhraseView {
        name: phrase.name.clone(),
        length_beats: phrase.length_beats,
        length_s: time_s(phrase.length_beats),
        notes: notes.collect(),
        wheel: turns(&phrase.wheel),
        bend: turns(&phrase.bend),
        strokes: strokes
            .filter(|(at, ..)| *at < phrase.length_beats)
            .map(|(at, drum, accent)| (time_s(at), drum, accent))
            .collect(),
        beat: patch.playing.beat.words(),
    })
}

pub(super) fn macros(patch: &Patch) -> Vec<MacroView> {
    let all = patch.movement.sources.iter();
    let macros = all.filter(|s| matches!(s.kind, SourceKind::Macro(_)));
    let view = |source: &zolvik_patch::movement::Source| {
        let mut value = value_view(patch, Address::new(Macro::PLACE, source.id.0))?;
        value.label = source.name.clone();
        Some(MacroView {
            source: source.id,
            name: source.name.clone(),
            value,
            links: patch.links_of(source.id).map(|l| l.id).collect(),
        })
    };
    macros.filter_map(view).collect()
}

pub(super) fn articulations(patch: &Patch) -> Vec<ArticulationView> {
    let view = |a: &zolvik_patch::playing::Articulation| ArticulationView {
        name: a.name.clone(),
        key: a.key,
        key_name: a.key.map(|key| note_name(key.into())),
        differences: a.differences.len(),
    };
    patch.playing.articulations.iter().map(view).collect()
}
