//! Reading between samples: a windowed sine (Kaiser, "Nonrecursive Digital Filter Design Using the I0-sinh Window
//! Function", 1974), wide enough that what transposing would fold back lies 80 dB below.

use std::sync::LazyLock;

/// Highest tone that passes, as a share of half the rate.
pub const CUT: f64 = 0.893;
/// Half the kernel's width, in periods of its cut.
pub const REACH: f64 = 24.0 * CUT;
/// Entries of the table per period.
pub const FINE: usize = 512;

/// The right half of the kernel, with an entry to spare.
pub static KERNEL: LazyLock<Vec<f32>> = LazyLock::new(|| {
    let count = (REACH * FINE as f64) as usize + 2;
    (0..count)
        .map(|i| {
            let x = i as f64 / FINE as f64;
            let angle = core::f64::consts::PI * x;
            let sine = if i == 0 {
                1.0
            } else {
                libm::sin(angle) / angle
            };
            let edge = (1.0 - (x / REACH) * (x / REACH)).max(0.0);
            (sine * bessel_i0(BETA * libm::sqrt(edge)) / bessel_i0(BETA)) as f32
        })
        .collect()
});

const BETA: f64 = 8.4;

/// The modified Bessel function of order zero, by its power series.
pub fn bessel_i0(x: f64) -> f64 {
    let (mut sum, mut term) = (1.0, 1.0);
    for k in 1..40 {
        let half = x / (2.0 * f64::from(k));
        term *= half * half;
        sum += term;
    }
    sum
}
