//! What is done to one of several selected units is done to all of them.

use super::edits::{Connect, Edit};
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::catalogue::param;
use zolvik_patch::document::Route;
use zolvik_patch::document::{LinkId, RouteId, UnitId};
use zolvik_patch::movement::target;
use zolvik_patch::param::Owner;

/// The same edit for all selected units, where it is one of a unit among them or of a route that begins at one; else the edit as it is.
/// Routes of the others take part that lead to the same place and do the same there, feedback with feedback.
pub fn for_all(patch: &Patch, edit: &Edit, units: &[UnitId]) -> Edit {
    let one = core::slice::from_ref(edit);
    let of_routes = |route, with: &dyn Fn(RouteId) -> Edit| {
        let all = alike(patch, route, units).map(with).collect();
        (edit.label(patch), all)
    };
    let of_links = |link, with: &dyn Fn(LinkId) -> Edit| {
        let all = links_alike(patch, link, units).map(with).collect();
        (edit.label(patch), all)
    };
    let (label, edits) = match edit {
        _ if units.len() < 2 => return edit.clone(),
        Edit::RemoveUnit { unit } if units.contains(unit) => {
            let all = units.iter().map(|unit| Edit::RemoveUnit { unit: *unit });
            (format!("remove {} strips", units.len()), all.collect())
        }
        Edit::SwitchUnit { unit, on } if units.contains(unit) => {
            let all = units.iter().map(|unit| Edit::SwitchUnit {
                unit: *unit,
                on: *on,
            });
            let how = if *on { "on" } else { "off" };
            (
                format!("switch {} strips {how}", units.len()),
                all.collect(),
            )
        }
        Edit::DuplicateUnits { units: of } if of.iter().all(|unit| units.contains(unit)) => {
            return Edit::DuplicateUnits {
                units: units.to_vec(),
            };
        }
        Edit::AddUnit {
            kind,
            connect: Connect::Unit { id },
        } if units.contains(id) => {
            return Edit::AddUnit {
                kind: *kind,
                connect: Connect::Units {
                    ids: units.to_vec(),
                },
            };
        }
        Edit::AddRoute { from, to, kind } if units.contains(from) => {
            let itself = *to == Some(*from);
            let all = units.iter().map(|unit| Edit::AddRoute {
                from: *unit,
                to: if itself { Some(*unit) } else { *to },
                kind: *kind,
            });
            let new = all.filter(|edit| match edit {
                Edit::AddRoute { from, to, .. } => {
                    (itself || *to != Some(*from)) && !leads(patch, *from, *to)
                }
                _ => true,
            });
            ("add sends".into(), new.collect())
        }
        Edit::AddLinks { from, to } => {
            return Edit::AddLinks {
                from: *from,
                to: moved_everywhere(patch, to, units),
            };
        }
        Edit::AddSource { kind, to } => {
            return Edit::AddSource {
                kind: *kind,
                to: moved_everywhere(patch, to, units),
            };
        }
        Edit::MakeCarrier { unit } if units.contains(unit) => {
            let all = units.iter().map(|unit| Edit::MakeCarrier { unit: *unit });
            ("make carriers".into(), all.collect())
        }
        Edit::MakeModulator { unit, of } if units.contains(unit) => {
            let all = units.iter().filter(|unit| *unit != of);
            let all = all.map(|unit| Edit::MakeModulator {
                unit: *unit,
                of: *of,
            });
            ("make modulators".into(), all.collect())
        }
        Edit::SetRouteKind { route, kind } => {
            let kind = *kind;
            of_routes(*route, &|route| Edit::SetRouteKind { route, kind })
        }
        Edit::SetBus { route, bus } => {
            let bus = *bus;
            of_routes(*route, &|route| Edit::SetBus { route, bus })
        }
        Edit::SwitchRoute { route, on } => {
            let on = *on;
            of_routes(*route, &|route| Edit::SwitchRoute { route, on })
        }
        Edit::RemoveRoute { route } => of_routes(*route, &|route| Edit::RemoveRoute { route }),
        Edit::DirectLink { link, direction } => {
            let direction = *direction;
            of_links(*link, &|link| Edit::DirectLink { link, direction })
        }
        Edit::SwitchLink { link, on } => {
            let on = *on;
            of_links(*link, &|link| Edit::SwitchLink { link, on })
        }
        Edit::ScaleLink { link, by } => {
            let by = *by;
            of_links(*link, &|link| Edit::ScaleLink { link, by })
        }
        Edit::ResendLink { link, from } => {
            let from = *from;
            of_links(*link, &|link| Edit::ResendLink { link, from })
        }
        Edit::LikeLink { link, like } => {
            let like = *like;
            of_links(*link, &|link| Edit::LikeLink { link, like })
        }
        Edit::TurnLink { link } => of_links(*link, &|link| Edit::TurnLink { link }),
        Edit::RemoveLink { link } => of_links(*link, &|link| Edit::RemoveLink { link }),
        _ => (String::new(), one.to_vec()),
    };
    match <[Edit; 1]>::try_from(edits) {
        Ok([edit]) => edit,
        Err(edits) => Edit::Together { label, edits },
    }
}

