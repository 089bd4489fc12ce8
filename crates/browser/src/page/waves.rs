//! Waves, tables, recordings and scales: what is chosen from lists and files.

use zolvik_edit::{Connect, Edit};
use zolvik_files::scala;
use zolvik_patch::document::{KindName, UnitId};
use zolvik_patch::limits::MAX_UNIT_NAME;
use zolvik_patch::sound::{OwnSound, Sound};
use zolvik_patch::wave::{Bars, OwnTable, Wave};

use super::state::{GONE, Page};
use crate::inspect::{bars_of, sounds, waves};
use crate::protocol::{Answer, Refusal, Reply, WaveQuestion};

impl Page {
    /// Answers what is asked of waves, recordings and scales.
    pub(super) fn answer_wave(&mut self, question: WaveQuestion) -> Result<Reply, Refusal> {
        let patch = self.history.present();
        match question {
            WaveQuestion::StepWave { units, steps } => {
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
            WaveQuestion::DrawBar {
                unit,
                harmonic,
                amplitude,
                phase_turns,
                gesture,
            } => self.bars(unit, gesture, |bars| {
                let (a, p) = bars.harmonic(harmonic);
                bars.set(harmonic, amplitude.unwrap_or(a), phase_turns.unwrap_or(p));
            }),
            WaveQuestion::ChooseWave { units, at } => {
                let chosen = waves(patch).into_iter().nth(at);
                let wave = chosen.ok_or(Refusal::NoSuch("wave"))?.wave;
                self.edit(&Edit::SetWave { units, wave }, None)
            }
            WaveQuestion::AddTable { units, table } => self.add_table(units, &table),
            WaveQuestion::TypeBar {
                unit,
                harmonic,
                part,
                text,
            } => self.type_bar(unit, harmonic, part, &text),
            WaveQuestion::Waves => Ok(Answer::Waves {
                waves: waves(patch),
            }
            .into()),
            WaveQuestion::Sounds => Ok(Answer::Sounds {
                list: sounds(patch),
            }
            .into()),
            WaveQuestion::ChooseSound { units, at } => {
                let chosen = sounds(patch).into_iter().nth(at);
                let sound = chosen.ok_or(Refusal::NoSuch("recording"))?.sound;
                self.set_sound(units, sound)
            }
            WaveQuestion::AddSound { units, sound } => {
                self.import(units, zolvik_json::read(&sound)?)
            }
            WaveQuestion::Missing { contents } => {
                self.missing = contents;
                Ok(self.document(vec![]))
            }
            WaveQuestion::LoadScale { file_name, text } => self.load_scale(&file_name, &text),
            WaveQuestion::ClearScale => self.edit(&Edit::SetScale { scale: None }, None),
        }
    }

    pub(super) fn bars(
        &mut self,
        unit: UnitId,
        gesture: Option<u32>,
        change: impl FnOnce(&mut Bars),
    ) -> Result<Reply, Refusal> {
        let patch = self.history.present();
        let mut bars = patch
            .unit(unit)
            .and_then(|u| Some(bars_of(patch, u.oscillator()?)))
            .ok_or(GONE)?;
        change(&mut bars);
        let (units, wave) = (vec![unit], Wave::Bars(bars));
        self.edit(&Edit::SetWave { units, wave }, gesture)
    }

    pub(super) fn add_table(&mut self, units: Vec<UnitId>, text: &str) -> Result<Reply, Refusal> {
        let mut table: OwnTable = zolvik_json::read(text)?;
        table.id = self.history.present().free_table();
        let wave = Wave::Own(table.id);
        let label = format!("import {}", table.name);
        let table = Box::new(table);
        let edits = vec![Edit::AddTable { table }, Edit::SetWave { units, wave }];
        self.together(&label, edits, None)
    }

    pub(super) fn set_sound(&mut self, units: Vec<UnitId>, sound: Sound) -> Result<Reply, Refusal> {
        let sound = Box::new(sound);
        self.edit(&Edit::SetSound { units, sound }, None)
    }

    /// Gives units a recording that was brought in; without any it arrives as a strip of its own, under its name.
    pub(super) fn import(&mut self, units: Vec<UnitId>, own: OwnSound) -> Result<Reply, Refusal> {
        if !units.is_empty() {
            return self.set_sound(units, Sound::Own(own));
        }
        let unit = self.history.present().free_unit();
        let name: String = own.name.chars().take(MAX_UNIT_NAME).collect();
        let edits = vec![
            Edit::AddUnit {
                kind: KindName::Sample,
                connect: Connect::Output,
            },
            Edit::SetSound {
                units: vec![unit],
                sound: Box::new(Sound::Own(own)),
            },
            Edit::RenameUnit {
                unit,
                name: name.clone(),
            },
        ];
        self.together(&format!("import {name}"), edits, None)
    }

    pub(super) fn load_scale(&mut self, file_name: &str, text: &str) -> Result<Reply, Refusal> {
        let scale = if file_name.to_lowercase().ends_with(".kbm") {
            let scale = self.history.present().scale.as_ref();
            let scale = scale.ok_or(Refusal::Cannot(
                "load a scale first; the map lays its degrees on the keys",
            ))?;
            scala::lay(scale, scala::read_map(text)?)?
        } else {
            let name = file_name
                .rsplit_once('.')
                .map_or(file_name, |(name, _)| name);
            scala::read_scale(text, name)?
        };
        let scale = Some(Box::new(scale));
        self.edit(&Edit::SetScale { scale }, None)
    }
}
