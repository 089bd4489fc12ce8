//! What effects can be, with their rows, by family.

mod bands;
mod colour;
mod drifting;
mod dynamics;
mod space;

pub use self::bands::*;
pub use self::colour::*;
pub use self::drifting::*;
pub use self::dynamics::*;
pub use self::space::*;

/// Most points of a curve or shape drawn in an effect.
pub const MAX_EFFECT_POINTS: usize = 16;
