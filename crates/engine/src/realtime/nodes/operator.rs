//! Oscillators: a wave read along a phase that others may move.

use wide::{f32x4, f32x8, i32x4, i32x8};
use zolvik_effects::tools::bounds::Bounds;
use zolvik_patch::catalogue::position;
use zolvik_patch::document::Operator;
use zolvik_patch::param::ParamId;
use zolvik_waves::Bank;

use crate::program::{MOVES_FREQUENCY, UnitProgram};
use crate::realtime::modulation::smooth::Smooth;
use crate::realtime::nodes::context::{CEILING, Context, Inputs, Pitch, Shared};
use crate::realtime::nodes::cycle::{self, Shaped};
use crate::realtime::nodes::feedback;
use crate::realtime::nodes::partials::{self, Partials, SUMMED_POINTS};
use crate::realtime::nodes::wave::{Form, Levels};
use crate::realtime::sine::{
    Lanes, ROUND, half_phase_turns, half_sine_turns, phase_step, phase_turns,
};
use crate::realtime::{Block, Halves};
use crate::sizes::LANES;

/// Positions of the parameters read here, among those of their unit.
mod at {
    use zolvik_patch::catalogue::position;
    use zolvik_patch::document;

    pub(super) const POSITION: usize = position(document::Operator::POSITION);
    pub(super) const SHIFT: usize = position(document::Harmonics::SHIFT);
    pub(super) const SPACING: usize = position(document::Harmonics::SPACING);
    pub(super) const WIDTH: usize = position(document::Operator::WIDTH);
}

/// State of an operator in eight lanes, and what holds for the block at hand.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Oscillator {
    phase: i32x8,
    step: i32x8,
    /// Which version of its wave each lane reads.
    waves: Levels,
    /// How many times its frequency fits below half the rate.
    room: [f32; LANES],
    /// The same for a shaped cycle.
    room_shaped: [f32; LANES],
    /// Angle between neighbouring partials, as the phase is kept, and its step and that of the first one's shift.
    between: i32x8,
    between_steps: (i32x8, i32x8),
    /// How far above the first partial others fit below half the rate.
    room_above: [f32; LANES],
    /// Whether its partials are read as the cycle they were summed up to.
    reads_summed: bool,
    shaped: Option<Shaped>,
}

/// Amplitude at the start of a block, its change per frame, and for how many lanes.
#[derive(Clone, Copy)]
pub(crate) struct Ramp {
    pub(crate) amplitude: Lanes,
    pub(crate) slope: Lanes,
    /// Halves of the set that sound.
    pub(crate) halves: usize,
}

/// Room for as many partials as there are: a lane nothing sounds in must not keep others from being summed quickly.
const ROOMY: f32 = 1e6;

impl Oscillator {
    pub(crate) const IDLE: Oscillator = Oscillator {
        phase: i32x8::ZERO,
        step: i32x8::ZERO,
        waves: Levels::NONE,
        room: [ROOMY; LANES],
        room_shaped: [ROOMY; LANES],
        between: i32x8::ZERO,
        between_steps: (i32x8::ZERO, i32x8::ZERO),
        room_above: [ROOMY; LANES],
        reads_summed: false,
        shaped: None,
    };

    /// Nothing sounds in a lane any more.
    pub(super) fn silence(&mut self, lane: usize) {
        (self.room[lane], self.room_shaped[lane]) = (ROOMY, ROOMY);
        self.between.as_mut_array()[lane] = self.phase.as_array()[lane];
    }

    pub(super) fn note_on(&mut self, lane: usize, start: u32) {
        self.phase.as_mut_array()[lane] = start as i32;
        self.between.as_mut_array()[lane] = start as i32;
    }

    /// Moves the place in the cycle by so many turns.
    pub(super) fn begin_elsewhere(&mut self, lane: usize, turns: f32) {
        let turns = f64::from(turns);
        let by = ((turns - turns.floor()) * 4_294_967_296.0) as u64 as u32 as i32;
        for phase in [&mut self.phase, &mut self.between] {
            let phase = &mut phase.as_mut_array()[lane];
            *phase = phase.wrapping_add(by);
        }
    }

