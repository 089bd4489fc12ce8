//! EQ, filter, phaser and resonators: responses against their prototypes.

use rstest::rstest;
use zolvik_effects::band_curve;
use zolvik_patch::finish::{
    BandType, CutSlope, EffectName, Eq, EqBand, FilterEffect, Phaser, Resonators,
};

use crate::bench::{Bench, amplitude, db, noise, sine};

const RATE_HZ: f64 = 48_000.0;

/// Gain in decibels of the analog prototype of a band.
fn analog_db(what: BandType, slope: CutSlope, hz: f64, gain_db: f64, q: f64, at_hz: f64) -> f64 {
    let w = at_hz / hz;
    let a = 10f64.powf(gain_db / 40.0);
    let power = |b: [f64; 3]| {
        let even = b[0] - b[2] * w * w;
        even * even + b[1] * b[1] * w * w
    };
    let ratio = |b, a| 10.0 * (power(b) / power(a)).max(1e-30).log10();
    let s = a.sqrt() / q;
    match what {
        BandType::Peak => ratio([1.0, a / q, 1.0], [1.0, 1.0 / (a * q), 1.0]),
        BandType::LowShelf => ratio([a * a, a * s, a], [1.0, s, a]),
        BandType::HighShelf => ratio([a, a * s, a * a], [a, s, 1.0]),
        BandType::Notch => ratio([1.0, 0.0, 1.0], [1.0, 1.0 / q, 1.0]),
        BandType::Tilt => {
            let g = 10f64.powf(gain_db / 20.0);
            ratio([1.0, g, 0.0], [g, 1.0, 0.0])
        }
        BandType::LowCut | BandType::HighCut => {
            let poles = [1, 2, 4, 6, 8][slope as usize];
            let low = what == BandType::HighCut;
            if poles == 1 {
                let b = if low {
                    [1.0, 0.0, 0.0]
                } else {
                    [0.0, 1.0, 0.0]
                };
                return ratio(b, [1.0, 1.0, 0.0]);
            }
            (0..poles / 2)
                .map(|stage| {
                    let angle = std::f64::consts::PI * (2 * stage + 1) as f64 / (2 * poles) as f64;
                    let own = 0.5 / angle.sin();
                    let own = if stage == 0 {
                        own * q * 2f64.sqrt()
                    } else {
                        own
                    };
                    let b = if low {
                        [1.0, 0.0, 0.0]
                    } else {
                        [0.0, 0.0, 1.0]
                    };
                    ratio(b, [1.0, 1.0 / own, 1.0])
                })
                .sum()
        }
    }
}

#[rstest]
#[case::bell(BandType::Peak, CutSlope::Db12, &[0.1, 0.5, 1.0, 4.0, 18.0], &[-24.0, -6.0, 3.0, 24.0])]
#[case::low_shelf(BandType::LowShelf, CutSlope::Db12, &[0.3, 0.707, 1.5], &[-24.0, -6.0, 3.0, 24.0])]
#[case::high_shelf(BandType::HighShelf, CutSlope::Db12, &[0.3, 0.707, 1.5], &[-24.0, -6.0, 3.0, 24.0])]
#[case::tilt(BandType::Tilt, CutSlope::Db12, &[0.707], &[-12.0, 3.0, 12.0])]
#[case::high_cut_6(BandType::HighCut, CutSlope::Db6, &[0.707], &[0.0])]
#[case::high_cut_12(BandType::HighCut, CutSlope::Db12, &[0.5, 0.707, 4.0], &[0.0])]
#[case::high_cut_48(BandType::HighCut, CutSlope::Db48, &[0.707], &[0.0])]
#[case::low_cut_6(BandType::LowCut, CutSlope::Db6, &[0.707], &[0.0])]
#[case::low_cut_12(BandType::LowCut, CutSlope::Db12, &[0.5, 0.707, 4.0], &[0.0])]
#[case::low_cut_48(BandType::LowCut, CutSlope::Db48, &[0.707], &[0.0])]
fn bands_meet_their_prototypes_to_16_khz(
    #[case] what: BandType,
    #[case] slope: CutSlope,
    #[case] qs: &[f64],
    #[case] gains: &[f64],
) {
    let mut worst = (0.0, 0.0, 0.0, 0.0, 0.0);
    for hz in [30.0, 120.0, 700.0, 2_500.0, 6_000.0, 10_000.0, 14_000.0] {
        if what == BandType::LowCut && hz > 8_000.0 {
            continue; // two zeros are at nothing: none is left to follow a ringing edge up there
        }
        for (q, gain_db) in qs.iter().flat_map(|q| gains.iter().map(move |g| (*q, *g))) {
            let curve = band_curve(what, slope, hz / RATE_HZ, gain_db, q);
            for i in 0..200 {
                let at_hz = 20.0 * 800f64.powf(f64::from(i) / 199.0);
                let should = analog_db(what, slope, hz, gain_db, q, at_hz);
                if should < -48.0 {
                    continue;
                }
                let off = (db(curve.gain(at_hz / RATE_HZ)) - should).abs();
                if off > worst.0 {
                    worst = (off, hz, q, gain_db, at_hz);
                }
            }
        }
    }
    println!("{what:?} {slope:?}: {worst:?}");
    assert!(worst.0 < 0.2, "{what:?}: {worst:?}");
}

