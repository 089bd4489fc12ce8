//! Envelopes: they run by themselves.

use crate::realtime::modulation::sources::kind::Kind;

pub(super) const KIND: Kind = Kind {
    has_envelopes: true,
    place: |state, _| state.envelopes.value.map(|value| value as f32),
    ..Kind::PLAIN
};
