//! What an operator's cycle looks like after all that is done to it: the engine's own formulas, for pictures.

use wide::{f32x4, f32x8};
use zolvik_patch::document::{Operator, Patch, Unit, UnitKind};
use zolvik_patch::hearing::Listening;

use crate::program::compile;
use crate::realtime::modulation::smooth::Smooth;
pub use crate::realtime::modulation::source_output::come_in;
use crate::realtime::nodes::cycle::Shaped as ShapedCycle;
use crate::realtime::nodes::partials::Partials;
use crate::sizes::LANES;

/// A cycle as it is played at a low key, and how strong its partials are.
#[derive(Debug, Clone, PartialEq)]
pub struct Shaped {
    /// One period of the operator's frequency, as many points as the cycle given.
    pub cycle: Vec<f32>,
    /// Amplitudes of the first partials, in order.
    pub amplitudes: Vec<f32>,
}

/// Shapes a cycle, given as evenly spaced points, as an operator does, and looks at so many partials.
pub fn shaped(operator: &Operator, cycle: &[f32], partials: usize) -> Shaped {
    // by the compiler, so that values mean here what they mean there
    let mut patch = Patch::empty();
    patch.units = vec![Unit {
        kind: UnitKind::Operator(operator.clone()),
        ..Unit::operator(zolvik_patch::document::UnitId(1))
    }];
    let program = compile(&patch, &Listening::default());
    let first = program.units[0].first_param as usize;
    let own = &program.params()[first..];
    let values: Vec<Smooth> = own.iter().map(|p| Smooth::at(p.value)).collect();
    let count = cycle.len() as f32;
    let plain = |turns: f32x4| {
        let place = (turns - turns.floor()) * f32x4::splat(count);
        f32x4::new(place.to_array().map(|x| {
            let (at, share) = (x as usize % cycle.len(), x.fract());
            let next = cycle[(at + 1) % cycle.len()];
            cycle[at] + (next - cycle[at]) * share
        }))
    };
    let reshaped = ShapedCycle::new(&values, &[1e6; LANES]);
    let wave = |turns: f32x4| match &reshaped {
        None => plain(turns),
        Some(reshaped) => reshaped.at(turns, 0, plain),
    };
    let mut list = Partials::new();
    list.advance((&values, true), 1, 1.0, true, wave);
    let spread = Partials::wanted(&values);
    let (spacing, shift) = (
        operator.harmonics.spacing as f32,
        operator.harmonics.shift as f32,
    );
    let at = |i: usize| {
        let turns = i as f32 / count;
        match spread {
            true => {
                let first = f32x8::splat(turns * (1.0 + shift));
                let between = f32x8::splat(turns * spacing);
                list.at(first, between, f32x8::splat(1e6), spacing)
                    .to_array()[0]
            }
            false => wave(f32x4::splat(turns)).to_array()[0],
        }
    };
    Shaped {
        cycle: (0..cycle.len()).map(at).collect(),
        amplitudes: list.amplitudes().take(partials).collect(),
    }
}