/// What is heard is what the curve says.
#[rstest]
fn what_is_heard_is_the_curve(#[values(60.0, 400.0, 3_000.0, 12_000.0)] at_hz: f64) {
    let mut bench = Bench::new(EffectName::Eq, RATE_HZ);
    let band = |what, hz, gain_db, q| EqBand {
        gain_db,
        q,
        ..EqBand::at(what, hz)
    };
    *bench.effect.bands_mut().unwrap() = vec![
        band(BandType::LowCut, 50.0, 0.0, 0.707),
        band(BandType::Peak, 420.0, -9.0, 2.0),
        band(BandType::HighShelf, 7_000.0, 5.0, 0.7),
    ];
    let should: f64 = bench
        .effect
        .bands()
        .iter()
        .map(|b| analog_db(b.what, b.slope, b.hz, b.gain_db, b.q, at_hz))
        .sum();
    let is = bench.gain_db(at_hz, 0.3);
    assert!((is - should).abs() < 0.1, "{at_hz} Hz: {is} dB, {should}");
}

/// A band that sweeps by four octaves in a tenth of a second leaves a still tone free of what does not belong.
#[test]
fn a_band_that_sweeps_does_not_crackle() {
    let mut bench = Bench::new(EffectName::Eq, RATE_HZ);
    let x = sine(300.0, 0.5, 1.0, RATE_HZ);
    let y = bench.run_with(
        &x,
        &x,
        |effect, at| {
            let bands = effect.bands_mut().unwrap();
            let place = (at as f64 / 4_800.0).min(1.0);
            bands[1].hz = 2_000.0 * 16f64.powf(1.0 - place);
            bands[1].gain_db = 12.0;
        },
        |_| 0.0,
    );
    // after the sweep, and in its midst: nothing at far frequencies
    for hz in [4_321.0, 9_876.0, 15_000.0] {
        let left = db(amplitude(&y[0][..9_600], hz, RATE_HZ) / 0.5);
        assert!(left < -80.0, "{hz} Hz: {left} dB");
    }
    let bands: &Eq = match &bench.effect.kind {
        zolvik_patch::finish::EffectKind::Eq(eq) => eq,
        _ => unreachable!(),
    };
    assert_eq!(bands.bands.len(), 4);
}

#[rstest]
#[case::low_12(0, 0, 1.0, 0.0)]
#[case::low_12_above(0, 0, 4.0, -24.6)]
#[case::low_24_above(0, 1, 4.0, -48.2)]
#[case::high_12_below(1, 0, 0.25, -24.6)]
#[case::notch(3, 0, 1.0, -200.0)]
fn filters_do_what_their_type_says(
    #[case] response: usize,
    #[case] slope: usize,
    #[case] times: f64,
    #[case] least_db: f64,
) {
    let mut bench = Bench::new(EffectName::Filter, RATE_HZ)
        .choose(FilterEffect::RESPONSE, response)
        .choose(FilterEffect::SLOPE, slope)
        .set(FilterEffect::CUTOFF_HZ, 1_000.0);
    let at = bench.gain_db(1_000.0 * times, 0.2);
    // at the cutoff a filter without resonance is between 3 and 7 dB down, or the notch gone
    match times == 1.0 {
        true if least_db == 0.0 => assert!((-7.0..=0.5).contains(&at), "{at}"),
        true => assert!(at < -60.0, "{at}"),
        false => assert!((at - least_db).abs() < 3.0, "{at} {least_db}"),
    }
}

/// A phaser that stands has a notch for every two stages, added to the sound as it came.
#[rstest]
fn a_phaser_has_a_notch_for_every_two_stages(#[values(2, 4, 8, 12)] stages: usize) {
    let mut bench = Bench::new(EffectName::Phaser, RATE_HZ)
        .choose(Phaser::SWEEP, 1)
        .set(Phaser::STAGES, stages as f64)
        .set(Phaser::FEEDBACK, 0.0)
        .set(Phaser::CENTRE_HZ, 1_000.0);
    let mut impulse = vec![0.0f32; 16_384];
    impulse[0] = 1.0;
    let y = bench.mono(&impulse);
    let sum: Vec<f32> = y.iter().zip(&impulse).map(|(a, b)| 0.5 * (a + b)).collect();
    let gain = |hz: f64| {
        let (mut c, mut s) = (0.0, 0.0);
        for (i, x) in sum.iter().enumerate() {
            let angle = std::f64::consts::TAU * hz * i as f64 / RATE_HZ;
            c += f64::from(*x) * angle.cos();
            s += f64::from(*x) * angle.sin();
        }
        db(c.hypot(s))
    };
    let gains: Vec<f64> = (0..1_500)
        .map(|i| gain(20.0 * 1_000f64.powf(f64::from(i) / 1_500.0)))
        .collect();
    let notches = gains
        .windows(3)
        .filter(|w| w[1] < w[0] && w[1] < w[2] && w[1] < -20.0)
        .count();
    assert_eq!(notches, stages / 2);
}

/// Strings ring at the harmonics of the key, within three cents, and fall by 60 dB in their decay.
#[rstest]
fn strings_ring_at_the_key(#[values(0.1, 0.5, 1.0)] bright: f64) {
    let mut bench = Bench::new(EffectName::Resonators, RATE_HZ)
        .set(Resonators::COUNT, 1.0)
        .set(Resonators::BRIGHT, bright)
        .set(Resonators::DECAY_S, 1.5);
    let mut x = noise(3.0, RATE_HZ, 7);
    x[2_400..].fill(0.0);
    let y = bench.mono(&x);
    let late = &y[24_000..72_000];
    let best = (-60i32..=60)
        .map(|cents| {
            let hz = 220.0 * 2f64.powf(f64::from(cents) / 1200.0);
            (amplitude(late, hz, RATE_HZ), cents)
        })
        .max_by(|a, b| a.0.total_cmp(&b.0))
        .unwrap();
    assert!(best.1.abs() <= 3, "{} cents", best.1);
    let at = |from: usize| amplitude(&y[from..from + 9_600], 220.0, RATE_HZ);
    let fallen = db(at(20_000) / at(68_000));
    assert!((fallen - 40.0).abs() < 6.0, "{fallen} dB in a second");
}
