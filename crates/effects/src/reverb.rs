//! A room: first reflections, then sixteen lines that feed each other through a lossless matrix (after Jot and Chaigne, "Digital delay
//! networks for designing artificial reverberators", 1991). Every line loses as much as its length asks for, more above the damping.

use zolvik_patch::finish::{Cuts, Freeze, Reverb as Rows};

use crate::kind::{Effect, LONGEST_TAIL_S};
use crate::process::{BLOCK, Block, Process, Setting, Stereo, Value};
use crate::tools::grains::Grains;
use crate::tools::line::Line;
use crate::tools::pole::{HighPass, LowPass};
use crate::tools::ringing::one_pole_s;
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
/// What stands still does not leave it.
const STILL_HZ: f64 = 5.0;
const SHIMMER_GRAIN_S: f64 = 0.09;

pub(crate) struct Reverb {
    before: Line,
    scatter: [[Line; 4]; 2],
    lines: Vec<Line>,
    /// What each line lets through of the highs, as state.
    damped: [f32; LINES],
    cuts: [(HighPass, LowPass); 2],
    /// The same for the first reflections.
    early_cuts: [(HighPass, LowPass); 2],
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
    /// What comes in is as loud in a long room as in a short one.
    level: f32,
    known: [f32; 5],
    /// How far back each scattering stage is read, and, without the pre-delay, each first reflection.
    scatter_frames: [[usize; 4]; 2],
    early_frames: [usize; EARLY.len()],
}

