//! An envelope in values.

use serde::Serialize;
use zolvik_edit::Edit;
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::document::{Envelope, Point, Unit, UnitId};
use zolvik_patch::param::ParamId;

use super::value::{ValueView, value_view};

/// An envelope in values.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct EnvelopeView {
    /// Attack, decay, sustain, release; else a list of points.
    pub plain: bool,
    /// Time, level and curve of each point.
    pub points: Vec<PointView>,
    /// Whether times follow the tempo.
    pub in_beats: bool,
    /// Whether the held note goes round.
    pub loops: bool,
    /// Adds a point where the held note is half over, on the curve as it is.
    pub add: Edit,
    /// Other units whose envelopes are edited with it.
    pub linked: Vec<UnitId>,
    /// Whether they are made alike.
    pub equal: bool,
}

/// A point of an envelope.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct PointView {
    /// Time, level, curve; the end has no level.
    pub values: Vec<ValueView>,
    /// Held until the release.
    pub held: bool,
    /// The held note goes back here.
    pub looped: bool,
    /// Follows the release.
    pub released: bool,
}

/// Values of a unit's envelope, in the order they stand.
pub(crate) fn envelope_values(patch: &Patch, unit: &Unit) -> Vec<ValueView> {
    let points = envelope(patch, unit.id, &unit.envelope).points;
    points.into_iter().flat_map(|point| point.values).collect()
}

pub(super) fn envelope(patch: &Patch, id: UnitId, env: &Envelope) -> EnvelopeView {
    const PLAIN: [[&str; 3]; 3] = [
        ["Attack", "", "A curve"],
        ["Decay", "Sustain", "D curve"],
        ["Release", "", "R curve"],
    ];
    const PARAMS: [ParamId; 3] = [Point::TIME_S, Point::LEVEL, Point::CURVE];
    let plain = env.is_plain();
    let (linked, equal) = patch.linked(id);
    let point = |at: usize| {
        let value = |i: usize| {
            let mut view = value_view(patch, Address::point(id, at, PARAMS[i]))?;
            if plain {
                view.label = PLAIN[at][i].into();
            } else {
                view.label = format!("{} {}", view.label, at + 1);
            }
            let is_end = i == 1 && at + 1 == env.points.len();
            (!is_end && !view.label.is_empty()).then_some(view)
        };
        PointView {
            values: (0..3).filter_map(value).collect(),
            held: at == usize::from(env.held),
            looped: env.loop_from.is_some_and(|from| usize::from(from) == at),
            released: at > usize::from(env.held),
        }
    };
    let hold_s = patch.audition.hold_s;
    let time_s = 0.5 * hold_s;
    EnvelopeView {
        add: Edit::AddPoint {
            unit: id,
            time_s,
            level: env.level_at(time_s, hold_s),
        },
        plain,
        points: (0..env.points.len()).map(point).collect(),
        in_beats: env.in_beats,
        loops: env.loop_from.is_some(),
        linked,
        equal,
    }
}
