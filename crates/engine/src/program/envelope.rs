//! Envelopes as the engine has them.

use bytemuck::{Pod, Zeroable};
use zolvik_patch::envelope::MAX_POINTS;

/// An envelope, its times scaled by the tempo.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct EnvelopeProgram {
    pub(crate) delay_s: f64,
    pub(crate) points: [PointProgram; MAX_POINTS],
    pub(crate) count: u32,
    /// The point held until the release.
    pub(crate) held: u32,
    /// Segment gone back to from the held point; one after it where the note stays.
    pub(crate) loop_from: u32,
    pub(crate) reserved: u32,
}

/// A point and the segment that leads to it.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct PointProgram {
    pub(crate) time_s: f64,
    pub(crate) level: f64,
    pub(crate) curve: f64,
}

/// Whether an envelope's points lie inside it; one that is none has none.
pub(super) fn envelope_ok(env: &EnvelopeProgram) -> bool {
    env.count == 0
        || (env.count as usize) <= MAX_POINTS
            && env.held < env.count
            && env.loop_from <= env.held + 1
}
