//! Reading between samples: a windowed sine (Kaiser, "Nonrecursive Digital Filter Design Using the I0-sinh Window
//! Function", 1974), wide enough that what transposing would fold back lies 80 dB below.

use std::sync::LazyLock;

use wide::{f32x8, i32x8};

/// Highest tone that passes at the recorded speed or below, as a share of half the rate.
const CUT: f64 = 0.893;
/// Half the kernel's width, in periods of its cut.
const REACH: f64 = 24.0 * CUT;
/// Places between two samples the kernel is kept for; between them it is read along a straight line.
const FINE: usize = 256;
/// Kernels for an octave of speeds.
pub const FANS: usize = 16;

/// A kernel for one range of speeds, at every place between two samples.
#[derive(Debug)]
pub struct Fan {
    taps: usize,
    rows: Vec<f32>,
}

impl Fan {
    fn new(at: usize) -> Fan {
        // faster means a lower cut, and so a wider kernel
        let cut = CUT * libm::exp2(-(at as f64) / FANS as f64);
        let taps = (2.0 * REACH / cut / 8.0 - 1e-9) as usize * 8 + 8;
        let mut rows = Vec::with_capacity(taps * (FINE + 1));
        for row in 0..=FINE {
            for tap in 0..taps {
                let distance = tap as f64 - (taps / 2 - 1) as f64 - row as f64 / FINE as f64;
                rows.push((cut * kernel(distance * cut)) as f32);
            }
        }
        Fan { taps, rows }
    }

    /// Samples it looks at; half of them, less one, lie before the place.
    pub fn taps(&self) -> usize {
        self.taps
    }

    /// The kernel's two rows around a place between two samples, 0 to 1, and how far it lies after the first.
    #[inline(always)]
    pub fn rows(&self, part: f32) -> (&[f32], &[f32], f32) {
        let place = part * FINE as f32;
        let row = (place as usize).min(FINE - 1);
        let (first, rest) = self.rows[row * self.taps..].split_at(self.taps);
        (first, &rest[..self.taps], place - row as f32)
    }
}

/// A windowed sine, in periods of its cut.
fn kernel(x: f64) -> f64 {
    match (x / REACH).abs() < 1.0 {
        true => windowed_sine(1.0, core::f64::consts::PI * x, x / REACH, BETA),
        false => 0.0,
    }
}

/// `scale sin(angle) / angle` under the window of Kaiser (1974): `place` is -1 to 1 from its edge to its edge, `beta` trades the width of
/// the slope for what is left beyond it.
pub fn windowed_sine(scale: f64, angle: f64, place: f64, beta: f64) -> f64 {
    let sine = if angle.abs() < 1e-9 {
        1.0
    } else {
        libm::sin(angle) / angle
    };
    let edge = (1.0 - place * place).max(0.0);
    scale * sine * bessel_i0(beta * edge.sqrt()) / bessel_i0(beta)
}

/// Kernels for speeds from the recorded one to an octave above, sixteen steps; made when they are first wanted, which should not be on
/// the audio path.
pub static KERNELS: LazyLock<Vec<Fan>> = LazyLock::new(|| (0..=FANS).map(Fan::new).collect());

/// Samples the close kernel looks at.
pub const CLOSE_TAPS: usize = 16;

/// The kernel for recordings kept at twice their rate, where little has to be told apart by a steep slope: what they hold passes and its
/// images are gone to within -107 dB.
#[derive(Debug)]
pub struct CloseKernel {
    rows: Vec<f32>,
}

impl CloseKernel {
    /// Its two rows around a place between two samples, 0 to 1, and how far that lies after the first.
    #[inline(always)]
    pub fn rows(&self, part: f32) -> (&[f32; 2 * CLOSE_TAPS], f32) {
        let place = part * FINE as f32;
        let row = (place as i32).clamp(0, FINE as i32 - 1);
        (self.from_row(row), place - row as f32)
    }

    /// Which row comes before places between two samples, 0 to 1, and how far each place lies after it.
    #[inline(always)]
    pub fn places(parts: f32x8) -> ([i32; 8], [f32; 8]) {
        let places = parts * f32x8::splat(FINE as f32);
        let rows = places.fast_trunc_int().min(i32x8::splat(FINE as i32 - 1));
        let after = places - f32x8::from_i32x8(rows);
        (rows.to_array(), after.to_array())
    }

