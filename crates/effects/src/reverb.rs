//! A room: first reflections, then sixteen lines that feed each other through a lossless matrix (after Jot and Chaigne, "Digital delay
//! networks for designing artificial reverberators", 1991). Every line loses as much as its length asks for, more above the damping.

use wide::f32x8;
use zolvik_patch::choice::Options;
use zolvik_patch::finish::{Freeze, Reverb as Rows};

use crate::process::{BLOCK, Process, Setting, Stereo};
use crate::tools::grains::Grains;
use crate::tools::line::Line;
use crate::tools::pole::{HighPass, LowPass};
use crate::tools::wave::sine;

const LINES: usize = 16;
/// Lengths of the lines at the middle size, in milliseconds: no two with a common beat.
const LENGTHS_MS: [f64; LINES] = [
    23.17, 25.63, 28.41, 30.07, 33.29, 35.83, 38.97, 41.23, 44.71, 47.59, 50.33, 53.87, 57.11,
    60.49, 64.03, 67.91,
];
/// All-pass stages that scatter what comes in, in milliseconds.
const SCATTER_MS: [[f64; 4]; 2] = [[3.11, 4.73, 7.57, 11.83], [3.41, 5.09, 7.01, 12.37]];
const SCATTER: f32 = 0.62;
/// First reflections: when, in milliseconds at the middle size, how loud, and where.
const EARLY: [(f64, f32, f32); 12] = [
    (6.3, 0.84, -0.5),
    (9.1, 0.75, 0.6),
    (13.7, 0.68, -0.8),
    (17.9, 0.62, 0.3),
    (21.3, 0.55, 0.9),
    (26.9, 0.50, -0.3),
    (31.1, 0.45, -0.9),
    (37.7, 0.40, 0.7),
    (43.3, 0.36, -0.6),
    (49.9, 0.31, 0.4),
    (57.7, 0.27, 0.8),
    (66.1, 0.23, -0.7),
];
/// How far lines wander at the most, in milliseconds.
const WANDER_MS: f32 = 0.35;
/// Every how many-th line wanders.
const WANDERS: usize = 4;
/// Most the size makes of the lengths.
const LARGEST: f64 = 2.0;
const SHIMMER_GRAIN_S: f64 = 0.09;

pub(crate) struct Reverb {
    before: Line,
    scatter: [[Line; 4]; 2],
    lines: Vec<Line>,
    /// What each line lets through of the highs, as state.
    damped: [f32; LINES],
    cuts: [(HighPass, LowPass); 2],
    still: [HighPass; 2],
    shimmer: Grains,
    risen: f32,
    turns: f32,
    /// Size and time the lengths were reckoned for, and lengths.
    size: f32,
    lengths: [f32; LINES],
    goal: [f32; LINES],
    losses: [f32; LINES],
    damps: [f32; LINES],
    known: [f32; 5],
    /// How far back each scattering stage is read, and, without the pre-delay, each first reflection.
    scatter_frames: [[usize; 4]; 2],
    early_frames: [usize; EARLY.len()],
}

impl Reverb {
    pub(crate) fn new(rate_hz: f64) -> Self {
        let ms = |ms: f64| Line::new((ms * 1e-3 * rate_hz) as usize + 8);
        let scatter = SCATTER_MS.map(|list| list.map(ms));
        Reverb {
            before: Line::new(((0.25 + 0.07 * LARGEST) * rate_hz) as usize + 8),
            scatter,
            lines: LENGTHS_MS
                .iter()
                .map(|length| ms(length * LARGEST + 2.0))
                .collect(),
            damped: [0.0; LINES],
            cuts: [(HighPass::default(), LowPass::default()); 2],
            still: [HighPass::default(); 2],
            shimmer: Grains::new(SHIMMER_GRAIN_S, rate_hz),
            risen: 0.0,
            turns: 0.0,
            size: -1.0,
            lengths: [0.0; LINES],
            goal: [0.0; LINES],
            losses: [0.0; LINES],
            damps: [0.0; LINES],
            known: [-1.0; 5],
            scatter_frames: SCATTER_MS
                .map(|list| list.map(|ms| ((ms * 1e-3 * rate_hz) as usize).max(1) - 1)),
            early_frames: [0; EARLY.len()],
        }
    }

