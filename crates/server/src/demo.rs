//! The demo collection Night Garden: sounds of a night-time trail through a botanical glasshouse.

use zolvik_patch::{Patch, PatchError, json};
use zolvik_store::{Store, StoreError};

const PATCHES: [&str; 27] = [
    include_str!("../../../demo/night-garden/frost-fern.json"),
    include_str!("../../../demo/night-garden/root-cellar.json"),
    include_str!("../../../demo/night-garden/pollen-drift.json"),
    include_str!("../../../demo/night-garden/copper-wasp.json"),
    include_str!("../../../demo/night-garden/moth-choir.json"),
    include_str!("../../../demo/night-garden/lantern-bowl.json"),
    include_str!("../../../demo/night-garden/mud-throat.json"),
    include_str!("../../../demo/night-garden/night-rain.json"),
    include_str!("../../../demo/night-garden/iron-ivy.json"),
    include_str!("../../../demo/night-garden/fern-organ.json"),
    include_str!("../../../demo/night-garden/cellar-growl.json"),
    include_str!("../../../demo/night-garden/tin-rain.json"),
    include_str!("../../../demo/night-garden/glasshouse-air.json"),
    include_str!("../../../demo/night-garden/wire-fence.json"),
    include_str!("../../../demo/night-garden/talking-pond.json"),
    include_str!("../../../demo/night-garden/broken-prism.json"),
    include_str!("../../../demo/night-garden/gravel-gate.json"),
    include_str!("../../../demo/night-garden/spore-cloud.json"),
    include_str!("../../../demo/night-garden/seed-rattle.json"),
    include_str!("../../../demo/night-garden/gate-opens.json"),
    include_str!("../../../demo/night-garden/night-heron.json"),
    include_str!("../../../demo/night-garden/glass-moths.json"),
    include_str!("../../../demo/night-garden/sinking-horn.json"),
    include_str!("../../../demo/night-garden/mud-talker.json"),
    include_str!("../../../demo/night-garden/shutter-stab.json"),
    include_str!("../../../demo/night-garden/held-lantern.json"),
    include_str!("../../../demo/night-garden/stone-hum.json"),
];

/// The patches of the collection.
///
/// # Errors
/// If one of them is not valid; a test holds that none is.
pub fn collection() -> Result<Vec<Patch>, PatchError> {
    PATCHES.iter().map(|text| json::read(text)).collect()
}

/// Puts the collection into a library that has nothing yet. Gives the number of patches added.
///
/// # Errors
/// If the store fails.
pub fn seed(store: &Store) -> Result<usize, StoreError> {
    if store.list(false, 0, 0)?.total + store.list(true, 0, 0)?.total > 0 {
        return Ok(0);
    }
    let mut patches = collection()?;
    patches.reverse();
    store.create_all(&patches)?;
    Ok(patches.len())
}
