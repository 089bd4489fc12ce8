//! Delay, chorus, flanger, shifter: times and pitches.

use rstest::rstest;
use zolvik_patch::finish::{Chorus, Delay, EffectName, Flanger, Shifter};

use crate::bench::{Bench, amplitude, db, noise, rms, sine};

const RATE_HZ: f64 = 48_000.0;

#[rstest]
#[case(0, 0.25, 12_000)]
#[case(0, 0.0333, 1_598)]
#[case(1, 0.75, 18_000)]
#[case(1, 0.5, 12_000)]
fn echoes_are_exact_to_the_sample(#[case] clock: usize, #[case] time: f64, #[case] frames: usize) {
    let mut bench = Bench::new(EffectName::Delay, RATE_HZ)
        .choose(Delay::CLOCK, clock)
        .set(Delay::LOW_CUT_HZ, 20.0)
        .set(Delay::HIGH_CUT_HZ, 20_000.0)
        .set(Delay::FEEDBACK, 0.5);
    let ids = match clock {
        0 => [Delay::LEFT_S, Delay::RIGHT_S],
        _ => [Delay::LEFT_BEATS, Delay::RIGHT_BEATS],
    };
    for id in ids {
        bench = bench.set(id, time);
    }
    let mut x = vec![0.0; 96_000];
    x[0] = 1.0;
    let y = bench.mono(&x);
    let highest = |from: usize, to: usize| {
        (from..to)
            .max_by(|a, b| y[*a].abs().total_cmp(&y[*b].abs()))
            .unwrap()
    };
    assert_eq!(highest(1, frames + frames / 2), frames);
    assert_eq!(
        highest(frames + frames / 2, 2 * frames + frames / 2),
        2 * frames
    );
}

#[test]
fn ping_pong_goes_from_side_to_side() {
    let mut bench = Bench::new(EffectName::Delay, RATE_HZ)
        .choose(Delay::CLOCK, 0)
        .choose(Delay::WAY, 1)
        .set(Delay::LEFT_S, 0.1)
        .set(Delay::RIGHT_S, 0.1)
        .set(Delay::FEEDBACK, 0.7);
    let mut x = vec![0.0; 48_000];
    x[0] = 1.0;
    let [l, r] = bench.run(&x, &x);
    let at = |y: &[f32], n: usize| rms(&y[n * 4_800 - 40..n * 4_800 + 400]);
    assert!(at(&l, 1) > 50.0 * at(&r, 1));
    assert!(at(&r, 2) > 50.0 * at(&l, 2));
    assert!(at(&l, 3) > 50.0 * at(&r, 3));
}

/// The time moves by a tenth of a second: nothing is heard that does not belong.
#[rstest]
fn a_moved_delay_is_clean(#[values(0.35, 0.31, 0.1)] to_s: f64) {
    let mut bench = Bench::new(EffectName::Delay, RATE_HZ)
        .choose(Delay::CLOCK, 0)
        .set(Delay::LEFT_S, 0.3)
        .set(Delay::RIGHT_S, 0.3)
        .set(Delay::FEEDBACK, 0.0);
    let x = sine(440.0, 0.5, 2.0, RATE_HZ);
    let [y, _] = bench.run_with(
        &x,
        &x,
        |effect, at| {
            if at == 48_000 {
                for id in [Delay::LEFT_S, Delay::RIGHT_S] {
                    effect.value_slot(id).unwrap().write(to_s);
                }
            }
        },
        |_| 0.0,
    );
    // half a second around the move; the fade itself lies within 200 Hz of the tone
    let around = &y[36_000..60_000];
    for hz in [60.0, 150.0, 1_000.0, 2_500.0, 6_000.0, 12_000.0] {
        let left = db(amplitude(around, hz, RATE_HZ) / 0.5);
        assert!(left < -70.0, "{hz} Hz: {left} dB");
    }
}

