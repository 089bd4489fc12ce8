//! Envelopes that links move: each note has one of its own, made as it begins.

use bytemuck::Zeroable;
use zolvik_patch::document::MAX_UNITS;
use zolvik_patch::envelope::MAX_POINTS;

use super::envelope::Courses;
use super::graph::Graph;
use super::sine::Lanes;
use crate::program::movement::onset;
use crate::program::{EnvelopeProgram, Program};
use crate::{LANES, MAX_SETS};

/// What a lane's envelopes wait for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Begin {
    Nothing,
    /// A note that begins.
    Note,
    /// One that begins again from where it stands.
    Again,
}

/// Envelopes of units that have one for each note.
#[derive(Debug, Clone)]
pub(super) struct OwnEnvelopes {
    of: Box<[[EnvelopeProgram; LANES]]>,
    begins: [[Begin; LANES]; MAX_SETS],
}

impl OwnEnvelopes {
    pub(super) fn new() -> Self {
        OwnEnvelopes {
            of: vec![[EnvelopeProgram::zeroed(); LANES]; MAX_SETS * MAX_UNITS].into(),
            begins: [[Begin::Nothing; LANES]; MAX_SETS],
        }
    }

    /// No note has begun; each sets its own as it does.
    pub(super) fn begin_anew(&mut self) {
        self.begins = [[Begin::Nothing; LANES]; MAX_SETS];
    }

    /// A unit's envelopes in a set of lanes.
    pub(super) fn courses<'a>(&'a self, program: &'a Program, set: usize, u: usize) -> Courses<'a> {
        let unit = &program.units[u];
        Courses {
            common: &unit.envelope,
            own: (unit.own_envelope != 0).then(|| &self.of[set * MAX_UNITS + u]),
        }
    }

    /// A note begins in a lane, or begins again.
    pub(super) fn begin(&mut self, set: usize, lane: usize, how: Begin) {
        self.begins[set][lane] = how;
    }

    /// Takes up changed envelopes in notes that sound: what moved them stays as far from them as it was.
    pub(super) fn follow(&mut self, from: &Program, to: &Program) {
        for u in 0..to.unit_count() {
            if to.units[u].own_envelope == 0 {
                continue;
            }
            let (was, is) = (&from.units[u].envelope, &to.units[u].envelope);
            for set in 0..MAX_SETS {
                for own in &mut self.of[set * MAX_UNITS + u] {
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
        }
    }

    /// Takes over a unit's envelopes from where it was before; the common one where it had none of its own.
    pub(super) fn take(
        &mut self,
        program: &Program,
        u: usize,
        old: Option<(&OwnEnvelopes, usize)>,
    ) {
        for set in 0..MAX_SETS {
            self.of[set * MAX_UNITS + u] = match old {
                Some((old, before)) => old.of[set * MAX_UNITS + before],
                None => [program.units[u].envelope; LANES],
            };
        }
    }
}

impl Graph {
    /// Makes the envelopes of notes that begin with the block at hand, by what moves them.
    pub(super) fn begin_envelopes(&mut self, set: usize) {
        let begins = self.own.begins[set];
        if begins == [Begin::Nothing; LANES] {
            return;
        }
        self.own.begins[set] = [Begin::Nothing; LANES];
        if self.program.movement.onset_count == 0 {
            return;
        }
        self.begin_elsewhere(set, &begins);
        for u in 0..self.program.unit_count() {
            let unit = &self.program.units[u];
            if unit.own_envelope == 0 {
                continue;
            }
            for (lane, how) in begins.into_iter().enumerate() {
                if how == Begin::Nothing {
                    continue;
                }
                let own = moved(&self.program, u, lane, self.movers.motions());
                self.own.of[set * MAX_UNITS + u][lane] = own;
                let envelopes = &mut self.strips[set][u].envelopes;
                let times = envelopes.times(lane);
                match how {
                    Begin::Again => envelopes.note_again(lane, &own, times, self.block_s),
                    _ => envelopes.note_on(lane, &own, times, self.block_s),
                }
            }
        }
    }
}

impl Graph {
    /// Lets units of notes that begin start where links have it: elsewhere in their cycle, or later in their recording.
    fn begin_elsewhere(&mut self, set: usize, begins: &[Begin; LANES]) {
        let onsets = self.program.movement.onsets().iter();
        for each in onsets.filter(|each| each.what == onset::START) {
            let motion = self.movers.motions().get(each.link as usize);
            let motion = motion.map_or([0.0; LANES], |m| m.to_array());
            let u = each.unit as usize % MAX_UNITS;
            for (lane, how) in begins.iter().enumerate() {
                if *how == Begin::Note {
                    let by = motion[lane] * each.scale;
                    self.nodes[set][u].begin_elsewhere(lane, by);
                    self.right.nodes[set][u].begin_elsewhere(lane, by);
                }
            }
        }
    }
}

/// A unit's envelope with all that moves it in a lane.
fn moved(program: &Program, u: usize, lane: usize, motions: &[Lanes]) -> EnvelopeProgram {
    let mut own = program.units[u].envelope;
    let onsets = program.movement.onsets().iter();
    for each in onsets.filter(|each| each.unit as usize == u && each.what != onset::START) {
        let motion = motions
            .get(each.link as usize)
            .map_or(0.0, |m| m.to_array()[lane]);
        let by = f64::from(motion * each.scale);
        let (low, high) = (f64::from(each.low), f64::from(each.high));
        let point = &mut own.points[each.point as usize % MAX_POINTS];
        let value = match each.what {
            onset::TIME => &mut point.time_s,
            onset::LEVEL => &mut point.level,
            onset::CURVE => &mut point.curve,
            _ => &mut own.delay_s,
        };
        *value = (*value + by).clamp(low, high);
    }
    own
}
