//! Sources of movement while they run: one state for each lane, and one more for those all notes share; and what links make of them.

use wide::f32x8;
use zolvik_effects::tools::bounds::Bounds;
use zolvik_patch::document::{MAX_LINKS, MAX_SOURCES};
use zolvik_patch::movement::{PlayedWhat, Runs, SourceName};

use super::controls::{Controls, Given};
use super::envelope::{Begin, Envelopes};
use super::giving::{Segments, bent, faded, part, played, steps, thrown};
use super::lanes::{LANE_COUNT, Lane, LaneState};
use super::own::OwnEnvelopes;
use super::sine::Lanes;
use super::smooth::share;
use super::values::Values;
use crate::program::movement::{LINKS_FROM, MovementProgram, ShapeProgram, SourceProgram, pass};
use crate::program::params::{LINK, NO_SLOT};
use crate::program::{EnvelopeProgram, Program};
use crate::sizes::{LANES, MAX_SETS};

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

/// The set of what all notes share; only its first lane counts.
const SHARED: usize = MAX_SETS;
/// Time in which wheels and pedals are followed at least, in seconds: they come in steps.
const CONTROL_S: f32 = 0.01;

/// One source in eight lanes.
#[derive(Debug, Clone, Copy)]
struct State {
    /// Where it stands, 0 to 1, and how far it has come in.
    place: [f32; LANES],
    fade: [f32; LANES],
    /// Turns since the note began.
    turns: [f64; LANES],
    /// Time since then, in seconds.
    age_s: [f64; LANES],
    given: Given,
    /// Nothing to come from: the next place is taken at once.
    fresh: [bool; LANES],
    /// Where in a drawn cycle each lane is.
    segments: Segments,
    envelopes: Envelopes,
    /// What is to begin with the next block.
    begins: [Begin; LANES],
}

impl State {
    const IDLE: State = State {
        place: [0.0; LANES],
        fade: [1.0; LANES],
        turns: [0.0; LANES],
        age_s: [0.0; LANES],
        given: Given::NONE,
        fresh: [true; LANES],
        segments: Segments::UNKNOWN,
        envelopes: Envelopes::IDLE,
        begins: [Begin::Nothing; LANES],
    };
}

/// What a block is computed with.
pub(crate) struct Moment<'a> {
    pub(crate) program: &'a Program,
    pub(crate) values: &'a Values,
    pub(crate) controls: &'a Controls,
    /// Beats at the block's end.
    pub(crate) beats: f64,
    pub(crate) block_s: f64,
}

/// All sources and links of a graph.
#[derive(Debug, Clone)]
pub(crate) struct Movers {
    states: Box<[[State; MAX_SOURCES]]>,
    /// Envelopes that links move.
    own: OwnEnvelopes,
    /// Turns of those that run on by themselves.
    free: [f64; MAX_SOURCES],
    /// Shares of the way covered in a block, upward and downward.
    shares: [[f32; 2]; MAX_SOURCES],
    /// Place and coming in of each source in the set at hand.
    place: [Lanes; MAX_SOURCES],
    fade: [Lanes; MAX_SOURCES],
    /// How far each link moves its value in the set at hand.
    motions: [Lanes; MAX_LINKS],
    /// The same for what all notes share.
    common: [f32; MAX_LINKS],
    /// The same in the newest note.
    shown: [f32; MAX_LINKS],
    /// The newest note's lane.
    newest: usize,
}

impl Movers {
    pub(crate) fn new() -> Self {
        Movers {
            states: vec![[State::IDLE; MAX_SOURCES]; MAX_SETS + 1].into(),
            own: OwnEnvelopes::new(MAX_SETS + 1, MAX_SOURCES),
            free: [0.0; MAX_SOURCES],
            shares: [[1.0; 2]; MAX_SOURCES],
            place: [f32x8::ZERO; MAX_SOURCES],
            fade: [f32x8::ONE; MAX_SOURCES],
            motions: [f32x8::ZERO; MAX_LINKS],
            common: [0.0; MAX_LINKS],
            shown: [0.0; MAX_LINKS],
            newest: 0,
        }
    }

    /// How far the links move their values in the set computed last.
    pub(crate) fn motions(&self) -> &[Lanes; MAX_LINKS] {
        &self.motions
    }

    /// How far each link moved what all notes share, in the block at hand.
    pub(crate) fn common(&self) -> &[f32; MAX_LINKS] {
        &self.common
    }

