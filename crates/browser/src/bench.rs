//! The worker's side: renders, draws and measures, off the page's and the audio's way.

use std::collections::HashMap;
use std::sync::Arc;

use zolvik_engine::program::prepare_with;
use zolvik_files::{file_name, wav};
use zolvik_lab::bands::band_powers;
use zolvik_lab::chance::bands;
use zolvik_lab::level::level;
use zolvik_lab::predict::{Moment, explain};
use zolvik_lab::render::{Phrased, render_as_heard, render_phrase, render_program};
use zolvik_lab::response;
use zolvik_lab::spectrum::{HIGHEST_HZ, LOWEST_HZ, spectrum_at};
use zolvik_lab::unfold::draw;
use zolvik_lab::{Detail, Note, Rendered, Unfolded, unfold};
use zolvik_patch::address::Address;
use zolvik_patch::document::{Filter, RouteId, UnitId, UnitKind};
use zolvik_patch::filter;
use zolvik_patch::hearing::Listening;
use zolvik_patch::movement::link::row_of;
use zolvik_patch::part::Part;
use zolvik_patch::pitch::auditioned_hz;
use zolvik_patch::sound::{MAX_FRAMES, RATES_HZ};
use zolvik_patch::{Patch, json};
use zolvik_waves::cut::{Cycle, MAX_LENGTH_S, cut};
use zolvik_waves::recording;
use zolvik_waves::{Clip, Clips};

use crate::explain::bands_of;
use crate::protocol::{Answer, RenderOf, Task};
use crate::view::{cutoff_span, phrase_window_s};

/// Rate of all pictures, in hertz.
pub const PICTURE_RATE_HZ: f64 = 48_000.0;
/// Points of a filter's response.
const RESPONSE_ROWS: usize = 240;

/// The last render and the binaries made from it.
#[derive(Default)]
pub struct Bench {
    sound: Option<Rendered>,
    /// What was rendered.
    shown: Option<(Patch, Listening)>,
    /// What goes with the last answer, in bytes.
    parts: Vec<Vec<u8>>,
    /// A file that was put in.
    input: Vec<u8>,
    clips: KnownClips,
}

/// Recordings that were brought in, by content.
#[derive(Default)]
struct KnownClips(HashMap<String, Arc<Clip>>);

impl Clips for KnownClips {
    fn clip(&self, content: &str) -> Option<Arc<Clip>> {
        self.0.get(content).cloned()
    }
}

/// What crosses to the audio thread, told apart by the first word.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[repr(u32)]
pub enum Shelved {
    /// A wave.
    Bank = 1,
    /// A recording.
    Recording = 2,
}

/// A wave or recording as it crosses.
pub fn shelved(what: Shelved, bytes: &[u8]) -> Vec<u8> {
    let mut all = Vec::with_capacity(4 + bytes.len());
    all.extend((what as u32).to_le_bytes());
    all.extend_from_slice(bytes);
    all
}

impl Bench {
    /// Does a task.
    pub fn answer(&mut self, task: Task) -> Answer {
        let answer = match task {
            Task::Unfold { .. } => self.unfold(task),
            Task::Spectrum {
                time_s,
                rows,
                filter,
            } => Ok(self.spectrum(time_s, rows.min(2000), filter)),
            Task::Wav { .. } => self.wav(task),
            Task::Measure {
                text,
                listening,
                voice,
            } => json::read(&text)
                .map(|patch| {
                    let mut prepared = prepare_with(&patch, &listening, &self.clips);
                    if voice {
                        prepared.program.without_effects();
                    }
                    let note = Note::auditioned(&patch, PICTURE_RATE_HZ);
                    Answer::Measured {
                        level: level(&render_program(&prepared, &note)).into(),
                    }
                })
                .map_err(|e| e.to_string()),
            Task::Bank { text, key } => self.bank(&text, &key),
            Task::LookRecording => match wav::look(&self.input, MAX_LENGTH_S) {
                Ok(()) => Ok(Answer::Ready {
                    file_name: String::new(),
                }),
                Err(why) => Err(why.to_string()),
            },
            Task::CutTable { name, cycle } => self.cut(&name, cycle),
            Task::PutClip { content } => self.put_clip(content),
            Task::Waveform {
                text,
                unit,
                columns,
            } => self.waveform(&text, unit, columns),
        };
        answer.unwrap_or_else(|why| Answer::Refused { why })
    }

