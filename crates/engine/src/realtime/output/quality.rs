//! The quality that follows the keys: more times the rate while a key sounds that needs it.
//!
//! What changes is computed twice for 10 ms and faded over; a note that begins meanwhile begins in both.

use crate::realtime::engine::{Engine, FILL_BLOCKS};
use crate::realtime::nodes::line_frames;
use crate::realtime::voices::lanes::LaneState;
use crate::sizes::LANES;

/// For how long no key must need it until fewer times the rate do again, in seconds.
const CALM_S: f64 = 1.0;

impl Engine {
    /// The most times the rate the running program can come to.
    pub fn most_oversampling(&self) -> usize {
        self.graphs[self.current].program.most_oversampling()
    }

    /// What the notes that sound need; 1 without any.
    pub(in crate::realtime) fn oversampling_needed(&self) -> usize {
        let graph = &self.graphs[self.current];
        let sounding = self.voices.lanes[..self.voices.top * LANES].iter();
        sounding
            .filter(|lane| !matches!(lane.state, LaneState::Free | LaneState::Fading))
            .map(|lane| {
                graph
                    .program
                    .oversampling_for(lane.key, graph.outer_rate_hz)
            })
            .max()
            .unwrap_or(1)
    }

    /// A key is about to begin: the quality it needs, or none where that is what there is.
    pub(in crate::realtime) fn begin_key(&mut self, key: u8) {
        let graph = &self.graphs[self.current];
        if !graph.program.follows_keys() {
            return;
        }
        let alone = self.voices.sounding() == 0;
        let own = graph.program.oversampling_for(key, graph.outer_rate_hz);
        let now = graph.program.oversampling();
        if own > now || alone && own < now {
            self.compute_at(own);
        }
    }

    /// What a block looks at: a key that needs more, as when a note was handed over to it, or a while without one.
    pub(in crate::realtime) fn follow_keys(&mut self) {
        let graph = &self.graphs[self.current];
        if !graph.program.follows_keys() || self.fading > 0 || self.voices.sounding() == 0 {
            self.calm = 0;
            return;
        }
        let (needed, now) = (self.oversampling_needed(), graph.program.oversampling());
        let outer_block_s = graph.block_s * now as f64;
        match needed.cmp(&now) {
            core::cmp::Ordering::Greater => self.compute_at(needed),
            core::cmp::Ordering::Equal => self.calm = 0,
            core::cmp::Ordering::Less => {
                self.calm += 1;
                if f64::from(self.calm) * outer_block_s > CALM_S {
                    self.calm = 0;
                    self.compute_at(needed);
                }
            }
        }
    }

    /// Goes over to so many times the rate, where there are delay lines long enough for it.
    fn compute_at(&mut self, times: usize) {
        let graph = &self.graphs[self.current];
        let each = line_frames(graph.outer_rate_hz * times as f64);
        let lines = graph.program.lines();
        if self.fading > 0 || !self.graphs[1 - self.current].lines.has_room(lines, each) {
            return;
        }
        let mut program = graph.program;
        program.oversampling = times as u32;
        self.put(&program);
        self.alike = self.fading > 0;
        if self.alike {
            self.fading += FILL_BLOCKS;
        }
    }
}
