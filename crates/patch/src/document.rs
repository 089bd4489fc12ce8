//! The patch as data. Field names are the file format; see `docs/patch-format.md`.

use std::sync::Arc;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

pub use crate::envelope::{Envelope, Point};
use crate::scale::Scale;
use crate::sound::{OwnSound, Sound};
pub use crate::units::*;
pub use crate::voice::*;
use crate::wave::{OwnTable, TableId};

/// The format this version writes. Older formats are migrated by [`crate::json::read`].
pub const FORMAT: u32 = 4;
/// Most units a patch may hold.
pub const MAX_UNITS: usize = 16;
/// Most routes a patch may hold: as many as every unit into every unit, and each into the output.
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

/// Number of a group, stable for the life of the patch.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, JsonSchema,
)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct GroupId(pub u16);

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
    /// Strips that belong together.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub groups: Vec<Group>,
    /// Sets of units whose envelopes are edited as one.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub links: Vec<EnvelopeLink>,
    /// Tables imported into the patch.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub tables: Vec<OwnTable>,
    /// Which frequency each key has; none for equal temperament with A4 = 440 Hz.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub scale: Option<Scale>,
    /// With which note the patch is tried and drawn.
    pub audition: Audition,
    /// Which of two states this is.
    #[serde(default)]
    pub slot: Slot,
    /// The other state, kept to flip to; it holds no other in turn. Shared, since documents are copied at every edit.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub other: Option<Arc<Patch>>,
}

/// One of two states of a patch, to be compared.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum Slot {
    /// The first.
    #[default]
    A,
    /// The second.
    B,
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
    /// How far velocity scales the times of its envelope: 1 makes hard strokes a quarter as long, -1 four times.
    #[serde(default)]
    pub velocity_times: f64,
    /// Change of its output per octave above C4, in decibels.
    #[serde(default)]
    pub key_level_db: f64,
    /// How far the key scales the times of its envelope: 1 halves them with each octave above C4.
    #[serde(default)]
    pub key_times: f64,
    /// Its own course in time.
    pub envelope: Envelope,
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
    /// Moves the frequency of a unit, evenly up and down and through zero.
    Frequency {
        /// The unit moved.
        to: UnitId,
        /// Greatest change, as a multiple of the target's own frequency.
        deviation: f64,
    },
    /// Multiplies a unit's sound.
    Ring {
        /// The unit multiplied.
        to: UnitId,
        /// Share of the product: 0 leaves the target as it is, 1 is the product alone.
        mix: f64,
    },
    /// Makes a unit's sound rise and fall.
    Amplitude {
        /// The unit moved.
        to: UnitId,
        /// How far, 0 to 1: the factor is `1 + amount * source`.
        amount: f64,
    },
    /// Goes into a filter or shaper.
    Audio {
        /// The unit that takes it.
        to: UnitId,
        /// How much of it, in decibels; the lowest value of the range is nothing.
        pass_db: f64,
    },
    /// Is heard.
    Output {
        /// Level in decibels; the lowest value of the range is silence.
        level_db: f64,
        /// -1 left, 0 centre, 1 right.
        pan: f64,
        /// Which way out it takes.
        #[serde(default)]
        bus: Bus,
    },
}

/// Which way out a sound takes.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    PartialOrd,
    Ord,
    Hash,
    Default,
    Serialize,
    Deserialize,
    JsonSchema,
)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum Bus {
    /// Through the main chain of effects.
    #[default]
    Main,
    /// Through the second chain.
    Second,
    /// Past all effects.
    Clean,
}

/// What a route does at its target.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    PartialOrd,
    Ord,
    Hash,
    Default,
    Serialize,
    Deserialize,
    JsonSchema,
)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum RouteKind {
    /// Moves the phase.
    #[default]
    Phase,
    /// Moves the frequency through zero.
    Frequency,
    /// Multiplies.
    Ring,
    /// Moves the level.
    Amplitude,
    /// Is what it works on.
    Audio,
}

impl RouteKind {
    /// All kinds, the commonest first.
    pub const ALL: [RouteKind; 5] = [
        RouteKind::Phase,
        RouteKind::Frequency,
        RouteKind::Ring,
        RouteKind::Amplitude,
        RouteKind::Audio,
    ];

