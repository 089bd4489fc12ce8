//! Chains of effects.

use std::cell::RefCell;
use std::collections::VecDeque;

use serde::Serialize;
use zolvik_effects::{Still, band_curve, bent, curve_points, kind};
use zolvik_engine::cost::effect_share;
use zolvik_lab::spectrum::{HIGHEST_HZ, LOWEST_HZ};
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::catalogue::{choices, param, params};
use zolvik_patch::document::{Bus, ChainId, EffectId, Route, RouteId, Send, UnitId};
use zolvik_patch::finish::{
    Chain, Compressor, DuckBy, Effect, EffectKind, EffectName, EqBand, MAX_CHAIN_EFFECTS,
    MAX_EQ_BANDS, SideChain,
};
use zolvik_patch::hearing::Listening;
use zolvik_patch::levels::{db_gain, gain_db};
use zolvik_patch::movement::ShapePoint;
use zolvik_patch::movement::amount::swept;
use zolvik_patch::param::{Owner, When};
use zolvik_patch::part::Part;
use zolvik_patch::playing::differing::differing_in_effect;

use zolvik_patch::section::SectionId;
use zolvik_patch::text;

use super::movement::ShapeView;
use super::told::Told;
use super::value::{ChoiceView, SectionView, ValueView, choice_view, sheet, value_view, values};

/// Points of a curve over frequency.
const CURVE: usize = 180;
/// The rate curves are reckoned at.
const RATE_HZ: f64 = 48_000.0;
/// Points of the picture of what is drawn.
const DRAWN: usize = 97;

/// Chains and the clean way.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct FinishView {
    /// First, second and common.
    pub chains: Vec<ChainView>,
    /// Names of what goes past all effects.
    pub clean: Vec<String>,
    /// What leaves the voices, and by which way.
    pub outs: Vec<OutView>,
    /// How many effects there are.
    pub count: usize,
}

/// A way out of a strip.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct OutView {
    pub route: RouteId,
    pub unit: UnitId,
    /// Name of the strip.
    pub name: String,
    pub bus: Bus,
}

/// A chain.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct ChainView {
    pub id: ChainId,
    pub name: String,
    /// Whether it is heard.
    pub on: bool,
    /// Muted for now.
    pub muted: bool,
    /// Soloed for now.
    pub soloed: bool,
    /// The way out of the voices that leads into it; none of the common one.
    pub bus: Option<Bus>,
    /// Names of what leads into it: strips, or chains.
    pub from: Vec<String>,
    /// Its level, and of the first what it sends to the second.
    pub values: Vec<ValueView>,
    #[cfg_attr(feature = "types", ts(as = "Vec<EffectView>"))]
    pub effects: Vec<Told<EffectView>>,
    /// Whether another effect fits.
    pub full: bool,
}

/// An effect.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct EffectView {
    pub id: EffectId,
    pub kind: EffectName,
    /// The user's name for it, or that of its kind.
    pub title: String,
    /// What it is set to, in a word.
    pub words: String,
    /// Whether it does anything.
    pub on: bool,
    /// How many things are different in it in the articulation that is heard.
    pub differs: usize,
    /// Passed by for now.
    pub bypassed: bool,
    /// Whether it works now: it is on, not passed by, and not behind the one heard up to.
    pub works: bool,
    /// Whether what comes after it is passed by for now.
    pub last_heard: bool,
    /// The sections its values and choices stand in.
    pub sheet: Vec<SectionView>,
    pub values: Vec<ValueView>,
    pub choices: Vec<ChoiceView>,
    /// Those that say most of it, at most four.
    pub main: Vec<ValueView>,
    /// Of an EQ.
    pub bands: Vec<BandView>,
    /// Whether another band fits.
    pub takes_band: bool,
    /// Gain in decibels, evenly over logarithmic frequency; empty where it has none.
    pub curve: Vec<f64>,
    /// Lowest and highest gain while links move it; empty where they do not.
    pub swept: Vec<(f64, f64)>,
    /// What is drawn in it; none if nothing is.
    pub drawn: Option<ShapeView>,
    /// Of a drive: how it bends.
    pub bend: Option<BendView>,
    /// Share of the engine's time, 0 to 1, as far as is known beforehand.
    pub share: f64,
    /// What it is for.
    pub help: &'static str,
    /// What else is to be known: how late it is, or why it does nothing; empty if nothing.
    pub note: String,
}

