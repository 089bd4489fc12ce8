//! The page's side: one document, its history, and what is muted or soloed for now.

use zolvik_engine::program::compile;
use zolvik_files::scala;
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::arrangement::{Layout, Place, operators, present_layout};
use zolvik_patch::catalogue::{CATALOGUE, Owner, Param, ParamId, Quantity, param};
use zolvik_patch::document::UnitId;
use zolvik_patch::edit::{Edit, apply};
use zolvik_patch::envelope::{BEAT_S, Envelope, READY};
use zolvik_patch::hearing::Listening;
use zolvik_patch::history::History;
use zolvik_patch::sound::Sound;
use zolvik_patch::wave::{Bars, OwnTable, Wave};
use zolvik_patch::{json, shape, text};

use crate::inspect::{
    ArrangementView, arrangements, bars_of, inspect, laid, ready_envelopes, sounds, waves,
};
use crate::phrase::phrase;
use crate::protocol::{Answer, Question};
use crate::view::{document_view, words};

/// Gestures of trying are counted from here, out of the way of those the page counts.
const TRIALS: u32 = 1 << 31;

/// An open document.
pub struct Page {
    history: History,
    listening: Listening,
    /// What several values were when a gesture that moves them together began.
    start: Option<(u32, Box<Patch>)>,
    /// The document before arrangements were tried, and the gesture that tries them.
    trial: Option<(u32, Box<Patch>)>,
    trials: u32,
    /// The arrangements offered last.
    offered: Vec<ArrangementView>,
    /// The envelope copied last.
    copied: Option<Envelope>,
    /// Contents of recordings the store does not have.
    missing: Vec<String>,
}

impl Default for Page {
    fn default() -> Self {
        Page {
            history: History::new(Patch::empty()),
            listening: Listening::default(),
            start: None,
            trial: None,
            trials: TRIALS,
            offered: vec![],
            copied: None,
            missing: vec![],
        }
    }
}

impl Page {
    /// Answers a question; none if it is one for the worker.
    pub fn answer(&mut self, question: Question) -> Option<Answer> {
        Some(match self.try_answer(question)? {
            Ok(answer) => answer,
            Err(why) => Answer::Refused { why },
        })
    }

    /// The compiled program of the document as it is heard now.
    pub fn program(&self) -> Vec<u8> {
        compile(self.history.present(), &self.listening)
            .bytes()
            .to_vec()
    }

