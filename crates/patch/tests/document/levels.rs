//! Levels, gains and places.

use zolvik_patch::levels::{db_gain, gain_db, meter_place, pan_gains};

#[test]
fn places_keep_the_power_and_decibels_come_back() {
    for i in -10..=10 {
        let [l, r] = pan_gains(f64::from(i) / 10.0);
        assert!((l * l + r * r - 1.0).abs() < 1e-12);
    }
    assert!((gain_db(db_gain(-7.3)) + 7.3).abs() < 1e-12);
}

/// The meter is even in decibels from -60 to +6: eleven elevenths of 6 dB.
#[rstest::rstest]
#[case::nothing(0.0, 0.0)]
#[case::below_it(1e-4, 0.0)]
#[case::its_foot(1e-3, 0.0)]
#[case::one_step_up(0.001_995_262, 1.0 / 11.0)]
#[case::full_scale(1.0, 10.0 / 11.0)]
#[case::its_top(1.995_262, 1.0)]
#[case::beyond(100.0, 1.0)]
fn a_meter_is_even_in_decibels(#[case] amplitude: f64, #[case] place: f64) {
    let is = meter_place(amplitude);
    assert!((is - place).abs() < 1e-6, "{amplitude}: {is}");
}
