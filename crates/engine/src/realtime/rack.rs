//! Where the ways out come together. Effects will stand here; for now they are summed.

use super::decimate::Decimator;
use crate::{BLOCK, BUSES};

/// Both channels of one block at the rate that leaves.
pub(crate) type Stereo = [[f32; BLOCK]; 2];

/// Sums the ways out that are taken, in their order.
pub(crate) fn sum(taken: impl Iterator<Item = usize>, ways: &[Stereo; BUSES]) -> Stereo {
    let mut all = [[0.0; BLOCK]; 2];
    let mut begun = false;
    for way in taken.map(|bus| &ways[bus]) {
        if !begun {
            all = *way;
            begun = true;
            continue;
        }
        for (sum, channel) in all.iter_mut().zip(way) {
            sum.iter_mut().zip(channel).for_each(|(s, x)| *s += x);
        }
    }
    all
}

/// Brings both channels of a way out down to the rate that leaves.
pub(crate) fn bring_down(
    decimators: &mut [Decimator; 2],
    fine: &mut [[f32; BLOCK * super::decimate::MAX_OVERSAMPLING]; 2],
    oversampling: usize,
) -> Stereo {
    let mut coarse = [[0.0; BLOCK]; 2];
    for channel in 0..2 {
        decimators[channel].run(&mut fine[channel], oversampling);
        coarse[channel].copy_from_slice(&fine[channel][..BLOCK]);
    }
    coarse
}
