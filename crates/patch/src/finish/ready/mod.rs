//! Ready settings of each effect, by our own names.

mod bands;
mod colour;
mod drifting;
mod dynamics;
mod setting;
mod space;

pub use self::setting::Ready;
use super::effect::EffectName;

/// All ready settings.
pub fn all() -> impl Iterator<Item = &'static Ready> {
    let families = [
        colour::READY,
        bands::READY,
        dynamics::READY,
        drifting::READY,
        space::READY,
    ];
    families.into_iter().flatten()
}

/// The ready settings of a kind, in the order they are offered.
pub fn ready_for(kind: EffectName) -> impl Iterator<Item = &'static Ready> {
    all().filter(move |r| r.kind == kind)
}
