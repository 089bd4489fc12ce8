//! Bends the wave.
//!
//! Each sample is the mean of the curve over the straight ways between four samples, weighed by a cubic spline (after Parker, Zavalishin and
//! Le Bivic, "Reducing the Aliasing of Nonlinear Waveshaping Using Continuous-Time Convolution", 2016; Unser, "Splines", 1999), added up at
//! eight places a sample; what that takes from the highs is given back by five taps. It is done at up to eight times the rate.

use wide::f32x8;
use zolvik_patch::choice::Options;
use zolvik_patch::finish::{Bend, Drive as Rows, Fineness};

use crate::kind::Effect;
use crate::process::{BLOCK, Process, Setting, Stereo, Value};
use crate::tools::biquad::{Biquad, Filter};
use crate::tools::bounds::Bounds;
use crate::tools::drawn::{Point, level};
use crate::tools::gain;
use crate::tools::oversampler::{MOST, Oversampler};
use crate::tools::pole::HighPass;
use crate::tools::ringing::{one_pole_s, stages_s};

/// Samples at the higher rate the mean and its five taps take.
const INSIDE: usize = 4;
/// The height at which what comes out is as loud as what went in.
const KEPT_AT: f32 = 0.25;
/// Where tilts turn, and where tape begins to round more.
/// Below this nothing of what a curve makes is let through.
const STILL_HZ: f64 = 8.0;
const TILT_HZ: f64 = 800.0;
const TAPE_HZ: f64 = 2500.0;
const TAPE_DB: f64 = 9.0;
/// Places of a drawn curve that are looked up.
const TABLE: usize = 256;

/// Taps that give back what the spline takes from the highs.
const FAR: f32 = 0.035_535;
const NEAR: f32 = 0.307_167;

/// A curve like the hyperbolic tangent, by a fraction; 1 at the most.
#[inline(always)]
pub(crate) fn soft(x: f32) -> f32 {
    let x = x.clamp(-3.0, 3.0);
    let z = x * x;
    x * (27.0 + z) / (27.0 + 9.0 * z)
}

#[inline(always)]
fn soft8(x: f32x8) -> f32x8 {
    let x = x.at_most(f32x8::splat(3.0)).at_least(f32x8::splat(-3.0));
    let z = x * x;
    x * (f32x8::splat(27.0) + z) / (f32x8::splat(27.0) + z * f32x8::splat(9.0))
}

/// A sine by a polynomial (Taylor, 1715), of radians folded to a quarter turn.
#[inline(always)]
fn sine8(x: f32x8) -> f32x8 {
    const TAU: f32 = core::f32::consts::TAU;
    let turns = x * f32x8::splat(1.0 / TAU);
    let t = turns - turns.round();
    let half = f32x8::splat(0.5);
    let quarter = f32x8::splat(0.25);
    let t = t.simd_gt(quarter).select(half - t, t);
    let t = t.simd_lt(-quarter).select(-half - t, t);
    let x = t * f32x8::splat(TAU);
    let x2 = x * x;
    let one = f32x8::ONE;
    let mut sum = one;
    for below in [110.0, 72.0, 42.0, 20.0, 6.0f32] {
        sum = one - x2 * f32x8::splat(1.0 / below) * sum;
    }
    x * sum
}

/// The curve of a drawing as it is looked up.
#[derive(Debug, Clone)]
struct Table {
    points: [Point; 16],
    count: usize,
    levels: Box<[f32; TABLE + 1]>,
}

impl Table {
    fn new() -> Self {
        Table {
            points: [Point::default(); 16],
            count: 0,
            levels: Box::new([0.0; TABLE + 1]),
        }
    }

    fn follow(&mut self, points: &[Point]) {
        let points = &points[..points.len().min(16)];
        if self.points[..self.count] == *points {
            return;
        }
        self.count = points.len();
        self.points[..self.count].copy_from_slice(points);
        for (i, to) in self.levels.iter_mut().enumerate() {
            *to = 2.0 * level(points, i as f32 / TABLE as f32) - 1.0;
        }
    }

    #[inline(always)]
    fn at(&self, x: f32) -> f32 {
        let place = (x.clamp(-1.0, 1.0) + 1.0) * (0.5 * TABLE as f32);
        let whole = (place as usize).min(TABLE - 1);
        let (a, b) = (self.levels[whole], self.levels[whole + 1]);
        a + (b - a) * (place - whole as f32)
    }
}

