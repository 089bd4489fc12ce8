//! The envelope as handles on the drawing: where they are, and what dragging one means.

use serde::{Deserialize, Serialize};

use crate::address::Address;
use crate::catalogue::{ParamId, param};
use crate::document::{Patch, UnitId};
use crate::edit::Edit;

/// How strongly full curvature bends a segment: `(1 - e^(-k t)) / (1 - e^-k)` with `k = BEND * curve`.
pub const BEND: f64 = 6.0;

/// A point one can drag.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum HandleKind {
    /// End of the attack; moves in time.
    Attack,
    /// Middle of the attack; bends it.
    AttackBend,
    /// End of the decay; moves in time and sets the sustain level.
    Decay,
    /// Middle of the decay; bends it.
    DecayBend,
    /// End of the release; moves in time.
    Release,
    /// Middle of the release; bends it.
    ReleaseBend,
}

/// A point with its place in the drawing.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Handle {
    /// Which point.
    pub kind: HandleKind,
    /// From the press, in seconds.
    pub time_s: f64,
    /// 0 to 1.
    pub level: f64,
}

/// Share of a segment covered at its middle.
fn middle(curve: f64) -> f64 {
    1.0 / (1.0 + libm::exp(-0.5 * BEND * curve))
}

/// The curvature that covers this share at the middle; the inverse of [`middle`].
fn curve_of(share: f64) -> f64 {
    let share = share.clamp(0.001, 0.999);
    (-2.0 * libm::log(1.0 / share - 1.0) / BEND).clamp(-1.0, 1.0)
}

/// The handles of a unit's envelope for the auditioned note; empty if there is no such unit.
pub fn handles(patch: &Patch, unit: UnitId) -> Vec<Handle> {
    let Some(env) = patch.unit(unit).map(|u| &u.envelope) else {
        return vec![];
    };
    let hold_s = patch.audition.hold_s;
    let decayed_s = env.attack_s + env.decay_s;
    let at = |kind, time_s, level| Handle {
        kind,
        time_s,
        level,
    };
    let fallen = |curve| 1.0 - (1.0 - env.sustain) * middle(curve);
    vec![
        at(
            HandleKind::AttackBend,
            env.attack_s / 2.0,
            middle(env.attack_curve),
        ),
        at(HandleKind::Attack, env.attack_s, 1.0),
        at(
            HandleKind::DecayBend,
            env.attack_s + env.decay_s / 2.0,
            fallen(env.decay_curve),
        ),
        at(HandleKind::Decay, decayed_s, env.sustain),
        at(
            HandleKind::ReleaseBend,
            hold_s + env.release_s / 2.0,
            env.sustain * (1.0 - middle(env.release_curve)),
        ),
        at(HandleKind::Release, hold_s + env.release_s, 0.0),
    ]
}

/// The edit that puts a handle at a time and level; what lies outside the ranges is pulled in.
pub fn drag(
    patch: &Patch,
    unit: UnitId,
    kind: HandleKind,
    time_s: f64,
    level: f64,
) -> Option<Edit> {
    let env = &patch.unit(unit)?.envelope;
    let fall = (1.0 - env.sustain).max(1e-6);
    let values = match kind {
        HandleKind::Attack => vec![(ParamId::EnvelopeAttackS, time_s)],
        HandleKind::Decay => vec![
            (ParamId::EnvelopeDecayS, time_s - env.attack_s),
            (ParamId::EnvelopeSustain, level),
        ],
        HandleKind::Release => vec![(ParamId::EnvelopeReleaseS, time_s - patch.audition.hold_s)],
        HandleKind::AttackBend => vec![(ParamId::EnvelopeAttackCurve, curve_of(level))],
        HandleKind::DecayBend => {
            vec![(ParamId::EnvelopeDecayCurve, curve_of((1.0 - level) / fall))]
        }
        HandleKind::ReleaseBend => {
            vec![(
                ParamId::EnvelopeReleaseCurve,
                curve_of(1.0 - level / env.sustain.max(1e-6)),
            )]
        }
    };
    let set = |(id, value): (ParamId, f64)| {
        let row = param(id);
        let value = if value.is_finite() {
            value.clamp(row.min, row.max)
        } else {
            row.default
        };
        Edit::SetValue {
            address: Address::unit(unit, id),
            value: if row.quantity == crate::catalogue::Quantity::Seconds {
                row.tidy(value)
            } else {
                (value * 1000.0).round() / 1000.0
            },
        }
    };
    Some(Edit::Together {
        label: "envelope".into(),
        edits: values.into_iter().map(set).collect(),
    })
}
