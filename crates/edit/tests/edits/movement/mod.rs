//! Edits of movement.

mod links;
mod sources;

use zolvik_edit::{Edit, apply};
use zolvik_patch::address::Address;
use zolvik_patch::document::{Patch, RouteId, Send, SourceId};
use zolvik_patch::movement::SourceName;

pub fn after(patch: &Patch, edits: &[Edit]) -> Patch {
    let one = |patch: Patch, edit: &Edit| apply(&patch, edit).unwrap().0;
    edits.iter().fold(patch.clone(), one)
}

pub fn add(kind: SourceName, to: Address) -> Edit {
    Edit::AddSource { kind, to: vec![to] }
}

pub const SOURCE: SourceId = SourceId(1001);
pub const LEVEL: fn() -> Address = || Address::route(RouteId(1), Send::LEVEL_DB);
