//! What follows for linked envelopes from a change of one: made alike, or each from where it was.

use crate::edit::{Edit, apply};
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::catalogue::param;
use zolvik_patch::document::UnitId;
use zolvik_patch::envelope::Envelope;
use zolvik_patch::error::PatchError;
use zolvik_patch::param::Quantity;
use zolvik_patch::timing::is_of_envelope;

/// Changes of values with the same for the envelopes linked with those changed: alike, or each from where it was in `base`, the
/// document as it was when the gesture began.
pub fn values(base: &Patch, edits: Vec<Edit>) -> Vec<Edit> {
    let mut all = edits.clone();
    for edit in &edits {
        let Edit::SetValue { address, value } = edit else {
            continue;
        };
        if !is_of_envelope(address.param) {
            continue;
        }
        let (linked, equal) = base.linked(UnitId(address.id));
        for other in linked {
            let other = Address {
                id: other.0,
                ..*address
            };
            let named = |e: &Edit| matches!(e, Edit::SetValue { address, .. } if *address == other);
            let (Ok(was), Ok(theirs)) = (address.get(base), other.get(base)) else {
                continue; // a point the other one lacks
            };
            if all.iter().any(named) {
                continue;
            }
            let row = param(address.param);
            let moved = match row.quantity {
                _ if equal => *value,
                // times keep their proportion
                Quantity::Seconds if was > 0.0 && theirs > 0.0 => theirs * value / was,
                _ => theirs + value - was,
            };
            all.push(Edit::SetValue {
                address: other,
                value: moved.clamp(row.min, row.max),
            });
        }
    }
    all
}

/// An edit with what follows from it for linked envelopes.
///
/// # Errors
/// As [`apply`], where points are added or taken out.
pub fn edit(patch: &Patch, edit: Edit) -> Result<Edit, PatchError> {
    Ok(match edit {
        Edit::HoldPoint { units, at } => Edit::HoldPoint {
            units: of_one_form(patch, &units),
            at,
        },
        Edit::LoopFrom { units, from } => Edit::LoopFrom {
            units: of_one_form(patch, &units),
            from,
        },
        Edit::TieToTempo { units, on } => Edit::TieToTempo {
            units: of_one_form(patch, &units),
            on,
        },
        Edit::AddPoint { unit, .. } | Edit::RemovePoint { unit, .. } => points(patch, unit, edit)?,
        edit => edit,
    })
}

/// Units with those linked with them, as far as their envelopes have as many points.
fn of_one_form(patch: &Patch, units: &[UnitId]) -> Vec<UnitId> {
    let points = |unit: UnitId| patch.envelope(unit).map(|e| e.points.len());
    let mut all = units.to_vec();
    for unit in units {
        let (linked, _) = patch.linked(*unit);
        for other in linked {
            if points(other) == points(*unit) && !all.contains(&other) {
                all.push(other);
            }
        }
    }
    all
}

fn points(patch: &Patch, unit: UnitId, edit: Edit) -> Result<Edit, PatchError> {
    let (linked, equal) = patch.linked(unit);
    if linked.is_empty() {
        return Ok(edit);
    }
    let label = edit.label(patch);
    let mut edits = vec![edit.clone()];
    if equal {
        let (next, _) = apply(patch, &edit)?;
        let env = next.envelope(unit).map(|e| Box::new(e.clone()));
        edits.extend(env.map(|envelope| Edit::SetEnvelope {
            units: linked,
            envelope,
        }));
    } else {
        let same = linked.into_iter().map(|other| match edit {
            Edit::AddPoint { time_s, level, .. } => Edit::AddPoint {
                unit: other,
                time_s,
                level,
            },
            Edit::RemovePoint { at, .. } => Edit::RemovePoint { unit: other, at },
            _ => edit.clone(),
        });
        edits.extend(same.filter(|e| apply(patch, e).is_ok()));
    }
    Ok(Edit::Together { label, edits })
}

/// The edit that gives units an envelope, and those linked with them alike.
pub fn envelope(patch: &Patch, units: Vec<UnitId>, envelope: Envelope) -> Edit {
    let mut all = units.clone();
    for unit in &units {
        let (linked, equal) = patch.linked(*unit);
        all.extend(linked.into_iter().filter(|l| equal && !units.contains(l)));
    }
    Edit::SetEnvelope {
        units: all,
        envelope: Box::new(envelope),
    }
}