    /// Sets a lane's phase step and the version of its wave. Gives its level: 1, falling to 0 as the frequency
    /// nears half the rate, since nothing above can be represented.
    pub(super) fn tune(&mut self, lane: usize, pitch: &Pitch, bank: Option<&Bank>) -> f32 {
        let hz = pitch.hz.max(0.0);
        let step = phase_step(hz.min(0.5 * pitch.rate_hz), pitch.rate_hz);
        self.step.as_mut_array()[lane] = step;
        let room = |limit_hz: f64| (limit_hz / hz.max(1e-3)).min(ROOMY.into()) as f32;
        self.room[lane] = room(pitch.limit_hz);
        self.room_shaped[lane] = room(pitch.limit_hz.min(cycle::REACH_HZ));
        if let Some(bank) = bank {
            self.waves.choose(lane, bank, hz, pitch.limit_hz);
        }
        ((0.5 - hz / pitch.rate_hz) / 0.03).clamp(0.0, 1.0) as f32
    }

    /// Brings all lanes of a plain sine to other frequencies in hertz; nothing else of it depends on that.
    pub(crate) fn glide(&mut self, hz: Lanes, rate_hz: f64) {
        let times = (4_294_967_296.0 / rate_hz) as f32;
        // the highest number below half a turn that is one of 24 bits
        let most = f32x8::splat(2_147_483_520.0);
        let step = (hz * f32x8::splat(times)).max(f32x8::ZERO).min(most);
        self.step = step.fast_trunc_int();
    }

    /// Its partials are reckoned one by one from now on.
    pub(crate) fn begin_partials(&mut self) {
        self.between = self.phase;
    }

    pub(super) fn begin_block(&mut self, context: &Context<'_>) {
        if context.shared.partials.on {
            let (spacing, shift) = (context.own[at::SPACING].now, context.own[at::SHIFT].now);
            let step = self.step.to_array();
            let times = |by: f32| {
                i32x8::new(step.map(|s| {
                    let turns = f64::from(s) * f64::from(by);
                    // wraps as the phase does
                    (turns as i64) as i32
                }))
            };
            self.between_steps = (times(spacing), times(shift));
            self.room_above = self.room.map(|room| room - 1.0 - shift);
            if self.reads_summed {
                // it went on as the phase did
                self.between = self.phase;
            }
            let is_bound = [(at::SPACING, 1.0), (at::SHIFT, 0.0)]
                .iter()
                .all(|(at, rest)| context.own[*at].is_still() && context.own[*at].now == *rest);
            let all_fit = |count: usize| {
                let least = count as f32 - 0.5;
                self.room_above.iter().all(|room| *room >= least)
            };
            self.reads_summed = is_bound
                && self.between == self.phase
                && context
                    .shared
                    .partials
                    .summed()
                    .is_some_and(|(_, count)| all_fit(count));
        } else if context.shared.shaped
            && let Some(shaped) = Shaped::new(context.own, &self.room_shaped)
        {
            if let Some(bank) = context.bank {
                for lane in 0..LANES {
                    let room = f64::from(self.room_shaped[lane] / shaped.reach[lane]);
                    self.waves.choose(lane, bank, 1.0, room);
                }
            }
            self.shaped = Some(shaped);
        }
    }

    /// Whether it is more in this block than a wave read along its phase.
    pub(crate) fn is_more(&self, shared: &Shared) -> bool {
        match shared.partials.on {
            true => !self.reads_summed,
            false => shared.shaped,
        }
    }

