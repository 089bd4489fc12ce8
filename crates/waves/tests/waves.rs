//! Waves against closed forms, banks against their promises, and tables cut from recordings.
#![allow(clippy::disallowed_methods)] // references are reckoned in their own way

use std::f64::consts::{PI, TAU};

use rstest::rstest;
use zolvik_patch::document::Sample;
use zolvik_patch::wave::{Bars, MAX_CYCLES, MAX_TABLE_POINTS, OwnTable, Shape, Table, Wave};
use zolvik_waves::bank::{GUARD, LEVELS, points};
use zolvik_waves::bars::to_bars;
use zolvik_waves::cut::{CutError, Cycle, cut};
use zolvik_waves::cycles::{cycle_of, cycles, spectrum_at};
use zolvik_waves::recording::Played;
use zolvik_waves::{Bank, Clip, Recording, Spectrum, bank, key};

fn shape(shape: Shape) -> Spectrum {
    cycle_of(&Wave::Shape(shape), &[], 0)
}

#[rstest]
#[case(Shape::Triangle, |n: f64| if n % 2.0 == 1.0 { 8.0 / (PI * n).powi(2) } else { 0.0 })]
#[case(Shape::Saw, |n: f64| 2.0 / (PI * n))]
#[case(Shape::Square, |n: f64| if n % 2.0 == 1.0 { 4.0 / (PI * n) } else { 0.0 })]
// the half-wave rectified sine: 1/2, and 2 / (pi (n^2 - 1)) for even n
#[case(Shape::HalfSine, |n: f64| if n == 1.0 { 0.5 } else if n % 2.0 == 0.0 { 2.0 / (PI * (n * n - 1.0)) } else { 0.0 })]
fn shapes_have_the_harmonics_of_the_textbook(#[case] of: Shape, #[case] theory: fn(f64) -> f64) {
    let spectrum = shape(of);
    for n in 1..=400 {
        let error = (spectrum.amplitude(n) - theory(n as f64)).abs();
        assert!(error < 2e-6, "{of:?}, harmonic {n}: {error}");
    }
}

#[test]
fn a_cycle_and_its_spectrum_are_inverse() {
    let spectrum = Spectrum::of(|t| (TAU * 3.0 * t).sin() + 0.5 * (TAU * 5.0 * (t + 0.1)).cos());
    assert!((spectrum.sine[2] - 1.0).abs() < 1e-9 && spectrum.cosine[2].abs() < 1e-9);
    let cycle = spectrum.cycle(64, 512);
    for (i, x) in cycle.iter().enumerate() {
        let t = i as f64 / 64.0;
        let exact = (TAU * 3.0 * t).sin() + 0.5 * (TAU * 5.0 * (t + 0.1)).cos();
        assert!((x - exact).abs() < 1e-9, "point {i}: {x}, {exact}");
    }
}

#[test]
fn every_wave_is_full_but_not_fuller_and_none_is_like_another() {
    let mut seen: Vec<Vec<f64>> = vec![];
    for wave in Wave::all() {
        for cycle in 0..cycles(&wave, &[]) {
            let points = cycle_of(&wave, &[], cycle).cycle(1024, 512);
            let peak = points.iter().fold(0.0f64, |p, x| p.max(x.abs()));
            // plain forms swing between -1 and 1 and overshoot at their edges by Gibbs' 18 percent
            assert!((0.6..1.2).contains(&peak), "{wave:?} cycle {cycle}: {peak}");
            let mean = points.iter().sum::<f64>() / points.len() as f64;
            assert!(mean.abs() < 1e-9, "{wave:?} has a constant part");
        }
        let picture = spectrum_at(&wave, &[], 0.4, 0.3).cycle(256, 64);
        let near = |other: &Vec<f64>| {
            let off: f64 = other
                .iter()
                .zip(&picture)
                .map(|(a, b)| (a - b).powi(2))
                .sum();
            off < 0.5
        };
        assert!(!seen.iter().any(near), "{wave:?} is like another");
        seen.push(picture);
    }
    assert!(Table::ALL.len() >= 24);
    let mut families: Vec<&str> = Table::ALL.iter().map(|t| t.family()).collect();
    families.dedup();
    assert_eq!(families.len(), 8, "each family stands together");
}

