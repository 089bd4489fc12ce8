//! One source over one block: how far it has gone, where it stands, and how far it has come in.

use wide::f32x8;
use zolvik_patch::movement::{Runs, SourceName};

use crate::program::movement::{MovementProgram, ShapeProgram, SourceProgram};
use crate::realtime::modulation::envelope::Begin;
use crate::realtime::modulation::source_output::{faded, part, played, random_level, steps};
use crate::realtime::modulation::{Modulation, Moment, SHARED, State};
use crate::realtime::sine::Lanes;
use crate::sizes::LANES;

/// Positions of the parameters read here, among those of their source.
mod at {
    use zolvik_patch::movement::source::source_position;
    use zolvik_patch::movement::{Macro, Random, Timing};

    pub(super) const RATE_HZ: usize = source_position(Timing::RATE_HZ);
    pub(super) const CYCLE_BEATS: usize = source_position(Timing::CYCLE_BEATS);
    pub(super) const START_TURNS: usize = source_position(Timing::START_TURNS);
    pub(super) const LOW: usize = source_position(Random::LOW);
    pub(super) const HIGH: usize = source_position(Random::HIGH);
    pub(super) const PLACE: usize = source_position(Macro::PLACE);
}

impl Modulation {
    /// Moves a source on by one block in a set of lanes.
    pub(super) fn advance_source(
        &mut self,
        moment: &Moment<'_>,
        at: usize,
        set: usize,
        amplitude: &impl Fn(usize, usize) -> Lanes,
    ) {
        let movement = &moment.program.movement;
        let source = &movement.sources[at];
        let moves = (source.first_move, source.moves);
        let param = |place: usize| self.moved(moment, source.first_param + place as u32, moves);
        let kind = SourceName::ALL[source.kind as usize % SourceName::ALL.len()];
        let goes_round = matches!(
            kind,
            SourceName::Lfo | SourceName::Steps | SourceName::Random
        );
        let rate = match source.in_beats {
            0 => (at::RATE_HZ, source.rate_hz),
            _ => (at::CYCLE_BEATS, source.cycle_beats),
        };
        // cycles a second, or beats of a cycle
        let rate = match goes_round {
            true => self.exact(moment, source, rate),
            false => [1.0; LANES],
        };
        let start = match goes_round {
            true => param(at::START_TURNS).to_array(),
            false => [0.0; LANES],
        };
        let rate_hz = match source.in_beats {
            _ if !goes_round => [0.0; LANES],
            0 => rate,
            _ => rate.map(|beats| moment.program.tempo_bpm / 60.0 / beats),
        };
        let range = match kind {
            SourceName::Random => [param(at::LOW), param(at::HIGH)],
            SourceName::Macro => [param(at::PLACE); 2],
            _ => [f32x8::ZERO; 2],
        };
        if set == SHARED {
            self.free[at] += rate_hz[0] * moment.block_s;
        }
        let free = match source.in_beats {
            // what runs by the tempo keeps to the beat, whatever the tempo was before
            1 if source.is_free() => moment.beats / rate[0],
            _ => self.free[at],
        };
        let [up, down] = self.shares[at];
        let begins = std::mem::take(&mut self.states[set][at].begins);
        if kind == SourceName::Envelope {
            self.advance_envelopes(moment, (set, at), &begins);
        }
        let state = &mut self.states[set][at];
        let followed = match kind {
            SourceName::Follower if set != SHARED => amplitude(set, source.unit as usize),
            SourceName::Follower => f32x8::splat(
                amplitude(self.newest / LANES, source.unit as usize).to_array()
                    [self.newest % LANES],
            ),
            _ => f32x8::ZERO,
        }
        .to_array();
        let [low, high] = range.map(|lanes| lanes.to_array());
        // of what all notes share only the first lane counts
        let count = if set == SHARED { 1 } else { LANES };
        let once = source.runs == Runs::Once as u32;
        for (age_s, (turns, rate_hz)) in state
            .age_s
            .iter_mut()
            .zip(state.turns.iter_mut().zip(rate_hz))
        {
            *age_s += moment.block_s;
            *turns += rate_hz * moment.block_s;
        }
        let mut turns = match source.is_free() {
            true => [free; LANES],
            false => state.turns,
        };
        for (turns, start) in turns.iter_mut().zip(start) {
            *turns += f64::from(start);
        }
        let each = |state: &State, give: &dyn Fn(&State, usize) -> f32| {
            let mut places = [0.0; LANES];
            for (lane, place) in places.iter_mut().enumerate().take(count) {
                *place = give(state, lane);
            }
            places
        };
        let places = match kind {
            SourceName::Lfo => {
                let mut at = [0.0; LANES];
                for (at, turns) in at.iter_mut().zip(turns) {
                    *at = part(turns, once);
                }
                state.segments.level(points(movement, source), at)
            }
            SourceName::Steps => each(state, &|_, lane| {
                steps(points(movement, source), turns[lane], once)
            }),
            SourceName::Envelope => state.envelopes.value.map(|value| value as f32),
            SourceName::Random => each(state, &|state, lane| {
                let nth = if source.is_free() {
                    0
                } else {
                    state.given.nth[lane]
                };
                low[lane] + (high[lane] - low[lane]) * random_level(source, nth, turns[lane])
            }),
            SourceName::Played => each(state, &|state, lane| {
                played(source, &state.given, lane, moment.controls)
            }),
            SourceName::Follower => followed.map(|level| level.clamp(0.0, 1.0)),
            SourceName::Macro => low,
        };
        if up >= 1.0 && down >= 1.0 {
            (state.place, state.fresh) = (places, [false; LANES]);
        } else {
            let lanes = state.place.iter_mut().zip(&mut state.fresh);
            for ((now, fresh), place) in lanes.zip(places) {
                let rest = place - *now;
                let share = if rest > 0.0 { up } else { down };
                *now = match std::mem::take(fresh) || share >= 1.0 {
                    true => place,
                    false => *now + rest * share,
                };
            }
        }
        state.fade = match (source.delay_s, source.fade_s) {
            (0.0, 0.0) => [1.0; LANES],
            _ => state.age_s.map(|age_s| faded(source, age_s)),
        };
    }

