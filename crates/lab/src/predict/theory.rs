//! What every unit puts out, tone by tone, as far as there is a closed theory.

use zolvik_patch::Patch;
use zolvik_patch::document::{Filter, Operator, RouteKind, Send, UnitId, UnitKind};
use zolvik_patch::filter::cutoff_hz;
use zolvik_patch::pitch::running_hz;
use zolvik_patch::text;
use zolvik_waves::cycles::spectrum_at;

use super::explained::Moment;
use super::idle;
use super::tone::{C, Tone, joined, strongest, upright};
use crate::response;

/// Partials weaker than this, against the strongest, are left out.
pub(super) const FLOOR: f64 = 1e-4;
/// Most harmonics of a wave that are followed.
const HARMONICS: usize = 24;
/// Longest chain followed; whatever lies deeper moves nothing.
const DEEPEST: usize = 6;
/// Most combinations worked out for one moment; a patch that needs more has no theory anybody could read.
const BUDGET: usize = 24_000;
/// Most tones that move one phase.
const MOVERS: usize = 16;

pub(super) struct Theory<'a> {
    pub(super) moment: &'a Moment<'a>,
    pub(super) key_hz: f64,
    pub(super) beyond: Vec<String>,
    /// Modulators that change nothing, in words.
    pub(super) idle: Vec<String>,
    /// Units on the way from the output, to find loops.
    pub(super) path: Vec<UnitId>,
    /// Combinations worked out.
    pub(super) spent: usize,
}

impl Theory<'_> {
    /// What a unit puts out.
    pub(super) fn tones(&mut self, id: UnitId, deep: usize) -> Vec<Tone> {
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
            UnitKind::Level(strip) => {
                let shaped = zolvik_patch::levels::db_gain(strip.level_db) * level;
                let gain = match passes_by {
                    true => 1.0,
                    false => 1.0 + (shaped - 1.0) * strip.mix,
                };
                self.louder(id, deep, gain)
            }
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

    /// What goes into a unit, times a factor.
    fn louder(&mut self, id: UnitId, deep: usize, gain: f64) -> Vec<Tone> {
        let fed = self.fed(id, deep).into_iter();
        fed.map(|tone| Tone {
            amplitude: tone.amplitude * gain,
            ..tone
        })
        .collect()
    }

    fn is_open(&self, route: &zolvik_patch::document::Route) -> bool {
        route.on && self.moment.listening.lets_through(self.moment.patch, route)
    }

    fn filtered(&self, filter: &Filter, level: f64, fed: Vec<Tone>) -> Vec<Tone> {
        let cutoff = cutoff_hz(filter, self.key_hz, level);
        let rate_hz = self.moment.rate_hz * self.moment.patch.times_rate(self.key_hz) as f64;
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
        let hz = running_hz(patch, id, operator, self.key_hz);
        let mut movers: Vec<Tone> = vec![];
        let mut by: Vec<UnitId> = vec![];
        let mut own_index = 0.0;
        for route in patch.routes.iter().filter(|r| r.send.target() == Some(id)) {
            if !self.is_open(route) {
                continue;
            }
            if matches!(route.send, Send::Phase { .. } | Send::Frequency { .. })
                && !by.contains(&route.from)
            {
                by.push(route.from);
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
        let changes_from = idle::changes_from(operator, hz, &movers);
        if let (Some(strongest), true, true) =
            (movers.first(), changes_from > idle::CLEAR, own_index == 0.0)
        {
            let words = self.idle_words((&by, id), strongest, changes_from);
            self.idle.push(words);
            movers.clear();
        }
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

    /// `strongest` is what the strongest of those that modulate puts in.
    fn idle_words(
        &self,
        (by, of): (&[UnitId], UnitId),
        strongest: &Tone,
        changes_from: f64,
    ) -> String {
        let name = |id: UnitId| self.moment.patch.unit(id).map_or("", |u| u.name.as_str());
        let names: Vec<&str> = by.iter().map(|id| name(*id)).collect();
        let (by, of) = (names.join(" and "), name(of));
        let change = if names.len() == 1 {
            "changes"
        } else {
            "change"
        };
        match changes_from.is_finite() {
            true => {
                let index = text::fixed(strongest.amplitude.norm() * changes_from, 1);
                format!(
                    "{by} {change} nothing in {of} as it is: its edges stay where they are up to about {index} rad"
                )
            }
            false => format!("{by} {change} nothing in {of}: its edges stay where they are"),
        }
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
