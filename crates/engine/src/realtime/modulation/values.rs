//! All parameters of a program while it sounds: values that follow changes, and for those that are moved one for each lane.

use wide::f32x8;

use crate::program::Program;
use crate::program::params::{
    LINK, Law, MAX_MOVES, MAX_PARAMS, MAX_SLOTS, MoveProgram, NO_SLOT, ParamProgram, Source,
};
use crate::realtime::modulation::smooth::{Smooth, share};
use crate::realtime::power::exp2;
use crate::realtime::sine::Lanes;
use crate::sizes::{BLOCK, LANES, MAX_SETS};
use zolvik_patch::document::{MAX_LINKS, MAX_UNITS};

/// A value in eight lanes over one block, straight from the first frame to the next block's.
#[derive(Debug, Clone, Copy)]
pub(crate) struct LaneRamp {
    pub(crate) now: Lanes,
    pub(crate) next: Lanes,
}

impl LaneRamp {
    pub(crate) const ZERO: LaneRamp = LaneRamp {
        now: f32x8::ZERO,
        next: f32x8::ZERO,
    };

    /// The same in all lanes.
    pub(crate) fn of(value: &Smooth) -> Self {
        LaneRamp {
            now: f32x8::splat(value.now),
            next: f32x8::splat(value.next),
        }
    }

    /// The product of two, straight as well.
    pub(crate) fn times(&self, other: &LaneRamp) -> LaneRamp {
        LaneRamp {
            now: self.now * other.now,
            next: self.next * other.next,
        }
    }

    /// Change per frame.
    #[inline(always)]
    pub(crate) fn slope(&self) -> Lanes {
        (self.next - self.now) * f32x8::splat(1.0 / BLOCK as f32)
    }
}

/// The values of a program.
#[derive(Debug, Clone)]
pub(crate) struct Values {
    /// Of each parameter.
    smooth: Box<[Smooth]>,
    /// Share of the rest a change covers in one block, by each row's own time.
    shares: Box<[f32]>,
    /// Units all of whose values have arrived.
    still: [bool; MAX_UNITS],
    /// Values for each lane, set by set, of those that have a slot.
    lanes: Box<[LaneRamp]>,
    /// Lanes whose note begins with the block at hand: there is nothing to come from.
    fresh: [[bool; LANES]; MAX_SETS],
    /// Of parameters that links move for all lanes alike: the value by itself, and what it was moved to last.
    bases: Box<[Base]>,
}

/// A parameter that is moved for all lanes alike.
#[derive(Debug, Clone, Copy, Default)]
struct Base {
    own: Smooth,
    last: Option<f32>,
}

/// What a source gives for the lanes of a set.
pub(crate) struct Sources<'a> {
    pub(crate) key_oct: [f32; LANES],
    pub(crate) envelope: Lanes,
    /// How far each link moves its value.
    pub(crate) motions: &'a [Lanes; MAX_LINKS],
}

impl Sources<'_> {
    /// How far what a unit has of its own takes a value, where its depth stands at so much.
    #[inline(always)]
    fn own(&self, source: u32, depth: f32) -> Lanes {
        match source == Source::Key as u32 {
            true => f32x8::splat(depth) * f32x8::new(self.key_oct),
            false => f32x8::splat(depth) * self.envelope,
        }
    }
}

/// `log2(10) / 20`: decibels as powers of two.
const DECIBEL: f32 = 0.166_096_4;

/// A parameter's value moved by an amount in its domain, in each lane; as [`ParamProgram::added`].
#[inline(always)]
fn added(param: &ParamProgram, value: Lanes, amount: Lanes) -> Lanes {
    match param.law {
        law if law == Law::Octaves as u32 => value * exp2(amount),
        law if law == Law::Decibels as u32 => {
            let zero = f32x8::ZERO;
            let is_brought_in = value.simd_le(zero) & amount.simd_gt(zero);
            let from = is_brought_in.select(f32x8::splat(param.floor), value);
            from * exp2(amount * f32x8::splat(DECIBEL))
        }
        _ => value + amount * f32x8::splat(param.scale),
    }
}

impl Values {
    pub(crate) fn new() -> Self {
        Values {
            smooth: vec![Smooth::default(); MAX_PARAMS].into(),
            shares: vec![1.0; MAX_PARAMS].into(),
            still: [false; MAX_UNITS],
            lanes: vec![LaneRamp::ZERO; MAX_SLOTS * MAX_SETS].into(),
            fresh: [[true; LANES]; MAX_SETS],
            bases: vec![Base::default(); MAX_MOVES].into(),
        }
    }

    /// Takes up a program of another shape: every value is at once where it is to be.
    pub(crate) fn jump(&mut self, program: &Program, block_s: f64) {
        self.still = [false; MAX_UNITS];
        self.fresh = [[true; LANES]; MAX_SETS];
        self.jump_from(program, 0, block_s);
    }

    /// The same for the values from a position on.
    pub(crate) fn jump_from(&mut self, program: &Program, first: usize, block_s: f64) {
        // most rows have the same time
        let (mut of_s, mut last) = (-1.0, 1.0);
        for ((value, to), param) in self
            .smooth
            .iter_mut()
            .zip(self.shares.iter_mut())
            .zip(program.params())
            .skip(first)
        {
            value.jump(param.value);
            if let Some(base) = self.bases.get_mut(param.shared as usize) {
                base.own.jump(param.value);
                base.last = None;
            }
            if param.smoothing_s != of_s {
                of_s = param.smoothing_s;
                last = match of_s > 0.0 {
                    true => share(of_s.into(), block_s),
                    false => 1.0,
                };
            }
            *to = last;
        }
    }

