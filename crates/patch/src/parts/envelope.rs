//! Envelopes as points: from silence through up to 16 points, held or looped at one of them until the release.

use crate::error::PatchError;
use crate::params::param::Quantity as Q;
use crate::params::part::part;
use crate::params::section::SectionId as S;
use crate::parts::look::look;

/// Fewest points: one reached while the key is held, and the end.
pub const MIN_POINTS: usize = 2;
/// Most points.
pub const MAX_POINTS: usize = 16;
/// Length of a beat the times of an envelope in beats are given for, in seconds: 120 beats a minute.
pub const BEAT_S: f64 = 0.5;
/// How strongly full curvature bends a segment: `(1 - e^(-k t)) / (1 - e^-k)` with `k = CURVATURE * curve`.
pub const CURVATURE: f64 = 6.0;

part! {
    /// A unit's course in time: after the delay it moves from silence from point to point, each segment with a time
    /// and a curvature of its own. At the held point it stays until the release, or goes round its loop; the points
    /// after it follow the release. The last point is silence.
    pub struct Envelope: Unit "envelope" in "envelope." {
        also {
            /// 2 to 16 points.
            points: Vec<Point> = vec![
                Point::new(0.005, 1.0, 0.0),
                Point::new(0.6, 0.8, 0.5),
                Point::new(0.25, 0.0, 0.5),
            ],
            /// Position of the point held until the release; at least one point follows it.
            held: u8 = 1,
            /// While held, the segments to this point and on to the held one repeat; none to stay at the held one.
            #[serde(default, skip_serializing_if = "Option::is_none")]
            loop_from: Option<u8> = None,
            /// Whether times are those at 120 beats a minute and follow the tempo.
            #[serde(default)]
            in_beats: bool = false,
        }
        values {
            DELAY_S delay_s: f64 = 0.0, 0.0..10.0, look("Delay", Q::Seconds, S::Envelope).power(3.0).decimals(2).onset(),
                "Time from the press until the envelope begins.";
        }
    }
}

part! {
    /// A point and the segment that leads to it.
    #[derive(Copy)]
    pub struct Point: Point "point" in "" {
        values {
            TIME_S time_s: f64 = 0.1, 0.0..20.0, look("Time", Q::Seconds, S::Envelope).power(3.0).decimals(2).onset(),
                "Time of the segment that leads to this point.";
            LEVEL level: f64 = 0.8, 0.0..1.0, look("Level", Q::Share, S::Envelope).step(0.05, 0.01).decimals(1).onset(),
                "Level reached at this point, as a share of full.";
            CURVE curve: f64 = 0.0, -1.0..1.0, look("Curve", Q::Bipolar, S::Envelope).step(0.05, 0.01).onset(),
                "Curve of the segment to this point: below zero it starts slowly, above zero it starts fast and then lingers.";
        }
    }
}

impl Point {
    /// A point with its segment's time, level and curvature.
    pub const fn new(time_s: f64, level: f64, curve: f64) -> Self {
        Point {
            time_s,
            level,
            curve,
        }
    }
}

impl Envelope {
    /// Whether it has the common form: attack, decay to a held level, release.
    pub fn is_plain(&self) -> bool {
        self.points.len() == 3
            && self.held == 1
            && self.loop_from.is_none()
            && self.points[0].level == 1.0
    }

    /// Times of its segments are this many times as long at a tempo.
    pub fn tempo_scale(&self, tempo_bpm: f64) -> f64 {
        match self.in_beats {
            true => 120.0 / tempo_bpm,
            false => 1.0,
        }
    }

    /// Time from the release to silence, unscaled, in seconds.
    pub fn release_s(&self) -> f64 {
        let after = self.points.iter().skip(usize::from(self.held) + 1);
        after.map(|p| p.time_s).sum()
    }

    /// Time from the begin of the first segment to the held point, unscaled, in seconds.
    pub fn rise_s(&self) -> f64 {
        let until = self.points.iter().take(usize::from(self.held) + 1);
        until.map(|p| p.time_s).sum()
    }

    /// When a note held for some time has fallen silent for good, unscaled, in seconds from the press.
    pub fn silent_from_s(&self, hold_s: f64) -> f64 {
        let held = usize::from(self.held);
        // whatever follows the last point before the held one that is not silent
        if self.loop_from.is_none() && self.points[held].level == 0.0 {
            let last = (0..held).rev().find(|i| self.points[*i].level > 0.0);
            let through = last.map_or(0, |i| i + 2);
            let times = self.points.iter().take(through).map(|p| p.time_s);
            let quiet_s = self.delay_s + times.sum::<f64>();
            let rises_again = self.points[held..].iter().any(|p| p.level > 0.0);
            if quiet_s < hold_s && !rises_again {
                return quiet_s;
            }
        }
        hold_s + self.release_s()
    }