/// The curve of a drive.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct BendView {
    /// What comes out, -1 to 1, for what is pressed in from -`reach` to `reach`, evenly.
    pub levels: Vec<f64>,
    pub reach: f64,
    /// How many times higher the sound is pressed in than it comes.
    pub gain: f64,
}

/// A band of an EQ.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct BandView {
    pub on: bool,
    /// What it is, in a word.
    pub label: &'static str,
    pub hz: f64,
    pub gain_db: f64,
    /// Whether its gain means anything.
    pub has_gain: bool,
    pub values: Vec<ValueView>,
    pub choices: Vec<ChoiceView>,
}

/// Draws up chains and effects.
pub(super) fn finish(patch: &Patch, listening: &Listening) -> FinishView {
    let into = |bus: Bus| -> Vec<String> {
        let leads = |s: &Send| matches!(s, Send::Output { bus: own, .. } if *own == bus);
        let routes = patch.routes.iter().filter(|r| leads(&r.send));
        routes
            .filter_map(|r| patch.unit(r.from))
            .map(|u| u.name.clone())
            .collect()
    };
    let chains = patch.finish.chains().map(|(id, chain)| {
        let from = match id.bus() {
            Some(bus) => into(bus),
            None => {
                let both = [ChainId::First, ChainId::Second];
                both.map(|id| patch.finish.chain(id).name.clone()).into()
            }
        };
        chain_view(patch, listening, id, chain, from)
    });
    FinishView {
        chains: chains.collect(),
        clean: into(Bus::Clean),
        outs: outs(patch),
        count: patch.finish.effects().count(),
    }
}

fn outs(patch: &Patch) -> Vec<OutView> {
    let out = |route: &Route| match route.send {
        Send::Output { bus, .. } => Some(OutView {
            route: route.id,
            unit: route.from,
            name: patch.unit(route.from)?.name.clone(),
            bus,
        }),
        _ => None,
    };
    patch.routes.iter().filter_map(out).collect()
}

fn chain_view(
    patch: &Patch,
    listening: &Listening,
    id: ChainId,
    chain: &Chain,
    from: Vec<String>,
) -> ChainView {
    let mut list = values(patch, Owner::Chain, id.number());
    let (common, second) = (&patch.finish.common.name, &patch.finish.second.name);
    for value in &mut list {
        value.label = match (id, value.address.param) {
            (ChainId::Common, _) => "Output level".into(),
            (_, param) if param == Chain::SECOND_DB => format!("To {second}"),
            _ => format!("To {common}"),
        };
    }
    list.retain(|v| id == ChainId::First || v.address.param != Chain::SECOND_DB);
    ChainView {
        id,
        name: chain.name.clone(),
        on: chain.on,
        muted: listening.muted_chains.contains(&id),
        soloed: listening.soloed_chains.contains(&id),
        bus: id.bus(),
        from,
        values: list,
        effects: chain
            .effects
            .iter()
            .map(|e| effect_view(patch, listening, e).into())
            .collect(),
        full: chain.effects.len() >= MAX_CHAIN_EFFECTS,
    }
}

/// Values of an effect, its own before those all effects have.
pub(crate) fn effect_values(patch: &Patch, effect: &Effect) -> Vec<ValueView> {
    let all = params()
        .filter(|row| row.owner == Owner::Effect && effect.is(row.when))
        .filter_map(|row| value_view(patch, Address::new(row.id, effect.id.0)));
    let mut list: Vec<ValueView> = all.collect();
    list.sort_by_key(|v| v.section);
    list
}

