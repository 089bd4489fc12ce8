//! Why it sounds so: which partials theory expects of a patch at one moment, which combination of operators makes each, and how
//! strong it is.
//!
//! A sine moved in phase by a sine has the partials `J_n(index)` at `carrier + n modulator` (Chowning, "The Synthesis of Complex Audio Spectra by
//! Means of Frequency Modulation", 1973); several modulators multiply, and a modulator that is itself modulated is the sum of its
//! own partials (Schottstaedt, "The Simulation of Natural Instrument Tones using Frequency Modulation with a Complex Modulating Wave",
//! 1977). An operator that feeds itself below an index of 1 has the harmonics `2 J_n(n index) / (n index)`, Kepler's equation as Bessel
//! solved it (1824).

use std::collections::BTreeMap;

use serde::Serialize;
use zolvik_patch::Patch;
use zolvik_patch::document::{Filter, Operator, RouteKind, Send, UnitId, UnitKind};
use zolvik_patch::filter::cutoff_hz;
use zolvik_patch::hearing::Listening;
use zolvik_patch::levels::{db_gain, pan_gains};
use zolvik_patch::pitch::{auditioned_hz, operator_hz};
use zolvik_waves::cycles::spectrum_at;

use crate::response;
use crate::spectrum::Partial;

type C = rustfft::num_complex::Complex<f64>;

/// Partials weaker than this, against the strongest, are left out.
const FLOOR: f64 = 1e-4;
/// Most partials followed at once.
const MOST: usize = 600;
/// Most harmonics of a wave that are followed.
const HARMONICS: usize = 24;
/// Longest chain followed; whatever lies deeper moves nothing.
const DEEPEST: usize = 6;
/// Most combinations worked out for one moment; a patch that needs more has no theory anybody could read.
const BUDGET: usize = 24_000;
/// Most tones that move one phase.
const MOVERS: usize = 16;

/// Where a partial ended up that began elsewhere.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum Fold {
    /// Below 0 Hz, and so mirrored up.
    Zero,
    /// Beyond half the sample rate, and so mirrored down.
    Rate,
}

/// A partial and what makes it.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Explained {
    /// Where it is heard, in hertz.
    pub hz: f64,
    /// How strong theory has it, in dB of full scale.
    pub predicted_db: f64,
    /// How strong it is in the rendered sound; none where no partial stands out there.
    pub measured_db: Option<f64>,
    /// The strongest combination that makes it, in words, such as `Body − 2 × Mallet`.
    pub words: String,
    /// How many combinations meet there.
    pub meeting: usize,
    /// The operator that causes it: the modulator that counts most in it, or the carrier itself.
    pub by: UnitId,
    /// All units that take part in it.
    pub units: Vec<UnitId>,
    /// Whether it was mirrored.
    pub folded: Option<Fold>,
}

/// Everything theory says of a moment.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Explanation {
    /// Strongest first.
    pub partials: Vec<Explained>,
    /// What is heard but has no closed theory, in words; empty if all of it has.
    pub beyond: Vec<String>,
}

/// One partial on its way: `Im(amplitude e^(i 2 pi hz t))`.
#[derive(Debug, Clone)]
struct Tone {
    /// With sign.
    hz: f64,
    amplitude: C,
    /// How many times each unit's frequency is in it.
    orders: BTreeMap<UnitId, i32>,
}

/// What is known of the moment.
pub struct Moment<'a> {
    /// The patch.
    pub patch: &'a Patch,
    /// What is muted and soloed.
    pub listening: &'a Listening,
    /// What each unit puts out, 0 to 1.
    pub amplitudes: &'a dyn Fn(UnitId) -> f64,
    /// Sample rate the sound was rendered at.
    pub rate_hz: f64,
}

