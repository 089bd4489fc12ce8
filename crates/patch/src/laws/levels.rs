//! Levels and places as factors: the one law of each.

/// `10^(db/20)`.
pub fn db_gain(db: f64) -> f64 {
    libm::pow(10.0, db / 20.0)
}

/// Decibels of a factor above zero.
pub fn gain_db(gain: f64) -> f64 {
    20.0 * libm::log10(gain)
}

/// Factors of left and right for a place between -1 and 1, at equal power: their squares add up to one.
pub fn pan_gains(pan: f64) -> [f64; 2] {
    let angle = (pan + 1.0) * core::f64::consts::FRAC_PI_4;
    [libm::cos(angle), libm::sin(angle)]
}
