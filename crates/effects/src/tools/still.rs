//! What an effect is set to while nothing moves it.

use zolvik_patch::choice::Options;
use zolvik_patch::finish::effect::effect_params;
use zolvik_patch::finish::{Effect, EqBand, MAX_EQ_BANDS};
use zolvik_patch::part::Part;

use crate::process::{Band, SILENT, Setting, Value};
use crate::tools::drawn::Point;

/// All an effect of the document is set to, for what is measured or told of it apart from the engine.
#[derive(Debug, Clone)]
pub struct Still {
    /// Its values and those of its bands, in the document's units, in the order of the catalogue.
    pub values: Vec<Value>,
    choices: [u8; 4],
    bands: [Band; MAX_EQ_BANDS],
    band_count: usize,
    points: Vec<Point>,
}

impl Still {
    /// Of an effect.
    pub fn of(effect: &Effect) -> Self {
        let mut values: Vec<Value> = effect_params(effect.kind.name())
            .map(|row| Value::still(effect.value(row.id).unwrap_or(row.default)))
            .collect();
        let mut bands = [Band::default(); MAX_EQ_BANDS];
        for (to, band) in bands.iter_mut().zip(effect.bands()) {
            let rows = EqBand::ROWS.params.iter();
            values.extend(rows.map(|row| Value::still(band.get(row.id).unwrap_or(row.default))));
            *to = Band {
                on: band.on,
                what: band.what.position() as u8,
                slope: band.slope.position() as u8,
            };
        }
        let points = effect.points().iter().map(|p| Point {
            at: p.at as f32,
            level: p.level as f32,
            curve: p.curve as f32,
        });
        Still {
            values,
            choices: effect.choices(),
            bands,
            band_count: effect.bands().len().min(MAX_EQ_BANDS),
            points: points.collect(),
        }
    }

    /// At a rate, at 120 beats a minute, with the key C4 and no kick.
    pub fn setting(&self, rate_hz: f64) -> Setting<'_> {
        Setting {
            values: &self.values,
            choices: self.choices,
            bands: self.bands,
            band_count: self.band_count,
            points: &self.points,
            rate_hz,
            tempo_bpm: 120.0,
            beats: 0.0,
            key_hz: 261.63,
            kick: &SILENT[0],
        }
    }
}