/// Explains a moment; `measured` are the partials found there.
pub fn explain(moment: &Moment, measured: &[Partial]) -> Explanation {
    let mut theory = Theory {
        moment,
        key_hz: auditioned_hz(moment.patch),
        beyond: vec![],
        path: vec![],
        spent: 0,
    };
    let mut heard: Vec<Tone> = vec![];
    for route in &moment.patch.routes {
        let Send::Output { pan, .. } = route.send else {
            continue;
        };
        let open = route.on
            && moment.listening.lets_through(moment.patch, route)
            && moment.listening.brings_solo(moment.patch, route.from);
        // the spectrum is that of the mean of both channels
        let [left, right] = pan_gains(pan);
        let gain = moment.patch.strength(route) * 0.5 * (left + right);
        if !open || gain <= 0.0 {
            continue;
        }
        heard.extend(theory.tones(route.from, 0).into_iter().map(|tone| Tone {
            amplitude: tone.amplitude * gain * trim(moment.patch),
            ..tone
        }));
    }
    let mut beyond = theory.beyond;
    // copies and drift part each line into several around it
    let voice = &moment.patch.voice;
    if voice.unison.copies > 1 {
        beyond.push("the copies of unison, which part each line".into());
    }
    if voice.drift_cents > 0.0 {
        beyond.push("drift, which moves each line".into());
    }
    beyond.dedup();
    Explanation {
        partials: meet(moment, heard, measured),
        beyond,
    }
}

fn trim(patch: &Patch) -> f64 {
    db_gain(patch.voice.trim_db)
}

struct Theory<'a> {
    moment: &'a Moment<'a>,
    key_hz: f64,
    beyond: Vec<String>,
    /// Units on the way from the output, to find loops.
    path: Vec<UnitId>,
    /// Combinations worked out.
    spent: usize,
}

