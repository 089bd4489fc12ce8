//! Patches for tests: any valid patch from a seed, extremes far more often than chance.

use crate::address;
use crate::catalogue::param;
use crate::document::{MAX_UNITS, Patch, Route, RouteId, Send, Unit, UnitId};

/// A small generator of pseudo-random numbers (SplitMix64; Steele, Lea, Flood, 2014).
#[derive(Debug, Clone)]
pub struct Dice(pub u64);

impl Dice {
    /// The next 64 bits.
    pub fn bits(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let z = (self.0 ^ (self.0 >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        let z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
        z ^ (z >> 31)
    }

    /// A whole number below `end`.
    pub fn below(&mut self, end: usize) -> usize {
        (self.bits() % end.max(1) as u64) as usize
    }

    /// 0 to 1.
    pub fn share(&mut self) -> f64 {
        (self.bits() >> 11) as f64 / (1u64 << 53) as f64
    }
}

/// A valid patch with 0 to 16 units, any routing and values that are often at their limits.
pub fn any_patch(seed: u64) -> Patch {
    let mut dice = Dice(seed);
    let mut patch = Patch {
        units: vec![],
        routes: vec![],
        ..Patch::empty()
    };
    for n in 0..dice.below(MAX_UNITS + 1) {
        let mut unit = Unit::operator(UnitId(n as u16 + 1));
        unit.on = dice.below(8) > 0;
        patch.units.push(unit);
    }
    add_routes(&mut patch, &mut dice);
    for (address, _) in address::all(&patch) {
        let row = param(address.param);
        let value = match dice.below(6) {
            0 => row.min,
            1 => row.max,
            2 => row.default,
            _ => row.value_at(dice.share()),
        };
        if address.set(&mut patch, value).is_err() {
            unreachable!("every listed address can be set");
        }
    }
    patch
}

fn add_routes(patch: &mut Patch, dice: &mut Dice) {
    let units = patch.units.len();
    if units == 0 {
        return;
    }
    for _ in 0..dice.below(units * 3 + 1) {
        let from = UnitId(dice.below(units) as u16 + 1);
        let send = if dice.below(3) == 0 {
            Send::output()
        } else {
            Send::phase(UnitId(dice.below(units) as u16 + 1))
        };
        if !patch.sends(from).any(|r| r.send.target() == send.target()) {
            let id = RouteId(patch.routes.len() as u16 + 1);
            patch.routes.push(Route {
                id,
                from,
                on: dice.below(8) > 0,
                send,
            });
        }
    }
}
