//! The phrase, and the score of the audio thread.

use zolvik_edit::Edit;
use zolvik_files::{file_name, midi};
use zolvik_json::Form;
use zolvik_patch::catalogue::param;
use zolvik_patch::document::Audition;
use zolvik_patch::param::Param;
use zolvik_patch::pitch::note_name;
use zolvik_patch::playing::phrase::NoteMove;
use zolvik_patch::playing::ready::READY_PHRASES;
use zolvik_patch::playing::{Phrase, PhraseNote, Playing};
use zolvik_patch::text::phrase::{length_beats, place_beats, velocities};
use zolvik_patch::timing::said_at;
use zolvik_patch::{address::Address, text};
use zolvik_play::Score;
use zolvik_play::recorder::Recorder;

use super::state::Page;
use crate::protocol::{
    Answer, NoteField, PhraseQuestion, ReadyPhraseView, Refusal, Reply, ScoreOf,
};

/// Phrases to choose from.
fn phrases() -> Answer {
    let view = |ready: &zolvik_patch::playing::ready::ReadyPhrase| ReadyPhraseView {
        name: ready.name,
        help: ready.help,
        key: ready.key,
        key_name: note_name(ready.key.into()),
    };
    Answer::Phrases {
        list: READY_PHRASES.iter().map(view).collect(),
    }
}

impl Page {
    /// Answers what is asked of the phrase.
    pub(super) fn answer_phrase(&mut self, question: PhraseQuestion) -> Result<Reply, Refusal> {
        match question {
            PhraseQuestion::Phrases => Ok(phrases().into()),
            PhraseQuestion::TakePhrase { at, from_its_key } => self.take_phrase(at, from_its_key),
            PhraseQuestion::GivePhrase { text } => self.give_phrase(&text),
            PhraseQuestion::PhraseText => Ok(Answer::Text {
                text: zolvik_json::text(self.phrase()?, Form::Lines),
            }
            .into()),
            PhraseQuestion::NoPhrase => self.edit(&Edit::SetPhrase { phrase: None }, None),
            PhraseQuestion::TypeBars { text } => {
                let beats = length_beats(&text)?;
                self.edit(&Edit::SetPhraseLength { beats }, None)
            }
            PhraseQuestion::VelocitiesOf { text } => {
                let list = velocities(&text)?;
                Ok(Answer::Velocities { list }.into())
            }
            PhraseQuestion::ImportMidi { name } => self.import_midi(&name),
            PhraseQuestion::ExportMidi => self.export_midi(),
            PhraseQuestion::Score { of } => Ok(self.score(of)),
            PhraseQuestion::Recorded { events, grid_beats } => self.recorded(&events, grid_beats),
            PhraseQuestion::MoveNotes {
                notes,
                by_beats,
                by_semitones,
                longer_beats,
                grid_beats,
                gesture,
            } => {
                let by = NoteMove {
                    by_beats,
                    by_semitones,
                    longer_beats,
                    grid_beats,
                };
                self.each_note(&notes, gesture, |note, length| note.moved(by, length))
            }
            PhraseQuestion::StrikeNotes {
                notes,
                by_velocity,
                gesture,
            } => self.each_note(&notes, gesture, |note, _| note.struck(by_velocity)),
            PhraseQuestion::TypeNote { notes, field, text } => self.type_note(&notes, field, &text),
        }
    }

    /// Takes a file in, for the question that comes.
    pub fn take_file(&mut self, bytes: Vec<u8>) {
        self.file = bytes;
    }

    pub(super) fn take_phrase(&mut self, at: usize, from_its_key: bool) -> Result<Reply, Refusal> {
        let ready = READY_PHRASES.get(at).ok_or(Refusal::NoSuch("phrase"))?;
        let mut edits = vec![give(ready.phrase())];
        if from_its_key {
            edits.push(Edit::SetValue {
                address: Address::patch(Audition::NOTE),
                value: ready.key.into(),
            });
        }
        self.together(&format!("phrase {}", ready.name), edits, None)
    }

    pub(super) fn give_phrase(&mut self, text: &str) -> Result<Reply, Refusal> {
        let phrase: Phrase = zolvik_json::read(text)?;
        self.edit(&give(phrase), None)
    }

    pub(super) fn phrase(&self) -> Result<&Phrase, Refusal> {
        let phrase = self.history.present().playing.phrase.as_deref();
        phrase.ok_or(Refusal::Cannot("there is no phrase; choose one first"))
    }