impl Theory<'_> {
    /// What a unit puts out.
    fn tones(&mut self, id: UnitId, deep: usize) -> Vec<Tone> {
        let patch = self.moment.patch;
        let Some(unit) = patch.unit(id) else {
            return vec![];
        };
        let is_muted = self.moment.listening.muted.contains(&id);
        let passes_by = !unit.on || self.moment.listening.bypassed.contains(&id);
        let level = (self.moment.amplitudes)(id);
        if is_muted || deep > DEEPEST {
            return vec![];
        }
        // what runs in a circle has no closed form
        if self.path.contains(&id) || self.spent > BUDGET {
            self.beyond.push(unit.name.clone());
            return vec![];
        }
        self.path.push(id);
        let tones = match &unit.kind {
            UnitKind::Operator(operator) if level > 0.0 => self.operator(id, operator, level, deep),
            UnitKind::Filter(filter) => {
                let fed = self.fed(id, deep);
                match passes_by {
                    true => fed,
                    false => self.filtered(filter, level, fed),
                }
            }
            UnitKind::Shaper(_) if passes_by => self.fed(id, deep),
            UnitKind::Shaper(_) | UnitKind::Noise(_) | UnitKind::Sample(_) => {
                self.beyond.push(unit.name.clone());
                vec![]
            }
            UnitKind::Operator(_) => vec![],
        };
        let tones = self.multiplied(id, tones, deep);
        self.path.pop();
        tones
    }

    /// What goes into a filter or shaper.
    fn fed(&mut self, id: UnitId, deep: usize) -> Vec<Tone> {
        let patch = self.moment.patch;
        let mut all = vec![];
        for route in &patch.routes {
            match route.send {
                Send::Audio { to, .. } if to == id && self.is_open(route) => {
                    let gain = patch.strength(route);
                    let tones = self.tones(route.from, deep + 1).into_iter();
                    all.extend(tones.map(|tone| Tone {
                        amplitude: tone.amplitude * gain,
                        ..tone
                    }));
                }
                _ => {}
            }
        }
        all
    }

    fn is_open(&self, route: &zolvik_patch::document::Route) -> bool {
        route.on && self.moment.listening.lets_through(self.moment.patch, route)
    }

    fn filtered(&self, filter: &Filter, level: f64, fed: Vec<Tone>) -> Vec<Tone> {
        let cutoff = cutoff_hz(filter, self.key_hz, level);
        let rate_hz = self.moment.rate_hz * self.moment.patch.voice.quality.factor() as f64;
        fed.into_iter()
            .map(|tone| Tone {
                amplitude: tone.amplitude * response::gain(filter, cutoff, tone.hz.abs(), rate_hz),
                ..tone
            })
            .collect()
    }

    /// An operator's wave with everything that moves its phase.
    fn operator(&mut self, id: UnitId, operator: &Operator, level: f64, deep: usize) -> Vec<Tone> {
        let patch = self.moment.patch;
        if !operator.cycle.is_plain() || !operator.harmonics.is_plain() {
            self.beyond
                .push(patch.unit(id).map_or_else(String::new, |u| u.name.clone()));
            return vec![];
        }
        let hz = operator_hz(operator, self.key_hz);
        let mut movers: Vec<Tone> = vec![];
        let mut own_index = 0.0;
        for route in patch.routes.iter().filter(|r| r.send.target() == Some(id)) {
            if !self.is_open(route) {
                continue;
            }
            match route.send {
                Send::Phase { index_rad, .. } if route.from == id => own_index = index_rad * level,
                Send::Phase { index_rad, .. } => {
                    movers.extend(scaled(self.tones(route.from, deep + 1), |_| {
                        C::new(index_rad, 0.0)
                    }));
                }
                Send::Frequency { deviation, .. } => {
                    // the phase is the sum of the frequency: a sine becomes a cosine, turned over
                    movers.extend(scaled(self.tones(route.from, deep + 1), |from_hz| {
                        C::new(0.0, -deviation * hz / from_hz)
                    }));
                }
                _ => {}
            }
        }
        movers = strongest(movers);
        movers.sort_by(|a, b| b.amplitude.norm_sqr().total_cmp(&a.amplitude.norm_sqr()));
        movers.truncate(MOVERS);
        let mut waves = harmonics(patch, operator);
        if own_index > 0.0 {
            if own_index >= 1.0 || waves.len() > 1 {
                self.beyond
                    .push(patch.unit(id).map_or_else(String::new, |u| u.name.clone()));
            }
            let index = own_index.min(0.999);
            waves = (1..=HARMONICS as i32)
                .map(|n| {
                    let z = f64::from(n) * index;
                    (n, C::new(2.0 * libm::jn(n, z) / z, 0.0))
                })
                .collect();
        }
        let start = std::f64::consts::TAU * operator.start_turns;
        let mut all = vec![];
        for (n, amplitude) in waves {
            let times = f64::from(n);
            let first = Tone {
                hz: hz * times,
                amplitude: amplitude * level * C::from_polar(1.0, times * start),
                orders: [(id, n)].into(),
            };
            all.extend(self.moved(first, times, &movers));
        }
        // half an answer would be a wrong one
        if self.spent > BUDGET {
            let name = patch.unit(id).map_or_else(String::new, |u| u.name.clone());
            self.beyond.push(name);
            return vec![];
        }
        strongest(all)
    }

    /// A tone whose phase is moved by others, `times` as far: for each a row of sidebands.
    fn moved(&mut self, first: Tone, times: f64, movers: &[Tone]) -> Vec<Tone> {
        let loudest = first.amplitude.norm();
        let mut list = vec![first];
        for mover in movers {
            let (index, angle) = (mover.amplitude * times).to_polar();
            let reach = (index + 3.0 * index.cbrt() + 2.0).min(80.0) as i32;
            let mut next = vec![];
            if self.spent > BUDGET {
                return vec![];
            }
            for tone in &list {
                for n in -reach..=reach {
                    let strength = libm::jn(n, index);
                    if (strength * tone.amplitude.norm()).abs() < FLOOR * 0.1 * loudest {
                        continue;
                    }
                    let turned = C::from_polar(1.0, f64::from(n) * angle) * strength;
                    next.push(joined(tone, mover, n, tone.amplitude * turned));
                    self.spent += 1;
                }
            }
            list = strongest(next);
        }
        list
    }

    /// Ring and amplitude modulation of what a unit puts out.
    fn multiplied(&mut self, id: UnitId, mut tones: Vec<Tone>, deep: usize) -> Vec<Tone> {
        let patch = self.moment.patch;
        for route in patch.routes.iter().filter(|r| r.send.target() == Some(id)) {
            let (plain, depth) = match route.send {
                Send::Ring { mix, .. } => (1.0 - mix, mix),
                Send::Amplitude { amount, .. } => (1.0, amount),
                _ => continue,
            };
            if !self.is_open(route) || route.send.kind() == Some(RouteKind::Audio) {
                continue;
            }
            let by = self.tones(route.from, deep + 1);
            let mut next: Vec<Tone> = tones
                .iter()
                .map(|tone| Tone {
                    amplitude: tone.amplitude * plain,
                    ..tone.clone()
                })
                .collect();
            let half = C::new(0.0, 0.5 * depth);
            for tone in &tones {
                self.spent += 2 * by.len();
                if self.spent > BUDGET {
                    break;
                }
                for other in &by {
                    // Im a e^ix Im b e^iy = Im i/2 (a b* e^i(x-y) - a b e^i(x+y))
                    next.push(joined(
                        tone,
                        other,
                        -1,
                        half * tone.amplitude * other.amplitude.conj(),
                    ));
                    next.push(joined(
                        tone,
                        other,
                        1,
                        -half * tone.amplitude * other.amplitude,
                    ));
                }
            }
            tones = strongest(next);
        }
        tones
    }
}

