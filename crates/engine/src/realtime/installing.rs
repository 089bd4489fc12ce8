//! Taking programs up while notes go on.

use crate::program::{Prepared, Program};
use crate::realtime::engine::{Engine, FADE_BLOCKS};

impl Engine {
    /// Shelves what a patch reads and installs its program. Not for the audio path.
    pub fn take(&mut self, prepared: &Prepared) {
        for bank in &prepared.banks {
            self.cache_bank(bank.clone());
        }
        for recording in &prepared.recordings {
            self.cache_recording(recording.clone());
        }
        self.reserve(&prepared.program);
        self.tap(prepared.tap);
        self.install(&prepared.program);
    }

    /// Takes up a program, whose banks must be in the cache. If only values differ from the present one they glide; if the routing differs,
    /// old and new are faded into each other within 10 ms while notes go on.
    ///
    /// # Real time
    /// No allocation, no lock, no panic.
    pub fn install(&mut self, program: &Program) {
        if !program.follows_keys() {
            return self.put(program);
        }
        let mut program = *program;
        let now = &self.graphs[self.current].program;
        program.oversampling = match self.voices.sounding() {
            0 => 1,
            // what is there stays until it has not been needed for a while
            _ if now.follows_keys() => now
                .oversampling
                .max(self.oversampling_needed() as u32)
                .min(program.most_oversampling() as u32),
            _ => self.oversampling_needed() as u32,
        };
        self.put(&program);
    }

    /// Takes up a program as it is.
    pub(in crate::realtime) fn put(&mut self, program: &Program) {
        if self.fading > 0 && !self.graphs[self.current].program.same_shape(program) {
            *self.waiting = *program;
            self.has_waiting = true;
            return;
        }
        self.has_waiting = false;
        let before = self.graphs[self.current].program.rack;
        let moved = !before.same_places(&program.rack);
        if self.graphs[self.current].program.same_shape(program) && self.voices.sounding() > 0 {
            self.graphs[self.current].follow(program, &self.voices.lanes);
            return self.install_rack(moved);
        }
        self.alike = false;
        let [a, b] = &mut *self.graphs;
        let (old, new) = if self.current == 0 { (a, b) } else { (b, a) };
        new.replace(old, program, &self.voices.lanes, &self.bank_cache);
        self.current = 1 - self.current;
        self.fading = if self.voices.sounding() > 0 {
            FADE_BLOCKS
        } else {
            0
        };
        self.install_rack(true);
    }

    /// Lets the rack follow the program that sounds. Where values have other places than before, or begin anew, they go on from where they
    /// were.
    fn install_rack(&mut self, moved: bool) {
        let graph = &mut self.graphs[self.current];
        self.rack.install(&graph.program);
        if moved {
            let first = graph.program.rack.first_param as usize;
            graph.values.jump_from(&graph.program, first, graph.block_s);
            self.rack.jumped(&graph.values, &graph.program);
        }
    }
}
