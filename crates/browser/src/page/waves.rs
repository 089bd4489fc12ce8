//! Waves, tables, recordings and scales: what is chosen from lists and files.

use zolvik_edit::{Connect, Edit};
use zolvik_files::scala;
use zolvik_patch::any_json;
use zolvik_patch::document::{KindName, UnitId};
use zolvik_patch::limits::MAX_UNIT_NAME;
use zolvik_patch::sound::{OwnSound, Sound};
use zolvik_patch::wave::{Bars, OwnTable, Wave};

use super::state::{Page, gone};
use crate::inspect::bars_of;
use crate::protocol::Answer;

impl Page {
    pub(super) fn bars(
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

    pub(super) fn add_table(&mut self, units: Vec<UnitId>, text: &str) -> Result<Answer, String> {
        let mut table: OwnTable = any_json::read(text).map_err(|e| e.to_string())?;
        table.id = self.history.present().free_table();
        let wave = Wave::Own(table.id);
        let label = format!("import {}", table.name);
        let table = Box::new(table);
        let edits = vec![Edit::AddTable { table }, Edit::SetWave { units, wave }];
        self.together(&label, edits, None)
    }

    pub(super) fn set_sound(&mut self, units: Vec<UnitId>, sound: Sound) -> Result<Answer, String> {
        let sound = Box::new(sound);
        self.edit(&Edit::SetSound { units, sound }, None)
    }

    /// Gives units a recording that was brought in; without any it arrives as a strip of its own, under its name.
    pub(super) fn import(&mut self, units: Vec<UnitId>, own: OwnSound) -> Result<Answer, String> {
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

    pub(super) fn load_scale(&mut self, file_name: &str, text: &str) -> Result<Answer, String> {
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
}
