//! Filters and shapers, by theory.

mod responses;
mod shapers;

use crate::support::*;
use zolvik_patch::Patch;
use zolvik_patch::document::{
    Filter, FilterType, KindName, Send, Slope, TunedBy, Unit, UnitId, UnitKind,
};

pub fn through(to: u16, pass_db: f64) -> Send {
    Send::Audio {
        to: UnitId(to),
        pass_db,
        pass_pan: 0.0,
    }
}

/// A sine of a frequency, 20 dB down, through a filter to the left channel.
pub fn filtered(hz: f64, filter: Filter) -> Patch {
    let mut patch = plain_units(&[1.0]);
    let operator = patch.units[0].oscillator_mut().unwrap();
    operator.tuned_by = TunedBy::Fixed;
    operator.fixed_hz = hz;
    let mut unit = Unit::new(UnitId(2), KindName::Filter);
    unit.kind = UnitKind::Filter(filter);
    patch.units.push(unit);
    connect(&mut patch, 1, through(2, -20.0));
    connect(&mut patch, 2, TO_LEFT);
    patch
}

pub fn still(response: FilterType, slope: Slope, cutoff_hz: f64, resonance: f64) -> Filter {
    Filter {
        response,
        slope,
        cutoff_hz,
        resonance,
        key_follow: 0.0,
        sweep_oct: 0.0,
        mix: 1.0,
        ..Filter::default()
    }
}
