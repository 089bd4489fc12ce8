//! The axes of pictures: where time stands, and the lowest level there is.

/// What the spectrogram shows as silence.
pub const FLOOR_DB: f32 = -90.0;

/// Where a time lies on the axis: `place = (time / window)^exponent`.
///
/// 1 is even; 0.6 gives the start of a note more room.
pub fn time_at(place: f64, window_s: f64, exponent: f64) -> f64 {
    window_s * place.clamp(0.0, 1.0).powf(1.0 / exponent)
}
