//! How long a note sounds after its release.

use super::{Program, UnitProgram, kind};

/// Positions of the parameters read here, among those of their unit.
mod at {
    use zolvik_patch::catalogue::position;
    use zolvik_patch::document;

    pub(super) const RESONANCE: usize = position(document::Filter::RESONANCE);
}

impl Program {
    /// Longest time a note sounds after its release, in seconds, whatever its key and velocity.
    pub fn tail_s(&self) -> f64 {
        (0..128)
            .step_by(127)
            .flat_map(|key| [1, 127].map(|velocity| self.tail_of_s(key, velocity)))
            .fold(0.0, f64::max)
    }

    /// Time a note sounds after its release, in seconds.
    pub fn tail_of_s(&self, key: u8, velocity: u8) -> f64 {
        let units = &self.units[..self.unit_count()];
        let release_s = |unit: &UnitProgram| {
            let env = &unit.envelope;
            let after = env.held as usize + 1..env.count as usize;
            let release_s: f64 = env.points[after].iter().map(|p| p.time_s).sum();
            release_s * unit.times_scale(key, velocity)
        };
        let sources = units.iter().filter(|u| u.sounds == 1);
        // what rings on is faded out in the end
        let ring_s = match self.ring_s() {
            0.0 => 0.0,
            ring_s => ring_s + 0.01,
        };
        sources.map(release_s).fold(0.0, f64::max) + ring_s
    }

    /// How long filters may ring on after everything that feeds them has ended, in seconds.
    pub(crate) fn ring_s(&self) -> f64 {
        let units = &self.units[..self.unit_count()];
        let rings = |unit: &UnitProgram| match unit.kind {
            kind::FILTER => {
                let resonance = f64::from(self.value(unit, at::RESONANCE));
                0.05 + 2.5 * resonance * resonance * resonance
            }
            _ => 0.0,
        };
        // filters in a row ring into each other
        units.iter().map(rings).sum::<f64>().min(4.0)
    }
}
