//! Modulators that change nothing: a wave of two levels that is moved in phase stays the same as long as its edges stay where they are.

use zolvik_patch::document::Operator;
use zolvik_patch::wave::{Shape, Wave};

use super::tone::Tone;

/// Places of a cycle that are looked at.
const PLACES: usize = 1024;
/// Most cycles after which all begins anew.
const ROUNDS: usize = 4;
/// How many times stronger modulators are tried.
const TIMES: f64 = 64.0;
/// How many times stronger a modulator would have to be at least: nearer, edges are stretched, which is heard as soon as they have a length.
pub(super) const CLEAR: f64 = 1.3;
/// What is a whole number of turns, within this.
const WHOLE: f64 = 1e-6;

/// By how many times the movers would have to be stronger to change the wave of an operator that runs at a frequency; 1 where they change it as
/// they are, infinity where they never do.
pub(super) fn changes_from(operator: &Operator, hz: f64, movers: &[Tone]) -> f64 {
    let up = match operator.wave {
        Wave::Shape(Shape::Square) => 0.5,
        Wave::Shape(Shape::Pulse) => operator.width,
        _ => return 1.0,
    };
    let goes_round = |rounds: usize| {
        let turns = movers.iter().map(|m| m.hz / hz * rounds as f64);
        turns.into_iter().all(|t| (t - t.round()).abs() < WHOLE)
    };
    let Some(rounds) = (1..=ROUNDS).find(|rounds| goes_round(*rounds)) else {
        return 1.0;
    };
    // how far it is moved at each place, in turns, and whether it is up there by itself
    let places: Vec<(f64, f64)> = (0..rounds * PLACES)
        .map(|i| {
            let cycles = (i as f64 + 0.5) / PLACES as f64;
            let by = movers.iter().map(|m| {
                let (index, angle) = m.amplitude.to_polar();
                index * (std::f64::consts::TAU * cycles * m.hz / hz + angle).sin()
            });
            (
                cycles + operator.start_turns,
                by.sum::<f64>() / std::f64::consts::TAU,
            )
        })
        .collect();
    let is_up = |turns: f64| turns.rem_euclid(1.0) < up;
    let changed = |times: f64| {
        let is_moved = |(at, by): &(f64, f64)| is_up(*at) != is_up(at + times * by);
        places.iter().any(is_moved)
    };
    let mut times = 1.0;
    while times < TIMES {
        if changed(times) {
            return times;
        }
        times *= 1.01;
    }
    f64::INFINITY
}
