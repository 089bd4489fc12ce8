//! One source over one block: how far it has gone, where it stands, and how far it has come in.

use zolvik_patch::movement::{Runs, SourceName};

use crate::program::movement::{MovementProgram, ShapeProgram, SourceProgram};
use crate::realtime::modulation::envelope::Begin;
use crate::realtime::modulation::source_output::faded;
use crate::realtime::modulation::sources::kind;
use crate::realtime::modulation::sources::kind::{MOST_READ, Turn};
use crate::realtime::modulation::{Modulation, Moment, SHARED, State};
use crate::realtime::sine::Lanes;
use crate::sizes::LANES;

/// Positions of the parameters read here, among those of their source.
mod at {
    use zolvik_patch::movement::Timing;
    use zolvik_patch::movement::source::source_position;

    pub(super) const RATE_HZ: usize = source_position(Timing::RATE_HZ);
    pub(super) const CYCLE_BEATS: usize = source_position(Timing::CYCLE_BEATS);
    pub(super) const START_TURNS: usize = source_position(Timing::START_TURNS);
}

/// Where a source stands follows where it would: so much of the way up or down in a block, and at once where it begins.
fn ease(state: &mut State, places: [f32; LANES], [up, down]: [f32; 2]) {
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
        let kind = kind(SourceName::ALL[source.kind as usize % SourceName::ALL.len()]);
        let goes_round = kind.goes_round;
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
        let mut read = [[0.0; LANES]; MOST_READ];
        for (read, place) in read.iter_mut().zip(kind.reads) {
            *read = param(*place).to_array();
        }
        if set == SHARED {
            self.free[at] += rate_hz[0] * moment.block_s;
        }
        let free = match source.in_beats {
            // what runs by the tempo keeps to the beat, whatever the tempo was before
            1 if source.is_free() => moment.beats / rate[0],
            _ => self.free[at],
        };
        let begins = std::mem::take(&mut self.states[set][at].begins);
        if kind.has_envelopes {
            self.advance_envelopes(moment, (set, at), &begins);
        }
        let followed = match kind.follows {
            true => self.followed(source, set, amplitude),
            false => [0.0; LANES],
        };
        let state = &mut self.states[set][at];
        // of what all notes share only the first lane counts
        let count = if set == SHARED { 1 } else { LANES };
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
        let turn = Turn {
            source,
            points: points(movement, source),
            turns,
            once: source.runs == Runs::Once as u32,
            read,
            followed,
            controls: moment.controls,
            count,
        };
        let places = (kind.place)(state, &turn);
        ease(state, places, self.shares[at]);
        state.fade = match (source.delay_s, source.fade_s) {
            (0.0, 0.0) => [1.0; LANES],
            _ => state.age_s.map(|age_s| faded(source, age_s)),
        };
    }

    /// How strong the strip is that a source follows.
    fn followed(
        &self,
        source: &SourceProgram,
        set: usize,
        amplitude: &impl Fn(usize, usize) -> Lanes,
    ) -> [f32; LANES] {
        let unit = source.unit as usize;
        match set {
            SHARED => {
                let newest = amplitude(self.newest / LANES, unit).to_array();
                [newest[self.newest % LANES]; LANES]
            }
            set => amplitude(set, unit).to_array(),
        }
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