    fn try_answer(&mut self, question: Question) -> Option<Result<Answer, String>> {
        let patch = self.history.present();
        Some(match question {
            Question::New => Ok(self.open(Patch::empty())),
            Question::Load { text } => json::read(&text)
                .map(|patch| self.open(patch))
                .map_err(|e| e.to_string()),
            Question::BringBack { text } => {
                json::read(&text)
                    .map_err(|e| e.to_string())
                    .and_then(|mut patch| {
                        // an earlier version comes into the state there is; the other one stays
                        let present = self.history.present();
                        (patch.slot, patch.other) = (present.slot, present.other.clone());
                        self.edit(
                            &Edit::Replace {
                                patch: Box::new(patch),
                            },
                            None,
                        )
                    })
            }
            Question::Edit { edit, gesture } => self.edit_linked(edit, gesture),
            Question::Type {
                address,
                also,
                text,
            } => {
                let beat_s = self.beat_s(address);
                self.set_all(address, &also, None, |row, now| {
                    text::read_at(row.id, &text, now, beat_s).map_err(|e| e.to_string())
                })
            }
            Question::Nudge {
                address,
                also,
                steps,
                fine,
                gesture,
            } => self.set_all(address, &also, gesture, |row, now| {
                Ok(row.nudge(now, steps, fine))
            }),
            Question::Drag {
                address,
                also,
                start,
                moved,
                fine,
                gesture,
            } => self.drag(address, &also, (start, moved, fine), gesture),
            Question::Reset { address, also } => {
                self.set_all(address, &also, None, |row, _| Ok(row.default))
            }
            Question::Inspect { unit } => inspect(patch, unit)
                .map(|view| Answer::Inspected {
                    view: Box::new(view),
                })
                .ok_or_else(gone),
            Question::StepWave { units, steps } => {
                let step = |unit: &UnitId| {
                    let wave = &patch.unit(*unit)?.oscillator()?.wave;
                    Some(Edit::SetWave {
                        units: vec![*unit],
                        wave: wave.stepped(&patch.tables, steps),
                    })
                };
                let edits = units.iter().filter_map(step).collect();
                self.together("wave", edits, None)
            }
            Question::DrawBar {
                unit,
                harmonic,
                amplitude,
                phase_turns,
                gesture,
            } => self.bars(unit, gesture, |bars| {
                let (a, p) = bars.harmonic(harmonic);
                bars.set(harmonic, amplitude.unwrap_or(a), phase_turns.unwrap_or(p));
            }),
            Question::ChooseWave { units, at } => {
                let wave = waves(patch).into_iter().nth(at).map(|choice| choice.wave);
                wave.ok_or_else(|| "there is no such wave".into())
                    .and_then(|wave| self.edit(&Edit::SetWave { units, wave }, None))
            }
            Question::AddTable { units, table } => self.add_table(units, &table),
            Question::Sounds => Ok(Answer::Sounds {
                list: sounds(patch),
            }),
            Question::ChooseSound { units, at } => {
                let sound = sounds(patch).into_iter().nth(at).map(|choice| choice.sound);
                sound
                    .ok_or_else(|| "there is no such recording".into())
                    .and_then(|sound| self.set_sound(units, sound))
            }
            Question::AddSound { units, sound } => serde_json::from_str(&sound)
                .map_err(|e| e.to_string())
                .and_then(|own| self.set_sound(units, Sound::Own(own))),
            Question::Missing { contents } => {
                self.missing = contents;
                Ok(self.document(None))
            }
            Question::Helps => Ok(Answer::Helps {
                helps: CATALOGUE.iter().map(|row| (row.id, row.help)).collect(),
            }),
            Question::Waves => Ok(Answer::Waves {
                waves: waves(patch),
            }),
            Question::LoadScale { file_name, text } => self.load_scale(&file_name, &text),
            Question::ClearScale => self.edit(&Edit::SetScale { scale: None }, None),
            Question::Arrangements => {
                self.offered = arrangements(self.before_trial());
                Ok(Answer::Arrangements {
                    list: self.offered.clone(),
                })
            }
            Question::TryArrangement { at } => match self.offered.get(at) {
                Some(offered) => self.try_arrangement(offered.places.clone()),
                None => Err("there is no such arrangement".into()),
            },
            Question::EndTrial { keep } => {
                let base = self.trial.take().map(|(_, patch)| patch);
                // trying what was there already leaves nothing to take back
                if base.is_some_and(|b| !keep && *b != *self.history.present()) {
                    self.history.take_back();
                }
                Ok(self.document(None))
            }
            Question::KeepArrangement => serde_json::to_string(&present_layout(patch))
                .map(|text| Answer::Text { text })
                .map_err(|e| e.to_string()),
            Question::LayArrangement { text } => self.lay_arrangement(&text),
            Question::DragHandle {
                unit,
                at,
                bend,
                free,
                time_s,
                level,
                gesture,
            } => match shape::drag(patch, unit, (at, bend), (time_s, level), free) {
                Some(Edit::Together { label, edits }) => {
                    self.begin(gesture);
                    self.together(&label, self.with_linked(edits), Some(gesture))
                }
                _ => Err(gone()),
            },
            Question::CopyEnvelope { unit } => match patch.unit(unit) {
                Some(unit) => {
                    self.copied = Some(unit.envelope.clone());
                    Ok(self.document(None))
                }
                None => Err(gone()),
            },
            Question::PasteEnvelope { units } => match self.copied.clone() {
                Some(envelope) => self.set_envelope(units, envelope),
                None => Err("no envelope was copied yet".into()),
            },
            Question::ReadyEnvelopes => Ok(Answer::Envelopes {
                list: ready_envelopes(),
            }),
            Question::TakeReady { units, at } => match READY.get(at) {
                Some(ready) => self.set_envelope(units, ready.envelope()),
                None => Err("there is no such envelope".into()),
            },
            Question::TrimTo { true_peak_db } => self.trim(true_peak_db),
            Question::Undo => {
                self.trial = None;
                self.history.undo();
                Ok(self.document(None))
            }
            Question::Redo => {
                self.trial = None;
                self.history.redo();
                Ok(self.document(None))
            }
            Question::Listen { listening } => {
                self.listening = listening;
                Ok(self.document(None))
            }
            Question::Save => Ok(Answer::Text {
                text: json::write(patch),
            }),
            Question::OtherText => match &patch.other {
                Some(other) => Ok(Answer::Text {
                    text: json::write(other),
                }),
                None => Err("there is no other state yet".into()),
            },
            Question::Words { amplitudes, sends } => Ok(self.words(&amplitudes, &sends)),
            Question::Phrase => Ok(Answer::Phrase {
                messages: phrase(patch.audition.note),
            }),
            Question::Unfold { .. }
            | Question::Spectrum { .. }
            | Question::Bank { .. }
            | Question::Measure { .. }
            | Question::PutClip { .. }
            | Question::Waveform { .. }
            | Question::LookRecording
            | Question::CutTable { .. }
            | Question::Wav { .. } => {
                return None;
            }
        })
    }