    /// Level at a time after the press of a note held for some time, both unscaled, in seconds.
    pub fn level_at(&self, time_s: f64, hold_s: f64) -> f64 {
        let held = usize::from(self.held);
        if time_s > hold_s {
            let from = self.level_at(hold_s, hold_s);
            return self.along(held + 1, self.points.len(), from, time_s - hold_s);
        }
        let mut since_s = time_s - self.delay_s;
        if since_s < 0.0 {
            return 0.0;
        }
        let rise_s = self.rise_s();
        if let (Some(first), true) = (self.loop_from, since_s > rise_s) {
            let first = usize::from(first);
            let round: f64 = self.points[first..=held].iter().map(|p| p.time_s).sum();
            if round > 0.0 {
                since_s = libm::fmod(since_s - rise_s, round);
                return self.along(first, held + 1, self.points[held].level, since_s);
            }
        }
        self.along(0, held + 1, 0.0, since_s)
    }

    /// Level some time into a run of segments that starts at a level; at their end it stays.
    fn along(&self, first: usize, end: usize, mut from: f64, mut since_s: f64) -> f64 {
        for point in &self.points[first..end] {
            if since_s < point.time_s {
                let k = CURVATURE * point.curve;
                let t = since_s / point.time_s;
                let share = if k.abs() < 1e-3 {
                    t
                } else {
                    (1.0 - libm::exp(-k * t)) / (1.0 - libm::exp(-k))
                };
                return from + (point.level - from) * share;
            }
            since_s -= point.time_s;
            from = point.level;
        }
        from
    }

    /// A small picture: levels from the press to silence, the held part shortened.
    pub fn picture(&self, points: usize) -> Vec<f64> {
        let loops = if self.loop_from.is_some() { 2.0 } else { 0.2 };
        let hold_s = self.delay_s + self.rise_s() * (1.0 + loops);
        let end_s = (hold_s + self.release_s()).max(1e-3);
        let at = |i: usize| self.level_at(end_s * i as f64 / (points - 1) as f64, hold_s);
        (0..points).map(at).collect()
    }

    /// Checks counts and positions; ranges are the catalogue's.
    ///
    /// # Errors
    /// What is wrong, with its path below `path`.
    pub fn check(&self, path: &str) -> Result<(), PatchError> {
        let shape = |leaf: &str, problem: String| {
            Err(PatchError::Shape {
                path: format!("{path}.{leaf}"),
                problem,
            })
        };
        let count = self.points.len();
        if !(MIN_POINTS..=MAX_POINTS).contains(&count) {
            return shape("points", format!("has {count} points, 2 to 16 are allowed"));
        }
        if usize::from(self.held) + 1 >= count {
            return shape("held", "must have a point after it".into());
        }
        if self.loop_from.is_some_and(|from| from > self.held) {
            return shape("loop_from", "lies after the held point".into());
        }
        if self.points[count - 1].level != 0.0 {
            return shape(
                &format!("points[{}].level", count - 1),
                "is the end and must be 0".into(),
            );
        }
        Ok(())
    }

    /// The same course with a new point at a time, in seconds from the press, and a level. What lies after the
    /// held point counts from the release, `hold_s` after the press. The segment it falls into is split.
    ///
    /// # Errors
    /// If there are 16 points already.
    pub fn with_point(&self, time_s: f64, level: f64, hold_s: f64) -> Result<Envelope, PatchError> {
        if self.points.len() >= MAX_POINTS {
            return Err(PatchError::TooMany {
                path: "envelope.points".into(),
                max: MAX_POINTS,
                actual: MAX_POINTS + 1,
            });
        }
        let mut next = self.clone();
        let released = time_s > hold_s;
        let mut at = if released {
            usize::from(self.held) + 1
        } else {
            0
        };
        let mut from_s = if released { hold_s } else { self.delay_s };
        let last = if released {
            self.points.len() - 1
        } else {
            usize::from(self.held)
        };
        while at < last && from_s + self.points[at].time_s < time_s {
            from_s += self.points[at].time_s;
            at += 1;
        }
        let segment = self.points[at];
        let first_s = (time_s - from_s).clamp(0.0, Point::ROWS.params[Point::TIME_S.at()].max);
        let rest_s = (segment.time_s - first_s).max(0.0);
        // after the held level the new point is reached last, and becomes the one that is held
        let after = !released && from_s + segment.time_s < time_s;
        if after {
            let time_s = (first_s - segment.time_s).max(0.0);
            next.points.insert(at + 1, Point::new(time_s, level, 0.0));
        } else {
            next.points[at].time_s = rest_s;
            next.points
                .insert(at, Point::new(first_s, level, segment.curve));
        }
        if !released {
            next.held += 1;
            next.loop_from = self.loop_from.map(|l| l + u8::from(usize::from(l) > at));
        }
        Ok(next)
    }