#[test]
fn all_of_it_again_with_drive_stays_bounded() {
    let mut bench = Bench::new(EffectName::Delay, RATE_HZ)
        .choose(Delay::CLOCK, 0)
        .set(Delay::LEFT_S, 0.05)
        .set(Delay::RIGHT_S, 0.07)
        .set(Delay::FEEDBACK, 1.0)
        .set(Delay::DRIVE_DB, 24.0);
    let x = noise(20.0, RATE_HZ, 5);
    let y = bench.mono(&x);
    assert!(y.iter().all(|y| y.is_finite() && y.abs() < 40.0));
}

#[test]
fn shifted_echoes_rise() {
    let mut bench = Bench::new(EffectName::Delay, RATE_HZ)
        .choose(Delay::CLOCK, 0)
        .set(Delay::LEFT_S, 0.4)
        .set(Delay::RIGHT_S, 0.4)
        .set(Delay::FEEDBACK, 0.9)
        .set(Delay::SHIFT_ST, 12.0);
    let mut x = sine(300.0, 0.5, 2.0, RATE_HZ);
    x[12_000..].fill(0.0);
    let y = bench.mono(&x);
    let part = |n: usize| &y[n * 19_200 + 3_000..n * 19_200 + 11_000];
    for (n, hz) in [(1, 600.0), (2, 1_200.0)] {
        let own = amplitude(part(n), hz, RATE_HZ);
        let below = amplitude(part(n), hz / 2.0, RATE_HZ);
        assert!(own > 5.0 * below, "echo {n}: {own} {below}");
    }
}

#[rstest]
fn pitches_are_shifted_by_what_is_set(
    #[values(-12.0, -5.0, 7.0, 12.0)] semitones: f64,
    #[values(220.0, 1_000.0)] hz: f64,
) {
    let mut bench = Bench::new(EffectName::Shifter, RATE_HZ).set(Shifter::SEMITONES, semitones);
    let y = bench.mono(&sine(hz, 0.5, 2.0, RATE_HZ));
    let late = &y[48_000..];
    let should = hz * 2f64.powf(semitones / 12.0);
    // most of what is heard lies within 15 Hz of it
    let near: f64 = (-15..=15)
        .map(|off| amplitude(late, should + f64::from(off), RATE_HZ).powi(2))
        .sum();
    let far = amplitude(late, hz, RATE_HZ);
    let level = db(rms(late) / (0.5 / 2f64.sqrt()));
    println!(
        "{semitones} {hz}: {:.2} far {:.1}, level {level:.1}",
        near.sqrt(),
        db(far / 0.5)
    );
    assert!(near.sqrt() > 0.35, "{}", near.sqrt());
    assert!(db(far / 0.5) < -26.0, "{}", db(far / 0.5));
    assert!(level.abs() < 2.0, "{level}");
}

#[rstest]
fn frequencies_are_moved_by_what_is_set(
    #[values(-150.0, 37.0, 500.0)] by_hz: f64,
    #[values(300.0, 2_000.0, 9_000.0)] hz: f64,
) {
    let mut bench = Bench::new(EffectName::Shifter, RATE_HZ)
        .choose(Shifter::WHAT, 1)
        .set(Shifter::HERTZ, by_hz);
    let y = bench.mono(&sine(hz, 0.5, 1.0, RATE_HZ));
    let late = &y[24_000..];
    let own = db(amplitude(late, hz + by_hz, RATE_HZ) / 0.5);
    let mirrored = db(amplitude(late, hz - by_hz, RATE_HZ) / 0.5);
    let still = db(amplitude(late, hz, RATE_HZ) / 0.5);
    assert!(own.abs() < 0.2, "{own}");
    assert!(mirrored < -44.0, "{mirrored}");
    assert!(still < -60.0, "{still}");
}

