//! How long things ring, from what they are made of.

use core::f64::consts::TAU;

use super::biquad::Biquad;
use crate::kind::LONGEST_TAIL_S;

/// Time constants in so many decibels: `ln 10 / 20` for each.
pub fn time_constants(down_db: f64) -> f64 {
    down_db * core::f64::consts::LN_10 / 20.0
}

/// Until one pole at a corner is so far down, in seconds.
pub fn one_pole_s(hz: f64, down_db: f64) -> f64 {
    time_constants(down_db) / (TAU * hz.max(0.1))
}

/// Until what goes round and keeps a share of itself each time is so far down, in seconds.
pub fn rounds_s(each_s: f64, kept: f64, down_db: f64) -> f64 {
    match kept.abs() {
        kept if kept <= 1e-4 => each_s,
        kept if kept >= 0.9999 => LONGEST_TAIL_S,
        // the last round is heard to its end
        kept => each_s * (1.0 + (down_db / (-20.0 * libm::log10(kept))).ceil()),
    }
}

/// Two poles that are all but one fall a little later than either.
const SPARE: f64 = 1.05;

/// Until stages one behind the other are so far down, in seconds: each goes on ringing with what the one before it still gives.
pub fn stages_s(stages: impl IntoIterator<Item = Biquad>, rate_hz: f64, down_db: f64) -> f64 {
    let each = stages
        .into_iter()
        .map(|stage| stage_s(&stage, rate_hz, down_db));
    each.sum::<f64>() * SPARE
}

fn stage_s(stage: &Biquad, rate_hz: f64, down_db: f64) -> f64 {
    let radius = stage.slowest_pole();
    match radius > 0.0 {
        true => (time_constants(down_db) / (-libm::log(radius).min(-1e-9) * rate_hz))
            .min(LONGEST_TAIL_S),
        false => 0.0,
    }
}
