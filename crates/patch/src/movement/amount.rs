//! How far links move values: rows of amounts, the lowest and highest value one comes to, new links.

use super::kinds::{SourceKind, SourceName};
use super::link::{Direction, Link};
use super::target;
use crate::address::Address;
use crate::catalogue::param;
use crate::ids::{LinkId, SourceId, UnitId};
use crate::kinds::operator::Operator;
use crate::limits::MAX_LINKS;
use crate::param::{Curve, Domain, Owner, Param, Quantity as Q};
use crate::patch::Patch;

/// The row of a link's amount: that of a number with sign in the domain of what it moves.
pub fn amount_row(target: &Param) -> Param {
    let own = param(Link::AMOUNT);
    let span = match target.domain {
        Domain::Octaves => libm::log2(target.max / target.min),
        Domain::Plain => target.max - target.min,
    };
    let (quantity, gentle, step, fine_step, decimals) = match (target.domain, target.quantity) {
        _ if target.id == Operator::RATIO || target.id == Operator::FIXED_HZ => {
            (Q::Octaves, 1.0 / 12.0, 1.0 / 12.0, 0.01, 3)
        }
        (Domain::Octaves, Q::Hertz) => (Q::Octaves, 1.0, 0.25, 0.05, 2),
        (Domain::Octaves, _) => (Q::Octaves, 0.1 * span.min(10.0), 0.25, 0.05, 2),
        (_, Q::Cents) => (Q::Cents, 10.0, 1.0, 0.1, 1),
        (_, Q::Semitones) => (Q::Semitones, 1.0, 1.0, 0.1, 2),
        (_, Q::Level | Q::Gain) => (Q::Gain, 3.0, 1.0, 0.1, 1),
        (_, Q::Seconds) => (Q::Seconds, 0.05, 0.01, 0.001, 2),
        (_, Q::Radians) => (Q::Radians, 0.5, 0.1, 0.01, 2),
        (_, Q::Offset) => (Q::Offset, 1.0, 0.1, 0.01, 3),
        (_, Q::Share | Q::Bipolar | Q::Pan) => (Q::Bipolar, 0.1 * span, 0.05, 0.01, 1),
        // a tenth of a stage, say, is moved too
        (_, Q::Count | Q::Copies | Q::Note) => (Q::Number, 0.1 * span, 0.0, 0.0, 2),
        (_, quantity) => (quantity, 0.1 * span, 0.0, 0.0, target.decimals),
    };
    Param {
        quantity,
        min: -span,
        max: span,
        default: gentle.min(span),
        curve: Curve::Linear,
        step,
        fine_step,
        decimals,
        domain: Domain::Plain,
        ..*own
    }
}

/// The row of a value, with what depends on where it stands: a link's amount is counted as what it moves.
pub fn row_of(patch: &Patch, address: Address) -> Param {
    let amount = |address: Address| {
        patch
            .link(LinkId(address.id))
            .filter(|_| address.param == Link::AMOUNT)
    };
    let mut place = address;
    // an amount that is moved is counted as what it moves, and that may be an amount in turn
    for _ in 0..MAX_LINKS {
        match amount(place) {
            Some(link) => place = link.to,
            None => break,
        }
    }
    match place == address {
        true => *param(address.param),
        false => amount_row(param(place.param)),
    }
}

/// Lowest and highest value a link takes its target to, by itself, in the target's unit; none if there is no such target.
pub fn ends(patch: &Patch, link: &Link) -> Option<(f64, f64)> {
    let (row, base) = (row_of(patch, link.to), link.to.get(patch).ok()?);
    let (from, to) = link.direction.span();
    let at = |share: f64| {
        row.domain
            .leave(row.domain.enter(base) + share * link.amount)
            .clamp(row.min, row.max)
    };
    let (a, b) = (at(from), at(to));
    Some((a.min(b), a.max(b)))
}

/// The value and the amount that let a link go from one value to another, in the target's unit; a first one above the second turns it
/// upside down.
pub fn with_ends(patch: &Patch, link: &Link, (low, high): (f64, f64)) -> (f64, f64) {
    let row = row_of(patch, link.to);
    let (a, b) = (row.domain.enter(low), row.domain.enter(high));
    let (base, amount) = match link.direction {
        Direction::Both => (0.5 * (a + b), 0.5 * (b - a)),
        Direction::Up => (a, b - a),
        Direction::Down => (b, b - a),
    };
    (row.domain.leave(base).clamp(row.min, row.max), amount)
}

