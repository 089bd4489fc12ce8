//! What units keep from frame to frame, one kind each, and the few verbs all of them have: begin a note, tune, begin a block, give
//! one sample, fall silent.

mod curve;
pub(crate) mod cycle;
mod drive;
mod feedback;
mod filter;
mod finer;
mod level;
mod looping;
pub(crate) mod noise;
pub(crate) mod operator;
pub(crate) mod partials;
mod sample;
mod shaper;
mod wave;

use wide::f32x8;
use zolvik_waves::{Bank, Recording};

use self::filter::Filter;
pub(crate) use self::filter::line_frames;
use self::level::Leveller;
use self::noise::{Colour, Noise};
use self::operator::Oscillator;
use self::partials::Partials;
use self::sample::Player;
use self::shaper::Shaper;
use super::sine::Lanes;
use super::smooth::Smooth;
use super::values::{LaneRamp, Values};
use crate::LANES;
use crate::program::params::NO_SLOT;
use crate::program::{MOVES_FREQUENCY, Program, UnitProgram, kind};

/// Highest a unit that is multiplied by others may get, so that loops of them stay bounded.
pub(crate) const CEILING: f32 = 4.0;
/// The same for what sound goes through: all that a patch puts into it passes as it is.
pub(crate) const PASSING_CEILING: f32 = 16.0;

/// What all lanes of a unit share.
#[derive(Debug, Clone)]
pub(crate) struct Shared {
    pub(crate) colour: Colour,
    pub(crate) partials: Partials,
    /// Whether an operator's cycle is shaped.
    pub(crate) shaped: bool,
    /// Which delay line a comb has.
    pub(crate) line: usize,
}

impl Shared {
    pub(crate) fn new() -> Self {
        Shared {
            colour: Colour::WHITE,
            partials: Partials::new(),
            shaped: false,
            line: 0,
        }
    }
}

/// What a node may look at.
pub(crate) struct Context<'a> {
    pub(crate) program: &'a Program,
    pub(crate) unit: &'a UnitProgram,
    /// The unit's parameters, and among all.
    pub(crate) own: &'a [Smooth],
    pub(crate) values: &'a Values,
    pub(crate) set: usize,
    pub(crate) shared: &'a Shared,
    /// How open the unit is: on, not muted.
    pub(crate) gate: &'a Smooth,
    pub(crate) bank: Option<&'a Bank>,
    pub(crate) recording: Option<&'a Recording>,
    pub(crate) rate_hz: f64,
}

impl Context<'_> {
    /// A parameter of the unit over the block, in each lane.
    pub(crate) fn ramp(&self, at: usize) -> LaneRamp {
        match self.lanes(at) {
            Some(ramp) => *ramp,
            None => LaneRamp::of(&self.own[at]),
        }
    }

    fn lanes(&self, at: usize) -> Option<&LaneRamp> {
        let slot = self.program.params[self.unit.first_param as usize + at].slot;
        match slot {
            NO_SLOT => None,
            slot => self.values.lanes(self.set, slot),
        }
    }

    /// What follows from a parameter at the block's end: once where all lanes share it, else for each.
    pub(crate) fn each<const N: usize>(
        &self,
        at: usize,
        from: impl Fn(f32) -> [f32; N],
    ) -> [Lanes; N] {
        match self.lanes(at) {
            None => from(self.own[at].next).map(f32x8::splat),
            Some(ramp) => {
                let lanes = ramp.next.to_array().map(from);
                std::array::from_fn(|n| {
                    f32x8::new(std::array::from_fn::<f32, LANES, _>(|lane| lanes[lane][n]))
                })
            }
        }
    }
}

/// What sources do to a unit in one frame.
pub(crate) struct Inputs {
    /// Moves its phase.
    pub(crate) turns: Lanes,
    /// How far it moves its own phase, in turns, and what it put out a little earlier.
    pub(crate) into_itself: Lanes,
    pub(crate) itself: Lanes,
    /// Moves its frequency, as a multiple of its own.
    pub(crate) frequency_mod: Lanes,
    /// Multiplies what it puts out.
    pub(crate) factor: Lanes,
    /// What goes into it, on the left where it works in stereo, and on the right.
    pub(crate) audio: Lanes,
    pub(crate) right: Lanes,
}

impl Inputs {
    pub(crate) const NONE: Inputs = Inputs {
        turns: f32x8::ZERO,
        into_itself: f32x8::ZERO,
        itself: f32x8::ZERO,
        frequency_mod: f32x8::ZERO,
        factor: f32x8::ONE,
        audio: f32x8::ZERO,
        right: f32x8::ZERO,
    };

    /// What moves its phase, itself included as it was a little earlier.
    #[inline(always)]
    pub(crate) fn late_turns(&self) -> Lanes {
        self.turns + self.into_itself * self.itself
    }
}

/// A frequency on its way into a lane.
pub(crate) struct Pitch {
    /// The unit's own frequency; of a sample, recordings a second.
    pub(crate) hz: f64,
    /// The key's.
    pub(crate) key_hz: f64,
    pub(crate) rate_hz: f64,
    /// No harmonic of a wave may lie above.
    pub(crate) limit_hz: f64,
}

/// What one unit keeps in the lanes of one set.
#[derive(Debug, Clone, Copy)]
#[allow(clippy::large_enum_variant)] // all memory is made beforehand; a box would have to be made on the audio path
pub(crate) enum Node {
    Operator(Oscillator),
    Noise(Noise),
    Sample(Player),
    Filter(Filter),
    Shaper(Shaper),
    Level(Leveller),
}