    /// What it repeats in this block.
    fn form<'a>(&self, context: &Context<'a>) -> Form<'a> {
        if context.shared.partials.on
            && let Some((cycle, _)) = context.shared.partials.summed()
        {
            return Form::cycle(cycle, SUMMED_POINTS);
        }
        let is_pulse = context.unit.is_pulse != 0;
        Form::new(
            context.bank,
            is_pulse,
            self.waves,
            place(context.unit, context.own),
        )
    }

    /// One frame, moved by whatever there is.
    #[inline(always)]
    pub(super) fn sample(
        &mut self,
        frame: usize,
        amplitude: Lanes,
        inputs: &Inputs,
        context: &Context<'_>,
    ) -> Lanes {
        if context.unit.mixed & MOVES_FREQUENCY != 0 {
            self.phase += moved(self.step, inputs.frequency_mod);
            if context.shared.partials.on {
                let (between, shift) = self.between_steps;
                self.between += moved(between, inputs.frequency_mod);
                // the phase is that of the first partial, which a shift moves on by itself
                self.phase += moved(shift, inputs.frequency_mod);
            }
        }
        let turns: Lanes = phase_turns(self.phase) + self.moved_by(inputs, amplitude, context);
        let halves: [f32x4; 2] = bytemuck::cast(turns);
        let wave: Lanes = if context.shared.partials.on && !self.reads_summed {
            self.partials(&context.shared.partials, turns, inputs, context.own)
        } else {
            let form = self.form(context);
            let is_shaped = context.shared.shaped && !self.reads_summed;
            let wave: [f32x4; 2] = match self.shaped.as_ref().filter(|_| is_shaped) {
                None => [form.at(halves[0], frame, 0), form.at(halves[1], frame, 1)],
                Some(shaped) => {
                    std::array::from_fn(|h| shaped.at(halves[h], h, |t| form.at(t, frame, h)))
                }
            };
            bytemuck::cast(wave)
        };
        self.phase += self.step;
        if context.unit.mixed == 0 {
            return wave * amplitude;
        }
        let ceiling = f32x8::splat(CEILING);
        (wave * amplitude * inputs.factor)
            .at_most(ceiling)
            .at_least(-ceiling)
    }

    /// What moves its phase, in turns.
    #[inline(always)]
    fn moved_by(&self, inputs: &Inputs, amplitude: Lanes, context: &Context<'_>) -> Lanes {
        if context.unit.feedback == 0 || inputs.into_itself == Lanes::ZERO {
            return inputs.turns;
        }
        let is_sine = context.bank.is_none() && !context.shared.shaped;
        if !is_sine || context.shared.partials.on {
            return inputs.late_turns();
        }
        let phase = phase_turns(self.phase) + inputs.turns;
        inputs.turns + feedback::turns(phase, inputs, amplitude)
    }

    #[inline(always)]
    fn partials(
        &mut self,
        partials: &Partials,
        turns: Lanes,
        inputs: &Inputs,
        own: &[Smooth],
    ) -> Lanes {
        let (spacing, shift) = (own[at::SPACING].now, own[at::SHIFT].now);
        let moved = inputs.late_turns();
        let between = phase_turns(self.between) + moved * f32x8::splat(spacing);
        let first = turns + moved * f32x8::splat(shift);
        let wave = partials.at(first, between, f32x8::new(self.room_above), spacing);
        let steps = self.between_steps;
        self.between += steps.0;
        self.phase += steps.1;
        wave
    }

    /// A whole block, its phase moved in turns by `turns(frame, half)`: by the loop made for its form.
    #[inline(always)]
    pub(crate) fn block(
        &mut self,
        context: &Context<'_>,
        ramp: Ramp,
        out: &mut Block,
        turns: impl Fn(usize, usize) -> f32x4,
    ) {
        match &self.form(context) {
            Form::Sine => self.run(ramp, out, turns, |turns, _, _| half_sine_turns(turns)),
            Form::Table(reader) => self.run(ramp, out, turns, |turns, frame, half| {
                reader.table(turns, frame, half)
            }),
            Form::Pulse(reader) => self.run(ramp, out, turns, |turns, frame, half| {
                reader.pulse(turns, frame, half)
            }),
        }
    }

    #[inline(always)]
    fn run(
        &mut self,
        ramp: Ramp,
        out: &mut Block,
        moved: impl Fn(usize, usize) -> f32x4,
        wave: impl Fn(f32x4, usize, usize) -> f32x4,
    ) {
        let out: &mut Halves = bytemuck::cast_mut(out);
        let mut phases: [i32x4; 2] = bytemuck::cast(self.phase);
        let steps: [i32x4; 2] = bytemuck::cast(self.step);
        let amplitudes: [f32x4; 2] = bytemuck::cast(ramp.amplitude);
        let slopes: [f32x4; 2] = bytemuck::cast(ramp.slope);
        if ramp.halves == 1 {
            out.iter_mut().for_each(|frame| frame[1] = f32x4::ZERO);
        }
        for half in 0..ramp.halves {
            let (mut phase, mut amplitude) = (phases[half], amplitudes[half]);
            for (frame, out) in out.iter_mut().enumerate() {
                let turns = half_phase_turns(phase) + moved(frame, half);
                out[half] = wave(turns, frame, half) * amplitude;
                phase += steps[half];
                amplitude += slopes[half];
            }
            phases[half] = phase;
        }
        self.phase = bytemuck::cast(phases);
    }
}

