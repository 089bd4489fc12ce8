//! The worker's side: renders, draws and measures, off the page's and the audio's way.

use zolvik_engine::program::prepare;
use zolvik_files::{file_name, wav};
use zolvik_lab::level::level;
use zolvik_lab::spectrum::spectrum_at;
use zolvik_lab::{Note, Rendered, render, unfold};
use zolvik_patch::json;
use zolvik_waves::cut::{Cycle, MAX_LENGTH_S, cut};

use crate::protocol::{Answer, BINARIES, Binary, Question};

/// Rate of all pictures, in hertz.
pub const PICTURE_RATE_HZ: f64 = 48_000.0;

/// The last render and the binaries made from it.
#[derive(Default)]
pub struct Bench {
    sound: Option<Rendered>,
    binaries: [Vec<u8>; BINARIES],
    /// A file that was put in.
    input: Vec<u8>,
}

impl Bench {
    /// Answers a question; none if it is one for the page.
    pub fn answer(&mut self, question: Question) -> Option<Answer> {
        let answer = match question {
            Question::Unfold { .. } => self.unfold(question),
            Question::Spectrum { time_s, rows } => Ok(self.spectrum(time_s, rows.min(2000))),
            Question::Wav { .. } => self.wav(question),
            Question::Measure { text } => json::read(&text)
                .map(|patch| Answer::Measured {
                    level: level(&render(&patch, &Note::auditioned(&patch, PICTURE_RATE_HZ))),
                })
                .map_err(|e| e.to_string()),
            Question::Bank { text, key } => self.bank(&text, &key),
            Question::LookRecording => match wav::look(&self.input, MAX_LENGTH_S) {
                Ok(()) => Ok(Answer::Ready {
                    file_name: String::new(),
                }),
                Err(why) => Err(why.to_string()),
            },
            Question::CutTable { name, cycle } => self.cut(&name, cycle),
            _ => return None,
        };
        Some(answer.unwrap_or_else(|why| Answer::Refused { why }))
    }

    /// Bytes of a binary, empty if there is none.
    pub fn binary(&self, which: usize) -> &[u8] {
        self.binaries.get(which).map_or(&[], Vec::as_slice)
    }

    /// Puts a binary where it can be fetched.
    pub fn store(&mut self, which: Binary, bytes: Vec<u8>) {
        self.binaries[which as usize] = bytes;
    }

    /// Takes a file in, in place of the one before.
    pub fn put(&mut self, bytes: &[u8]) {
        self.input = bytes.to_vec();
    }

    fn bank(&mut self, text: &str, key: &str) -> Result<Answer, String> {
        let patch = json::read(text).map_err(|e| e.to_string())?;
        let waves = patch.units.iter().map(|u| &u.oscillator().wave);
        let named = |wave: &&_| {
            zolvik_waves::key(wave, &patch.tables).is_some_and(|k| crate::view::key_name(k) == key)
        };
        let bank = waves.clone().find(named);
        let bank = bank.and_then(|wave| zolvik_waves::bank(wave, &patch.tables));
        let bank = bank.ok_or("this patch has no such wave")?;
        self.store(Binary::Bank, bank.bytes());
        Ok(Answer::Ready {
            file_name: key.into(),
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

    fn unfold(&mut self, question: Question) -> Result<Answer, String> {
        let Question::Unfold {
            text,
            listening,
            exponent,
            detail,
        } = question
        else {
            return Err(String::new());
        };
        let patch = json::read(&text).map_err(|e| e.to_string())?;
        let note = Note::auditioned(&patch, PICTURE_RATE_HZ);
        let drawn = unfold(&prepare(&patch, &listening), &note, exponent, detail);
        self.store(Binary::Spectrogram, drawn.spectrogram);
        self.store(Binary::Loudness, bytes(&drawn.loudness_db));
        self.store(Binary::Curves, bytes(&drawn.curves.concat()));
        let units = drawn.sound.units.clone();
        self.sound = Some(drawn.sound);
        Ok(Answer::Unfolded {
            columns: drawn.columns,
            rows: drawn.rows,
            units,
            level: drawn.level,
        })
    }

    fn spectrum(&mut self, time_s: f64, rows: usize) -> Answer {
        let Some(sound) = &self.sound else {
            return Answer::Refused {
                why: "no note was unfolded yet".into(),
            };
        };
        let spectrum = spectrum_at(&sound.left, &sound.right, sound.rate_hz, time_s, rows);
        self.store(Binary::Spectrum, bytes(&spectrum.rows_db));
        Answer::Spectrum {
            partials: spectrum.partials,
        }
    }

    fn wav(&mut self, question: Question) -> Result<Answer, String> {
        let Question::Wav {
            text,
            bits,
            rate_hz,
            to_its_end,
        } = question
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
        let mut note = Note::auditioned(&patch, rate_hz.into());
        if to_its_end {
            note = note.to_its_end(&patch);
        }
        let sound = render(&patch, &note);
        self.store(
            Binary::File,
            wav::write(&sound.left, &sound.right, rate_hz, depth).map_err(|e| e.to_string())?,
        );
        Ok(Answer::Ready {
            file_name: file_name(&patch.meta.name, "wav"),
        })
    }
}

fn bytes(values: &[f32]) -> Vec<u8> {
    values.iter().flat_map(|v| v.to_le_bytes()).collect()
}
