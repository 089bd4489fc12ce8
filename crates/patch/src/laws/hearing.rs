//! What is listened to, and what of a patch is then heard.

use crate::ids::{ChainId, EffectId, LinkId, RouteId, SourceId, UnitId};
use crate::movement::Link;
use crate::movement::amount::swept;
use crate::params::address::Address;
use crate::params::catalogue::param;
use crate::parts::route::{Bus, Route, RouteKind, Send};
use crate::patch::Patch;
use std::collections::BTreeSet;

use serde::{Deserialize, Serialize};

/// Filters and shapers in a row that ways are followed through.
const DEEPEST: usize = 5;

/// What the listener has muted or soloed for now. Never part of the document.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Listening {
    /// Units that put out nothing.
    pub muted: BTreeSet<UnitId>,
    /// If not empty, only these are heard; what modulates them still does.
    pub soloed: BTreeSet<UnitId>,
    /// Units heard as if nothing moved them; filters and shapers let everything through unchanged.
    #[serde(default)]
    pub bypassed: BTreeSet<UnitId>,
    /// Routes that pass nothing.
    #[serde(default)]
    pub muted_routes: BTreeSet<RouteId>,
    /// Of the routes that arrive where one of these does, only these pass.
    #[serde(default)]
    pub soloed_routes: BTreeSet<RouteId>,
    /// Sources that move nothing.
    #[serde(default)]
    pub muted_sources: BTreeSet<SourceId>,
    /// If not empty, only these sources move anything.
    #[serde(default)]
    pub soloed_sources: BTreeSet<SourceId>,
    /// Links that move nothing.
    #[serde(default)]
    pub muted_links: BTreeSet<LinkId>,
    /// If not empty, only these links move anything.
    #[serde(default)]
    pub soloed_links: BTreeSet<LinkId>,
    /// Chains of effects that are not heard.
    #[serde(default)]
    pub muted_chains: BTreeSet<ChainId>,
    /// If not empty, only what goes through these chains is heard.
    #[serde(default)]
    pub soloed_chains: BTreeSet<ChainId>,
    /// Effects after this one do nothing.
    #[serde(default)]
    pub up_to: Option<EffectId>,
    /// A band of an EQ, by its position, that is heard alone.
    #[serde(default)]
    pub band_alone: Option<(EffectId, u8)>,
}

impl Listening {
    /// Whether nothing is muted, soloed or bypassed.
    pub fn is_plain(&self) -> bool {
        *self == Listening::default()
    }

    /// Forgets what the patch no longer has.
    pub fn keep_known(&mut self, patch: &Patch) {
        let unit = |id: &UnitId| {
            patch.unit(*id).is_some() || id.effect().is_some_and(|e| patch.effect(e).is_some())
        };
        self.band_alone = self.band_alone.filter(|(id, at)| {
            let effect = patch.effect(*id);
            effect.is_some_and(|e| usize::from(*at) < e.bands().len())
        });
        self.up_to = self.up_to.filter(|id| patch.effect(*id).is_some());
        let route = |id: &RouteId| patch.route(*id).is_some();
        self.muted.retain(unit);
        self.soloed.retain(unit);
        self.bypassed.retain(unit);
        self.muted_routes.retain(route);
        self.soloed_routes.retain(route);
        let source = |id: &SourceId| patch.source(*id).is_some();
        let link = |id: &LinkId| patch.link(*id).is_some();
        self.muted_sources.retain(source);
        self.soloed_sources.retain(source);
        self.muted_links.retain(link);
        self.soloed_links.retain(link);
    }

    /// Whether a chain is heard for now. What is soloed is heard through the common one.
    pub fn hears_chain(&self, id: ChainId) -> bool {
        let soloed = self.soloed_chains.is_empty()
            || self.soloed_chains.contains(&id)
            || id == ChainId::Common;
        soloed && !self.muted_chains.contains(&id)
    }

    /// Whether the clean way is heard for now.
    pub fn hears_clean(&self) -> bool {
        self.soloed_chains.is_empty()
    }

    /// Whether a link moves anything for now; whether it is switched on is the document's.
    pub fn lets_move(&self, patch: &Patch, link: &Link) -> bool {
        let on = patch.source(link.from).is_some_and(|s| s.on);
        let soloed =
            |id: &SourceId| self.soloed_sources.is_empty() || self.soloed_sources.contains(id);
        let link_soloed = self.soloed_links.is_empty() || self.soloed_links.contains(&link.id);
        on && soloed(&link.from)
            && link_soloed
            && !self.muted_sources.contains(&link.from)
            && !self.muted_links.contains(&link.id)
    }

