//! The patch as data. Field names are the file format; see `docs/patch-format.md`.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// The format this version writes. Older formats are migrated by [`crate::json::read`].
pub const FORMAT: u32 = 1;
/// Most units a patch may hold.
pub const MAX_UNITS: usize = 16;
/// Most routes a patch may hold: every unit into every unit, and each into the output.
pub const MAX_ROUTES: usize = MAX_UNITS * (MAX_UNITS + 1);

/// Number of a unit, stable for the life of the patch, 1 to 999. Shown on the strip.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, JsonSchema,
)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct UnitId(pub u16);

/// Number of a route, stable for the life of the patch.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, JsonSchema,
)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct RouteId(pub u16);

/// A whole patch.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct Patch {
    /// Format version, see [`FORMAT`].
    pub format: u32,
    /// Name and description.
    pub meta: Meta,
    /// What holds for every note.
    pub voice: Voice,
    /// The units in the order the user made them.
    pub units: Vec<Unit>,
    /// Who feeds whom.
    pub routes: Vec<Route>,
    /// With which note the patch is tried and drawn.
    pub audition: Audition,
}

/// Name and description of a patch.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct Meta {
    /// Name, 1 to 80 characters.
    pub name: String,
    /// Up to 16 short words for finding it again.
    pub tags: Vec<String>,
    /// How to play it, up to 2000 characters.
    pub note: String,
}

/// What holds for every note of the patch.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct Voice {
    /// Notes that sound at once, 1 to 32.
    pub polyphony: u8,
    /// Level of the whole patch, in decibels.
    pub trim_db: f64,
}

/// One unit: something with an envelope that sounds or shapes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct Unit {
    /// Stable number.
    pub id: UnitId,
    /// The user's name for it, 1 to 40 characters.
    pub name: String,
    /// Whether it takes part.
    pub on: bool,
    /// What it is.
    pub kind: UnitKind,
    /// How far velocity scales its output: 0 not at all, 1 fully.
    pub velocity: f64,
    /// Its own course in time.
    pub envelope: Envelope,
}

/// What a unit is. More kinds will follow.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum UnitKind {
    /// A sine oscillator whose phase other units may move.
    Operator(Operator),
}

/// Tuning of an operator. Its frequency is `key * ratio * 2^(detune/1200) + offset`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct Operator {
    /// Multiple of the key's frequency.
    pub ratio: f64,
    /// Fine tuning in cents.
    pub detune_cents: f64,
    /// Constant offset in hertz, the same on every key.
    pub offset_hz: f64,
}

/// Attack, decay, sustain, release, each moving segment with a curvature.
///
/// Curvature -1 starts slowly and ends fast, 0 is a straight line, 1 starts fast and ends slowly.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct Envelope {
    /// From the press to full, in seconds.
    pub attack_s: f64,
    /// Curvature of the attack, -1 to 1.
    pub attack_curve: f64,
    /// From full to the sustain level, in seconds.
    pub decay_s: f64,
    /// Curvature of the decay, -1 to 1.
    pub decay_curve: f64,
    /// Level held until the release, 0 to 1.
    pub sustain: f64,
    /// From the release to silence, in seconds.
    pub release_s: f64,
    /// Curvature of the release, -1 to 1.
    pub release_curve: f64,
}

/// A way from one unit to another or to the output.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct Route {
    /// Stable number.
    pub id: RouteId,
    /// The source.
    pub from: UnitId,
    /// Whether it takes part.
    pub on: bool,
    /// Where it goes, and how strongly.
    pub send: Send,
}

/// Where a route goes, and how strongly.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum Send {
    /// Moves the phase of another unit, or of itself (feedback).
    Phase {
        /// The unit moved.
        to: UnitId,
        /// Modulation index: greatest phase shift in radians.
        index_rad: f64,
    },
    /// Is heard.
    Output {
        /// Level in decibels; the lowest value of the range is silence.
        level_db: f64,
        /// -1 left, 0 centre, 1 right.
        pan: f64,
    },
}

