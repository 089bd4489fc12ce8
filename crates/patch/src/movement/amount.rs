//! How far links move values: rows of amounts, the lowest and highest value one comes to, new links.

use super::kinds::{SourceKind, SourceName};
use super::link::{Direction, Link};
use super::shape::level_at;
use super::source::{Runs, Source};
use super::target;
use crate::ids::{LinkId, SourceId, UnitId};
use crate::kinds::operator::Operator;
use crate::params::address::Address;
use crate::params::catalogue::param;
use crate::params::limits::MAX_LINKS;
use crate::params::param::{Curve, Domain, Owner, Param, Quantity as Q};
use crate::parts::voice::Unison;
use crate::patch::Patch;

/// The row of a link's amount: that of a number with sign in the domain of what it moves.
pub fn amount_row(target: &Param) -> Param {
    let own = param(Link::AMOUNT);
    let span = match target.domain {
        Domain::Octaves => libm::log2(target.max / target.lowest_ratio()),
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

/// Whether what a source does goes on round a middle: what runs once, is played or set by hand begins at rest.
fn goes_round(source: &Source) -> bool {
    match source.kind.name() {
        SourceName::Lfo | SourceName::Steps => source.timing.runs != Runs::Once,
        SourceName::Random => true,
        _ => false,
    }
}

/// Whether a value has a middle to be moved round: pitches, places and what has a sign. All else is moved from where it stands.
fn has_middle(row: &Param) -> bool {
    let pitch = matches!(row.quantity, Q::Cents | Q::Semitones | Q::Offset | Q::Pan);
    let tuned = [Operator::RATIO, Operator::FIXED_HZ, Unison::SPREAD];
    pitch || tuned.contains(&row.id)
}

/// Direction and amount of a new link: gentle; both ways round a pitch or a place, upward for all else. Where the value stands has no say.
pub fn gentle(patch: &Patch, from: SourceId, to: Address) -> Link {
    let row = row_of(patch, to);
    let swings = patch.source(from).is_none_or(goes_round) && has_middle(&row);
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

/// A shift of the pitch that nobody hears, in cents.
const UNHEARD_CENTS: f64 = 0.05;

/// Mean of what the pitch of an operator is moved by, in cents, and the link that does most of it: both-ways movement has none.
pub fn mean_cents(patch: &Patch, unit: UnitId) -> Option<(f64, LinkId)> {
    let mut sum = 0.0;
    let mut most = (0.0, None);
    let on = |l: &&Link| l.on && patch.source(l.from).is_some_and(|s| s.on);
    let links = patch.movement.links.iter().filter(on);
    for link in links.filter(|l| target::pitches(patch, l.to, unit)) {
        let motion = patch
            .source(link.from)
            .map_or(0.0, |s| mean_motion(s, link));
        let cents = target::cents_of(link.to.param) * motion;
        sum += cents;
        if cents.abs() > f64::max(most.0, UNHEARD_CENTS) {
            most = (cents.abs(), Some(link.id));
        }
    }
    most.1.map(|id| (sum, id))
}

/// Where a link takes its value in the mean of what its source does. What runs once is meant as it is, and so is what is played.
fn mean_motion(source: &Source, link: &Link) -> f64 {
    const LOOKS: usize = 64;
    let mean = |places: &mut dyn Iterator<Item = f64>| {
        let (sum, count) = places.fold((0.0, 0.0), |(s, n), p| (s + link.motion(p), n + 1.0));
        if count > 0.0 { sum / count } else { 0.0 }
    };
    let at = |n: usize| (n as f64 + 0.5) / LOOKS as f64;
    match &source.kind {
        SourceKind::Macro(knob) => link.motion(knob.place),
        _ if source.timing.runs == Runs::Once && source.has_clock() => 0.0,
        SourceKind::Lfo(lfo) => mean(&mut (0..LOOKS).map(|n| level_at(&lfo.points, at(n)))),
        SourceKind::Steps(steps) => mean(&mut steps.steps.iter().map(|s| s.level)),
        SourceKind::Random(_) => mean(&mut (0..LOOKS).map(at)),
        SourceKind::Envelope(_) | SourceKind::Played(_) | SourceKind::Follower(_) => 0.0,
    }
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
