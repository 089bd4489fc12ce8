//! Where a filter's cutoff lies, for engine and screen alike.

use crate::document::{Filter, Patch, Unit, UnitKind};
use crate::pitch::{auditioned_hz, key_hz};

/// Lowest cutoff there is, in hertz.
pub const LOWEST_HZ: f64 = 10.0;

/// Frequency of C4, for which a cutoff is given.
pub fn reference_hz() -> f64 {
    key_hz(60.0)
}

/// Cutoff of a filter in hertz for a key's frequency and the level of its envelope, 0 to 1:
/// `cutoff (key / C4)^follow 2^(sweep level)`.
pub fn cutoff_hz(filter: &Filter, key_hz: f64, level: f64) -> f64 {
    let octaves =
        filter.key_follow * libm::log2(key_hz.max(1.0) / reference_hz()) + filter.sweep_oct * level;
    (filter.cutoff_hz * libm::exp2(octaves)).max(LOWEST_HZ)
}

/// The cutoff value that keeps the auditioned note's cutoff when the key is followed otherwise.
pub fn kept_cutoff_hz(filter: &Filter, follow: f64, patch: &Patch) -> f64 {
    let octaves = libm::log2(auditioned_hz(patch).max(1.0) / reference_hz());
    filter.cutoff_hz * libm::exp2((filter.key_follow - follow) * octaves)
}

/// How far velocity lets a unit's envelope through, 0 to 1.
pub fn struck(unit: &Unit, velocity: u8) -> f64 {
    let v = f64::from(velocity) / 127.0;
    1.0 - unit.velocity * (1.0 - v * v)
}

/// A unit's filter, if it is one.
pub fn of(unit: &Unit) -> Option<&Filter> {
    match &unit.kind {
        UnitKind::Filter(filter) => Some(filter),
        _ => None,
    }
}
