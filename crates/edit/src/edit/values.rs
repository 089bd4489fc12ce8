//! Values, choices, waves and tuning, with what hangs together with them.

use super::find::{each, source_mut};
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::catalogue::{choice, param};
use zolvik_patch::document::Filter;
use zolvik_patch::document::Sample;
use zolvik_patch::document::Unit;
use zolvik_patch::document::UnitId;
use zolvik_patch::document::UnitKind;
use zolvik_patch::document::{Operator, TunedBy};
use zolvik_patch::error::PatchError;
use zolvik_patch::limits::SHORTEST_STRETCH;
use zolvik_patch::param::ChoiceId;
use zolvik_patch::part::Part;
use zolvik_patch::pitch::{auditioned_hz, nominal_ratio};
use zolvik_patch::sound::Sound;
use zolvik_patch::wave::Wave;

/// Sets a value and what hangs together with it.
pub(super) fn set(patch: &mut Patch, address: Address, value: f64) -> Result<(), PatchError> {
    let unit = patch.unit(UnitId(address.id));
    let mut value = value;
    match (unit.map(|u| &u.kind), address.param) {
        // switching key follow keeps the present note's cutoff
        (Some(UnitKind::Filter(filter)), Filter::KEY_FOLLOW) => {
            let row = param(Filter::CUTOFF_HZ);
            let kept = zolvik_patch::filter::kept_cutoff_hz(filter, value, patch);
            let cutoff = Address::unit(UnitId(address.id), Filter::CUTOFF_HZ);
            cutoff.set(patch, kept.clamp(row.min, row.max))?;
        }
        // a place is stopped by the other end of its stretch
        (Some(UnitKind::Sample(s)), id) => {
            value = match id {
                Sample::START => value.min(s.end - SHORTEST_STRETCH),
                Sample::END => value.max(s.start + SHORTEST_STRETCH),
                Sample::LOOP_START => value.min(s.loop_end - SHORTEST_STRETCH),
                Sample::LOOP_END => value.max(s.loop_start + SHORTEST_STRETCH),
                _ => value,
            };
        }
        _ => {}
    }
    if let (zolvik_patch::movement::Macro::PLACE, Ok(was), Some(source)) = (
        address.param,
        address.get(patch),
        UnitId(address.id).source(),
    ) && was == 0.0
        && value > 0.0
    {
        super::movement::keep_low(patch, source);
    }
    address.set(patch, value)
}

pub(super) fn choose(
    patch: &mut Patch,
    units: &[UnitId],
    what: ChoiceId,
    to: usize,
) -> Result<(), PatchError> {
    let no_such = || PatchError::NotThere {
        param: choice(what).label,
        owner: "this, or not with that option".into(),
    };
    if units.is_empty() {
        let of_voice = patch.voice.choose(what, to);
        return of_voice
            .or_else(|| patch.playing.choose(what, to))
            .ok_or_else(no_such);
    }
    let hz = auditioned_hz(patch);
    let mut done = false;
    let mut sources = units.iter().filter_map(|id| id.source()).peekable();
    if sources.peek().is_some() {
        for id in sources {
            let source = source_mut(patch, id)?;
            done |= source.choose_of(what, to).is_some();
        }
        return if done { Ok(()) } else { Err(no_such()) };
    }
    let mut effects = units.iter().filter_map(|id| id.effect()).peekable();
    if effects.peek().is_some() {
        done |= super::finish::choose(patch, effects, what, to)?;
        return if done { Ok(()) } else { Err(no_such()) };
    }
    each(patch, units, |_, unit| {
        done |= choose_of_unit(unit, what, to, hz).is_some();
    })?;
    // of several, those that have the choice take it
    if done { Ok(()) } else { Err(no_such()) }
}

