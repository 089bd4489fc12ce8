//! The phrase, the score of the audio thread, macros' ends and articulations.

use zolvik_edit::Edit;
use zolvik_files::{file_name, midi};
use zolvik_patch::Patch;
use zolvik_patch::any_json;
use zolvik_patch::catalogue::param;
use zolvik_patch::document::{Audition, LinkId, SourceId};
use zolvik_patch::expression::evaluate;
use zolvik_patch::limits::{BEATS_OF_A_BAR, MAX_PHRASE_BEATS, MIN_PHRASE_BEATS};
use zolvik_patch::movement::amount::{row_of, way};
use zolvik_patch::movement::{Macro, target};
use zolvik_patch::param::Param;
use zolvik_patch::pitch::note_name;
use zolvik_patch::playing::articulation::Difference;
use zolvik_patch::playing::differing;
use zolvik_patch::playing::phrase::snapped;
use zolvik_patch::playing::ready::READY_PHRASES;
use zolvik_patch::playing::{Phrase, PhraseNote, Playing};
use zolvik_patch::timing::said_at;
use zolvik_patch::{address::Address, json, text};
use zolvik_play::Score;
use zolvik_play::inlet::Meant;
use zolvik_play::recorder::Recorder;

use super::state::Page;
use crate::protocol::{Answer, DifferenceView, NoteField, ReadyPhraseView, ScoreOf};