/// An effect.
pub(super) fn effect_view(patch: &Patch, listening: &Listening, effect: &Effect) -> EffectView {
    let name = effect.kind.name();
    let list = effect_values(patch, effect);
    let part = effect.kind.part();
    let rows = choices().filter(|row| effect.is(row.when));
    let chosen = rows.filter_map(|row| choice_view(row.id, part.chosen(row.id)?));
    let chosen: Vec<ChoiceView> = chosen.collect();
    let main = |id| list.iter().find(|v: &&ValueView| v.address.param == id);
    let mut shown: Vec<ValueView> = name
        .main_values()
        .iter()
        .filter_map(|id| main(*id))
        .take(3)
        .cloned()
        .collect();
    if shown.len() < 4 && name != EffectName::Eq {
        shown.extend(main(Effect::MIX).cloned());
    }
    let sections = [SectionId::Effect, SectionId::Bands, SectionId::Mix];
    let there = |id: &SectionId| {
        list.iter().any(|v| v.section == *id) || chosen.iter().any(|c| c.section == *id)
    };
    EffectView {
        id: effect.id,
        kind: name,
        title: effect.title().into(),
        words: words(effect, &chosen),
        on: effect.on,
        differs: differing_in_effect(patch, effect.id),
        bypassed: listening.bypassed.contains(&effect.id.into()),
        works: effect.on && listening.lets_work(patch, effect.id),
        last_heard: listening.up_to == Some(effect.id),
        sheet: sheet(sections.into_iter().filter(there)),
        takes_band: !effect.bands().is_empty() && effect.bands().len() < MAX_EQ_BANDS,
        bands: (0..effect.bands().len())
            .map(|at| band_view(patch, effect, at))
            .collect(),
        curve: curve(effect.bands()),
        swept: swept_curve(patch, effect),
        drawn: drawn(patch, effect),
        bend: bend(effect),
        share: effect_share(effect),
        help: name.help(),
        note: note(patch, effect),
        main: shown,
        values: list,
        choices: chosen,
    }
}

/// How late it is, or why it does nothing.
fn note(patch: &Patch, effect: &Effect) -> String {
    let listens = match &effect.kind {
        EffectKind::Compressor(c) => c.side == SideChain::Beat,
        EffectKind::Ducker(d) => d.by == DuckBy::Kick,
        _ => false,
    };
    if listens && !patch.playing.beat.has_kick() {
        return "No beat with a kick is chosen beside the phrase: there is nothing to step back for.".into();
    }
    if listens {
        return "Works while the phrase is played with its beat.".into();
    }
    let late_s = kind(effect.kind.name()).latency_frames(&Still::of(effect).setting(RATE_HZ))
        as f64
        / RATE_HZ;
    match late_s > 0.0 {
        true => format!(
            "Latency {}, compensated.",
            text::write_as(param(Compressor::AHEAD_S), late_s)
        ),
        false => String::new(),
    }
}

/// What it is set to: the first thing that is chosen, or how many bands there are.
fn words(effect: &Effect, chosen: &[ChoiceView]) -> String {
    if !effect.bands().is_empty() {
        let on = effect.bands().iter().filter(|b| b.on).count();
        return format!("{on} band{}", if on == 1 { "" } else { "s" });
    }
    let named = !effect.name.is_empty();
    let first = chosen.first().map(|c| match c.options[c.at] {
        "Off" => String::new(),
        "On" => c.label.to_lowercase(),
        option => option.to_lowercase(),
    });
    match (named, first) {
        (true, _) => effect.kind.name().label().to_lowercase(),
        (false, first) => first.unwrap_or_default(),
    }
}

fn band_view(patch: &Patch, effect: &Effect, at: usize) -> BandView {
    let band = &effect.bands()[at];
    let is = |when: When| match when {
        When::Chosen(id, options) => band
            .chosen(id)
            .is_some_and(|at| options.contains(&(at as u8))),
        _ => true,
    };
    let rows = params().filter(|row| row.owner == Owner::Band && is(row.when));
    let list = rows.filter_map(|row| value_view(patch, Address::band(effect.id, at, row.id)));
    let chosen = choices().filter(|row| is(row.when));
    let chosen = chosen.filter_map(|row| choice_view(row.id, band.chosen(row.id)?));
    let chosen: Vec<ChoiceView> = chosen.collect();
    BandView {
        on: band.on,
        label: chosen.first().map_or("", |c| c.options[c.at]),
        hz: band.hz,
        gain_db: band.gain_db,
        has_gain: is(param(EqBand::GAIN_DB).when),
        values: list.collect(),
        choices: chosen,
    }
}

/// Curves that are remembered: of all EQs of a patch, with their ends where links move them.
const CURVES: usize = 32;

