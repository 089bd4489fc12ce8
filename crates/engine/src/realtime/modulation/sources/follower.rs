//! The level of a unit.

use crate::realtime::modulation::sources::kind::Kind;

pub(super) const KIND: Kind = Kind {
    follows: true,
    place: |_, turn| turn.followed.map(|level| level.clamp(0.0, 1.0)),
    ..Kind::PLAIN
};