#[test]
fn tables_change_from_cycle_to_cycle_but_never_abruptly() {
    for table in Table::ALL {
        let wave = Wave::Table(*table);
        let all: Vec<Vec<f64>> = (0..cycles(&wave, &[]))
            .map(|i| cycle_of(&wave, &[], i).cycle(256, 64))
            .collect();
        let distance = |a: &[f64], b: &[f64]| -> f64 {
            let off: f64 = a.iter().zip(b).map(|(a, b)| (a - b).powi(2)).sum();
            (off / 256.0).sqrt()
        };
        let steps: Vec<f64> = all.windows(2).map(|w| distance(&w[0], &w[1])).collect();
        let whole = distance(&all[0], &all[all.len() - 1]);
        assert!(whole > 0.1, "{table:?} ends as it began: {whole}");
        let most = steps.iter().fold(0.0f64, |a, b| a.max(*b));
        assert!(most < 0.6, "{table:?} jumps by {most}");
    }
}

#[test]
fn no_level_holds_more_harmonics_than_it_says() {
    let bank = bank(&Wave::Shape(Shape::Saw), &[]).unwrap();
    assert_eq!(bank.top, 0);
    for (level, most) in LEVELS.iter().copied().enumerate().skip(bank.top) {
        let n = points(level);
        let start = bank.start(level);
        let cycle = &bank.samples()[start + 1..start + 1 + n];
        let amplitude = |harmonic: usize| {
            let (mut c, mut s) = (0.0, 0.0);
            for (i, x) in cycle.iter().enumerate() {
                let angle = TAU * (harmonic * i % n) as f64 / n as f64;
                c += f64::from(*x) * angle.cos();
                s += f64::from(*x) * angle.sin();
            }
            2.0 * c.hypot(s) / n as f64
        };
        assert!((amplitude(most) * PI * most as f64 / 2.0 - 1.0).abs() < 1e-3);
        for above in most + 1..(most + 20).min(n / 2) {
            assert!(
                amplitude(above) < 1e-6,
                "level {level} has harmonic {above}"
            );
        }
        let ring = &bank.samples()[start..start + n + GUARD];
        assert_eq!(ring[0], ring[n], "the point before");
        assert_eq!(ring[n + 1], ring[1], "the point after");
        assert_eq!(ring[n + 2], ring[2]);
    }
}

#[test]
fn levels_never_reach_beyond_the_limit_and_waste_at_most_half_an_octave() {
    let bank = bank(&Wave::Shape(Shape::Saw), &[]).unwrap();
    for i in 0..400 {
        let hz = 20.0 * 2f64.powf(f64::from(i) / 40.0);
        let highest = LEVELS[bank.level_for(hz, 24_000.0)] as f64 * hz;
        assert!(highest <= 24_000.0 || LEVELS[bank.level_for(hz, 24_000.0)] == 1);
        if (50.0..4000.0).contains(&hz) {
            assert!(highest > 24_000.0 / 1.54, "{hz} Hz: only up to {highest}");
        }
    }
}

#[test]
fn banks_cross_threads_as_bytes_and_damaged_ones_are_refused() {
    let made = bank(&Wave::Table(Table::NineStops), &[]).unwrap();
    let bytes = made.bytes();
    assert_eq!(Bank::from_bytes(&bytes).as_ref(), Ok(&*made));
    for end in [0, 3, 16, bytes.len() - 1] {
        assert!(Bank::from_bytes(&bytes[..end]).is_err(), "{end} bytes");
    }
    for at in 8..16 {
        let mut damaged = bytes.clone();
        damaged[at] = 0xFF;
        assert!(Bank::from_bytes(&damaged).is_err(), "byte {at}");
    }
}

