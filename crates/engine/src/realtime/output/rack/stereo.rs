//! Both channels of a block: summed, scaled, measured.

use zolvik_effects::Value;

use crate::realtime::output::decimate::{Decimator, MAX_OVERSAMPLING};
use crate::sizes::{BLOCK, BUSES};

/// Both channels of one block at the rate that leaves.
pub(crate) type Stereo = [[f32; BLOCK]; 2];

/// Sums the ways out that are taken, in their order.
pub(super) fn sum(taken: impl Iterator<Item = usize>, ways: &[Stereo; BUSES]) -> Stereo {
    let mut all = [[0.0; BLOCK]; 2];
    let mut begun = false;
    for way in taken.map(|bus| &ways[bus]) {
        if !begun {
            all = *way;
            begun = true;
            continue;
        }
        add(&mut all, way);
    }
    all
}

/// Adds a way to another.
pub(super) fn add(to: &mut Stereo, way: &Stereo) {
    for (sum, channel) in to.iter_mut().zip(way) {
        sum.iter_mut().zip(channel).for_each(|(s, x)| *s += x);
    }
}

/// Makes a way louder or softer over the block.
pub(super) fn scale(way: &mut Stereo, by: Value) {
    if by.now == 1.0 && by.next == 1.0 {
        return;
    }
    for channel in way {
        for (frame, x) in channel.iter_mut().enumerate() {
            *x *= by.at(frame);
        }
    }
}

/// Whether nothing at all is on a way.
pub(super) fn is_silent(way: &Stereo) -> bool {
    way.iter().flatten().all(|x| *x == 0.0)
}

/// Brings both channels of a way out down to the rate that leaves.
pub(crate) fn bring_down(
    decimators: &mut [Decimator; 2],
    fine: &mut [[f32; BLOCK * MAX_OVERSAMPLING]; 2],
    oversampling: usize,
) -> Stereo {
    let mut coarse = [[0.0; BLOCK]; 2];
    for channel in 0..2 {
        decimators[channel].run(&mut fine[channel], oversampling);
        coarse[channel].copy_from_slice(&fine[channel][..BLOCK]);
    }
    coarse
}

/// How loud a sound is before an effect and after it, in a block.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct EffectMeter {
    /// Mean square of both channels.
    pub before: f32,
    /// Highest of both channels.
    pub peak_before: f32,
    /// Mean square of both channels.
    pub after: f32,
    /// Highest of both channels.
    pub peak_after: f32,
    /// By how much it makes the sound softer or louder, in decibels; 0 where it is no matter of level.
    pub gain_db: f32,
}

impl EffectMeter {
    /// Mean square and highest after it.
    pub(super) fn level_after(&self) -> (f32, f32) {
        (self.after, self.peak_after)
    }
}

/// Mean square and highest of both channels: eight sums, and eight that are highest, side by side.
pub(super) fn heard(way: &Stereo) -> (f32, f32) {
    let (mut powers, mut peaks) = ([0.0f32; 8], [0.0f32; 8]);
    for eight in way.iter().flat_map(|side| side.as_chunks::<8>().0) {
        for ((power, peak), x) in powers.iter_mut().zip(&mut peaks).zip(eight) {
            *power += x * x;
            // what is no number is not higher
            *peak = if x.abs() > *peak { x.abs() } else { *peak };
        }
    }
    let power: f32 = powers.iter().sum();
    let peak = peaks.into_iter().fold(0.0, f32::max);
    (power / (2 * BLOCK) as f32, peak)
}
