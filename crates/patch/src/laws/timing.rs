//! How key, velocity and tempo scale the times of envelopes.

use crate::ids::UnitId;
use crate::params::address::Address;
use crate::params::catalogue::param;
use crate::params::param::{Owner, ParamId};
use crate::parts::envelope::{BEAT_S, Envelope};
use crate::parts::unit::Unit;
use crate::patch::Patch;
use crate::text::Times;

/// Factor of an envelope's times for a key and a velocity, without the tempo: higher keys and harder strokes shorten
/// them as far as a unit's `key_times` and `velocity_times` say.
pub fn times_scale(key_times: f64, velocity_times: f64, key: u8, velocity: u8) -> f64 {
    let octaves = (f64::from(key) - 60.0) / 12.0;
    let struck = 2.0 * f64::from(velocity) / 127.0 - 1.0;
    libm::exp2(-key_times * octaves - 2.0 * velocity_times * struck)
}

/// Factor of a unit's envelope times for the auditioned note, tempo included.
pub fn auditioned_scale(patch: &Patch, unit: &Unit) -> f64 {
    let a = &patch.audition;
    times_scale(unit.key_times, unit.velocity_times, a.note, a.velocity)
        * unit.envelope.tempo_scale(a.tempo_bpm)
}

/// When the last sound of the auditioned note ends by its envelopes, in seconds from the press.
pub fn auditioned_end_s(patch: &Patch) -> f64 {
    let sources = patch
        .units
        .iter()
        .filter(|u| u.kind.name().is_source() && patch.sounds(u.id));
    let tail_s = sources
        .map(|u| u.envelope.release_s() * auditioned_scale(patch, u))
        .fold(0.0, f64::max);
    patch.audition.hold_s + tail_s
}

/// The same for a strip by its number, be it a unit or a source that is an envelope; 1 where there is none.
pub fn strip_scale(patch: &Patch, id: UnitId) -> f64 {
    match (patch.unit(id), patch.envelope(id)) {
        (Some(unit), _) => auditioned_scale(patch, unit),
        (None, Some(envelope)) => envelope.tempo_scale(patch.audition.tempo_bpm),
        (None, None) => 1.0,
    }
}

/// Whether a value belongs to the course of an envelope.
pub fn is_of_envelope(id: ParamId) -> bool {
    id == Envelope::DELAY_S || param(id).owner == Owner::Point
}

/// How times are said where a value stands: envelopes in beats are written for 120 beats a minute, all else takes the tempo as it is.
pub fn said_at(patch: &Patch, address: Address) -> Times {
    let envelope = || patch.envelope(UnitId(address.id));
    let in_beats = is_of_envelope(address.param) && envelope().is_some_and(|e| e.in_beats);
    let beat_s = match in_beats {
        true => BEAT_S,
        false => 60.0 / patch.audition.tempo_bpm,
    };
    Times { beat_s, in_beats }
}
