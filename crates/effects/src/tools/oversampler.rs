//! Twice, four and eight times the rate and back, without turning phases: half-band filters of windowed sines (Kaiser, 1974).

use core::f64::consts::PI;

use super::mirrored::mirrored;
use crate::process::BLOCK;

/// Most times the rate.
pub const MOST: usize = 8;
/// Half lengths of the filters between the rate and twice the rate, and further up, in samples of the higher rate.
const HALF: [usize; 3] = [63, 15, 15];
/// Most taps beside the middle one.
const MOST_TAPS: usize = 64;
/// Room for a filter's own history and half of the longest block.
const ROOM: usize = MOST_TAPS + MOST * BLOCK / 2;

/// One doubling of the rate of one channel, or one halving. Of a half-band filter every second tap is nothing but the middle one: what
/// is left works on every second sample, side by side.
#[derive(Debug, Clone)]
struct HalfBand {
    /// Half of the taps beside the middle one, the outermost first: the others are the same.
    taps: [f32; MOST_TAPS / 2],
    count: usize,
    /// Samples they work on, the last of them first, and those the middle tap works on.
    beside: [f32; ROOM],
    middle: [f32; ROOM],
}

impl HalfBand {
    fn new(half: usize) -> Self {
        const BETA: f64 = 9.6;
        let pairs = half.div_ceil(2);
        let mut taps = [0.0; MOST_TAPS / 2];
        let value = |i: usize| {
            let x = (2 * i + 1) as f64;
            let place = x / (half + 1) as f64;
            let window = bessel(BETA * (1.0 - place * place).sqrt()) / bessel(BETA);
            libm::sin(PI * x / 2.0) / (PI * x) * window
        };
        let sum: f64 = (0..pairs).map(|i| 2.0 * value(i)).sum();
        // the middle tap and all others have the same sum
        for i in 0..pairs {
            taps[pairs - 1 - i] = (0.5 * value(i) / sum) as f32;
        }
        HalfBand {
            taps,
            count: 2 * pairs,
            beside: [0.0; ROOM],
            middle: [0.0; ROOM],
        }
    }

    fn clear(&mut self) {
        self.beside.fill(0.0);
        self.middle.fill(0.0);
    }

    /// Sums of the taps over the samples from each place of the history on.
    #[inline(always)]
    fn sums(&self, out: &mut [f32]) {
        let half = self.count / 2;
        mirrored(&self.taps[..half], &self.beside, &self.beside[half..], out);
    }

    /// Twice as many samples.
    fn up(&mut self, x: &[f32], out: &mut [f32]) {
        let keep = self.count - 1;
        self.beside[keep..keep + x.len()].copy_from_slice(x);
        let mut sums = [0.0; MOST * BLOCK / 2];
        self.sums(&mut sums[..x.len()]);
        let middle = &self.beside[self.count / 2..];
        for ((pair, sum), middle) in out.as_chunks_mut().0.iter_mut().zip(sums).zip(middle) {
            *pair = [2.0 * sum, *middle];
        }
        self.beside.copy_within(x.len()..x.len() + keep, 0);
    }

    /// Half as many samples.
    fn down(&mut self, x: &[f32], out: &mut [f32]) {
        let keep = self.count - 1;
        let count = x.len() / 2;
        for (i, pair) in x.as_chunks::<2>().0.iter().enumerate() {
            self.middle[keep + i] = pair[0];
            self.beside[keep + i] = pair[1];
        }
        self.sums(&mut out[..count]);
        for (out, middle) in out.iter_mut().zip(&self.middle[self.count / 2..]) {
            *out += 0.5 * middle;
        }
        self.beside.copy_within(count..count + keep, 0);
        self.middle.copy_within(count..count + keep, 0);
    }
}

/// The modified Bessel function of order 0, by its series.
fn bessel(x: f64) -> f64 {
    let (mut sum, mut term) = (1.0, 1.0);
    for k in 1..40 {
        term *= (x / 2.0) * (x / 2.0) / f64::from(k * k);
        sum += term;
    }
    sum
}

