//! What gives way when the machine cannot keep up: notes first, then quality; never everything, and never for good.

use crate::realtime::engine::Engine;
use crate::realtime::voices::Voices;
use crate::realtime::voices::lanes::LaneState;
use crate::sizes::LANES;

/// Share of the time there is that the work is brought down to.
const GOAL: f64 = 0.7;

impl Engine {
    /// Lets notes go, within milliseconds, so that the work fits: those released first, the oldest first, then the quietest, and
    /// among them those that are computed together. `load` is the time the work takes, as a multiple of the time there is. Until
    /// [`Engine::allow_more_notes`] no more notes sound at once than are left. One always stays. Gives how many went.
    ///
    /// # Real time
    /// No allocation, no lock, no panic.
    pub fn shed_notes(&mut self, load: f64) -> usize {
        let notes = self.voices.notes();
        if load.is_nan() || load <= GOAL || notes <= 1 {
            return 0;
        }
        let most = ((notes as f64 * GOAL / load) as usize).clamp(1, notes - 1);
        let graph = &self.graphs[self.current];
        let units = graph.program.unit_count();
        let level = |lane: usize| (0..units).map(|u| graph.amplitude(u, lane)).sum();
        self.voices.shed_notes(most, level)
    }

    /// Computes the running program at half as many times the rate; false if it is at the plain rate already. The next program
    /// brings its own quality back.
    ///
    /// # Real time
    /// No allocation, no lock, no panic.
    pub fn lower_quality(&mut self) -> bool {
        let mut program = self.graphs[self.current].program;
        if program.oversampling <= 1 {
            return false;
        }
        program.cap_oversampling(program.oversampling() / 2);
        self.install(&program);
        true
    }

    /// Allows twice as many notes again after [`Engine::shed_notes`].
    pub fn allow_more_notes(&mut self) {
        self.voices.allowed = self.voices.allowed.saturating_mul(2);
    }
}

impl Voices {
    /// Fades notes until at most `most` sound. `level` says how strong a lane is.
    fn shed_notes(&mut self, most: usize, level: impl Fn(usize) -> f32) -> usize {
        self.allowed = most;
        self.wake();
        let mut gone = 0;
        while self.notes() > most {
            let strength = |group: usize| -> f32 {
                let lanes = group * LANES..(group + 1) * LANES;
                let held = lanes.filter(|l| {
                    matches!(self.lanes[*l].state, LaneState::Held | LaneState::Pedalled)
                });
                held.map(&level).fold(0.0, f32::max)
            };
            let rank = |lane: usize| {
                let voice = &self.lanes[lane];
                match voice.state {
                    LaneState::Released => Some((0.0, 0.0, voice.age, lane)),
                    // a group of lanes costs nothing only when all of it is silent
                    LaneState::Held | LaneState::Pedalled => {
                        Some((1.0 + strength(lane / LANES), level(lane), voice.age, lane))
                    }
                    LaneState::Free | LaneState::Fading => None,
                }
            };
            let ranked = (0..self.lanes.len()).filter_map(rank);
            let first = ranked.min_by(|a, b| {
                let order = a.0.total_cmp(&b.0).then(a.1.total_cmp(&b.1));
                order.then(a.2.cmp(&b.2))
            });
            let Some((_, _, age, _)) = first else { break };
            for voice in self
                .lanes
                .iter_mut()
                .filter(|v| v.age == age && v.state != LaneState::Free)
            {
                voice.state = LaneState::Fading;
            }
            gone += 1;
        }
        gone
    }
}
