//! One partial on its way, and what becomes of several.

use std::collections::BTreeMap;

use zolvik_patch::document::UnitId;

pub(super) type C = rustfft::num_complex::Complex<f64>;

/// Most partials followed at once.
const MOST: usize = 600;

/// One partial on its way: `Im(amplitude e^(i 2 pi hz t))`.
#[derive(Debug, Clone)]
pub(super) struct Tone {
    /// With sign.
    pub(super) hz: f64,
    pub(super) amplitude: C,
    /// How many times each unit's frequency is in it.
    pub(super) orders: BTreeMap<UnitId, i32>,
}

/// The same tone with a frequency above zero: `Im a e^-ix = Im -a* e^ix`.
pub(super) fn upright(tone: Tone) -> Tone {
    if tone.hz >= 0.0 {
        return tone;
    }
    Tone {
        hz: -tone.hz,
        amplitude: -tone.amplitude.conj(),
        orders: tone.orders.iter().map(|(id, n)| (*id, -n)).collect(),
    }
}

pub(super) fn joined(tone: &Tone, other: &Tone, times: i32, amplitude: C) -> Tone {
    let mut orders = tone.orders.clone();
    for (id, n) in &other.orders {
        *orders.entry(*id).or_insert(0) += n * times;
    }
    Tone {
        hz: tone.hz + other.hz * f64::from(times),
        amplitude,
        orders,
    }
}

/// The strongest tones, those of the same combination as one.
pub(super) fn strongest(tones: Vec<Tone>) -> Vec<Tone> {
    let mut by_orders: BTreeMap<BTreeMap<UnitId, i32>, Tone> = BTreeMap::new();
    for tone in tones {
        match by_orders.get_mut(&tone.orders) {
            Some(same) => same.amplitude += tone.amplitude,
            None => drop(by_orders.insert(tone.orders.clone(), tone)),
        }
    }
    let mut tones: Vec<Tone> = by_orders.into_values().collect();
    if tones.len() > MOST {
        tones.sort_by(|a, b| b.amplitude.norm_sqr().total_cmp(&a.amplitude.norm_sqr()));
        tones.truncate(MOST);
    }
    tones
}
