//! A patch compiled for the engine: flat, of fixed size, with every index checked, so that it can cross
//! threads as bytes and be taken up without allocating.

mod compile;
pub(crate) mod copies;
mod ending;
mod envelope;
mod envelopes;
mod layout;
pub(crate) mod movement;
#[cfg(test)]
mod moving;
pub(crate) mod params;
mod prepare;
pub(crate) mod rack;
mod racking;

pub use self::compile::compile;
pub(crate) use self::compile::stereo;
pub(crate) use self::copies::Copies;
pub(crate) use self::envelope::EnvelopeProgram;
pub use self::layout::{ArpeggioProgram, MAX_COPIES, Program, ProgramError};
pub(crate) use self::layout::{
    MOVES_FREQUENCY, OutProgram, RouteProgram, UnitProgram, VoiceProgram, kind,
};
pub use self::params::MAX_UNIT_ROUTES;
pub use self::prepare::{Prepared, prepare, prepare_with};
