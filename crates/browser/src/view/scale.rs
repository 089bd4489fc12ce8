//! The scale of a strip: what its height means, and values on it in words.

use std::collections::BTreeMap;

use serde::Serialize;
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::document::{Filter, Route, RouteId, RouteKind, UnitId, UnitKind};
use zolvik_patch::filter::cutoff_hz;
use zolvik_patch::levels::{db_gain, gain_db};
use zolvik_patch::movement::amount::swept;
use zolvik_patch::part::Part;
use zolvik_patch::pitch::auditioned_hz;
use zolvik_patch::text;

use super::heading::hertz;

/// A mark of a strip's scale.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Tick {
    /// 0 at the foot, 1 at the top.
    pub height: f64,
    /// Words beside it.
    pub label: String,
}

/// Where the scales of routes end.
///
/// Ends go up in steps, so that a scale stands still where a value moves a little: levels by 3 dB, depths by [`DEPTH_TOPS`], in the unit
/// they are written in.
#[derive(Debug, Clone, Default, PartialEq)]
pub(crate) struct Tops {
    /// All routes of a kind share one, so that strips can be compared; no kind is the output.
    kinds: BTreeMap<Option<RouteKind>, f64>,
    /// Those that went over it under a hand.
    own: BTreeMap<RouteId, f64>,
}

/// What scales of depths end at.
const DEPTH_TOPS: [f64; 13] = [
    1.0, 1.5, 2.0, 3.0, 4.0, 6.0, 8.0, 12.0, 16.0, 24.0, 32.0, 40.0, 100.0,
];
/// In dB.
const LEVEL_STEP_DB: f64 = 3.0;
/// The softest level that fills a strip, as a factor.
const SOFTEST_TOP: f64 = 0.016;
/// Air above a full strip, as a factor.
const AIR: f64 = 1.08;

impl Tops {
    /// With no hand on anything.
    pub(crate) fn of(patch: &Patch) -> Self {
        let mut tops = Tops::default();
        for route in &patch.routes {
            let kind = route.send.kind();
            let end = tops.kinds.entry(kind).or_insert(f64::MIN);
            *end = end.max(over(kind, most(patch, route)));
        }
        tops
    }

    /// As a hand found them they stay: what it moves is the only thing that moves. A route that goes over its end gets one of its own, with
    /// room for twice as much, so that it soon stands still again.
    pub(crate) fn follow(&mut self, patch: &Patch) {
        for route in &patch.routes {
            let kind = route.send.kind();
            let needed = over(kind, most(patch, route));
            self.kinds.entry(kind).or_insert(needed);
            if needed > self.end(route) {
                self.own.insert(route.id, twice(kind, needed));
            }
        }
    }

    fn end(&self, route: &Route) -> f64 {
        let own = self.own.get(&route.id);
        let end = own.or_else(|| self.kinds.get(&route.send.kind()));
        end.copied().unwrap_or(1.0)
    }
}

/// The least end that a strength does not go over.
fn over(kind: Option<RouteKind>, strength: f64) -> f64 {
    match depth_unit(kind) {
        None => {
            let loudest_db = gain_db(strength.max(SOFTEST_TOP));
            ((loudest_db - 0.01) / LEVEL_STEP_DB).ceil() * LEVEL_STEP_DB
        }
        Some((_, times)) => over_depth(strength.max(1.0) * times),
    }
}

/// The least end with room for twice as much.
fn twice(kind: Option<RouteKind>, end: f64) -> f64 {
    match depth_unit(kind) {
        None => end + 2.0 * LEVEL_STEP_DB,
        Some(_) => over_depth(2.0 * end),
    }
}

fn over_depth(depth: f64) -> f64 {
    let [.., most] = DEPTH_TOPS;
    let end = DEPTH_TOPS.into_iter().find(|end| *end >= depth);
    end.unwrap_or(most)
}

/// Height of a route that puts out 1 on its strip, and the marks beside it.
pub(super) fn scale(patch: &Patch, tops: &Tops, route: &Route) -> (f64, Vec<Tick>) {
    let tick = |height: f64, label: String| Tick { height, label };
    let source = patch.unit(route.from).map(|u| &u.kind);
    if let Some(UnitKind::Filter(filter)) = source {
        return cutoff_scale(patch, route.from, filter);
    }
    if let Some(UnitKind::Shaper(shaper)) = source {
        let ticks = [(1.0, "100 %"), (0.5, "50 %")].map(|(of, label)| tick(of / AIR, label.into()));
        return (shaper.mix / AIR, ticks.into());
    }
    let level_scale = |gain: f64, top_db: f64| {
        let full = db_gain(top_db) * AIR;
        let ticks = [top_db, top_db - 6.0]
            .map(|db| tick(db_gain(db) / full, format!("{} dB", text::fixed(db, 0))));
        (gain / full, ticks.into())
    };
    if let Some(UnitKind::Level(level)) = source {
        return level_scale(db_gain(level.level_db), level.level_db.max(0.0));
    }
    let kind = route.send.kind();
    let end = tops.end(route);
    let Some((unit, times)) = depth_unit(kind) else {
        return level_scale(drawn_strength(patch, route), end);
    };
    let full = end * AIR;
    let step = [0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0]
        .into_iter()
        .find(|s| full / s < 2.5)
        .unwrap_or(50.0);
    let label = |v: f64, unit: &str| format!("{}{unit}", text::fixed(v, usize::from(step < 1.0)));
    let top = (full / step).floor() * step;
    let mut ticks = vec![tick(top / full, label(top, unit))];
    if top > step {
        ticks.push(tick((top - step) / full, label(top - step, "")));
    }
    (drawn_strength(patch, route) * times / full, ticks)
}

