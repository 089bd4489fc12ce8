//! The cycles of any wave, as harmonics.

use zolvik_patch::wave::{OwnTable, Shape, Wave};

use crate::bars::of_bars;
use crate::spectrum::Spectrum;
use crate::{shapes, tables};

/// How many cycles a wave has.
pub fn cycles(wave: &Wave, own: &[OwnTable]) -> usize {
    match wave {
        Wave::Shape(_) | Wave::Bars(_) => 1,
        Wave::Table(_) => tables::CYCLES,
        Wave::Own(id) => own
            .iter()
            .find(|t| t.id == *id)
            .map_or(1, OwnTable::cycle_count),
    }
}

/// Harmonics of one cycle of a wave; a cycle or table that is not there is silent.
pub fn cycle_of(wave: &Wave, own: &[OwnTable], cycle: usize) -> Spectrum {
    match wave {
        Wave::Shape(shape) => shapes::spectrum(*shape),
        Wave::Table(table) => {
            tables::spectrum(*table, cycle as f64 / (tables::CYCLES - 1) as f64).to_full()
        }
        Wave::Bars(bars) => of_bars(bars).to_full(),
        Wave::Own(id) => own
            .iter()
            .find(|t| t.id == *id)
            .map_or_else(Spectrum::default, |t| of_own(t, cycle)),
    }
}

/// Harmonics of a wave as it sounds at a position and, for a pulse, a width: what the screen shows and what
/// bars start from.
pub fn spectrum_at(wave: &Wave, own: &[OwnTable], position: f64, width: f64) -> Spectrum {
    if *wave == Wave::Shape(Shape::Pulse) {
        return shapes::pulse(width);
    }
    let place = position.clamp(0.0, 1.0) * (cycles(wave, own) - 1) as f64;
    let below = place.floor();
    let first = cycle_of(wave, own, below as usize);
    if place == below {
        return first;
    }
    first.mixed(&cycle_of(wave, own, below as usize + 1), place - below)
}

fn of_own(table: &OwnTable, cycle: usize) -> Spectrum {
    let size = 2 * usize::from(table.harmonics);
    let points = table.cycles.0.get(cycle * size..(cycle + 1) * size);
    let part = |from: usize| {
        let all = points.unwrap_or(&[]).iter().skip(from).step_by(2);
        all.map(|p| f64::from(*p) / 32767.0).collect()
    };
    Spectrum {
        cosine: part(0),
        sine: part(1),
    }
}