    /// How far each link moves its value in the newest note, in the value's domain.
    pub(crate) fn shown(&self) -> &[f32; MAX_LINKS] {
        &self.shown
    }

    /// Where a source stands in a lane, and how far it has come in.
    pub(crate) fn place_of(&self, program: &Program, source: usize, lane: usize) -> (f32, f32) {
        let (set, lane) = match program.movement.sources[source].shared {
            0 => (lane / LANES, lane % LANES),
            _ => (SHARED, 0),
        };
        let state = &self.states[set][source];
        (state.place[lane], state.fade[lane])
    }

    /// Takes up times that follow from a program.
    pub(crate) fn aim(&mut self, program: &Program, block_s: f64) {
        for (shares, source) in self.shares.iter_mut().zip(program.movement.sources()) {
            let least = match is_control(source) {
                true => CONTROL_S,
                false => 0.0,
            };
            *shares = [source.rise_s, source.fall_s].map(|time_s| match time_s.max(least) {
                0.0 => 1.0,
                time_s => share(time_s.into(), block_s),
            });
        }
        for (set, states) in self.states.iter_mut().enumerate() {
            // points may have moved
            let sources = program.movement.sources().iter().enumerate();
            for (at, source) in sources {
                states[at].segments = Segments::UNKNOWN;
                if source.envelope.count == 0 {
                    continue;
                }
                let courses = self.own.of_source(source, set, at);
                states[at].envelopes.retarget(courses, block_s);
            }
        }
    }

    /// Takes up changed envelopes of sources; to be called before a program of the same shape takes the place of another.
    pub(crate) fn follow(&mut self, from: &Program, to: &Program) {
        let sources = to.movement.sources().iter().zip(&from.movement.sources);
        for (at, (is, was)) in sources.enumerate() {
            if is.own_envelope != 0 {
                self.own.follow(at, &was.envelope, &is.envelope);
            }
        }
    }

    /// Takes over what another graph's sources have come to; new ones begin in the notes that are held.
    pub(crate) fn take(
        &mut self,
        old: &Movers,
        (from, to): (&Program, &Program),
        lanes: &[Lane],
        (old_block_s, block_s): (f64, f64),
    ) {
        self.newest = old.newest;
        for (at, source) in to.movement.sources().iter().enumerate() {
            let same = |s: &SourceProgram| (s.id, s.kind) == (source.id, source.kind);
            let before = from.movement.sources().iter().position(same);
            if source.own_envelope != 0 {
                let theirs = before.filter(|b| from.movement.sources[*b].own_envelope != 0);
                let theirs = theirs.map(|b| (&old.own, b));
                self.own.take(at, &source.envelope, theirs);
            }
            match before {
                Some(before) => {
                    self.free[at] = old.free[before];
                    for (set, theirs) in self.states.iter_mut().zip(&old.states) {
                        set[at] = theirs[before];
                        set[at].envelopes.rescale(block_s / old_block_s);
                    }
                }
                None => {
                    self.free[at] = 0.0;
                    self.states.iter_mut().for_each(|set| set[at] = State::IDLE);
                    for (lane, note) in lanes.iter().enumerate() {
                        if matches!(note.state, LaneState::Held | LaneState::Pedalled) {
                            self.begin(at, source, lane, note, block_s);
                        }
                    }
                }
            }
        }
        self.aim(to, block_s);
    }

    /// A note begins in a lane.
    pub(crate) fn note_on(&mut self, program: &Program, lane: usize, note: &Lane, block_s: f64) {
        for (at, source) in program.movement.sources().iter().enumerate() {
            self.begin(at, source, lane, note, block_s);
        }
    }

    fn begin(&mut self, at: usize, source: &SourceProgram, lane: usize, note: &Lane, block_s: f64) {
        let (set, lane) = match source.shared {
            0 => (lane / LANES, lane % LANES),
            _ => (SHARED, 0),
        };
        let state = &mut self.states[set][at];
        state.given.nth[lane] = note.nth;
        state.fresh[lane] |= source.shared == 0;
        given(state, lane, note);
        if source.is_free() && source.shared != 0 {
            return;
        }
        (state.turns[lane], state.age_s[lane]) = (0.0, 0.0);
        begin_in(state, source, lane, Begin::Note, block_s);
    }

