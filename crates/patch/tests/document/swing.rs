//! Swing.

use zolvik_patch::playing::swung;

#[rstest::rstest]
#[case::straight(0.75, 0.5, 0.75)]
#[case::second_sixteenth_late(0.25, 0.66, 0.33)]
#[case::on_the_eighth(0.5, 0.66, 0.5)]
#[case::half_of_the_first(0.125, 0.66, 0.165)]
#[case::later(3.75, 0.6, 3.8)]
fn swing_moves_every_second_sixteenth(#[case] at: f64, #[case] swing: f64, #[case] expected: f64) {
    let found = swung(at, 0.25, swing);
    assert!((found - expected).abs() < 1e-12, "{found}");
}
