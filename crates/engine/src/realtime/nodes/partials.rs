//! A wave as its partials, evenly spaced but not bound to the pitch: spread, shifted, tilted, thinned out.
//!
//! With `w = e^(i u)`, `u` the angle between neighbouring partials, the sum of all is a polynomial in `w`, computed from its highest
//! power down (Horner, 1819): one complex product for each partial and frame, whatever moves the phase. Where nothing changes in them and they
//! are bound to the pitch, their sum is a cycle: it is summed up once and then read like any other wave.

use std::sync::LazyLock;

use wide::{f32x4, f32x8};
use zolvik_patch::document::Harmonics;
use zolvik_patch::param::ParamId;
use zolvik_waves::bank::GUARD;
use zolvik_waves::fourier::Fourier;

use crate::realtime::modulation::smooth::Smooth;
use crate::realtime::sine::{Lanes, sine_turns};

/// Positions of the parameters read here, among those of their unit.
mod at {
    use zolvik_patch::catalogue::position;
    use zolvik_patch::document;

    pub(super) const BALANCE: usize = position(document::Harmonics::BALANCE);
    pub(super) const HIGH: usize = position(document::Harmonics::HIGH);
    pub(super) const LOW: usize = position(document::Harmonics::LOW);
    pub(super) const SHIFT: usize = position(document::Harmonics::SHIFT);
    pub(super) const SPACING: usize = position(document::Harmonics::SPACING);
    pub(super) const TILT_DB: usize = position(document::Harmonics::TILT_DB);
}

/// The values that shape them.
pub(super) const SHAPED_BY: [ParamId; 6] = [
    Harmonics::BALANCE,
    Harmonics::HIGH,
    Harmonics::LOW,
    Harmonics::SHIFT,
    Harmonics::SPACING,
    Harmonics::TILT_DB,
];

/// Most partials of a unit.
pub(crate) const MOST: usize = 256;
/// Points of the cycle they are read from.
pub(crate) const POINTS: usize = 1024;
/// Points of the cycle they are summed up to.
pub(crate) const SUMMED_POINTS: usize = 4096;
/// Most partials that are summed up to a cycle. The cubic it is read by leaves `3/128 w^4` of a partial that turns by `w` from point to point:
/// -113 dB of the highest one.
pub(crate) const MOST_SUMMED: usize = 64;
/// Groups of eight points summed up in a block: a lane's work in it.
const GROUPS: usize = 8;

static FOURIER: LazyLock<Fourier> = LazyLock::new(|| Fourier::new(POINTS));

/// The partials of one unit; the same for all lanes.
#[derive(Debug, Clone)]
pub(crate) struct Partials {
    /// Amplitudes of sine and cosine now and where they go.
    now: Vec<[f32; 2]>,
    goal: Vec<[f32; 2]>,
    /// Partials that are not silent.
    count: usize,
    /// Whether it is in use; once so it stays, since leaving it would be heard.
    pub(crate) on: bool,
    /// Blocks until the cycle is looked at again.
    wait: u32,
    /// Whether everything stands where it will stay.
    settled: bool,
    re: Vec<f64>,
    im: Vec<f64>,
    /// Their sum over a cycle, with a point before it and two after it, and how many points of it are there.
    summed: Vec<f32>,
    ready: usize,
}

/// What shapes the partials, read from a unit's values.
#[derive(Debug, Clone, Copy)]
struct Tone {
    tilt: f64,
    balance: f64,
    low: f64,
    high: f64,
}

impl Partials {
    pub(crate) fn new() -> Self {
        LazyLock::force(&FOURIER);
        Partials {
            now: vec![[0.0; 2]; MOST],
            goal: vec![[0.0; 2]; MOST],
            count: 0,
            on: false,
            wait: 0,
            settled: false,
            re: vec![0.0; POINTS],
            im: vec![0.0; POINTS],
            summed: vec![0.0; SUMMED_POINTS + GUARD],
            ready: 0,
        }
    }

    /// Whether a unit's values ask for it.
    pub(crate) fn wanted(values: &[Smooth]) -> bool {
        let rest = [
            (at::SPACING, 1.0),
            (at::SHIFT, 0.0),
            (at::TILT_DB, 0.0),
            (at::BALANCE, 0.0),
            (at::LOW, 1.0),
            (at::HIGH, 256.0),
        ];
        rest.iter()
            .any(|(at, rest)| values[*at].now != *rest || values[*at].next != *rest)
    }