    /// Moves a source's envelopes on by one block; where links move them, those that begin are made by what moves them.
    fn advance_envelopes(
        &mut self,
        moment: &Moment<'_>,
        (set, at): (usize, usize),
        begins: &[Begin; LANES],
    ) {
        let source = &moment.program.movement.sources[at];
        let state = &mut self.states[set][at];
        if source.own_envelope != 0 {
            for (lane, how) in begins.iter().copied().enumerate() {
                if how != Begin::Nothing {
                    let onsets = moment.program.movement.onsets_of_source(at);
                    let place = (set, at, lane);
                    let own = self
                        .own
                        .make(place, &source.envelope, onsets, &self.motions);
                    state.envelopes.remake(how, lane, own, moment.block_s);
                }
            }
        }
        let courses = self.own.of_source(source, set, at);
        state.envelopes.advance(courses, moment.block_s);
    }

    /// A parameter of a source in the lanes at hand, with all the digits it was set to while nothing moves it.
    fn exact(
        &self,
        moment: &Moment<'_>,
        source: &SourceProgram,
        (place, value): (usize, f64),
    ) -> [f64; LANES] {
        if source.moves == 0 {
            return [value; LANES];
        }
        let param = source.first_param + place as u32;
        let lanes = self.moved(moment, param, (source.first_move, source.moves));
        lanes.to_array().map(|lane| match lane == value as f32 {
            true => value,
            false => lane.into(),
        })
    }
}

/// The points of what is drawn in a source.
fn points<'a>(movement: &'a MovementProgram, source: &SourceProgram) -> &'a [ShapeProgram] {
    let range = source.first_point as usize..(source.first_point + source.points) as usize;
    movement.shapes.get(range).unwrap_or(&[])
}
