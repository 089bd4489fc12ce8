//! A delay line.

use crate::process::{BLOCK, Block};

/// Of each of six samples a polynomial goes through what it counts beside where the place lies.
const SIXTH: [f32; 6] = [
    -1.0 / 120.0,
    1.0 / 24.0,
    -1.0 / 12.0,
    1.0 / 12.0,
    -1.0 / 24.0,
    1.0 / 120.0,
];

/// The last so many samples of a sound.
#[derive(Debug, Clone)]
pub struct Line {
    samples: Box<[f32]>,
    mask: usize,
    at: usize,
}

impl Line {
    /// Room for so many frames back. Allocates.
    pub fn new(frames: usize) -> Self {
        let room = (frames + BLOCK + 8).next_power_of_two();
        Line {
            samples: vec![0.0; room].into(),
            mask: room - 1,
            at: 0,
        }
    }

    /// The furthest back that can be read.
    pub fn longest(&self) -> usize {
        self.mask - 4 - BLOCK
    }

    /// Takes a sample.
    #[inline(always)]
    pub fn push(&mut self, x: f32) {
        self.at = (self.at + 1) & self.mask;
        self.samples[self.at] = x;
    }

    /// The sample so many frames back; 0 is the last one taken.
    #[inline(always)]
    pub fn back(&self, frames: usize) -> f32 {
        self.samples[self.at.wrapping_sub(frames) & self.mask]
    }

    /// Takes a block.
    #[inline(always)]
    pub fn push_all(&mut self, x: &Block) {
        let from = (self.at + 1) & self.mask;
        match self.samples.get_mut(from..from + BLOCK) {
            Some(room) => {
                room.copy_from_slice(x);
                self.at = from + BLOCK - 1;
            }
            None => x.iter().for_each(|x| self.push(*x)),
        }
    }

    /// As many samples as a block has, the first of them so many frames back: no fewer than come after it.
    #[inline(always)]
    pub fn since(&self, frames: usize) -> Block {
        let from = self.at.wrapping_sub(frames) & self.mask;
        let mut out = [0.0; BLOCK];
        match self.samples.get(from..from + BLOCK) {
            Some(all) => out.copy_from_slice(all),
            None => {
                for (n, out) in out.iter_mut().enumerate() {
                    *out = self.samples[(from + n) & self.mask];
                }
            }
        }
        out
    }

    /// The sample that will be so many frames back after `ahead` more.
    #[inline(always)]
    pub fn ahead(&self, frames: usize, ahead: usize) -> f32 {
        self.back(frames.wrapping_sub(ahead))
    }

    /// Between samples, by a cubic through four of them (Catmull and Rom, 1974). At least one frame back.
    #[inline(always)]
    pub fn between(&self, frames: f32) -> f32 {
        let (whole, share) = self.place(frames);
        cubic(self.around(whole), share)
    }

    /// Where between two samples a place lies that is so many frames back: the later of them, and how far behind it.
    #[inline(always)]
    pub fn place(&self, frames: f32) -> (usize, f32) {
        let frames = frames.clamp(1.0, self.longest() as f32);
        let whole = frames as usize;
        (whole, frames - whole as f32)
    }

    /// The four samples around the way from one to the one before it, oldest first.
    #[inline(always)]
    pub fn around(&self, whole: usize) -> [f32; 4] {
        let from = self.at.wrapping_sub(whole + 2) & self.mask;
        match self.samples.get(from..).and_then(|s| s.first_chunk()) {
            Some(four) => *four,
            None => std::array::from_fn(|i| self.samples[(from + i) & self.mask]),
        }
    }

    /// Between samples, by a polynomial through six of them (Lagrange, 1795): for what goes round often. At least two frames back, as
    /// it will be after `ahead` more.
    #[inline(always)]
    pub fn finely_ahead(&self, frames: f32, ahead: usize) -> f32 {
        let (whole, weights) = self.six(frames);
        let mut sum = 0.0;
        for (i, (weight, share)) in weights.into_iter().zip(SIXTH).enumerate() {
            sum += self.ahead(whole + i - 2, ahead) * weight * share;
        }
        sum
    }

