//! What an edit is about, or why it is not there.

use zolvik_patch::Patch;
use zolvik_patch::document::Route;
use zolvik_patch::document::Unit;
use zolvik_patch::document::{EffectId, LinkId, RouteId, SourceId, UnitId};
use zolvik_patch::error::PatchError;
use zolvik_patch::finish::Effect;
use zolvik_patch::movement::{Link, Source};

/// Changes each of several units.
pub(super) fn each(
    patch: &mut Patch,
    units: &[UnitId],
    mut act: impl FnMut(usize, &mut Unit),
) -> Result<(), PatchError> {
    for (i, id) in units.iter().enumerate() {
        act(i, unit_mut(patch, *id)?);
    }
    Ok(())
}

/// Changes each of several effects.
pub(super) fn each_effect(
    patch: &mut Patch,
    effects: impl Iterator<Item = EffectId>,
    mut act: impl FnMut(&mut Effect),
) -> Result<(), PatchError> {
    for effect in effects {
        act(patch
            .effect_mut(effect)
            .ok_or(PatchError::NoEffect { effect })?);
    }
    Ok(())
}

pub(super) fn position(patch: &Patch, unit: UnitId) -> Result<usize, PatchError> {
    let at = patch.units.iter().position(|u| u.id == unit);
    at.ok_or_else(|| PatchError::NoUnit {
        path: "edit".into(),
        unit,
    })
}

pub(super) fn unit_mut(patch: &mut Patch, unit: UnitId) -> Result<&mut Unit, PatchError> {
    patch.unit_mut(unit).ok_or_else(|| PatchError::NoUnit {
        path: "edit".into(),
        unit,
    })
}

pub(super) fn route_mut(patch: &mut Patch, route: RouteId) -> Result<&mut Route, PatchError> {
    patch
        .routes
        .iter_mut()
        .find(|r| r.id == route)
        .ok_or(PatchError::NoRoute { route })
}

pub(super) fn source_mut(patch: &mut Patch, source: SourceId) -> Result<&mut Source, PatchError> {
    patch
        .source_mut(source)
        .ok_or(PatchError::NoSource { source_id: source })
}

pub(super) fn link_mut(patch: &mut Patch, link: LinkId) -> Result<&mut Link, PatchError> {
    patch.link_mut(link).ok_or(PatchError::NoLink { link })
}
