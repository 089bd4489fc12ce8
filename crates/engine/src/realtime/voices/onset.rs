//! Notes that begin with a block: where their envelopes lead and where in their cycle they start, by what moves them then.

use zolvik_patch::document::MAX_UNITS;

use crate::realtime::graph::Graph;
use crate::realtime::modulation::envelope::Begin;
use crate::sizes::LANES;

impl Graph {
    /// Makes the envelopes of notes that begin with the block at hand, by what moves them.
    pub(in crate::realtime) fn begin_envelopes(&mut self, set: usize) {
        let begins = self.begins.take(set);
        if begins == [Begin::Nothing; LANES] {
            return;
        }
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
                let onsets = self.program.movement.onsets_of_unit(u);
                let motions = self.modulation.motions();
                let own = self
                    .own
                    .make((set, u, lane), &unit.envelope, onsets, motions);
                let envelopes = &mut self.strips[set][u].envelopes;
                envelopes.remake(how, lane, own, self.block_s);
            }
        }
    }

    /// Lets units of notes that begin start where links have it: elsewhere in their cycle, or later in their recording.
    fn begin_elsewhere(&mut self, set: usize, begins: &[Begin; LANES]) {
        for each in self.program.movement.starts() {
            let motion = self.modulation.motions().get(each.link as usize);
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
