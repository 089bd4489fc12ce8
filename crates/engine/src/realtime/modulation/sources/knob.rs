//! A macro: it stands where its knob is.

use zolvik_patch::movement::Macro;
use zolvik_patch::movement::source::source_position;

use crate::realtime::modulation::sources::kind::Kind;

pub(super) const KIND: Kind = Kind {
    reads: &[source_position(Macro::PLACE)],
    place: |_, turn| turn.read[0],
    ..Kind::PLAIN
};
