//! What the inspector shows beside values: the wave as cycle and bars, what ratios do, and arrangements to choose from.

use serde::Serialize;
use zolvik_patch::Patch;
use zolvik_patch::arrange::{Rail, rails, rows};
use zolvik_patch::arrangement::{Layout, Place, assign, layouts};
use zolvik_patch::character::{Offer, character, modulators, offers};
use zolvik_patch::document::{TunedBy, Unit, UnitId};
use zolvik_patch::edit::{Edit, apply};
use zolvik_patch::envelope::{READY, Ready};
use zolvik_patch::pitch::{auditioned_hz, nominal_ratio};
use zolvik_patch::wave::{Bars, MAX_BARS, Wave};
use zolvik_waves::spectrum::{cycles, spectrum_at, to_bars};

/// What the inspector shows of a unit beside its values.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct InspectView {
    /// Its wave as pictures.
    pub wave: WaveView,
    /// What the unit and all that moves it make, in words; none where nothing moves it.
    pub character: Option<String>,
    /// Ratios near its own that would sound otherwise on the unit it moves.
    pub offers: Vec<Offer>,
    /// Name of that unit.
    pub offered_for: String,
}

/// A wave as pictures.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct WaveView {
    /// One cycle, evenly spaced, about -1 to 1.
    pub cycle: Vec<f32>,
    /// Amplitudes of harmonics 1 to 64, the strongest being 1.
    pub amplitudes: Vec<f32>,
    /// Phases of harmonics 1 to 64, in turns.
    pub phases_turns: Vec<f32>,
    /// Cycles the table has, 1 for plain waves.
    pub cycles: usize,
}

/// A wave to choose.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct WaveChoice {
    /// The wave.
    #[serde(skip)]
    #[cfg_attr(feature = "types", ts(skip))]
    pub wave: Wave,
    /// Its name.
    pub label: String,
    /// The family it is listed under.
    pub family: String,
    /// One cycle from its middle, evenly spaced.
    pub cycle: Vec<f32>,
}

/// An arrangement for the operators of a patch, as small rails.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct ArrangementView {
    /// Where each unit leads.
    #[serde(skip)]
    #[cfg_attr(feature = "types", ts(skip))]
    pub places: Vec<Place>,
    /// Units from top to bottom.
    pub rows: Vec<UnitId>,
    /// Rails beside them.
    pub rails: Vec<Rail>,
    /// How many are heard.
    pub carriers: usize,
    /// Whether the patch is arranged so now.
    pub present: bool,
}

/// An envelope to choose.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct ReadyView {
    /// Its name.
    pub name: &'static str,
    /// Levels from press to silence, evenly spaced.
    pub picture: Vec<f64>,
}

/// The envelopes that come with the application.
pub fn ready_envelopes() -> Vec<ReadyView> {
    let rounded = |x: f64| (x * 1000.0).round() / 1000.0;
    let view = |ready: &Ready| ReadyView {
        name: ready.name,
        picture: ready
            .envelope()
            .picture(48)
            .into_iter()
            .map(rounded)
            .collect(),
    };
    READY.iter().map(view).collect()
}

/// Points of the inspector's cycle; those of a list are half as many.
const POINTS: usize = 128;

/// Draws up what the inspector shows; none if there is no such unit.
pub fn inspect(patch: &Patch, id: UnitId) -> Option<InspectView> {
    let unit = patch.unit(id)?;
    let hz = auditioned_hz(patch);
    let own = nominal_ratio(unit.oscillator(), hz);
    let sources: Vec<f64> = modulators(patch, id).iter().map(|(_, r)| *r).collect();
    let target = patch
        .sends(id)
        .filter_map(|r| r.send.target())
        .find(|to| *to != id)
        .and_then(|to| patch.unit(to));
    let offered = target.filter(|_| unit.oscillator().tuned_by == TunedBy::Ratio);
    Some(InspectView {
        wave: wave_view(patch, unit),
        character: character(own, &sources).map(|c| c.words),
        offers: offered.map_or_else(Vec::new, |t| offers(nominal_ratio(t.oscillator(), hz), own)),
        offered_for: target.map_or_else(String::new, |t| t.name.clone()),
    })
}