/// Direction and amount of a new link: gentle, both ways round the value where both make sense, else upward.
pub fn gentle(patch: &Patch, from: SourceId, to: Address) -> Link {
    let row = row_of(patch, to);
    let kind = patch.source(from).map(|s| s.kind.name());
    let swings = kind.is_none_or(|kind| matches!(kind, SourceName::Lfo | SourceName::Random));
    let amount = match param(to.param).owner {
        // an amount that is moved comes in from nothing to what it is
        Owner::Link => row.default.min(to.get(patch).map_or(row.default, f64::abs)),
        _ => amount_row(param(to.param)).default,
    };
    Link {
        id: patch.free_link(),
        from,
        to,
        direction: if swings {
            Direction::Both
        } else {
            Direction::Up
        },
        amount,
        ..Link::default()
    }
}

/// All links that move a value.
pub fn movers(patch: &Patch, address: Address) -> impl Iterator<Item = &Link> {
    patch.movement.links.iter().filter(move |l| l.to == address)
}

/// Lowest and highest value all links that are on can take a value to together; none where nothing moves it.
pub fn swept(patch: &Patch, address: Address) -> Option<(f64, f64)> {
    let row = row_of(patch, address);
    let works = |l: &&Link| l.on && patch.source(l.from).is_some_and(|s| s.on);
    let mut sums = None;
    for link in movers(patch, address).filter(works) {
        let (from, to) = link.direction.span();
        let (a, b) = (from * link.amount, to * link.amount);
        let (low, high) = sums.unwrap_or((0.0, 0.0));
        sums = Some((low + a.min(b), high + a.max(b)));
    }
    let base = row.domain.enter(address.get(patch).ok()?);
    sums.map(|(low, high): (f64, f64)| {
        let at = |by: f64| row.domain.leave(base + by).clamp(row.min, row.max);
        (at(low), at(high))
    })
}

/// Mean of what the pitch of an operator is moved by, in cents, and the link that does most of it: both-ways movement has none.
pub fn mean_cents(patch: &Patch, unit: UnitId) -> Option<(f64, LinkId)> {
    let mut sum = 0.0;
    let mut most = (0.0, None);
    for link in patch
        .movement
        .links
        .iter()
        .filter(|l| l.on && target::pitches(patch, l.to, unit))
    {
        // a knob stands where it stands; all else is taken to be everywhere as often
        let motion = match patch.source(link.from).map(|s| &s.kind) {
            Some(SourceKind::Macro(knob)) => link.motion(knob.place),
            _ => link.amount * (link.direction.span().0 + link.direction.span().1) * 0.5,
        };
        let cents = target::cents_of(link.to.param) * motion;
        sum += cents;
        if cents.abs() > most.0 {
            most = (cents.abs(), Some(link.id));
        }
    }
    most.1.map(|id| (sum, id))
}

/// The values a link takes its target to, by itself, at the low and at the high end of its source, in the target's unit; none if there is
/// no such target.
pub fn way(patch: &Patch, link: &Link) -> Option<(f64, f64)> {
    let (row, base) = (row_of(patch, link.to), link.to.get(patch).ok()?);
    let at = |place: f64| {
        let there = row.domain.enter(base) + link.motion(place);
        row.domain.leave(there).clamp(row.min, row.max)
    };
    Some((at(0.0), at(1.0)))
}

/// The value and the amount that let a link go from one value at its source's low end to another at its high end.
pub fn with_way(patch: &Patch, link: &Link, (low, high): (f64, f64)) -> (f64, f64) {
    let row = row_of(patch, link.to);
    let (a, b) = (row.domain.enter(low), row.domain.enter(high));
    let (base, amount) = match link.direction {
        Direction::Both => (0.5 * (a + b), 0.5 * (b - a)),
        Direction::Up => (a, b - a),
        Direction::Down => (a, a - b),
    };
    (row.domain.leave(base).clamp(row.min, row.max), amount)
}
