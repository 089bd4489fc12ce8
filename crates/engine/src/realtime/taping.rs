//! An engine's voices recorded on a tape, or played from one. Not for the audio path.

use super::engine::Engine;
use super::tape::{Tape, Taping};

impl Engine {
    /// Keeps what leaves the voices from now on, until [`Engine::tape`]. Not for the audio path: it allocates.
    pub fn record_voices(&mut self) {
        self.taping = Some(Box::new(Taping::Records(Tape::default())));
    }

    /// Lets the effects hear a tape in place of the voices, from its begin; what is played is not computed. The program must be one with the
    /// same voices as that of the tape ([`Program::of_voices`]). Not for the audio path.
    pub fn play_voices(&mut self, tape: Tape) {
        self.taping = Some(Box::new(Taping::Plays(tape, 0)));
    }

    /// Takes out the tape that was recorded or played.
    pub fn tape(&mut self) -> Option<Tape> {
        self.taping.take().map(|taping| match *taping {
            Taping::Records(tape) | Taping::Plays(tape, _) => tape,
        })
    }

    /// The next block of a tape, if one is played.
    pub(super) fn next_taped_block(&mut self) -> bool {
        let Some(Taping::Plays(tape, at)) = self.taping.as_deref_mut() else {
            return false;
        };
        let graph = &mut self.graphs[self.current];
        let links = graph.program.movement.links().len();
        let Some((block, motions)) = tape.at(*at, links) else {
            return false;
        };
        *at += 1;
        graph.values.move_all(&graph.program, &motions);
        self.clock
            .advance(graph.program.tempo_bpm, graph.outer_rate_hz);
        self.finish(&block);
        true
    }
}
