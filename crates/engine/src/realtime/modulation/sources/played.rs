//! What is played.

use zolvik_patch::movement::PlayedWhat;

use crate::program::movement::SourceProgram;
use crate::realtime::input::controls::{Controls, Given};
use crate::realtime::modulation::sources::kind::Kind;

pub(super) const KIND: Kind = Kind {
    place: |state, turn| turn.each(|lane| played(turn.source, &state.given, lane, turn.controls)),
    ..Kind::PLAIN
};

/// What a note or a controller says, 0 to 1.
fn played(source: &SourceProgram, given: &Given, lane: usize, controls: &Controls) -> f32 {
    let key = usize::from(given.key[lane] & 127);
    match PlayedWhat::ALL[source.variant as usize % PlayedWhat::ALL.len()] {
        PlayedWhat::Velocity => given.velocity[lane],
        PlayedWhat::ReleaseVelocity => controls.lifted[key],
        PlayedWhat::Key => (0.5 + (key as f32 - 60.0) / 120.0).clamp(0.0, 1.0),
        PlayedWhat::Wheel => controls.wheel,
        PlayedWhat::Bend => controls.bend,
        PlayedWhat::Pressure => controls.pressure.max(controls.key_pressure[key]),
        PlayedWhat::Expression => controls.expression,
        PlayedWhat::Pedal => controls.pedal,
        PlayedWhat::Alternate => (given.nth[lane] & 1) as f32,
        PlayedWhat::Held => (controls.held as f32 / 8.0).min(1.0),
        PlayedWhat::Copy => given.copy[lane],
        PlayedWhat::Timbre => controls.key_timbre[key],
    }
}
