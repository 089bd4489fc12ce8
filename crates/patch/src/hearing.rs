//! What can be heard, and if not, why, and what would mend it.

use std::collections::BTreeSet;

use serde::{Deserialize, Serialize};

use crate::catalogue::{ParamId, param};
use crate::document::{Patch, Route, RouteId, RouteKind, Send, UnitId};
use crate::edit::Edit;

/// What the listener has muted or soloed for now. Never part of the document.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Listening {
    /// Units that put out nothing.
    pub muted: BTreeSet<UnitId>,
    /// If not empty, only these are heard; what modulates them still does.
    pub soloed: BTreeSet<UnitId>,
    /// Units heard as if nothing moved them.
    #[serde(default)]
    pub bypassed: BTreeSet<UnitId>,
    /// Routes that pass nothing.
    #[serde(default)]
    pub muted_routes: BTreeSet<RouteId>,
    /// Of the routes that arrive where one of these does, only these pass.
    #[serde(default)]
    pub soloed_routes: BTreeSet<RouteId>,
}

impl Listening {
    /// Whether nothing is muted, soloed or bypassed.
    pub fn is_plain(&self) -> bool {
        *self == Listening::default()
    }

    /// Forgets what the patch no longer has.
    pub fn keep_known(&mut self, patch: &Patch) {
        let unit = |id: &UnitId| patch.unit(*id).is_some();
        let route = |id: &RouteId| patch.route(*id).is_some();
        self.muted.retain(unit);
        self.soloed.retain(unit);
        self.bypassed.retain(unit);
        self.muted_routes.retain(route);
        self.soloed_routes.retain(route);
    }

    /// Whether a route is let through for now, whatever the document says of it.
    pub fn lets_through(&self, patch: &Patch, route: &Route) -> bool {
        let target = route.send.target();
        let solos_here = |id: &RouteId| patch.route(*id).is_some_and(|r| r.send.target() == target);
        let outdone =
            self.soloed_routes.iter().any(solos_here) && !self.soloed_routes.contains(&route.id);
        let bypassed = target.is_some_and(|to| self.bypassed.contains(&to));
        !outdone && !bypassed && !self.muted_routes.contains(&route.id)
    }
}

/// Why a unit is not heard, and the edit that would change it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Unheard {
    /// In words, for the strip.
    pub why: String,
    /// What a button would do about it.
    pub mend: Option<Mend>,
}

/// An offered edit with the words on its button.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Mend {
    /// Words on the button.
    pub label: String,
    /// The edit it makes.
    pub edit: Edit,
}

/// Whether a route passes anything at all.
pub fn passes(route: &Route) -> bool {
    route.on
        && match route.send {
            Send::Phase {
                index_rad: depth, ..
            }
            | Send::Frequency {
                deviation: depth, ..
            }
            | Send::Ring { mix: depth, .. }
            | Send::Amplitude { amount: depth, .. } => depth > 0.0,
            Send::Output { level_db, .. } => level_db > param(ParamId::RouteLevelDb).min,
        }
}

/// The units that reach the output, directly or by modulating one that does.
pub fn heard(patch: &Patch, listening: &Listening) -> BTreeSet<UnitId> {
    let works =
        |id: &UnitId| patch.unit(*id).is_some_and(|u| u.on) && !listening.muted.contains(id);
    let sounding = |id: UnitId| listening.soloed.is_empty() || listening.soloed.contains(&id);
    let mut found = BTreeSet::new();
    let mut open: Vec<UnitId> = Vec::new();
    for unit in &patch.units {
        let out = patch
            .sends(unit.id)
            .any(|r| r.send.target().is_none() && passes(r) && listening.lets_through(patch, r));
        if works(&unit.id) && sounding(unit.id) && (out || solo_straight(patch, listening, unit.id))
        {
            open.push(unit.id);
        }
    }
    while let Some(id) = open.pop() {
        if found.insert(id) {
            let feeds = patch.routes.iter().filter(|r| {
                r.send.target() == Some(id)
                    && passes(r)
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
    listening.soloed.contains(&id)
        && !patch
            .sends(id)
            .any(|r| r.send.target().is_none() && passes(r))
}

/// Why a unit is not heard; none if it is.
pub fn unheard(patch: &Patch, listening: &Listening, id: UnitId) -> Option<Unheard> {
    if heard(patch, listening).contains(&id) {
        return None;
    }
    let unit = patch.unit(id)?;
    let says = |why: String, mend: Option<Mend>| Some(Unheard { why, mend });
    if !unit.on {
        let edit = Edit::SwitchUnit { unit: id, on: true };
        return says(
            "switched off".into(),
            Some(Mend {
                label: "Switch on".into(),
                edit,
            }),
        );
    }
    if listening.muted.contains(&id) {
        return says("muted".into(), None);
    }
    if !listening.is_plain() && heard(patch, &Listening::default()).contains(&id) {
        return says("another is soloed, muted or bypassed".into(), None);
    }
    let sends: Vec<&Route> = patch.sends(id).collect();
    if let Some(off) = sends.iter().find(|r| !r.on) {
        let edit = Edit::SwitchRoute {
            route: off.id,
            on: true,
        };
        return says(
            "its route is off".into(),
            Some(Mend {
                label: "Switch route on".into(),
                edit,
            }),
        );
    }
    if sends.iter().any(|r| !passes(r)) {
        return says("its route is at zero".into(), None);
    }
    let to_output = Mend {
        label: "Send to output".into(),
        edit: Edit::AddRoute {
            from: id,
            to: None,
            kind: RouteKind::default(),
        },
    };
    match sends
        .iter()
        .filter_map(|r| r.send.target())
        .find(|to| *to != id)
    {
        Some(to) => {
            let name = patch.unit(to).map_or("", |u| u.name.as_str());
            says(
                format!("only feeds {name}, which is not heard"),
                Some(to_output),
            )
        }
        None => says("no way to the output".into(), Some(to_output)),
    }
}