/// What a drawn curve makes of places from -1 to 1, for the screen.
pub fn curve_points(points: &[Point], count: usize) -> Vec<f32> {
    (0..count)
        .map(|i| 2.0 * level(points, i as f32 / (count.max(2) - 1) as f32) - 1.0)
        .collect()
}

/// What a curve makes of places from -`reach` to `reach`, for the screen: what is drawn by its points, bits at the height they leave.
pub fn bent(rows: &Rows, points: &[Point], reach: f32, count: usize) -> Vec<f32> {
    let mut table = Table::new();
    table.follow(points);
    let steps = libm::exp2(rows.bits - 1.0) as f32;
    let bias = f32x8::splat(rows.bias as f32);
    (0..count)
        .map(|i| {
            let x = reach * (2.0 * i as f32 / (count.max(2) - 1) as f32 - 1.0);
            match rows.bend {
                Bend::Bits => libm::roundf(x * steps) / steps,
                bend => bend8(bend, bias, f32x8::splat(x), &table).to_array()[0],
            }
        })
        .collect()
}

#[inline(always)]
fn bend8(bend: Bend, bias: f32x8, x: f32x8, table: &Table) -> f32x8 {
    let one = f32x8::ONE;
    let x = x + bias;
    match bend {
        Bend::Soft | Bend::Tape => soft8(x),
        Bend::Hard => x.at_most(one).at_least(-one),
        Bend::Fold => sine8(x),
        // the lower side gives way later, and further
        Bend::Tube => {
            let below = soft8(x * f32x8::splat(0.6)) * f32x8::splat(1.0 / 0.6);
            x.simd_lt(f32x8::ZERO).select(below, soft8(x))
        }
        Bend::Rectify => soft8(x.abs()),
        Bend::Drawn => f32x8::new(x.to_array().map(|x| table.at(x))),
        Bend::Bits => x,
    }
}

/// Each channel by itself.
struct Side {
    oversampler: Oversampler,
    bender: Bender,
    still: HighPass,
    /// Of fewer steps: where in its step it is, and what it holds.
    phase: f32,
    held: f32,
}

/// What is bent, from block to block: the last samples of each course.
#[derive(Default)]
struct Bender {
    /// What came, how much it counts for the next three means, and the means.
    ends: [[f32; PAST]; 5],
}

pub(crate) struct Drive {
    sides: [Side; 2],
    table: Table,
    tilts: [Filter; 2],
    emphasis: [Filter; 2],
    kept: Option<(Bend, f32, f32, f32)>,
    gain: f32,
}

impl Drive {
    /// What makes what comes out as loud as what went in: of a sine of a quarter of the full height.
    fn keep(&mut self, bend: Bend, times: f32, bias: f32) -> f32 {
        let drawn = match bend {
            Bend::Drawn => self.table.levels.iter().sum(),
            _ => 0.0,
        };
        let asked = (bend, times, bias, drawn);
        if self.kept != Some(asked) {
            self.kept = Some(asked);
            let mut all = [0.0; 64];
            for (row, eight) in all.as_chunks_mut::<8>().0.iter_mut().enumerate() {
                let x = f32x8::new(std::array::from_fn(|i| {
                    let turns = (8 * row + i) as f32 / 64.0;
                    KEPT_AT * times * crate::tools::wave::sine(turns)
                }));
                *eight = bend8(bend, f32x8::splat(bias), x, &self.table).to_array();
            }
            let mean = all.iter().sum::<f32>() / 64.0;
            let power = all.iter().map(|y| (y - mean) * (y - mean)).sum::<f32>() / 64.0;
            let came = KEPT_AT * core::f32::consts::FRAC_1_SQRT_2;
            self.gain = (came / power.sqrt().max(1e-3)).clamp(0.02, 8.0);
        }
        self.gain
    }
}

/// A filter that does nothing costs nothing.
fn through(filter: &mut Filter, block: &mut Stereo) {
    if !filter.is_plain() {
        filter.both(block);
    }
}

/// How many times the rate: what has a corner where it is steepest takes twice as many.
fn times_of(bend: Bend, fineness: Fineness) -> usize {
    let doubled = fineness.position();
    match bend {
        Bend::Rectify => (2 << doubled).min(MOST),
        _ => 1 << doubled,
    }
}

/// Samples of a course that come from the block before.
const PAST: usize = 4;

