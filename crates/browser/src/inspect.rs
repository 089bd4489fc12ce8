//! What the inspector shows beside values: the wave as cycle and bars, what ratios do, and arrangements to choose from.

use serde::Serialize;
use zolvik_edit::arrangement::{Layout, Place, assign, layouts, operators};
use zolvik_edit::{Edit, apply};
use zolvik_engine::picture::shaped;
use zolvik_layout::rails::{Rail, rails};
use zolvik_patch::Patch;
use zolvik_patch::character::{Offer, character, modulators, offers, together};
use zolvik_patch::document::{Operator, TunedBy, UnitId};
use zolvik_patch::envelope::{READY, Ready};
use zolvik_patch::graph::rows;
use zolvik_patch::movement::ShapePoint;
use zolvik_patch::movement::shape::{READY_SHAPES, ReadyShape, level_at};
use zolvik_patch::pitch::{auditioned_hz, nominal_ratio};
use zolvik_patch::sound::{ReadySound, Sound};
use zolvik_patch::wave::{Bars, MAX_BARS, Wave};
use zolvik_waves::bars::to_bars;
use zolvik_waves::cycles::{cycles, spectrum_at};

/// What the inspector shows of a unit beside its values.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct InspectView {
    /// An operator's wave as pictures.
    pub wave: Option<WaveView>,
    /// What the unit and all that moves it make, in words; none where nothing moves it.
    pub character: Option<String>,
    /// Ratios near its own that would sound otherwise on the unit it moves.
    pub offers: Vec<Offer>,
    /// Name of that unit.
    pub offered_for: String,
}

/// A wave as pictures.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct WaveView {
    /// One cycle as it is played, shaped, evenly spaced, about -1 to 1.
    pub cycle: Vec<f32>,
    /// Amplitudes of the first partials as they are played, the strongest being 1.
    pub partials: Vec<f32>,
    /// Whether cycle or harmonics are shaped.
    pub shaped: bool,
    /// The cycle before that.
    pub plain: Vec<f32>,
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

/// A recording to choose.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct SoundChoice {
    /// What is played.
    #[serde(skip)]
    #[cfg_attr(feature = "types", ts(skip))]
    pub sound: Sound,
    pub label: String,
    /// The family it is listed under.
    pub family: &'static str,
}

/// The recordings of the application, then those the patch has.
pub fn sounds(patch: &Patch) -> Vec<SoundChoice> {
    let ready = ReadySound::ALL.into_iter().map(|ready| SoundChoice {
        sound: Sound::Ready(ready),
        label: ready.label().into(),
        family: if ready.is_attack() {
            "Attacks"
        } else {
            "Textures"
        },
    });
    let mut list: Vec<SoundChoice> = ready.collect();
    for played in zolvik_waves::recording::samples(patch) {
        let sample = played.sample;
        if let Sound::Own(own) = &sample.sound
            && list.iter().all(|c| c.sound != sample.sound)
        {
            list.push(SoundChoice {
                sound: sample.sound.clone(),
                label: own.name.clone(),
                family: "Own",
            });
        }
    }
    list
}

/// An envelope to choose.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct ReadyView {
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

/// The drawn cycles that come with the application.
pub fn ready_shapes() -> Vec<ReadyView> {
    let view = |ready: &ReadyShape| ReadyView {
        name: ready.name,
        picture: shape_picture(&ready.points()),
    };
    READY_SHAPES.iter().map(view).collect()
}

/// Levels of a drawn cycle, evenly spaced.
pub fn shape_picture(points: &[ShapePoint]) -> Vec<f64> {
    const COLUMNS: usize = 65;
    let at = |i: usize| level_at(points, i as f64 / (COLUMNS - 1) as f64);
    (0..COLUMNS)
        .map(|i| (at(i) * 1000.0).round() / 1000.0)
        .collect()
}

/// Points of the inspector's cycle; those of a list are half as many.
const POINTS: usize = 128;
/// Points of a cycle that is to be shaped.
const FINE: usize = 512;
/// Partials shown.
const SHOWN: usize = 32;

/// Draws up what the inspector shows; none if there is no such unit.
pub fn inspect(patch: &Patch, id: UnitId) -> Option<InspectView> {
    let unit = patch.unit(id)?;
    let hz = auditioned_hz(patch);
    let Some(operator) = unit.oscillator() else {
        return Some(InspectView {
            wave: None,
            character: None,
            offers: vec![],
            offered_for: String::new(),
        });
    };
    let own = nominal_ratio(operator, hz);
    let sources: Vec<f64> = modulators(patch, id).iter().map(|(_, r)| *r).collect();
    let target = patch
        .sends(id)
        .filter_map(|r| r.send.target())
        .find(|to| *to != id)
        .and_then(|to| patch.unit(to));
    let offered = target
        .and_then(|t| t.oscillator())
        .filter(|_| operator.tuned_by == TunedBy::Ratio);
    Some(InspectView {
        wave: Some(wave_view(patch, operator)),
        character: match (character(own, &sources).map(|c| c.words), together(patch)) {
            (Some(own), Some(all)) => Some(format!("{own}. {all}")),
            (own, all) => own.or(all),
        },
        offers: offered.map_or_else(Vec::new, |t| offers(nominal_ratio(t, hz), own)),
        offered_for: target.map_or_else(String::new, |t| t.name.clone()),
    })
}

/// A unit's wave as pictures; none if it has no wave.
pub(crate) fn unit_wave(patch: &Patch, id: UnitId) -> Option<WaveView> {
    Some(wave_view(patch, patch.unit(id)?.oscillator()?))
}

fn wave_view(patch: &Patch, operator: &Operator) -> WaveView {
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
    let is_shaped = !(operator.cycle.is_plain() && operator.harmonics.is_plain());
    let amplitudes: Vec<f32> = part(&|(amplitude, _)| amplitude);
    let (cycle, partials) = match is_shaped {
        false => (points(&spectrum, POINTS), amplitudes[..SHOWN].to_vec()),
        true => {
            let fine: Vec<f32> = spectrum
                .cycle(FINE, MAX_BARS)
                .iter()
                .map(|x| *x as f32)
                .collect();
            let shaped = shaped(operator, &fine, SHOWN);
            let most = shaped.amplitudes.iter().fold(1e-6f32, |a, b| a.max(*b));
            let rounded = |x: f32| (x * 1000.0).round() / 1000.0;
            (
                shaped
                    .cycle
                    .iter()
                    .step_by(FINE / POINTS)
                    .map(|x| rounded(*x))
                    .collect(),
                shaped
                    .amplitudes
                    .iter()
                    .map(|a| rounded(a / most))
                    .collect(),
            )
        }
    };
    WaveView {
        cycle,
        partials,
        shaped: is_shaped,
        plain: points(&spectrum, POINTS),
        amplitudes,
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
pub fn bars_of(patch: &Patch, operator: &Operator) -> Bars {
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
    let list = layouts(operators(patch).len());
    list.iter()
        .filter_map(|layout| laid(patch, layout))
        .collect()
}

/// An arrangement laid on the operators there are; none if it is for another number of them.
pub fn laid(patch: &Patch, layout: &Layout) -> Option<ArrangementView> {
    if layout.0.len() != operators(patch).len() {
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
