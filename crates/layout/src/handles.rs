//! The envelope as handles on the drawing: where they are, and what dragging one means.

use serde::{Deserialize, Serialize};
use zolvik_patch::Patch;
use zolvik_patch::document::Unit;

use zolvik_edit::Edit;
use zolvik_patch::address::Address;
use zolvik_patch::catalogue::param;
use zolvik_patch::document::UnitId;
use zolvik_patch::envelope::{BEAT_S, CURVATURE, Envelope, Point};
use zolvik_patch::param::{ParamId, Quantity};
use zolvik_patch::timing::{auditioned_scale, strip_scale};

/// Beats between the lines of the grid points snap to: sixteenths.
pub const GRID_BEATS: f64 = 0.25;

/// A point one can drag, with its place in the drawing.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Handle {
    /// Position of the point in the envelope.
    pub at: usize,
    /// Whether it is the middle of the segment that leads there, which bends it.
    pub bend: bool,
    /// From the press, in seconds.
    pub time_s: f64,
    /// 0 to 1.
    pub level: f64,
    /// Whether the note is let go before it is reached.
    pub late: bool,
    /// Whether it is the point that is held.
    pub held: bool,
    /// What it is, in words.
    pub name: &'static str,
}

/// Share of a segment covered at its middle.
fn middle(curve: f64) -> f64 {
    1.0 / (1.0 + libm::exp(-0.5 * CURVATURE * curve))
}

/// The curvature that covers this share at the middle; the inverse of [`middle`].
fn curve_of(share: f64) -> f64 {
    let share = share.clamp(0.001, 0.999);
    (-2.0 * libm::log(1.0 / share - 1.0) / CURVATURE).clamp(-1.0, 1.0)
}

/// Where each segment begins, in seconds from the press, and from which level; scaled.
fn segments(env: &Envelope, scale: f64, hold_s: f64) -> Vec<(f64, f64)> {
    let held = usize::from(env.held);
    let mut from = (env.delay_s * scale, 0.0);
    let mut list = vec![];
    for (i, point) in env.points.iter().enumerate() {
        if i == held + 1 {
            from.0 = hold_s;
        }
        list.push(from);
        from = (from.0 + point.time_s * scale, point.level);
    }
    list
}

fn name(env: &Envelope, at: usize, bend: bool) -> &'static str {
    const PLAIN: [[&str; 2]; 3] = [
        ["End of attack", "Curve of attack"],
        ["End of decay, sustain level", "Curve of decay"],
        ["End of release", "Curve of release"],
    ];
    match (env.is_plain(), bend) {
        (true, _) => PLAIN[at.min(2)][usize::from(bend)],
        (false, true) => "Curve of the segment",
        (false, false) if at == usize::from(env.held) => "Held point",
        (false, false) if at + 1 == env.points.len() => "End",
        (false, false) => "Point",
    }
}

/// The handles of a unit's envelope for the auditioned note; empty if there is no such unit.
pub fn handles(patch: &Patch, unit: UnitId) -> Vec<Handle> {
    let Some(env) = patch.envelope(unit) else {
        return vec![];
    };
    let hold_s = patch.audition.hold_s;
    let scale = strip_scale(patch, unit);
    let begins = segments(env, scale, hold_s);
    let mut list = vec![];
    for (at, (point, (from_s, from))) in env.points.iter().zip(begins).enumerate() {
        let last = at + 1 == env.points.len();
        let time_s = point.time_s * scale;
        let handle = |bend: bool, time_s: f64, level: f64| Handle {
            at,
            bend,
            time_s,
            level,
            late: at <= usize::from(env.held) && time_s > hold_s,
            held: at == usize::from(env.held),
            name: name(env, at, bend),
        };
        // where nothing moves there is nothing to bend
        if from != point.level || last {
            let share = middle(point.curve);
            let level = from + (point.level - from) * share;
            list.push(handle(true, from_s + time_s / 2.0, level));
        }
        list.push(handle(false, from_s + time_s, point.level));
    }
    list
}

/// The edit that puts a handle at a time and level; what lies outside the ranges is pulled in. Times of an envelope
/// in beats snap to the grid unless `free`.
pub fn drag(
    patch: &Patch,
    unit: UnitId,
    (at, bend): (usize, bool),
    (time_s, level): (f64, f64),
    free: bool,
) -> Option<Edit> {
    let id = unit;
    let env = patch.envelope(unit)?;
    let point = env.points.get(at)?;
    let scale = strip_scale(patch, unit);
    let (from_s, from) = *segments(env, scale, patch.audition.hold_s).get(at)?;
    let set = |param_id: ParamId, value: f64| {
        let row = param(param_id);
        let value = if value.is_finite() {
            value.clamp(row.min, row.max)
        } else {
            row.default
        };
        Edit::SetValue {
            address: Address::point(id, at, param_id),
            value: if row.quantity == Quantity::Seconds && (free || !env.in_beats) {
                row.tidy(value)
            } else {
                (value * 10_000.0).round() / 10_000.0
            },
        }
    };
    let edits = if bend {
        let rise = point.level - from;
        let share = if rise.abs() < 1e-6 {
            0.5
        } else {
            (level - from) / rise
        };
        vec![set(Point::CURVE, curve_of(share))]
    } else {
        let mut length_s = (time_s - from_s) / scale;
        if env.in_beats && !free {
            let grid_s = GRID_BEATS * BEAT_S;
            length_s = (length_s / grid_s).round() * grid_s;
        }
        let mut edits = vec![set(Point::TIME_S, length_s)];
        if at + 1 < env.points.len() && !(at == 0 && env.is_plain()) {
            edits.push(set(Point::LEVEL, level));
        }
        edits
    };
    Some(Edit::Together {
        label: "envelope".into(),
        edits,
    })
}

/// Where the note's end cuts a unit off that would go on: when, and which unit ends it. None for units that are
/// heard themselves, or that end before those they move.
pub fn cut_off(patch: &Patch, unit: UnitId) -> Option<(f64, UnitId)> {
    let end_of = |unit: &Unit| {
        let scale = auditioned_scale(patch, unit);
        unit.envelope.silent_from_s(patch.audition.hold_s / scale) * scale
    };
    // the envelope of a filter or shaper ends nothing
    let is_source = |id| patch.unit(id).is_some_and(|u| u.kind.name().is_source());
    let is_heard = |id: UnitId| is_source(id) && patch.sounds(id);
    if !is_source(unit) {
        return None;
    }
    if is_heard(unit) {
        return None;
    }
    let (mut open, mut seen, mut last) = (vec![unit], vec![], None);
    while let Some(id) = open.pop() {
        if seen.contains(&id) {
            continue;
        }
        seen.push(id);
        if is_heard(id) {
            let end = (end_of(patch.unit(id)?), id);
            last = match last {
                Some((s, _)) if s >= end.0 => last,
                _ => Some(end),
            };
        }
        open.extend(patch.sends(id).filter_map(|r| r.send.target()));
    }
    let own_s = end_of(patch.unit(unit)?);
    last.filter(|(end_s, _)| own_s > end_s + 0.02)
}