/// How much each of eight places on the way between two samples counts for the mean that ends there, and for the three after it: the four
/// pieces of the spline, the last one first.
const PIECES: [[f32; 4]; 8] = {
    let mut all = [[0.0; 4]; 8];
    let mut i = 0;
    while i < 8 {
        let t = (i as f32 + 0.5) / 8.0;
        let u = 1.0 - t;
        let (rise, fall) = (t * t * t / 6.0, u * u * u / 6.0);
        let high = 2.0 / 3.0 - t * t + 3.0 * rise;
        let low = 1.0 - rise - fall - high;
        all[i] = [fall / 8.0, high / 8.0, low / 8.0, rise / 8.0];
        i += 1;
    }
    all
};

impl Bender {
    /// Bends samples at the higher rate, eight at a time.
    fn bend(&mut self, fine: &mut [f32], bend: Bend, (times, bias): (Value, Value), table: &Table) {
        let mut courses = [[0.0; PAST + MOST * BLOCK]; 5];
        for (course, end) in courses.iter_mut().zip(&self.ends) {
            course[..PAST].copy_from_slice(end);
        }
        let [came, high, low, rise, means] = &mut courses;
        let count = fine.len();
        let scale = 1.0 / count as f32;
        let at =
            |value: &Value, i: usize| value.now + (value.next - value.now) * (i as f32 * scale);
        for (i, (to, x)) in came[PAST..].iter_mut().zip(&*fine).enumerate() {
            *to = x * at(&times, i);
        }
        for from in (0..count).step_by(8) {
            let eight = |course: &[f32], late: usize| {
                let from = PAST + from - late;
                f32x8::new(std::array::from_fn(|i| course[from + i]))
            };
            let (before, x) = (eight(came, 1), eight(came, 0));
            let bias = f32x8::new(std::array::from_fn(|i| at(&bias, from + i)));
            let mut sums = [f32x8::ZERO; 4];
            for (place, pieces) in PIECES.iter().enumerate() {
                let way = f32x8::splat((place as f32 + 0.5) / 8.0);
                let y = bend8(bend, bias, before + (x - before) * way, table);
                for (sum, piece) in sums.iter_mut().zip(pieces) {
                    *sum += y * f32x8::splat(*piece);
                }
            }
            for (course, sum) in [&mut *means, high, low, rise].into_iter().zip(sums) {
                course[PAST + from..][..8].copy_from_slice(&sum.to_array());
            }
            // what this way and the three before count for
            let mean = eight(means, 0) + eight(high, 1) + eight(low, 2) + eight(rise, 3);
            means[PAST + from..][..8].copy_from_slice(&mean.to_array());
            // the inverse of the spline's fall, within a thousandth of a decibel up to 0.14 of the rate
            let middle = eight(means, 2) * f32x8::splat(1.0 + 2.0 * NEAR - 2.0 * FAR);
            let near = (eight(means, 1) + eight(means, 3)) * f32x8::splat(NEAR);
            let far = (mean + eight(means, 4)) * f32x8::splat(FAR);
            fine[from..][..8].copy_from_slice(&(middle - near + far).to_array());
        }
        for (end, course) in self.ends.iter_mut().zip(&courses) {
            end.copy_from_slice(&course[count..count + PAST]);
        }
    }
}

impl Side {
    fn coarse(&mut self, block: &mut [f32; BLOCK], levels: Value, step: f32) {
        for (frame, x) in block.iter_mut().enumerate() {
            self.phase += step;
            if self.phase >= 1.0 {
                self.phase -= self.phase.floor();
                let levels = levels.at(frame);
                self.held = libm::roundf(*x * levels) / levels;
            }
            *x = self.held;
        }
    }
}

impl Effect for Drive {
    const LATEST_S: f64 = 0.02;
    const SHORTEST_TAIL_S: f64 = 0.05;

    fn new(rate_hz: f64) -> Self {
        let side = || {
            let mut still = HighPass::default();
            still.set(STILL_HZ, rate_hz);
            Side {
                oversampler: Oversampler::new(),
                bender: Bender::default(),
                still,
                phase: 1.0,
                held: 0.0,
            }
        };
        Drive {
            sides: [side(), side()],
            table: Table::new(),
            tilts: [Filter::QUIET; 2],
            emphasis: [Filter::QUIET; 2],
            kept: None,
            gain: 1.0,
        }
    }

    fn latency_frames(set: &Setting<'_>) -> usize {
        match set.chosen(Rows::BEND) {
            Bend::Bits => 0,
            bend => Oversampler::latency_frames(times_of(bend, set.chosen(Rows::FINENESS)), INSIDE),
        }
    }