    fn open(&mut self, patch: Patch) -> Answer {
        *self = Page {
            history: History::new(patch),
            copied: self.copied.take(),
            ..Page::default()
        };
        let first = self.history.present().units.first().map(|u| u.id);
        self.document(first)
    }

    fn document(&self, select: Option<UnitId>) -> Answer {
        let mut view = document_view(&self.history, &self.listening, &self.missing);
        view.trying = self.trial.is_some();
        Answer::Document {
            view: Box::new(view),
            select,
        }
    }

    fn edit(&mut self, edit: &Edit, gesture: Option<u32>) -> Result<Answer, String> {
        let select = self
            .history
            .edit(edit, gesture)
            .inspect(|_| {
                // any other edit takes what was tried
                if self
                    .trial
                    .as_ref()
                    .is_some_and(|(g, _)| Some(*g) != gesture)
                {
                    self.trial = None;
                }
            })
            .map_err(|e| e.to_string())?;
        self.listening.keep_known(self.history.present());
        Ok(self.document(select))
    }

    fn current(&self, address: Address) -> Result<f64, String> {
        address
            .get(self.history.present())
            .map_err(|e| e.to_string())
    }

    fn set(
        &mut self,
        address: Address,
        value: f64,
        gesture: Option<u32>,
    ) -> Result<Answer, String> {
        self.edit(&Edit::SetValue { address, value }, gesture)
    }

    /// Sets a value, and the same value of other units, each from what it is now.
    fn set_all(
        &mut self,
        address: Address,
        also: &[u16],
        gesture: Option<u32>,
        next: impl Fn(&Param, f64) -> Result<f64, String>,
    ) -> Result<Answer, String> {
        let row = param(address.param);
        let mut edits = vec![];
        for address in everywhere(address, also) {
            // others may lack the value: a table's position, say
            if let Ok(now) = self.current(address) {
                let value = next(row, now)?;
                edits.push(Edit::SetValue { address, value });
            }
        }
        match gesture {
            Some(gesture) => self.begin(gesture),
            None => self.start = None,
        }
        self.together(&row.label.to_lowercase(), self.with_linked(edits), gesture)
    }

    /// Remembers the document as it was when a gesture began.
    fn begin(&mut self, gesture: u32) {
        if self.start.as_ref().is_none_or(|(g, _)| *g != gesture) {
            self.start = Some((gesture, Box::new(self.history.present().clone())));
        }
    }

    /// Length of a beat for a typed note length: envelopes in beats are written for 120 beats a minute, all else
    /// takes the tempo as it is.
    fn beat_s(&self, address: Address) -> f64 {
        let patch = self.history.present();
        let in_beats = patch
            .unit(UnitId(address.id))
            .is_some_and(|u| u.envelope.in_beats);
        match in_beats && is_of_envelope(address.param) {
            true => BEAT_S,
            false => 60.0 / patch.audition.tempo_bpm,
        }
    }

    /// The same changes for the envelopes linked with those changed: alike, or each from where it was when the
    /// gesture began.
    fn with_linked(&self, edits: Vec<Edit>) -> Vec<Edit> {
        let base = match &self.start {
            Some((_, patch)) => patch,
            None => self.history.present(),
        };
        let mut all = edits.clone();
        for edit in &edits {
            let Edit::SetValue { address, value } = edit else {
                continue;
            };
            if !is_of_envelope(address.param) {
                continue;
            }
            let (linked, equal) = base.linked(UnitId(address.id));
            for other in linked {
                let other = Address {
                    id: other.0,
                    ..*address
                };
                let named =
                    |e: &Edit| matches!(e, Edit::SetValue { address, .. } if *address == other);
                let (Ok(was), Ok(theirs)) = (address.get(base), other.get(base)) else {
                    continue; // a point the other one lacks
                };
                if all.iter().any(named) {
                    continue;
                }
                let row = param(address.param);
                let moved = match row.quantity {
                    _ if equal => *value,
                    // times keep their proportion
                    Quantity::Seconds if was > 0.0 && theirs > 0.0 => theirs * value / was,
                    _ => theirs + value - was,
                };
                all.push(Edit::SetValue {
                    address: other,
                    value: moved.clamp(row.min, row.max),
                });
            }
        }
        all
    }

