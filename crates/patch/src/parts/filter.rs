//! Where a filter's cutoff lies, for engine and screen alike.

use crate::kinds::UnitKind;
use crate::kinds::filter::{Filter, FilterType, Slope};
use crate::laws::pitch::{auditioned_hz, key_hz};
use crate::parts::unit::Unit;
use crate::patch::Patch;

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

/// By how much the cutoff of the auditioned note differs from the value: what a field shows is the value times this.
pub fn shown_times(unit: &Unit, patch: &Patch) -> f64 {
    let octaves = libm::log2(auditioned_hz(patch).max(1.0) / reference_hz());
    of(unit).map_or(1.0, |filter| libm::exp2(filter.key_follow * octaves))
}

/// A unit's filter, if it is one.
pub fn of(unit: &Unit) -> Option<&Filter> {
    match &unit.kind {
        UnitKind::Filter(filter) => Some(filter),
        _ => None,
    }
}

/// Damping of the one or two stages of a filter with two poles each, `1 / Q`: without resonance a Butterworth response, at full
/// resonance next to nothing. In low and high of 24 dB both stages share one response.
pub fn dampings(response: FilterType, slope: Slope, resonance: f64) -> [f64; 2] {
    const STEEP: [f64; 2] = [1.847_759_065_022_573_5, 0.765_366_864_730_179_5];
    const LEAST: f64 = 0.0005;
    let damped = |plain: f64| {
        let rest = 1.0 - resonance;
        plain * rest * rest.sqrt() + LEAST
    };
    match (response, slope) {
        (FilterType::Low | FilterType::High, Slope::Db24) => [STEEP[0], damped(STEEP[1])],
        _ => [damped(core::f64::consts::SQRT_2); 2],
    }
}

/// Gain of what a band-pass stage takes from its band at a resonance: with less damping it lets less through beside its middle
/// and more in it, so that noise stays as loud; what sings stays near.
pub fn band_gain(resonance: f64) -> f64 {
    const SINGING: f64 = 0.3;
    let [damping, _] = dampings(FilterType::Band, Slope::Db12, resonance);
    let eighth = libm::pow(resonance, 8.0);
    (damping * core::f64::consts::SQRT_2).sqrt() + SINGING * eighth
}

/// Gain at the middle of a peak, for each stage.
pub const PEAK_GAIN: f64 = 3.0;

/// What a comb feeds back at a resonance: never all of it.
pub fn comb_feedback(resonance: f64) -> f64 {
    0.998 * (1.0 - (1.0 - resonance) * (1.0 - resonance))
}

/// Formants of a, e, i, o, u in hertz, at a cutoff of 1 kHz (Peterson and Barney, "Control Methods Used in a Study of the
/// Vowels", 1952).
pub const FORMANTS_HZ: [[f64; 3]; 5] = [
    [730.0, 1090.0, 2440.0],
    [530.0, 1840.0, 2480.0],
    [270.0, 2290.0, 3010.0],
    [570.0, 840.0, 2410.0],
    [300.0, 870.0, 2240.0],
];
/// Gains of the three formants.
pub const FORMANT_GAINS: [f64; 3] = [1.6, 0.8, 0.4];

/// Formants some of the way from one vowel to another, by equal ratios.
pub fn formants_between(from: [f64; 3], to: [f64; 3], share: f64) -> [f64; 3] {
    core::array::from_fn(|i| from[i] * libm::pow(to[i] / from[i], share))
}

/// The formants of a vowel, 0 to 1, as multiples of the cutoff.
pub fn formants(vowel: f64) -> [f64; 3] {
    let place = vowel * (FORMANTS_HZ.len() - 1) as f64;
    let at = (place as usize).min(FORMANTS_HZ.len() - 2);
    formants_between(FORMANTS_HZ[at], FORMANTS_HZ[at + 1], place - at as f64).map(|hz| 0.001 * hz)
}

/// Damping of a vowel's formants.
pub fn formant_damping(resonance: f64) -> f64 {
    0.35 * (1.0 - 0.8 * resonance) + 0.002
}