/// Chooses for a unit, and keeps what should stay as it is.
fn choose_of_unit(unit: &mut Unit, id: ChoiceId, to: usize, key_hz: f64) -> Option<()> {
    let before = unit.kind.clone();
    unit.kind.part_mut().choose(id, to)?;
    match (before, &mut unit.kind) {
        (UnitKind::Operator(was), UnitKind::Operator(now)) if was.tuned_by != now.tuned_by => {
            keep_pitch(&was, now, key_hz);
        }
        (UnitKind::Filter(was), UnitKind::Filter(now))
            if now.response.is_comb() && !was.response.is_comb() =>
        {
            // a comb is tuned: it rings at the key's own pitch, gently at first
            now.cutoff_hz = zolvik_patch::filter::reference_hz();
            (now.key_follow, now.sweep_oct) = (1.0, 0.0);
            (now.resonance, now.mix) = (0.7, 0.5);
        }
        _ => {}
    }
    Some(())
}

/// Gives an operator that is tuned another way the pitch it had.
fn keep_pitch(was: &Operator, now: &mut Operator, key_hz: f64) {
    let ratio = nominal_ratio(was, key_hz);
    let (id, value) = match now.tuned_by {
        TunedBy::Ratio => (Operator::RATIO, ratio),
        TunedBy::Semitones => (Operator::SEMITONES, 12.0 * libm::log2(ratio)),
        TunedBy::Fixed => (Operator::FIXED_HZ, ratio * key_hz),
    };
    let row = param(id);
    if let Some(slot) = now.slot(id) {
        slot.write(value.clamp(row.min, row.max));
    }
}

pub(super) fn set_sound(
    patch: &mut Patch,
    units: &[UnitId],
    sound: &Sound,
) -> Result<(), PatchError> {
    each(patch, units, |_, unit| {
        if let UnitKind::Sample(sample) = &mut unit.kind {
            sample.take(sound);
        }
    })
}

pub(super) fn set_wave(patch: &mut Patch, units: &[UnitId], wave: &Wave) -> Result<(), PatchError> {
    each(patch, units, |_, unit| {
        if let Some(operator) = unit.oscillator_mut() {
            operator.wave = wave.clone();
        }
    })
}

pub(super) fn shift_octaves(
    patch: &mut Patch,
    units: &[UnitId],
    octaves: i32,
) -> Result<(), PatchError> {
    let factor = libm::exp2(octaves.clamp(-20, 20).into());
    each(patch, units, |_, unit| shift(unit, factor))
}

/// Multiplies a unit's frequency, however it is given. A step that would leave the range is not made, so that
/// the octaves of several units stay together.
fn shift(unit: &mut Unit, factor: f64) {
    let octaves = libm::log2(factor);
    let (id, value, next) = match &mut unit.kind {
        UnitKind::Operator(operator) => match operator.tuned_by {
            TunedBy::Ratio => {
                let next = operator.ratio * factor;
                (Operator::RATIO, &mut operator.ratio, next)
            }
            TunedBy::Semitones => {
                let next = operator.semitones + 12.0 * octaves;
                (Operator::SEMITONES, &mut operator.semitones, next)
            }
            TunedBy::Fixed => {
                let next = operator.fixed_hz * factor;
                (Operator::FIXED_HZ, &mut operator.fixed_hz, next)
            }
        },
        UnitKind::Sample(sample) => {
            let next = sample.semitones + 12.0 * octaves;
            (Sample::SEMITONES, &mut sample.semitones, next)
        }
        UnitKind::Filter(filter) => {
            let next = filter.cutoff_hz * factor;
            (Filter::CUTOFF_HZ, &mut filter.cutoff_hz, next)
        }
        UnitKind::Noise(_) | UnitKind::Shaper(_) | UnitKind::Level(_) => return,
    };
    let row = param(id);
    if (row.min..=row.max).contains(&next) {
        *value = next;
    }
}

pub(super) fn spread_detune(
    patch: &mut Patch,
    units: &[UnitId],
    spread_cents: f64,
) -> Result<(), PatchError> {
    let mut sum = 0.0;
    each(patch, units, |_, unit| {
        sum += unit.oscillator_mut().map_or(0.0, |o| o.detune_cents);
    })?;
    let (middle, last) = (sum / units.len().max(1) as f64, units.len().max(2) - 1);
    each(patch, units, |i, unit| {
        let place = i as f64 / last as f64 - 0.5;
        let place = if units.len() == 1 { 0.0 } else { place };
        let cents = middle + place * spread_cents;
        if let Some(operator) = unit.oscillator_mut() {
            operator.detune_cents = libm::round(cents * 1000.0) / 1000.0;
        }
    })
}
