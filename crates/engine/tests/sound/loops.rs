//! Loops: a send at zero changes nothing, the file's order does not matter, and the route that closes a loop is the one that is late.

use rstest::rstest;
use zolvik_patch::Patch;
use zolvik_patch::document::{Filter, KindName, Send, Unit, UnitId, UnitKind};

use crate::support::*;

fn sound(patch: &Patch) -> Vec<f32> {
    let mut engine = engine(patch);
    engine.note_on(57, 100);
    engine.note_on(64, 90);
    let (left, right) = take(&mut engine, 9_600);
    [left, right].concat()
}

/// A modulator, a carrier and a filter after it.
fn stack() -> Patch {
    let mut patch = plain_units(&[1.0, 2.0]);
    let mut filter = Unit::new(UnitId(3), KindName::Filter);
    filter.kind = UnitKind::Filter(Filter {
        cutoff_hz: 900.0,
        resonance: 0.4,
        ..Filter::default()
    });
    patch.units.push(filter);
    connect(&mut patch, 2, index(1, 3.0));
    connect(
        &mut patch,
        1,
        Send::Audio {
            to: UnitId(3),
            pass_db: -3.0,
            pass_pan: 0.0,
        },
    );
    connect(&mut patch, 3, TO_LEFT);
    patch
}

const fn at(to: u16) -> UnitId {
    UnitId(to)
}

#[rstest]
#[case::closing_a_loop(1, Send::Phase { to: at(2), index_rad: 0.0 })]
#[case::into_itself(1, Send::Phase { to: at(1), index_rad: 0.0 })]
#[case::frequency(1, Send::Frequency { to: at(2), deviation: 0.0 })]
#[case::ring(1, Send::Ring { to: at(2), mix: 0.0 })]
#[case::amplitude(3, Send::Amplitude { to: at(2), amount: 0.0 })]
#[case::round_the_filter(3, Send::Phase { to: at(2), index_rad: 0.0 })]
#[case::into_the_filter(2, Send::Audio { to: at(3), pass_db: -72.0, pass_pan: 0.0 })]
#[case::the_cutoff(1, Send::Frequency { to: at(3), deviation: 0.0 })]
fn a_silent_send_changes_no_bit(#[case] from: u16, #[case] send: Send) {
    let without = sound(&stack());
    let mut patch = stack();
    connect(&mut patch, from, send);
    assert_eq!(sound(&patch), without);
}

/// Each moves the next, and the last the first; all are heard.
fn ring_of_three() -> Patch {
    let mut patch = plain_units(&[1.0, 1.5, 3.0]);
    for (from, to) in [(1, 2), (2, 3), (3, 1)] {
        connect(&mut patch, from, index(to, 0.9));
    }
    for unit in 1..=3 {
        connect(&mut patch, unit, TO_LEFT);
    }
    patch
}

#[test]
fn the_order_of_the_file_never_matters() {
    let mut heard = vec![];
    for [a, b, c] in [
        [0, 1, 2],
        [0, 2, 1],
        [1, 0, 2],
        [1, 2, 0],
        [2, 0, 1],
        [2, 1, 0],
    ] {
        let mut patch = ring_of_three();
        let units = patch.units.clone();
        patch.units = [a, b, c].map(|at: usize| units[at].clone()).into();
        patch.routes.rotate_left(a + 2 * b);
        heard.push(sound(&patch));
    }
    assert!(heard[0].iter().any(|s| s.abs() > 0.1));
    for other in &heard[1..] {
        assert_eq!(*other, heard[0]);
    }
}

/// While the closing route is faint the others are what theory has of them: J1 of the index.
#[test]
fn only_the_closing_route_is_late() {
    let mut patch = plain_units(&[1.0, 4.0]);
    connect(&mut patch, 2, index(1, 1.2));
    connect(&mut patch, 1, TO_LEFT);
    connect(&mut patch, 1, index(2, 1e-4));
    let mut engine = engine(&patch);
    engine.note_on(69, 127);
    take(&mut engine, 4_800);
    let (samples, _) = take(&mut engine, 48_000);
    for n in [1, 2] {
        let (level, _) = partial(&samples, 440.0 * (1.0 + 4.0 * f64::from(n)));
        let theory = libm::jn(n, 1.2);
        let off_db = 20.0 * (level / theory).log10();
        assert!(off_db.abs() < 0.01, "sideband {n}: {off_db} dB");
    }
}