    /// What goes with the last answer.
    pub fn parts(&self) -> &[Vec<u8>] {
        &self.parts
    }

    /// Puts something beside the answer, in the order it will be fetched.
    pub fn give(&mut self, bytes: Vec<u8>) {
        self.parts.push(bytes);
    }

    /// Begins an answer with nothing beside it.
    pub fn begin(&mut self) {
        self.parts.clear();
    }

    /// The file that was put in, which is here no longer.
    pub fn take_input(&mut self) -> Vec<u8> {
        std::mem::take(&mut self.input)
    }

    /// Takes a file in, in place of the one before.
    pub fn put(&mut self, bytes: &[u8]) {
        self.input = bytes.to_vec();
    }

    fn bank(&mut self, text: &str, key: &str) -> Result<Answer, String> {
        let patch = json::read(text).map_err(|e| e.to_string())?;
        let waves = patch
            .units
            .iter()
            .filter_map(|u| Some(&u.oscillator()?.wave));
        let named = |k: u64| crate::view::key_name(k) == key;
        let of_wave = |wave: &&_| zolvik_waves::key(wave, &patch.tables).is_some_and(named);
        let bank = waves.clone().find(of_wave);
        let bank = bank.and_then(|wave| zolvik_waves::bank(wave, &patch.tables));
        let of_sample = |sample: &&_| named(recording::key(sample));
        let bytes = match bank {
            Some(bank) => shelved(Shelved::Bank, &bank.bytes()),
            None => {
                let sample = recording::samples(&patch).find(of_sample);
                let sample = sample.ok_or("this patch has no such wave")?;
                let made = recording::recording(sample, &self.clips);
                let made = made.ok_or("the audio of this sample is missing")?;
                shelved(Shelved::Recording, &made.bytes())
            }
        };
        self.give(bytes);
        Ok(Answer::Ready {
            file_name: key.into(),
        })
    }

    /// Keeps the file that was put in as a recording.
    fn put_clip(&mut self, content: String) -> Result<Answer, String> {
        let input = std::mem::take(&mut self.input);
        let longest_s = f64::from(MAX_FRAMES) / f64::from(RATES_HZ.0);
        let read = wav::read(&input, longest_s).map_err(|e| e.to_string())?;
        let clip = Clip {
            samples: read.samples,
            rate_hz: read.rate_hz,
        };
        self.clips.0.insert(content, Arc::new(clip));
        Ok(Answer::Ready {
            file_name: String::new(),
        })
    }

    fn waveform(&mut self, text: &str, unit: UnitId, columns: usize) -> Result<Answer, String> {
        let patch = json::read(text).map_err(|e| e.to_string())?;
        let Some(UnitKind::Sample(sample)) = patch.unit(unit).map(|u| &u.kind) else {
            return Err("this is no sample".into());
        };
        let clip = recording::clip(&sample.sound, &self.clips);
        let clip = clip.ok_or("the audio of this sample is missing")?;
        let count = clip.samples.len();
        let columns = columns.clamp(1, 4000);
        let mut picture = Vec::with_capacity(2 * columns);
        for i in 0..columns {
            let (from, to) = (i * count / columns, ((i + 1) * count).div_ceil(columns));
            let part = clip.samples.get(from..to.min(count)).unwrap_or_default();
            picture.push(part.iter().fold(0.0, |a: f32, b| a.max(*b)));
            picture.push(part.iter().fold(0.0, |a: f32, b| a.min(*b)));
        }
        self.give(bytes(&picture));
        Ok(Answer::Waveform {
            length_s: count as f64 / clip.rate_hz,
        })
    }