thread_local! {
    /// Most edits leave an EQ alone, and its curve takes longer than all else that is shown of an effect.
    static KNOWN: RefCell<VecDeque<(Vec<EqBand>, Vec<f64>)>> = RefCell::default();
}

/// Gain of bands over logarithmic frequency, in decibels.
fn curve(bands: &[EqBand]) -> Vec<f64> {
    if bands.is_empty() {
        return vec![];
    }
    KNOWN.with_borrow_mut(|known| {
        if let Some((_, curve)) = known.iter().find(|(of, _)| of == bands) {
            return curve.clone();
        }
        known.truncate(CURVES - 1);
        known.push_front((bands.to_vec(), reckoned(bands)));
        known[0].1.clone()
    })
}

fn reckoned(bands: &[EqBand]) -> Vec<f64> {
    let curves: Vec<_> = bands
        .iter()
        .filter(|b| b.on)
        .map(|b| band_curve(b.what, b.slope, b.hz / RATE_HZ, b.gain_db, b.q))
        .collect();
    (0..CURVE)
        .map(|i| {
            let share = (i as f64 + 0.5) / CURVE as f64;
            let hz = LOWEST_HZ * (HIGHEST_HZ / LOWEST_HZ).powf(share);
            let gain: f64 = curves.iter().map(|c| c.gain(hz / RATE_HZ)).product();
            (gain_db(gain.max(1e-6)) * 100.0).round() / 100.0
        })
        .collect()
}

/// Lowest and highest gain with each moved value at both of its ends.
fn swept_curve(patch: &Patch, effect: &Effect) -> Vec<(f64, f64)> {
    let bands = effect.bands();
    let (mut low, mut high) = (bands.to_vec(), bands.to_vec());
    let mut moved = false;
    for at in 0..bands.len() {
        for row in EqBand::ROWS.params {
            let Some(ends) = swept(patch, Address::band(effect.id, at, row.id)) else {
                continue;
            };
            moved = true;
            for (to, value) in [(&mut low[at], ends.0), (&mut high[at], ends.1)] {
                if let Some(slot) = to.slot(row.id) {
                    slot.write(value);
                }
            }
        }
    }
    if !moved {
        return vec![];
    }
    let all = [curve(&low), curve(bands), curve(&high)];
    (0..CURVE)
        .map(|i| {
            let at = all.iter().map(|c| c[i]);
            (
                at.clone().fold(f64::MAX, f64::min),
                at.fold(f64::MIN, f64::max),
            )
        })
        .collect()
}

/// What is drawn in an effect, where it works by that.
pub(super) fn drawn(patch: &Patch, effect: &Effect) -> Option<ShapeView> {
    let points: &[ShapePoint] = effect.points();
    effect.works_by_drawing().then(|| ShapeView {
        points: points.to_vec(),
        values: (0..points.len())
            .map(|at| point_values(patch, effect.id, at))
            .collect(),
        picture: curve_points(&drawn_points(points), DRAWN)
            .into_iter()
            .map(|y| f64::from(0.5 + 0.5 * y))
            .collect(),
    })
}

/// How far beyond full scale the picture of a drive's curve goes.
const REACH: f64 = 2.0;

fn bend(effect: &Effect) -> Option<BendView> {
    let EffectKind::Drive(drive) = &effect.kind else {
        return None;
    };
    let levels = bent(drive, &drawn_points(&drive.points), REACH as f32, DRAWN);
    Some(BendView {
        levels: levels.into_iter().map(f64::from).collect(),
        reach: REACH,
        gain: db_gain(drive.drive_db),
    })
}

fn drawn_points(points: &[ShapePoint]) -> Vec<zolvik_effects::Point> {
    let each = points.iter().map(|p| zolvik_effects::Point {
        at: p.at as f32,
        level: p.level as f32,
        curve: p.curve as f32,
    });
    each.collect()
}

fn point_values(patch: &Patch, effect: EffectId, at: usize) -> Vec<ValueView> {
    let ids = [ShapePoint::AT, ShapePoint::LEVEL, ShapePoint::CURVE];
    let address = |id| Address::band(effect, at, id);
    ids.into_iter()
        .filter_map(|id| value_view(patch, address(id)))
        .collect()
}
