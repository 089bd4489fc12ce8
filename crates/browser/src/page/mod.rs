//! The page's side: one document, its history, and what is muted or soloed for now.

mod drawn;
mod finding;
mod finish;
mod left;
mod loose;
mod moving;
mod naming;
mod playing;
mod state;
mod synonyms;
mod trial;
mod values;
mod waves;

use zolvik_edit::arrangement::{operators, present_layout};
use zolvik_edit::mend::nearest;
use zolvik_edit::offers::destination;
use zolvik_edit::{Edit, everywhere, flipped, for_all};
use zolvik_edit::{linked, offers};
use zolvik_engine::program::compile;
use zolvik_lab::level::{evened_db, lowered_db};
use zolvik_layout::handles;
use zolvik_patch::Patch;
use zolvik_patch::any_json::{self, Form};
use zolvik_patch::catalogue::params;
use zolvik_patch::document::{Audition, UnitId};
use zolvik_patch::envelope::READY;
use zolvik_patch::levels::{db_gain, gain_db};
use zolvik_patch::movement::shape::{READY_SHAPES, freehand};
use zolvik_patch::movement::target::of_strip;
use zolvik_patch::{json, text};

use self::loose::Loose;
use self::naming::Words;
pub use self::state::Page;
use self::state::gone;
use crate::gestures::gesture;
use crate::inspect::{arrangements, inspect, ready_envelopes, ready_shapes, sounds, waves};
use crate::protocol::{Answer, Question};
use crate::rules::RULES;
use crate::view::{spread, words};

impl Page {
    /// Answers a question.
    pub fn answer(&mut self, question: Question) -> Answer {
        self.try_answer(question)
            .unwrap_or_else(|why| Answer::Refused { why })
    }

    /// The compiled program of the document as it is heard now.
    pub fn program(&self) -> Vec<u8> {
        compile(self.history.present(), &self.listening)
            .bytes()
            .to_vec()
    }

