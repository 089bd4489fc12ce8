//! Filters whose taps are the same from both ends, for many samples at once.

use wide::f32x8;

/// Samples computed side by side.
const AT_ONCE: usize = 16;

/// For each `i` of `out` the sum of `taps[j] * (rising[i + j] + falling[i + last - j])`, where `last` is the position of the last tap: `taps` are
/// one half of the filter's, the outermost first. Added up in an order that is the same on every target. Both sources have `out.len() + last`
/// samples at least.
#[inline(always)]
pub fn mirrored(taps: &[f32], rising: &[f32], falling: &[f32], out: &mut [f32]) {
    let last = taps.len().saturating_sub(1);
    debug_assert!(rising.len().min(falling.len()) >= out.len() + last);
    let (whole, rest) = out.as_chunks_mut::<AT_ONCE>();
    let done = whole.len() * AT_ONCE;
    for (at, out) in whole.iter_mut().enumerate() {
        let from = at * AT_ONCE;
        let mut sums = [f32x8::ZERO; AT_ONCE / 8];
        for (j, tap) in taps.iter().enumerate() {
            let up = rising[from + j..].first_chunk::<AT_ONCE>();
            let down = falling[from + last - j..].first_chunk::<AT_ONCE>();
            let (Some(up), Some(down)) = (up, down) else {
                continue;
            };
            let tap = f32x8::splat(*tap);
            for (eight, sum) in sums.iter_mut().enumerate() {
                let part = |side: &[f32; AT_ONCE]| {
                    f32x8::new(std::array::from_fn(|i| side[8 * eight + i]))
                };
                *sum += tap * (part(up) + part(down));
            }
        }
        for (to, sum) in out.as_chunks_mut::<8>().0.iter_mut().zip(sums) {
            *to = sum.to_array();
        }
    }
    for (i, out) in rest.iter_mut().enumerate() {
        let sides = |j: usize| rising[done + i + j] + falling[done + i + last - j];
        *out = (0..taps.len()).fold(0.0, |sum, j| sum + taps[j] * sides(j));
    }
}

#[cfg(test)]
mod tests {
    use super::mirrored;

    #[test]
    fn it_is_the_sum_of_all_taps_however_many_samples_there_are() {
        let taps = [0.5f32, -2.0, 3.0];
        let sound: Vec<f32> = (0..60).map(|i| ((i * 37) % 11) as f32 - 5.0).collect();
        let whole = [0.5, -2.0, 3.0, 3.0, -2.0, 0.5];
        for count in [0, 1, 8, 16, 17, 40, 48] {
            let mut out = vec![0.0; count];
            mirrored(&taps, &sound, &sound[3..], &mut out);
            for (i, out) in out.iter().enumerate() {
                let plain: f32 = whole.iter().zip(&sound[i..]).map(|(t, x)| t * x).sum();
                assert_eq!(*out, plain, "{count} samples, the {i}th");
            }
        }
    }
}
