//! What ratios do to a sound: whether the spectrum of a carrier and its modulators is harmonic, which harmonics it
//! lacks, and which ratios nearby have another character.
//!
//! Partials of phase modulation lie at `|carrier + n1 m1 + n2 m2 + ..|` with whole numbers n (Chowning, "The Synthesis
//! of Complex Audio Spectra by Means of Frequency Modulation", 1973).

use crate::ids::UnitId;
use crate::patch::Patch;
use serde::{Deserialize, Serialize};

use crate::laws::pitch::{auditioned_hz, nominal_ratio, operator_hz};

/// Orders of sidebands looked at, either way.
const ORDERS: i32 = 4;
/// Harmonics looked at when saying what is missing.
const LOOKED_AT: usize = 12;

/// What a carrier and its modulators make.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Character {
    /// In words, such as `Harmonic, odd harmonics only`.
    pub words: String,
    /// Ratio of the ground tone the partials belong to; none if they belong to none.
    pub ground: Option<f64>,
    /// Harmonics up to the 12th that are missing.
    pub missing: Vec<usize>,
    /// How far partials lie from the nearest harmonics of the carrier, in cents, on average; 0 if harmonic.
    pub off_cents: f64,
}

/// A ratio worth trying, and how it sounds.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Offer {
    /// The modulator's ratio.
    pub ratio: f64,
    /// How it is written.
    pub written: String,
    /// How it sounds on this carrier.
    pub words: String,
}

/// Reads the character of a carrier with modulators, all as multiples of the key's frequency. None without
/// modulators.
pub fn character(carrier: f64, modulators: &[f64]) -> Option<Character> {
    if modulators.is_empty() || carrier <= 0.0 {
        return None;
    }
    let mut all = vec![carrier];
    all.extend(modulators.iter().filter(|m| **m > 0.0));
    let Some(ground) = common(&all) else {
        let off_cents = off_cents(carrier, modulators);
        let words = match off_cents {
            c if c < 12.0 => "Nearly harmonic, slowly beating",
            c if c < 60.0 => "Inharmonic, warm and bell-like",
            _ => "Inharmonic, metallic",
        };
        return Some(Character {
            words: format!("{words}: partials {off_cents:.0} ct off on average"),
            ground: None,
            missing: vec![],
            off_cents,
        });
    };
    let found = harmonics(carrier / ground, modulators, ground);
    let missing: Vec<usize> = (1..=LOOKED_AT).filter(|n| !found.contains(n)).collect();
    Some(Character {
        words: describe(&missing, carrier / ground),
        ground: Some(ground),
        missing,
        off_cents: 0.0,
    })
}

/// What all parts that are heard together make, as ratios: carriers with what modulates them. None if it is but one carrier.
pub fn together(patch: &Patch) -> Option<String> {
    let hz = auditioned_hz(patch);
    let ratio = |unit: &crate::parts::unit::Unit| Some(nominal_ratio(unit.oscillator()?, hz));
    let carriers: Vec<f64> = patch
        .units
        .iter()
        .filter(|unit| unit.on && patch.sounds(unit.id))
        .filter_map(ratio)
        .collect();
    if carriers.len() < 2 {
        return None;
    }
    let moving = patch
        .units
        .iter()
        .filter(|unit| unit.on && !patch.sounds(unit.id));
    let mut all = carriers.clone();
    all.extend(moving.filter_map(ratio).filter(|r| *r > 0.0));
    let lowest = carriers.iter().copied().fold(f64::MAX, f64::min);
    Some(match common(&all) {
        Some(ground) if (ground / lowest - 1.0).abs() < 1e-3 => {
            "All parts together: harmonic of the lowest one".into()
        }
        Some(ground) => format!(
            "All parts together: harmonic, the fundamental lies {} below the lowest",
            interval(lowest / ground)
        ),
        None => "All parts together: inharmonic, no common fundamental".into(),
    })
}

/// The greatest frequency all ratios are multiples of, if none of them is more than 32 times it; within a
/// fifth of a cent.
fn common(ratios: &[f64]) -> Option<f64> {
    let first = ratios[0];
    (1..=32u32).map(|n| first / f64::from(n)).find(|ground| {
        ratios.iter().all(|r| {
            let n = libm::round(r / ground);
            (1.0..=256.0).contains(&n) && (1200.0 * libm::log2(r / ground / n)).abs() < 0.2
        })
    })
}

fn combine(carrier: f64, modulators: &[f64]) -> Vec<f64> {
    let mut partials = vec![carrier];
    for m in modulators {
        let before = partials.clone();
        partials = (-ORDERS..=ORDERS)
            .flat_map(|n| before.iter().map(move |p| p + f64::from(n) * m))
            .collect();
        // sidebands of sidebands far out are weak; keeps deep chains small
        partials.truncate(20_000);
    }
    partials.iter().map(|p| p.abs()).collect()
}

