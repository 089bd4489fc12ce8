//! What it costs to check an edit against all that is written, on the fullest patch the generator makes.
#![allow(clippy::disallowed_methods)]

use std::time::Instant;

use zolvik_edit::{Edit, apply};
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::document::{Unit, UnitId};
use zolvik_patch::json;
use zolvik_patch::testing::any_patch;
use zolvik_patch::validate::savable;

/// The largest of many, with eight articulations that each differ in all they may.
fn fullest() -> Patch {
    let largest = (0..400)
        .map(any_patch)
        .max_by_key(|patch| json::write(patch).len());
    let mut patch = largest.unwrap_or_else(Patch::empty);
    while let Ok((next, _)) = apply(
        &patch,
        &Edit::AddArticulation {
            name: "Full".into(),
        },
    ) {
        patch = next;
        for unit in patch.units.clone() {
            let address = Address::new(Unit::VELOCITY, unit.id.0);
            let value = 0.3 + 0.01 * f64::from(unit.id.0);
            if let Ok((next, _)) = apply(&patch, &Edit::SetValue { address, value }) {
                patch = next;
            }
        }
    }
    patch
}

fn median_ms(mut act: impl FnMut()) -> f64 {
    let mut times: Vec<f64> = (0..101)
        .map(|_| {
            let began = Instant::now();
            act();
            began.elapsed().as_secs_f64() * 1000.0
        })
        .collect();
    times.sort_by(f64::total_cmp);
    times[50]
}

fn main() {
    let patch = fullest();
    let text = json::write(&patch);
    println!(
        "fullest: {} strips, {} articulations, {} KB",
        patch.units.len(),
        patch.playing.articulations.len(),
        text.len() / 1024
    );
    println!(
        "check of all that is written: {:.3} ms",
        median_ms(|| drop(savable(&patch)))
    );
    let rename = Edit::RenameUnit {
        unit: UnitId(1),
        name: "Other".into(),
    };
    println!(
        "an edit with it: {:.3} ms",
        median_ms(|| drop(apply(&patch, &rename)))
    );
    println!(
        "beside: writing it {:.3} ms, reading it {:.3} ms",
        median_ms(|| drop(json::write(&patch))),
        median_ms(|| drop(json::read(&text)))
    );
}