    /// Lengths and losses for what is set.
    fn follow(&mut self, set: &Setting<'_>, frozen: bool) {
        let [size, time, damp] =
            [Rows::SIZE, Rows::TIME_S, Rows::DAMP_HZ].map(|id| set.value(id).next);
        let asked = [
            size,
            time,
            damp,
            f32::from(u8::from(frozen)),
            set.rate_hz as f32,
        ];
        if self.known == asked {
            return;
        }
        self.known = asked;
        let early = early_times(size.into());
        for (to, (ms, ..)) in self.early_frames.iter_mut().zip(EARLY) {
            *to = (ms * 1e-3 * early * set.rate_hz) as usize;
        }
        let times = size_times(size.into());
        for i in 0..LINES {
            let length_s = LENGTHS_MS[i] * 1e-3 * times;
            self.goal[i] = libm::round(length_s * set.rate_hz).max(8.0) as f32;
            // falls by 60 dB in the time
            let loss = libm::pow(10.0, -3.0 * length_s / f64::from(time));
            // of one pole that falls as much again at the damping's frequency
            let turns = (f64::from(damp) / set.rate_hz).min(0.49);
            let c = libm::cos(core::f64::consts::TAU * turns);
            let power = loss * loss;
            let pole = match frozen || damp >= 19_999.0 {
                true => 0.0,
                false => pole_for(power, c),
            };
            self.losses[i] = if frozen { 1.0 } else { loss as f32 };
            self.damps[i] = pole as f32;
        }
        if self.size < 0.0 {
            self.lengths = self.goal;
        }
        self.size = size;
    }

    #[inline(always)]
    fn scattered(&mut self, channel: usize, x: f32) -> f32 {
        let mut x = x;
        let frames = self.scatter_frames[channel];
        for (line, frames) in self.scatter[channel].iter_mut().zip(frames) {
            let held = line.back(frames);
            let into = x - SCATTER * held;
            line.push(crate::tools::calm(into));
            x = held + SCATTER * into;
        }
        x
    }
}

/// What a size makes of the times of first reflections: from a quarter to [`LARGEST`].
fn early_times(size: f64) -> f64 {
    0.25 * libm::pow(LARGEST / 0.25, size)
}

/// What a size makes of the lengths of lines: never so short that single modes stand out of too few.
fn size_times(size: f64) -> f64 {
    0.75 * libm::pow(LARGEST / 0.75, size)
}

/// The pole of `(1 - p) / (1 - p z)` whose power at a cosine of the frequency is so much.
fn pole_for(power: f64, cos: f64) -> f64 {
    // power (1 - 2 p c + p²) = (1 - p)²
    let (a, b) = (power - 1.0, 1.0 - power * cos);
    if a.abs() < 1e-12 {
        return 0.0;
    }
    let root = libm::sqrt((b * b - a * a).max(0.0));
    let p = (-b + root) / a;
    p.clamp(0.0, 0.98)
}

/// The lossless matrix: sums and differences, four times over (Hadamard, 1893).
#[inline(always)]
fn mixed(x: &mut [f32; LINES]) {
    let [a, b] = [0, 8].map(|from| f32x8::new(std::array::from_fn(|i| x[from + i])));
    let (mut a, mut b) = (a + b, a - b);
    for half in [&mut a, &mut b] {
        let v = half.to_array();
        let s = [v[0] + v[4], v[1] + v[5], v[2] + v[6], v[3] + v[7]];
        let d = [v[0] - v[4], v[1] - v[5], v[2] - v[6], v[3] - v[7]];
        let s2 = [s[0] + s[2], s[1] + s[3], s[0] - s[2], s[1] - s[3]];
        let d2 = [d[0] + d[2], d[1] + d[3], d[0] - d[2], d[1] - d[3]];
        *half = f32x8::new([
            s2[0] + s2[1],
            s2[0] - s2[1],
            s2[2] + s2[3],
            s2[2] - s2[3],
            d2[0] + d2[1],
            d2[0] - d2[1],
            d2[2] + d2[3],
            d2[2] - d2[3],
        ]);
    }
    let quarter = f32x8::splat(0.25);
    x[..8].copy_from_slice(&(a * quarter).to_array());
    x[8..].copy_from_slice(&(b * quarter).to_array());
}

