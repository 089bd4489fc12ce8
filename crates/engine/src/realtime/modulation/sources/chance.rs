//! Chance.

use zolvik_patch::movement::source::source_position;
use zolvik_patch::movement::{Chance, Random};

use crate::program::movement::SourceProgram;
use crate::realtime::modulation::random;
use crate::realtime::modulation::source_output::floor;
use crate::realtime::modulation::sources::kind::Kind;

/// What chance is asked for.
const SOURCE_CHANCE: u64 = 5;

pub(super) const KIND: Kind = Kind {
    goes_round: true,
    reads: &[source_position(Random::LOW), source_position(Random::HIGH)],
    place: |state, turn| {
        let [low, high] = turn.read;
        turn.each(|lane| {
            let nth = if turn.source.is_free() {
                0
            } else {
                state.given.nth[lane]
            };
            low[lane] + (high[lane] - low[lane]) * random_level(turn.source, nth, turn.turns[lane])
        })
    },
    ..Kind::PLAIN
};

/// What chance gives after so many turns, 0 to 1.
fn random_level(source: &SourceProgram, nth: u32, turns: f64) -> f32 {
    let seed = u64::from(source.seed) | SOURCE_CHANCE << 32;
    let at = |round: f64| {
        let words = [seed, source.id.into(), nth.into(), round as i64 as u64];
        (f64::from(random::bits(words)) / 4_294_967_296.0) as f32
    };
    let round = floor(turns);
    match source.variant {
        v if v == Chance::Note as u32 => at(0.0),
        v if v == Chance::Hold as u32 => at(round),
        _ => {
            let t = (turns - round) as f32;
            let (from, to) = (at(round), at(round + 1.0));
            from + (to - from) * (t * t * (3.0 - 2.0 * t))
        }
    }
}
