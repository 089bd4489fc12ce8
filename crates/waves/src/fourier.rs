//! The discrete Fourier transform of powers of two, both ways (Cooley and Tukey, 1965). Ours, because the usual packages
//! choose their order of additions by processor, and the same patch must give the same bits everywhere.

use std::f64::consts::TAU;

/// Twiddle factors of one size.
pub struct Fourier {
    cosine: Vec<f64>,
    sine: Vec<f64>,
}

impl Fourier {
    /// For a power of two.
    pub fn new(size: usize) -> Self {
        let angle = |i: usize| TAU * i as f64 / size as f64;
        Fourier {
            cosine: (0..size / 2).map(|i| libm::cos(angle(i))).collect(),
            sine: (0..size / 2).map(|i| libm::sin(angle(i))).collect(),
        }
    }

    /// `sum x_n e^(+i 2 pi n k / size)` in place, without scaling.
    pub fn turn(&self, re: &mut [f64], im: &mut [f64]) {
        let size = re.len();
        let bits = size.trailing_zeros();
        for i in 0..size {
            let j = i.reverse_bits() >> (usize::BITS - bits);
            if i < j {
                re.swap(i, j);
                im.swap(i, j);
            }
        }
        let mut half = 1;
        while half < size {
            let stride = self.cosine.len() / half;
            for start in (0..size).step_by(2 * half) {
                for k in 0..half {
                    let (c, s) = (self.cosine[k * stride], self.sine[k * stride]);
                    let (a, b) = (start + k, start + k + half);
                    let (x, y) = (re[b] * c - im[b] * s, re[b] * s + im[b] * c);
                    (re[b], im[b]) = (re[a] - x, im[a] - y);
                    (re[a], im[a]) = (re[a] + x, im[a] + y);
                }
            }
            half *= 2;
        }
    }
}