    /// The same for a block, each sample so many frames back when it comes: no fewer than come after the first.
    #[inline(always)]
    pub fn finely_since(&self, frames: f32) -> Block {
        let (whole, weights) = self.six(frames);
        let mut sums = [0.0; BLOCK];
        for (i, (weight, share)) in weights.into_iter().zip(SIXTH).enumerate() {
            let y: Block = self.since(whole + i - 2);
            for (sum, y) in sums.iter_mut().zip(y) {
                *sum += y * weight * share;
            }
        }
        sums
    }

    /// Where the six samples around a place stand, and how much each counts, but for its own number.
    #[inline(always)]
    fn six(&self, frames: f32) -> (usize, [f32; 6]) {
        let frames = frames.clamp(2.0, self.longest() as f32 - 2.0);
        let whole = frames as usize;
        let x = frames - whole as f32;
        let (a, b, c, d, e, f) = (x + 2.0, x + 1.0, x, x - 1.0, x - 2.0, x - 3.0);
        let (ab, ef, cd) = (a * b, e * f, c * d);
        let weights = [
            b * cd * ef,
            a * cd * ef,
            ab * d * ef,
            ab * c * ef,
            ab * cd * f,
            ab * cd * e,
        ];
        (whole, weights)
    }

    /// Forgets everything.
    pub fn clear(&mut self) {
        self.samples.fill(0.0);
    }
}

/// A share of the way between the middle two of four samples, oldest first, from the later to the earlier one.
#[inline(always)]
pub fn cubic([d, c, b, a]: [f32; 4], x: f32) -> f32 {
    let (m, n) = (0.5 * (c - a), 0.5 * (d - b));
    let up = b - c;
    b + x * (m + x * ((-3.0 * up - 2.0 * m - n) + x * (2.0 * up + m + n)))
}

#[cfg(test)]
mod tests {
    use super::*;

    /// What is read by the block is what is read one by one, wherever the line begins anew.
    #[test]
    fn a_block_at_once_is_the_same_as_its_samples() {
        let mut by_block = Line::new(40);
        let mut one_by_one = by_block.clone();
        let sample = |n: usize| ((n * 37) % 101) as f32 - 50.0;
        // not where a block ends
        for n in 0..5 {
            by_block.push(sample(n));
            one_by_one.push(sample(n));
        }
        for block in 0..12 {
            let before = by_block.clone();
            let came: Block = std::array::from_fn(|n| sample(5 + block * BLOCK + n));
            by_block.push_all(&came);
            let since: Block = before.since(30);
            let finely: Block = before.finely_since(27.3);
            for (n, x) in came.iter().enumerate() {
                // sample by sample: what has come so far, then what comes
                assert_eq!(one_by_one.back(30), since[n], "block {block}, frame {n}");
                assert_eq!(before.ahead(30, n), since[n]);
                assert_eq!(one_by_one.finely_ahead(27.3, 0), finely[n]);
                assert_eq!(before.finely_ahead(27.3, n), finely[n]);
                one_by_one.push(*x);
                let (whole, share) = by_block.place(19.6);
                let late = cubic(by_block.around(whole + BLOCK - 1 - n), share);
                assert_eq!(one_by_one.between(19.6), late);
            }
        }
    }

    /// Between samples a sine goes on as a sine.
    #[test]
    fn between_samples_lies_the_curve() {
        let mut line = Line::new(64);
        let sine = |place: f64| libm::sin(0.2 * place);
        (0..64).for_each(|n| line.push(sine(f64::from(n)) as f32));
        for back in [8.0, 10.25, 19.5, 30.9] {
            let wanted = sine(63.0 - back);
            let [cubic, fine] = [line.between(back as f32), line.finely_ahead(back as f32, 0)];
            assert!((f64::from(cubic) - wanted).abs() < 1e-3, "{back}: {cubic}");
            assert!((f64::from(fine) - wanted).abs() < 1e-5, "{back}: {fine}");
        }
    }
}
