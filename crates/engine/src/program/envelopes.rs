//! Envelopes of units and of sources, compiled.

use bytemuck::Zeroable;
use zolvik_patch::envelope::{Envelope, MAX_POINTS};

use super::envelope::{EnvelopeProgram, PointProgram};

/// Shortest round of a looped envelope, in seconds; below it stays at its held point.
const SHORTEST_ROUND_S: f64 = 0.002;

/// An envelope whose times are those at a tempo.
pub(crate) fn envelope_program(env: &Envelope, tempo_bpm: f64) -> EnvelopeProgram {
    let scale = env.tempo_scale(tempo_bpm);
    let mut points = [PointProgram::zeroed(); MAX_POINTS];
    for (to, point) in points.iter_mut().zip(&env.points) {
        *to = PointProgram {
            time_s: point.time_s * scale,
            level: point.level,
            curve: point.curve,
        };
    }
    let held = usize::from(env.held);
    let from = env.loop_from.map_or(held + 1, usize::from);
    let round_s: f64 = points[from.min(held + 1)..=held]
        .iter()
        .map(|p| p.time_s)
        .sum();
    EnvelopeProgram {
        delay_s: env.delay_s * scale,
        points,
        count: env.points.len() as u32,
        held: held as u32,
        // a round of no length would never end
        loop_from: if round_s < SHORTEST_ROUND_S {
            held + 1
        } else {
            from
        } as u32,
        reserved: 0,
    }
}