/// A table's position or a pulse's width.
fn place<'a>(unit: &UnitProgram, own: &'a [Smooth]) -> &'a Smooth {
    match unit.is_pulse {
        0 => &own[at::POSITION],
        _ => &own[at::WIDTH],
    }
}

/// Whether a value shapes the partials of its operator's wave; what only moves its pitch leaves them as they are.
pub(crate) fn shapes_partials(id: ParamId) -> bool {
    [Operator::POSITION, Operator::WIDTH].contains(&id)
        || partials::SHAPED_BY.contains(&id)
        || cycle::SHAPED_BY.contains(&id)
}

/// Looks at the partials of an operator's wave where they are asked for, one block further. Gives whether they begin to be
/// reckoned one by one.
pub(crate) fn advance_partials(
    all: &mut Partials,
    unit: &UnitProgram,
    own: &[Smooth],
    (every, share): (u32, f32),
    bank: Option<&Bank>,
) -> bool {
    let begins = !all.on && Partials::wanted(own);
    if !begins && !all.on {
        return false;
    }
    all.on = true;
    let mut levels = Levels::NONE;
    if let Some(bank) = bank {
        // the whole wave: what has no room is left out partial by partial
        levels.choose(0, bank, 1.0, 512.0);
        levels = levels.like(0);
    }
    let is_standing = place(unit, own).has_arrived();
    let place = Smooth::at(place(unit, own).next);
    let form = Form::new(bank, unit.is_pulse != 0, levels, &place);
    let shaped = Shaped::new(own, &[1e6; LANES]);
    let mut shaped_by = partials::SHAPED_BY.iter().chain(&cycle::SHAPED_BY);
    let stands = is_standing && shaped_by.all(|id| own[position(*id)].has_arrived());
    all.advance((own, stands), every, share, begins, |turns| match &shaped {
        None => form.at(turns, 0, 0),
        Some(shaped) => shaped.at(turns, 0, |t| form.at(t, 0, 0)),
    });
    begins
}

/// The change of a phase by a frequency that is moved: `step * by`, wrapped to a turn. Through zero and backwards
/// where `by` falls below -1.
#[inline(always)]
fn moved(step: i32x8, by: Lanes) -> i32x8 {
    const TURN: f32 = 4_294_967_296.0;
    // the largest float below half a turn, so that the whole number never overflows
    const MOST: f32 = 2_147_483_520.0;
    let turns = f32x8::from_i32x8(step) * f32x8::splat(1.0 / TURN) * by;
    let round = f32x8::splat(ROUND);
    let part = turns - ((turns + round) - round);
    let phase = (part * f32x8::splat(TURN))
        .at_most(f32x8::splat(MOST))
        .at_least(f32x8::splat(-MOST));
    i32x8::new(phase.to_array().map(|p| p as i32))
}
