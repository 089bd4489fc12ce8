//! Why something is not heard, and the edit that would mend it.

use serde::{Deserialize, Serialize};
use zolvik_patch::Patch;
use zolvik_patch::document::{Route, RouteKind, UnitId};
use zolvik_patch::hearing::{Listening, heard, passes};

use crate::edit::Edit;

/// Why a unit is not heard, and the edit that would change it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Unheard {
    /// In words, for the strip.
    pub why: String,
    /// What a button would do about it.
    pub mend: Option<Mend>,
}

/// An offered edit with the words on its button.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Mend {
    /// Words on the button.
    pub label: String,
    /// The edit it makes.
    pub edit: Edit,
}

/// Why a unit is not heard; none if it is.
pub fn unheard(patch: &Patch, listening: &Listening, id: UnitId) -> Option<Unheard> {
    let unit = patch.unit(id)?;
    let says = |why: String, mend: Option<Mend>| Some(Unheard { why, mend });
    let is_source = unit.kind.name().is_source();
    let feeds = |r: &Route| r.send.kind() == Some(RouteKind::Audio) && r.send.target() == Some(id);
    if !is_source && !patch.routes.iter().any(feeds) {
        let edit = Edit::TakeThrough { unit: id };
        let label = "Send all through it".into();
        return says("nothing goes into it".into(), Some(Mend { label, edit }));
    }
    if heard(patch, listening).contains(&id) {
        return None;
    }
    if !unit.on {
        let edit = Edit::SwitchUnit { unit: id, on: true };
        return says(
            "switched off".into(),
            Some(Mend {
                label: "Switch on".into(),
                edit,
            }),
        );
    }
    if listening.muted.contains(&id) {
        return says("muted".into(), None);
    }
    if !listening.is_plain() && heard(patch, &Listening::default()).contains(&id) {
        return says("another is soloed, muted or bypassed".into(), None);
    }
    let sends: Vec<&Route> = patch.sends(id).collect();
    if let Some(off) = sends.iter().find(|r| !r.on) {
        let edit = Edit::SwitchRoute {
            route: off.id,
            on: true,
        };
        return says(
            "its route is off".into(),
            Some(Mend {
                label: "Switch route on".into(),
                edit,
            }),
        );
    }
    if sends.iter().any(|r| !passes(patch, r)) {
        return says("its route is at zero".into(), None);
    }
    let to_output = Mend {
        label: "Send to output".into(),
        edit: Edit::AddRoute {
            from: id,
            to: None,
            kind: RouteKind::default(),
        },
    };
    match sends
        .iter()
        .filter_map(|r| r.send.target())
        .find(|to| *to != id)
    {
        Some(to) => {
            let name = patch.unit(to).map_or("", |u| u.name.as_str());
            says(
                format!("only feeds {name}, which is not heard"),
                Some(to_output),
            )
        }
        None => says("no way to the output".into(), Some(to_output)),
    }
}