    /// The same course without a point; the segments before and after it become one. The end stays.
    pub fn without_point(&self, at: usize) -> Option<Envelope> {
        let held = usize::from(self.held);
        let alone = at <= held && held == 0;
        if at + 1 >= self.points.len() || self.points.len() <= MIN_POINTS || alone {
            return None;
        }
        let mut next = self.clone();
        let gone = next.points.remove(at);
        if at != held {
            let most = Point::ROWS.params[Point::TIME_S.at()].max;
            let after = &mut next.points[at];
            after.time_s = (after.time_s + gone.time_s).min(most);
        }
        if at <= held {
            next.held -= 1;
        }
        next.loop_from = self.loop_from.map(|l| {
            let moved = if usize::from(l) > at { l - 1 } else { l };
            moved.min(next.held)
        });
        Some(next)
    }
}

/// A shape to start from.
#[derive(Debug, Clone, Copy)]
pub struct Ready {
    pub name: &'static str,
    points: &'static [Point],
    held: u8,
    loop_from: Option<u8>,
}

impl Ready {
    /// The envelope.
    pub fn envelope(&self) -> Envelope {
        Envelope {
            delay_s: 0.0,
            points: self.points.into(),
            held: self.held,
            loop_from: self.loop_from,
            in_beats: false,
        }
    }
}

const fn p(time_s: f64, level: f64, curve: f64) -> Point {
    Point::new(time_s, level, curve)
}

const fn ready(
    name: &'static str,
    points: &'static [Point],
    held: u8,
    loop_from: Option<u8>,
) -> Ready {
    Ready {
        name,
        points,
        held,
        loop_from,
    }
}

/// The shapes that come with the application.
#[rustfmt::skip]
pub const READY: &[Ready] = &[
    ready("Steady", &[p(0.005, 1.0, 0.0), p(0.0, 1.0, 0.0), p(0.05, 0.0, 0.3)], 1, None),
    ready("Plucked", &[p(0.001, 1.0, 0.0), p(0.9, 0.0, 0.6), p(0.3, 0.0, 0.5)], 1, None),
    ready("Mallet", &[p(0.001, 1.0, 0.0), p(0.06, 0.45, 0.6), p(1.6, 0.0, 0.5), p(0.6, 0.0, 0.5)], 2, None),
    ready("Long bell", &[p(0.001, 1.0, 0.0), p(5.0, 0.0, 0.55), p(3.0, 0.0, 0.5)], 1, None),
    ready("Tick", &[p(0.0, 1.0, 0.0), p(0.025, 0.0, 0.5), p(0.01, 0.0, 0.0)], 1, None),
    ready("Blown", &[p(0.08, 1.0, 0.3), p(0.15, 0.7, 0.4), p(0.12, 0.0, 0.4)], 1, None),
    ready("Bowed", &[p(0.35, 1.0, -0.3), p(0.8, 0.85, 0.0), p(0.4, 0.0, 0.4)], 1, None),
    ready("Slow dawn", &[p(2.5, 1.0, -0.2), p(1.0, 0.9, 0.0), p(3.0, 0.0, 0.4)], 1, None),
    ready("Swell and fall", &[p(1.2, 1.0, -0.5), p(1.8, 0.2, 0.4), p(0.8, 0.0, 0.5)], 1, None),
    ready("Backward", &[p(0.9, 1.0, -0.8), p(0.01, 0.0, 0.0), p(0.01, 0.0, 0.0)], 1, None),
    ready("Double strike", &[p(0.001, 1.0, 0.0), p(0.12, 0.1, 0.5), p(0.002, 0.8, 0.0), p(0.9, 0.0, 0.6), p(0.3, 0.0, 0.5)], 3, None),
    ready("Late bloom", &[p(0.02, 0.15, 0.0), p(0.8, 0.15, 0.0), p(1.2, 1.0, -0.4), p(1.0, 0.0, 0.4)], 2, None),
    ready("Ripple", &[p(0.02, 1.0, 0.0), p(0.12, 0.4, 0.2), p(0.12, 0.9, -0.2), p(0.4, 0.0, 0.4)], 2, Some(1)),
    ready("Chopper", &[p(0.002, 1.0, 0.0), p(0.1, 1.0, 0.0), p(0.002, 0.0, 0.0), p(0.12, 0.0, 0.0), p(0.02, 0.0, 0.0)], 3, Some(0)),
    ready("Afterglow", &[p(0.005, 1.0, 0.0), p(0.3, 0.5, 0.5), p(0.2, 0.7, -0.2), p(2.5, 0.0, 0.3)], 1, None),
];
