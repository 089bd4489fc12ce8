//! Values that cannot be had in full, and how far they can.

use zolvik_engine::limits::cycle_had;
use zolvik_patch::Patch;
use zolvik_patch::document::{CycleShape, Sample, Unit, UnitKind};
use zolvik_patch::param::ParamId;
use zolvik_patch::pitch::{auditioned_hz, running_hz};
use zolvik_patch::sound::Sound;
use zolvik_patch::text;
use zolvik_waves::{ready, recording::longest_crossfade_s};

/// What keeps a value from being had in full at the auditioned note, in words; none if nothing does.
pub(super) fn limit(patch: &Patch, unit: &Unit, param: ParamId) -> Option<String> {
    match (&unit.kind, param) {
        (UnitKind::Sample(sample), Sample::CROSSFADE_S) if sample.looped => crossfade(sample),
        (UnitKind::Operator(operator), param) => {
            let bends = [
                CycleShape::LEAN,
                CycleShape::REPEAT,
                CycleShape::FOLD,
                CycleShape::STEPS,
            ];
            let at = bends.iter().position(|bend| *bend == param)?;
            let hz = running_hz(patch, unit.id, operator, auditioned_hz(patch)).abs();
            let share = cycle_had(&operator.cycle, hz)[at];
            (share < 0.99).then(|| {
                let percent = text::fixed(100.0 * share, 0);
                format!("{percent} % of it at this note: more would reach beyond 20 kHz")
            })
        }
        _ => None,
    }
}

fn crossfade(sample: &Sample) -> Option<String> {
    let (frames, rate_hz) = match &sample.sound {
        Sound::Ready(ready) => {
            let clip = ready::clip(*ready);
            (clip.samples.len(), clip.rate_hz)
        }
        Sound::Own(own) => (own.frames as usize, own.rate_hz.into()),
    };
    let longest_s = longest_crossfade_s(sample, frames, rate_hz);
    let longest = text::write(Sample::CROSSFADE_S, longest_s);
    (sample.crossfade_s > longest_s + 1e-9)
        .then(|| format!("at most {longest}: no more stands beside this loop"))
}
