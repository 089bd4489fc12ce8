//! The patch as data. Field names are the file format; see `docs/patch-format.md`.

use std::sync::Arc;

use serde::{Deserialize, Serialize};

use crate::finish::{Effect, Finish};
use crate::ids::{EffectId, LinkId, RouteId, SourceId, UnitId};
use crate::movement::{Direction, Link, Movement, Source, SourceKind};
use crate::parts::envelope::Envelope;
use crate::parts::group::{EnvelopeLink, Group};
use crate::parts::route::{Route, Send};
use crate::parts::scale::Scale;
use crate::parts::sound::OwnSound;
use crate::parts::unit::Unit;
use crate::parts::voice::{Audition, Quality, VoiceSettings};
use crate::parts::wave::{OwnTable, TableId};
use crate::playing::Playing;

/// The format this version writes. Older formats are migrated by [`crate::json::read`].
pub const FORMAT: u32 = 11;

/// A whole patch.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct Patch {
    /// Format version, see [`FORMAT`].
    pub format: u32,
    /// Name and description.
    pub meta: Meta,
    /// What holds for every note.
    pub voice: VoiceSettings,
    /// The units in the order the user made them.
    pub units: Vec<Unit>,
    /// Who feeds whom.
    pub routes: Vec<Route>,
    /// Strips that belong together.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub groups: Vec<Group>,
    /// Sets of units whose envelopes are edited as one.
    #[serde(default, rename = "links", skip_serializing_if = "Vec::is_empty")]
    pub envelope_links: Vec<EnvelopeLink>,
    /// What moves, and what it moves.
    #[serde(default, skip_serializing_if = "Movement::is_empty")]
    pub movement: Movement,
    /// The phrase it is tried with, the beat beside it, the arpeggiator, and articulations.
    #[serde(default, skip_serializing_if = "Playing::is_plain")]
    pub playing: Playing,
    /// Chains of effects.
    #[serde(default, skip_serializing_if = "Finish::is_plain")]
    pub finish: Finish,
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
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
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
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
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

impl Patch {
    /// The patch with every group unfolded, in both states: folding is a way of looking, and changes nothing.
    pub fn unfolded(&self) -> Self {
        let mut patch = self.clone();
        patch
            .groups
            .iter_mut()
            .for_each(|group| group.folded = false);
        patch.other = patch.other.map(|other| Arc::new(other.unfolded()));
        patch
    }

