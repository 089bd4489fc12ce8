//! Levels, gains and places.

use zolvik_patch::levels::{db_gain, gain_db, pan_gains};

#[test]
fn places_keep_the_power_and_decibels_come_back() {
    for i in -10..=10 {
        let [l, r] = pan_gains(f64::from(i) / 10.0);
        assert!((l * l + r * r - 1.0).abs() < 1e-12);
    }
    assert!((gain_db(db_gain(-7.3)) + 7.3).abs() < 1e-12);
}
