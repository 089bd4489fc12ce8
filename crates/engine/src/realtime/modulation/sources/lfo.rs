//! A drawn cycle.

use crate::realtime::modulation::source_output::part;
use crate::realtime::modulation::sources::kind::Kind;

pub(super) const KIND: Kind = Kind {
    goes_round: true,
    place: |state, turn| {
        let at = turn.turns.map(|turns| part(turns, turn.once));
        state.segments.level(turn.points, at)
    },
    ..Kind::PLAIN
};