impl Node {
    pub(crate) const IDLE: Node = Node::Operator(Oscillator::IDLE);

    /// A node that has kept nothing yet.
    pub(crate) fn of(kind: u32) -> Node {
        match kind {
            kind::NOISE => Node::Noise(Noise::QUIET),
            kind::SAMPLE => Node::Sample(Player::QUIET),
            kind::FILTER => Node::Filter(Filter::QUIET),
            kind::SHAPER => Node::Shaper(Shaper::QUIET),
            kind::LEVEL => Node::Level(Leveller::QUIET),
            _ => Node::IDLE,
        }
    }

    /// Begins in a lane: at a place in the cycle, with a seed for chance.
    pub(crate) fn note_on(&mut self, lane: usize, start: u32, seed: u32) {
        match self {
            Node::Operator(oscillator) => oscillator.note_on(lane, start),
            Node::Noise(noise) => noise.note_on(lane, seed),
            Node::Sample(player) => player.note_on(lane),
            Node::Filter(filter) => filter.note_on(lane),
            Node::Shaper(shaper) => shaper.note_on(lane),
            Node::Level(_) => {}
        }
    }

    /// Begins elsewhere than it would: by so many turns, or later by a share of what is played of a recording.
    pub(crate) fn begin_elsewhere(&mut self, lane: usize, by: f32) {
        match self {
            Node::Operator(oscillator) => oscillator.begin_elsewhere(lane, by),
            Node::Sample(player) => player.begin_later(lane, by),
            _ => {}
        }
    }

    /// The same note is struck again: what has a beginning of its own goes back to it.
    pub(crate) fn note_again(&mut self, lane: usize) {
        if let Node::Sample(player) = self {
            player.note_on(lane);
        }
    }

    /// Brings a lane to a frequency. Gives its level: 1, less where nothing of it can be represented.
    pub(crate) fn tune(
        &mut self,
        lane: usize,
        pitch: &Pitch,
        bank: Option<&Bank>,
        recording: Option<&Recording>,
    ) -> f32 {
        match self {
            Node::Operator(oscillator) => oscillator.tune(lane, pitch, bank),
            Node::Sample(player) => {
                player.tune(lane, recording, pitch.hz, pitch.key_hz, pitch.rate_hz);
                1.0
            }
            Node::Noise(_) | Node::Filter(_) | Node::Shaper(_) | Node::Level(_) => 1.0,
        }
    }

    /// Takes up what holds for the block at hand.
    pub(crate) fn begin_block(&mut self, context: &Context<'_>) {
        match self {
            Node::Operator(oscillator) => oscillator.begin_block(context),
            Node::Filter(filter) => filter.begin_block(context),
            Node::Shaper(shaper) => shaper.begin_block(context),
            Node::Level(level) => level.begin_block(context),
            Node::Noise(noise) => noise.begin_block(&context.shared.colour, context.rate_hz),
            Node::Sample(player) => player.begin_block(context),
        }
    }

    /// One frame. `line` is a comb's delay line.
    #[inline(always)]
    pub(crate) fn sample(
        &mut self,
        frame: usize,
        amplitude: Lanes,
        inputs: &Inputs,
        context: &Context<'_>,
        line: Option<&mut [Lanes]>,
    ) -> Lanes {
        let ceiling = f32x8::splat(match self {
            Node::Filter(_) | Node::Shaper(_) | Node::Level(_) => PASSING_CEILING,
            _ => CEILING,
        });
        let unit = context.unit;
        let gate = || f32x8::splat(context.gate.now + context.gate.slope() * frame as f32);
        let y = match self {
            Node::Operator(oscillator) => {
                return oscillator.sample(frame, amplitude, inputs, context);
            }
            Node::Noise(noise) => noise.sample(&context.shared.colour) * amplitude,
            Node::Sample(player) => match context.recording {
                Some(recording) => player.sample(
                    recording,
                    inputs.late_turns(),
                    inputs.frequency_mod,
                    amplitude,
                ),
                None => f32x8::ZERO,
            },
            Node::Filter(filter) => {
                let x = inputs.audio.min(ceiling).max(-ceiling);
                if unit.is_comb() && line.is_none() {
                    x * gate()
                } else {
                    // what moves nothing must change nothing
                    let still = inputs.frequency_mod.to_array() == [0.0; LANES];
                    let moved = unit.mixed & MOVES_FREQUENCY != 0 && !still;
                    let by = moved.then_some(inputs.frequency_mod);
                    filter.sample(unit, frame, x, by, line) * gate()
                }
            }
            Node::Shaper(shaper) => {
                let x = inputs.audio.min(ceiling).max(-ceiling);
                shaper.sample(unit, frame, x, amplitude) * gate()
            }
            Node::Level(level) => {
                let x = inputs.audio.min(ceiling).max(-ceiling);
                level.sample(frame, x, amplitude) * gate()
            }
        };
        (y * inputs.factor).min(ceiling).max(-ceiling)
    }

    /// Leaves nothing ringing in a lane.
    pub(crate) fn silence(&mut self, lane: usize) {
        match self {
            Node::Filter(filter) => filter.note_on(lane),
            Node::Shaper(shaper) => shaper.note_on(lane),
            Node::Operator(oscillator) => oscillator.silence(lane),
            Node::Noise(_) | Node::Sample(_) | Node::Level(_) => {}
        }
    }
}
