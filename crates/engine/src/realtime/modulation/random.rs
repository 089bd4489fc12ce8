//! Numbers by chance that are the same every time: from what they are for, not from what was drawn before.

/// A number of 32 bits for a seed and some words (SplitMix64; Steele, Lea, Flood, 2014).
#[inline]
pub(crate) fn bits(words: [u64; 4]) -> u32 {
    let mut state = 0u64;
    for word in words {
        state = (state ^ word).wrapping_add(0x9E37_79B9_7F4A_7C15);
        state = (state ^ (state >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        state = (state ^ (state >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
        state ^= state >> 31;
    }
    (state >> 32) as u32
}

/// A number from -1 to 1.
#[inline]
pub(crate) fn signed(words: [u64; 4]) -> f64 {
    f64::from(bits(words)) / 2_147_483_648.0 - 1.0
}

/// How often drift turns to a new goal, in times a second.
const DRIFT_HZ: f64 = 0.9;

/// A slow wander between -1 and 1, smooth in time. `words` say of what.
pub(crate) fn drift([seed, note, unit]: [u64; 3], time_s: f64) -> f64 {
    let place = time_s * DRIFT_HZ;
    let step = place.floor();
    let at = |step: f64| signed([seed, note, unit, step as u64 + 1]);
    let t = place - step;
    let ease = t * t * (3.0 - 2.0 * t);
    at(step) + (at(step + 1.0) - at(step)) * ease
}
