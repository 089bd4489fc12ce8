//! Levels and places as factors: the one law of each.

/// `10^(db/20)`.
pub fn db_gain(db: f64) -> f64 {
    libm::pow(10.0, db / 20.0)
}

/// Decibels of a factor above zero.
pub fn gain_db(gain: f64) -> f64 {
    20.0 * libm::log10(gain)
}

/// Decibels of full scale at both ends of a level meter.
pub const METER_DB: (f64, f64) = (-60.0, 6.0);

/// Where an amplitude stands on a level meter, 0 to 1.
pub fn meter_place(amplitude: f64) -> f64 {
    let (low, high) = METER_DB;
    let db = gain_db(amplitude.max(f64::MIN_POSITIVE));
    ((db - low) / (high - low)).clamp(0.0, 1.0)
}

/// Factors of left and right for a place between -1 and 1, at equal power: their squares add up to one.
pub fn pan_gains(pan: f64) -> [f64; 2] {
    let angle = (pan + 1.0) * core::f64::consts::FRAC_PI_4;
    [libm::cos(angle), libm::sin(angle)]
}