/// Once, round and round, with a loop that moves, and too long to be kept at twice its rate.
#[rstest]
#[case::once(false, false, 2_000, true)]
#[case::looped(true, false, 2_000, true)]
#[case::loop_moves(true, true, 2_000, true)]
#[case::long(true, false, 1_500_000, false)]
fn recordings_cross_threads_as_bytes_and_damaged_ones_are_refused(
    #[case] looped: bool,
    #[case] loop_moves: bool,
    #[case] frames: usize,
    #[case] is_doubled: bool,
) {
    let samples = (0..frames).map(|n| (n as f32 * 0.1).sin()).collect();
    let clip = Clip {
        samples,
        rate_hz: 44_100.0,
    };
    let sample = &Sample {
        looped,
        ..Sample::default()
    };
    let made = Recording::new(7, &clip, Played { sample, loop_moves });
    assert_eq!(made.doubled().is_some(), is_doubled);
    assert_eq!(made.moving.is_some(), loop_moves);
    let bytes = made.bytes();
    assert_eq!(Recording::from_bytes(&bytes).as_ref(), Ok(&made));
    for end in [0, 3, 16, 120, bytes.len() - 4] {
        assert!(Recording::from_bytes(&bytes[..end]).is_err(), "{end} bytes");
    }
}

/// What is kept at twice the rate has the tone at twice as many samples a turn, and nothing beside it.
#[test]
fn a_recording_at_twice_its_rate_is_the_same_sound() {
    let hz = 7_000.0;
    let turn = TAU * hz / 48_000.0;
    let samples = (0..9_600).map(|n| (turn * f64::from(n)).sin() as f32);
    let clip = Clip {
        samples: samples.collect(),
        rate_hz: 48_000.0,
    };
    let sample = &Sample::default();
    let played = Played {
        sample,
        loop_moves: false,
    };
    let made = Recording::new(8, &clip, played);
    let (_, lead) = made.version(0);
    let doubled = made.doubled().unwrap();
    for n in 2_000..16_000 {
        let there = f64::from(doubled[2 * lead as usize + n]);
        let expected = (turn * n as f64 / 2.0).sin();
        assert!(
            (there - expected).abs() < 2e-4,
            "{n}: {there} for {expected}"
        );
    }
}

#[test]
fn equal_waves_share_a_key_and_others_do_not() {
    let all: Vec<u64> = Wave::all().filter_map(|w| key(&w, &[])).collect();
    let mut unique = all.clone();
    unique.sort_unstable();
    unique.dedup();
    // the pulse is read from the saw's
    assert_eq!(unique.len(), all.len() - 1);
    assert_eq!(key(&Wave::default(), &[]), None, "the sine needs none");
    let mut bars = Bars::single();
    let one = key(&Wave::Bars(bars.clone()), &[]);
    assert_eq!(one, key(&Wave::Bars(bars.clone()), &[]));
    bars.set(2, 0.5, 0.0);
    assert_ne!(one, key(&Wave::Bars(bars), &[]));
}

#[test]
fn bars_taken_from_a_wave_sound_like_it() {
    for wave in [
        Wave::Shape(Shape::Triangle),
        Wave::Table(Table::FiveVowels),
        Wave::Table(Table::TinLid),
    ] {
        let taken = spectrum_at(&wave, &[], 0.6, 0.5);
        let drawn = cycle_of(&Wave::Bars(to_bars(&taken)), &[], 0);
        let scale =
            drawn.amplitude(1).max(drawn.amplitude(5)) / taken.amplitude(1).max(taken.amplitude(5));
        for n in 1..=64 {
            let error =
                |a: &[f64], b: &[f64]| (a[n - 1] * scale - b.get(n - 1).unwrap_or(&0.0)).abs();
            let most = error(&taken.cosine, &drawn.cosine).max(error(&taken.sine, &drawn.sine));
            assert!(most < 2e-3, "{wave:?}, harmonic {n}: {most} off");
        }
    }
}

const RATE_HZ: f64 = 48_000.0;