/// The way up and down again of one channel.
#[derive(Debug, Clone)]
pub struct Oversampler {
    up: [HalfBand; 3],
    down: [HalfBand; 3],
    /// Samples at the highest rate that make the delay a whole number of frames.
    wait: [f32; 64],
    waits: usize,
}

impl Default for Oversampler {
    fn default() -> Self {
        Oversampler::new()
    }
}

impl Oversampler {
    /// One that has heard nothing. Allocates nothing, but is large.
    pub fn new() -> Self {
        Oversampler {
            up: HALF.map(HalfBand::new),
            down: HALF.map(HalfBand::new),
            wait: [0.0; 64],
            waits: 0,
        }
    }

    /// How late what goes up and down is, in samples of the highest rate.
    fn late(times: usize) -> usize {
        let mut late = 0;
        for (stage, half) in HALF.iter().enumerate() {
            let rate = 2 << stage;
            if rate <= times {
                // up and down, half a length each; the way up gives its first sample one early
                late += (2 * half - 1) * (times / rate);
            }
        }
        late
    }

    /// How late the whole is, in frames, if what is done at the higher rate takes so many of its samples.
    pub fn latency_frames(times: usize, inside: usize) -> usize {
        (Oversampler::late(times) + inside).div_ceil(times)
    }

    /// Lets a block through something at a higher rate: 1, 2, 4 or 8 times, that takes so many samples there.
    pub fn run(
        &mut self,
        times: usize,
        inside: usize,
        block: &mut [f32; BLOCK],
        act: impl FnOnce(&mut [f32]),
    ) {
        let mut a = [0.0; MOST * BLOCK];
        let mut b = [0.0; MOST * BLOCK];
        a[..BLOCK].copy_from_slice(block);
        let mut length = BLOCK;
        let mut stage = 0;
        while length < times * BLOCK {
            self.up[stage].up(&a[..length], &mut b[..2 * length]);
            length *= 2;
            a[..length].copy_from_slice(&b[..length]);
            stage += 1;
        }
        act(&mut a[..length]);
        self.waits =
            Oversampler::latency_frames(times, inside) * times - Oversampler::late(times) - inside;
        if self.waits > 0 {
            let waits = self.waits.min(self.wait.len());
            b[..waits].copy_from_slice(&self.wait[..waits]);
            b[waits..length].copy_from_slice(&a[..length - waits]);
            self.wait[..waits].copy_from_slice(&a[length - waits..length]);
            a[..length].copy_from_slice(&b[..length]);
        }
        while stage > 0 {
            stage -= 1;
            self.down[stage].down(&a[..length], &mut b[..length / 2]);
            length /= 2;
            a[..length].copy_from_slice(&b[..length]);
        }
        block.copy_from_slice(&a[..BLOCK]);
    }

    /// Forgets everything.
    pub fn clear(&mut self) {
        self.up.iter_mut().for_each(HalfBand::clear);
        self.down.iter_mut().for_each(HalfBand::clear);
        self.wait.fill(0.0);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Up and down again without doing anything is the same sound, late by what is said.
    #[test]
    fn up_and_down_is_late_by_what_is_said() {
        for times in [1, 2, 4, 8] {
            let mut oversampler = Oversampler::new();
            let sound: Vec<f32> = (0..960)
                .map(|i| libm::sinf(i as f32 * 0.3) * libm::sinf(i as f32 * 0.011))
                .collect();
            let mut out = vec![];
            for chunk in sound.chunks_exact(BLOCK) {
                let mut block = [0.0; BLOCK];
                block.copy_from_slice(chunk);
                oversampler.run(times, 0, &mut block, |_| {});
                out.extend(block);
            }
            let late = Oversampler::latency_frames(times, 0);
            let off = (200..900)
                .map(|i| (out[i] - sound[i - late]).abs())
                .fold(0.0, f32::max);
            assert!(off < 1e-4, "{times} times: {off}, {late} frames late");
        }
    }
}
