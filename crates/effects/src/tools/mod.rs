//! What several effects are made of.

pub mod biquad;
pub mod bounds;
pub mod crossover;
pub mod drawn;
pub mod follow;
pub mod grains;
pub mod line;
pub mod mirrored;
pub mod oversampler;
pub mod pole;
pub mod ringing;
pub mod still;
pub mod wave;

/// Gain of decibels as a factor.
pub fn gain(db: f32) -> f32 {
    // what it mostly is
    if db == 0.0 {
        return 1.0;
    }
    libm::exp2f(db * 0.166_096_4)
}

/// A factor as decibels; nothing is -200.
pub fn decibels(gain: f32) -> f32 {
    libm::log2f(gain.max(1e-10)) * 6.020_6
}

/// Share of the rest a value covers in one frame if it covers 63 % in so many seconds.
pub fn one_pole_coefficient(seconds: f64, rate_hz: f64) -> f32 {
    (1.0 - libm::exp(-1.0 / (seconds.max(1e-6) * rate_hz))) as f32
}

/// Nothing where so little is left that numbers get slow.
#[inline(always)]
pub fn flush_denormal(x: f32) -> f32 {
    if x.abs() < 1e-20 { 0.0 } else { x }
}
