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

/// What each sample around counts for each place between two of them: a windowed sine (Kaiser, 1974). The first place is the sample itself.
static TAPS: LazyLock<Vec<[f32; PLACES]>> = LazyLock::new(|| {
    let tap = |tap: usize| {
        std::array::from_fn(|place| {
            let x = tap as f64 - (REACH - 1) as f64 - place as f64 / PLACES as f64;
            windowed_sine(1.0, PI * x, x / REACH as f64, 8.0) as f32
        })
    };
    (0..2 * REACH).map(tap).collect()
});

/// The curve at all places of the way from one sample to the next, from the samples around.
fn places(around: impl Iterator<Item = f32>) -> [f32; PLACES] {
    let mut sums = [0.0; PLACES];
    for (x, taps) in around.zip(TAPS.iter()) {
        for (sum, tap) in sums.iter_mut().zip(taps) {
            *sum += x * tap;
        }
    }
    sums
}

/// Looks for the highest point of the curve through samples while they come.
#[derive(Default)]
pub(crate) struct TruePeak {
    /// Samples known, and of them those whose way to the next was looked at.
    known: usize,
    looked: usize,
    /// Highest sample.
    plain: f32,
    most: f32,
}

impl TruePeak {
    /// Looks at what is new in samples that go on.
    pub(crate) fn hear(&mut self, samples: &[f32]) {
        self.look(samples, samples.len().saturating_sub(REACH));
    }

    /// The highest point, as an amplitude, now that nothing comes after.
    pub(crate) fn end(mut self, samples: &[f32]) -> f64 {
        self.look(samples, samples.len().saturating_sub(1));
        self.most.max(self.plain).into()
    }

    /// Looks at the ways from one sample to the next, up to that from the one before `to`.
    fn look(&mut self, samples: &[f32], to: usize) {
        let new = &samples[self.known..];
        self.plain = new.iter().fold(self.plain, |most, s| most.max(s.abs()));
        self.known = samples.len();
        let worth = self.plain * WORTH;
        for at in self.looked..to {
            if samples[at].abs().max(samples[at + 1].abs()) < worth {
                continue;
            }
            let first = (at + 1).wrapping_sub(REACH);
            let all = match samples.get(first..first.wrapping_add(2 * REACH)) {
                Some(around) => places(around.iter().copied()),
                // near the ends there is silence beyond
                None => places((0..2 * REACH).map(|tap| {
                    let at = first.wrapping_add(tap);
                    samples.get(at).copied().unwrap_or(0.0)
                })),
            };
            self.most = all.iter().fold(self.most, |most, y| most.max(y.abs()));
        }
        self.looked = self.looked.max(to);
    }
}

#[cfg(test)]
mod tests {
    use super::TruePeak;

    fn true_peak(samples: &[f32]) -> f64 {
        TruePeak::default().end(samples)
    }

    #[test]
    fn what_comes_in_pieces_has_the_same_peak() {
        let wave = |n: usize| (n as f32 * 1.9).sin() * (n as f32 / 300.0).sin();
        let samples: Vec<f32> = (0..3_000).map(wave).collect();
        let mut peak = TruePeak::default();
        for end in [0, 1, 23, 24, 25, 900, 2_990] {
            peak.hear(&samples[..end]);
        }
        assert_eq!(peak.end(&samples), true_peak(&samples));
        // one that stands at the very end is found too
        let mut rising = TruePeak::default();
        rising.hear(&samples[..600]);
        let short = &samples[..612];
        assert_eq!(rising.end(short), true_peak(short));
    }

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
