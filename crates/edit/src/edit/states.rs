//! The two states of a patch, its description and its tables.

use std::sync::Arc;

use zolvik_patch::document::Unit;
use zolvik_patch::document::{Meta, Patch, Slot};
use zolvik_patch::plain::clean_name;
use zolvik_patch::wave::{TableId, Wave};

/// The patch in its other state, which is the same where there is none yet.
pub fn flipped(patch: &Patch) -> Patch {
    let mut here = patch.clone();
    let there = here.other.take();
    let mut next = there.map_or_else(|| here.clone(), Arc::unwrap_or_clone);
    next.meta = here.meta.clone();
    next.audition = here.audition.clone();
    // both are tried with the same
    next.playing.phrase = here.playing.phrase.clone();
    next.playing.beat = here.playing.beat;
    (next.playing.beat_db, next.playing.swing) = (here.playing.beat_db, here.playing.swing);
    next.slot = opposite(here.slot);
    next.other = Some(Arc::new(here));
    next
}

pub(super) fn copy_to_other(patch: &mut Patch) {
    let mut copy = patch.clone();
    copy.other = None;
    copy.slot = opposite(patch.slot);
    patch.other = Some(Arc::new(copy));
}

fn opposite(slot: Slot) -> Slot {
    match slot {
        Slot::A => Slot::B,
        Slot::B => Slot::A,
    }
}

pub(super) fn remove_table(patch: &mut Patch, table: TableId) {
    patch.tables.retain(|t| t.id != table);
    for operator in patch.units.iter_mut().filter_map(Unit::oscillator_mut) {
        if operator.wave == Wave::Own(table) {
            operator.wave = Wave::default();
        }
    }
}

pub(super) fn describe(patch: &mut Patch, meta: &Meta) {
    patch.meta = meta.clone();
    patch.meta.name = clean_name(&meta.name);
    for tag in &mut patch.meta.tags {
        *tag = clean_name(tag);
    }
}
