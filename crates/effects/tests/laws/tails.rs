//! How long effects are heard after the sound, by their own response with nothing that stops it: never longer than they say.

use proptest::prelude::*;
use rstest::rstest;
use zolvik_effects::{FAINT_DB, LONGEST_TAIL_S};
use zolvik_patch::document::EffectId;
use zolvik_patch::finish::{
    BandType, Chorus, CutSlope, Delay, Drive, Effect, EffectName, EqBand, FilterEffect, Flanger,
    Phaser, Resonators, Reverb, Shifter, Stereo, ThreeBand, Widening,
};
use zolvik_patch::param::ParamId;

use crate::bench::{Bench, any_values, db, noise, peak, sine};

const RATE_HZ: f64 = 48_000.0;

/// How far below its peak an effect still is, in decibels, after the time it says: the higher of both channels, of a sine over noise.
fn left_db(effect: Effect, hz: f64) -> (f64, f64) {
    let mut bench = Bench::of(effect, RATE_HZ);
    let tail_s = bench.tail_s();
    let mut x = sine(hz, 0.5, 1.0, RATE_HZ);
    for (x, n) in x.iter_mut().zip(noise(1.0, RATE_HZ, 5)) {
        *x += 0.1 * n;
    }
    let late = bench.latency();
    let end = x.len() + late + (tail_s * RATE_HZ) as usize;
    x.resize((end + 24_000).next_multiple_of(16), 0.0);
    // both sides differ, so that what works on the difference has something to work on
    let other: Vec<f32> = x.iter().map(|x| 0.3 * x).collect();
    let [l, r] = bench.run(&x, &other);
    let after = peak(&l[end..]).max(peak(&r[end..]));
    (db(after / peak(&l).max(peak(&r))), tail_s)
}

fn of(kind: EffectName, values: &[(ParamId, f64)]) -> Effect {
    let mut effect = Effect::new(EffectId(2001), kind);
    for (id, value) in values {
        effect.value_slot(*id).unwrap().write(*value);
    }
    effect
}

/// An EQ with one band.
fn band(what: BandType, hz: f64, q: f64, gain_db: f64) -> Effect {
    let mut effect = Effect::new(EffectId(2001), EffectName::Eq);
    *effect.bands_mut().unwrap() = vec![EqBand {
        what,
        hz,
        q,
        gain_db,
        slope: CutSlope::Db48,
        ..EqBand::default()
    }];
    effect
}

fn filter(response: usize, slope: usize, hz: f64, resonance: f64) -> Effect {
    let mut effect = of(
        EffectName::Filter,
        &[
            (FilterEffect::CUTOFF_HZ, hz),
            (FilterEffect::RESONANCE, resonance),
        ],
    );
    effect.choose_of(FilterEffect::RESPONSE, response).unwrap();
    effect.choose_of(FilterEffect::SLOPE, slope).unwrap();
    effect
}

