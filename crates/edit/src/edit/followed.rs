//! Links go on with the sends that take the place of those they moved.
//!
//! Routing something anew makes sends of other kinds and numbers. What moved the level of one moves that of the one that carries its sound now,
//! by as much as is heard of it; only where nothing carries it on the link goes with it.

use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::catalogue::param;
use zolvik_patch::document::{LinkId, RouteId};
use zolvik_patch::document::{Route, Send};
use zolvik_patch::levels::{db_gain, gain_db};
use zolvik_patch::limits::MAX_LINKS;
use zolvik_patch::movement::amount::amount_row;
use zolvik_patch::movement::{Direction, Link, target};
use zolvik_patch::param::{Owner, Param, ParamId, Quantity};
use zolvik_patch::part::Part;

/// Lets links to sends that are gone, or do something else, go on with what took their place.
pub(super) fn links_go_on(before: &Patch, next: &mut Patch) {
    let lost = |l: &&Link| {
        param(l.to.param).owner == Owner::Route
            && target::is_there(before, l.to)
            && !target::is_there(next, l.to)
    };
    let lost: Vec<Link> = next.movement.links.iter().filter(lost).cloned().collect();
    for link in lost {
        let Some(old) = before.route(RouteId(link.to.id)) else {
            continue;
        };
        let mut own = Some(link.id);
        for route in heirs(before, next, old) {
            go_on(next, &link, (old, route), &mut own);
        }
    }
}

/// The sends that carry on what one did: itself, else those of what it began at, else, where that is gone, of what fed it.
fn heirs(before: &Patch, next: &Patch, old: &Route) -> Vec<RouteId> {
    if next.route(old.id).is_some() {
        return vec![old.id];
    }
    let is_new = |r: &&Route| before.route(r.id).is_none();
    let alike = |r: &&Route| r.send.is_way_out() == old.send.is_way_out();
    let ids = |list: Vec<&Route>| list.into_iter().map(|r| r.id).collect::<Vec<_>>();
    if next.unit(old.from).is_some() {
        let own: Vec<&Route> = next.sends(old.from).collect();
        let made: Vec<&Route> = own.iter().copied().filter(|r| is_new(r)).collect();
        let same: Vec<&Route> = made.iter().copied().filter(|r| alike(r)).collect();
        // what is led together with another send that was there
        let joined = || own.iter().copied().filter(|r| alike(r)).take(1).collect();
        return ids(match (same.is_empty(), made.is_empty()) {
            (false, _) => same,
            (true, false) => made,
            (true, true) => joined(),
        });
    }
    let fed = |r: &&Route| {
        let feeds = |f: &Route| f.from == r.from && f.send.target() == Some(old.from);
        before.routes.iter().any(feeds)
    };
    let goes_there =
        |r: &&Route| (r.send.target(), r.send.kind()) == (old.send.target(), old.send.kind());
    let all = next.routes.iter().filter(is_new);
    ids(all.filter(fed).filter(goes_there).collect())
}

/// Lets a link, or a copy of it, lead to a send.
fn go_on(next: &mut Patch, link: &Link, (old, route): (&Route, RouteId), own: &mut Option<LinkId>) {
    let Some(new) = next.route(route) else { return };
    let Some(id) = taking_over(&old.send, link.to.param, &new.send) else {
        return;
    };
    let to = Address::route(route, id);
    let amount = as_much(link, (&old.send, &new.send), id);
    let taken = next
        .links_of(link.from)
        .any(|l| l.to == to && Some(l.id) != *own);
    if taken {
        return;
    }
    if let Some(own) = own.take() {
        let found = next.movement.links.iter_mut().find(|l| l.id == own);
        if let Some(found) = found {
            (found.to, found.amount) = (to, amount);
        }
    } else if next.movement.links.len() < MAX_LINKS {
        let id = next.free_link();
        let copy = Link {
            id,
            to,
            amount,
            ..link.clone()
        };
        next.movement.links.push(copy);
    }
}

/// The value of a send that is to it what another value is to another send: its strength, or its place.
fn taking_over(old: &Send, id: ParamId, new: &Send) -> Option<ParamId> {
    if id == old.depth() {
        return Some(new.depth());
    }
    match new {
        Send::Output { .. } => Some(Send::PAN),
        Send::Audio { .. } => Some(Send::PASS_PAN),
        _ => None,
    }
}

/// The amount that changes as much of what is heard: as many decibels of a level, as large a share of a depth.
fn as_much(link: &Link, (old, new): (&Send, &Send), id: ParamId) -> f64 {
    let (from, to) = (param(link.to.param), param(id));
    let range = amount_row(to);
    let same = (from.quantity, from.domain) == (to.quantity, to.domain);
    let amount = match (link.to.param == old.depth(), same) {
        (_, true) | (false, _) => link.amount,
        (true, false) => {
            let (was, is) = (
                old.get(from.id).unwrap_or(0.0),
                new.get(to.id).unwrap_or(0.0),
            );
            let way = if link.direction == Direction::Down {
                -1.0
            } else {
                1.0
            };
            let times = strength(from, was + way * link.amount) / strength(from, was);
            let there = of_strength(to, strength(to, is) * times);
            match times.is_finite() && times > 0.0 && there.is_finite() {
                true => way * (there - is),
                // from nothing, as far in its own range
                false => link.amount / amount_row(from).max * range.max,
            }
        }
    };
    amount.clamp(range.min, range.max)
}

fn strength(row: &Param, value: f64) -> f64 {
    match row.quantity {
        Quantity::Level => db_gain(value),
        _ => value.max(0.0),
    }
}

fn of_strength(row: &Param, strength: f64) -> f64 {
    match row.quantity {
        Quantity::Level => gain_db(strength),
        _ => strength,
    }
}