fn scaled(tones: Vec<Tone>, by: impl Fn(f64) -> C) -> impl Iterator<Item = Tone> {
    tones.into_iter().map(upright).map(move |tone| Tone {
        amplitude: tone.amplitude * by(tone.hz.max(1e-3)),
        ..tone
    })
}

/// The same tone with a frequency above zero: `Im a e^-ix = Im -a* e^ix`.
fn upright(tone: Tone) -> Tone {
    if tone.hz >= 0.0 {
        return tone;
    }
    Tone {
        hz: -tone.hz,
        amplitude: -tone.amplitude.conj(),
        orders: tone.orders.iter().map(|(id, n)| (*id, -n)).collect(),
    }
}

fn joined(tone: &Tone, other: &Tone, times: i32, amplitude: C) -> Tone {
    let mut orders = tone.orders.clone();
    for (id, n) in &other.orders {
        *orders.entry(*id).or_insert(0) += n * times;
    }
    Tone {
        hz: tone.hz + other.hz * f64::from(times),
        amplitude,
        orders,
    }
}

/// The strongest tones, those of the same combination as one.
fn strongest(tones: Vec<Tone>) -> Vec<Tone> {
    let mut by_orders: BTreeMap<BTreeMap<UnitId, i32>, Tone> = BTreeMap::new();
    for tone in tones {
        match by_orders.get_mut(&tone.orders) {
            Some(same) => same.amplitude += tone.amplitude,
            None => drop(by_orders.insert(tone.orders.clone(), tone)),
        }
    }
    let mut tones: Vec<Tone> = by_orders.into_values().collect();
    if tones.len() > MOST {
        tones.sort_by(|a, b| b.amplitude.norm_sqr().total_cmp(&a.amplitude.norm_sqr()));
        tones.truncate(MOST);
    }
    tones
}

/// The harmonics of an operator's wave, those that count.
fn harmonics(patch: &Patch, operator: &Operator) -> Vec<(i32, C)> {
    let wave = spectrum_at(
        &operator.wave,
        &patch.tables,
        operator.position,
        operator.width,
    );
    let both = wave.sine.iter().zip(&wave.cosine);
    let mut list: Vec<(i32, C)> = both
        .enumerate()
        .map(|(i, (sine, cosine))| (i as i32 + 1, C::new(*sine, *cosine)))
        .filter(|(_, c)| c.norm() > FLOOR)
        .collect();
    list.sort_by(|a, b| b.1.norm_sqr().total_cmp(&a.1.norm_sqr()));
    list.truncate(HARMONICS);
    list
}

