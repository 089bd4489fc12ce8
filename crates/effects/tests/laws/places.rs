//! Stereo, widening, level: what stands where; and what is common to all kinds.

use proptest::prelude::*;
use rstest::rstest;
use zolvik_patch::finish::{EffectName, Gain, Stereo, Widening};

use crate::bench::{Bench, any_values, db, noise, rms, sine};

const RATE_HZ: f64 = 48_000.0;

fn sides(l: &[f32], r: &[f32]) -> (f64, f64) {
    let mid: Vec<f32> = l.iter().zip(r).map(|(a, b)| 0.5 * (a + b)).collect();
    let side: Vec<f32> = l.iter().zip(r).map(|(a, b)| 0.5 * (a - b)).collect();
    (rms(&mid), rms(&side))
}

#[test]
fn as_it_comes_nothing_changes() {
    let mut bench = Bench::new(EffectName::Stereo, RATE_HZ);
    let (l, r) = (noise(0.5, RATE_HZ, 1), noise(0.5, RATE_HZ, 2));
    let [a, b] = bench.run(&l, &r);
    assert_eq!((a, b), (l, r));
}

#[rstest]
#[case::lows_are_mono(50.0, -40.0, -20.0)]
#[case::highs_stay(1_000.0, -1.0, 1.0)]
fn mono_below_a_frequency(#[case] hz: f64, #[case] least: f64, #[case] most: f64) {
    let mut bench = Bench::new(EffectName::Stereo, RATE_HZ).set(Stereo::MONO_HZ, 150.0);
    let x = sine(hz, 0.5, 1.0, RATE_HZ);
    let none = vec![0.0; x.len()];
    let [l, r] = bench.run(&x, &none);
    let (mid, side) = sides(&l[24_000..], &r[24_000..]);
    let wide = db(side / mid);
    assert!(
        (least..=most).contains(&wide) || wide < least && most < 0.0,
        "{wide} dB"
    );
}

#[rstest]
#[case(100.0, 0)]
#[case(1_000.0, 1)]
#[case(9_000.0, 2)]
fn each_band_has_its_own_width(#[case] hz: f64, #[case] band: usize) {
    let ids = [Stereo::LOW_WIDTH, Stereo::MID_WIDTH, Stereo::HIGH_WIDTH];
    let mut bench = Bench::new(EffectName::Stereo, RATE_HZ).set(ids[band], 0.0);
    let x = sine(hz, 0.5, 1.0, RATE_HZ);
    let none = vec![0.0; x.len()];
    let [l, r] = bench.run(&x, &none);
    let (mid, side) = sides(&l[24_000..], &r[24_000..]);
    assert!(db(side / mid) < -8.0, "{}", db(side / mid));
}

#[test]
fn widening_leaves_the_lows() {
    for by in [0, 1] {
        let mut bench = Bench::new(EffectName::Widening, RATE_HZ)
            .choose(Widening::BY, by)
            .set(Widening::ABOVE_HZ, 300.0);
        let low = sine(60.0, 0.5, 1.0, RATE_HZ);
        let [l, r] = bench.run(&low, &low);
        let (mid, side) = sides(&l[24_000..], &r[24_000..]);
        assert!(db(side / mid) < -40.0, "{}", db(side / mid));
        let high = noise(1.0, RATE_HZ, 4);
        let [l, r] = bench.run(&high, &high);
        let (mid, side) = sides(&l[24_000..], &r[24_000..]);
        assert!(db(side / mid) > -6.0, "{}", db(side / mid));
    }
}

#[test]
fn turned_upside_down_it_takes_itself_away() {
    let mut bench = Bench::new(EffectName::Level, RATE_HZ).choose(Gain::POLARITY, 1);
    let x = noise(0.1, RATE_HZ, 1);
    let y = bench.mono(&x);
    assert!(x.iter().zip(&y).all(|(a, b)| a + b == 0.0));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]
    /// Any effect with any values at any rate stays finite and within measure.
    #[test]
    fn nothing_gets_out_of_hand(
        kind in 0..EffectName::ALL.len(),
        places in proptest::collection::vec(0.0f64..=1.0, 16),
        choices in proptest::collection::vec(0usize..8, 4),
        rate in prop_oneof![Just(8_000.0), Just(44_100.0), Just(48_000.0), Just(96_000.0), Just(192_000.0)],
    ) {
        let kind = EffectName::ALL[kind];
        let mut bench = Bench::of(any_values(kind, &places, &choices), rate);
        let x = noise(0.2, rate, 77);
        let y = bench.mono(&x);
        for y in &y {
            prop_assert!(y.is_finite() && y.abs() < 3_000.0, "{kind:?}: {y}");
        }
    }
}