fn wave_view(patch: &Patch, unit: &Unit) -> WaveView {
    let operator = unit.oscillator();
    let spectrum = spectrum_at(
        &operator.wave,
        &patch.tables,
        operator.position,
        operator.width,
    );
    // bars drawn by hand are shown as they were drawn
    let bars = match &operator.wave {
        Wave::Bars(bars) => bars.clone(),
        _ => to_bars(&spectrum),
    };
    let part = |of: &dyn Fn((f64, f64)) -> f64| {
        (1..=MAX_BARS)
            .map(|n| of(bars.harmonic(n)) as f32)
            .collect()
    };
    WaveView {
        cycle: points(&spectrum, POINTS),
        amplitudes: part(&|(amplitude, _)| amplitude),
        phases_turns: part(&|(_, phase)| phase),
        cycles: cycles(&operator.wave, &patch.tables),
    }
}

fn points(spectrum: &zolvik_waves::Spectrum, count: usize) -> Vec<f32> {
    let cycle = spectrum.cycle(count, MAX_BARS);
    cycle
        .iter()
        .map(|x| (x * 1000.0).round() as f32 / 1000.0)
        .collect()
}

/// The bars of a unit's wave as it is now.
pub fn bars_of(patch: &Patch, unit: &Unit) -> Bars {
    let operator = unit.oscillator();
    match &operator.wave {
        Wave::Bars(bars) => bars.clone(),
        wave => to_bars(&spectrum_at(
            wave,
            &patch.tables,
            operator.position,
            operator.width,
        )),
    }
}

/// All waves, those of the application first, then the patch's own tables.
pub fn waves(patch: &Patch) -> Vec<WaveChoice> {
    let own = patch.tables.iter().map(|t| Wave::Own(t.id));
    let choice = |wave: Wave| {
        let (label, family) = wave_name(patch, &wave);
        let spectrum = spectrum_at(&wave, &patch.tables, 0.5, 0.25);
        WaveChoice {
            cycle: points(&spectrum, POINTS / 2),
            label,
            family,
            wave,
        }
    };
    Wave::all().chain(own).map(choice).collect()
}

/// Name and family of a wave.
pub fn wave_name(patch: &Patch, wave: &Wave) -> (String, String) {
    let (label, family) = match wave {
        Wave::Shape(shape) => (shape.label(), shape.family()),
        Wave::Table(table) => (table.label(), table.family()),
        Wave::Bars(_) => ("Own bars", "Own"),
        Wave::Own(id) => {
            let name = patch
                .table(*id)
                .map_or("Missing table", |t| t.name.as_str());
            (name, "Own tables")
        }
    };
    (label.into(), family.into())
}

/// The arrangements worth trying with the operators there are.
pub fn arrangements(patch: &Patch) -> Vec<ArrangementView> {
    let list = layouts(patch.units.len());
    list.iter()
        .filter_map(|layout| laid(patch, layout))
        .collect()
}

/// An arrangement laid on the operators there are; none if it is for another number of them.
pub fn laid(patch: &Patch, layout: &Layout) -> Option<ArrangementView> {
    if layout.0.len() != patch.units.len() {
        return None;
    }
    let places = assign(patch, layout);
    let (next, _) = apply(
        patch,
        &Edit::Arrange {
            places: places.clone(),
        },
    )
    .ok()?;
    let ends = |p: &Patch| {
        let mut list: Vec<_> = p.routes.iter().map(|r| (r.from, r.send.target())).collect();
        list.sort_unstable();
        list
    };
    Some(ArrangementView {
        rows: rows(&next),
        rails: rails(&next),
        carriers: layout.carriers(),
        present: ends(&next) == ends(patch),
        places,
    })
}
