//! What is asked and what is told of a moment.

use serde::Serialize;
use zolvik_patch::Patch;
use zolvik_patch::document::UnitId;
use zolvik_patch::hearing::Listening;

use crate::spectrum::Partial;

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
    /// The same as short as it goes, such as `Body −2 Mallet`; of one unit's own partials `Wings ×3`.
    pub short: String,
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

/// So near to each other what is measured and what theory has are the same partial, in hertz.
pub(super) const MEETS_HZ: f64 = 4.0;

impl Explanation {
    /// What theory has where a partial was measured.
    pub fn of(&self, measured: &Partial) -> Option<&Explained> {
        let apart = |p: &&Explained| (p.hz - measured.hz).abs();
        let there = self.partials.iter().filter(|p| apart(p) < MEETS_HZ);
        there.min_by(|a, b| apart(a).total_cmp(&apart(b)))
    }
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
