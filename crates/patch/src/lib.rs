//! The patch document: what a sound designer builds, and every rule about it. No sound is made here, nothing is changed here, no screen is known.
//!
//! - [`document`]: the patch as data, read and written as JSON by [`json`], checked by [`validate`].
//! - [`catalogue`]: one row per parameter; engine, screen, text, checks and schema all read it.
//! - [`movement`]: sources that move values, and the links between them.
//! - [`playing`]: phrase, beat, arpeggiator, articulations.
//! - [`finish`]: chains of effects.
//! - [`wave`] and [`scale`]: what an operator repeats, and what the keys are tuned to.
//! - [`plain`]: names made safe.
//! - [`text`]: values as people write them, in and out.
//! - [`graph`], [`hearing`]: what follows from the routing: order, what is listened to, what can be heard.
//!
//! ```
//! use zolvik_patch::{Patch, json};
//! let patch = Patch::empty();
//! let text = json::write(&patch);
//! assert_eq!(json::read(&text).unwrap(), patch);
//! ```

pub mod error;
pub mod finish;
mod ids;
pub mod json;
mod kinds;
mod laws;
pub mod movement;
mod params;
mod parts;
mod patch;
pub mod plain;
pub mod playing;
#[cfg(feature = "testing")]
pub mod testing;
pub mod text;
pub mod validate;

pub use self::laws::{expression, graph, hearing, levels, order, pitch, reach, timing};
pub use self::params::{address, catalogue, choice, limits, param, part, section, values};
pub use self::parts::{character, envelope, filter, scale, sound, wave};
use self::parts::{group, route, unit, voice};
pub use error::PatchError;
pub use patch::Patch;

/// The patch as data, with all it is made of. Field names are the file format; see `docs/patch-format.md`.
pub mod document {
    pub use crate::envelope::{Envelope, Point};
    pub use crate::group::{EnvelopeLink, Group};
    pub use crate::ids::{ChainId, EffectId, GroupId, LinkId, RouteId, SourceId, UnitId};
    pub use crate::kinds::filter::{Filter, FilterType, Slope};
    pub use crate::kinds::level::Level;
    pub use crate::kinds::noise::Noise;
    pub use crate::kinds::operator::{CycleShape, Harmonics, Operator, Start, TunedBy};
    pub use crate::kinds::sample::Sample;
    pub use crate::kinds::shaper::{Shaper, ShaperCurve};
    pub use crate::kinds::{KindName, UnitKind};
    pub use crate::limits::{MAX_LINKS, MAX_ROUTES, MAX_SHAPE_POINTS, MAX_SOURCES, MAX_UNITS};
    pub use crate::patch::{FORMAT, Meta, Patch, Slot};
    pub use crate::route::{Bus, Destination, Route, RouteKind, Send};
    pub use crate::unit::Unit;
    pub use crate::voice::{Audition, Glide, Mode, Priority, Quality, Unison, VoiceSettings};
}
