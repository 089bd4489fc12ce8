//! Drawn cycles: reading them, the ready ones, and turning them about.

use serde::{Deserialize, Serialize};

use crate::params::limits::MAX_SHAPE_POINTS;
use crate::params::param::Quantity as Q;
use crate::params::part::part;
use crate::params::section::SectionId as S;
use crate::parts::envelope::CURVATURE;
use crate::parts::look::look;

part! {
    /// A point of a drawn cycle and the segment that leads to it.
    #[derive(Copy)]
    pub struct ShapePoint: Place "shape" in "" {
        values {
            AT at: f64 = 0.5, 0.0..1.0, look("At", Q::Share, S::Shape).step(0.0625, 0.01).decimals(1).unmoved(),
                "Where in the cycle the point stands.";
            LEVEL level: f64 = 0.5, 0.0..1.0, look("Level", Q::Share, S::Shape).step(0.05, 0.01).decimals(1).unmoved(),
                "How high it stands.";
            CURVE curve: f64 = 0.0, -1.0..1.0, look("Curve", Q::Bipolar, S::Shape).step(0.05, 0.01).unmoved(),
                "Curve of the segment to this point: below zero it starts slowly, above zero it starts fast and then lingers.";
        }
    }
}

/// A point at a place and level, with the curvature of the segment that leads to it.
pub const fn point(at: f64, level: f64, curve: f64) -> ShapePoint {
    ShapePoint { at, level, curve }
}

/// Along a segment, 0 to 1, with a curvature: `(1 - e^(-k t)) / (1 - e^-k)`, `k = 6 curve`, as envelopes have it.
pub fn bent(t: f64, curve: f64) -> f64 {
    let k = CURVATURE * curve;
    match k.abs() < 1e-3 {
        true => t,
        false => (1.0 - libm::exp(-k * t)) / (1.0 - libm::exp(-k)),
    }
}

/// Level of a cycle at a place from 0 to 1. Points stand in the order of their places; of two at one place the later one holds there.
pub fn level_at(points: &[ShapePoint], at: f64) -> f64 {
    let after = points.partition_point(|p| p.at <= at);
    let (before, next) = (after.checked_sub(1).map(|i| &points[i]), points.get(after));
    match (before, next) {
        (Some(a), Some(b)) => {
            a.level + (b.level - a.level) * bent((at - a.at) / (b.at - a.at), b.curve)
        }
        (Some(end), None) | (None, Some(end)) => end.level,
        (None, None) => 0.5,
    }
}

/// A sine from its middle, as eight segments that bend: each goes through the sine in its middle, and stays within 0.003 of it.
pub fn sine() -> Vec<ShapePoint> {
    const NEAR: f64 = 0.055;
    const FAR: f64 = 0.349;
    // how far from the middle it is an eighth of a turn on
    const EIGHTH: f64 = 0.3536;
    vec![
        point(0.0, 0.5, 0.0),
        point(0.125, 0.5 + EIGHTH, NEAR),
        point(0.25, 1.0, FAR),
        point(0.375, 0.5 + EIGHTH, -FAR),
        point(0.5, 0.5, -NEAR),
        point(0.625, 0.5 - EIGHTH, NEAR),
        point(0.75, 0.0, FAR),
        point(0.875, 0.5 - EIGHTH, -FAR),
        point(1.0, 0.5, -NEAR),
    ]
}

/// A cycle that comes with the application.
#[derive(Debug, Clone, Copy)]
pub struct ReadyShape {
    /// Its name.
    pub name: &'static str,
    points: &'static [(f64, f64, f64)],
}

impl ReadyShape {
    /// Its points.
    pub fn points(&self) -> Vec<ShapePoint> {
        match self.points {
            [] => sine(),
            points => points
                .iter()
                .map(|(at, level, curve)| point(*at, *level, *curve))
                .collect(),
        }
    }
}

const fn ready(name: &'static str, points: &'static [(f64, f64, f64)]) -> ReadyShape {
    ReadyShape { name, points }
}

