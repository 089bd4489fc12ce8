//! What units keep from frame to frame, one kind each, and the few verbs all of them have: begin a note, tune, begin a block, give
//! one sample, fall silent.

mod context;
mod curve;
pub(crate) mod cycle;
mod drive;
mod feedback;
mod filter;
mod level;
mod looping;
pub(crate) mod noise;
pub(crate) mod operator;
mod oversampler;
pub(crate) mod partials;
mod sample;
mod shaper;
mod wave;

use wide::f32x8;
use zolvik_effects::tools::bounds::Bounds;
use zolvik_waves::{Bank, Recording};

use self::context::PASSING_CEILING;
pub(crate) use self::context::{CEILING, Context, Inputs, Pitch, Shared};
use self::filter::Filter;
pub(crate) use self::filter::line_frames;
use self::level::Leveller;
use self::noise::Noise;
use self::operator::Oscillator;
use self::sample::Player;
use self::shaper::Shaper;
use crate::program::{MOVES_FREQUENCY, kind};
use crate::realtime::sine::Lanes;
use crate::sizes::LANES;

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

    /// Onsets in a lane: at a place in the cycle, with a seed for chance.
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

    /// Onsets elsewhere than it would: by so many turns, or later by a share of what is played of a recording.
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
                let x = inputs.audio.at_most(ceiling).at_least(-ceiling);
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
                let x = inputs.audio.at_most(ceiling).at_least(-ceiling);
                shaper.sample(unit, frame, x, amplitude) * gate()
            }
            Node::Level(level) => {
                let x = inputs.audio.at_most(ceiling).at_least(-ceiling);
                level.sample(frame, x, amplitude) * gate()
            }
        };
        (y * inputs.factor).at_most(ceiling).at_least(-ceiling)
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
