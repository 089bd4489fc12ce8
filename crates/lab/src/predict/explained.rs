//! What is asked and what is told of a moment.

use serde::Serialize;
use zolvik_patch::Patch;
use zolvik_patch::document::UnitId;
use zolvik_patch::hearing::Listening;

use crate::spectrum::{MAX_PARTIALS, Partial, Spectrum};

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
    /// Whether it is measured as one with others that stand too near for the time there is to look at them, or are much stronger.
    pub blended: bool,
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
    /// Modulators that change nothing as they are, and from where on they will, in words.
    pub idle: Vec<String>,
}

/// So near to each other what is measured and what theory has are the same partial, in hertz.
pub(super) const MEETS_HZ: f64 = 4.0;
/// What is weaker than its neighbour by this moves neither the neighbour's place nor its level by what could be seen.
const BESIDE_DB: f64 = 12.0;

impl Explanation {
    /// What theory has where a partial was measured: what stands just there, then what it was measured as.
    pub fn of(&self, measured: &Partial) -> Option<&Explained> {
        let apart = |p: &Explained| (p.hz - measured.hz).abs();
        let there = || self.partials.iter().filter(|p| apart(p) < MEETS_HZ);
        let told = there().find(|p| p.blended && p.hz == measured.hz);
        let own = || there().filter(|p| p.measured_db == Some(measured.db));
        told.or_else(|| own().min_by(|a, b| apart(a).total_cmp(&apart(b))))
            .or_else(|| there().min_by(|a, b| apart(a).total_cmp(&apart(b))))
    }

    /// What was measured, where partials stand too near to each other for the time there was to look at them by theory: each where it stands, as
    /// strong as theory has it. Those are marked as blended.
    pub fn told_apart(&mut self, spectrum: &Spectrum) -> Vec<Partial> {
        let mut told = spectrum.partials.clone();
        for group in self.blends(spectrum) {
            let [first, last] = [group[0], group[group.len() - 1]].map(|at| self.partials[at].hz);
            let reach = 0.5 * spectrum.apart_hz(first);
            let is_there = |p: &Partial| p.hz > first - reach && p.hz < last + reach;
            let loudest_db = of_loudest(told.iter().filter(|p| is_there(p)).map(|p| p.db));
            let top_db = of_loudest(group.iter().map(|at| self.partials[*at].predicted_db));
            // nothing is heard there, or something theory knows nothing of
            if loudest_db == f64::MIN || top_db < loudest_db - BESIDE_DB {
                continue;
            }
            told.retain(|p| !is_there(p));
            for at in group {
                let own = &mut self.partials[at];
                (own.measured_db, own.blended) = (None, true);
                let (hz, db) = (own.hz, own.predicted_db);
                told.push(Partial { hz, db });
            }
        }
        told.sort_by(|a, b| b.db.total_cmp(&a.db));
        told.truncate(MAX_PARTIALS);
        told
    }

    /// Positions of partials that are seen as one, from the lowest up; those that are too weak to be seen beside their neighbours left out.
    fn blends(&self, spectrum: &Spectrum) -> Vec<Vec<usize>> {
        let near = |a: &Explained, b: &Explained| (a.hz - b.hz).abs() < spectrum.apart_hz(a.hz);
        let counts = |own: &Explained| {
            let around = self.partials.iter().filter(|other| near(own, other));
            own.predicted_db > of_loudest(around.map(|p| p.predicted_db)) - BESIDE_DB
        };
        let mut strong: Vec<usize> = (0..self.partials.len())
            .filter(|at| counts(&self.partials[*at]))
            .collect();
        strong.sort_by(|a, b| self.partials[*a].hz.total_cmp(&self.partials[*b].hz));
        strong
            .chunk_by(|a, b| near(&self.partials[*a], &self.partials[*b]))
            .filter(|group| group.len() > 1)
            .map(<[usize]>::to_vec)
            .collect()
    }
}

/// The highest of some levels, [`f64::MIN`] of none.
fn of_loudest(db: impl Iterator<Item = f64>) -> f64 {
    db.fold(f64::MIN, f64::max)
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