    fn cut(&mut self, name: &str, cycle: Option<usize>) -> Result<Answer, String> {
        let recording = wav::read(&self.input, MAX_LENGTH_S).map_err(|e| e.to_string())?;
        let how = cycle.map_or(Cycle::Pitch, Cycle::Samples);
        let table = cut(&recording.samples, recording.rate_hz, how, name);
        self.input = vec![];
        let text = serde_json::to_string(&table.map_err(|e| e.to_string())?);
        text.map(|text| Answer::Text { text })
            .map_err(|e| e.to_string())
    }

    fn unfold(&mut self, task: Task) -> Result<Answer, String> {
        let Task::Unfold {
            text,
            listening,
            exponent,
            detail,
            phrase,
            aside,
            voice,
            effect,
        } = task
        else {
            return Err(String::new());
        };
        let patch = json::read(&text).map_err(|e| e.to_string())?;
        let mut prepared = prepare_with(&patch, &listening, &self.clips);
        prepared.tap = effect;
        if voice {
            prepared.program.without_effects();
        }
        let drawn = match phrase {
            false => {
                let note = Note::auditioned(&patch, PICTURE_RATE_HZ);
                unfold(&prepared, &note, exponent, detail)
            }
            true => {
                let how = Phrased {
                    length_s: phrase_window_s(&patch),
                    rate_hz: PICTURE_RATE_HZ,
                    with_beat: false,
                };
                let sound = render_phrase(&prepared, &patch, &how);
                draw(sound, how.length_s, exponent, detail)
            }
        };
        let moved = Moved::new(&patch, &drawn);
        // how else it might be, once the hand rests; a phrase is many notes
        let bands = match (phrase, detail) {
            (false, Detail::Fine) => {
                let note = Note::auditioned(&patch, PICTURE_RATE_HZ);
                bands(&patch, &note, &drawn.frames)
            }
            _ => vec![],
        };
        self.give(drawn.spectrogram);
        self.give(bytes(&drawn.loudness_db));
        self.give(bytes(&moved.units));
        let units = drawn.sound.units.clone();
        self.give(bytes(&moved.curves));
        let mut chancy = vec![];
        let mut courses: Vec<f32> = vec![];
        for (source, band) in patch.movement.sources.iter().zip(bands) {
            if let Some((low, high)) = band {
                chancy.push(source.id);
                courses.extend(low);
                courses.extend(high);
            }
        }
        self.give(bytes(&courses));
        let effects = drawn.sound.effects.iter().map(Into::into).collect();
        let tapped = drawn.sound.tapped.as_ref();
        let gain_db = tapped.map_or_else(Vec::new, |t| gains(&t.gain_db, &drawn.frames));
        let bands = match detail {
            Detail::Coarse => vec![],
            Detail::Fine => {
                let power = |sides: [&[f32]; 2]| band_powers(sides[0], sides[1], PICTURE_RATE_HZ);
                let own = power([&drawn.sound.left, &drawn.sound.right]);
                let of = |sides: &[Vec<f32>; 2]| power([&sides[0], &sides[1]]);
                bands_of(&own, tapped.map(|t| (of(&t.before), of(&t.after))))
            }
        };
        let sources = patch.movement.sources.iter().map(|s| s.id).collect();
        let links = patch.movement.links.iter().map(|l| l.id).collect();
        if !aside {
            self.shown = Some((patch, listening));
            self.sound = Some(drawn.sound);
        }
        Ok(Answer::Unfolded {
            columns: drawn.columns,
            rows: drawn.rows,
            units,
            sources,
            links,
            sends: moved.sends,
            chancy,
            effects,
            gain_db,
            bands,
            level: drawn.level.into(),
        })
    }