    /// An edit with what follows from linked envelopes.
    fn edit_linked(&mut self, edit: Edit, gesture: Option<u32>) -> Result<Answer, String> {
        let patch = self.history.present();
        let points = |unit: UnitId| patch.unit(unit).map(|u| u.envelope.points.len());
        // linked envelopes of another form keep theirs
        let joined = |units: &[UnitId]| {
            let mut all = units.to_vec();
            for unit in units {
                let (linked, _) = patch.linked(*unit);
                for other in linked {
                    if points(other) == points(*unit) && !all.contains(&other) {
                        all.push(other);
                    }
                }
            }
            all
        };
        match edit {
            Edit::HoldPoint { units, at } => {
                let units = joined(&units);
                self.edit(&Edit::HoldPoint { units, at }, gesture)
            }
            Edit::LoopFrom { units, from } => {
                let units = joined(&units);
                self.edit(&Edit::LoopFrom { units, from }, gesture)
            }
            Edit::TieToTempo { units, on } => {
                let units = joined(&units);
                self.edit(&Edit::TieToTempo { units, on }, gesture)
            }
            Edit::AddPoint { unit, .. } | Edit::RemovePoint { unit, .. } => {
                let (linked, equal) = patch.linked(unit);
                if linked.is_empty() {
                    return self.edit(&edit, gesture);
                }
                let label = edit.label(patch);
                let mut edits = vec![edit.clone()];
                if equal {
                    let (next, _) = apply(patch, &edit).map_err(|e| e.to_string())?;
                    let env = next.unit(unit).map(|u| Box::new(u.envelope.clone()));
                    edits.extend(env.map(|envelope| Edit::SetEnvelope {
                        units: linked,
                        envelope,
                    }));
                } else {
                    let same = linked.into_iter().map(|other| match edit {
                        Edit::AddPoint { time_s, level, .. } => Edit::AddPoint {
                            unit: other,
                            time_s,
                            level,
                        },
                        Edit::RemovePoint { at, .. } => Edit::RemovePoint { unit: other, at },
                        _ => edit.clone(),
                    });
                    edits.extend(same.filter(|e| apply(patch, e).is_ok()));
                }
                self.together(&label, edits, gesture)
            }
            edit => self.edit(&edit, gesture),
        }
    }

    /// Gives units an envelope, and those linked with them alike.
    fn set_envelope(&mut self, units: Vec<UnitId>, envelope: Envelope) -> Result<Answer, String> {
        let patch = self.history.present();
        let mut all = units.clone();
        for unit in &units {
            let (linked, equal) = patch.linked(*unit);
            all.extend(linked.into_iter().filter(|l| equal && !units.contains(l)));
        }
        let envelope = Box::new(envelope);
        self.edit(
            &Edit::SetEnvelope {
                units: all,
                envelope,
            },
            None,
        )
    }

    /// Drags a value; the same values of other units move as far along their bars from where they began.
    fn drag(
        &mut self,
        address: Address,
        also: &[u16],
        (start, moved, fine): (f64, f64, bool),
        gesture: u32,
    ) -> Result<Answer, String> {
        self.begin(gesture);
        let row = param(address.param);
        let began = self.start.as_ref().map(|(_, patch)| patch);
        let edits = everywhere(address, also)
            .filter_map(|each| {
                let from = match each == address {
                    true => start,
                    false => each.get(began?).ok()?,
                };
                let value = row.drag(from, moved, fine);
                Some(Edit::SetValue {
                    address: each,
                    value,
                })
            })
            .collect();
        self.together(
            &row.label.to_lowercase(),
            self.with_linked(edits),
            Some(gesture),
        )
    }

    fn together(
        &mut self,
        label: &str,
        mut edits: Vec<Edit>,
        gesture: Option<u32>,
    ) -> Result<Answer, String> {
        if edits.len() == 1 {
            return self.edit(&edits.remove(0), gesture);
        }
        let label = label.into();
        self.edit(&Edit::Together { label, edits }, gesture)
    }

    fn bars(
        &mut self,
        unit: UnitId,
        gesture: Option<u32>,
        change: impl FnOnce(&mut Bars),
    ) -> Result<Answer, String> {
        let patch = self.history.present();
        let mut bars = patch
            .unit(unit)
            .and_then(|u| Some(bars_of(patch, u.oscillator()?)))
            .ok_or_else(gone)?;
        change(&mut bars);
        let (units, wave) = (vec![unit], Wave::Bars(bars));
        self.edit(&Edit::SetWave { units, wave }, gesture)
    }