/// Tones that meet at one frequency are one partial.
fn meet(moment: &Moment, tones: Vec<Tone>, measured: &[Partial]) -> Vec<Explained> {
    let inner_hz = 0.5 * moment.rate_hz * moment.patch.voice.quality.factor() as f64;
    let mut placed: Vec<(f64, Option<Fold>, Tone)> = vec![];
    for tone in tones {
        let below = tone.hz < 0.0;
        let tone = upright(tone);
        let beyond = tone.hz > inner_hz;
        let hz = match beyond {
            true => {
                let turns = tone.hz / (2.0 * inner_hz);
                (turns - turns.round()).abs() * 2.0 * inner_hz
            }
            false => tone.hz,
        };
        // finer qualities take away what nobody hears
        if hz > 0.5 * moment.rate_hz || hz < 1.0 {
            continue;
        }
        let fold = match (beyond, below) {
            (true, _) => Some(Fold::Rate),
            (_, true) => Some(Fold::Zero),
            _ => None,
        };
        placed.push((hz, fold, tone));
    }
    placed.sort_by(|a, b| a.0.total_cmp(&b.0));
    let mut partials: Vec<Explained> = vec![];
    for group in placed.chunk_by(|a, b| b.0 - a.0 < 0.05) {
        let sum: C = group.iter().map(|(_, _, tone)| tone.amplitude).sum();
        let first = group.iter().max_by(|a, b| {
            let size = |of: &(f64, Option<Fold>, Tone)| of.2.amplitude.norm_sqr();
            size(a).total_cmp(&size(b))
        });
        let Some((hz, folded, tone)) = first else {
            continue;
        };
        let nearby = measured
            .iter()
            .filter(|p| (p.hz - hz).abs() < 4.0)
            .min_by(|a, b| (a.hz - hz).abs().total_cmp(&(b.hz - hz).abs()));
        partials.push(Explained {
            hz: *hz,
            predicted_db: 20.0 * sum.norm().max(1e-9).log10(),
            measured_db: nearby.map(|p| p.db),
            words: words(moment.patch, tone),
            meeting: group
                .iter()
                .filter(|g| g.2.amplitude.norm() > 0.1 * tone.amplitude.norm())
                .count(),
            by: cause(moment.patch, tone),
            units: tone
                .orders
                .iter()
                .filter(|(_, n)| **n != 0)
                .map(|(id, _)| *id)
                .collect(),
            folded: *folded,
        });
    }
    partials.sort_by(|a, b| b.predicted_db.total_cmp(&a.predicted_db));
    let floor_db = partials.first().map_or(0.0, |p| p.predicted_db) + 20.0 * FLOOR.log10();
    partials.retain(|p| p.predicted_db > floor_db);
    partials.truncate(96);
    partials
}

/// Carriers first, then modulators by how often they count.
fn in_order<'a>(patch: &Patch, tone: &'a Tone) -> Vec<(&'a UnitId, i32)> {
    let mut list: Vec<(&UnitId, i32)> = tone
        .orders
        .iter()
        .filter(|(_, n)| **n != 0)
        .map(|(id, n)| (id, *n))
        .collect();
    list.sort_by_key(|(id, n)| (!patch.sounds(**id), -n.abs()));
    // as it is said: the first counts up
    if list.first().is_some_and(|(_, n)| *n < 0) {
        list.iter_mut().for_each(|(_, n)| *n = -*n);
    }
    list
}

fn words(patch: &Patch, tone: &Tone) -> String {
    let mut text = String::new();
    for (id, n) in in_order(patch, tone) {
        let name = patch.unit(*id).map_or("", |u| u.name.as_str());
        let sign = match (text.is_empty(), n < 0) {
            (true, _) => "",
            (false, true) => " − ",
            (false, false) => " + ",
        };
        let times = match n.abs() {
            1 => String::new(),
            n => format!("{n} × "),
        };
        text += &format!("{sign}{times}{name}");
    }
    text
}

fn cause(patch: &Patch, tone: &Tone) -> UnitId {
    let list = in_order(patch, tone);
    let modulator = list
        .iter()
        .filter(|(id, _)| !patch.sounds(**id))
        .max_by_key(|(_, n)| n.abs());
    let found = modulator.or(list.last()).map(|(id, _)| **id);
    found.unwrap_or(UnitId(1))
}