impl Reverb {
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
        let beside = f64::from(time) / f64::from(times as f32);
        self.level = (0.9 / (0.3 + beside).sqrt()) as f32;
        for i in 0..LINES {
            let length_s = LENGTHS_MS[i] * 1e-3 * times;
            self.goal[i] = libm::round(length_s * set.rate_hz).max((BLOCK + 4) as f64) as f32;
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

    /// Scatters what comes in.
    #[inline(always)]
    fn scattered(&mut self, channel: usize, mut x: Block) -> Block {
        let frames = self.scatter_frames[channel];
        for (line, frames) in self.scatter[channel].iter_mut().zip(frames) {
            let held: Block = line.since(frames);
            let into: Block = std::array::from_fn(|n| x[n] - SCATTER * held[n]);
            line.push_all(&into.map(crate::tools::flush_denormal));
            x = std::array::from_fn(|n| held[n] + SCATTER * into[n]);
        }
        x
    }

    /// What comes out of a line in the next frames, before anything goes in.
    #[inline(always)]
    fn out_of(&mut self, i: usize, glide: f32, swing: f32) -> Block {
        let (line, goal) = (&self.lines[i], self.goal[i]);
        let wanders = i.is_multiple_of(WANDERS);
        let whole = (goal as usize).max(1) - 1;
        if (goal - self.lengths[i]).abs() <= 0.01 {
            return match wanders {
                true => line.finely_since(goal + swing - 1.0),
                false => line.since(whole),
            };
        }
        let mut out = [0.0; BLOCK];
        for (n, out) in out.iter_mut().enumerate() {
            let rest = goal - self.lengths[i];
            *out = if rest.abs() > 0.01 {
                self.lengths[i] += rest * glide;
                line.finely_ahead(self.lengths[i] - 1.0, n)
            } else if wanders {
                line.finely_ahead(goal + swing - 1.0, n)
            } else {
                line.ahead(whole, n)
            };
        }
        out
    }

    /// First reflections of what came, left and right, and what came when the room begins.
    #[inline(always)]
    fn reflected(&self, now: &Now) -> [Block; 3] {
        let pre: [usize; BLOCK] = std::array::from_fn(|n| (now.pre.at(n) * now.rate) as usize);
        let still = pre.iter().all(|frames| *frames == pre[0]);
        let earlier = |frames: usize| -> Block {
            match still {
                true => self.before.since(pre[0] + frames + BLOCK - 1),
                false => {
                    let back = |n: usize| pre[n] + frames + BLOCK - 1;
                    std::array::from_fn(|n| self.before.ahead(back(n), n))
                }
            }
        };
        let (mut left, mut right) = ([0.0; BLOCK], [0.0; BLOCK]);
        if now.early.now > 0.0 || now.early.next > 0.0 {
            for ((_, loud, place), frames) in EARLY.iter().zip(self.early_frames) {
                let reflected = earlier(frames);
                for n in 0..BLOCK {
                    let y = reflected[n] * loud;
                    left[n] += y * (0.5 - 0.5 * place);
                    right[n] += y * (0.5 + 0.5 * place);
                }
            }
        }
        [left, right, earlier(0)]
    }

    /// What comes out of all lines, dulled and weakened.
    #[inline(always)]
    fn held(&mut self, now: &Now) -> [Block; LINES] {
        let mut x = [[0.0; BLOCK]; LINES];
        for (i, to) in x.iter_mut().enumerate() {
            *to = self.out_of(i, now.glide, now.swings[i]);
        }
        for (line, pole) in x.iter_mut().zip(self.damps) {
            *line = line.map(|y| y * (1.0 - pole));
        }
        // frame by frame, so that no line waits for another
        for n in 0..BLOCK {
            for ((line, damped), pole) in x.iter_mut().zip(&mut self.damped).zip(self.damps) {
                line[n] += *damped * pole;
                *damped = line[n];
            }
        }
        for (line, loss) in x.iter_mut().zip(self.losses) {
            *line = line.map(|kept| kept * loss);
        }
        x
    }

    /// Lets a block go through. All lines are longer than one, so what comes out of them does not wait for what goes in.
    fn through(&mut self, block: &mut Stereo, now: &Now) {
        let came = *block;
        let mono: Block = std::array::from_fn(|n| 0.5 * (came[0][n] + came[1][n]));
        self.before.push_all(&mono.map(|x| x * now.open));
        let [mut early_l, mut early_r, late] = self.reflected(now);
        if now.cuts_early {
            let sides = [&mut early_l, &mut early_r];
            for ((low, high), side) in self.early_cuts.iter_mut().zip(sides) {
                side.iter_mut().for_each(|x| *x = high.next(low.next(*x)));
            }
        }
        let mut x = self.held(now);
        let (mut left, mut right) = ([0.0; BLOCK], [0.0; BLOCK]);
        for (i, line) in x.iter().enumerate() {
            let sign = if (i / 2) % 2 == 0 { 1.0 } else { -1.0 };
            let side = if i % 2 == 0 { &mut left } else { &mut right };
            let both = side.iter_mut().zip(line);
            both.for_each(|(sum, y)| *sum += sign * y);
        }
        let mut into = late;
        if now.shimmers() {
            for n in 0..BLOCK {
                into[n] += self.risen * now.shimmer.at(n) * now.open;
                // no more comes back than goes out, however long the room is
                let mid = 0.5 * (left[n] + right[n]);
                let up = self.shimmer.next(mid * now.level, 2.0, now.grain);
                self.risen = crate::drive::soft(0.6 * up);
            }
        } else {
            self.risen = 0.0;
        }
        let mut sides = [[0.0; BLOCK]; 2];
        for channel in 0..2 {
            let (low, high) = &mut self.cuts[channel];
            for n in 0..BLOCK {
                // a little of each side itself, so that it answers where it was struck
                let own = 0.3 * (came[channel][n] - mono[n]) * now.open;
                sides[channel][n] = high.next(low.next(into[n] + own));
            }
            sides[channel] = self.scattered(channel, sides[channel]);
        }
        mixed(&mut x);
        for (i, line) in x.iter().enumerate() {
            let sign = if (i / 4) % 2 == 0 { 0.5 } else { -0.5 };
            let side = &sides[i % 2];
            let into: Block = std::array::from_fn(|n| line[n] + sign * side[n]);
            self.lines[i].push_all(&into);
        }
        for n in 0..BLOCK {
            let (mid, side) = (0.5 * (left[n] + right[n]), 0.5 * (left[n] - right[n]));
            let wide = now.width.at(n);
            let l = (mid + side * wide) * now.level;
            let r = (mid - side * wide) * now.level;
            let wide_early = (early_l[n] + early_r[n]) * 0.5;
            let early_side = (early_l[n] - early_r[n]) * 0.5 * wide;
            let early = now.early.at(n) * 0.6;
            block[0][n] = self.still[0].next(l + early * (wide_early + early_side));
            block[1][n] = self.still[1].next(r + early * (wide_early - early_side));
        }
    }
}

/// What it is set to for a block.
struct Now {
    pre: Value,
    early: Value,
    width: Value,
    shimmer: Value,
    rate: f32,
    grain: f32,
    level: f32,
    /// How much of the rest lengths cover in a frame: slowly enough not to be a new sound.
    glide: f32,
    /// 0 where nothing comes in.
    open: f32,
    cuts_early: bool,
    swings: [f32; LINES],
}

impl Now {
    fn shimmers(&self) -> bool {
        self.shimmer.now > 0.0 || self.shimmer.next > 0.0
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
    let root = (b * b - a * a).max(0.0).sqrt();
    let p = (-b + root) / a;
    p.clamp(0.0, 0.98)
}

/// The lossless matrix: sums and differences, four times over (Hadamard, 1893).
#[inline(always)]
fn mixed(x: &mut [Block; LINES]) {
    for apart in [8, 4, 2, 1] {
        for i in (0..LINES).filter(|i| i & apart == 0) {
            let (a, b) = (x[i], x[i + apart]);
            x[i] = std::array::from_fn(|n| a[n] + b[n]);
            x[i + apart] = std::array::from_fn(|n| a[n] - b[n]);
        }
    }
    x.iter_mut().flatten().for_each(|y| *y *= 0.25);
}

impl Effect for Reverb {
    fn new(rate_hz: f64) -> Self {
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
            early_cuts: [(HighPass::default(), LowPass::default()); 2],
            still: [HighPass::default(); 2],
            shimmer: Grains::new(SHIMMER_GRAIN_S, rate_hz),
            risen: 0.0,
            turns: 0.0,
            size: -1.0,
            lengths: [0.0; LINES],
            goal: [0.0; LINES],
            losses: [0.0; LINES],
            damps: [0.0; LINES],
            level: 0.0,
            known: [-1.0; 5],
            scatter_frames: SCATTER_MS
                .map(|list| list.map(|ms| ((ms * 1e-3 * rate_hz) as usize).max(1) - 1)),
            early_frames: [0; EARLY.len()],
        }
    }