    /// A row and the next.
    #[inline(always)]
    pub fn from_row(&self, row: i32) -> &[f32; 2 * CLOSE_TAPS] {
        const NONE: &[f32; 2 * CLOSE_TAPS] = &[0.0; 2 * CLOSE_TAPS];
        let both = self.rows.get(row as usize * CLOSE_TAPS..);
        both.and_then(|rows| rows.first_chunk()).unwrap_or(NONE)
    }
}

/// The close kernel; made when it is first wanted, which should not be on the audio path.
pub static CLOSE: LazyLock<CloseKernel> = LazyLock::new(|| {
    const CLOSE_CUT: f64 = 0.93;
    const CLOSE_BETA: f64 = 11.0;
    let half = (CLOSE_TAPS / 2) as f64;
    let mut rows = Vec::with_capacity(CLOSE_TAPS * (FINE + 1));
    for row in 0..=FINE {
        let taps: [f64; CLOSE_TAPS] = core::array::from_fn(|tap| {
            let distance = tap as f64 - (half - 1.0) - row as f64 / FINE as f64;
            let angle = core::f64::consts::PI * CLOSE_CUT * distance;
            let place = distance / half;
            match place.abs() < 1.0 {
                true => windowed_sine(CLOSE_CUT, angle, place, CLOSE_BETA),
                false => 0.0,
            }
        });
        // what stands still passes as it is
        let sum: f64 = taps.iter().sum();
        rows.extend(taps.map(|tap| (tap / sum) as f32));
    }
    CloseKernel { rows }
});

/// Makes all that reads recordings, which should not happen on the audio path.
pub fn make_ready() {
    LazyLock::force(&KERNELS);
    LazyLock::force(&CLOSE);
}

/// Samples the short kernel looks at: seven before the place and one at it, eight after.
pub const SHORT_TAPS: usize = 16;
/// Places between two samples it is kept for.
const SHORT_FINE: usize = 64;

/// A short kernel for what need not be kept to its last bit: passes a third of the rate, leaves -50 dB beyond 0.54 of it.
#[derive(Debug)]
pub struct ShortKernel {
    rows: Vec<[f32; SHORT_TAPS]>,
}

impl ShortKernel {
    fn new() -> ShortKernel {
        const SHORT_CUT: f64 = 0.875;
        const SHORT_BETA: f64 = 5.0;
        let row = |row: usize| {
            let mut taps = core::array::from_fn(|tap| {
                let half = (SHORT_TAPS / 2) as f64;
                let distance = tap as f64 - (half - 1.0) - row as f64 / SHORT_FINE as f64;
                let angle = core::f64::consts::PI * SHORT_CUT * distance;
                windowed_sine(SHORT_CUT, angle, distance / half, SHORT_BETA)
            });
            // what stands still passes as it is
            let sum: f64 = taps.iter().sum();
            taps.iter_mut().for_each(|tap| *tap /= sum);
            taps.map(|tap| tap as f32)
        };
        ShortKernel {
            rows: (0..=SHORT_FINE).map(row).collect(),
        }
    }

    /// Weights for a place between two samples, 0 to 1.
    #[inline(always)]
    pub fn weights(&self, part: f32) -> [f32; SHORT_TAPS] {
        let place = part * SHORT_FINE as f32;
        let row = (place as usize).min(SHORT_FINE - 1);
        let share = place - row as f32;
        let (near, far) = (&self.rows[row], &self.rows[row + 1]);
        core::array::from_fn(|tap| near[tap] + (far[tap] - near[tap]) * share)
    }
}

/// The short kernel; made when it is first wanted, which should not be on the audio path.
pub static SHORT_KERNEL: LazyLock<ShortKernel> = LazyLock::new(ShortKernel::new);

/// Which kernel serves a speed of at most 2.
pub fn fan_for(speed: f64) -> usize {
    let steps = FANS as f64 * libm::log2(speed.max(1.0));
    ((steps - 1e-9).ceil() as usize).min(FANS)
}

const BETA: f64 = 8.4;

/// The modified Bessel function of order zero, by its power series.
fn bessel_i0(x: f64) -> f64 {
    let (mut sum, mut term) = (1.0, 1.0);
    for k in 1..40 {
        let half = x / (2.0 * f64::from(k));
        term *= half * half;
        sum += term;
    }
    sum
}