    /// The same without some units: sources fall silent, filters and shapers let everything through. Gives the units that this
    /// changes.
    pub fn without(&self, patch: &Patch, units: &[UnitId]) -> (Listening, BTreeSet<UnitId>) {
        let mut next = self.clone();
        let mut changed = BTreeSet::new();
        let sources = units.iter().filter_map(|id| id.source());
        for source in sources.filter(|id| patch.source(*id).is_some()) {
            if next.muted_sources.insert(source) {
                changed.insert(source.into());
            }
        }
        for effect in units.iter().filter_map(|id| id.effect()) {
            if patch.effect(effect).is_some() && next.bypassed.insert(effect.into()) {
                changed.insert(effect.into());
            }
        }
        for unit in units.iter().filter_map(|id| patch.unit(*id)) {
            let list = match unit.kind.name().is_source() {
                true => &mut next.muted,
                false => &mut next.bypassed,
            };
            if list.insert(unit.id) {
                changed.insert(unit.id);
            }
        }
        (next, changed)
    }

    /// Lets units be heard and work again.
    pub fn again(&mut self, units: &BTreeSet<UnitId>) {
        self.muted.retain(|id| !units.contains(id));
        self.bypassed.retain(|id| !units.contains(id));
        let sources = &mut self.muted_sources;
        sources.retain(|id| !units.contains(&(*id).into()));
    }

    /// Whether an effect works for now, if it is on: it is not passed by, and not behind the one that is heard up to, in its
    /// chain or in the common one.
    pub fn lets_work(&self, patch: &Patch, id: EffectId) -> bool {
        let place = |id| patch.finish.place(id);
        let behind = self.up_to.and_then(place).zip(place(id)).is_some_and(
            |((last, at), (chain, place))| match chain == last {
                true => place > at,
                false => chain == ChainId::Common,
            },
        );
        !behind && !self.bypassed.contains(&id.into())
    }

    /// Whether a route is let through for now, whatever the document says of it.
    pub fn lets_through(&self, patch: &Patch, route: &Route) -> bool {
        let target = route.send.target();
        let solos_here = |id: &RouteId| patch.route(*id).is_some_and(|r| r.send.target() == target);
        let outdone =
            self.soloed_routes.iter().any(solos_here) && !self.soloed_routes.contains(&route.id);
        // a bypassed filter lets what it is sent through as it is
        let moves = route.send.kind() != Some(RouteKind::Audio);
        let bypassed = moves && target.is_some_and(|to| self.bypassed.contains(&to));
        let in_solo = moves
            || self.brings_solo(patch, route.from)
            || target.is_some_and(|to| self.leads_to_solo(patch, to, DEEPEST));
        !outdone && !bypassed && in_solo && !self.muted_routes.contains(&route.id)
    }

    /// Whether what a unit sends out is to be heard: nothing is soloed, it is soloed itself, or it is a filter or shaper
    /// that something soloed goes through.
    pub fn brings_solo(&self, patch: &Patch, id: UnitId) -> bool {
        self.soloed.is_empty() || self.brings(patch, id, DEEPEST)
    }

    /// `deep` ends loops of filters.
    fn brings(&self, patch: &Patch, id: UnitId, deep: usize) -> bool {
        let is_audio = |r: &&Route| r.send.kind() == Some(RouteKind::Audio);
        let mut fed = patch
            .routes
            .iter()
            .filter(is_audio)
            .filter(|r| r.send.target() == Some(id));
        self.soloed.contains(&id) || deep > 0 && fed.any(|r| self.brings(patch, r.from, deep - 1))
    }

    fn leads_to_solo(&self, patch: &Patch, id: UnitId, deep: usize) -> bool {
        let mut leads = patch
            .sends(id)
            .filter(|r| r.send.kind() == Some(RouteKind::Audio))
            .filter_map(|r| r.send.target());
        self.soloed.contains(&id)
            || deep > 0 && leads.any(|to| self.leads_to_solo(patch, to, deep - 1))
    }
}