    fn load(set: &Setting<'_>) -> f64 {
        let rises = set.end(Rows::SHIMMER) > 0.0;
        0.022 + if rises { 0.005 } else { 0.0 }
    }

    fn tail_s(set: &Setting<'_>, down_db: f64) -> f64 {
        if set.chosen::<Freeze>(Rows::FREEZE) == Freeze::On {
            return LONGEST_TAIL_S;
        }
        let fall_s = set.end(Rows::TIME_S) * down_db / 60.0;
        // what rises is heard once more, and so on
        let risen = set.end(Rows::SHIMMER);
        let begin_s = set.end(Rows::PRE_S) + 0.15 * size_times(set.end(Rows::SIZE));
        let lows_s = one_pole_s(set.end(Rows::LOW_CUT_HZ), down_db) + one_pole_s(STILL_HZ, down_db);
        (begin_s + fall_s * (1.0 + risen) + lows_s).max(begin_s + 0.15)
    }
}

impl Process for Reverb {
    fn run(&mut self, block: &mut Stereo, set: &Setting<'_>) {
        let frozen = set.chosen::<Freeze>(Rows::FREEZE) == Freeze::On;
        self.follow(set, frozen);
        let rate = set.rate_hz as f32;
        let [low, high] = [Rows::LOW_CUT_HZ, Rows::HIGH_CUT_HZ].map(|id| set.value(id).next);
        for cut in self.cuts.iter_mut().chain(&mut self.early_cuts) {
            cut.0.set(low.into(), set.rate_hz);
            cut.1.set(high.into(), set.rate_hz);
        }
        for still in &mut self.still {
            still.set(STILL_HZ, set.rate_hz);
        }
        let [early, width, movement, shimmer] =
            [Rows::EARLY, Rows::WIDTH, Rows::MOVE, Rows::SHIMMER].map(|id| set.value(id));
        let wander = WANDER_MS * 1e-3 * rate * movement.next;
        self.turns += 0.31 * BLOCK as f32 / rate;
        self.turns -= self.turns.floor();
        let swing = |i: usize| wander * sine(self.turns * (1 + i % 3) as f32 + i as f32 * 0.377);
        let now = Now {
            pre: set.value(Rows::PRE_S),
            early,
            width,
            shimmer,
            rate,
            grain: (SHIMMER_GRAIN_S * set.rate_hz) as f32,
            level: self.level,
            glide: 1.0 / (0.2 * rate),
            open: if frozen { 0.0 } else { 1.0 },
            cuts_early: set.chosen::<Cuts>(Rows::CUTS) == Cuts::All,
            swings: std::array::from_fn(swing),
        };
        self.through(block, &now);
        for cut in self.cuts.iter_mut().chain(&mut self.early_cuts) {
            cut.0.settle();
            cut.1.settle();
        }
        self.still.iter_mut().for_each(HighPass::settle);
        self.damped
            .iter_mut()
            .for_each(|d| *d = crate::tools::flush_denormal(*d));
    }

    fn clear(&mut self) {
        self.before.clear();
        self.scatter.iter_mut().flatten().for_each(Line::clear);
        self.lines.iter_mut().for_each(Line::clear);
        self.damped = [0.0; LINES];
        for (low, high) in self.cuts.iter_mut().chain(&mut self.early_cuts) {
            low.clear();
            high.clear();
        }
        self.still.iter_mut().for_each(HighPass::clear);
        self.shimmer.clear();
        self.risen = 0.0;
        self.lengths = self.goal;
    }
}