    pub(super) fn import_midi(&mut self, name: &str) -> Result<Reply, Refusal> {
        let bytes = std::mem::take(&mut self.file);
        let stem = name.rsplit_once('.').map_or(name, |(stem, _)| stem);
        let root = self.history.present().audition.note;
        let read = midi::read(&bytes, stem, root)?;
        // a file has its notes where they are heard: what swings in it would swing twice
        let even = Edit::SetValue {
            address: Address::patch(Playing::SWING),
            value: param(Playing::SWING).default,
        };
        self.said = read.left_out;
        let mut edits = vec![give(read.phrase), even];
        edits.extend(read.tempo_bpm.map(|value| Edit::SetValue {
            address: Address::patch(Audition::TEMPO_BPM),
            value,
        }));
        self.together(&format!("import {stem}"), edits, None)
    }

    pub(super) fn export_midi(&mut self) -> Result<Reply, Refusal> {
        let patch = self.history.present();
        let (audition, playing) = (&patch.audition, patch.playing.clone());
        let (root, tempo) = (audition.note, audition.tempo_bpm);
        let phrase = self.phrase()?;
        let file_name = file_name(&phrase.name, "mid");
        let file = midi::write(phrase, root, tempo, |beats| playing.swung(beats));
        Ok(Reply::with(Answer::Ready { file_name }, file))
    }

    pub(super) fn score(&mut self, of: ScoreOf) -> Reply {
        let patch = self.history.present();
        let score = match of {
            ScoreOf::Note => Score::note(patch),
            ScoreOf::Phrase => Score::of(patch),
            ScoreOf::Beat => Score::beat(patch),
        };
        let file_name = String::new();
        Reply::with(Answer::Ready { file_name }, score.bytes())
    }

    pub(super) fn recorded(
        &mut self,
        events: &[(f64, [u8; 3])],
        grid_beats: f64,
    ) -> Result<Reply, Refusal> {
        let mut recorder = Recorder::new(self.history.present().audition.note);
        for (at_beats, message) in events {
            recorder.take(*at_beats, *message);
        }
        recorder.end(events.last().map_or(0.0, |(at, _)| *at));
        // of what is too long the beginning is kept: nothing that was played is refused
        let phrase = recorder.cut().phrase("Recorded", grid_beats);
        let phrase = phrase?;
        self.edit(&give(phrase), None)
    }

    /// Makes notes anew from what they were when the gesture began; `next` is told a note and how many beats the phrase has.
    fn each_note(
        &mut self,
        notes: &[usize],
        gesture: u32,
        next: impl Fn(&PhraseNote, f64) -> PhraseNote,
    ) -> Result<Reply, Refusal> {
        self.begin(gesture);
        let began = self.base().playing.phrase.clone();
        let began = began.ok_or(Refusal::Cannot("there is no phrase"))?;
        // the whole phrase is made anew from its begin: notes keep their places in the list only until they pass others
        let mut phrase = (*began).clone();
        for at in notes {
            if let Some(note) = phrase.notes.get_mut(*at) {
                *note = next(note, began.length_beats);
            }
        }
        self.edit(&give(phrase), Some(gesture))
    }

    pub(super) fn type_note(
        &mut self,
        notes: &[usize],
        field: NoteField,
        typed: &str,
    ) -> Result<Reply, Refusal> {
        let patch = self.history.present();
        let root = patch.audition.note;
        let phrase = self.phrase()?;
        let number = |id, now: f64| text::read(id, typed, now);
        let beats = |now: f64| {
            use zolvik_patch::movement::Timing;
            let row = Param {
                label: "Length",
                max: phrase.length_beats,
                ..*param(Timing::CYCLE_BEATS)
            };
            // bare numbers are beats, as they are shown
            let times = said_at(patch, Address::patch(Audition::TEMPO_BPM));
            text::read_as(&row, typed, now.min(1.0), times)
        };
        let mut changed = vec![];
        for at in notes {
            let Some(note) = phrase.notes.get(*at) else {
                continue;
            };
            let mut next = *note;
            match field {
                NoteField::Pitch => {
                    let now = f64::from(root) + f64::from(note.semitones);
                    let key = number(Audition::NOTE, now)?;
                    next.semitones = (key - f64::from(root)).round() as i16;
                }
                NoteField::Velocity => {
                    next.velocity = number(Audition::VELOCITY, note.velocity.into())? as u8;
                }
                NoteField::Starts => next.at_beats = place_beats(typed, phrase.length_beats)?,
                NoteField::Length => next.length_beats = beats(note.length_beats)?,
            }
            changed.push((*at, next));
        }
        self.edit(&Edit::ChangeNotes { notes: changed }, None)
    }
}

fn give(phrase: Phrase) -> Edit {
    let mut phrase = phrase;
    phrase.tidy();
    Edit::SetPhrase {
        phrase: Some(Box::new(phrase)),
    }
}
