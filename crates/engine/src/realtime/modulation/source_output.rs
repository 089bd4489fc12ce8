//! What several sources are made of: turns, segments of a drawn cycle, and how they come in.

use wide::f32x8;

use crate::program::movement::{SegmentCurve, ShapeProgram, SourceProgram};
use crate::realtime::power::exp2;
use crate::realtime::sine::Lanes;
use crate::sizes::LANES;

/// Added and taken away again it rounds to the nearest whole number: the smallest step of numbers of that size is one.
const ROUNDS: f64 = 6_755_399_441_055_744.0;

/// The largest whole number that is not above one, of those turns come to.
#[inline(always)]
pub(in crate::realtime) fn floor(x: f64) -> f64 {
    let nearest = (x + ROUNDS) - ROUNDS;
    nearest - if nearest > x { 1.0 } else { 0.0 }
}

/// Where in its cycle so many turns lead, 0 to 1.
#[inline(always)]
pub(in crate::realtime) fn part(turns: f64, once: bool) -> f32 {
    match once {
        true => turns.clamp(0.0, 1.0) as f32,
        false => (turns - floor(turns)) as f32,
    }
}

/// Along a segment, as `zolvik_patch::movement::shape::bent`, in each lane: `t` from 0 to 1.
#[inline(always)]
pub(in crate::realtime) fn curved(t: Lanes, bend: SegmentCurve) -> Lanes {
    match bend.is_straight() {
        true => t,
        false => (f32x8::ONE - exp2(f32x8::splat(bend.power) * t)) / f32x8::splat(bend.whole),
    }
}

/// The segments of a drawn cycle that eight lanes are in.
#[derive(Debug, Clone, Copy)]
pub(in crate::realtime) struct Segments {
    /// Where they begin and end, 0 to 1; of none the end lies before the begin.
    from: Lanes,
    to: Lanes,
    low: Lanes,
    high: Lanes,
    /// How they bend: see [`SegmentCurve`].
    power: Lanes,
    whole: Lanes,
    /// The point each leads to.
    next: [u8; LANES],
}

impl Segments {
    /// None is known.
    pub(in crate::realtime) const UNKNOWN: Segments = Segments {
        from: f32x8::ONE,
        to: f32x8::ZERO,
        low: f32x8::HALF,
        high: f32x8::HALF,
        power: f32x8::ZERO,
        whole: f32x8::ONE,
        next: [0; LANES],
    };

    /// Level of a drawn cycle at a place in each lane, as `zolvik_patch::movement::shape::level_at`.
    pub(in crate::realtime) fn level(
        &mut self,
        points: &[ShapeProgram],
        at: [f32; LANES],
    ) -> [f32; LANES] {
        let places = f32x8::new(at);
        let within = places.simd_ge(self.from) & places.simd_lt(self.to);
        if within.to_bitmask() != 0xFF {
            self.find(points, &at, within.to_bitmask());
        }
        let t = (places - self.from) / (self.to - self.from);
        let along = match self.power == f32x8::ZERO {
            true => t,
            false => {
                let bent = (f32x8::ONE - exp2(self.power * t)) / self.whole;
                self.power.simd_eq(f32x8::ZERO).select(t, bent)
            }
        };
        (self.low + (self.high - self.low) * along).to_array()
    }

    /// Finds the segments of lanes that have left theirs.
    #[cold]
    fn find(&mut self, points: &[ShapeProgram], at: &[f32; LANES], within: u32) {
        for lane in (0..LANES).filter(|lane| within >> lane & 1 == 0) {
            let after = after(points, at[lane], self.next[lane].into());
            self.next[lane] = after as u8;
            let points = (points.get(after.wrapping_sub(1)), points.get(after));
            let (from, to, low, high, bend) = match points {
                (Some(a), Some(b)) => (a.at, b.at, a.level, b.level, b.bend),
                (Some(last), None) => {
                    (last.at, 2.0, last.level, last.level, SegmentCurve::STRAIGHT)
                }
                (None, Some(first)) => (
                    -1.0,
                    first.at,
                    first.level,
                    first.level,
                    SegmentCurve::STRAIGHT,
                ),
                (None, None) => (-1.0, 2.0, 0.5, 0.5, SegmentCurve::STRAIGHT),
            };
            let set = |lanes: &mut Lanes, value: f32| lanes.as_mut_array()[lane] = value;
            set(&mut self.from, from);
            set(&mut self.to, to);
            set(&mut self.low, low);
            set(&mut self.high, high);
            set(&mut self.power, bend.power);
            set(&mut self.whole, bend.whole);
        }
    }
}

/// The first point after a place; most often the one after that which was the first.
fn after(points: &[ShapeProgram], at: f32, known: usize) -> usize {
    match points.get(known..known + 2) {
        Some([a, b]) if a.at <= at && at < b.at => known + 1,
        _ => points.partition_point(|p| p.at <= at),
    }
}

/// How far a source has come in, 0 to 1.
pub(in crate::realtime) fn faded(source: &SourceProgram, age_s: f64) -> f32 {
    come_in(source.delay_s, source.fade_s, age_s)
}

/// How far what waits and then fades in has come in, 0 to 1, by the time since the press in seconds.
pub fn come_in(delay_s: f32, fade_s: f32, age_s: f64) -> f32 {
    let since = age_s as f32 - delay_s;
    match fade_s {
        _ if delay_s == 0.0 && fade_s == 0.0 => 1.0,
        0.0 => f32::from(u8::from(since >= 0.0)),
        fade_s => (since / fade_s).clamp(0.0, 1.0),
    }
}