#[rstest]
#[case::bell(band(BandType::Peak, 80.0, 10.0, 12.0), 80.0, 0.7)]
#[case::sharpest_bell(band(BandType::Peak, 100.0, 18.0, 24.0), 100.0, 2.0)]
#[case::bell_down(band(BandType::Peak, 60.0, 4.0, -18.0), 60.0, 0.1)]
#[case::shelf(band(BandType::LowShelf, 30.0, 1.0, 18.0), 30.0, 0.05)]
#[case::cut(band(BandType::LowCut, 30.0, 4.0, 0.0), 30.0, 0.3)]
#[case::high_cut(band(BandType::HighCut, 40.0, 8.0, 0.0), 40.0, 0.5)]
#[case::notch(band(BandType::Notch, 50.0, 18.0, 0.0), 51.0, 0.9)]
#[case::low_pass(filter(0, 1, 40.0, 0.9), 40.0, 0.3)]
#[case::steepest(filter(0, 1, 40.0, 1.0), 40.0, 3.0)]
#[case::band_pass(filter(2, 0, 30.0, 0.95), 30.0, 0.5)]
#[case::comb(filter(5, 0, 100.0, 0.9), 100.0, 0.5)]
#[case::comb_turned(filter(6, 0, 60.0, 0.95), 60.0, 1.0)]
#[case::vowel(filter(7, 0, 100.0, 1.0), 100.0, 0.05)]
#[case::phaser(of(EffectName::Phaser, &[(Phaser::FEEDBACK, 0.95), (Phaser::CENTRE_HZ, 100.0)]), 60.0, 1.0)]
#[case::phaser_turned(of(EffectName::Phaser, &[(Phaser::FEEDBACK, -0.95), (Phaser::CENTRE_HZ, 50.0), (Phaser::STAGES, 12.0)]), 60.0, 1.0)]
#[case::flanger(of(EffectName::Flanger, &[(Flanger::FEEDBACK, -0.98), (Flanger::DELAY_S, 0.02)]), 440.0, 3.0)]
#[case::chorus(of(EffectName::Chorus, &[(Chorus::LOW_CUT_HZ, 11.0), (Chorus::DELAY_S, 0.05)]), 20.0, 0.1)]
#[case::echoes(of(EffectName::Delay, &[(Delay::LEFT_BEATS, 0.5), (Delay::FEEDBACK, 0.8)]), 440.0, 5.0)]
#[case::short_echoes(of(EffectName::Delay, &[(Delay::LEFT_BEATS, 0.03125), (Delay::RIGHT_BEATS, 0.03125), (Delay::FEEDBACK, 0.9), (Delay::HIGH_CUT_HZ, 500.0)]), 60.0, 0.5)]
#[case::shifted_echoes(of(EffectName::Delay, &[(Delay::FEEDBACK, 0.7), (Delay::SHIFT_ST, -5.0), (Delay::LEFT_BEATS, 0.1)]), 440.0, 0.5)]
#[case::ducked_echoes(of(EffectName::Delay, &[(Delay::FEEDBACK, 0.4), (Delay::DUCK_DB, 30.0), (Delay::LEFT_BEATS, 0.1)]), 440.0, 0.3)]
#[case::room(of(EffectName::Reverb, &[(Reverb::TIME_S, 4.0)]), 440.0, 4.0)]
#[case::short_room(of(EffectName::Reverb, &[(Reverb::TIME_S, 0.1), (Reverb::SIZE, 1.0), (Reverb::PRE_S, 0.25)]), 60.0, 0.2)]
#[case::risen(of(EffectName::Reverb, &[(Reverb::TIME_S, 2.0), (Reverb::SHIMMER, 1.0)]), 440.0, 2.0)]
#[case::strings(of(EffectName::Resonators, &[(Resonators::DECAY_S, 3.0)]), 220.0, 2.0)]
#[case::pitch(of(EffectName::Shifter, &[(Shifter::SEMITONES, 7.0), (Shifter::FEEDBACK, 0.6), (Shifter::GRAIN_S, 0.2)]), 220.0, 0.5)]
#[case::lifted(of(EffectName::ThreeBand, &[(ThreeBand::AMOUNT, 1.0), (ThreeBand::LOW_HZ, 60.0)]), 60.0, 0.05)]
#[case::sides(of(EffectName::Stereo, &[(Stereo::MONO_HZ, 21.0), (Stereo::LOW_HZ, 60.0)]), 22.0, 0.1)]
#[case::wider(of(EffectName::Widening, &[(Widening::ABOVE_HZ, 20.0)]), 20.0, 0.05)]
#[case::bent(of(EffectName::Drive, &[(Drive::DRIVE_DB, 48.0), (Drive::BIAS, 0.8)]), 60.0, 0.1)]
fn what_rings_is_heard_to_its_end(#[case] effect: Effect, #[case] hz: f64, #[case] least_s: f64) {
    let kind = effect.kind.name();
    let (left_db, tail_s) = left_db(effect, hz);
    assert!(
        left_db < -FAINT_DB,
        "{kind:?}: {left_db} dB after {tail_s} s"
    );
    assert!(
        tail_s > least_s && tail_s <= LONGEST_TAIL_S,
        "{kind:?}: {tail_s} s"
    );
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]
    /// Whatever it is set to.
    #[test]
    fn nothing_is_cut_off(
        kind in 0..EffectName::ALL.len(),
        places in proptest::collection::vec(0.0f64..=1.0, 16),
        choices in proptest::collection::vec(0usize..8, 4),
        hz in 30.0f64..3_000.0,
    ) {
        let kind = EffectName::ALL[kind];
        let (left_db, tail_s) = left_db(any_values(kind, &places, &choices), hz);
        prop_assert!(left_db < -FAINT_DB || tail_s >= LONGEST_TAIL_S, "{kind:?}: {left_db} dB after {tail_s} s");
    }
}
