//! How often each unit sounds in a note, and where copies stand.

use zolvik_patch::document::{Patch, RouteKind, UnitId};
use zolvik_patch::hearing::passes;
use zolvik_patch::levels::pan_gains;

/// Where in a row of copies one stands, -1 to 1.
pub(crate) fn place(copy: u32, copies: u32) -> f64 {
    match copies {
        0 | 1 => 0.0,
        n => 2.0 * f64::from(copy) / f64::from(n - 1) - 1.0,
    }
}

/// Where between left and right it stands, -1 to 1: neighbours in pitch are no neighbours in space.
fn side(copy: u32, copies: u32) -> f64 {
    match copies {
        0 | 1 => 0.0,
        n => {
            // a stride without a common divisor goes through all places
            let stride = match n {
                2..=4 => 1,
                5 | 7 | 9 | 11 | 13 => 2,
                6 | 12 => 5,
                _ => 3,
            };
            let at = copy * stride % n;
            2.0 * f64::from(at) / f64::from(n - 1) - 1.0
        }
    }
}

/// Factors of both channels of a copy: equal power around the middle, and together as strong as a single note. `blend` is the level
/// of the outer ones.
pub(crate) fn sides(copy: u32, copies: u32, spread: f64, blend: f64) -> [f32; 2] {
    if copies <= 1 {
        return [1.0; 2];
    }
    let inner = 1.0 / f64::from(copies - 1) + 1e-9;
    let level = |place: f64| match place.abs() <= inner {
        true => 1.0,
        false => blend,
    };
    let power: f64 = (0..copies)
        .map(|copy| level(place(copy, copies)))
        .map(|g| g * g)
        .sum();
    let gain = level(place(copy, copies)) / power.sqrt();
    let root = core::f64::consts::SQRT_2 * gain;
    pan_gains(side(copy, copies) * spread).map(|side| (root * side) as f32)
}

/// Which of its copies a unit sounds as in one of a note's lanes, and in how many lanes that copy is heard.
pub(crate) fn copy_in(lane: u32, lanes: u32, copies: u32) -> (u32, u32) {
    if copies >= lanes {
        return (lane, 1);
    }
    let of = |lane: u32| lane * copies / lanes;
    let own = of(lane);
    let shared = (0..lanes).filter(|other| of(*other) == own).count();
    (own, shared as u32)
}

/// How often every unit sounds: sources as they say, what they go through as often as the most of them. What passes nothing does
/// not count.
pub(crate) struct Copies {
    pub(super) of: Vec<(UnitId, u32)>,
    /// Lanes a note needs.
    pub(crate) lanes: u32,
}

impl Copies {
    pub(crate) fn new(patch: &Patch) -> Self {
        let voice = u32::from(patch.voice.unison.copies);
        let own =
            |unit: &zolvik_patch::document::Unit| match (unit.kind.name().is_source(), unit.copies)
            {
                (false, _) => 1,
                (true, 0) => voice,
                (true, own) => own.into(),
            };
        let mut copies = Copies {
            of: patch.units.iter().map(|u| (u.id, own(u))).collect(),
            lanes: voice,
        };
        let leads = |r: &&zolvik_patch::document::Route| {
            r.send.kind() == Some(RouteKind::Audio) && passes(patch, r)
        };
        // a step more for each unit in a row
        for _ in 0..patch.units.len() {
            for route in patch.routes.iter().filter(leads) {
                let from = copies.of(route.from);
                let to = copies
                    .of
                    .iter_mut()
                    .find(|u| Some(u.0) == route.send.target());
                if let Some(to) = to {
                    to.1 = to.1.max(from);
                }
            }
        }
        copies.lanes = copies.of.iter().map(|u| u.1).fold(1, u32::max);
        copies
    }

    pub(super) fn of(&self, id: UnitId) -> u32 {
        self.of.iter().find(|u| u.0 == id).map_or(1, |u| u.1)
    }

    /// Factor of a sound that goes into something that sounds more often than it does: all of them together are as loud as it was.
    pub(super) fn share(&self, patch: &Patch, from: UnitId, to: UnitId) -> f64 {
        let (few, many) = (self.of(from), self.of(to));
        if few >= many {
            return 1.0;
        }
        let unison = &patch.voice.unison;
        let together: f64 = (0..many)
            .map(|copy| f64::from(sides(copy, many, unison.spread, unison.blend)[0]))
            .sum();
        // alone all of it, as many as those none of it
        let part = 1.0 - libm::log(few.into()) / libm::log(many.into());
        libm::pow(together, -part)
    }
}
