//! Steps.

use crate::program::movement::ShapeProgram;
use crate::realtime::modulation::source_output::part;
use crate::realtime::modulation::sources::kind::Kind;

pub(super) const KIND: Kind = Kind {
    goes_round: true,
    place: |_, turn| turn.each(|lane| steps(turn.points, turn.turns[lane], turn.once)),
    ..Kind::PLAIN
};

/// Value of steps after so many turns; each is gone to from the one before over its glide.
fn steps(points: &[ShapeProgram], turns: f64, once: bool) -> f32 {
    let count = points.len().max(1);
    let place = f64::from(part(turns, once)) * count as f64;
    let at = (place as usize).min(count - 1);
    let (Some(step), begun) = (points.get(at), (place - at as f64) as f32) else {
        return 0.5;
    };
    // the very first has nothing to come from
    if step.curve <= begun || at == 0 && (once || turns < 1.0) {
        return step.level;
    }
    let before = points[(at + count - 1) % count].level;
    before + (step.level - before) * begun / step.curve
}
