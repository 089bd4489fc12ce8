//! A delay line.

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
        let room = (frames + 8).next_power_of_two();
        Line {
            samples: vec![0.0; room].into(),
            mask: room - 1,
            at: 0,
        }
    }

    /// The furthest back that can be read.
    pub fn longest(&self) -> usize {
        self.mask - 4
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

    /// Between samples, by a cubic through four of them (Catmull and Rom, 1974). At least one frame back.
    #[inline(always)]
    pub fn between(&self, frames: f32) -> f32 {
        let frames = frames.clamp(1.0, self.longest() as f32);
        let whole = frames as usize;
        let x = frames - whole as f32;
        let [a, b, c, d] = [
            self.back(whole - 1),
            self.back(whole),
            self.back(whole + 1),
            self.back(whole + 2),
        ];
        let (m, n) = (0.5 * (c - a), 0.5 * (d - b));
        let up = b - c;
        b + x * (m + x * ((-3.0 * up - 2.0 * m - n) + x * (2.0 * up + m + n)))
    }

    /// Between samples, by a polynomial through six of them (Lagrange, 1795): for what goes round often. At least two frames back.
    #[inline(always)]
    pub fn finely(&self, frames: f32) -> f32 {
        let frames = frames.clamp(2.0, self.longest() as f32 - 2.0);
        let whole = frames as usize;
        let x = frames - whole as f32;
        let y: [f32; 6] = std::array::from_fn(|i| self.back(whole + i - 2));
        let (a, b, c, d, e, f) = (x + 2.0, x + 1.0, x, x - 1.0, x - 2.0, x - 3.0);
        let (ab, ef, cd) = (a * b, e * f, c * d);
        y[0] * (b * cd * ef) * (-1.0 / 120.0)
            + y[1] * (a * cd * ef) * (1.0 / 24.0)
            + y[2] * (ab * d * ef) * (-1.0 / 12.0)
            + y[3] * (ab * c * ef) * (1.0 / 12.0)
            + y[4] * (ab * cd * f) * (-1.0 / 24.0)
            + y[5] * (ab * cd * e) * (1.0 / 120.0)
    }

    /// Forgets everything.
    pub fn clear(&mut self) {
        self.samples.fill(0.0);
    }
}
