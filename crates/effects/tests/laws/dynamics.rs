//! Compressors, limiter, ducker: levels and times.

use rstest::rstest;
use zolvik_patch::finish::{Compressor, Ducker, EffectName, Limiter, ThreeBand, Transients};

use crate::bench::{Bench, amplitude, db, noise, peak, rms, sine};

const RATE_HZ: f64 = 48_000.0;

#[rstest]
fn the_static_curve_is_that_of_theory(
    #[values(-40.0, -21.0, -18.0, -15.0, -6.0, 0.0)] level_db: f64,
    #[values((2.0, 0.0), (4.0, 6.0), (20.0, 12.0))] (ratio, knee_db): (f64, f64),
    #[values(0, 1)] detector: usize,
) {
    let mut bench = Bench::new(EffectName::Compressor, RATE_HZ)
        .choose(Compressor::DETECTOR, detector)
        .set(Compressor::RATIO, ratio)
        .set(Compressor::KNEE_DB, knee_db)
        .set(Compressor::ATTACK_S, 0.005);
    let gain = bench.gain_db(1_000.0, 10f64.powf(level_db / 20.0));
    let over: f64 = level_db + 18.0;
    let slope = 1.0 / ratio - 1.0;
    let should = if 2.0 * over <= -knee_db {
        0.0
    } else if 2.0 * over.abs() < knee_db {
        slope * (over + knee_db / 2.0).powi(2) / (2.0 * knee_db)
    } else {
        slope * over
    };
    assert!(
        (gain - should).abs() < 0.1,
        "{level_db} dB: {gain}, {should}"
    );
}

#[rstest]
#[case(0.001, 0.1)]
#[case(0.01, 0.15)]
#[case(0.05, 0.5)]
fn attack_and_release_take_the_time_that_is_set(#[case] attack_s: f64, #[case] release_s: f64) {
    let mut bench = Bench::new(EffectName::Compressor, RATE_HZ)
        .set(Compressor::RATIO, 20.0)
        .set(Compressor::KNEE_DB, 0.0)
        .set(Compressor::ATTACK_S, attack_s)
        .set(Compressor::RELEASE_S, release_s);
    let mut x = sine(2_000.0, 0.01, 4.0, RATE_HZ);
    let loud = sine(2_000.0, 0.9, 4.0, RATE_HZ);
    x[48_000..96_000].copy_from_slice(&loud[48_000..96_000]);
    bench.mono(&x);
    let gains = bench.gains.clone();
    let low = gains[5_900];
    let down = 3_000
        + gains[3_000..]
            .iter()
            .position(|g| *g <= low * 0.632)
            .unwrap();
    let up = 6_000
        + gains[6_000..]
            .iter()
            .position(|g| *g >= low * (1.0 - 0.632))
            .unwrap();
    let seconds = |blocks: usize| blocks as f64 * 16.0 / RATE_HZ;
    let (down_s, up_s) = (seconds(down - 3_000 + 1), seconds(up - 6_000 + 1));
    let near = |is: f64, should: f64| (is - should).abs() < 0.05 * should + 0.000_5;
    assert!(near(down_s, attack_s), "attack {down_s}");
    assert!(near(up_s, release_s), "release {up_s}");
}

#[test]
fn look_ahead_is_the_delay_it_says() {
    let mut bench = Bench::new(EffectName::Compressor, RATE_HZ)
        .set(Compressor::AHEAD_S, 0.005)
        .set(Compressor::RATIO, 1.0);
    assert_eq!(bench.latency(), 240);
    let mut x = vec![0.0; 960];
    x[0] = 0.5;
    let y = bench.mono(&x);
    assert!((y[240] - 0.5).abs() < 1e-6);
}

/// The beat's kick presses where it falls, whatever the sound itself does.
#[test]
fn the_kick_presses_what_listens_to_it() {
    let mut bench = Bench::new(EffectName::Compressor, RATE_HZ)
        .choose(Compressor::SIDE, 1)
        .set(Compressor::RATIO, 10.0)
        .set(Compressor::THRESHOLD_DB, -30.0);
    let x = sine(300.0, 0.02, 1.0, RATE_HZ);
    bench.run_with(&x, &x, |_, _| {}, |_| 0.0);
    assert!(
        bench.gains.iter().all(|g| *g == 0.0),
        "no beat, no pressing"
    );
    let kick = |frame: usize| match frame {
        9_600.. => (-((frame - 9_600) as f32) / 2_880.0).exp(),
        _ => 0.0,
    };
    bench.run_with(&x, &x, |_, _| {}, kick);
    let lowest = bench.gains.iter().fold(0.0f32, |a, g| a.min(*g));
    assert!(lowest < -15.0, "{lowest} dB");
    assert!(bench.gains[590] == 0.0);
}

#[rstest]
fn three_bands_at_rest_are_flat(#[values(30.0, 120.0, 500.0, 2_500.0, 9_000.0)] hz: f64) {
    let mut bench = Bench::new(EffectName::ThreeBand, RATE_HZ).set(ThreeBand::AMOUNT, 0.0);
    let gain = bench.gain_db(hz, 0.3);
    assert!(gain.abs() < 0.1, "{hz} Hz: {gain} dB");
}

#[test]
fn three_bands_lift_what_is_quiet_and_press_what_is_loud() {
    let gain = |level: f64, up: f64, down: f64| {
        let mut bench = Bench::new(EffectName::ThreeBand, RATE_HZ)
            .set(ThreeBand::AMOUNT, 1.0)
            .set(ThreeBand::MID_UP, up)
            .set(ThreeBand::MID_DOWN, down);
        bench.gain_db(700.0, level)
    };
    assert!(gain(0.9, 1.0, 1.0) < -12.0);
    assert!(gain(0.9, 1.0, 0.0).abs() < 0.3);
    assert!(gain(0.005, 1.0, 1.0) > 6.0);
    assert!(gain(0.005, 0.0, 1.0).abs() < 0.3);
}