/// Whether a route passes anything at all, by itself or as links bring it in.
pub fn passes(patch: &Patch, route: &Route) -> bool {
    let depth = route.send.depth();
    let brought_in = || {
        let ends = swept(patch, Address::route(route.id, depth));
        ends.is_some_and(|(_, high)| high > param(depth).min)
    };
    route.on && (route.send.strength() > 0.0 || brought_in())
}

/// The units that reach the output, directly or by modulating one that does.
pub fn heard(patch: &Patch, listening: &Listening) -> BTreeSet<UnitId> {
    let works =
        |id: &UnitId| patch.unit(*id).is_some_and(|u| u.on) && !listening.muted.contains(id);
    let sounding = |id: UnitId| listening.brings_solo(patch, id);
    let mut found = BTreeSet::new();
    let mut open: Vec<UnitId> = Vec::new();
    for unit in &patch.units {
        let out = patch.sends(unit.id).any(|r| {
            r.send.target().is_none() && passes(patch, r) && listening.lets_through(patch, r)
        });
        if works(&unit.id) && sounding(unit.id) && (out || solo_straight(patch, listening, unit.id))
        {
            open.push(unit.id);
        }
    }
    while let Some(id) = open.pop() {
        if found.insert(id) {
            let feeds = patch.routes.iter().filter(|r| {
                r.send.target() == Some(id)
                    && passes(patch, r)
                    && works(&r.from)
                    && listening.lets_through(patch, r)
            });
            open.extend(feeds.map(|r| r.from));
        }
    }
    found
}

/// Whether a soloed unit has no working way to the output, so that soloing must send it straight out.
pub fn solo_straight(patch: &Patch, listening: &Listening, id: UnitId) -> bool {
    let is_out = |r: &&Route| r.send.is_way_out();
    listening.soloed.contains(&id)
        && !(patch.sounds(id) && patch.sends(id).filter(is_out).any(|r| passes(patch, r)))
}

/// The ways a unit's sound takes to the output, in words, such as `through Warm low`, or `straight out, past Warm low`.
/// Empty if it has none.
pub fn ways_out(patch: &Patch, id: UnitId) -> Vec<String> {
    let others: Vec<UnitId> = patch
        .units
        .iter()
        .filter(|u| !u.kind.name().is_source() && u.id != id && patch.sounds(u.id))
        .filter(|u| !reaches(patch, u.id, id))
        .map(|u| u.id)
        .collect();
    let mut ways = vec![];
    follow(patch, &mut vec![id], &mut |path: &[UnitId], bus: Bus| {
        let name = |id: &UnitId| patch.unit(*id).map_or("", |u| u.name.as_str());
        let names = |list: &[UnitId]| list.iter().map(name).collect::<Vec<_>>().join(", then ");
        let past: Vec<UnitId> = others
            .iter()
            .copied()
            .filter(|o| !path.contains(o))
            .collect();
        let through = match &path[1..] {
            [] => "direct to output".to_owned(),
            some => format!("through {}", names(some)),
        };
        let past = match past[..] {
            [] => String::new(),
            [one] => format!(", past {}", name(&one)),
            _ => format!(", past {} others", past.len()),
        };
        let bus = match bus {
            Bus::Main => "",
            Bus::Second => ", by the second way out",
            Bus::Clean => ", clean",
        };
        ways.push(format!("{through}{past}{bus}"));
    });
    ways
}

/// Whether sound from one unit goes into another, straight or through others.
fn reaches(patch: &Patch, from: UnitId, to: UnitId) -> bool {
    let mut reached = vec![from];
    let mut next = 0;
    while next < reached.len() {
        for route in patch.sends(reached[next]).filter(|r| passes(patch, r)) {
            match route.send {
                Send::Audio { to, .. } if !reached.contains(&to) => reached.push(to),
                _ => {}
            }
        }
        next += 1;
    }
    reached.contains(&to)
}

fn follow(patch: &Patch, path: &mut Vec<UnitId>, found: &mut dyn FnMut(&[UnitId], Bus)) {
    let Some(last) = path.last().copied() else {
        return;
    };
    for route in patch.sends(last).filter(|r| passes(patch, r)) {
        match route.send {
            Send::Output { bus, .. } => found(path, bus),
            Send::Audio { to, .. } if !path.contains(&to) && path.len() <= DEEPEST => {
                path.push(to);
                follow(patch, path, found);
                path.pop();
            }
            _ => {}
        }
    }
}