/// Copies drift by what is set: the tone's frequency swings by depth times rate.
#[test]
fn a_chorus_thickens_and_stays_as_loud() {
    let mut bench = Bench::new(EffectName::Chorus, RATE_HZ)
        .set(Chorus::VOICES, 6.0)
        .set(Chorus::DEPTH_S, 0.004);
    let x = noise(2.0, RATE_HZ, 11);
    let [l, r] = bench.run(&x, &x);
    let level = db(rms(&l[24_000..]) / rms(&x));
    assert!(level.abs() < 2.5, "{level} dB");
    // both sides differ
    let both: f64 = l.iter().zip(&r).map(|(a, b)| f64::from(a * b)).sum();
    let like = both / (rms(&l) * rms(&r) * l.len() as f64);
    assert!(like < 0.9, "{like}");
}

/// A comb that stands: peaks at multiples of one over the delay.
#[test]
fn a_flanger_that_stands_is_a_comb() {
    let mut bench = Bench::new(EffectName::Flanger, RATE_HZ)
        .set(Flanger::DEPTH_S, 0.0)
        .set(Flanger::DELAY_S, 0.001)
        .set(Flanger::FEEDBACK, 0.8);
    let high = bench.gain_db(2_000.0, 0.2);
    let mut bench = Bench::new(EffectName::Flanger, RATE_HZ)
        .set(Flanger::DEPTH_S, 0.0)
        .set(Flanger::DELAY_S, 0.001)
        .set(Flanger::FEEDBACK, 0.8);
    let low = bench.gain_db(2_500.0, 0.2);
    // 1 / (1 - 0.8) over 1 / (1 + 0.8)
    assert!((high - low - 19.1).abs() < 1.0, "{high} {low}");
}

/// What lies below the cut goes past: mixed with what came, a bass keeps its fundamental, at whatever moment of the sweep.
#[rstest]
#[case::chorus(EffectName::Chorus)]
#[case::flanger(EffectName::Flanger)]
fn a_bass_keeps_its_fundamental(#[case] kind: EffectName) {
    const LOW_F_HZ: f64 = 43.654;
    let x = sine(LOW_F_HZ, 0.5, 6.0, RATE_HZ);
    let y = Bench::new(kind, RATE_HZ).mono(&x);
    for mix in [0.35, 0.5, 1.0] {
        let mixed: Vec<f32> = x
            .iter()
            .zip(&y)
            .map(|(x, y)| x + (y - x) * mix as f32)
            .collect();
        for second in 1..6 {
            let from = second * RATE_HZ as usize;
            let db = db(amplitude(&mixed[from..from + 22_000], LOW_F_HZ, RATE_HZ) / 0.5);
            assert!(
                db.abs() < 1.5,
                "{kind:?} mixed {mix}: {db} dB in second {second}"
            );
        }
    }
}

/// At a rate of nothing it stands still: the same tone comes out the same for good.
#[rstest]
#[case::chorus(EffectName::Chorus, Chorus::RATE_HZ)]
#[case::flanger(EffectName::Flanger, Flanger::RATE_HZ)]
#[case::phaser(EffectName::Phaser, zolvik_patch::finish::Phaser::RATE_HZ)]
fn at_nothing_a_rate_stands_still(
    #[case] kind: EffectName,
    #[case] rate: zolvik_patch::param::ParamId,
) {
    let level = |rate_hz: f64, from: usize| {
        let mut bench = Bench::new(kind, RATE_HZ).set(rate, rate_hz);
        let [left, _] = {
            let x = sine(1_000.0, 0.5, 3.0, RATE_HZ);
            bench.run(&x, &x)
        };
        amplitude(&left[from..from + 4_800], 1_000.0, RATE_HZ)
    };
    let (early, late) = (level(0.0, 48_000), level(0.0, 120_000));
    assert!((early / late - 1.0).abs() < 1e-3, "{early} and {late}");
    assert!(
        (level(2.0, 48_000) / level(2.0, 54_000) - 1.0).abs() > 1e-2,
        "else it moves"
    );
}