/// With which note the patch is tried and drawn.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct Audition {
    /// MIDI key, 0 to 127; A4 is 69.
    pub note: u8,
    /// How hard, 1 to 127.
    pub velocity: u8,
    /// How long it is held, in seconds.
    pub hold_s: f64,
    /// How much time the drawing spans, in seconds.
    pub window_s: f64,
}

impl Patch {
    /// The patch one starts from: a plain sine, audible at the first key.
    pub fn empty() -> Self {
        let id = UnitId(1);
        Patch {
            format: FORMAT,
            meta: Meta {
                name: "Untitled".into(),
                tags: vec![],
                note: String::new(),
            },
            voice: Voice {
                polyphony: 16,
                trim_db: 0.0,
            },
            units: vec![Unit::operator(id)],
            routes: vec![Route {
                id: RouteId(1),
                from: id,
                on: true,
                send: Send::output(),
            }],
            audition: Audition {
                note: 57,
                velocity: 96,
                hold_s: 1.5,
                window_s: 3.0,
            },
        }
    }

    /// The unit with this number.
    pub fn unit(&self, id: UnitId) -> Option<&Unit> {
        self.units.iter().find(|u| u.id == id)
    }

    /// The unit with this number, for changing.
    pub fn unit_mut(&mut self, id: UnitId) -> Option<&mut Unit> {
        self.units.iter_mut().find(|u| u.id == id)
    }

    /// The route with this number.
    pub fn route(&self, id: RouteId) -> Option<&Route> {
        self.routes.iter().find(|r| r.id == id)
    }

    /// The routes that start at a unit.
    pub fn sends(&self, id: UnitId) -> impl Iterator<Item = &Route> {
        self.routes.iter().filter(move |r| r.from == id)
    }

    /// The lowest free unit number.
    pub fn free_unit(&self) -> UnitId {
        UnitId((1..).find(|n| self.unit(UnitId(*n)).is_none()).unwrap_or(1))
    }

    /// The lowest free route number.
    pub fn free_route(&self) -> RouteId {
        RouteId(
            (1..)
                .find(|n| self.route(RouteId(*n)).is_none())
                .unwrap_or(1),
        )
    }
}

impl Unit {
    /// A new unit of this kind: a sine at the key's pitch, held while the key is held.
    pub fn operator(id: UnitId) -> Self {
        use crate::catalogue::{ParamId as P, default};
        Unit {
            id,
            name: format!("Operator {}", id.0),
            on: true,
            kind: UnitKind::Operator(Operator {
                ratio: default(P::OperatorRatio),
                detune_cents: default(P::OperatorDetuneCents),
                offset_hz: default(P::OperatorOffsetHz),
            }),
            velocity: default(P::UnitVelocity),
            envelope: Envelope {
                attack_s: default(P::EnvelopeAttackS),
                attack_curve: default(P::EnvelopeAttackCurve),
                decay_s: default(P::EnvelopeDecayS),
                decay_curve: default(P::EnvelopeDecayCurve),
                sustain: default(P::EnvelopeSustain),
                release_s: default(P::EnvelopeReleaseS),
                release_curve: default(P::EnvelopeReleaseCurve),
            },
        }
    }

    /// Its tuning.
    pub fn tuning(&self) -> &Operator {
        match &self.kind {
            UnitKind::Operator(operator) => operator,
        }
    }
}

impl Send {
    /// A new route to the output, at a level that is never too loud.
    pub fn output() -> Self {
        use crate::catalogue::{ParamId as P, default};
        Send::Output {
            level_db: default(P::RouteLevelDb),
            pan: default(P::RoutePan),
        }
    }

    /// A new route into a unit's phase, gentle at first.
    pub fn phase(to: UnitId) -> Self {
        use crate::catalogue::{ParamId as P, default};
        Send::Phase {
            to,
            index_rad: default(P::RouteIndexRad),
        }
    }

    /// The unit it leads to; none for the output.
    pub fn target(&self) -> Option<UnitId> {
        match self {
            Send::Phase { to, .. } => Some(*to),
            Send::Output { .. } => None,
        }
    }
}
