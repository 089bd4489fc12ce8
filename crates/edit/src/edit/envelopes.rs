//! Envelopes: points, holding, loops, tempo, links.

use super::movement::{InRow, links_follow};
use zolvik_patch::Patch;
use zolvik_patch::catalogue::param;
use zolvik_patch::document::EnvelopeLink;
use zolvik_patch::document::UnitId;
use zolvik_patch::envelope::{Envelope, Point};
use zolvik_patch::error::PatchError;
use zolvik_patch::param::Owner;
use zolvik_patch::timing::strip_scale;

pub(super) fn add_point(
    patch: &mut Patch,
    unit: UnitId,
    time_s: f64,
    level: f64,
) -> Result<(), PatchError> {
    let scale = strip_scale(patch, unit);
    let hold_s = patch.audition.hold_s / scale;
    let env = envelope_mut(patch, unit)?;
    let (time_s, level) = (tidy_ms(time_s / scale), level.clamp(0.0, 1.0));
    let next = env.with_point(time_s, (level * 1000.0).round() / 1000.0, hold_s)?;
    let pairs = next.points.iter().zip(&env.points);
    let at = pairs.take_while(|(new, old)| new == old).count();
    *env = next;
    links_follow(patch, (Owner::Point, unit.0), InRow::Came(at));
    Ok(())
}

pub(super) fn remove_point(patch: &mut Patch, unit: UnitId, at: usize) -> Result<(), PatchError> {
    let env = envelope_mut(patch, unit)?;
    *env = env.without_point(at).ok_or_else(|| PatchError::Shape {
        path: "envelope.points".into(),
        problem: "an envelope needs a point to be held and its end".into(),
    })?;
    links_follow(patch, (Owner::Point, unit.0), InRow::Went(at));
    Ok(())
}

pub(super) fn hold(patch: &mut Patch, units: &[UnitId], at: u8) -> Result<(), PatchError> {
    each(patch, units, |env| {
        env.held = at;
        env.loop_from = env.loop_from.filter(|from| *from <= at);
    })
}

pub(super) fn loop_from(
    patch: &mut Patch,
    units: &[UnitId],
    from: Option<u8>,
) -> Result<(), PatchError> {
    each(patch, units, |env| env.loop_from = from)
}

pub(super) fn tie_to_tempo(
    patch: &mut Patch,
    units: &[UnitId],
    on: bool,
) -> Result<(), PatchError> {
    let tempo = patch.audition.tempo_bpm;
    each(patch, units, |env| {
        let before = env.tempo_scale(tempo);
        env.in_beats = on;
        let times = before / env.tempo_scale(tempo);
        let most = param(Point::TIME_S).max;
        for point in &mut env.points {
            point.time_s = (point.time_s * times).min(most);
        }
        env.delay_s = (env.delay_s * times).min(param(Envelope::DELAY_S).max);
    })
}

pub(super) fn set(
    patch: &mut Patch,
    units: &[UnitId],
    envelope: &Envelope,
) -> Result<(), PatchError> {
    each(patch, units, |env| *env = envelope.clone())
}

pub(super) fn link(patch: &mut Patch, units: &[UnitId], equal: bool) -> Result<(), PatchError> {
    unlink(patch, units);
    if let (true, Some(first)) = (equal, units.first()) {
        let env = envelope_mut(patch, *first)?.clone();
        set(patch, units, &env)?;
    }
    patch.envelope_links.push(EnvelopeLink {
        units: units.into(),
        equal,
    });
    Ok(())
}

/// Takes units out of their links; links of fewer than two go.
pub(super) fn unlink(patch: &mut Patch, units: &[UnitId]) {
    for link in &mut patch.envelope_links {
        link.units.retain(|u| !units.contains(u));
    }
    patch.envelope_links.retain(|l| l.units.len() > 1);
}

/// The envelope of a unit, or of a source that is one.
fn envelope_mut(patch: &mut Patch, id: UnitId) -> Result<&mut Envelope, PatchError> {
    patch.envelope_mut(id).ok_or_else(|| PatchError::NoUnit {
        path: "edit".into(),
        unit: id,
    })
}

fn each(
    patch: &mut Patch,
    units: &[UnitId],
    act: impl Fn(&mut Envelope),
) -> Result<(), PatchError> {
    for id in units {
        act(envelope_mut(patch, *id)?);
    }
    Ok(())
}

/// To the tenth of a millisecond.
fn tidy_ms(time_s: f64) -> f64 {
    (time_s * 10_000.0).round() / 10_000.0
}