    fn load(set: &Setting<'_>) -> f64 {
        match set.chosen(Rows::BEND) {
            Bend::Bits => 0.004,
            _ => [0.0095, 0.018, 0.028, 0.049][set.chosen::<Fineness>(Rows::FINENESS).position()],
        }
    }

    fn tail_s(set: &Setting<'_>, down_db: f64) -> f64 {
        // what fades away before the curve is raised by it, and what stood still of a bent wave goes with the sound
        let tilt = |id| Biquad::tilt(TILT_HZ / set.rate_hz, set.end(id));
        let before_s = stages_s(
            [tilt(Rows::BEFORE_DB)],
            set.rate_hz,
            down_db + Self::lift_db(set),
        );
        let after_s = stages_s([tilt(Rows::AFTER_DB)], set.rate_hz, down_db);
        let own_s = match set.chosen(Rows::BEND) {
            Bend::Bits => 1.0 / set.end(Rows::STEP_HZ),
            _ => one_pole_s(STILL_HZ, down_db),
        };
        before_s + own_s + after_s
    }

    fn lift_db(set: &Setting<'_>) -> f64 {
        match set.chosen(Rows::BEND) {
            Bend::Bits => 0.0,
            _ => set.end(Rows::DRIVE_DB),
        }
    }
}

impl Process for Drive {
    fn run(&mut self, block: &mut Stereo, set: &Setting<'_>) {
        let bend: Bend = set.chosen(Rows::BEND);
        self.table.follow(set.points);
        let tilt = |db: Value| match db.next == 0.0 {
            true => Biquad::PLAIN,
            false => Biquad::tilt(TILT_HZ / set.rate_hz, db.next.into()),
        };
        let [before, after] = [Rows::BEFORE_DB, Rows::AFTER_DB].map(|id| tilt(set.value(id)));
        self.tilts[0].set_target(before);
        self.tilts[1].set_target(after);
        let tape = if bend == Bend::Tape { TAPE_DB } else { 0.0 };
        let turns = TAPE_HZ / set.rate_hz;
        let shelf = |db| match bend == Bend::Tape {
            true => Biquad::high_shelf(turns, core::f64::consts::FRAC_1_SQRT_2, db),
            false => Biquad::PLAIN,
        };
        self.emphasis[0].set_target(shelf(tape));
        self.emphasis[1].set_target(shelf(-tape));
        through(&mut self.tilts[0], block);
        if bend == Bend::Bits {
            let levels = set.value(Rows::BITS).map(|bits| libm::exp2f(bits - 1.0));
            let step = (f64::from(set.value(Rows::STEP_HZ).next) / set.rate_hz).min(1.0) as f32;
            for (side, channel) in self.sides.iter_mut().zip(block.iter_mut()) {
                side.coarse(channel, levels, step);
            }
        } else {
            through(&mut self.emphasis[0], block);
            let drive = set.value(Rows::DRIVE_DB).map(gain);
            let bias = set.value(Rows::BIAS);
            let kept = Value {
                now: self.keep(bend, drive.now, bias.now),
                next: self.keep(bend, drive.next, bias.next),
            };
            let times = times_of(bend, set.chosen(Rows::FINENESS));
            let stands = bend == Bend::Rectify
                || bend == Bend::Tube
                || bend == Bend::Drawn
                || bias.now != 0.0
                || bias.next != 0.0;
            let table = &self.table;
            for (side, channel) in self.sides.iter_mut().zip(block.iter_mut()) {
                let Side {
                    oversampler,
                    bender,
                    ..
                } = side;
                oversampler.run(times, INSIDE, channel, |fine| {
                    bender.bend(fine, bend, (drive, bias), table);
                });
                for (frame, x) in channel.iter_mut().enumerate() {
                    let moved = side.still.next(*x);
                    *x = if stands { moved } else { *x } * kept.at(frame);
                }
                side.still.settle();
            }
            through(&mut self.emphasis[1], block);
        }
        through(&mut self.tilts[1], block);
    }

    fn clear(&mut self) {
        for side in &mut self.sides {
            side.oversampler.clear();
            side.bender = Bender::default();
            side.still.clear();
            (side.phase, side.held) = (1.0, 0.0);
        }
        self.tilts.iter_mut().for_each(Filter::clear);
        self.emphasis.iter_mut().for_each(Filter::clear);
    }
}
