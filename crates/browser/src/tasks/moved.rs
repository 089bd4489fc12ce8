//! Curves of what moves and is moved, as the strips draw them.

use zolvik_engine::picture::come_in;
use zolvik_lab::Unfolded;
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::document::{Filter, RouteId};
use zolvik_patch::filter;
use zolvik_patch::movement::amount::row_of;
use zolvik_patch::part::Part;

use crate::view::{cutoff_span, drawn_strength};

/// Curves of what moves and is moved.
pub(super) struct Moved {
    pub(super) curves: Vec<f32>,
    pub(super) sends: Vec<RouteId>,
    /// What units put out; of filters whose cutoff links move, where in all it comes to that lies.
    pub(super) units: Vec<f32>,
}

/// A patch as movement has it at a moment, given how far each of its links takes its value then.
pub(super) fn at_moment(patch: &Patch, motion: impl Fn(usize) -> f64) -> Patch {
    let mut there = patch.clone();
    let links = &patch.movement.links;
    for (at, link) in links.iter().enumerate() {
        // each value once, by all its links
        if links[..at].iter().any(|before| before.to == link.to) {
            continue;
        }
        let same = links.iter().enumerate().filter(|(_, l)| l.to == link.to);
        let sum: f64 = same.map(|(at, _)| motion(at)).sum();
        let row = row_of(patch, link.to);
        let base = row.domain.enter(link.to.get(patch).unwrap_or(row.default));
        let value = row.domain.leave(base + sum).clamp(row.min, row.max);
        // what is listed can be set
        let _ = link.to.set(&mut there, value);
    }
    there
}

impl Moved {
    pub(super) fn new(patch: &Patch, drawn: &Unfolded) -> Self {
        let links = &patch.movement.links;
        let mut curves = come_in_places(patch, drawn);
        // the value all links of a target take it to, in its domain, at a column
        let together = |to: Address, column: usize| -> f64 {
            let same = links.iter().zip(&drawn.motions).filter(|(l, _)| l.to == to);
            same.map(|(_, motion)| f64::from(motion[column])).sum()
        };
        for link in links {
            let row = row_of(patch, link.to);
            let base = row.domain.enter(link.to.get(patch).unwrap_or(row.default));
            curves.extend((0..drawn.columns).map(|column| {
                let value = row.domain.leave(base + together(link.to, column));
                row.place(value) as f32
            }));
        }
        let mut sends = vec![];
        for route in &patch.routes {
            let to = Address::route(route.id, route.send.depth());
            if links.iter().any(|l| l.to == to) {
                let own = drawn_strength(patch, route).max(1e-9);
                let mut there = route.clone();
                let base = to.get(patch).unwrap_or_default();
                let row = row_of(patch, to);
                curves.extend((0..drawn.columns).map(|column| {
                    let value = (base + together(to, column)).clamp(row.min, row.max);
                    if let Some(slot) = there.send.slot(to.param) {
                        slot.write(value);
                    }
                    (patch.strength(&there) / own) as f32
                }));
                sends.push(route.id);
            }
        }
        let mut units = vec![];
        for (id, curve) in drawn.sound.units.iter().zip(&drawn.curves) {
            let filter = patch.unit(*id).and_then(filter::of);
            let span = filter.and_then(|f| Some((f, cutoff_span(patch, *id, f)?)));
            let Some((filter, (low, high))) = span else {
                units.extend(curve);
                continue;
            };
            let to = Address::unit(*id, Filter::CUTOFF_HZ);
            units.extend(curve.iter().enumerate().map(|(column, level)| {
                let octaves = filter.sweep_oct * f64::from(*level) + together(to, column);
                ((octaves - low) / (high - low)) as f32
            }));
        }
        Moved {
            curves,
            sends,
            units,
        }
    }
}

/// Where sources stand, as far as they have come in: before that they move nothing, as at rest.
fn come_in_places(patch: &Patch, drawn: &Unfolded) -> Vec<f32> {
    let each = patch.movement.sources.iter().zip(&drawn.places);
    let places = each.flat_map(|(source, places)| {
        let rest = match patch.swings(source.id) {
            true => 0.5,
            false => 0.0,
        };
        let delay_s = source.timing.delay_at_s(patch.audition.tempo_bpm) as f32;
        let fade_s = source.timing.fade_s as f32;
        let there = places.iter().zip(&drawn.frames);
        there.map(move |(place, frame)| {
            let share = come_in(delay_s, fade_s, *frame as f64 / drawn.sound.rate_hz);
            rest + (place - rest) * share
        })
    });
    places.collect()
}

/// A gain at each column; none where it never is anything.
pub(super) fn gains(each_block: &[f32], frames: &[usize]) -> Vec<f64> {
    if each_block.iter().all(|db| db.abs() < 0.05) {
        return vec![];
    }
    let at = |frame: &usize| each_block.get(frame / zolvik_engine::BLOCK).copied();
    let tenths = |db: f32| f64::from((db * 10.0).round()) / 10.0;
    frames
        .iter()
        .map(|f| tenths(at(f).unwrap_or(0.0)))
        .collect()
}
