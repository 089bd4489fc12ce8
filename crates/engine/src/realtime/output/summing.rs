//! What leaves the voices, summed over their lanes.

use crate::realtime::Buses;
use crate::realtime::graph::Graph;
use crate::realtime::output::decimate::MAX_OVERSAMPLING;
use crate::realtime::tables::bank_cache::BankCache;
use crate::realtime::voices::Voices;
use crate::realtime::voices::lanes::{Lane, LaneState};
use crate::realtime::{Block, SILENT};
use crate::sizes::{BLOCK, BUSES, LANES};
use wide::{f32x4, f32x8};

/// Sums of the ways out: of all voices, of one set of lanes, and at the rate they are computed at.
pub(in crate::realtime) struct Sums {
    pub(in crate::realtime) total: Buses,
    pub(in crate::realtime) own: Buses,
    pub(in crate::realtime) fine: [[[f32; BLOCK * MAX_OVERSAMPLING]; 2]; BUSES],
}

/// The ways out that a program takes.
pub(in crate::realtime) fn taken(buses: u32) -> impl Iterator<Item = usize> {
    (0..BUSES).filter(move |bus| buses >> bus & 1 == 1)
}

/// One block of all voices, both channels of each way out. `span` is its place in the block that leaves, 0 to 1, over which
/// voices that are taken away fade.
pub(in crate::realtime) fn sum_of_voices(
    graph: &mut Graph,
    voices: &Voices,
    span: [f32; 2],
    bank_cache: &BankCache,
    Sums { total, own, .. }: &mut Sums,
) {
    let buses = graph.program.buses;
    taken(buses).for_each(|bus| total[bus] = [SILENT; 2]);
    for set in 0..voices.top {
        if !voices.set_sounds(set) {
            continue;
        }
        let lanes = &voices.lanes[set * LANES..(set + 1) * LANES];
        let upper = lanes[LANES / 2..]
            .iter()
            .any(|v| v.state != LaneState::Free);
        let halves = if upper { 2 } else { 1 };
        let plain = |v: &Lane| {
            v.gain == 1.0 && v.next_gain == 1.0 && v.sides == [1.0; 2] && v.next_sides == [1.0; 2]
        };
        let waits = graph.within.waits(set);
        if !waits && lanes.iter().all(|v| plain(v) || v.state == LaneState::Free) {
            graph.block(set, halves, total, bank_cache);
            continue;
        }
        taken(buses).for_each(|bus| own[bus] = [SILENT; 2]);
        graph.block(set, halves, own, bank_cache);
        if waits {
            let times = graph.program.oversampling();
            graph.within.run(set, taken(buses), times, own);
        }
        for side in 0..2 {
            let at = |share: f32| {
                f32x8::new(std::array::from_fn(|l| {
                    let v = &lanes[l];
                    let gain = v.gain + (v.next_gain - v.gain) * share;
                    gain * (v.sides[side] + (v.next_sides[side] - v.sides[side]) * share)
                }))
            };
            let (gain, next) = (at(span[0]), at(span[1]));
            for bus in taken(buses) {
                add_gliding(&mut total[bus][side], &own[bus][side], gain, next);
            }
        }
    }
}

fn add_gliding(total: &mut Block, own: &Block, mut gain: f32x8, next: f32x8) {
    let slope = (next - gain) * f32x8::splat(1.0 / BLOCK as f32);
    for (total, own) in total.iter_mut().zip(own) {
        *total += *own * gain;
        gain += slope;
    }
}

/// Sums of the eight lanes of four frames, in an order that is the same on every target.
#[inline(always)]
pub(in crate::realtime) fn add_lanes(frames: &[f32x8; 4]) -> [f32; 4] {
    let frames = frames.map(f32x8::to_array);
    let lane = |l: usize| f32x4::new([frames[0][l], frames[1][l], frames[2][l], frames[3][l]]);
    let [a, b, c, d, e, f, g, h] = std::array::from_fn(lane);
    (((a + b) + (c + d)) + ((e + f) + (g + h))).to_array()
}
