//! The highest point of a sound between its samples too.

use std::f64::consts::PI;
use std::sync::LazyLock;

use zolvik_waves::kernel::windowed_sine;

/// Places looked at from one sample to the next. Four, as ITU-R BS.1770-4 has it, leave up to half a decibel at the top of the range.
const PLACES: usize = 16;
/// Samples on either side of a place.
const REACH: usize = 24;
/// What is beside samples below this share of the highest is not looked at: no peak stands there.
const WORTH: f32 = 0.5;

type Row = [f32; 2 * REACH];

/// The curve through samples at each place between two of them: a windowed sine (Kaiser, 1974).
static ROWS: LazyLock<Vec<Row>> = LazyLock::new(|| {
    let row = |place: usize| -> Row {
        std::array::from_fn(|tap| {
            let x = tap as f64 - (REACH - 1) as f64 - place as f64 / PLACES as f64;
            windowed_sine(1.0, PI * x, x / REACH as f64, 8.0) as f32
        })
    };
    (1..PLACES).map(row).collect()
});

/// The highest point of the curve through samples, as an amplitude.
pub(crate) fn true_peak(samples: &[f32]) -> f64 {
    let highest = |most: f32, sample: &f32| most.max(sample.abs());
    let plain = samples.iter().fold(0.0, highest);
    let worth = plain * WORTH;
    let mut most = plain;
    for at in 0..samples.len().saturating_sub(1) {
        if samples[at].abs().max(samples[at + 1].abs()) < worth {
            continue;
        }
        let first = (at + 1).wrapping_sub(REACH);
        if let Some(around) = samples.get(first..first.wrapping_add(2 * REACH)) {
            for row in ROWS.iter() {
                let place: f32 = around.iter().zip(row).map(|(s, w)| s * w).sum();
                most = most.max(place.abs());
            }
        } else {
            // near the ends there is silence beyond
            let sample = |tap: usize| samples.get(first.wrapping_add(tap)).copied().unwrap_or(0.0);
            for row in ROWS.iter() {
                let place: f32 = row.iter().enumerate().map(|(tap, w)| sample(tap) * w).sum();
                most = most.max(place.abs());
            }
        }
    }
    most.into()
}

#[cfg(test)]
mod tests {
    use super::true_peak;

    #[test]
    fn peaks_between_samples_are_found_near_half_the_rate_too() {
        for share in [0.01, 0.125, 0.25, 0.3333, 0.4, 0.44] {
            for start in [0.0, 0.125, 0.37] {
                let turn = |n: usize| share * n as f64 + start;
                let sine = |n: usize| (std::f64::consts::TAU * turn(n)).sin();
                // faded in and out, so that its ends are no peaks
                let fade = |n: usize| (n.min(4_000 - n) as f64 / 1_000.0).min(1.0);
                let samples: Vec<f32> = (0..=4_000).map(|n| (sine(n) * fade(n)) as f32).collect();
                let off_db = 20.0 * true_peak(&samples).log10();
                assert!(
                    off_db.abs() < 0.05,
                    "{share} of the rate, {start}: {off_db:.3} dB"
                );
            }
        }
    }
}