    fn try_answer(&mut self, question: Question) -> Result<Answer, String> {
        let patch = self.history.present();
        match question {
            Question::New => Ok(self.open(Patch::empty(), None, None)),
            Question::Load { text, of, steps } => json::read(&text)
                .map(|patch| self.open(patch, of, steps.as_ref()))
                .map_err(|e| e.to_string()),
            Question::Steps { since } => Ok(Answer::Steps {
                new: since.map_or_else(Default::default, |since| self.history.since(since)),
                made: self.history.made(),
            }),
            Question::Mend { text } => nearest(&text)
                .map(|mended| Answer::Mended {
                    text: json::write(&mended.patch),
                    left_out: mended.left_out,
                })
                .map_err(|e| e.to_string()),
            Question::TakeUp { text } => json::read(&text)
                .map(|patch| {
                    self.history.put(patch, "unsaved changes");
                    self.document(vec![])
                })
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
            Question::Edit {
                edit,
                units,
                gesture,
            } => linked::edit(patch, for_all(patch, &edit, &units))
                .map_err(|e| e.to_string())
                .and_then(|edit| self.edit(&edit, gesture)),
            Question::Type {
                address,
                units,
                text,
            } => self.type_value(address, &units, &text),
            Question::Ranked { text, names } => {
                let words = Words::of(&text);
                let far = names.iter().map(|name| words.called(name));
                Ok(Answer::Ranked { far: far.collect() })
            }
            Question::TypeBars { text } => self.type_bars(&text),
            Question::Spread { address, units } => {
                let all = everywhere(patch, address, &units);
                Ok(Answer::Spread {
                    spread: spread(patch, &all),
                    count: all.iter().filter(|a| a.get(patch).is_ok()).count(),
                })
            }
            Question::Hint { address, text } => Ok(Answer::Text {
                text: self.hint(address, &text).unwrap_or_default(),
            }),
            Question::Nudge {
                address,
                units,
                steps,
                fine,
                gesture,
            } => self.set_all(address, &units, gesture, |row, now| {
                Ok(row.nudge(now, steps, fine))
            }),
            Question::Drag {
                address,
                units,
                start,
                moved,
                fine,
                gesture,
            } => {
                let edit = self.drag(address, &units, (start, moved, fine), gesture);
                self.edit(&edit, Some(gesture))
            }
            Question::ByHand { on, asks } => {
                self.held = Some(on);
                let answer = self.try_answer(*asks);
                self.held = None;
                answer
            }
            Question::View { at_rest } => {
                if at_rest {
                    self.steady = None;
                }
                Ok(self.document(vec![]))
            }
            Question::Place {
                address,
                place,
                gesture,
            } => self.set_all(
                address,
                &[],
                Some(gesture),
                |row, _| Ok(row.value_at(place)),
            ),
            Question::Reset { address, units } => self.reset(address, &units),
            Question::ReadyShapes => Ok(Answer::Shapes {
                list: ready_shapes(),
            }),
            Question::TakeShape { source, at } => match READY_SHAPES.get(at) {
                Some(ready) => {
                    let points = ready.points();
                    self.edit(&Edit::SetShape { source, points }, None)
                }
                None => Err("there is no such shape".into()),
            },
            Question::DrawShape {
                source,
                levels,
                gesture,
            } => {
                const TOLERANCE: f64 = 0.012;
                let points = freehand(&levels, TOLERANCE);
                self.edit(&Edit::SetShape { source, points }, Some(gesture))
            }
            Question::Targets { text, source } => Ok(self.targets(&text, source)),
            Question::CopySource { source } => self.copy_source(source),
            Question::PasteSource { source, text } => self.paste_source(source, &text),
            Question::TypeEnd { link, high, text } => self.type_end(link, high, &text),
            Question::LinkStrips { from, strips } => {
                let to = strips.iter().filter_map(|strip| of_strip(patch, *strip));
                let to = to.collect();
                self.edit(&Edit::AddLinks { from, to }, None)
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
            Question::TypeBar {
                unit,
                harmonic,
                part,
                text,
            } => self.type_bar(unit, harmonic, part, &text),
            Question::TypeStepCount { source, text } => self.type_step_count(source, &text),
            Question::Sounds => Ok(Answer::Sounds {
                list: sounds(patch),
            }),
            Question::ChooseSound { units, at } => {
                let sound = sounds(patch).into_iter().nth(at).map(|choice| choice.sound);
                sound
                    .ok_or_else(|| "there is no such recording".into())
                    .and_then(|sound| self.set_sound(units, sound))
            }
            Question::AddSound { units, sound } => any_json::read(&sound)
                .map_err(|e| e.to_string())
                .and_then(|own| self.import(units, own)),
            Question::Missing { contents } => {
                self.missing = contents;
                Ok(self.document(vec![]))
            }
            Question::Drop { unit, onto, only } => {
                let edit = offers::drop(patch, unit, destination(onto), only);
                self.edit(&edit, None)
            }
            Question::DropWords { unit, onto } => Ok(Answer::Text {
                text: offers::drop_words(patch, unit, destination(onto)),
            }),
            Question::Offers { kind, unit } => Ok(Answer::Offers {
                groups: offers::offers(patch, kind, unit),
            }),
            Question::HearWithout { units } => {
                let gone = std::mem::take(&mut self.without);
                self.listening.again(&gone);
                let patch = self.history.present();
                (self.listening, self.without) = self.listening.without(patch, &units);
                Ok(self.document(vec![]))
            }
            Question::Match {
                here_lufs,
                there_lufs,
            } => {
                let lowered_db = lowered_db(here_lufs, there_lufs);
                let gain = db_gain(-lowered_db);
                let evened = db_gain(evened_db(here_lufs, there_lufs));
                Ok(Answer::Match {
                    lowered_db,
                    gain,
                    evened,
                })
            }
            Question::ZoomSpan {
                span,
                around_hz,
                times,
            } => Ok(Answer::Span {
                span: span.held().zoomed(around_hz, times),
            }),
            Question::MoveSpan { span, ratio } => Ok(Answer::Span {
                span: span.held().moved(ratio),
            }),
            Question::ChangeWords { change_db } => Ok(Answer::Text {
                text: text::signed_decibels(change_db),
            }),
            Question::TimeWords { time_s } => {
                let (time, unit) = text::seconds(time_s);
                Ok(Answer::Text {
                    text: format!("{time} {unit}"),
                })
            }
            Question::LevelWords { amplitude } => Ok(Answer::Text {
                text: text::decibels(gain_db(amplitude.max(1e-9)), "dB"),
            }),
            Question::Rules => Ok(Answer::Rules {
                rules: RULES,
                helps: params().map(|row| (row.id, row.help)).collect(),
                sources: moving::kinds(),
                effects: finish::kinds(),
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
                    operators: operators(self.before_trial()).len(),
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
                    self.loose = Loose::default();
                }
                Ok(self.document(vec![]))
            }
            Question::KeepArrangement => Ok(Answer::Text {
                text: any_json::text(&present_layout(patch), Form::Dense),
            }),
            Question::LayArrangement { text } => self.lay_arrangement(&text),
            Question::DragHandle {
                unit,
                at,
                bend,
                free,
                time_s,
                level,
                gesture,
            } => match handles::drag(patch, unit, (at, bend), (time_s, level), free) {
                Some(Edit::Together { label, edits }) => {
                    self.begin(gesture);
                    self.together(&label, linked::values(self.base(), edits), Some(gesture))
                }
                _ => Err(gone()),
            },
            Question::CopyEnvelope { unit } => match patch.envelope(unit) {
                Some(envelope) => {
                    self.copied = Some(envelope.clone());
                    Ok(self.document(vec![]))
                }
                None => Err(gone()),
            },
            Question::Line { text } => Ok(self.line(&text)),
            Question::TakeLine { text, units } => self.take_line(&text, &units),
            Question::CopyStrips { units } => Ok(self.copy_strips(&units)),
            Question::Find { text } => Ok(self.find(&text)),
            Question::PasteEnvelope { units } => match self.copied.clone() {
                Some(envelope) => self.edit(&linked::envelope(patch, units, envelope), None),
                None => Err("no envelope was copied yet".into()),
            },
            Question::ReadyEnvelopes => Ok(Answer::Envelopes {
                list: ready_envelopes(),
            }),
            Question::TakeReady { units, at } => match READY.get(at) {
                Some(ready) => self.edit(&linked::envelope(patch, units, ready.envelope()), None),
                None => Err("there is no such envelope".into()),
            },
            Question::TrimTo { true_peak_db } => self.trim(true_peak_db),
            Question::TakeBack { gesture } if !self.history.ends_with(gesture) => {
                Ok(Answer::Unchanged)
            }
            Question::Undo | Question::TakeBack { .. } => {
                (self.trial, self.steady) = (None, None);
                self.loose = Loose::default();
                self.history.undo();
                Ok(self.document(vec![]))
            }
            Question::Redo => {
                (self.trial, self.steady) = (None, None);
                self.loose = Loose::default();
                self.history.redo();
                Ok(self.document(vec![]))
            }
            Question::ForgetLoose { source } => {
                self.loose.forget(source);
                Ok(self.document(vec![]))
            }
            Question::Listen { listening } => {
                self.listening = listening;
                Ok(self.document(vec![]))
            }
            Question::Save => Ok(Answer::Text {
                text: json::write(patch),
            }),
            Question::Sounding { other } => {
                let sounding = match other {
                    true => flipped(patch).sounding(),
                    false => patch.sounding(),
                };
                Ok(Answer::Text {
                    text: json::write(&sounding),
                })
            }
            Question::Words { amplitudes, sends } => Ok(self.words(&amplitudes, &sends)),
            Question::Gesture { what } => Ok(Answer::Gesture {
                messages: gesture(what, patch.audition.note),
            }),
            Question::Take {
                way,
                bytes,
                time_ms,
                touch,
            } => {
                let meant = self.inlet.take(&bytes, time_ms, touch, patch);
                Ok(self.meant_by(&way, meant))
            }
            Question::LetGo { ways } => Ok(self.let_go(&ways)),
            Question::Knows { kept } => {
                let read = kept.iter().flat_map(|text| any_json::read(text));
                self.inlet.knows(read.collect());
                Ok(self.learnt(vec![]))
            }
            Question::Learn { what } => {
                self.inlet.learn(what);
                Ok(self.learnt(vec![]))
            }
            Question::Forget { what } => {
                let gone = self.inlet.forget(what);
                Ok(self.learnt(gone))
            }
            Question::Phrases => Ok(playing::phrases()),
            Question::TakePhrase { at, from_its_key } => self.take_phrase(at, from_its_key),
            Question::GivePhrase { text } => self.give_phrase(&text),
            Question::PhraseText => Ok(Answer::Text {
                text: any_json::text(self.phrase()?, Form::Lines),
            }),
            Question::NoPhrase => self.edit(&Edit::SetPhrase { phrase: None }, None),
            Question::ImportMidi { name } => self.import_midi(&name),
            Question::ExportMidi => self.export_midi(),
            Question::Score { of } => Ok(self.score(of)),
            Question::Recorded { events, grid_beats } => self.recorded(&events, grid_beats),
            Question::MoveNotes {
                notes,
                by_beats,
                by_semitones,
                longer_beats,
                grid_beats,
                gesture,
            } => {
                let by = (by_beats, by_semitones, longer_beats);
                self.move_notes(&notes, by, grid_beats, gesture)
            }
            Question::TypeNote { notes, field, text } => self.type_note(&notes, field, &text),
            Question::TypeWay { link, high, text } => self.type_way(link, high, &text),
            Question::KeyOf { text } => text::read(Audition::NOTE, &text, 60.0)
                .map(|key| Answer::Key { key: key as u8 })
                .map_err(|e| e.to_string()),
            Question::AtEnd { source, high } => self.at_end(source, high),
            Question::Differences => Ok(self.differences()),
            Question::TakeReadyEffect { effect, at } => self.take_ready_effect(effect, at),
            Question::CopyEffects { effects } => self.copy_effects(&effects),
            Question::PasteEffects { chain, at, text } => self.paste_effects(chain, at, &text),
            Question::KeepEffect { effect } => self.keep_effect(effect),
            Question::TakeKeptEffect { effect, name, text } => {
                self.take_kept_effect(effect, &name, &text)
            }
            Question::KeptFor { kind, texts } => Ok(Page::kept_for(kind, &texts)),
            Question::StepEffect { effect, behind } => self.step_effect(effect, behind),
            Question::AddBand { effect, pointed } => self.add_band(effect, pointed),
            Question::DragBand {
                effect,
                at,
                hz,
                gain_db,
                gesture,
            } => self.drag_band(effect, at, (hz, gain_db), gesture),
        }
    }

    fn words(&self, amplitudes: &[f64], sends: &[usize]) -> Answer {
        let patch = self.history.present();
        let rows = zolvik_patch::graph::rows(patch);
        let each = rows.iter().zip(amplitudes).zip(sends);
        Answer::Words {
            words: each
                .map(|((unit, a), send)| words(patch, *unit, *send, *a))
                .collect(),
        }
    }
}