    fn spectrum(&mut self, time_s: f64, rows: usize, filter: Option<UnitId>) -> Answer {
        let (Some(sound), Some((patch, listening))) = (&self.sound, &self.shown) else {
            return Answer::Refused {
                why: "no note was unfolded yet".into(),
            };
        };
        let spectrum = spectrum_at(&sound.left, &sound.right, sound.rate_hz, time_s, rows);
        let block = (time_s.max(0.0) * sound.rate_hz) as usize / zolvik_engine::BLOCK;
        let motion = |link: usize| {
            let curve = sound.motions.get(link).map_or(&[][..], |c| c);
            let value = curve.get(block.min(curve.len().saturating_sub(1)));
            value.copied().unwrap_or(0.0).into()
        };
        let patch = &at_moment(patch, motion);
        let amplitudes = |id: UnitId| {
            let at = sound.units.iter().position(|u| *u == id);
            let curve = at.map(|at| &sound.amplitudes[at]);
            let value = curve.and_then(|c| c.get(block.min(c.len().saturating_sub(1))));
            value.copied().unwrap_or(0.0).into()
        };
        let moment = Moment {
            patch,
            listening,
            amplitudes: &amplitudes,
            rate_hz: sound.rate_hz,
        };
        let explanation = explain(&moment, &spectrum.partials);
        let found = filter.and_then(|id| Some((filter::of(patch.unit(id)?)?, amplitudes(id))));
        let response = found.map_or_else(Vec::new, |(filter, level)| {
            let cutoff = filter::cutoff_hz(filter, auditioned_hz(patch), level);
            let rate_hz = sound.rate_hz * patch.times_rate_auditioned() as f64;
            (0..RESPONSE_ROWS)
                .map(|row| {
                    let share = (row as f64 + 0.5) / RESPONSE_ROWS as f64;
                    let hz = LOWEST_HZ * (HIGHEST_HZ / LOWEST_HZ).powf(share);
                    let gain = response::gain(filter, cutoff, hz, rate_hz);
                    (200.0 * gain.max(1e-6).log10()).round() / 10.0
                })
                .collect()
        });
        // of an effect that is looked at the spectrum is that after it
        let tapped = sound.tapped.as_ref();
        let looked = |sides: &[Vec<f32>; 2]| {
            spectrum_at(&sides[0], &sides[1], sound.rate_hz, time_s, rows).rows_db
        };
        let before_db = tapped.map_or_else(Vec::new, |t| looked(&t.before));
        let own = tapped.map_or_else(|| spectrum.rows_db.clone(), |t| looked(&t.after));
        self.give(bytes(&own));
        Answer::Spectrum {
            before_db,
            partials: spectrum.partials.iter().map(Into::into).collect(),
            explanation: explanation.into(),
            response,
        }
    }

    fn wav(&mut self, task: Task) -> Result<Answer, String> {
        let Task::Wav {
            text,
            bits,
            rate_hz,
            to_its_end,
            listening,
            what,
        } = task
        else {
            return Err(String::new());
        };
        let patch = json::read(&text).map_err(|e| e.to_string())?;
        let depth = wav::Depth::try_from(bits).map_err(|e| e.to_string())?;
        if !(8_000..=192_000).contains(&rate_hz) {
            return Err(format!(
                "a rate of {rate_hz} Hz is not rendered; choose 8000 to 192000"
            ));
        }
        let sound = match what {
            RenderOf::Note => {
                let mut note = Note::auditioned(&patch, rate_hz.into());
                if to_its_end {
                    note = note.to_its_end(&patch);
                }
                render_as_heard(&patch, &listening, &note, &self.clips)
            }
            RenderOf::Phrase | RenderOf::Beat => {
                let mut how = Phrased::to_its_end(&patch, rate_hz.into());
                if !to_its_end {
                    how.length_s = phrase_window_s(&patch);
                }
                how.with_beat = what == RenderOf::Beat;
                let prepared = prepare_with(&patch.for_files(), &listening, &self.clips);
                render_phrase(&prepared, &patch, &how)
            }
        };
        self.give(
            wav::write(&sound.left, &sound.right, rate_hz, depth).map_err(|e| e.to_string())?,
        );
        Ok(Answer::Ready {
            file_name: file_name(&patch.meta.name, "wav"),
        })
    }
}

