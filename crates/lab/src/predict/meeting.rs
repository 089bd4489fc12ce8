//! Tones that meet at one frequency become one partial, with words for what makes it.

use zolvik_patch::Patch;
use zolvik_patch::document::UnitId;

use super::explained::{Explained, Fold, MEETS_HZ, Moment};
use super::theory::FLOOR;
use super::tone::{C, Tone, upright};
use crate::spectrum::Partial;

/// Tones that meet at one frequency are one partial.
pub(super) fn meet(moment: &Moment, tones: Vec<Tone>, measured: &[Partial]) -> Vec<Explained> {
    let inner_hz = 0.5 * moment.rate_hz * moment.patch.times_rate_auditioned() as f64;
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
        partials.push(Explained {
            hz: *hz,
            predicted_db: 20.0 * sum.norm().max(1e-9).log10(),
            measured_db: None,
            blended: false,
            words: words(moment.patch, tone),
            short: short(moment.patch, tone),
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
    measure(&mut partials, measured);
    partials
}

/// Gives each partial, strongest first, what was measured nearest to it. What is measured is that of the strongest there: others beside it are
/// heard as one with it.
fn measure(partials: &mut [Explained], measured: &[Partial]) {
    let mut taken = vec![false; measured.len()];
    for own in partials {
        let apart = |p: &Partial| (p.hz - own.hz).abs();
        let there = measured.iter().enumerate();
        let nearby = there
            .filter(|(_, p)| apart(p) < MEETS_HZ)
            .min_by(|(_, a), (_, b)| apart(a).total_cmp(&apart(b)));
        let Some((at, nearest)) = nearby else {
            continue;
        };
        match std::mem::replace(&mut taken[at], true) {
            true => own.blended = true,
            false => own.measured_db = Some(nearest.db),
        }
    }
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

fn short(patch: &Patch, tone: &Tone) -> String {
    let name = |id: &UnitId| patch.unit(*id).map_or("", |u| u.name.as_str());
    let mut text = String::new();
    for (id, n) in in_order(patch, tone) {
        let name = name(id);
        let times = match n.abs() {
            1 => String::new(),
            n => format!("{n} "),
        };
        text += &match (text.is_empty(), n.abs(), n < 0) {
            (true, 1, _) => name.to_owned(),
            (true, n, _) => format!("{name} ×{n}"),
            (false, _, true) => format!(" \u{2212}{times}{name}"),
            (false, _, false) => format!(" +{times}{name}"),
        };
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
