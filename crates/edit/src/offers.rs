//! What may be added, connected or moved where, as edits with the words of their buttons; and what dropping one strip on another
//! does.

use serde::{Deserialize, Serialize};

use crate::edit::{Connect, Edit, common_way};
use crate::unheard::Mend;
use zolvik_patch::Patch;
use zolvik_patch::document::KindName;
use zolvik_patch::document::Unit;
use zolvik_patch::document::{Destination, RouteKind};
use zolvik_patch::document::{RouteId, UnitId};

/// Which offers are wanted.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum OfferKind {
    /// Units to add, with or without one that is selected.
    Add,
    /// Ways a unit does not take yet.
    Send,
    /// Other places of a unit in the routing.
    Place,
}

/// Offers under one title; without a title they stand by themselves.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Offers {
    /// What they have in common.
    pub title: String,
    /// Each with its words and its edit.
    pub items: Vec<Mend>,
}

fn offer(label: impl Into<String>, edit: Edit) -> Mend {
    Mend {
        label: label.into(),
        edit,
    }
}

fn titled(title: impl Into<String>, items: Vec<Mend>) -> Offers {
    Offers {
        title: title.into(),
        items,
    }
}

fn named(unit: &Unit) -> String {
    format!("{} {}", unit.id.0, unit.name)
}

/// What is offered for a unit, or for none.
pub fn offers(patch: &Patch, kind: OfferKind, unit: Option<UnitId>) -> Vec<Offers> {
    let unit = unit.and_then(|id| patch.unit(id));
    match (kind, unit) {
        (OfferKind::Add, selected) => additions(patch, selected),
        (OfferKind::Send, Some(unit)) => vec![titled("", ways(patch, unit))],
        (OfferKind::Place, Some(unit)) => places(patch, unit),
        (_, None) => vec![],
    }
}

/// Kinds beside the operator: sources are heard or move the selected unit, the others go after it, its group or everything.
fn additions(patch: &Patch, selected: Option<&Unit>) -> Vec<Offers> {
    let group = selected.and_then(|unit| patch.groups.iter().find(|g| g.units.contains(&unit.id)));
    let add = |kind: KindName, connect: Connect, label: String| {
        offer(label, Edit::AddUnit { kind, connect })
    };
    let sources = KindName::ALL
        .iter()
        .copied()
        .filter(|kind| kind.is_source() && *kind != KindName::Operator);
    let heard = sources
        .clone()
        .map(|kind| add(kind, Connect::Output, kind.label().into()));
    // straight out, unless it is asked for to go through what everything goes through
    let common = common_way(patch, UnitId(0)).and_then(|id| patch.unit(id));
    let filtered = common.into_iter().flat_map(|filter| {
        let kinds = KindName::ALL.iter().filter(|kind| kind.is_source());
        kinds.map(|kind| {
            let connect = Connect::Through { id: filter.id };
            let label = format!("{} through {}", kind.label(), filter.name);
            add(*kind, connect, label)
        })
    });
    let heard = heard.chain(filtered);
    let mut through = vec![];
    for kind in KindName::ALL.iter().copied().filter(|k| !k.is_source()) {
        let label = kind.label();
        through.extend(selected.map(|unit| {
            let connect = Connect::Unit { id: unit.id };
            add(kind, connect, format!("{label} after {}", unit.name))
        }));
        through.extend(group.map(|group| {
            let connect = Connect::Group { id: group.id };
            add(kind, connect, format!("{label} after {}", group.name))
        }));
        let all = format!("{label} at the output");
        through.push(add(kind, Connect::Output, all));
    }
    let mut list = vec![
        titled("Sound sources", heard.collect()),
        titled("Filters, shapers, levels", through),
    ];
    if let Some(unit) = selected.filter(|unit| unit.kind.name().is_source()) {
        let moving = sources.map(|kind| {
            let connect = Connect::Unit { id: unit.id };
            add(kind, connect, kind.label().into())
        });
        let title = format!("Modulators of {}", unit.name);
        list.push(titled(title, moving.collect()));
    }
    list
}

/// What can be put on a route: all that sound goes through.
pub fn inserts(route: RouteId) -> Vec<Mend> {
    let kinds = KindName::ALL
        .iter()
        .copied()
        .filter(|kind| !kind.is_source());
    let insert = |kind: KindName| {
        let label = format!("Insert {} here", kind.label().to_lowercase());
        let unit = None;
        offer(label, Edit::Insert { route, kind, unit })
    };
    kinds.map(insert).collect()
}

