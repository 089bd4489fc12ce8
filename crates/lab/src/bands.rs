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

/// Powers of the bands over a whole sound.
pub fn band_powers(left: &[f32], right: &[f32], rate_hz: f64) -> [BandPower; BANDS.len()] {
    const SIZE: usize = 8192;
    let mut transform = Transform::new(SIZE);
    let mut bins = [vec![], vec![]];
    let mut powers = [BandPower::default(); BANDS.len()];
    let sides: Vec<f32> = right.iter().map(|x| -x).collect();
    let bin_hz = rate_hz / SIZE as f64;
    // windows that overlap by half; two at a time
    let centres: Vec<usize> = (0..left.len()).step_by(SIZE / 2).collect();
    for pair in centres.chunks(2) {
        let second = pair.get(1).copied().unwrap_or(left.len() + SIZE);
        for (of_sides, channel) in [(false, right), (true, &sides[..])] {
            transform.amplitudes(left, channel, [pair[0], second], &mut bins);
            for (power, band) in powers.iter_mut().zip(BANDS) {
                let range = (band.from_hz / bin_hz) as usize..(band.to_hz / bin_hz) as usize;
                for bins in &bins {
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
    // of a Hann window a sine falls into one and a half bins; its power is half its amplitude's square
    let scale = 0.5 / 1.5 / centres.len().max(1) as f64;
    for power in &mut powers {
        power.mid *= scale;
        power.side *= scale;
    }
    powers
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
}
