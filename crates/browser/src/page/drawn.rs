//! Numbers typed into what is drawn: bars of a wave, and how many steps there are. They are no rows of the catalogue, but are read as its rows are.

use zolvik_edit::Edit;
use zolvik_patch::catalogue::param;
use zolvik_patch::document::{Audition, MAX_SHAPE_POINTS, SourceId, UnitId};
use zolvik_patch::movement::{SourceKind, Step};
use zolvik_patch::param::{Param, Quantity};
use zolvik_patch::text::{self, Times};

use super::state::{GONE, Page};
use crate::inspect::bars_of;
use crate::protocol::{BarPart, Refusal, Reply};

/// Most degrees that are read; whole turns make no difference.
const MOST_DEGREES: f64 = 3600.0;

fn read(row: &Param, typed: &str, now: f64) -> Result<f64, Refusal> {
    Ok(text::read_as(row, typed, now, Times::PLAIN)?)
}

impl Page {
    /// Sets a bar's amplitude from typed percent, or its phase from typed degrees.
    pub(super) fn type_bar(
        &mut self,
        unit: UnitId,
        harmonic: usize,
        part: BarPart,
        typed: &str,
    ) -> Result<Reply, Refusal> {
        let patch = self.history.present();
        let oscillator = patch.unit(unit).and_then(|u| u.oscillator());
        let (amplitude, phase_turns) = bars_of(patch, oscillator.ok_or(GONE)?).harmonic(harmonic);
        let (amplitude, phase_turns) = match part {
            BarPart::Amplitude => {
                let row = Param {
                    label: "Amplitude",
                    ..*param(Step::LEVEL)
                };
                (read(&row, typed, amplitude)?, phase_turns)
            }
            BarPart::Phase => {
                let row = Param {
                    label: "Phase",
                    min: -MOST_DEGREES,
                    max: MOST_DEGREES,
                    quantity: Quantity::Number,
                    ..*param(Step::LEVEL)
                };
                let degrees = read(&row, &typed.replace('°', ""), phase_turns * 360.0)?;
                (amplitude, (degrees / 360.0).rem_euclid(1.0))
            }
        };
        self.bars(unit, None, |bars| {
            bars.set(harmonic, amplitude, phase_turns)
        })
    }

    /// Sets how many steps there are from a typed number.
    pub(super) fn type_step_count(
        &mut self,
        source: SourceId,
        typed: &str,
    ) -> Result<Reply, Refusal> {
        let kind = self.history.present().source(source).map(|s| &s.kind);
        let Some(SourceKind::Steps(steps)) = kind else {
            return Err(Refusal::Cannot("this source has no steps"));
        };
        let row = Param {
            label: "Count",
            min: 1.0,
            max: MAX_SHAPE_POINTS as f64,
            ..*param(Audition::VELOCITY)
        };
        let count = read(&row, typed, steps.steps.len() as f64)? as usize;
        self.edit(&Edit::SetStepCount { source, count }, None)
    }
}