/// The cycles that come with the application.
#[rustfmt::skip]
pub const READY_SHAPES: &[ReadyShape] = &[
    ready("Sine", &[]),
    ready("Triangle", &[(0.0, 0.5, 0.0), (0.25, 1.0, 0.0), (0.75, 0.0, 0.0), (1.0, 0.5, 0.0)]),
    ready("Rising", &[(0.0, 0.0, 0.0), (1.0, 1.0, 0.0)]),
    ready("Falling", &[(0.0, 1.0, 0.0), (1.0, 0.0, 0.0)]),
    ready("Square", &[(0.0, 1.0, 0.0), (0.5, 1.0, 0.0), (0.5, 0.0, 0.0), (1.0, 0.0, 0.0)]),
    ready("Gate", &[(0.0, 1.0, 0.0), (0.25, 1.0, 0.0), (0.25, 0.0, 0.0), (1.0, 0.0, 0.0)]),
    ready("Pluck", &[(0.0, 1.0, 0.0), (1.0, 0.0, 0.8)]),
    ready("Swell", &[(0.0, 0.0, 0.0), (0.9, 1.0, -0.6), (1.0, 0.0, 0.3)]),
    ready("Breath", &[(0.0, 0.0, 0.0), (0.4, 1.0, 0.4), (1.0, 0.0, -0.3)]),
    ready("Two drops", &[(0.0, 1.0, 0.0), (0.6, 0.1, 0.6), (0.66, 0.6, 0.0), (1.0, 0.0, 0.6)]),
    ready("Heartbeat", &[(0.0, 0.0, 0.0), (0.05, 1.0, 0.0), (0.2, 0.0, 0.5), (0.3, 0.0, 0.0), (0.36, 0.7, 0.0), (0.55, 0.0, 0.5), (1.0, 0.0, 0.0)]),
    ready("Stairs up", &[(0.0, 0.0, 0.0), (0.25, 0.0, 0.0), (0.25, 0.333, 0.0), (0.5, 0.333, 0.0), (0.5, 0.667, 0.0), (0.75, 0.667, 0.0), (0.75, 1.0, 0.0), (1.0, 1.0, 0.0)]),
    ready("Stairs down", &[(0.0, 1.0, 0.0), (0.25, 1.0, 0.0), (0.25, 0.667, 0.0), (0.5, 0.667, 0.0), (0.5, 0.333, 0.0), (0.75, 0.333, 0.0), (0.75, 0.0, 0.0), (1.0, 0.0, 0.0)]),
    ready("Duck", &[(0.0, 0.0, 0.0), (0.1, 0.0, 0.0), (0.55, 1.0, 0.3), (1.0, 1.0, 0.0)]),
    ready("Three and one", &[(0.0, 1.0, 0.0), (0.375, 0.0, 0.5), (0.375, 1.0, 0.0), (0.75, 0.0, 0.5), (0.75, 1.0, 0.0), (1.0, 0.0, 0.5)]),
    ready("Flicker", &[(0.0, 0.7, 0.0), (0.12, 1.0, 0.0), (0.2, 0.3, 0.0), (0.33, 0.9, 0.0), (0.45, 0.1, 0.0), (0.6, 0.6, 0.0), (0.7, 0.2, 0.0), (0.85, 0.95, 0.0), (1.0, 0.7, 0.0)]),
    ready("Bow", &[(0.0, 0.0, 0.0), (0.5, 1.0, 0.6), (1.0, 0.0, -0.6)]),
    ready("Late jump", &[(0.0, 0.0, 0.0), (0.75, 0.0, 0.0), (0.8, 1.0, 0.0), (1.0, 1.0, 0.0)]),
];

/// How a cycle is turned about.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum Turn {
    /// Upside down.
    Flip,
    /// Backward.
    Reverse,
    /// Its first half over the whole cycle.
    Halve,
    /// Twice in the cycle.
    Double,
}

/// The same cycle, turned about; as it is where it would get too many points.
pub fn turned(points: &[ShapePoint], how: Turn) -> Vec<ShapePoint> {
    match how {
        Turn::Flip => points
            .iter()
            .map(|p| ShapePoint {
                level: 1.0 - p.level,
                ..*p
            })
            .collect(),
        Turn::Reverse => {
            let curve = |i: usize| points.get(i + 1).map_or(0.0, |p| -p.curve);
            let all = points.iter().enumerate().rev();
            all.map(|(i, p)| point(1.0 - p.at, p.level, curve(i)))
                .collect()
        }
        Turn::Halve => {
            let mut list: Vec<ShapePoint> = points
                .iter()
                .filter(|p| p.at < 0.5)
                .map(|p| ShapePoint {
                    at: 2.0 * p.at,
                    ..*p
                })
                .collect();
            let curve = points.iter().find(|p| p.at >= 0.5).map_or(0.0, |p| p.curve);
            // just before the middle, so that a jump there is not taken along
            list.push(point(1.0, level_at(points, 0.5 - 1e-9), curve));
            list
        }
        Turn::Double if 2 * points.len() > MAX_SHAPE_POINTS => points.to_vec(),
        Turn::Double => {
            let half = |from: f64| {
                points.iter().map(move |p| ShapePoint {
                    at: from + 0.5 * p.at,
                    ..*p
                })
            };
            half(0.0).chain(half(0.5)).collect()
        }
    }
}

/// A cycle drawn freehand: levels evenly over the cycle, thinned to what a line of points needs within `tolerance`.
pub fn freehand(levels: &[f64], tolerance: f64) -> Vec<ShapePoint> {
    let last = levels.len().saturating_sub(1).max(1) as f64;
    let all: Vec<ShapePoint> = levels
        .iter()
        .enumerate()
        .map(|(i, y)| point(i as f64 / last, y.clamp(0.0, 1.0), 0.0))
        .collect();
    let mut tolerance = tolerance;
    let mut kept = thinned(&all, tolerance);
    while kept.len() > MAX_SHAPE_POINTS {
        tolerance *= 1.5;
        kept = thinned(&all, tolerance);
    }
    kept
}

/// The points a line needs to stay within a tolerance (Douglas and Peucker, "Algorithms for the reduction of the number of points required
/// to represent a digitized line", 1973), measured in levels.
fn thinned(points: &[ShapePoint], tolerance: f64) -> Vec<ShapePoint> {
    let (Some(first), Some(last)) = (points.first(), points.last()) else {
        return vec![];
    };
    let line = |p: &ShapePoint| {
        first.level
            + (last.level - first.level) * (p.at - first.at) / (last.at - first.at).max(1e-12)
    };
    let off = |p: &ShapePoint| (p.level - line(p)).abs();
    let farthest = (1..points.len().saturating_sub(1))
        .max_by(|a, b| off(&points[*a]).total_cmp(&off(&points[*b])));
    match farthest.filter(|i| off(&points[*i]) > tolerance) {
        None if points.len() < 2 => points.to_vec(),
        None => vec![*first, *last],
        Some(i) => {
            let mut list = thinned(&points[..=i], tolerance);
            list.pop();
            list.extend(thinned(&points[i..], tolerance));
            list
        }
    }
}