    fn add_table(&mut self, units: Vec<UnitId>, text: &str) -> Result<Answer, String> {
        let mut table: OwnTable = serde_json::from_str(text).map_err(|e| e.to_string())?;
        table.id = self.history.present().free_table();
        let wave = Wave::Own(table.id);
        let label = format!("import {}", table.name);
        let table = Box::new(table);
        let edits = vec![Edit::AddTable { table }, Edit::SetWave { units, wave }];
        self.together(&label, edits, None)
    }

    fn set_sound(&mut self, units: Vec<UnitId>, sound: Sound) -> Result<Answer, String> {
        let sound = Box::new(sound);
        self.edit(&Edit::SetSound { units, sound }, None)
    }

    fn lay_arrangement(&mut self, text: &str) -> Result<Answer, String> {
        let layout: Layout = serde_json::from_str(text).map_err(|e| e.to_string())?;
        let patch = self.before_trial();
        let (needs, has) = (layout.0.len(), operators(patch).len());
        let view = laid(patch, &layout);
        let view =
            view.ok_or_else(|| format!("it is for {needs} operators, this patch has {has}"))?;
        self.try_arrangement(view.places)
    }

    fn load_scale(&mut self, file_name: &str, text: &str) -> Result<Answer, String> {
        let say = |e: scala::ScalaError| e.to_string();
        let scale = if file_name.to_lowercase().ends_with(".kbm") {
            let scale = self.history.present().scale.as_ref();
            let scale = scale.ok_or("load a scale first; the map lays its degrees on the keys")?;
            scala::lay(scale, scala::read_map(text).map_err(say)?).map_err(say)?
        } else {
            let name = file_name
                .rsplit_once('.')
                .map_or(file_name, |(name, _)| name);
            scala::read_scale(text, name).map_err(say)?
        };
        let scale = Some(Box::new(scale));
        self.edit(&Edit::SetScale { scale }, None)
    }

    /// The document arrangements are laid on: as it was before the first was tried.
    fn before_trial(&self) -> &Patch {
        match &self.trial {
            Some((_, patch)) => patch,
            None => self.history.present(),
        }
    }

    fn try_arrangement(&mut self, places: Vec<Place>) -> Result<Answer, String> {
        let base = self.before_trial().clone();
        let (next, _) = apply(&base, &Edit::Arrange { places }).map_err(|e| e.to_string())?;
        let gesture = match &self.trial {
            Some((gesture, _)) => *gesture,
            None => {
                self.trials = self.trials.wrapping_add(1).max(TRIALS);
                self.trials
            }
        };
        self.trial = Some((gesture, Box::new(base)));
        let patch = Box::new(next);
        let label = "algorithm".into();
        self.edit(
            &Edit::Together {
                label,
                edits: vec![Edit::Replace { patch }],
            },
            Some(gesture),
        )
    }

    fn trim(&mut self, true_peak_db: f64) -> Result<Answer, String> {
        const GOAL_DB: f64 = -1.0;
        if true_peak_db < -150.0 {
            return Err("the note is silent; there is nothing to trim".into());
        }
        let (address, row) = (
            Address::patch(ParamId::VoiceTrimDb),
            param(ParamId::VoiceTrimDb),
        );
        let now = self.current(address)?;
        let goal = ((now + GOAL_DB - true_peak_db) * 10.0).floor() / 10.0;
        self.set(address, goal.clamp(row.min, row.max), None)
    }

    fn words(&self, amplitudes: &[f64], sends: &[usize]) -> Answer {
        let patch = self.history.present();
        let rows = zolvik_patch::arrange::rows(patch);
        let each = rows.iter().zip(amplitudes).zip(sends);
        Answer::Words {
            words: each
                .map(|((unit, a), send)| words(patch, *unit, *send, *a))
                .collect(),
        }
    }
}

/// Whether a value belongs to the course of an envelope.
fn is_of_envelope(id: ParamId) -> bool {
    id == ParamId::EnvelopeDelayS || param(id).owner == Owner::Point
}

fn gone() -> String {
    "this operator is gone".into()
}

/// An address, and the same value of other units.
fn everywhere(address: Address, also: &[u16]) -> impl Iterator<Item = Address> {
    let others = also.iter().filter(move |id| **id != address.id);
    let owner = param(address.param).owner;
    let others = others.filter(move |_| matches!(owner, Owner::Unit | Owner::Point));
    std::iter::once(address).chain(others.map(move |id| Address { id: *id, ..address }))
}