/// Phrases to choose from.
pub(super) fn phrases() -> Answer {
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
    /// Takes a file in, for the question that comes.
    pub fn take_file(&mut self, bytes: Vec<u8>) {
        self.file = bytes;
    }

    /// What is meant by a message of a way in, once it is known who holds what.
    pub(super) fn meant_by(&mut self, way: &str, meant: Vec<Meant>) -> Answer {
        let mut heard = vec![];
        for meant in meant {
            match meant {
                Meant::Play { message } if message[0] & 0xF0 == 0xB0 && message[1] == 123 => {
                    let channel = message[0] & 15;
                    let gone = self.hands.let_go(|other, on| other == way && on == channel);
                    heard.extend(gone.into_iter().map(|message| Meant::Play { message }));
                }
                Meant::Play { message } => {
                    let message = self.hands.take(way, message);
                    heard.extend(message.map(|message| Meant::Play { message }));
                }
                other => heard.push(other),
            }
        }
        self.meant(heard)
    }

    /// Ways in go, or all of them.
    pub(super) fn let_go(&mut self, ways: &[String]) -> Answer {
        let goes = |way: &str| ways.is_empty() || ways.iter().any(|gone| gone == way);
        let messages = self.hands.let_go(|way, _| goes(way)).into_iter();
        self.meant(messages.map(|message| Meant::Play { message }).collect())
    }

    fn meant(&self, meant: Vec<Meant>) -> Answer {
        Answer::Meant {
            meant,
            held: self.hands.held(),
            pedal: self.hands.pedal_holds(),
        }
    }

    /// What goes with the last answer.
    pub fn give_file(&mut self) -> Vec<u8> {
        std::mem::take(&mut self.file)
    }

    pub(super) fn take_phrase(&mut self, at: usize, from_its_key: bool) -> Result<Answer, String> {
        let ready = READY_PHRASES.get(at).ok_or("there is no such phrase")?;
        let mut edits = vec![give(ready.phrase())];
        if from_its_key {
            edits.push(Edit::SetValue {
                address: Address::patch(Audition::NOTE),
                value: ready.key.into(),
            });
        }
        self.together(&format!("phrase {}", ready.name), edits, None)
    }

    pub(super) fn give_phrase(&mut self, text: &str) -> Result<Answer, String> {
        let phrase: Phrase = any_json::read(text).map_err(|e| e.to_string())?;
        self.edit(&give(phrase), None)
    }

    pub(super) fn phrase(&self) -> Result<&Phrase, String> {
        let phrase = self.history.present().playing.phrase.as_deref();
        phrase.ok_or_else(|| "there is no phrase; choose one first".into())
    }

    pub(super) fn import_midi(&mut self, name: &str) -> Result<Answer, String> {
        let bytes = self.give_file();
        let stem = name.rsplit_once('.').map_or(name, |(stem, _)| stem);
        let root = self.history.present().audition.note;
        let read = midi::read(&bytes, stem, root).map_err(|e| e.to_string())?;
        // a file has its notes where they are heard: what swings in it would swing twice
        let even = Edit::SetValue {
            address: Address::patch(Playing::SWING),
            value: param(Playing::SWING).default,
        };
        self.said = read.left_out;
        let mut edits = vec![give(read.phrase), even];
        let row = param(Audition::TEMPO_BPM);
        if let Some(bpm) = read.tempo_bpm {
            edits.push(Edit::SetValue {
                address: Address::patch(Audition::TEMPO_BPM),
                value: ((bpm * 10.0).round() / 10.0).clamp(row.min, row.max),
            });
        }
        self.together(&format!("import {stem}"), edits, None)
    }

    pub(super) fn export_midi(&mut self) -> Result<Answer, String> {
        let patch = self.history.present();
        let (audition, playing) = (&patch.audition, patch.playing.clone());
        let (root, tempo) = (audition.note, audition.tempo_bpm);
        let phrase = self.phrase()?;
        let file_name = file_name(&phrase.name, "mid");
        self.file = midi::write(phrase, root, tempo, |beats| playing.swung(beats));
        Ok(Answer::Ready { file_name })
    }

    pub(super) fn score(&mut self, of: ScoreOf) -> Answer {
        let patch = self.history.present();
        let score = match of {
            ScoreOf::Note => Score::note(patch),
            ScoreOf::Phrase => Score::of(patch),
            ScoreOf::Beat => Score::beat(patch),
        };
        self.file = score.bytes();
        Answer::Ready {
            file_name: String::new(),
        }
    }

    pub(super) fn recorded(
        &mut self,
        events: &[(f64, [u8; 3])],
        grid_beats: f64,
    ) -> Result<Answer, String> {
        let mut recorder = Recorder::new(self.history.present().audition.note);
        for (at_beats, message) in events {
            recorder.take(*at_beats, *message);
        }
        recorder.end(events.last().map_or(0.0, |(at, _)| *at));
        // of what is too long the beginning is kept: nothing that was played is refused
        let phrase = recorder.cut().phrase("Recorded", grid_beats);
        let phrase = phrase.map_err(|e| e.to_string())?;
        self.edit(&give(phrase), None)
    }

    /// Moves notes from where they were when the gesture began.
    pub(super) fn move_notes(
        &mut self,
        notes: &[usize],
        (by_beats, by_semitones, longer_beats): (f64, i16, f64),
        grid_beats: f64,
        gesture: u32,
    ) -> Result<Answer, String> {
        self.begin(gesture);
        let began = self.base().playing.phrase.clone();
        let began = began.ok_or("there is no phrase")?;
        let length = began.length_beats;
        let moved = |note: &PhraseNote| {
            let at = snapped(note.at_beats + by_beats, grid_beats);
            let end = note.length_beats + longer_beats;
            let shortest = if grid_beats > 0.0 {
                0.5 * grid_beats
            } else {
                0.02
            };
            PhraseNote {
                at_beats: if by_beats == 0.0 {
                    note.at_beats
                } else {
                    at.clamp(0.0, length - 0.001)
                },
                length_beats: if longer_beats == 0.0 {
                    note.length_beats
                } else {
                    snapped(end, 0.25 * grid_beats).max(shortest)
                },
                semitones: (note.semitones + by_semitones).clamp(-127, 127),
                velocity: note.velocity,
            }
        };
        // the whole phrase is made anew from its begin: notes keep their places in the list only until they pass others
        let mut phrase = (*began).clone();
        for at in notes {
            if let Some(note) = phrase.notes.get_mut(*at) {
                *note = moved(note);
            }
        }
        self.edit(&give(phrase), Some(gesture))
    }

    /// Sets the length of the phrase from a typed number of bars, or of beats.
    pub(super) fn type_bars(&mut self, typed: &str) -> Result<Answer, String> {
        let plain = typed.trim().to_lowercase().replace(',', ".");
        let number = |text: &str| evaluate(text.trim());
        let beats = match plain.trim_end_matches('s') {
            bars if bars.ends_with("bar") => {
                number(&bars[..bars.len() - 3]).map(|n| n * BEATS_OF_A_BAR)
            }
            beats if beats.ends_with("beat") => number(&beats[..beats.len() - 4]),
            bare => number(bare).map(|n| n * BEATS_OF_A_BAR),
        };
        let beats = beats.ok_or_else(|| {
            format!(
                "“{}” is not a length; type bars such as 2, or 6 beats",
                typed.trim()
            )
        })?;
        if !(MIN_PHRASE_BEATS..=MAX_PHRASE_BEATS).contains(&beats) {
            let (least, most) = (
                MIN_PHRASE_BEATS / BEATS_OF_A_BAR,
                MAX_PHRASE_BEATS / BEATS_OF_A_BAR,
            );
            return Err(format!("a phrase has {least} to {most} bars"));
        }
        self.edit(&Edit::SetPhraseLength { beats }, None)
    }

    pub(super) fn type_note(
        &mut self,
        notes: &[usize],
        field: NoteField,
        typed: &str,
    ) -> Result<Answer, String> {
        let patch = self.history.present();
        let root = patch.audition.note;
        let phrase = self.phrase()?;
        let number = |id, now: f64| text::read(id, typed, now).map_err(|e| e.to_string());
        let beats = |now: f64| {
            use zolvik_patch::movement::Timing;
            let row = Param {
                label: "Length",
                max: phrase.length_beats,
                ..*param(Timing::CYCLE_BEATS)
            };
            // bare numbers are beats, as they are shown
            let times = said_at(patch, Address::patch(Audition::TEMPO_BPM));
            text::read_as(&row, typed, now.min(1.0), times).map_err(|e| e.to_string())
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
                NoteField::Starts => next.at_beats = place_of(typed, phrase.length_beats)?,
                NoteField::Length => next.length_beats = beats(note.length_beats)?,
            }
            changed.push((*at, next));
        }
        self.edit(&Edit::ChangeNotes { notes: changed }, None)
    }

    pub(super) fn type_way(
        &mut self,
        link: LinkId,
        high: bool,
        typed: &str,
    ) -> Result<Answer, String> {
        let (low, high) = self.typed_end(link, way, high, typed)?;
        self.edit(&Edit::SetWay { link, low, high }, None)
    }

    /// The text of the patch with a macro at one of its ends.
    pub(super) fn at_end(&self, source: SourceId, high: bool) -> Result<Answer, String> {
        let mut there = self.history.present().clone();
        let place = Address::new(Macro::PLACE, source.0);
        let value = if high { 1.0 } else { 0.0 };
        place.set(&mut there, value).map_err(|e| e.to_string())?;
        let text = json::write(&there);
        Ok(Answer::Text { text })
    }

    /// What is different in the articulations, side by side.
    pub(super) fn differences(&self) -> Answer {
        let base = differing::for_file(self.history.present());
        let list = &base.playing.articulations;
        let mut about: Vec<&Difference> = vec![];
        for difference in list.iter().flat_map(|a| &a.differences) {
            if !about.iter().any(|known| known.same_place(difference)) {
                about.push(difference);
            }
        }
        let all: Vec<Patch> = (0..=list.len())
            .map(|n| {
                let mut there = base.clone();
                there.playing.articulation = None;
                differing::switch(&mut there, n.checked_sub(1).map(|at| at as u8));
                there
            })
            .collect();
        let rows = about.iter().map(|difference| {
            let values: Vec<String> = all
                .iter()
                .map(|patch| in_words(patch, difference))
                .collect();
            let present: Vec<_> = all.iter().map(|patch| difference.present(patch)).collect();
            DifferenceView {
                title: title(&base, difference),
                same: present.iter().map(|p| *p == present[0]).collect(),
                values,
            }
        });
        let names = list.iter().map(|a| a.name.clone());
        Answer::Differences {
            names: std::iter::once("Base".into()).chain(names).collect(),
            rows: rows.collect(),
        }
    }
}