/// How strong a route is where links take it at the most.
fn most(patch: &Patch, route: &Route) -> f64 {
    let to = Address::route(route.id, route.send.depth());
    let mut there = route.clone();
    if let (Some((_, high)), Some(slot)) = (swept(patch, to), there.send.slot(to.param)) {
        slot.write(high);
    }
    patch.strength(&there)
}

/// What a curve of a route is drawn in multiples of: its own strength, or where that is nothing the most it is brought in to.
pub(crate) fn drawn_strength(patch: &Patch, route: &Route) -> f64 {
    match patch.strength(route) {
        own if own > 0.0 => own,
        _ => most(patch, route),
    }
}

/// From how many octaves below its value to how many above links and envelope take a filter's cutoff; none where no link moves it.
pub(crate) fn cutoff_span(patch: &Patch, unit: UnitId, filter: &Filter) -> Option<(f64, f64)> {
    let (low, high) = swept(patch, Address::unit(unit, Filter::CUTOFF_HZ))?;
    let from = |hz: f64| (hz / filter.cutoff_hz).log2();
    let sweep = filter.sweep_oct;
    let (low, high) = (from(low) + sweep.min(0.0), from(high) + sweep.max(0.0));
    (high > low).then_some((low, high))
}

/// The cutoff so far up its strip, 0 to 1: as far as its envelope is, or where links move it within all it comes to.
fn cutoff_at(patch: &Patch, unit: UnitId, filter: &Filter, place: f64) -> f64 {
    let hz = auditioned_hz(patch);
    match cutoff_span(patch, unit, filter) {
        None => cutoff_hz(filter, hz, place),
        Some((low, high)) => {
            let octaves = low + (high - low) * place;
            cutoff_hz(filter, hz, 0.0) * octaves.exp2()
        }
    }
}

/// A filter's strip shows its cutoff: the envelope's zero lies at the cutoff itself.
fn cutoff_scale(patch: &Patch, unit: UnitId, filter: &Filter) -> (f64, Vec<Tick>) {
    let at = |level: f64| match cutoff_at(patch, unit, filter, level) {
        hz if hz < 999.5 => format!("{} Hz", text::fixed(hz, 0)),
        hz => format!("{} kHz", text::fixed(hz / 1000.0, 1)),
    };
    let ticks = vec![
        Tick {
            height: 0.0,
            label: at(0.0),
        },
        Tick {
            height: 0.92,
            label: at(1.0),
        },
    ];
    (0.92, ticks)
}

/// In what depths of a kind are written, and the factor to it; none where it goes by its level.
fn depth_unit(kind: Option<RouteKind>) -> Option<(&'static str, f64)> {
    match kind? {
        RouteKind::Phase => Some((" rad", 1.0)),
        RouteKind::Frequency => Some((" ×", 1.0)),
        RouteKind::Ring | RouteKind::Amplitude => Some((" %", 100.0)),
        RouteKind::Audio => None,
    }
}

/// What a strip puts out through a send at an amplitude, in words.
pub fn words(patch: &Patch, unit: UnitId, send: usize, amplitude: f64) -> String {
    let level = |gain: f64| {
        if gain < 2.5e-4 {
            "−∞ dB".into()
        } else {
            format!("{} dB", text::fixed(gain_db(gain), 1))
        }
    };
    if let Some(filter) = patch.unit(unit).and_then(zolvik_patch::filter::of) {
        return hertz(cutoff_at(patch, unit, filter, amplitude));
    }
    match patch.unit(unit).map(|u| &u.kind) {
        Some(UnitKind::Shaper(shaper)) => {
            return format!("{} %", text::fixed(shaper.mix * amplitude * 100.0, 0));
        }
        Some(UnitKind::Level(own)) => return level(db_gain(own.level_db) * amplitude),
        _ => {}
    }
    match patch.sends(unit).nth(send) {
        Some(route) => {
            let Some((unit, times)) = depth_unit(route.send.kind()) else {
                return level(drawn_strength(patch, route) * amplitude);
            };
            let decimals = if times > 1.0 { 0 } else { 2 };
            let now = drawn_strength(patch, route) * amplitude * times;
            format!("{}{unit}", text::fixed(now, decimals))
        }
        None => String::new(),
    }
}