    /// What of it sounds, in the state it is in: without the other one, and with nothing said about it. Two patches that differ in the rest alone
    /// sound and look the same.
    pub fn sounding(&self) -> Self {
        let here = Patch {
            other: None,
            ..self.clone()
        };
        Patch {
            slot: Slot::A,
            meta: Patch::empty().meta,
            ..here.unfolded()
        }
    }

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
            voice: VoiceSettings {
                quality: Quality::Auto,
                ..VoiceSettings::default()
            },
            units: vec![Unit::operator(id)],
            routes: vec![Route {
                id: RouteId(1),
                from: id,
                on: true,
                send: Send::output(),
            }],
            groups: vec![],
            envelope_links: vec![],
            movement: Movement::default(),
            playing: Playing::default(),
            finish: Finish::default(),
            tables: vec![],
            scale: None,
            slot: Slot::A,
            other: None,
            audition: Audition::default(),
        }
    }

    /// Its units and those of the kept state.
    pub fn all_units(&self) -> impl Iterator<Item = &Unit> {
        let other = self.other.iter().flat_map(|other| &other.units);
        self.units.iter().chain(other)
    }

    /// Contents of the recordings it plays that were brought in, each once; those of the kept state too.
    pub fn contents(&self) -> Vec<String> {
        let own = self.own_sounds().into_iter();
        own.map(|sound| sound.content).collect()
    }

    /// The recordings it plays that were brought in, each once; those of the kept state too.
    pub fn own_sounds(&self) -> Vec<OwnSound> {
        let own = self.all_units().filter_map(Unit::own_sound);
        let mut list: Vec<OwnSound> = own.cloned().collect();
        list.sort_unstable_by(|a, b| a.content.cmp(&b.content));
        list.dedup_by(|a, b| a.content == b.content);
        list
    }

    /// The patch as it is computed for files: at the quality chosen for them. A file takes the time it takes, so that one that is left
    /// open is a high one throughout.
    pub fn for_files(&self) -> Patch {
        let mut patch = self.clone();
        if let Some(quality) = patch.voice.render_quality {
            patch.voice.quality = quality;
        }
        if patch.voice.quality == Quality::Auto {
            patch.voice.quality = Quality::X4;
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

    /// The envelope of a strip: of a unit, or of a source that is one.
    pub fn envelope(&self, id: UnitId) -> Option<&Envelope> {
        match id.source() {
            None => self.unit(id).map(|u| &u.envelope),
            Some(source) => match &self.source(source)?.kind {
                SourceKind::Envelope(envelope) => Some(envelope),
                _ => None,
            },
        }
    }

    /// The same, for changing.
    pub fn envelope_mut(&mut self, id: UnitId) -> Option<&mut Envelope> {
        match id.source() {
            None => self.unit_mut(id).map(|u| &mut u.envelope),
            Some(source) => match &mut self.source_mut(source)?.kind {
                SourceKind::Envelope(envelope) => Some(envelope),
                _ => None,
            },
        }
    }

    /// The route with this number.
    pub fn route(&self, id: RouteId) -> Option<&Route> {
        self.routes.iter().find(|r| r.id == id)
    }

    /// The units whose envelopes are linked with one's, itself left out, and whether they are made alike.
    pub fn linked(&self, unit: UnitId) -> (Vec<UnitId>, bool) {
        match self.envelope_links.iter().find(|l| l.units.contains(&unit)) {
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

    /// How strong a route is, as [`Send::strength`], with its group's level on all that leaves the group as sound.
    pub fn strength(&self, route: &Route) -> f64 {
        route.send.strength() * self.group_gain(route)
    }

    /// Gain of the group a route leaves as sound; 1 where it leaves none.
    pub fn group_gain(&self, route: &Route) -> f64 {
        match self.group_of(route.from) {
            Some(group) if self.leaves(route, group) => group.gain(),
            _ => 1.0,
        }
    }

    /// Whether a route carries sound out of a group.
    pub fn leaves(&self, route: &Route, group: &Group) -> bool {
        let inside = route
            .send
            .target()
            .is_some_and(|to| group.units.contains(&to));
        group.units.contains(&route.from) && route.send.is_way_out() && !inside
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

    /// The number of a new route: above all others, so that it is taken up after them (see [`crate::laws::order`]); the lowest free one where
    /// there is none above.
    pub fn free_route(&self) -> RouteId {
        let last = self.routes.iter().map(|r| r.id.0).max().unwrap_or(0);
        let lowest = || (1..).find(|n| self.route(RouteId(*n)).is_none());
        RouteId(last.checked_add(1).or_else(lowest).unwrap_or(1))
    }
}

/// What moves.
impl Patch {
    /// The source with this number.
    pub fn source(&self, id: SourceId) -> Option<&Source> {
        self.movement.sources.iter().find(|s| s.id == id)
    }

    /// The source with this number, for changing.
    pub fn source_mut(&mut self, id: SourceId) -> Option<&mut Source> {
        self.movement.sources.iter_mut().find(|s| s.id == id)
    }

    /// The link with this number.
    pub fn link(&self, id: LinkId) -> Option<&Link> {
        self.movement.links.iter().find(|l| l.id == id)
    }

    /// The link with this number, for changing.
    pub fn link_mut(&mut self, id: LinkId) -> Option<&mut Link> {
        self.movement.links.iter_mut().find(|l| l.id == id)
    }

    /// The links that begin at a source.
    pub fn links_of(&self, id: SourceId) -> impl Iterator<Item = &Link> {
        self.movement.links.iter().filter(move |l| l.from == id)
    }

    /// Whether some link takes a source both ways, so that its middle is rest.
    pub fn swings(&self, id: SourceId) -> bool {
        self.links_of(id).any(|l| l.direction == Direction::Both)
    }

    /// The lowest free number of a source.
    pub fn free_source(&self) -> SourceId {
        let free = |n: &u16| self.source(SourceId(*n)).is_none();
        let found = (SourceId::FIRST..=SourceId::LAST).find(free);
        SourceId(found.unwrap_or(SourceId::FIRST))
    }

    /// The number of a new link, above all others.
    pub fn free_link(&self) -> LinkId {
        let last = self.movement.links.iter().map(|l| l.id.0).max();
        let lowest = || (1..).find(|n| self.link(LinkId(*n)).is_none());
        let next = last.unwrap_or(0).checked_add(1);
        LinkId(next.or_else(lowest).unwrap_or(1))
    }
}

/// Effects.
impl Patch {
    /// The effect with this number.
    pub fn effect(&self, id: EffectId) -> Option<&Effect> {
        self.finish.effects().find(|e| e.id == id)
    }

    /// The effect with this number, for changing.
    pub fn effect_mut(&mut self, id: EffectId) -> Option<&mut Effect> {
        let (chain, at) = self.finish.place(id)?;
        self.finish.chain_mut(chain).effects.get_mut(at)
    }

    /// The lowest free number of an effect.
    pub fn free_effect(&self) -> EffectId {
        let mut free = EffectId::FIRST..=EffectId::LAST;
        let found = free.find(|n| self.effect(EffectId(*n)).is_none());
        EffectId(found.unwrap_or(EffectId::FIRST))
    }
}