/// Curves of what moves and is moved.
struct Moved {
    curves: Vec<f32>,
    sends: Vec<RouteId>,
    /// What units put out; of filters whose cutoff links move, where in all it comes to that lies.
    units: Vec<f32>,
}

/// A patch as movement has it at a moment, given how far each of its links takes its value then.
fn at_moment(patch: &Patch, motion: impl Fn(usize) -> f64) -> Patch {
    let mut there = patch.clone();
    let links = &patch.movement.links;
    for (at, link) in links.iter().enumerate() {
        // each value once, by all its links
        if links[..at].iter().any(|before| before.to == link.to) {
            continue;
        }
        let same = links.iter().enumerate().filter(|(_, l)| l.to == link.to);
        let sum: f64 = same.map(|(at, _)| motion(at)).sum();
        let row = row_of(patch, link.to);
        let base = row.domain.enter(link.to.get(patch).unwrap_or(row.default));
        let value = row.domain.leave(base + sum).clamp(row.min, row.max);
        // what is listed can be set
        let _ = link.to.set(&mut there, value);
    }
    there
}

impl Moved {
    fn new(patch: &Patch, drawn: &Unfolded) -> Self {
        let links = &patch.movement.links;
        let mut curves = drawn.places.concat();
        // the value all links of a target take it to, in its domain, at a column
        let together = |to: Address, column: usize| -> f64 {
            let same = links.iter().zip(&drawn.motions).filter(|(l, _)| l.to == to);
            same.map(|(_, motion)| f64::from(motion[column])).sum()
        };
        for link in links {
            let row = row_of(patch, link.to);
            let base = row.domain.enter(link.to.get(patch).unwrap_or(row.default));
            curves.extend((0..drawn.columns).map(|column| {
                let value = row.domain.leave(base + together(link.to, column));
                row.place(value) as f32
            }));
        }
        let mut sends = vec![];
        for route in &patch.routes {
            let to = Address::route(route.id, route.send.depth());
            if links.iter().any(|l| l.to == to) {
                let own = patch.strength(route).max(1e-9);
                let mut there = route.clone();
                let base = to.get(patch).unwrap_or_default();
                let row = row_of(patch, to);
                curves.extend((0..drawn.columns).map(|column| {
                    let value = (base + together(to, column)).clamp(row.min, row.max);
                    if let Some(slot) = there.send.slot(to.param) {
                        slot.write(value);
                    }
                    (patch.strength(&there) / own) as f32
                }));
                sends.push(route.id);
            }
        }
        let mut units = vec![];
        for (id, curve) in drawn.sound.units.iter().zip(&drawn.curves) {
            let filter = patch.unit(*id).and_then(filter::of);
            let span = filter.and_then(|f| Some((f, cutoff_span(patch, *id, f)?)));
            let Some((filter, (low, high))) = span else {
                units.extend(curve);
                continue;
            };
            let to = Address::unit(*id, Filter::CUTOFF_HZ);
            units.extend(curve.iter().enumerate().map(|(column, level)| {
                let octaves = filter.sweep_oct * f64::from(*level) + together(to, column);
                ((octaves - low) / (high - low)) as f32
            }));
        }
        Moved {
            curves,
            sends,
            units,
        }
    }
}

/// A gain at each column; none where it never is anything.
fn gains(each_block: &[f32], frames: &[usize]) -> Vec<f64> {
    if each_block.iter().all(|db| db.abs() < 0.05) {
        return vec![];
    }
    let at = |frame: &usize| each_block.get(frame / zolvik_engine::BLOCK).copied();
    let tenths = |db: f32| f64::from((db * 10.0).round()) / 10.0;
    frames
        .iter()
        .map(|f| tenths(at(f).unwrap_or(0.0)))
        .collect()
}

fn bytes(values: &[f32]) -> Vec<u8> {
    values.iter().flat_map(|v| v.to_le_bytes()).collect()
}
