//! A graph takes up another program: values glide where its shape is the same, units go on where it is not.

use crate::program::{Program, UnitProgram};
use crate::realtime::graph::{Follow, Graph, Strip};
use crate::realtime::modulation::smooth::Smooth;
use crate::realtime::nodes::Node;
use crate::realtime::output::decimate::Wait;
use crate::realtime::tables::bank_cache::BankCache;
use crate::realtime::voices::lanes::{Lane, LaneState};
use crate::sizes::{BLOCK, BUSES, LANES, MAX_SETS};

impl Graph {
    /// Takes up a program of the same shape; values glide.
    pub(crate) fn follow(&mut self, program: &Program, lanes: &[Lane]) {
        let detuned = |p: &Program| p.units.map(|u| (u.detune_share, u.drift_share));
        self.retuned |= detuned(&self.program) != detuned(program);
        for (u, unit) in program.units[..program.unit_count()].iter().enumerate() {
            if unit.own_envelope != 0 {
                let was = &self.program.units[u].envelope;
                self.own.follow(u, was, &unit.envelope);
            }
        }
        self.modulation.follow(&self.program, program);
        self.program = *program;
        self.values.follow(program);
        self.modulation.set_target(program, self.block_s);
        self.set_target(Smooth::set_target);
        for u in 0..program.unit_count() {
            for (set, strips) in self.strips.iter_mut().enumerate() {
                let unit = &self.program.units[u];
                let courses = self.own.of_unit(unit, set, u);
                strips[u].envelopes.retarget(courses, self.block_s);
            }
        }
        self.place_copies(lanes);
    }

    /// Takes up a program of another shape. Units that were there before keep phase and envelope; new ones
    /// begin their envelope in the notes that sound.
    pub(crate) fn replace(
        &mut self,
        old: &Graph,
        program: &Program,
        lanes: &[Lane],
        bank_cache: &BankCache,
    ) {
        self.program = *program;
        let old_block_s = old.block_s;
        self.rate_hz = self.outer_rate_hz * f64::from(program.oversampling.max(1));
        self.block_s = BLOCK as f64 / self.rate_hz;
        self.follow = Follow::new(self.block_s);
        for decimator in self.decimators.as_flattened_mut() {
            decimator.clear();
        }
        self.waits = [const { [Wait::EMPTY; 2] }; BUSES];
        self.late.set_target(self.rate_hz);
        self.right.late.set_target(self.rate_hz);
        self.ringing = old.ringing.clone();
        self.within.take(&old.within);
        self.banks = bank_cache.places(program);
        let programs = (&old.program, program);
        self.modulation.take(
            &old.modulation,
            programs,
            lanes,
            (old_block_s, self.block_s),
        );
        self.jump();
        self.time = old.time / u64::from(old.program.oversampling.max(1))
            * u64::from(program.oversampling.max(1));
        self.drift_wait = 0;
        let sounding = |lane: &Lane| lane.state != LaneState::Free;
        let used_sets = lanes
            .iter()
            .rposition(sounding)
            .map_or(0, |at| at / LANES + 1);
        let mut combs = 0;
        for u in 0..program.unit_count() {
            self.shared[u].line = combs;
            combs += program.units[u].lines();
        }
        for u in 0..program.unit_count() {
            let unit = &program.units[u];
            let same = |o: &UnitProgram| o.id == unit.id && o.kind == unit.kind;
            let before = old.program.units[..old.program.unit_count()]
                .iter()
                .position(same);
            match before {
                Some(b) => {
                    self.shared[u].partials.take(&old.shared[b].partials);
                    // what begins to work in stereo was the same on both sides
                    let lines = unit.lines().min(2 * old.program.units[b].lines());
                    for side in 0..lines {
                        let (mine, theirs) = (self.shared[u].line, old.shared[b].line);
                        let there = side.min(old.program.units[b].lines().saturating_sub(1));
                        self.lines
                            .take(mine + side, &old.lines, theirs + there, used_sets);
                    }
                }
                None => self.shared[u].partials.on = false,
            }
            let theirs = before.filter(|b| old.program.units[*b].own_envelope != 0);
            if unit.own_envelope != 0 {
                let theirs = theirs.map(|b| (&old.own, b));
                self.own.take(u, &unit.envelope, theirs);
            }
            for set in 0..MAX_SETS {
                match before {
                    Some(b) => self.take_unit(set, u, old, b),
                    None => {
                        let notes = &lanes[set * LANES..][..LANES];
                        self.add_unit(set, u, notes, bank_cache);
                    }
                }
            }
            self.retune(u, lanes, bank_cache);
        }
        self.place_copies(lanes);
    }

    /// A unit of one set of lanes goes on as the other graph has it, where it is unit `b`.
    fn take_unit(&mut self, set: usize, u: usize, old: &Graph, b: usize) {
        let unit = &self.program.units[u];
        self.strips[set][u] = old.strips[set][b];
        self.late.take(set, u, &old.late, b);
        self.nodes[set][u] = old.nodes[set][b];
        if unit.stereo != 0 {
            // where that did not work in stereo both sides were alike
            let theirs = match old.program.units[b].stereo {
                0 => (old.nodes[set][b], &old.late),
                _ => (old.right.nodes[set][b], &old.right.late),
            };
            self.right.take(set, u, theirs, b);
        }
        let envelopes = &mut self.strips[set][u].envelopes;
        envelopes.rescale(self.block_s / old.block_s);
        let courses = self.own.of_unit(unit, set, u);
        envelopes.retarget(courses, self.block_s);
    }

    /// A new unit begins in the notes of one set of lanes that are held.
    fn add_unit(&mut self, set: usize, u: usize, notes: &[Lane], bank_cache: &BankCache) {
        let kind = self.program.units[u].kind;
        self.strips[set][u] = Strip::IDLE;
        self.nodes[set][u] = Node::of(kind);
        self.right.nodes[set][u] = Node::of(kind);
        for (lane, note) in notes.iter().enumerate() {
            if note.state == LaneState::Held {
                self.begin_unit(set, lane, u, note, bank_cache);
            }
        }
    }
}