fn ways(patch: &Patch, unit: &Unit) -> Vec<Mend> {
    let taken = |to: Destination| patch.sends(unit.id).any(|r| r.send.destination() == to);
    let units = patch
        .units
        .iter()
        .filter(|other| !taken(Destination::Unit(other.id)));
    let mut list: Vec<Mend> = units
        .map(|other| {
            let label = match other.id == unit.id {
                true => "Itself (feedback)".into(),
                false => named(other),
            };
            offer(label, route(unit.id, Destination::Unit(other.id), patch))
        })
        .collect();
    if !taken(Destination::Output) {
        list.push(offer("Output", route(unit.id, Destination::Output, patch)));
    }
    list
}

/// A new route that does what is usual at its end.
fn route(from: UnitId, to: Destination, patch: &Patch) -> Edit {
    let to = match to {
        Destination::Unit(to) => Some(to),
        Destination::Output => None,
    };
    Edit::AddRoute {
        from,
        to,
        kind: to.map_or(RouteKind::default(), |to| usual(patch, to)),
    }
}

fn usual(patch: &Patch, to: UnitId) -> RouteKind {
    let takes = patch.unit(to).map_or(&[][..], |u| u.kind.name().takes());
    takes.first().copied().unwrap_or_default()
}

fn places(patch: &Patch, unit: &Unit) -> Vec<Offers> {
    let rest = || patch.units.iter().filter(|other| other.id != unit.id);
    let with = |others: &mut dyn Iterator<Item = &Unit>, edit: &dyn Fn(UnitId) -> Edit| {
        let items = others.map(|other| offer(named(other), edit(other.id)));
        items.collect::<Vec<_>>()
    };
    let mut fitting = rest().filter(|other| can_stand_for(patch, unit, other));
    let id = unit.id;
    let mut list = vec![
        titled(
            "Swap places with",
            with(&mut fitting, &|with| Edit::SwapUnits { unit: id, with }),
        ),
        titled(
            "Make it a modulator of",
            with(&mut rest(), &|of| Edit::MakeModulator { unit: id, of }),
        ),
    ];
    if !patch.sounds(id) {
        let edit = Edit::MakeCarrier { unit: id };
        list.insert(0, titled("Routing", vec![offer("Make it a carrier", edit)]));
    }
    list
}

/// Whether two units can exchange places: each takes what the other is sent.
fn can_stand_for(patch: &Patch, a: &Unit, b: &Unit) -> bool {
    let takes = |to: &Unit, by: &Unit| {
        let into = patch
            .routes
            .iter()
            .filter(|r| r.send.target() == Some(to.id));
        into.filter_map(|r| r.send.kind())
            .all(|kind| by.kind.name().takes().contains(&kind))
    };
    takes(a, b) && takes(b, a)
}

/// What dropping a unit's number on another one does: one more route, or with `only` a change of its role.
pub fn drop(patch: &Patch, unit: UnitId, onto: Destination, only: bool) -> Edit {
    match onto {
        Destination::Output if only => Edit::MakeCarrier { unit },
        Destination::Unit(of) if only && of != unit => Edit::MakeModulator { unit, of },
        onto => route(unit, onto, patch),
    }
}

/// The same in words, while it is dragged.
pub fn drop_words(patch: &Patch, unit: UnitId, onto: Destination) -> String {
    let name = |id: UnitId| patch.unit(id).map_or("", |u| u.name.as_str());
    let from = name(unit);
    match onto {
        Destination::Output => format!("{from} to the output (Shift: only there)"),
        Destination::Unit(to) if to == unit => format!("{from} into itself: feedback"),
        Destination::Unit(to) => match usual(patch, to) {
            RouteKind::Audio => format!("{from} goes through {} too (Shift: only there)", name(to)),
            kind => format!(
                "{from} moves the {} of {} (Shift: and is heard no more)",
                kind.label(),
                name(to)
            ),
        },
    }
}

/// The destination of a unit's number in messages; none is the output.
pub fn destination(of: Option<UnitId>) -> Destination {
    of.map_or(Destination::Output, Destination::Unit)
}