impl Process for Reverb {
    fn run(&mut self, block: &mut Stereo, set: &Setting<'_>) {
        let frozen = Freeze::at(set.choices[0].into()) == Freeze::On;
        self.follow(set, frozen);
        let rate = set.rate_hz as f32;
        let [low, high] = [Rows::LOW_CUT_HZ, Rows::HIGH_CUT_HZ].map(|id| set.value(id).next);
        for (cut, still) in self.cuts.iter_mut().zip(&mut self.still) {
            cut.0.set(low.into(), set.rate_hz);
            cut.1.set(high.into(), set.rate_hz);
            still.set(5.0, set.rate_hz);
        }
        let pre = set.value(Rows::PRE_S);
        let [early, width, movement, shimmer] =
            [Rows::EARLY, Rows::WIDTH, Rows::MOVE, Rows::SHIMMER].map(|id| set.value(id));
        let times = size_times(self.size.max(0.0).into()) as f32;
        let grain = (SHIMMER_GRAIN_S * set.rate_hz) as f32;
        let wander = WANDER_MS * 1e-3 * rate * movement.next;
        // what comes in is as loud in a long room as in a short one
        let time = f64::from(set.value(Rows::TIME_S).next);
        let level = (0.9 / libm::sqrt(0.3 + time / f64::from(times))) as f32;
        // lengths glide, slowly enough not to be a new sound
        let glide = 1.0 / (0.2 * rate);
        let whole: [usize; LINES] = self.goal.map(|goal| (goal as usize).max(1) - 1);
        let mut swings = [0.0; LINES];
        self.turns += 0.31 * BLOCK as f32 / rate;
        self.turns -= libm::floorf(self.turns);
        for (i, swing) in swings.iter_mut().enumerate() {
            let whole = (1 + i % 3) as f32;
            *swing = wander * sine(self.turns * whole + i as f32 * 0.377);
        }
        let open = if frozen { 0.0 } else { 1.0 };
        for frame in 0..BLOCK {
            let came = [block[0][frame], block[1][frame]];
            let mono = 0.5 * (came[0] + came[1]);
            self.before.push(mono * open);
            let pre_frames = (pre.at(frame) * rate) as usize;
            // first reflections
            let (mut early_l, mut early_r) = (0.0, 0.0);
            let early_level = early.at(frame);
            if early_level > 0.0 {
                for ((_, loud, place), frames) in EARLY.iter().zip(self.early_frames) {
                    let y = self.before.back(pre_frames + frames) * loud;
                    early_l += y * (0.5 - 0.5 * place);
                    early_r += y * (0.5 + 0.5 * place);
                }
            }
            let late = self.before.back(pre_frames);
            let into = late + self.risen * shimmer.at(frame) * open;
            let mut sides = [0.0; 2];
            for (channel, side) in sides.iter_mut().enumerate() {
                let (low, high) = &mut self.cuts[channel];
                // a little of each side itself, so that it answers where it was struck
                let own = 0.3 * (came[channel] - mono) * open;
                let cut = high.next(low.next(into + own));
                *side = self.scattered(channel, cut);
            }
            let mut x = [0.0; LINES];
            for (i, to) in x.iter_mut().enumerate() {
                let rest = self.goal[i] - self.lengths[i];
                let y = if rest.abs() > 0.01 {
                    self.lengths[i] += rest * glide;
                    self.lines[i].finely(self.lengths[i] - 1.0)
                } else if i % WANDERS == 0 {
                    self.lines[i].finely(self.goal[i] + swings[i] - 1.0)
                } else {
                    self.lines[i].back(whole[i])
                };
                let pole = self.damps[i];
                let kept = y * (1.0 - pole) + self.damped[i] * pole;
                self.damped[i] = kept;
                *to = kept * self.losses[i];
            }
            let (mut left, mut right) = (0.0, 0.0);
            for (i, y) in x.iter().enumerate() {
                let sign = if (i / 2) % 2 == 0 { 1.0 } else { -1.0 };
                match i % 2 {
                    0 => left += sign * y,
                    _ => right += sign * y,
                }
            }
            mixed(&mut x);
            for (i, y) in x.iter().enumerate() {
                let sign = if (i / 4) % 2 == 0 { 0.5 } else { -0.5 };
                self.lines[i].push(y + sign * sides[i % 2]);
            }
            let (mid, side) = (0.5 * (left + right), 0.5 * (left - right));
            let wide = width.at(frame);
            left = (mid + side * wide) * level;
            right = (mid - side * wide) * level;
            if shimmer.now > 0.0 || shimmer.next > 0.0 {
                // no more comes back than goes out, however long the room is
                let up = self.shimmer.next(mid * level, 2.0, grain);
                self.risen = crate::drive::soft(0.6 * up);
            } else {
                self.risen = 0.0;
            }
            let wide_early = (early_l + early_r) * 0.5;
            let early_side = (early_l - early_r) * 0.5 * wide;
            let l = self.still[0].next(left + early_level * 0.6 * (wide_early + early_side));
            let r = self.still[1].next(right + early_level * 0.6 * (wide_early - early_side));
            block[0][frame] = l;
            block[1][frame] = r;
        }
        for cut in &mut self.cuts {
            cut.0.settle();
            cut.1.settle();
        }
        self.still.iter_mut().for_each(HighPass::settle);
        self.damped
            .iter_mut()
            .for_each(|d| *d = crate::tools::calm(*d));
    }

    fn clear(&mut self) {
        self.before.clear();
        self.scatter.iter_mut().flatten().for_each(Line::clear);
        self.lines.iter_mut().for_each(Line::clear);
        self.damped = [0.0; LINES];
        for (low, high) in &mut self.cuts {
            low.clear();
            high.clear();
        }
        self.still.iter_mut().for_each(HighPass::clear);
        self.shimmer.clear();
        self.risen = 0.0;
        self.lengths = self.goal;
    }
}
