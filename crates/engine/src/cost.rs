//! What units cost, as multiples of a plain sine: measured once by `benches/cost.rs`, for the screen.

use zolvik_effects::{Still, kind};
use zolvik_patch::address::Address;
use zolvik_patch::document::{FilterType, Operator, Patch, Sample, Unit, UnitId, UnitKind};
use zolvik_patch::finish::Effect;
use zolvik_patch::graph::{components, is_feedback};
use zolvik_patch::pitch::{auditioned_hz, running_hz};
use zolvik_patch::wave::{Shape, Wave};

use crate::program::{Copies, stereo};
use crate::realtime::nodes::operator::shapes_partials;
use crate::realtime::nodes::partials::MOST_SUMMED;

/// Work of the units of a patch in one note, where that of a plain sine is 1.
pub struct Costs {
    units: Vec<(UnitId, f64)>,
    quality: f64,
}

impl Costs {
    /// Reckons up a patch. Every unit works in as many voices as the copies of a note take, and what works in stereo twice in each.
    pub fn of(patch: &Patch) -> Self {
        let voices = f64::from(Copies::new(patch).lanes);
        let wide = stereo(patch);
        let times = |unit: &Unit| voices * if wide.contains(&unit.id) { 2.0 } else { 1.0 };
        let rings = rings(patch);
        let of = |unit: &Unit| (unit.id, cost_beside(patch, unit, &rings) * times(unit));
        Costs {
            units: patch.units.iter().map(of).collect(),
            quality: patch.times_rate_auditioned() as f64,
        }
    }

    /// Work of one unit.
    pub fn unit(&self, id: UnitId) -> f64 {
        let found = self.units.iter().find(|unit| unit.0 == id);
        found.map_or(0.0, |unit| unit.1)
    }

    /// Work of all of them, as many times as the quality says for the auditioned note.
    pub fn whole(&self) -> f64 {
        self.units.iter().map(|unit| unit.1).sum::<f64>() * self.quality
    }
}

/// Work of a unit in one voice, where that of a plain sine is 1.
pub fn cost(patch: &Patch, unit: &Unit) -> f64 {
    cost_beside(patch, unit, &rings(patch))
}

/// Units that move each other round and round.
fn rings(patch: &Patch) -> Vec<Vec<UnitId>> {
    let mut all = components(patch);
    all.retain(|component| is_feedback(patch, component));
    all
}

fn cost_beside(patch: &Patch, unit: &Unit, rings: &[Vec<UnitId>]) -> f64 {
    let own = match &unit.kind {
        UnitKind::Operator(operator) => {
            let wave = match &operator.wave {
                Wave::Shape(Shape::Sine) => 1.0,
                Wave::Shape(Shape::Pulse) => 3.5,
                wave if wave.is_scanned() => 3.2,
                _ => 2.5,
            };
            let cycle = &operator.cycle;
            let reach = match &operator.wave {
                Wave::Shape(Shape::Sine) if cycle.is_plain() => 1.0,
                Wave::Shape(Shape::Sine) => 40.0,
                Wave::Bars(bars) if cycle.is_plain() => bars.amplitudes.len() as f64,
                _ => 256.0,
            };
            let partials = operator.harmonics.high.min(reach);
            match (operator.harmonics.is_plain(), cycle.is_plain()) {
                (false, _) if sums_up(patch, unit.id, operator, partials) => 2.6,
                (false, _) => 4.0 + 0.1 * partials,
                (true, true) => wave,
                (true, false) => {
                    let times = if cycle.repeat > 1.0 { 2.0 } else { 1.0 };
                    let fold = if cycle.fold > 0.0 { 1.3 } else { 0.0 };
                    3.3 + wave * times + 0.6 * (times - 1.0) + fold
                }
            }
        }
        UnitKind::Noise(noise) => 1.4 + if noise.colour_db == 0.0 { 0.0 } else { 0.9 },
        // read closely where it is no faster than recorded, else through a steep slope
        UnitKind::Sample(sample) if times_recorded(patch, sample) <= 1.0 => 6.0,
        UnitKind::Sample(_) => 17.5,
        UnitKind::Filter(filter) => match filter.response {
            FilterType::CombPlus | FilterType::CombMinus => 5.0,
            FilterType::Vowel => 4.4,
            _ if filter.slope == zolvik_patch::document::Slope::Db24 => 3.3,
            _ => 2.7,
        },
        UnitKind::Shaper(_) => 9.0,
        UnitKind::Level(_) => 1.3,
    };
    let looped = rings.iter().any(|ring| ring.contains(&unit.id));
    own + if looped { 1.5 } else { 0.0 }
}

/// Whether partials are read as a cycle they were summed up to: nothing moves them, they are bound to the pitch, and all fit at the auditioned note.
fn sums_up(patch: &Patch, id: UnitId, operator: &Operator, partials: f64) -> bool {
    let harmonics = &operator.harmonics;
    let is_bound = harmonics.spacing == 1.0 && harmonics.shift == 0.0;
    let hz = running_hz(patch, id, operator, auditioned_hz(patch));
    let half_hz = 0.5 * 48_000.0 * patch.times_rate_auditioned() as f64;
    let moves = |to: Address| to.id == id.0 && shapes_partials(to.param);
    let is_moved = patch
        .movement
        .links
        .iter()
        .any(|link| link.on && moves(link.to));
    is_bound && !is_moved && partials <= MOST_SUMMED as f64 && (partials + 0.5) * hz <= half_hz
}

/// How many times as fast as recorded a sample goes from frame to frame at the auditioned note, where both have the same rate.
fn times_recorded(patch: &Patch, sample: &Sample) -> f64 {
    let above = match sample.key_follow {
        true => f64::from(patch.audition.note) - f64::from(sample.root_key),
        false => 0.0,
    };
    let octaves = (above + sample.semitones) / 12.0;
    libm::exp2(octaves) / patch.times_rate_auditioned() as f64
}

/// Share of the engine's time an effect takes in the browser at 48 kHz, 0 to 1.
pub fn effect_share(effect: &Effect) -> f64 {
    match effect.on {
        true => kind(effect.kind.name()).load(&Still::of(effect).setting(48_000.0)),
        false => 0.0,
    }
}