    /// As it is called on the screen.
    pub fn label(self) -> &'static str {
        match self {
            RouteKind::Phase => "phase",
            RouteKind::Frequency => "frequency",
            RouteKind::Ring => "ring",
            RouteKind::Amplitude => "amplitude",
            RouteKind::Audio => "audio",
        }
    }
}

/// Units whose envelopes are edited as one. A unit is in one link at most.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct EnvelopeLink {
    /// At least two.
    pub units: Vec<UnitId>,
    /// Whether all are made alike; else each keeps its difference.
    pub equal: bool,
}

/// Units that are named, folded, muted, soloed and levelled together. A unit is in one group at most.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct Group {
    /// Stable number.
    pub id: GroupId,
    /// The user's name for it, 1 to 40 characters.
    pub name: String,
    /// Who belongs to it.
    pub units: Vec<UnitId>,
    /// Whether its strips are drawn as one.
    pub folded: bool,
    /// Level of everything its units send to the output, in decibels.
    pub level_db: f64,
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
    /// Beats a minute, for what is tied to the tempo.
    #[serde(default = "tempo_default")]
    pub tempo_bpm: f64,
}

fn tempo_default() -> f64 {
    crate::catalogue::default(crate::catalogue::ParamId::AuditionTempoBpm)
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
            voice: Voice::default(),
            units: vec![Unit::operator(id)],
            routes: vec![Route {
                id: RouteId(1),
                from: id,
                on: true,
                send: Send::output(),
            }],
            groups: vec![],
            links: vec![],
            tables: vec![],
            scale: None,
            slot: Slot::A,
            other: None,
            audition: Audition {
                note: 57,
                velocity: 96,
                hold_s: 1.5,
                window_s: 3.0,
                tempo_bpm: tempo_default(),
            },
        }
    }

    /// Its units and those of the kept state.
    pub fn all_units(&self) -> impl Iterator<Item = &Unit> {
        let other = self.other.iter().flat_map(|other| &other.units);
        self.units.iter().chain(other)
    }

    /// Contents of the recordings it plays that were brought in, each once; those of the kept state too.
    pub fn contents(&self) -> Vec<String> {
        let own = self.all_units().filter_map(Unit::own_sound);
        let mut list: Vec<String> = own.map(|sound| sound.content.clone()).collect();
        list.sort_unstable();
        list.dedup();
        list
    }

    /// The patch as it is computed for files: at the quality chosen for them.
    pub fn for_files(&self) -> Patch {
        let mut patch = self.clone();
        if let Some(quality) = patch.voice.render_quality {
            patch.voice.quality = quality;
        }
        patch
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

    /// The units whose envelopes are linked with one's, itself left out, and whether they are made alike.
    pub fn linked(&self, unit: UnitId) -> (Vec<UnitId>, bool) {
        match self.links.iter().find(|l| l.units.contains(&unit)) {
            Some(link) => {
                let others = link.units.iter().filter(|u| **u != unit);
                (others.copied().collect(), link.equal)
            }
            None => (vec![], false),
        }
    }

    /// The group a unit belongs to.
    pub fn group_of(&self, unit: UnitId) -> Option<&Group> {
        self.groups.iter().find(|g| g.units.contains(&unit))
    }

    /// Factor of everything a unit sends to the output, from its group's level.
    pub fn group_gain(&self, unit: UnitId) -> f64 {
        let group = self.group_of(unit);
        group.map_or(1.0, |g| crate::catalogue::group_gain(g.level_db))
    }

    /// The imported table with this number.
    pub fn table(&self, id: TableId) -> Option<&OwnTable> {
        self.tables.iter().find(|t| t.id == id)
    }

    /// The lowest free table number.
    pub fn free_table(&self) -> TableId {
        TableId(
            (1..)
                .find(|n| self.table(TableId(*n)).is_none())
                .unwrap_or(1),
        )
    }

    /// The routes that start at a unit.
    pub fn sends(&self, id: UnitId) -> impl Iterator<Item = &Route> {
        self.routes.iter().filter(move |r| r.from == id)
    }

    /// Whether a unit is heard itself: straight, or through filters and shapers. Switches and levels do not count.
    pub fn sounds(&self, id: UnitId) -> bool {
        let (mut open, mut seen) = (vec![id], vec![]);
        while let Some(id) = open.pop() {
            if seen.contains(&id) {
                continue;
            }
            seen.push(id);
            for route in self.sends(id) {
                match route.send {
                    Send::Output { .. } => return true,
                    Send::Audio { to, .. } => open.push(to),
                    _ => {}
                }
            }
        }
        false
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
    /// A new operator: a sine at the key's pitch, held while the key is held.
    pub fn operator(id: UnitId) -> Self {
        Unit::new(id, KindName::Operator)
    }

    /// A new unit of a kind.
    pub fn new(id: UnitId, kind: KindName) -> Self {
        use crate::catalogue::{ParamId as P, default};
        let mut envelope = Envelope::default();
        if kind == KindName::Sample {
            // a recording has its own attack; this one only ends it
            for point in envelope.points.iter_mut().take(2) {
                (point.time_s, point.level) = (0.0, 1.0);
            }
        }
        Unit {
            id,
            name: format!("{} {}", kind.label(), id.0),
            on: true,
            kind: kind.make(),
            velocity: default(P::UnitVelocity),
            velocity_times: default(P::UnitVelocityTimes),
            key_level_db: default(P::UnitKeyLevelDb),
            key_times: default(P::UnitKeyTimes),
            envelope,
        }
    }

    /// The recording it plays, if that was brought in.
    pub fn own_sound(&self) -> Option<&OwnSound> {
        match &self.kind {
            UnitKind::Sample(sample) => match &sample.sound {
                Sound::Own(own) => Some(own),
                Sound::Ready(_) => None,
            },
            _ => None,
        }
    }

    /// Its tuning and wave, if it is an operator.
    pub fn oscillator(&self) -> Option<&Operator> {
        match &self.kind {
            UnitKind::Operator(operator) => Some(operator),
            _ => None,
        }
    }

    /// Its tuning and wave, for changing, if it is an operator.
    pub fn oscillator_mut(&mut self) -> Option<&mut Operator> {
        match &mut self.kind {
            UnitKind::Operator(operator) => Some(operator),
            _ => None,
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
            bus: Bus::Main,
        }
    }

    /// A new route into a unit's phase, gentle at first.
    pub fn phase(to: UnitId) -> Self {
        Send::to_unit(RouteKind::Phase, to)
    }

    /// A new route into a unit, gentle at first.
    pub fn to_unit(kind: RouteKind, to: UnitId) -> Self {
        use crate::catalogue::{ParamId as P, default};
        match kind {
            RouteKind::Phase => Send::Phase {
                to,
                index_rad: default(P::RouteIndexRad),
            },
            RouteKind::Frequency => Send::Frequency {
                to,
                deviation: default(P::RouteDeviation),
            },
            RouteKind::Ring => Send::Ring {
                to,
                mix: default(P::RouteMix),
            },
            RouteKind::Amplitude => Send::Amplitude {
                to,
                amount: default(P::RouteAmount),
            },
            RouteKind::Audio => Send::Audio {
                to,
                pass_db: default(P::RoutePassDb),
            },
        }
    }

    /// What it does at its target; none for the output.
    pub fn kind(&self) -> Option<RouteKind> {
        match self {
            Send::Phase { .. } => Some(RouteKind::Phase),
            Send::Frequency { .. } => Some(RouteKind::Frequency),
            Send::Ring { .. } => Some(RouteKind::Ring),
            Send::Amplitude { .. } => Some(RouteKind::Amplitude),
            Send::Audio { .. } => Some(RouteKind::Audio),
            Send::Output { .. } => None,
        }
    }

    /// The unit it leads to; none for the output.
    pub fn target(&self) -> Option<UnitId> {
        match self {
            Send::Phase { to, .. }
            | Send::Frequency { to, .. }
            | Send::Ring { to, .. }
            | Send::Amplitude { to, .. }
            | Send::Audio { to, .. } => Some(*to),
            Send::Output { .. } => None,
        }
    }

    /// Leads it to another unit; a route to the output stays one.
    pub fn redirect(&mut self, target: UnitId) {
        match self {
            Send::Phase { to, .. }
            | Send::Frequency { to, .. }
            | Send::Ring { to, .. }
            | Send::Amplitude { to, .. }
            | Send::Audio { to, .. } => *to = target,
            Send::Output { .. } => {}
        }
    }
}
