//! A sound by bands: how much there is, and how wide it stands.

use crate::spectrum::Transform;

/// A band of frequencies.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Band {
    /// Its name.
    pub label: &'static str,
    /// Where it begins and ends, in hertz.
    pub from_hz: f64,
    pub to_hz: f64,
}

/// The bands, highest first, as they are read from top to bottom.
pub const BANDS: [Band; 5] = [
    band("High", 6_000.0, 16_000.0),
    band("High mid", 2_000.0, 6_000.0),
    band("Mid", 500.0, 2_000.0),
    band("Low mid", 120.0, 500.0),
    band("Low", 20.0, 120.0),
];

const fn band(label: &'static str, from_hz: f64, to_hz: f64) -> Band {
    Band {
        label,
        from_hz,
        to_hz,
    }
}

/// What there is in a band.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct BandPower {
    /// Power of the middle and of the sides.
    pub mid: f64,
    pub side: f64,
}

impl BandPower {
    /// Power of all of it, in decibels; -200 for nothing.
    pub fn db(&self) -> f64 {
        10.0 * (self.mid + self.side).max(1e-20).log10()
    }

    /// Share of the sides, 0 to 1.
    pub fn width(&self) -> f64 {
        self.side / (self.mid + self.side).max(1e-20)
    }

    /// How alike left and right are: 1 is the same, 0 unlike, -1 turned over.
    pub fn correlation(&self) -> f64 {
        (self.mid - self.side) / (self.mid + self.side).max(1e-20)
    }
}

/// Frames a transform looks at.
const SIZE: usize = 8192;
/// From one moment to the next: windows overlap by half.
const STEP: usize = SIZE / 2;

/// Sums up the powers of the bands of a sound while it grows.
pub struct BandMeter {
    rate_hz: f64,
    transform: Transform,
    bins: [Vec<f32>; 2],
    /// Moments summed up.
    moments: usize,
    powers: [BandPower; BANDS.len()],
}

impl BandMeter {
    /// A meter that has heard nothing.
    pub fn new(rate_hz: f64) -> Self {
        BandMeter {
            rate_hz,
            transform: Transform::new(SIZE),
            bins: [vec![], vec![]],
            moments: 0,
            powers: Default::default(),
        }
    }

    /// Sums up what is new in a sound that goes on.
    pub fn hear(&mut self, left: &[f32], right: &[f32]) {
        // two moments at a time, where all that they look at is there
        while (self.moments + 1) * STEP + SIZE / 2 <= left.len() {
            self.sum_up(
                [self.moments * STEP, (self.moments + 1) * STEP],
                left,
                right,
            );
            self.moments += 2;
        }
    }

    /// The powers over the whole of it, now that nothing comes after.
    pub fn end(mut self, left: &[f32], right: &[f32]) -> [BandPower; BANDS.len()] {
        self.hear(left, right);
        while self.moments * STEP < left.len() {
            let second = match (self.moments + 1) * STEP {
                second if second < left.len() => second,
                _ => left.len() + SIZE,
            };
            self.sum_up([self.moments * STEP, second], left, right);
            self.moments += if second < left.len() { 2 } else { 1 };
        }
        // of a Hann window a sine falls into one and a half bins; its power is half its amplitude's square
        let scale = 0.5 / 1.5 / self.moments.max(1) as f64;
        for power in &mut self.powers {
            power.mid *= scale;
            power.side *= scale;
        }
        self.powers
    }

    fn sum_up(&mut self, centres: [usize; 2], left: &[f32], right: &[f32]) {
        let bin_hz = self.rate_hz / SIZE as f64;
        for of_sides in [false, true] {
            let transform = match of_sides {
                false => Transform::amplitudes,
                true => Transform::side_amplitudes,
            };
            transform(&mut self.transform, left, right, centres, &mut self.bins);
            for (power, band) in self.powers.iter_mut().zip(BANDS) {
                let range = (band.from_hz / bin_hz) as usize..(band.to_hz / bin_hz) as usize;
                for bins in &self.bins {
                    let part = bins.get(range.clone()).unwrap_or(&[]);
                    let sum: f64 = part.iter().map(|a| f64::from(a * a)).sum();
                    match of_sides {
                        true => power.side += sum,
                        false => power.mid += sum,
                    }
                }
            }
        }
    }
}

/// Powers of the bands over a whole sound.
pub fn band_powers(left: &[f32], right: &[f32], rate_hz: f64) -> [BandPower; BANDS.len()] {
    BandMeter::new(rate_hz).end(left, right)
}

#[cfg(test)]
#[allow(clippy::disallowed_methods)] // references are reckoned in their own way
mod tests {
    use super::*;

    #[test]
    fn a_sine_is_in_its_band_at_its_level_and_as_wide_as_it_stands() {
        let sine = |hz: f64| -> Vec<f32> {
            (0..96_000)
                .map(|i| (std::f64::consts::TAU * hz * f64::from(i) / 48_000.0).sin() as f32)
                .collect()
        };
        let (x, none) = (sine(1_000.0), vec![0.0; 96_000]);
        let middle = band_powers(&x, &x, 48_000.0)[2];
        assert!((middle.db() + 3.01).abs() < 0.3, "{}", middle.db());
        assert!(middle.width() < 1e-6 && middle.correlation() > 0.999);
        let one_side = band_powers(&x, &none, 48_000.0)[2];
        assert!((one_side.width() - 0.5).abs() < 1e-3);
        assert!(band_powers(&x, &x, 48_000.0)[4].db() < -40.0);
    }

    #[test]
    fn what_comes_in_pieces_has_the_same_powers() {
        let side = |k: usize| -> Vec<f32> {
            let wave = |i: usize| (i as f32 * 0.01 * k as f32).sin() * (1.0 - i as f32 / 90_000.0);
            (0..81_003).map(wave).collect()
        };
        let (left, right) = (side(3), side(40));
        let whole = band_powers(&left, &right, 48_000.0);
        let mut meter = BandMeter::new(48_000.0);
        for end in [1, 700, 4_096, 30_000, 30_001, 80_000] {
            meter.hear(&left[..end], &right[..end]);
        }
        assert!(whole[1].db() > -30.0 && whole[3].db() > -30.0, "{whole:?}");
        assert_eq!(meter.end(&left, &right), whole);
        let nothing = BandMeter::new(48_000.0).end(&[], &[]);
        assert!(nothing.iter().all(|power| power.db() <= -200.0));
    }
}
