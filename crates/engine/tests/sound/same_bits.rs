//! The same events give the same bits, however the work is cut.

use rstest::rstest;
use zolvik_patch::testing::any_patch;

use crate::support::*;

/// A short phrase with overlaps; the frames between events are multiples of the engine's block.
fn phrase(patch: &zolvik_patch::Patch, cut: usize) -> Vec<f32> {
    let mut engine = engine(patch);
    let mut all = Vec::new();
    for (key, on) in [
        (48, true),
        (55, true),
        (48, false),
        (60, true),
        (55, false),
        (60, false),
    ] {
        engine.midi([if on { 0x90 } else { 0x80 }, key, 90]);
        let mut left = 1600;
        while left > 0 {
            let frames = cut.min(left);
            let (l, r) = take(&mut engine, frames);
            all.extend(l.into_iter().zip(r).map(|(l, r)| l + 2.0 * r));
            left -= frames;
        }
    }
    all
}

#[rstest]
fn buffers_of_any_size_agree(#[values(1, 7, 128)] cut: usize, #[values(3, 42)] seed: u64) {
    let patch = any_patch(seed);
    let whole: Vec<u32> = phrase(&patch, 1600).iter().map(|s| s.to_bits()).collect();
    let cut_up: Vec<u32> = phrase(&patch, cut).iter().map(|s| s.to_bits()).collect();
    assert!(
        whole == cut_up,
        "buffers of {cut} frames differ for patch {seed}"
    );
}

#[test]
fn a_note_sounds_the_same_in_any_lane() {
    let mut patch = plain_units(&[1.0, 1.41]);
    connect(&mut patch, 1, TO_LEFT);
    connect(&mut patch, 2, index(1, 3.0));
    let mut fresh = engine(&patch);
    fresh.note_on(62, 100);
    let expected = take(&mut fresh, 4800).0;
    let mut used = engine(&patch);
    for key in 30..39 {
        used.note_on(key, 100);
    }
    used.silence();
    take(&mut used, 1600);
    used.note_on(10, 1); // takes the first lane
    used.silence();
    used.note_on(62, 100);
    take(&mut used, 0);
    let heard = take(&mut used, 4800).0;
    assert!(
        expected[1600..]
            .iter()
            .zip(&heard[1600..])
            .all(|(a, b)| a.to_bits() == b.to_bits())
    );
}