fn leads(patch: &Patch, from: UnitId, to: Option<UnitId>) -> bool {
    patch.sends(from).any(|r| r.send.target() == to)
}

/// An address, and the same value of the other selected units, or of those of their routes that correspond, where it is one of theirs.
pub fn everywhere(patch: &Patch, address: Address, units: &[UnitId]) -> Vec<Address> {
    let at = |id: u16| Address { id, ..address };
    match param(address.param).owner {
        Owner::Unit | Owner::Point if units.contains(&UnitId(address.id)) => {
            let others = units.iter().filter(|id| id.0 != address.id);
            std::iter::once(address)
                .chain(others.map(|id| at(id.0)))
                .collect()
        }
        Owner::Route => alike(patch, RouteId(address.id), units)
            .map(|route| at(route.0))
            .collect(),
        Owner::Link => links_alike(patch, LinkId(address.id), units)
            .map(|link| at(link.0))
            .collect(),
        _ => vec![address],
    }
}

/// A link, and those of the same source to the same value of the other units.
fn links_alike(patch: &Patch, link: LinkId, units: &[UnitId]) -> impl Iterator<Item = LinkId> {
    let this = patch.link(link);
    let targets = this.map_or_else(Vec::new, |l| everywhere(patch, l.to, units));
    let others = patch.movement.links.iter().filter(|l| {
        l.id != link && this.is_some_and(|this| this.from == l.from) && targets.contains(&l.to)
    });
    let others: Vec<LinkId> = others.map(|l| l.id).collect();
    std::iter::once(link).chain(others)
}

/// Values that are to be moved, everywhere; of the others those that have such a value.
fn moved_everywhere(patch: &Patch, to: &[Address], units: &[UnitId]) -> Vec<Address> {
    let mut all: Vec<Address> = vec![];
    for address in to.iter().flat_map(|to| everywhere(patch, *to, units)) {
        let meant = to.contains(&address) || target::is_there(patch, address);
        if meant && !all.contains(&address) {
            all.push(address);
        }
    }
    all
}

/// A route, and those of the other units that correspond to it, where it begins at one of them.
fn alike<'a>(
    patch: &'a Patch,
    route: RouteId,
    units: &'a [UnitId],
) -> impl Iterator<Item = RouteId> + 'a {
    let this = patch.route(route);
    let others = units
        .iter()
        .filter(move |unit| this.is_some_and(|r| units.contains(&r.from) && r.from != **unit))
        .filter_map(move |unit| corresponding(patch, this?, *unit));
    std::iter::once(route).chain(others)
}

/// The route of another unit that corresponds to one: to the same place, or to itself as that one does.
fn corresponding(patch: &Patch, route: &Route, unit: UnitId) -> Option<RouteId> {
    let itself = route.send.target() == Some(route.from);
    let to = if itself {
        Some(unit)
    } else {
        route.send.target()
    };
    let mut same = patch
        .sends(unit)
        .filter(|r| r.send.target() == to && r.send.kind() == route.send.kind());
    same.next().map(|r| r.id)
}
