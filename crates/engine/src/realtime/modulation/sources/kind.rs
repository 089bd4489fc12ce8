//! What a kind of source says of itself: one verb, and what it needs for it.

use crate::program::movement::{ShapeProgram, SourceProgram};
use crate::realtime::input::controls::Controls;
use crate::realtime::modulation::State;
use crate::sizes::LANES;

/// Most parameters a kind reads for where it stands.
pub(in crate::realtime::modulation) const MOST_READ: usize = 2;

/// A block of one source in a set of lanes, as far as it has gone.
pub(in crate::realtime::modulation) struct Turn<'a> {
    pub(in crate::realtime::modulation) source: &'a SourceProgram,
    /// What is drawn in it.
    pub(in crate::realtime::modulation) points: &'a [ShapeProgram],
    /// Turns since it began, with its start.
    pub(in crate::realtime::modulation) turns: [f64; LANES],
    /// Whether it stays where it has come to after one.
    pub(in crate::realtime::modulation) once: bool,
    /// The parameters it reads.
    pub(in crate::realtime::modulation) read: [[f32; LANES]; MOST_READ],
    /// The level of the unit it follows.
    pub(in crate::realtime::modulation) followed: [f32; LANES],
    pub(in crate::realtime::modulation) controls: &'a Controls,
    /// How many lanes count.
    pub(in crate::realtime::modulation) count: usize,
}

impl Turn<'_> {
    /// A value for each lane that counts.
    pub(super) fn each(&self, give: impl Fn(usize) -> f32) -> [f32; LANES] {
        let mut places = [0.0; LANES];
        for (lane, place) in places.iter_mut().enumerate().take(self.count) {
            *place = give(lane);
        }
        places
    }
}

/// A kind of source.
pub(in crate::realtime::modulation) struct Kind {
    /// Whether it has a rate and a place in its cycle.
    pub(in crate::realtime::modulation) goes_round: bool,
    /// Positions of the parameters it reads, among those of its source.
    pub(in crate::realtime::modulation) reads: &'static [usize],
    /// Whether it follows the level of a unit.
    pub(in crate::realtime::modulation) follows: bool,
    /// Whether envelopes run in it.
    pub(in crate::realtime::modulation) has_envelopes: bool,
    /// Where it stands, 0 to 1, in each lane.
    pub(in crate::realtime::modulation) place: fn(&mut State, &Turn<'_>) -> [f32; LANES],
}

impl Kind {
    /// One that needs nothing and stands at the bottom.
    pub(super) const PLAIN: Kind = Kind {
        goes_round: false,
        reads: &[],
        follows: false,
        has_envelopes: false,
        place: |_, _| [0.0; LANES],
    };
}
