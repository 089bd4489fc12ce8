//! What leaves an engine's voices captured, or a capture heard in place of them. Not for the audio path.

use crate::realtime::engine::Engine;
use crate::realtime::output::capture::{Capturing, VoiceCapture};

impl Engine {
    /// Keeps what leaves the voices from now on, until [`Engine::capture`]. Not for the audio path: it allocates.
    pub fn capture_voices(&mut self) {
        self.capturing = Some(Box::new(Capturing::Records(VoiceCapture::default())));
    }

    /// Lets the effects hear a capture in place of the voices, from its begin; what is played is not computed. The program must be one with the
    /// same voices as that of the capture ([`Program::of_voices`]). Not for the audio path.
    pub fn play_voices(&mut self, capture: VoiceCapture) {
        self.capturing = Some(Box::new(Capturing::Plays(capture, 0)));
    }

    /// Takes out the capture that was recorded or played.
    pub fn capture(&mut self) -> Option<VoiceCapture> {
        self.capturing.take().map(|capturing| match *capturing {
            Capturing::Records(capture) | Capturing::Plays(capture, _) => capture,
        })
    }

    /// The next block of a capture, if one is played.
    pub(in crate::realtime) fn next_captured_block(&mut self) -> bool {
        let Some(Capturing::Plays(capture, at)) = self.capturing.as_deref_mut() else {
            return false;
        };
        let graph = &mut self.graphs[self.current];
        let links = graph.program.movement.links().len();
        let Some((block, motions)) = capture.at(*at, links) else {
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