    /// A sounding lane is taken to another key; with `anew` its sources begin again.
    pub(crate) fn take_over(
        &mut self,
        program: &Program,
        lane: usize,
        note: &Lane,
        anew: bool,
        block_s: f64,
    ) {
        for (at, source) in program.movement.sources().iter().enumerate() {
            let (set, lane) = match source.shared {
                0 => (lane / LANES, lane % LANES),
                _ => (SHARED, 0),
            };
            let state = &mut self.states[set][at];
            given(state, lane, note);
            if anew {
                state.given.nth[lane] = note.nth;
            }
            if !anew || source.is_free() {
                continue;
            }
            (state.turns[lane], state.age_s[lane]) = (0.0, 0.0);
            begin_in(state, source, lane, Begin::Again, block_s);
        }
    }

    /// A note is let go; its envelopes end so many times as slowly.
    pub(crate) fn release(&mut self, program: &Program, lane: usize, slower: f64, block_s: f64) {
        self.each_envelope(program, lane, |envelopes, lane, course| {
            envelopes.release(lane, course, slower, block_s);
        });
    }

    /// What the envelopes of a note that was let go still have to go takes so many times as long.
    pub(crate) fn slow(&mut self, program: &Program, lane: usize, times: f64) {
        self.each_envelope(program, lane, |envelopes, lane, _| {
            envelopes.slow(lane, times);
        });
    }

    /// Every source's envelopes that a note leads: its own, and of the newest note those all notes share.
    fn each_envelope(
        &mut self,
        program: &Program,
        lane: usize,
        mut with: impl FnMut(&mut Envelopes, usize, &EnvelopeProgram),
    ) {
        let newest = lane == self.newest;
        for (at, source) in program.movement.sources().iter().enumerate() {
            let (set, lane) = match source.shared {
                0 => (lane / LANES, lane % LANES),
                _ if newest => (SHARED, 0),
                _ => continue,
            };
            if source.envelope.count > 0 {
                let courses = self.own.of_source(source, set, at);
                with(&mut self.states[set][at].envelopes, lane, courses.of(lane));
            }
        }
    }

    /// Moves what all notes share on by one block. `amplitude` gives what a unit puts out in the lanes of a set.
    pub(crate) fn advance_shared(
        &mut self,
        moment: &Moment<'_>,
        lanes: &[Lane],
        amplitude: impl Fn(usize, usize) -> Lanes,
    ) {
        let sounding = |lane: &usize| lanes[*lane].state != LaneState::Free;
        let newest = (0..LANE_COUNT.min(lanes.len()))
            .filter(sounding)
            .max_by_key(|lane| lanes[*lane].age);
        // with nothing sounding the last one's places stay
        self.newest = newest.unwrap_or(self.newest);
        self.advance(moment, SHARED, amplitude);
        let moving = moment.program.movement.links().len();
        for (common, motion) in self.common.iter_mut().zip(&self.motions[..moving]) {
            *common = motion.as_array()[0];
        }
    }

    /// Moves the sources of a set of lanes on by one block, and the links.
    pub(crate) fn advance(
        &mut self,
        moment: &Moment<'_>,
        set: usize,
        amplitude: impl Fn(usize, usize) -> Lanes,
    ) {
        let movement = &moment.program.movement;
        let passes = match set {
            SHARED => pass::SHARED,
            _ => pass::NOTES,
        };
        for item in movement.order() {
            match item.checked_sub(LINKS_FROM) {
                None => {
                    let at = *item as usize % MAX_SOURCES;
                    let source = &movement.sources[at];
                    match ((source.shared != 0), set == SHARED) {
                        (true, true) | (false, false) => {
                            self.advance_source(moment, at, set, &amplitude);
                            let state = &self.states[set][at];
                            self.place[at] = f32x8::new(state.place);
                            self.fade[at] = f32x8::new(state.fade);
                        }
                        (true, false) => {
                            let state = &self.states[SHARED][at];
                            self.place[at] = f32x8::splat(state.place[0]);
                            self.fade[at] = f32x8::splat(state.fade[0]);
                        }
                        // what all notes share follows the newest of those that are each note's own
                        (false, true) => {
                            let (set, lane) = (self.newest / LANES, self.newest % LANES);
                            let state = &self.states[set][at];
                            // one that begins only now has not come to anything yet: what it is about to
                            let before = (state.begins[lane] != Begin::Nothing).then_some(*state);
                            if before.is_some() {
                                self.advance_source(moment, at, set, &amplitude);
                            }
                            let state = &mut self.states[set][at];
                            self.place[at] = f32x8::splat(state.place[lane]);
                            self.fade[at] = f32x8::splat(state.fade[lane]);
                            if let Some(before) = before {
                                *state = before;
                            }
                        }
                    }
                }
                Some(at) => {
                    let at = at as usize % MAX_LINKS;
                    let link = &movement.links[at];
                    if link.passes & passes == 0 {
                        continue;
                    }
                    match link.plain {
                        0 => self.advance_link(moment, at),
                        _ => {
                            let from = link.from as usize % MAX_SOURCES;
                            let amount = moment.values.at(link.amount as usize).next;
                            let share = link.share(self.place[from]);
                            self.motions[at] = f32x8::splat(amount) * share * self.fade[from];
                        }
                    }
                }
            }
        }
        if set == self.newest / LANES {
            let lane = self.newest % LANES;
            for (at, link) in movement.links().iter().enumerate() {
                self.shown[at] = match link.passes & pass::NOTES {
                    0 => self.common[at],
                    _ => self.motions[at].as_array()[lane],
                };
            }
        }
    }