    /// Takes up a program of the same shape: values follow.
    pub(crate) fn follow(&mut self, program: &Program) {
        self.still = [false; MAX_UNITS];
        for (value, param) in self.smooth.iter_mut().zip(program.params()) {
            match self.bases.get_mut(param.shared as usize) {
                Some(base) => base.own.set_target(param.value),
                None => value.set_target(param.value),
            }
        }
    }

    /// Moves on by one block.
    pub(crate) fn advance(&mut self, program: &Program) {
        let mut first = 0;
        for (u, unit) in program.units[..program.unit_count()].iter().enumerate() {
            let range = unit.first_param as usize..(unit.first_param + unit.params) as usize;
            first = range.end;
            if !self.still[u] {
                self.still[u] = self.move_on(range);
            }
        }
        self.move_on(first..program.param_count as usize);
    }

    /// Moves what links move for all lanes alike, after [`Values::advance`].
    pub(crate) fn move_all(&mut self, program: &Program, motions: &[Lanes; MAX_LINKS]) {
        let movement = &program.movement;
        let first = movement.first_shared as usize;
        let moves = program.moves.get(first..first + movement.shared as usize);
        let mut moves = moves.unwrap_or(&[]);
        while let Some(one) = moves.first() {
            let count = moves.iter().take_while(|m| m.to == one.to).count();
            let (same, rest) = moves.split_at(count);
            moves = rest;
            let amount = |m: &MoveProgram| {
                motions[m.source.saturating_sub(LINK) as usize % MAX_LINKS].to_array()[0]
            };
            let sum = same.iter().map(amount).sum();
            let to = one.to as usize;
            let param = &program.params[to];
            let Some(base) = self.bases.get_mut(param.shared as usize) else {
                continue;
            };
            base.own.advance(self.shares[to]);
            let next = param.moved(base.own.next, sum);
            self.smooth[to].jump(next);
            self.smooth[to].now = base.last.unwrap_or(next);
            base.last = Some(next);
            if let Some(still) = self.still.get_mut(one.unit as usize) {
                *still = false;
            }
        }
    }

    fn move_on(&mut self, range: std::ops::Range<usize>) -> bool {
        let mut still = true;
        for (value, share) in self.smooth[range.clone()]
            .iter_mut()
            .zip(&self.shares[range])
        {
            value.advance(*share);
            still &= value.has_arrived();
        }
        still
    }

    /// Whether all values of a unit have arrived.
    pub(crate) fn is_still(&self, u: usize) -> bool {
        self.still[u]
    }

    /// The values of a unit, in the order of the catalogue.
    #[inline(always)]
    pub(crate) fn of_unit(&self, first: u32) -> &[Smooth] {
        self.smooth.get(first as usize..).unwrap_or(&[])
    }

    /// The value of a parameter that all lanes share.
    #[inline(always)]
    pub(crate) fn at(&self, param: usize) -> &Smooth {
        &self.smooth[param]
    }

    /// The value of a parameter in the lanes of a set; none if all share one.
    #[inline(always)]
    pub(crate) fn lanes(&self, set: usize, slot: u32) -> Option<&LaneRamp> {
        match slot {
            NO_SLOT => None,
            slot => self.lanes.get(set * MAX_SLOTS + slot as usize),
        }
    }

    /// A note begins in a lane with the next block.
    pub(crate) fn begin(&mut self, set: usize, lane: usize) {
        self.fresh[set][lane] = true;
    }

    /// Moves what a range of moves leads to in the lanes of a set, for the block at hand.
    pub(crate) fn move_lanes(
        &mut self,
        program: &Program,
        set: usize,
        (first, count): (u32, u32),
        from: &Sources<'_>,
    ) {
        let range = first as usize..(first + count) as usize;
        let mut moves = program.moves.get(range).unwrap_or(&[]);
        while let Some(one) = moves.first() {
            let count = moves.iter().take_while(|m| m.to == one.to).count();
            let (same, rest) = moves.split_at(count);
            moves = rest;
            let to = &program.params[one.to as usize];
            let Some(ramp) = self.lanes.get_mut(set * MAX_SLOTS + to.slot as usize) else {
                continue;
            };
            ramp.now = ramp.next;
            let mut value = f32x8::splat(self.smooth[one.to as usize].next);
            let amounts = same.iter().map(|one| match one.source.checked_sub(LINK) {
                Some(link) => from.motions[link as usize % MAX_LINKS],
                None => from.own(one.source, self.smooth[one.depth as usize].next),
            });
            if to.law == Law::Plain as u32 {
                let scale = f32x8::splat(to.scale);
                amounts.for_each(|amount| value += amount * scale);
            } else {
                amounts.for_each(|amount| value = added(to, value, amount));
            }
            ramp.next = value.max(f32x8::splat(to.low)).min(f32x8::splat(to.high));
            if self.fresh[set] == [false; LANES] {
                continue;
            }
            for (lane, fresh) in self.fresh[set].iter().enumerate() {
                if *fresh {
                    ramp.now.as_mut_array()[lane] = ramp.next.as_array()[lane];
                }
            }
        }
    }

    /// Ends the begin of notes in a set, after its block.
    pub(crate) fn begun(&mut self, set: usize) {
        self.fresh[set] = [false; LANES];
    }
}
