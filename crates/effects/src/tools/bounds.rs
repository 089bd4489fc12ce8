//! Limits of many values at once.

use wide::{f32x4, f32x8};

/// What lies below or above a limit. Each target has one instruction for it; which of both it gives where they cannot be compared depends on
/// their order, so here what is no number becomes the limit on every one. (`min` and `max` of `wide` give the same, in five instructions.)
pub trait Bounds {
    /// The lower of both.
    fn at_most(self, limit: Self) -> Self;
    /// The higher of both.
    fn at_least(self, limit: Self) -> Self;
}

macro_rules! bounds {
    ($($lanes:ty),*) => {$(
        impl Bounds for $lanes {
            #[inline(always)]
            fn at_most(self, limit: Self) -> Self {
                match cfg!(target_arch = "wasm32") {
                    true => limit.fast_min(self),
                    false => self.fast_min(limit),
                }
            }

            #[inline(always)]
            fn at_least(self, limit: Self) -> Self {
                match cfg!(target_arch = "wasm32") {
                    true => limit.fast_max(self),
                    false => self.fast_max(limit),
                }
            }
        }
    )*};
}
bounds!(f32x4, f32x8);

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_no_number_is_the_limit() {
        let x = f32x4::new([f32::NAN, -7.0, 0.5, f32::INFINITY]);
        let (low, high) = (f32x4::splat(-2.0), f32x4::splat(3.0));
        assert_eq!(x.at_most(high).to_array(), [3.0, -7.0, 0.5, 3.0]);
        assert_eq!(x.at_least(low).to_array(), [-2.0, -2.0, 0.5, f32::INFINITY]);
    }
}
