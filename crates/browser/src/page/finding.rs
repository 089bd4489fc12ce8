//! Strips typed as a line, copied and pasted; and what is found by name.

use zolvik_patch::address::Address;
use zolvik_patch::catalogue::param;
use zolvik_patch::document::UnitId;
use zolvik_patch::edit::Edit;
use zolvik_patch::line::{NewStrip, copied, read, write};

use super::Page;
use crate::protocol::{Answer, Hit, WordView};
use crate::view::{patch_values, unit_values};

/// Most that is found at once.
const MOST: usize = 24;

impl Page {
    /// What a typed line would make.
    pub(super) fn line(&self, text: &str) -> Answer {
        let word = |w: zolvik_patch::line::Word| WordView {
            text: w.text,
            meaning: w.meaning,
        };
        match read(text) {
            Ok(list) => Answer::Line {
                strips: list
                    .into_iter()
                    .map(|(_, words)| words.into_iter().map(word).collect())
                    .collect(),
                problem: None,
            },
            Err(error) => Answer::Line {
                strips: vec![],
                problem: Some(error.to_string()),
            },
        }
    }

    pub(super) fn take_line(&mut self, text: &str) -> Result<Answer, String> {
        let strips: Vec<NewStrip> = match &self.copied_strips {
            Some((line, strips)) if line.trim() == text.trim() => strips.clone(),
            _ => {
                let list = read(text).map_err(|e| e.to_string())?;
                list.into_iter().map(|(strip, _)| strip).collect()
            }
        };
        if strips.is_empty() {
            return Err("there is no strip in it; type one such as saw x0.5 -14dB 30L".into());
        }
        self.edit(&Edit::AddStrips { strips }, None)
    }

    pub(super) fn copy_strips(&mut self, units: &[UnitId]) -> Answer {
        let patch = self.history.present();
        let text = write(patch, units);
        self.copied_strips = Some((text.clone(), copied(patch, units)));
        Answer::Text { text }
    }

    /// Strips whose names hold all words, then values whose names do, their strip's name counting too.
    pub(super) fn find(&self, text: &str) -> Answer {
        let patch = self.history.present();
        let lower = text.to_lowercase();
        let words: Vec<&str> = lower.split_whitespace().collect();
        let holds = |name: &str| {
            let name = name.to_lowercase();
            !words.is_empty() && words.iter().all(|word| name.contains(word))
        };
        let numbered = |unit: &zolvik_patch::document::Unit| unit.id.0.to_string() == lower.trim();
        let strips = patch
            .units
            .iter()
            .filter(|unit| holds(&unit.name) || numbered(unit));
        let mut hits: Vec<Hit> = strips
            .map(|unit| Hit {
                unit: Some(unit.id),
                param: None,
                title: unit.name.clone(),
                now: unit.kind.name().label().into(),
            })
            .collect();
        let value = |unit: Option<UnitId>, address: Address, name: &str, now: String| Hit {
            unit,
            param: Some(address.param),
            title: match name {
                "" => param(address.param).label.into(),
                name => format!("{name}, {}", param(address.param).label.to_lowercase()),
            },
            now,
        };
        for view in patch_values(patch) {
            if holds(&view.label) {
                hits.push(value(
                    None,
                    view.address,
                    "",
                    format!("{} {}", view.number, view.unit),
                ));
            }
        }
        for unit in &patch.units {
            for view in unit_values(patch, unit) {
                if holds(&format!("{} {}", unit.name, view.label)) {
                    let now = format!("{} {}", view.number, view.unit);
                    hits.push(value(Some(unit.id), view.address, &unit.name, now));
                }
            }
        }
        hits.truncate(MOST);
        Answer::Found { hits }
    }
}