/// Highest value between samples, by a windowed sine of its own.
fn true_peak(x: &[f32]) -> f64 {
    let mut most: f64 = 0.0;
    for i in 40..x.len() - 40 {
        for part in 0..8 {
            let at = f64::from(part) / 8.0;
            let mut sum = 0.0;
            for n in -32..=32i32 {
                let t = at - f64::from(n);
                let sinc = if t.abs() < 1e-12 {
                    1.0
                } else {
                    (std::f64::consts::PI * t).sin() / (std::f64::consts::PI * t)
                };
                let window = 0.5 + 0.5 * (std::f64::consts::PI * t / 33.0).cos();
                sum += f64::from(x[(i as i32 + n) as usize]) * sinc * window;
            }
            most = most.max(sum.abs());
        }
    }
    most
}

#[rstest]
fn no_true_peak_is_above_the_ceiling(#[values(0, 1, 2, 3)] which: usize) {
    let x: Vec<f32> = match which {
        0 => noise(0.25, RATE_HZ, 3).iter().map(|x| x * 3.0).collect(),
        // a quarter of the rate, between its samples: 3 dB above all of them
        1 => (0..9_600)
            .map(|i| 2.0 * (std::f32::consts::FRAC_PI_2 * i as f32 + 0.785).sin())
            .collect(),
        2 => {
            let mut x = sine(90.0, 0.2, 0.25, RATE_HZ);
            for at in [1_000, 3_333, 3_340, 7_001] {
                x[at] += 4.0;
            }
            x
        }
        _ => sine(997.0, 4.0, 0.25, RATE_HZ),
    };
    let mut bench = Bench::new(EffectName::Limiter, RATE_HZ).set(Limiter::CEILING_DB, -3.0);
    let y = bench.mono(&x);
    let over = db(true_peak(&y)) + 3.0;
    println!("{which}: {over:.3} dB over");
    assert!(over < 0.1, "{over} dB over");
    // and no more is taken than needs be
    assert!(over > -1.5, "{over} dB");
}

#[test]
fn a_limiter_lets_what_is_below_through() {
    let mut bench = Bench::new(EffectName::Limiter, RATE_HZ);
    let x = sine(440.0, 0.5, 0.25, RATE_HZ);
    let late = bench.latency();
    let y = bench.mono(&x);
    let off = (late..9_000).map(|i| (y[i] - x[i - late]).abs());
    assert!(off.fold(0.0, f32::max) < 1e-6);
}

#[test]
fn a_ducker_steps_back_with_the_kick_and_comes_back() {
    let mut bench = Bench::new(EffectName::Ducker, RATE_HZ).set(Ducker::DEPTH_DB, 12.0);
    let x = sine(400.0, 0.5, 2.0, RATE_HZ);
    let kick = |frame: usize| match frame {
        24_000.. => (-((frame - 24_000) as f32) / 2_880.0).exp(),
        _ => 0.0,
    };
    let [y, _] = bench.run_with(&x, &x, |_, _| {}, kick);
    let level = |from: usize| db(rms(&y[from..from + 1_200]) / rms(&x[..4_800]));
    assert!(level(20_000).abs() < 0.1);
    assert!((level(26_400) + 12.0).abs() < 1.0, "{}", level(26_400));
    assert!(level(90_000).abs() < 0.3, "{}", level(90_000));
}

/// By a shape the level is where the shape is, at the beat.
#[test]
fn a_ducker_follows_its_shape_in_time() {
    let mut bench = Bench::new(EffectName::Ducker, RATE_HZ)
        .choose(Ducker::BY, 1)
        .set(Ducker::DEPTH_DB, 20.0)
        .set(Ducker::CYCLE_BEATS, 1.0);
    let x = vec![0.5; 96_000];
    let y = bench.mono(&x);
    // 120 beats a minute: 24,000 frames a beat
    for beat in 0..4 {
        let begin = db(f64::from(y[beat * 24_000 + 480]) / 0.5);
        let end = db(f64::from(y[beat * 24_000 + 22_000]) / 0.5);
        assert!(begin < -15.0, "{begin}");
        assert!(end.abs() < 0.2, "{end}");
    }
}

#[test]
fn attacks_are_made_harder_and_softer() {
    let hit = |i: usize| {
        let t = (i % 24_000) as f32 / 48_000.0;
        (-t * 6.0).exp() * (t * 2_000.0).sin()
    };
    let x: Vec<f32> = (0..96_000).map(hit).collect();
    let shaped = |attack: f64, sustain: f64| {
        let mut bench = Bench::new(EffectName::Transients, RATE_HZ)
            .set(Transients::ATTACK_DB, attack)
            .set(Transients::SUSTAIN_DB, sustain);
        bench.mono(&x)
    };
    let part = |y: &[f32], from: usize, to: usize| db(rms(&y[72_000 + from..72_000 + to]));
    let plain = shaped(0.0, 0.0);
    assert_eq!(plain, x);
    let hard = shaped(9.0, 0.0);
    assert!(part(&hard, 100, 900) > part(&x, 100, 900) + 3.0);
    let long = shaped(0.0, 9.0);
    assert!(part(&long, 12_000, 20_000) > part(&x, 12_000, 20_000) + 3.0);
    assert!(peak(&hard) > peak(&x));
    let _ = amplitude(&x, 100.0, RATE_HZ);
}
