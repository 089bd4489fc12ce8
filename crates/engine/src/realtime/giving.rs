//! What sources of movement give: a drawn cycle, steps, chance, what is played, and how they come in.

use wide::f32x8;
use zolvik_patch::movement::{Chance, PlayedWhat};

use super::chance;
use super::movers::{Controls, State};
use super::power::exp2;
use super::sine::Lanes;
use crate::LANES;
use crate::program::movement::{Bend, ShapeProgram, SourceProgram};

/// What chance is asked for.
const SOURCE_CHANCE: u64 = 5;

/// The largest whole number that is not above one, of those an hour of turns comes to.
fn floor(x: f64) -> f64 {
    let cut = x as i64 as f64;
    match cut > x {
        true => cut - 1.0,
        false => cut,
    }
}

/// Where in its cycle so many turns lead, 0 to 1.
pub(super) fn part(turns: f64, once: bool) -> f32 {
    match once {
        true => turns.clamp(0.0, 1.0) as f32,
        false => (turns - floor(turns)) as f32,
    }
}

/// Along a segment, as `zolvik_patch::movement::shape::bent`, in each lane: `t` from 0 to 1.
#[inline(always)]
pub(super) fn bent(t: Lanes, bend: Bend) -> Lanes {
    match bend.is_straight() {
        true => t,
        false => (f32x8::ONE - exp2(f32x8::splat(bend.power) * t)) / f32x8::splat(bend.whole),
    }
}

/// Level of a drawn cycle at a place in each lane, as `zolvik_patch::movement::shape::level_at`. `segments` has the point each lane was
/// before last: it is there still, or at the next one.
pub(super) fn cycle(
    points: &[ShapeProgram],
    at: [f32; LANES],
    segments: &mut [u8; LANES],
) -> [f32; LANES] {
    let (mut from, mut to) = ([0.0; LANES], [1.0; LANES]);
    let (mut low, mut high) = ([0.5; LANES], [0.5; LANES]);
    let (mut power, mut whole) = ([0.0; LANES], [1.0; LANES]);
    let mut bends = false;
    for lane in 0..LANES {
        let known = usize::from(segments[lane]);
        let mut segment = (points.get(known.wrapping_sub(1)), points.get(known));
        let still = matches!(segment, (Some(a), Some(b)) if a.at <= at[lane] && at[lane] < b.at);
        if !still {
            let after = after(points, at[lane], known);
            segments[lane] = after as u8;
            segment = (points.get(after.wrapping_sub(1)), points.get(after));
        }
        match segment {
            (Some(a), Some(b)) => {
                (from[lane], to[lane]) = (a.at, b.at);
                (low[lane], high[lane]) = (a.level, b.level);
                (power[lane], whole[lane]) = (b.bend.power, b.bend.whole);
                bends |= !b.bend.is_straight();
            }
            (Some(end), None) | (None, Some(end)) => {
                (low[lane], high[lane]) = (end.level, end.level);
            }
            (None, None) => {}
        }
    }
    let from = f32x8::new(from);
    let t = (f32x8::new(at) - from) / (f32x8::new(to) - from);
    let along = match bends {
        false => t,
        true => {
            let power = f32x8::new(power);
            let bent = (f32x8::ONE - exp2(power * t)) / f32x8::new(whole);
            power.simd_eq(f32x8::ZERO).select(t, bent)
        }
    };
    let low = f32x8::new(low);
    (low + (f32x8::new(high) - low) * along).to_array()
}

/// The first point after a place; most often the one after that which was the first.
fn after(points: &[ShapeProgram], at: f32, known: usize) -> usize {
    match points.get(known..known + 2) {
        Some([a, b]) if a.at <= at && at < b.at => known + 1,
        _ => points.partition_point(|p| p.at <= at),
    }
}

/// Value of steps after so many turns; each is gone to from the one before over its glide.
pub(super) fn steps(points: &[ShapeProgram], turns: f64, once: bool) -> f32 {
    let count = points.len().max(1);
    let place = f64::from(part(turns, once)) * count as f64;
    let at = (place as usize).min(count - 1);
    let (Some(step), begun) = (points.get(at), (place - at as f64) as f32) else {
        return 0.5;
    };
    // the very first has nothing to come from
    if step.curve <= begun || at == 0 && (once || turns < 1.0) {
        return step.level;
    }
    let before = points[(at + count - 1) % count].level;
    before + (step.level - before) * begun / step.curve
}

/// What chance gives after so many turns, 0 to 1.
pub(super) fn thrown(source: &SourceProgram, nth: u32, turns: f64) -> f32 {
    let seed = u64::from(source.seed) | SOURCE_CHANCE << 32;
    let at = |round: f64| {
        let words = [seed, source.id.into(), nth.into(), round as i64 as u64];
        (f64::from(chance::bits(words)) / 4_294_967_296.0) as f32
    };
    let round = floor(turns);
    match source.variant {
        v if v == Chance::Note as u32 => at(0.0),
        v if v == Chance::Hold as u32 => at(round),
        _ => {
            let t = (turns - round) as f32;
            let (from, to) = (at(round), at(round + 1.0));
            from + (to - from) * (t * t * (3.0 - 2.0 * t))
        }
    }
}

pub(super) fn played(
    source: &SourceProgram,
    state: &State,
    lane: usize,
    controls: &Controls,
) -> f32 {
    let key = usize::from(state.key[lane] & 127);
    match PlayedWhat::ALL[source.variant as usize % PlayedWhat::ALL.len()] {
        PlayedWhat::Velocity => state.velocity[lane],
        PlayedWhat::ReleaseVelocity => controls.lifted[key],
        PlayedWhat::Key => (0.5 + (key as f32 - 60.0) / 120.0).clamp(0.0, 1.0),
        PlayedWhat::Wheel => controls.wheel,
        PlayedWhat::Bend => controls.bend,
        PlayedWhat::Pressure => controls.pressure.max(controls.key_pressure[key]),
        PlayedWhat::Expression => controls.expression,
        PlayedWhat::Pedal => controls.pedal,
        PlayedWhat::Alternate => (state.nth[lane] & 1) as f32,
        PlayedWhat::Held => (controls.held as f32 / 8.0).min(1.0),
        PlayedWhat::Copy => state.copy[lane],
        PlayedWhat::Timbre => controls.key_timbre[key],
    }
}

/// How far a source has come in, 0 to 1.
pub(super) fn faded(source: &SourceProgram, age_s: f64) -> f32 {
    let since = age_s as f32 - source.delay_s;
    match source.fade_s {
        _ if source.delay_s == 0.0 && source.fade_s == 0.0 => 1.0,
        0.0 => f32::from(u8::from(since >= 0.0)),
        fade_s => (since / fade_s).clamp(0.0, 1.0),
    }
}