    /// How strong each partial is.
    pub(crate) fn amplitudes(&self) -> impl Iterator<Item = f32> + '_ {
        self.now.iter().map(|[a, b]| (a * a + b * b).sqrt())
    }

    /// Takes the state of another one, without allocating.
    pub(crate) fn take(&mut self, other: &Partials) {
        self.now.copy_from_slice(&other.now);
        self.goal.copy_from_slice(&other.goal);
        (self.count, self.on, self.wait) = (other.count, other.on, 0);
        self.settled = false;
        self.ready = 0;
    }

    /// The cycle they were summed up to, and how many there are; none while anything in them changes.
    pub(crate) fn summed(&self) -> Option<(&[f32], usize)> {
        (self.ready == SUMMED_POINTS).then_some((&self.summed, self.count))
    }

    /// Sums up a few more points of their cycle.
    fn sum_up(&mut self) {
        if self.count > MOST_SUMMED || self.ready == SUMMED_POINTS {
            return;
        }
        for _ in 0..GROUPS {
            let first = self.ready;
            let place = |k| (first + k) as f32 / SUMMED_POINTS as f32;
            let turns = f32x8::new(std::array::from_fn(place));
            let sum = self.at(turns, turns, f32x8::splat(MOST as f32), 1.0);
            self.summed[1 + first..][..8].copy_from_slice(sum.as_array());
            self.ready += 8;
        }
        if self.ready == SUMMED_POINTS {
            self.summed[0] = self.summed[SUMMED_POINTS];
            self.summed.copy_within(1..GUARD, SUMMED_POINTS + 1);
        }
    }

    /// Moves on by one block: looks at the cycle, `cycle` giving four points of it at places in turns, every so many
    /// blocks, and lets the partials follow by a share of the rest. `jump` takes them there at once.
    pub(crate) fn advance(
        &mut self,
        (values, still): (&[Smooth], bool),
        every: u32,
        share: f32,
        jump: bool,
        cycle: impl Fn(f32x4) -> f32x4,
    ) {
        if still && self.settled && !jump {
            self.sum_up();
            return;
        }
        self.ready = 0;
        let mut looked = false;
        if jump || self.wait == 0 {
            self.look(values, cycle);
            self.wait = every;
            looked = true;
        }
        self.wait -= 1;
        let share = if jump { 1.0 } else { share };
        let mut count = 0;
        for (i, (now, goal)) in self.now.iter_mut().zip(&self.goal).enumerate() {
            for (now, goal) in now.iter_mut().zip(goal) {
                let rest = goal - *now;
                *now = if rest.abs() < 1e-7 {
                    *goal
                } else {
                    *now + rest * share
                };
            }
            if *now != [0.0; 2] {
                count = i + 1;
            }
        }
        self.count = count;
        // looked at since the values stood, and all followed
        self.settled = still && (self.settled || looked) && self.now == self.goal;
        if still && !self.settled && self.now == self.goal {
            self.wait = 0;
        }
    }

    fn look(&mut self, values: &[Smooth], cycle: impl Fn(f32x4) -> f32x4) {
        for i in (0..POINTS).step_by(4) {
            let turns = f32x4::new(std::array::from_fn(|k| (i + k) as f32 / POINTS as f32));
            for (k, x) in cycle(turns).to_array().into_iter().enumerate() {
                self.re[i + k] = f64::from(x);
            }
        }
        self.im.fill(0.0);
        FOURIER.turn(&mut self.re, &mut self.im);
        let of = |at: usize| f64::from(values[at].next);
        let tone = Tone {
            tilt: of(at::TILT_DB) / 6.020_599_913_279_624,
            balance: of(at::BALANCE),
            low: of(at::LOW),
            high: of(at::HIGH),
        };
        let (mut before, mut after) = (0.0, 0.0);
        let scale = 2.0 / POINTS as f64;
        for (i, goal) in self.goal.iter_mut().enumerate() {
            // sum x e^(+i ..): its imaginary part is the sine's amplitude
            let (sine, cosine) = (self.im[i + 1] * scale, self.re[i + 1] * scale);
            let gain = tone.gain((i + 1) as f64);
            before += sine * sine + cosine * cosine;
            let power = (sine * sine + cosine * cosine) * gain * gain;
            after += power;
            *goal = match power > 1e-14 {
                true => [(sine * gain) as f32, (cosine * gain) as f32],
                false => [0.0; 2],
            };
        }
        // never stronger than the wave was
        let norm = if after > before {
            (before / after).sqrt() as f32
        } else {
            1.0
        };
        for goal in &mut self.goal {
            *goal = goal.map(|g| g * norm);
        }
    }

    /// The sum of all partials. `first` is the angle of the first one and `between` that from each to the next, both in turns; `room`
    /// tells how far above the first one partials fit below half the rate, and `spacing` how far they are apart, both as multiples of
    /// the frequency.
    ///
    /// Partials of even and of odd place are summed beside each other, each by Horner's scheme in the square (Estrin, "Organization of
    /// computer systems", 1960): what does not wait for each other is computed at once.
    #[inline(always)]
    pub(crate) fn at(&self, first: Lanes, between: Lanes, room: Lanes, spacing: f32) -> Lanes {
        let quarter = f32x8::splat(0.25);
        let (s, c) = (sine_turns(between), sine_turns(between + quarter));
        let square = (c * c - s * s, (c + c) * s);
        let rooms = room.to_array();
        let most = rooms.iter().fold(0.0f32, |a, b| a.max(*b));
        let least = rooms.iter().fold(f32::MAX, |a, b| a.min(*b));
        // within the last half of a multiple they fade
        let fit = |room: f32| (room / spacing + 1.0).clamp(0.0, MOST as f32) as usize;
        let top = self.count.min(fit(most)).div_ceil(2);
        let whole = top.min(fit(least - 0.5) / 2);
        let (pairs, _) = self.now.as_chunks::<2>();
        let (whole_pairs, rest) = pairs[..top.min(pairs.len())].split_at(whole);
        // c_k = cosine amplitude - i sine amplitude, and the real part counts
        let (mut even, mut odd) = ((f32x8::ZERO, f32x8::ZERO), (f32x8::ZERO, f32x8::ZERO));
        let turned = |z: (Lanes, Lanes), by: (Lanes, Lanes)| {
            (z.0 * by.0 - z.1 * by.1, z.0 * by.1 + z.1 * by.0)
        };
        for (i, pair) in rest.iter().enumerate().rev() {
            let fits = |k: usize| {
                let over = room - f32x8::splat(k as f32 * spacing);
                (over + over).fast_max(f32x8::ZERO).fast_min(f32x8::ONE)
            };
            let k = 2 * (whole + i);
            for (sum, [sine, cosine], k) in [(&mut even, pair[0], k), (&mut odd, pair[1], k + 1)] {
                let fits = fits(k);
                let z = turned(*sum, square);
                sum.0 = z.0 + fits * f32x8::splat(cosine);
                sum.1 = z.1 - fits * f32x8::splat(sine);
            }
        }
        for pair in whole_pairs.iter().rev() {
            for (sum, [sine, cosine]) in [(&mut even, pair[0]), (&mut odd, pair[1])] {
                let z = turned(*sum, square);
                sum.0 = z.0 + f32x8::splat(cosine);
                sum.1 = z.1 - f32x8::splat(sine);
            }
        }
        let odd = turned(odd, (c, s));
        let all = (even.0 + odd.0, even.1 + odd.1);
        let (s, c) = (sine_turns(first), sine_turns(first + quarter));
        all.0 * c - all.1 * s
    }
}

impl Tone {
    /// Factor of a harmonic's amplitude.
    fn gain(&self, n: f64) -> f64 {
        let is_odd = n as usize % 2 == 1;
        let share = if is_odd {
            1.0 - self.balance
        } else {
            1.0 + self.balance
        };
        let edges = (n - self.low + 1.0).clamp(0.0, 1.0) * (self.high + 1.0 - n).clamp(0.0, 1.0);
        let tilt = match self.tilt {
            0.0 => 1.0,
            tilt => libm::pow(n, tilt),
        };
        share.clamp(0.0, 1.0) * edges * tilt
    }
}
