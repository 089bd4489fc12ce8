//! Twice, four and eight times the rate and back, without turning phases: half-band filters of windowed sines (Kaiser, 1974).

use core::f64::consts::PI;

use crate::BLOCK;

/// Most times the rate.
pub const MOST: usize = 8;
/// Half lengths of the filters between the rate and twice the rate, and further up, in samples of the higher rate.
const HALF: [usize; 3] = [63, 15, 11];
/// Room for a filter's own history and the longest block.
const ROOM: usize = 2 * 63 + 1 + MOST * BLOCK;

/// One doubling of the rate of one channel, or one halving.
#[derive(Debug, Clone)]
struct HalfBand {
    /// Every second tap beside the middle one, from the middle on.
    taps: [f32; 32],
    pairs: usize,
    half: usize,
    history: [f32; ROOM],
}

impl HalfBand {
    fn new(half: usize) -> Self {
        const BETA: f64 = 9.6;
        let pairs = half.div_ceil(2);
        let mut taps = [0.0; 32];
        let mut sum = 0.0;
        for (i, tap) in taps.iter_mut().enumerate().take(pairs) {
            let x = (2 * i + 1) as f64;
            let place = x / (half + 1) as f64;
            let window = bessel(BETA * libm::sqrt(1.0 - place * place)) / bessel(BETA);
            let value = libm::sin(PI * x / 2.0) / (PI * x) * window;
            *tap = value as f32;
            sum += 2.0 * value;
        }
        // both halves of the taps have the same sum
        let scale = (0.5 / sum) as f32;
        taps.iter_mut().for_each(|t| *t *= scale);
        HalfBand {
            taps,
            pairs,
            half,
            history: [0.0; ROOM],
        }
    }

    fn clear(&mut self) {
        self.history.fill(0.0);
    }

    /// Sum of the taps beside the middle at a place of the history.
    #[inline(always)]
    fn beside(&self, middle: usize, step: usize) -> f32 {
        let mut sum = 0.0;
        for (i, tap) in self.taps[..self.pairs].iter().enumerate() {
            let off = step * (2 * i + 1);
            sum += tap * (self.history[middle - off] + self.history[middle + off]);
        }
        sum
    }

    /// Twice as many samples.
    fn up(&mut self, x: &[f32], out: &mut [f32]) {
        // at the lower rate the odd taps stand side by side
        let keep = self.half + 1;
        self.history[keep..keep + x.len()].copy_from_slice(x);
        let reach = self.half.div_ceil(2);
        for i in 0..x.len() {
            let newest = keep + i;
            // the middle tap falls on a sample that came `reach` before, the others between
            let mut between = 0.0;
            for (n, tap) in self.taps[..self.pairs].iter().enumerate() {
                let after = newest - reach + 1 + n;
                let before = newest - reach - n;
                between += tap * (self.history[after] + self.history[before]);
            }
            out[2 * i] = 2.0 * between;
            out[2 * i + 1] = self.history[newest - reach + 1];
        }
        self.history.copy_within(x.len()..x.len() + keep, 0);
    }

    /// Half as many samples.
    fn down(&mut self, x: &[f32], out: &mut [f32]) {
        let keep = 2 * self.half + 1;
        self.history[keep..keep + x.len()].copy_from_slice(x);
        for (i, out) in out.iter_mut().enumerate().take(x.len() / 2) {
            let middle = keep + 2 * i + 1 - self.half;
            *out = 0.5 * self.history[middle] + self.beside(middle, 1);
        }
        self.history.copy_within(x.len()..x.len() + keep, 0);
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
pub struct Finer {
    up: [HalfBand; 3],
    down: [HalfBand; 3],
    /// Samples at the highest rate that make the delay a whole number of frames.
    wait: [f32; 64],
    waits: usize,
}

impl Default for Finer {
    fn default() -> Self {
        Finer::new()
    }
}

impl Finer {
    /// One that has heard nothing. Allocates nothing, but is large.
    pub fn new() -> Self {
        Finer {
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
        (Finer::late(times) + inside).div_ceil(times)
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
        self.waits = Finer::latency_frames(times, inside) * times - Finer::late(times) - inside;
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
            let mut finer = Finer::new();
            let sound: Vec<f32> = (0..960)
                .map(|i| libm::sinf(i as f32 * 0.3) * libm::sinf(i as f32 * 0.011))
                .collect();
            let mut out = vec![];
            for chunk in sound.chunks_exact(BLOCK) {
                let mut block = [0.0; BLOCK];
                block.copy_from_slice(chunk);
                finer.run(times, 0, &mut block, |_| {});
                out.extend(block);
            }
            let late = Finer::latency_frames(times, 0);
            let off = (200..900)
                .map(|i| (out[i] - sound[i - late]).abs())
                .fold(0.0, f32::max);
            assert!(off < 1e-4, "{times} times: {off}, {late} frames late");
        }
    }
}