    fn advance_link(&mut self, moment: &Moment<'_>, at: usize) {
        let link = &moment.program.movement.links[at];
        let amount = self.moved(moment, link.amount, (link.first_move, link.moves));
        let from = link.from as usize % MAX_SOURCES;
        let place = match (link.begin, link.stretch) {
            (0.0, 1.0) => self.place[from],
            (begin, stretch) => ((self.place[from] - f32x8::splat(begin)) * f32x8::splat(stretch))
                .at_least(f32x8::ZERO)
                .at_most(f32x8::ONE),
        };
        let place = bent(place, link.bend);
        let mut motion = amount * link.share(place) * self.fade[from];
        if link.scale != NO_SLOT {
            let scale = link.scale as usize % MAX_SOURCES;
            motion *= self.place[scale] * self.fade[scale];
        }
        self.motions[at] = motion;
    }

    /// A parameter of a source or link in the lanes at hand, with what moves it.
    #[inline(always)]
    fn moved(&self, moment: &Moment<'_>, param: u32, moves: (u32, u32)) -> Lanes {
        let base = moment.values.at(param as usize).next;
        match moves.1 {
            0 => f32x8::splat(base),
            _ => self.moved_by(moment, (param, base), moves),
        }
    }

    fn moved_by(
        &self,
        moment: &Moment<'_>,
        (param, base): (u32, f32),
        (first, count): (u32, u32),
    ) -> Lanes {
        let range = first as usize..(first + count) as usize;
        let moves = moment.program.moves.get(range).unwrap_or(&[]);
        let mut own = moves.iter().filter(|m| m.to == param).peekable();
        if own.peek().is_none() {
            return f32x8::splat(base);
        }
        let mut sum = f32x8::ZERO;
        for one in own {
            sum += self.motions[one.source.saturating_sub(LINK) as usize % MAX_LINKS];
        }
        let row = &moment.program.params[param as usize];
        f32x8::new(sum.to_array().map(|amount| row.moved(base, amount)))
    }

    fn advance_source(
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
                low[lane] + (high[lane] - low[lane]) * thrown(source, nth, turns[lane])
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

/// Lets a source begin in a lane; its envelope by the common one, until the block that knows what moves it.
fn begin_in(state: &mut State, source: &SourceProgram, lane: usize, how: Begin, block_s: f64) {
    state.begins[lane] = how;
    if source.envelope.count > 0 {
        let envelopes = &mut state.envelopes;
        envelopes.begin(how, lane, &source.envelope, 1.0, block_s);
    }
}

fn given(state: &mut State, lane: usize, note: &Lane) {
    state.given.key[lane] = note.key & 127;
    state.given.velocity[lane] = f32::from(note.velocity) * (1.0 / 127.0);
    state.given.copy[lane] = (0.5 + 0.5 * note.place()) as f32;
}

fn is_control(source: &SourceProgram) -> bool {
    use PlayedWhat::{Bend, Expression, Pedal, Pressure, Wheel};
    let controls = [Wheel, Bend, Pressure, Expression, Pedal];
    source.kind == SourceName::Played as u32 && controls.iter().any(|c| *c as u32 == source.variant)
}

fn points<'a>(movement: &'a MovementProgram, source: &SourceProgram) -> &'a [ShapeProgram] {
    let range = source.first_point as usize..(source.first_point + source.points) as usize;
    movement.shapes.get(range).unwrap_or(&[])
}
