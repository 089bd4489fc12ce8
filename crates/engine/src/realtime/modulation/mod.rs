//! Sources of movement while they run: one state for each lane, and one more for those all notes share; and what links make of them.

pub(crate) mod clock;
pub(crate) mod envelope;
pub(crate) mod note_envelopes;
pub(crate) mod random;
pub(crate) mod smooth;
pub(crate) mod source_output;
pub(crate) mod values;

mod source;
mod sources;

use wide::f32x8;
use zolvik_effects::tools::bounds::Bounds;
use zolvik_patch::document::{MAX_LINKS, MAX_SOURCES};
use zolvik_patch::movement::{PlayedWhat, SourceName};

use crate::program::movement::{LINKS_FROM, SourceProgram, pass};
use crate::program::params::{LINK, NO_SLOT};
use crate::program::{EnvelopeProgram, Program};
use crate::realtime::input::controls::{Controls, Given};
use crate::realtime::modulation::envelope::{Begin, Envelopes};
use crate::realtime::modulation::note_envelopes::NoteEnvelopes;
use crate::realtime::modulation::smooth::share;
use crate::realtime::modulation::source_output::{Segments, curved};
use crate::realtime::modulation::values::Values;
use crate::realtime::sine::Lanes;
use crate::realtime::voices::lanes::{LANE_COUNT, Lane, LaneState};
use crate::sizes::{LANES, MAX_SETS};

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
pub(crate) struct Modulation {
    states: Box<[[State; MAX_SOURCES]]>,
    /// Envelopes that links move.
    own: NoteEnvelopes,
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

impl Modulation {
    pub(crate) fn new() -> Self {
        Modulation {
            states: vec![[State::IDLE; MAX_SOURCES]; MAX_SETS + 1].into(),
            own: NoteEnvelopes::new(MAX_SETS + 1, MAX_SOURCES),
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
    pub(crate) fn set_target(&mut self, program: &Program, block_s: f64) {
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
        old: &Modulation,
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
        self.set_target(to, block_s);
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
        let place = curved(place, link.bend);
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