fn give(phrase: Phrase) -> Edit {
    let mut phrase = phrase;
    phrase.tidy();
    Edit::SetPhrase {
        phrase: Some(Box::new(phrase)),
    }
}

/// A place in a phrase typed in beats (`2.5`) or as bar, beat and hundredths of it (`1.3.50`), both counted from 1.
fn place_of(typed: &str, length_beats: f64) -> Result<f64, String> {
    let why = || {
        format!(
            "“{}” is not a place; type beats such as 2.5, or bar.beat.hundredths such as 1.3.50",
            typed.trim()
        )
    };
    let number = |text: &str| evaluate(text).ok_or_else(why);
    let plain = typed.replace(',', ".");
    let parts: Vec<&str> = plain.trim().split('.').collect();
    let place = match parts[..] {
        [bar, beat, part] => {
            let (bar, beat, part) = (number(bar)?, number(beat)?, number(part)?);
            (bar - 1.0) * BEATS_OF_A_BAR + (beat - 1.0) + part / 100.0
        }
        _ => number(
            plain
                .trim()
                .trim_end_matches("beats")
                .trim_end_matches("beat"),
        )?,
    };
    match (0.0..length_beats).contains(&place) {
        true => Ok(place),
        false => Err(format!(
            "a note starts within the phrase: from 0 to {length_beats} beats"
        )),
    }
}