/// A tone whose second harmonic grows, at a frequency.
fn tone(hz: f64, seconds: f64) -> Vec<f32> {
    let count = (seconds * RATE_HZ) as usize;
    (0..count)
        .map(|i| {
            let angle = TAU * hz * i as f64 / RATE_HZ;
            let grows = i as f64 / count as f64;
            (0.5 * angle.sin() + 0.4 * grows * (2.0 * angle).sin()) as f32
        })
        .collect()
}

fn amplitude(table: &OwnTable, cycle: usize, n: usize) -> f64 {
    let own = OwnTable {
        id: zolvik_patch::wave::TableId(1),
        ..table.clone()
    };
    cycle_of(&Wave::Own(own.id), &[own], cycle).amplitude(n)
}

#[rstest]
#[case(60.0)]
#[case(187.3)]
#[case(911.0)]
fn a_tone_is_cut_at_its_pitch(#[case] hz: f64) {
    let table = cut(&tone(hz, 1.0), RATE_HZ, Cycle::Pitch, "tone").unwrap();
    let count = table.cycle_count();
    let expected = (hz as usize).min(MAX_CYCLES);
    assert!(
        count.abs_diff(expected) <= 3,
        "{count} cycles, {expected} expected"
    );
    let share = |cycle: usize| amplitude(&table, cycle, 2) / amplitude(&table, cycle, 1);
    assert!(
        share(1) < 0.06,
        "the second harmonic starts silent: {}",
        share(1)
    );
    let middle = share(count / 2);
    assert!((middle - 0.4).abs() < 0.03, "half way: {middle}");
    assert!((share(count - 2) - 0.8).abs() < 0.05);
    assert!(amplitude(&table, count / 2, 3) < 0.02, "and no third");
}

#[test]
fn fixed_lengths_cut_what_they_say_and_no_table_grows_beyond_its_size() {
    let samples: Vec<f32> = (0..2048 * 300)
        .map(|i| ((i % 2048) as f32 / 1024.0 - 1.0) * 0.3)
        .collect();
    let table = cut(&samples[..4 * 2048], RATE_HZ, Cycle::Samples(2048), " saw ").unwrap();
    assert_eq!((table.cycle_count(), table.harmonics), (4, 512));
    assert_eq!(table.name, "saw");
    let ratio = amplitude(&table, 0, 10) / amplitude(&table, 0, 1);
    assert!((ratio - 0.1).abs() < 1e-3);
    let long = cut(&samples, RATE_HZ, Cycle::Samples(2048), "long").unwrap();
    assert_eq!(long.cycle_count(), MAX_CYCLES);
    assert!(long.cycles.0.len() / 2 <= MAX_TABLE_POINTS);
}

fn noise() -> Vec<f32> {
    let mut dice = zolvik_patch::testing::Dice(1);
    (0..48_000).map(|_| dice.share() as f32 - 0.5).collect()
}

#[rstest]
#[case::silent(vec![0.0; 48_000], Cycle::Pitch, CutError::Silent)]
#[case::not_a_number({ let mut t = tone(200.0, 0.2); t[77] = f32::NAN; t }, Cycle::Pitch, CutError::NotANumber(77))]
#[case::ten_minutes(vec![0.1; 600 * 48_000], Cycle::Samples(2048), CutError::Long { actual_s: 600.0 })]
#[case::too_short(vec![0.1; 100], Cycle::Samples(2048), CutError::Short { actual: 100, cycle: 2048 })]
#[case::length(vec![0.1; 100], Cycle::Samples(0), CutError::Length { min: 8, max: 8192, actual: 0 })]
#[case::noise(noise(), Cycle::Pitch, CutError::NoPitch)]
#[case::one_sample(vec![0.5], Cycle::Pitch, CutError::NoPitch)]
fn faulty_recordings_are_refused_with_what_to_do(
    #[case] samples: Vec<f32>,
    #[case] how: Cycle,
    #[case] expected: CutError,
) {
    assert_eq!(cut(&samples, RATE_HZ, how, "x"), Err(expected));
}
