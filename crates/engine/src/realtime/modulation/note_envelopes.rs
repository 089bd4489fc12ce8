//! Envelopes that links move, of units and of sources: each note has one of its own, made as it begins.

use bytemuck::Zeroable;
use zolvik_patch::envelope::MAX_POINTS;

use crate::program::movement::{OnsetProgram, SourceProgram, onset};
use crate::program::{EnvelopeProgram, UnitProgram};
use crate::realtime::modulation::envelope::{Begin, Courses};
use crate::realtime::sine::Lanes;
use crate::sizes::{LANES, MAX_SETS};

/// Envelopes of units or sources that have one for each note.
#[derive(Debug, Clone)]
pub(in crate::realtime) struct NoteEnvelopes {
    /// Set by set.
    of: Box<[[EnvelopeProgram; LANES]]>,
    /// How many a set has room for.
    each: usize,
}

impl NoteEnvelopes {
    /// Room for those of so many sets of lanes.
    pub(in crate::realtime) fn new(sets: usize, each: usize) -> Self {
        NoteEnvelopes {
            of: vec![[EnvelopeProgram::zeroed(); LANES]; sets * each].into(),
            each,
        }
    }

    /// A unit's in a set of lanes.
    pub(in crate::realtime) fn of_unit<'a>(
        &'a self,
        unit: &'a UnitProgram,
        set: usize,
        u: usize,
    ) -> Courses<'a> {
        Courses {
            common: &unit.envelope,
            own: (unit.own_envelope != 0).then(|| &self.of[set * self.each + u]),
        }
    }

    /// A source's in a set of lanes.
    pub(in crate::realtime) fn of_source<'a>(
        &'a self,
        source: &'a SourceProgram,
        set: usize,
        at: usize,
    ) -> Courses<'a> {
        Courses {
            common: &source.envelope,
            own: (source.own_envelope != 0).then(|| &self.of[set * self.each + at]),
        }
    }

    /// A note's own as it begins: the common one with all that moves it.
    pub(in crate::realtime) fn make<'a>(
        &mut self,
        (set, at, lane): (usize, usize, usize),
        common: &EnvelopeProgram,
        onsets: impl Iterator<Item = &'a OnsetProgram>,
        motions: &[Lanes],
    ) -> &EnvelopeProgram {
        let own = &mut self.of[set * self.each + at][lane];
        *own = *common;
        for each in onsets {
            move_by(own, each, lane, motions);
        }
        own
    }

    /// Takes up a changed envelope in notes that sound: what moved it stays as far from it as it was.
    pub(in crate::realtime) fn follow(
        &mut self,
        at: usize,
        was: &EnvelopeProgram,
        is: &EnvelopeProgram,
    ) {
        let all = self.of.chunks_exact_mut(self.each);
        for own in all.filter_map(|set| set.get_mut(at)).flatten() {
            let before = *own;
            *own = *is;
            if before.count != is.count {
                continue;
            }
            for (at, point) in own.points.iter_mut().enumerate() {
                let (old, base) = (&before.points[at], &was.points[at]);
                point.time_s = (point.time_s + old.time_s - base.time_s).max(0.0);
                point.level = (point.level + old.level - base.level).clamp(0.0, 1.0);
                point.curve = (point.curve + old.curve - base.curve).clamp(-1.0, 1.0);
            }
        }
    }

    /// Takes over those of a position from where they were before; the common one where there were none.
    pub(in crate::realtime) fn take(
        &mut self,
        at: usize,
        common: &EnvelopeProgram,
        old: Option<(&NoteEnvelopes, usize)>,
    ) {
        for set in 0..self.of.len() / self.each {
            self.of[set * self.each + at] = match old {
                Some((old, before)) => old.of[set * old.each + before],
                None => [*common; LANES],
            };
        }
    }
}

/// What the units of notes wait for that begin with the next block.
#[derive(Debug, Clone, Default)]
pub(in crate::realtime) struct Onsets([[Begin; LANES]; MAX_SETS]);

impl Onsets {
    /// A note begins in a lane, or begins again.
    pub(in crate::realtime) fn begin(&mut self, set: usize, lane: usize, how: Begin) {
        self.0[set][lane] = how;
    }

    /// What those of a set wait for, which they do no longer.
    pub(in crate::realtime) fn take(&mut self, set: usize) -> [Begin; LANES] {
        std::mem::take(&mut self.0[set])
    }
}

/// Moves a value of an envelope by what a link makes of its source in a lane.
fn move_by(own: &mut EnvelopeProgram, by: &OnsetProgram, lane: usize, motions: &[Lanes]) {
    let motion = motions
        .get(by.link as usize)
        .map_or(0.0, |m| m.to_array()[lane]);
    let (low, high) = (f64::from(by.low), f64::from(by.high));
    let point = &mut own.points[by.point as usize % MAX_POINTS];
    let value = match by.what {
        onset::TIME => &mut point.time_s,
        onset::LEVEL => &mut point.level,
        onset::CURVE => &mut point.curve,
        _ => &mut own.delay_s,
    };
    *value = (*value + f64::from(motion * by.scale)).clamp(low, high);
}