fn harmonics(carrier: f64, modulators: &[f64], ground: f64) -> Vec<usize> {
    let scaled: Vec<f64> = modulators.iter().map(|m| m / ground).collect();
    let reach = LOOKED_AT as f64 + 0.5;
    let mut found = vec![];
    // as many orders as reach over the harmonics looked at, folded ones included
    for sign in [-1.0, 1.0] {
        for m in &scaled {
            let mut at = carrier;
            while at.abs() <= reach + carrier.abs() + m {
                found.push(libm::round(at.abs()) as usize);
                at += sign * m;
            }
        }
    }
    if scaled.len() > 1 {
        found.extend(
            combine(carrier, &scaled)
                .iter()
                .map(|p| libm::round(*p) as usize),
        );
    }
    found
}

fn describe(missing: &[usize], carrier: f64) -> String {
    let is =
        |keep: &dyn Fn(usize) -> bool| (1..=LOOKED_AT).all(|n| missing.contains(&n) != keep(n));
    let sub = if carrier > 1.5 {
        format!(
            "; the fundamental lies {} below the carrier",
            interval(carrier)
        )
    } else {
        String::new()
    };
    let what: String = match missing {
        [] => "all harmonics".into(),
        _ if is(&|n| n % 2 == 1) => "odd harmonics only, hollow".into(),
        _ if is(&|n| n % 3 != 0) => "without every third harmonic".into(),
        _ if missing.len() >= 9 => "few harmonics, far apart".into(),
        some => {
            let list: Vec<String> = some.iter().take(6).map(|n| n.to_string()).collect();
            let more = if some.len() > 6 { " …" } else { "" };
            return format!("Harmonic; {}{more} missing{sub}", list.join(", "));
        }
    };
    format!("Harmonic, {what}{sub}")
}

fn interval(times: f64) -> String {
    let octaves = libm::log2(times);
    match libm::round(octaves) {
        n if (octaves - n).abs() < 1e-6 && n == 1.0 => "an octave".into(),
        n if (octaves - n).abs() < 1e-6 => format!("{n} octaves"),
        _ => format!("{:.0} semitones", 12.0 * octaves),
    }
}

/// Mean distance of the strongest sidebands (two orders either way) from the carrier's harmonics.
fn off_cents(carrier: f64, modulators: &[f64]) -> f64 {
    let mut sum = 0.0;
    let mut count = 0.0;
    for m in modulators.iter().filter(|m| **m > 0.0) {
        for n in [-2.0, -1.0, 1.0, 2.0] {
            let times = (carrier + n * m).abs() / carrier;
            if times < 0.02 {
                continue;
            }
            let nearest = libm::round(times).max(1.0);
            sum += (1200.0 * libm::log2(times / nearest)).abs().min(600.0);
            count += 1.0;
        }
    }
    sum / f64::max(count, 1.0)
}

/// Ratios near a modulator's that sound otherwise on a carrier, lowest first.
pub fn offers(carrier: f64, modulator: f64) -> Vec<Offer> {
    const TRIED: [(f64, &str); 22] = [
        (0.25, "1/4"),
        (0.5, "1/2"),
        (1.0, "1"),
        (1.005, "1.005"),
        (4.0 / 3.0, "4:3"),
        (std::f64::consts::SQRT_2, "√2"),
        (1.5, "3:2"),
        (1.618_033_988_749_895, "1.618"),
        (2.0, "2"),
        (2.01, "2.01"),
        (2.5, "5:2"),
        (2.76, "2.76"),
        (3.0, "3"),
        (3.53, "3.53"),
        (4.0, "4"),
        (4.24, "4.24"),
        (5.0, "5"),
        (5.4, "5.4"),
        (6.0, "6"),
        (7.0, "7"),
        (8.93, "8.93"),
        (11.0, "11"),
    ];
    let present = modulator / carrier;
    let near = |times: f64| (libm::log2(times / present)).abs();
    let mut list: Vec<(f64, &str)> = TRIED
        .into_iter()
        .filter(|(times, _)| near(*times) > 1e-4)
        .collect();
    list.sort_by(|a, b| near(a.0).total_cmp(&near(b.0)));
    list.truncate(6);
    list.sort_by(|a, b| a.0.total_cmp(&b.0));
    list.into_iter()
        .filter_map(|(times, written)| {
            let words = character(carrier, &[carrier * times])?.words;
            Some(Offer {
                ratio: carrier * times,
                written: written.into(),
                words,
            })
        })
        .collect()
}

/// Below this a modulator is heard as movement, not as partials.
const LOWEST_HZ: f64 = 20.0;

/// The modulators of a unit, through chains, with their ratios at the auditioned note; feedback and what is too slow
/// to make partials left out.
pub fn modulators(patch: &Patch, carrier: UnitId) -> Vec<(UnitId, f64)> {
    let hz = auditioned_hz(patch);
    let mut found: Vec<UnitId> = vec![];
    let mut open = vec![carrier];
    while let Some(id) = open.pop() {
        for route in &patch.routes {
            let reaches =
                route.send.target() == Some(id) && crate::laws::hearing::passes(patch, route);
            if reaches && route.from != carrier && !found.contains(&route.from) {
                found.push(route.from);
                open.push(route.from);
            }
        }
    }
    found.sort_unstable();
    found
        .into_iter()
        .filter_map(|id| {
            let operator = patch.unit(id)?.oscillator()?;
            let heard = operator_hz(operator, hz) >= LOWEST_HZ;
            heard.then(|| (id, nominal_ratio(operator, hz)))
        })
        .collect()
}
