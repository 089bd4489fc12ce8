//! How long an effect is heard after what went in has ended.

use zolvik_patch::choice::Options;
use zolvik_patch::finish::{
    Delay, DelayWay, EffectName, FilterEffect, Flanger, Freeze, Phaser, Resonators, Reverb, Shifter,
};

use crate::process::Setting;
use crate::{compressor, delay, drive, limiter};

/// Longest time in seconds: what would go on for ever ends then.
pub const LONGEST_TAIL_S: f64 = 30.0;
/// Until it is so far down it counts, in decibels.
const FAINT_DB: f64 = 80.0;

/// How late what an effect makes leaves, in seconds.
pub fn latency_s(kind: EffectName, set: &Setting<'_>) -> f64 {
    let frames = match kind {
        EffectName::Drive => drive::late_frames(set),
        EffectName::Compressor => compressor::ahead_frames(set),
        EffectName::Limiter => limiter::late_frames(set),
        _ => 0,
    };
    frames as f64 / set.rate_hz
}

/// Seconds it is heard after the end of what goes in.
pub fn tail_s(kind: EffectName, set: &Setting<'_>) -> f64 {
    let value = |id| f64::from(set.value(id).next);
    // rounds of so many seconds that leave so much
    let rounds = |each_s: f64, left: f64| match left {
        left if left <= 1e-4 => each_s,
        left if left >= 0.9999 => LONGEST_TAIL_S,
        left => each_s * (1.0 + FAINT_DB / (-20.0 * libm::log10(left))),
    };
    let seconds = match kind {
        EffectName::Reverb if Freeze::at(set.choices[0].into()) == Freeze::On => LONGEST_TAIL_S,
        EffectName::Reverb => {
            let risen = value(Reverb::SHIMMER);
            value(Reverb::PRE_S) + value(Reverb::TIME_S) * (FAINT_DB / 60.0) * (1.0 + risen) + 0.15
        }
        EffectName::Delay => {
            let [a, b] = delay::times_s(set);
            let (long, feedback) = (a.max(b), value(Delay::FEEDBACK));
            match DelayWay::at(set.choices[1].into()) {
                DelayWay::Single => long + 0.1,
                DelayWay::Straight => rounds(long, feedback) + 0.1,
                DelayWay::PingPong => rounds(a + b, feedback) + 0.1,
            }
        }
        EffectName::Resonators => value(Resonators::DECAY_S) * FAINT_DB / 60.0 + 0.1,
        EffectName::Flanger => rounds(
            value(Flanger::DELAY_S) + value(Flanger::DEPTH_S),
            value(Flanger::FEEDBACK).abs(),
        ),
        EffectName::Phaser => rounds(0.01, value(Phaser::FEEDBACK).abs()),
        EffectName::Shifter => rounds(0.2, value(Shifter::FEEDBACK)),
        EffectName::Filter => 0.05 + 2.0 * value(FilterEffect::RESONANCE),
        EffectName::Eq => 0.3,
        EffectName::Chorus | EffectName::Widening => 0.15,
        EffectName::ThreeBand | EffectName::Stereo => 0.1,
        EffectName::Drive | EffectName::Limiter | EffectName::Compressor => 0.05,
        EffectName::Transients | EffectName::Ducker | EffectName::Level => 0.0,
    };
    seconds.min(LONGEST_TAIL_S)
}
