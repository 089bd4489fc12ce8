//! One send of a strip.

use serde::Serialize;
use zolvik_edit::offers::inserts;
use zolvik_edit::unheard::Mend;
use zolvik_patch::Patch;
use zolvik_patch::document::{
    Bus, ChainId, KindName, Route, RouteId, RouteKind, Send, Unit, UnitId,
};
use zolvik_patch::hearing::Listening;
use zolvik_patch::param::Owner;
use zolvik_patch::pitch::{auditioned_hz, nominal_ratio, ratio_pair};

use super::scale::{Tick, Tops, scale};
use super::value::{ValueView, values};

/// What a route may do, or a way out.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct WayView {
    /// What it does at a unit.
    pub kind: Option<RouteKind>,
    /// Which way out.
    pub bus: Option<Bus>,
    /// In a word.
    pub label: String,
    /// In some more.
    pub help: &'static str,
}

/// One send of a strip.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct SendView {
    pub route: RouteId,
    /// The unit, none for the output.
    pub to: Option<UnitId>,
    /// Name of the target.
    pub name: String,
    /// What it does at the unit; none for the output.
    pub kind: Option<RouteKind>,
    /// Which way out it takes; none for units.
    pub bus: Option<Bus>,
    /// Switched on.
    pub on: bool,
    /// Muted for now.
    pub muted: bool,
    /// Soloed for now.
    pub soloed: bool,
    /// What it may do there instead.
    pub kinds: Vec<WayView>,
    /// What can be put between both.
    pub inserts: Vec<Mend>,
    /// Carrier to modulator, such as `1 : 4`.
    pub pair: Option<String>,
    /// Index, or level and pan.
    pub values: Vec<ValueView>,
    /// Factor from amplitude to height on the strip: 1 fills it.
    pub height: f64,
    /// Marks of the scale.
    pub ticks: Vec<Tick>,
}

/// Values of a route that have a bearing on what it does.
pub(crate) fn route_values(patch: &Patch, route: &Route) -> Vec<ValueView> {
    values(patch, Owner::Route, route.id.0)
}

pub(super) fn send(
    patch: &Patch,
    listening: &Listening,
    tops: &Tops,
    unit: &Unit,
    route: &Route,
) -> SendView {
    let hz = auditioned_hz(patch);
    let to = route.send.target();
    let target = to.and_then(|id| patch.unit(id));
    let (height, ticks) = scale(patch, tops, route);
    SendView {
        route: route.id,
        to,
        name: target.map_or_else(|| "Output".into(), |u| u.name.clone()),
        kind: route.send.kind(),
        bus: match route.send {
            Send::Output { bus, .. } => Some(bus),
            _ => None,
        },
        on: route.on,
        muted: listening.muted_routes.contains(&route.id),
        soloed: listening.soloed_routes.contains(&route.id),
        pair: target
            .and_then(|t| t.oscillator())
            .zip(unit.oscillator())
            .map(|(t, own)| ratio_pair(nominal_ratio(t, hz), nominal_ratio(own, hz))),
        inserts: inserts(route.id),
        kinds: ways_of(patch, target, route.send.kind()),
        values: route_values(patch, route),
        height,
        ticks,
    }
}

/// What a route may do at its target, or which ways out there are.
fn ways_of(patch: &Patch, target: Option<&Unit>, now: Option<RouteKind>) -> Vec<WayView> {
    let way = |kind, bus, label: &str, help: &'static str| WayView {
        kind,
        bus,
        label: label.into(),
        help,
    };
    let [first, second] = [ChainId::First, ChainId::Second].map(|id| &patch.finish.chain(id).name);
    match target {
        Some(unit) => unit
            .kind
            .name()
            .takes()
            .iter()
            .map(|kind| {
                let (label, help) = match kind {
                    RouteKind::Phase => ("Phase", "moves the phase"),
                    RouteKind::Frequency if unit.kind.name() == KindName::Filter => {
                        ("Frequency", "moves the cutoff")
                    }
                    RouteKind::Frequency => ("Frequency", "moves it through zero"),
                    RouteKind::Ring => ("Ring", "multiplies"),
                    RouteKind::Amplitude => ("Amplitude", "moves the level"),
                    RouteKind::Audio => ("Audio", "goes through it"),
                };
                way(Some(*kind), None, label, help)
            })
            // what goes through it may go past it, as loudly and at the same place
            .chain((now == Some(RouteKind::Audio)).then(|| {
                way(
                    None,
                    Some(Bus::Main),
                    "Direct to output",
                    "past it, by the usual way out",
                )
            }))
            .chain((now == Some(RouteKind::Audio)).then(|| {
                way(
                    None,
                    Some(Bus::Clean),
                    "Clean",
                    "past it, and past all effects",
                )
            }))
            .collect(),
        None => vec![
            way(
                None,
                Some(Bus::Main),
                first,
                "the usual way out, through its effects",
            ),
            way(
                None,
                Some(Bus::Second),
                second,
                "the second way out, through its effects",
            ),
            way(None, Some(Bus::Clean), "Clean", "past all effects"),
        ],
    }
}