fn title(patch: &Patch, difference: &Difference) -> String {
    let unit = |id: zolvik_patch::document::UnitId| match id.source() {
        Some(source) => patch.source(source).map(|s| s.name.clone()),
        None => patch.unit(id).map(|u| u.name.clone()),
    };
    let named = |name: Option<String>, what: &str| format!("{} {what}", name.unwrap_or_default());
    match difference {
        Difference::Value { address, .. } => target::name(patch, *address),
        Difference::Envelope { unit: id, .. } => named(unit(*id), "envelope"),
        Difference::Shape { source, .. } => named(unit((*source).into()), "shape"),
        Difference::Unit { unit: id, .. } => named(unit(*id), "on"),
        Difference::Source { source, .. } => named(unit((*source).into()), "on"),
        Difference::Link { link, .. } => {
            let found = patch.link(*link);
            let to = found.map_or_else(String::new, |l| target::name(patch, l.to));
            format!("link to {to} on")
        }
        Difference::Effect { effect, .. } => {
            named(patch.effect(*effect).map(|e| e.title().to_owned()), "on")
        }
    }
}

fn in_words(patch: &Patch, difference: &Difference) -> String {
    let on = |on: bool| if on { "on" } else { "off" }.to_string();
    match difference.present(patch) {
        Some(Difference::Value { address, value }) => {
            text::write_as(&row_of(patch, address), value).to_string()
        }
        Some(Difference::Envelope { envelope, .. }) => {
            let times = envelope
                .points
                .iter()
                .map(|p| text::write(zolvik_patch::document::Point::TIME_S, p.time_s).to_string());
            times.collect::<Vec<_>>().join(", ")
        }
        Some(Difference::Shape { kind, .. }) => match &*kind {
            zolvik_patch::movement::SourceKind::Steps(steps) => {
                format!("{} steps", steps.steps.len())
            }
            zolvik_patch::movement::SourceKind::Lfo(lfo) => format!("{} points", lfo.points.len()),
            _ => String::new(),
        },
        Some(
            Difference::Unit { on: is, .. }
            | Difference::Source { on: is, .. }
            | Difference::Link { on: is, .. }
            | Difference::Effect { on: is, .. },
        ) => on(is),
        None => String::new(),
    }
}
