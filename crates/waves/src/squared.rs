//! Squares with the same bits everywhere.

/// A number times itself: `powi` may round otherwise from target to target.
pub(crate) fn squared(x: f64) -> f64 {
    x * x
}
