//! The worker's side: renders, draws and measures, off the page's and the audio's way.

mod bytes;
mod drawer;
mod everything;
mod moved;
mod renderer;

use std::collections::HashMap;
use std::sync::Arc;

use zolvik_engine::program::prepare_with;
use zolvik_files::{file_name, wav};
use zolvik_json::Form;
use zolvik_lab::Note;
use zolvik_lab::Rendered;
use zolvik_lab::level::level;
use zolvik_lab::render::{Phrased, render_as_heard, render_phrase};
use zolvik_patch::Patch;
use zolvik_patch::catalogue::choice;
use zolvik_patch::document::{UnitId, UnitKind, VoiceSettings};
use zolvik_patch::hearing::Listening;
use zolvik_patch::json;
use zolvik_patch::sound::{MAX_FRAMES, RATES_HZ};
use zolvik_waves::cut::{Cycle, MAX_LENGTH_S, cut};
use zolvik_waves::recording;
use zolvik_waves::{Clip, Clips};

use self::bytes::bytes;
use self::drawer::Drawer;
pub use self::everything::patch_of_everything;
use self::renderer::Renderer;
use crate::protocol::{Answer, Refusal, RenderOf, Task};
use crate::view::phrase_window_s;

/// What a worker has: one of two renders and does what else there is to do, the other draws and measures.
#[derive(Default)]
pub struct Tasks {
    renderer: Renderer,
    drawer: Drawer,
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

/// What a sample plays is not in the store.
const NO_AUDIO: Refusal = Refusal::Cannot("the audio of this sample is missing");

/// What crosses to the audio thread, told apart by the first word.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[repr(u32)]
pub enum CachedTables {
    /// A wave.
    Bank = 1,
    /// A recording.
    Recording = 2,
}

/// A wave or recording as it crosses.
pub fn shelved(what: CachedTables, bytes: &[u8]) -> Vec<u8> {
    let mut all = Vec::with_capacity(4 + bytes.len());
    all.extend((what as u32).to_le_bytes());
    all.extend_from_slice(bytes);
    all
}

impl Tasks {
    /// Does a task.
    pub fn answer(&mut self, task: Task) -> Answer {
        let answer = match task {
            Task::Render { of } => self.renderer.begin(of, &self.clips),
            Task::RenderOn {
                spent_ms,
                waited_ms,
            } => {
                let (answer, piece) = self.renderer.go(spent_ms, waited_ms);
                self.give(piece);
                Ok(answer)
            }
            Task::Chance { exponent } => {
                let (answer, bands) = self.renderer.chance(exponent);
                self.give(bytes(&bands));
                Ok(answer)
            }
            Task::Draw {
                of,
                rate_hz,
                length_s,
            } => self.drawer.begin(of, rate_hz, length_s),
            Task::DrawOn { look } => {
                let piece = std::mem::take(&mut self.input);
                self.drawer.go(&piece, look, &mut self.parts)
            }
            Task::DrawEnd { key } => self.drawer.end(key, &mut self.parts),
            Task::DrawAgain { key } => self.drawer.again(key, &mut self.parts),
            Task::Spectrum {
                time_s,
                rows,
                span,
                filter,
            } => {
                let rows = rows.clamp(1, 2000);
                self.drawer
                    .spectrum(time_s, rows, span, filter, &mut self.parts)
            }
            Task::Point { time_s, hz } => self.drawer.point(time_s, hz),
            Task::Cycles {
                from_s,
                to_s,
                columns,
            } => self.drawer.cycles(from_s, to_s, columns, &mut self.parts),
            Task::Wav {
                text,
                bits,
                rate_hz,
                to_its_end,
                listening,
                what,
            } => self.wav(&text, &listening, what, (bits, rate_hz, to_its_end)),
            Task::Level {
                text,
                listening,
                what,
            } => self.file_level(&text, &listening, what),
            Task::Everything => Ok(Answer::Text {
                text: json::write(&patch_of_everything()),
            }),
            Task::Bank { text, key } => self.bank(&text, &key),
            Task::LookRecording => match wav::look(&self.input, MAX_LENGTH_S) {
                Ok(()) => Ok(Answer::Ready {
                    file_name: String::new(),
                }),
                Err(why) => Err(why.into()),
            },
            Task::CutTable { name, cycle } => self.cut(&name, cycle),
            Task::PutClip { content } => self.put_clip(content),
            Task::Waveform {
                text,
                unit,
                columns,
            } => self.waveform(&text, unit, columns),
        };
        answer.unwrap_or_else(|why| Answer::Refused {
            why: why.to_string(),
        })
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

    fn bank(&mut self, text: &str, key: &str) -> Result<Answer, Refusal> {
        let patch = json::read(text)?;
        let waves = patch
            .units
            .iter()
            .filter_map(|u| Some(&u.oscillator()?.wave));
        let named = |k: u64| crate::view::key_name(k) == key;
        let of_wave = |wave: &&_| zolvik_waves::key(wave, &patch.tables).is_some_and(named);
        let bank = waves.clone().find(of_wave);
        let bank = bank.and_then(|wave| zolvik_waves::bank(wave, &patch.tables));
        let of_sample = |sample: &recording::Played<'_>| named(recording::key(*sample));
        let bytes = match bank {
            Some(bank) => shelved(CachedTables::Bank, &bank.bytes()),
            None => {
                let sample = recording::samples(&patch).find(of_sample);
                let sample = sample.ok_or(Refusal::Cannot("this patch has no such wave"))?;
                let made = recording::recording(sample, &self.clips);
                let made = made.ok_or(NO_AUDIO)?;
                shelved(CachedTables::Recording, &made.bytes())
            }
        };
        self.give(bytes);
        Ok(Answer::Ready {
            file_name: key.into(),
        })
    }

    /// Keeps the file that was put in as a recording.
    fn put_clip(&mut self, content: String) -> Result<Answer, Refusal> {
        let input = std::mem::take(&mut self.input);
        let longest_s = f64::from(MAX_FRAMES) / f64::from(RATES_HZ.0);
        let read = wav::read(&input, longest_s)?;
        let clip = Clip {
            samples: read.samples,
            rate_hz: read.rate_hz,
        };
        self.clips.0.insert(content, Arc::new(clip));
        Ok(Answer::Ready {
            file_name: String::new(),
        })
    }

    fn waveform(&mut self, text: &str, unit: UnitId, columns: usize) -> Result<Answer, Refusal> {
        let patch = json::read(text)?;
        let Some(UnitKind::Sample(sample)) = patch.unit(unit).map(|u| &u.kind) else {
            return Err(Refusal::Cannot("this is no sample"));
        };
        let clip = recording::clip(&sample.sound, &self.clips);
        let clip = clip.ok_or(NO_AUDIO)?;
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

    fn cut(&mut self, name: &str, cycle: Option<usize>) -> Result<Answer, Refusal> {
        let recording = wav::read(&self.input, MAX_LENGTH_S)?;
        let how = cycle.map_or(Cycle::Pitch, Cycle::Samples);
        let table = cut(&recording.samples, recording.rate_hz, how, name);
        self.input = vec![];
        let table = table?;
        Ok(Answer::Text {
            text: zolvik_json::text(&table, Form::Dense),
        })
    }

    /// What a file holds, at a rate in hertz, as long as the window or until it has sounded out.
    fn file_sound(
        &self,
        patch: &Patch,
        listening: &Listening,
        what: RenderOf,
        (rate_hz, to_its_end): (f64, bool),
    ) -> Rendered {
        match what {
            RenderOf::Note => {
                let mut note = Note::auditioned(patch, rate_hz);
                if to_its_end {
                    note = note.to_its_end(patch);
                }
                render_as_heard(patch, listening, &note, &self.clips)
            }
            RenderOf::Phrase | RenderOf::Beat => {
                let mut how = Phrased::to_its_end(patch, rate_hz);
                if !to_its_end {
                    how.length_s = phrase_window_s(patch);
                }
                how.with_beat = what == RenderOf::Beat;
                let prepared = prepare_with(&patch.for_files(), listening, &self.clips);
                render_phrase(&prepared, patch, &how)
            }
        }
    }

    fn file_level(
        &self,
        text: &str,
        listening: &Listening,
        what: RenderOf,
    ) -> Result<Answer, Refusal> {
        /// The rate files have unless another one is chosen.
        const RATE_HZ: f64 = 48_000.0;
        let patch = json::read(text)?;
        let sound = self.file_sound(&patch, listening, what, (RATE_HZ, false));
        let quality =
            choice(VoiceSettings::QUALITY).options[patch.for_files().voice.quality as usize];
        let thing = match what {
            RenderOf::Note => "the note",
            RenderOf::Phrase => "the phrase",
            RenderOf::Beat => "the phrase with its beat",
        };
        Ok(Answer::Level {
            level: level(&sound).into(),
            of: format!("{thing} as a file ({})", quality.to_lowercase()),
        })
    }

    fn wav(
        &mut self,
        text: &str,
        listening: &Listening,
        what: RenderOf,
        (bits, rate_hz, to_its_end): (u32, u32, bool),
    ) -> Result<Answer, Refusal> {
        let patch = json::read(text)?;
        let depth = wav::Depth::try_from(bits)?;
        if !(8_000..=192_000).contains(&rate_hz) {
            return Err(Refusal::Rate(rate_hz));
        }
        let sound = self.file_sound(&patch, listening, what, (rate_hz.into(), to_its_end));
        self.give(wav::write(&sound.left, &sound.right, rate_hz, depth)?);
        Ok(Answer::Ready {
            file_name: file_name(&patch.meta.name, "wav"),
        })
    }
}
