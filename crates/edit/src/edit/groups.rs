//! Groups of strips.

use zolvik_patch::Patch;
use zolvik_patch::document::Group;
use zolvik_patch::document::{GroupId, UnitId};
use zolvik_patch::error::PatchError;
use zolvik_patch::plain::clean_name;

pub(super) fn gather(patch: &mut Patch, units: &[UnitId]) {
    leave(patch, units);
    let free = |n: &u16| patch.groups.iter().all(|g| g.id != GroupId(*n));
    let id = GroupId((1..).find(free).unwrap_or(1));
    patch.groups.push(Group {
        id,
        name: format!("Group {}", id.0),
        units: units.into(),
        ..Group::default()
    });
}

pub(super) fn dissolve(patch: &mut Patch, group: GroupId) -> Result<(), PatchError> {
    group_mut(patch, group)?;
    patch.groups.retain(|g| g.id != group);
    Ok(())
}

pub(super) fn rename(patch: &mut Patch, group: GroupId, name: &str) -> Result<(), PatchError> {
    group_mut(patch, group)?.name = clean_name(name);
    Ok(())
}

pub(super) fn fold(patch: &mut Patch, group: GroupId, folded: bool) -> Result<(), PatchError> {
    group_mut(patch, group)?.folded = folded;
    Ok(())
}

/// Takes units out of their groups; groups that are then empty go.
pub(super) fn leave(patch: &mut Patch, units: &[UnitId]) {
    for group in &mut patch.groups {
        group.units.retain(|u| !units.contains(u));
    }
    patch.groups.retain(|g| !g.units.is_empty());
}

pub(super) fn group_mut(patch: &mut Patch, group: GroupId) -> Result<&mut Group, PatchError> {
    let found = patch.groups.iter_mut().find(|g| g.id == group);
    found.ok_or(PatchError::NoGroup { group })
}
