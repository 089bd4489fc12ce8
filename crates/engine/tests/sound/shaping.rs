//! Bent cycles, spread harmonics, coloured noise.

use core::f64::consts::TAU;

use rstest::rstest;
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::document::{
    CycleShape, Harmonics, KindName, Operator, Quality, Unit, UnitId, UnitKind,
};
use zolvik_patch::movement::SourceName;
use zolvik_patch::param::ParamId;
use zolvik_patch::wave::{Bars, Shape, Table, Wave};

use crate::support::*;
use crate::waves::{KEY_84_HZ, SPAN, folded_db, plain, rms, settled};

const SINE: Wave = Wave::Shape(Shape::Sine);
const SAW: Wave = Wave::Shape(Shape::Saw);

fn bent(wave: Wave, hz: f64, cycle: CycleShape) -> Patch {
    let mut patch = plain(wave, hz);
    patch.units[0].oscillator_mut().unwrap().cycle = cycle;
    patch
}

fn spread(wave: Wave, hz: f64, harmonics: Harmonics) -> Patch {
    let mut patch = plain(wave, hz);
    patch.units[0].oscillator_mut().unwrap().harmonics = harmonics;
    patch
}

fn cycle(lean: f64, repeat: f64, fold: f64, steps: f64) -> CycleShape {
    CycleShape {
        lean,
        repeat,
        fold,
        steps,
        levels: 4.0,
    }
}

const LEAN: [f64; 4] = [1.0, 1.0, 0.0, 0.0];
const LATE: [f64; 4] = [-1.0, 1.0, 0.0, 0.0];
const REPEAT: [f64; 4] = [0.0, 3.7, 0.0, 0.0];
const FOLD: [f64; 4] = [0.0, 1.0, 1.0, 0.0];
const STEPS: [f64; 4] = [0.0, 1.0, 0.0, 1.0];
const ALL: [f64; 4] = [0.6, 2.5, 0.5, 1.0];

#[rstest]
fn bent_sines_do_not_fold_back(
    #[values(LEAN, LATE, REPEAT, FOLD, STEPS, ALL)] values: [f64; 4],
    #[values((Quality::X1, -60.0), (Quality::X4, -90.0))] at: (Quality, f64),
) {
    let [lean, repeat, fold, steps] = values;
    let (quality, bar_db) = at;
    let mut patch = bent(SINE, KEY_84_HZ, cycle(lean, repeat, fold, steps));
    patch.voice.quality = quality;
    let db = folded_db(&settled(&patch, SPAN), KEY_84_HZ);
    assert!(db < bar_db, "{values:?} at {quality:?}: {db:.1} dB");
}

#[test]
fn at_rest_nothing_changes_whatever_waits_to_be_used() {
    for wave in [SINE, SAW, Wave::Table(Table::Throat)] {
        let untouched = settled(&plain(wave.clone(), 110.0), 4800);
        let plainly = settled(&plain(wave.clone(), 110.0), 48_000);
        // the number of steps is of no account while nothing is drawn to them
        let waiting = CycleShape {
            levels: 13.0,
            ..CycleShape::default()
        };
        assert!(untouched == settled(&bent(wave.clone(), 110.0, waiting), 4800));
        // bent and led back while the note sounds, it is the plain wave again
        let mut engine = engine(&bent(wave.clone(), 110.0, cycle(0.7, 1.0, 0.6, 0.5)));
        engine.note_on(60, 127);
        let bent = take(&mut engine, 4800).0;
        assert!(bent[480..] != untouched[480..], "it was bent before");
        engine.take(&zolvik_engine::program::prepare(
            &plain(wave, 110.0),
            &Default::default(),
        ));
        take(&mut engine, 9600);
        let back = take(&mut engine, 48_000).0;
        for n in 1..=6 {
            let hz = 110.0 * f64::from(n);
            let (is, was) = (partial(&back, hz).0, partial(&plainly, hz).0);
            assert!((is - was).abs() < 1e-4, "harmonic {n}: {is}, was {was}");
        }
    }
}

#[test]
fn each_way_of_bending_makes_the_partials_its_formula_says() {
    let hz = 110.0;
    let partials = |values: CycleShape| -> Vec<f64> {
        let samples = settled(&bent(SINE, hz, values), 48_000);
        (1..=9)
            .map(|n| partial(&samples, hz * f64::from(n)).0)
            .collect()
    };
    // sin(x + k sin x): J_(n-1)(k) - J_(-n-1)(k)
    let k = 0.95 * 0.8;
    let leaned = partials(cycle(0.8, 1.0, 0.0, 0.0));
    for n in 1..=6 {
        let theory = libm::jn(n - 1, k) - libm::jn(-n - 1, k);
        let heard = leaned[n as usize - 1];
        assert!(
            (heard - theory.abs()).abs() < 1e-4,
            "lean {n}: {heard} {theory}"
        );
    }
    // sin(g sin x): 2 J_n(g) for odd n, brought back to full level below g = pi/2
    let folded = partials(cycle(0.0, 1.0, 0.5, 0.0));
    for n in [1, 3, 5, 7] {
        let theory = 2.0 * libm::jn(n, 4.0).abs();
        let heard = folded[n as usize - 1];
        assert!((heard - theory).abs() < 1e-4, "fold {n}: {heard} {theory}");
    }
    // a whole number of repeats is that harmonic alone
    let thrice = partials(cycle(0.0, 3.0, 0.0, 0.0));
    assert!((thrice[2] - 1.0).abs() < 1e-4 && thrice[0] < 1e-4 && thrice[1] < 1e-4);
    // sin x - sin(2 pi 4 sin x) / (2 pi 4)
    let z = std::f64::consts::TAU * 4.0;
    let stepped = partials(cycle(0.0, 1.0, 0.0, 1.0));
    for n in [3, 5, 7, 9] {
        let theory = (2.0 * libm::jn(n, z) / z).abs();
        let heard = stepped[n as usize - 1];
        assert!((heard - theory).abs() < 1e-4, "steps {n}: {heard} {theory}");
    }
}

#[test]
fn bending_moves_without_a_click_while_a_note_sounds() {
    let still = bent(SAW, 110.0, cycle(0.0, 1.0, 0.0, 0.0));
    let mut engine = engine(&still);
    engine.note_on(60, 127);
    take(&mut engine, 4800);
    let mut all = vec![];
    for i in 0..=60 {
        let share = f64::from(i) / 60.0;
        let next = bent(SINE, 110.0, cycle(share, 1.0 + 4.0 * share, share, share));
        let prepared = zolvik_engine::program::prepare(&next, &Default::default());
        engine.take(&prepared);
        all.extend(take(&mut engine, 800).0);
    }
    // the last state by itself is as rough as the way there
    let end = settled(&bent(SINE, 110.0, cycle(1.0, 5.0, 1.0, 1.0)), 48_000);
    let (moved, rest) = (roughness(&all[4800..]), roughness(&end));
    assert!(moved < 1.6 * rest, "{moved} while moving, {rest} at rest");
}

fn harmonics(of: impl FnOnce(&mut Harmonics)) -> Harmonics {
    let mut harmonics = Harmonics::default();
    of(&mut harmonics);
    harmonics
}

#[test]
fn partials_lie_where_spacing_and_shift_put_them() {
    let hz = 220.0;
    let own = settled(&plain(SAW, hz), 48_000);
    let level = |samples: &[f32], times: f64| partial(samples, hz * times).0;
    for (spacing, shift) in [(1.3, 0.0), (1.0, 0.5), (0.77, 1.21), (2.0, 0.0)] {
        let patch = spread(
            SAW,
            hz,
            harmonics(|h| (h.spacing, h.shift) = (spacing, shift)),
        );
        let heard = settled(&patch, 48_000);
        for n in 0..20 {
            let at = 1.0 + shift + f64::from(n) * spacing;
            let (is, was) = (level(&heard, at), level(&own, f64::from(n) + 1.0));
            let db = 20.0 * (is / was).log10();
            assert!(
                db.abs() < 0.05,
                "spacing {spacing}, shift {shift}, partial {n}: {db:.2} dB"
            );
        }
    }
}

#[test]
fn tilt_balance_and_cut_weigh_the_harmonics() {
    let hz = 220.0;
    let own = settled(&plain(SAW, hz), 48_000);
    let change = |h: Harmonics, n: i32| {
        let heard = settled(&spread(SAW, hz, h), 48_000);
        let at = hz * f64::from(n);
        20.0 * (partial(&heard, at).0.max(1e-9) / partial(&own, at).0).log10()
    };
    // an octave of harmonics is worth the tilt, whatever the overall level
    for tilt_db in [-9.0, -3.0, 4.0] {
        let tilted = |n| change(harmonics(|h| h.tilt_db = tilt_db), n);
        let octave = tilted(8) - tilted(4);
        assert!((octave - tilt_db).abs() < 0.05, "{octave} for {tilt_db}");
    }
    let odd = harmonics(|h| h.balance = -1.0);
    assert!(change(odd, 1).abs() < 0.05 && change(odd, 2) < -90.0 && change(odd, 4) < -90.0);
    let even = harmonics(|h| h.balance = 1.0);
    assert!(change(even, 1) < -90.0 && change(even, 2).abs() < 0.05);
    let half = harmonics(|h| h.balance = 0.5);
    assert!((change(half, 3) + 6.02).abs() < 0.05);
    let band = harmonics(|h| (h.low, h.high) = (3.0, 6.0));
    assert!(change(band, 2) < -90.0 && change(band, 7) < -90.0);
    assert!(change(band, 3).abs() < 0.05 && change(band, 6).abs() < 0.05);
}

#[rstest]
fn spread_harmonics_never_fold_back(#[values(Quality::X1, Quality::X4)] quality: Quality) {
    // whole numbers, so that every partial is a multiple
    let mut patch = spread(
        SAW,
        KEY_84_HZ,
        harmonics(|h| (h.spacing, h.shift, h.tilt_db) = (3.0, 2.0, 6.0)),
    );
    patch.voice.quality = quality;
    let db = folded_db(&settled(&patch, SPAN), KEY_84_HZ);
    assert!(db < -90.0, "{db:.1} dB");
}

#[test]
fn a_spread_wave_is_modulated_like_any_other() {
    // a sine as partials is still that sine: the sidebands are those of the plain one
    let mut one = spread(SINE, 880.0, harmonics(|h| h.tilt_db = -3.0));
    let mut other = plain(SINE, 880.0);
    for patch in [&mut one, &mut other] {
        let mut modulator = plain(SINE, 110.0).units.remove(0);
        modulator.id = UnitId(2);
        patch.units.push(modulator);
        connect(patch, 2, index(1, 2.0));
    }
    let (one, other) = (settled(&one, 48_000), settled(&other, 48_000));
    for n in -5..=5 {
        let hz = 880.0 + 110.0 * f64::from(n);
        let (a, b) = (partial(&one, hz).0, partial(&other, hz).0);
        assert!((a - b).abs() < 1e-4, "sideband {n}: {a} {b}");
    }
}

/// Frequencies whose phase steps are whole numbers, so that nothing drifts from the formula.
const BOUND_HZ: f64 = RATE_HZ / 512.0;
const MOVER_HZ: f64 = 0.75 * BOUND_HZ;

/// The first forty harmonics of a saw, `tilt_db` an octave, each moved in phase by a sine: the plain formula.
fn forty(frames: core::ops::Range<usize>, tilt_db: f64, index_rad: f64) -> Vec<f64> {
    let saw = zolvik_waves::cycles::cycle_of(&SAW, &[], 0);
    let tilt = tilt_db / (20.0 * 2f64.log10());
    let sample = |i: usize| -> f64 {
        let t = i as f64 / RATE_HZ;
        let angle = TAU * (BOUND_HZ * t).fract() + index_rad * (TAU * (MOVER_HZ * t).fract()).sin();
        let harmonic = |n: usize| {
            let (s, c) = (n as f64 * angle).sin_cos();
            (n as f64).powf(tilt) * (saw.cosine[n - 1] * c + saw.sine[n - 1] * s)
        };
        (1..=40).map(harmonic).sum()
    };
    frames.map(sample).collect()
}

#[rstest]
#[case::one_by_one(96..900, 0.0, -100.0)]
#[case::as_a_cycle(24_000..28_800, 0.0, -100.0)]
#[case::one_by_one_and_moved(96..900, 0.8, -95.0)]
#[case::as_a_cycle_and_moved(24_000..28_800, 0.8, -95.0)]
fn partials_are_those_of_the_formula_also_where_they_were_summed_to_a_cycle(
    #[case] frames: core::ops::Range<usize>,
    #[case] index_rad: f64,
    #[case] bar_db: f64,
) {
    let mut patch = spread(
        SAW,
        BOUND_HZ,
        harmonics(|h| (h.high, h.tilt_db) = (40.0, -4.0)),
    );
    if index_rad > 0.0 {
        let mut modulator = plain(SINE, MOVER_HZ).units.remove(0);
        modulator.id = UnitId(2);
        patch.units.push(modulator);
        connect(&mut patch, 2, index(1, index_rad));
    }
    let mut engine = engine(&patch);
    engine.note_on(60, 127);
    let heard = take(&mut engine, 28_800).0;
    let theory = forty(frames.clone(), -4.0, index_rad);
    let off = heard[frames].iter().zip(&theory);
    let error = rms(off.map(|(a, b)| f64::from(*a) - b));
    let db = 20.0 * (error / rms(theory.iter().copied())).log10();
    assert!(db < bar_db, "{db:.1} dB off");
}

#[test]
fn into_a_cycle_and_out_of_it_again_nothing_steps() {
    let tilted = |tilt_db| {
        spread(
            SAW,
            BOUND_HZ,
            harmonics(|h| (h.high, h.tilt_db) = (40.0, tilt_db)),
        )
    };
    let mut engine = engine(&tilted(-6.0));
    engine.note_on(60, 127);
    let mut heard = vec![];
    // long enough to be a cycle, changed, long enough again
    for tilt_db in [-6.0, -6.5, -6.0, -6.5] {
        let prepared = zolvik_engine::program::prepare(&tilted(tilt_db), &Default::default());
        engine.take(&prepared);
        heard.extend(take(&mut engine, 12_000).0);
    }
    // its own steepest place comes back with every cycle
    let own = roughness(&heard[6000..12_000]);
    let all = roughness(&heard[6000..]);
    assert!(all < 1.02 * own, "{all} where it is {own} at rest");
}

#[rstest]
#[case::nothing(None, 2.6)]
#[case::its_pitch(Some(Operator::DETUNE_CENTS), 2.6)]
#[case::its_tilt(Some(Harmonics::TILT_DB), 8.0)]
#[case::its_cycle(Some(CycleShape::LEAN), 8.0)]
fn the_cost_told_is_that_of_a_cycle_unless_partials_are_moved(
    #[case] moves: Option<ParamId>,
    #[case] told: f64,
) {
    let mut patch = spread(SAW, BOUND_HZ, harmonics(|h| h.high = 40.0));
    if let Some(param) = moves {
        patch = moved(&patch, SourceName::Lfo, Address::unit(UnitId(1), param));
    }
    let cost = zolvik_engine::cost::cost(&patch, &patch.units[0]);
    assert!((cost - told).abs() < 1e-9, "{cost}");
}

/// Peaks of a second of partials whose pitch swings, against the same partials drawn as bars, which are a bank: both move alike.
#[test]
fn partials_whose_pitch_swings_sound_as_the_same_drawn_as_bars() {
    let one = spread(SAW, 220.0, harmonics(|h| h.high = 40.0));
    let saw = zolvik_waves::cycles::cycle_of(&SAW, &[], 0);
    let mut bars = Bars::single();
    (1..=40).for_each(|n| {
        let (s, c) = (saw.sine[n - 1], saw.cosine[n - 1]);
        bars.set(n, s.hypot(c), c.atan2(s) / TAU);
    });
    let other = plain(Wave::Bars(bars), 220.0);
    let heard = [one, other].map(|patch| {
        let to = Address::unit(UnitId(1), Operator::DETUNE_CENTS);
        let mut engine = engine(&moved(&patch, SourceName::Lfo, to));
        engine.note_on(60, 127);
        take(&mut engine, 48_000).0[24_000..].to_vec()
    });
    let level = rms(heard[1].iter().map(|x| f64::from(*x)));
    let scale = level / rms(heard[0].iter().map(|x| f64::from(*x)));
    let off = heard[0].iter().zip(&heard[1]);
    let error = rms(off.map(|(a, b)| f64::from(*a) * scale - f64::from(*b)));
    let db = 20.0 * (error / level).log10();
    assert!(db < -60.0, "{db:.1} dB off");
}

fn noise(colour_db: f64) -> Patch {
    let mut patch = plain_units(&[1.0]);
    let mut unit = Unit::new(UnitId(1), KindName::Noise);
    unit.envelope = patch.units[0].envelope.clone();
    unit.velocity = 0.0;
    let UnitKind::Noise(noise) = &mut unit.kind else {
        unreachable!()
    };
    noise.colour_db = colour_db;
    patch.units[0] = unit;
    connect(&mut patch, 1, TO_LEFT);
    patch
}

/// A second of noise at a quality and a rate, a quarter of one after it began.
fn noise_at(colour_db: f64, quality: Quality, rate_hz: f64) -> Vec<f32> {
    let mut patch = noise(colour_db);
    patch.voice.quality = quality;
    let mut engine = engine_at(&patch, rate_hz);
    engine.note_on(60, 127);
    take(&mut engine, (rate_hz * 0.25) as usize);
    take(&mut engine, rate_hz as usize).0
}

/// Power around a frequency, over a dozen places beside each other.
fn power_near(samples: &[f32], hz: f64, rate_hz: f64) -> f64 {
    let places = (0..8).map(|n| hz * (1.0 + 0.004 * f64::from(n)));
    places
        .map(|hz| partial_at(samples, hz, rate_hz).0.powi(2))
        .sum()
}

/// Coloured noise is white noise of the same beginning through a slope: beside it, the slope itself is seen.
#[rstest]
fn noise_slopes_as_its_colour_says_from_30_hz_to_16_khz(
    #[values(-6.0, -3.0, 3.0, 6.0)] colour_db: f64,
    #[values(44_100.0, 96_000.0)] rate_hz: f64,
) {
    let coloured = noise_at(colour_db, Quality::X1, rate_hz);
    let white = noise_at(0.0, Quality::X1, rate_hz);
    let rise = |hz: f64| {
        let powers = [&coloured, &white].map(|s| power_near(s, hz, rate_hz));
        10.0 * (powers[0] / powers[1]).log10()
    };
    let middle = rise(1_000.0);
    for hz in [30.0, 100.0, 300.0, 3_000.0, 8_000.0, 12_000.0, 16_000.0f64] {
        let line = colour_db * (hz / 1_000.0).log2();
        let off = rise(hz) - middle - line;
        assert!(off.abs() < 0.5, "{hz} Hz: {off:.2} dB off");
    }
}

#[rstest]
#[case::cd(Quality::X1, 44_100.0)]
#[case::studio(Quality::X1, 96_000.0)]
#[case::highest(Quality::X1, 192_000.0)]
#[case::twice(Quality::X2, 48_000.0)]
#[case::finest(Quality::X8, 48_000.0)]
fn noise_is_the_same_noise_at_every_rate(
    #[case] quality: Quality,
    #[case] rate_hz: f64,
    #[values(0.0, 6.0)] colour_db: f64,
) {
    let plain = noise_at(colour_db, Quality::X1, 48_000.0);
    let other = noise_at(colour_db, quality, rate_hz);
    let late_s = match quality {
        Quality::X1 => 0.0,
        // the filters on the way down take a while
        _ => delay_s(&plain, &other),
    };
    for hz in [61.0, 333.0, 1_234.0, 4_321.0, 7_654.0, 9_876.0] {
        let powers =
            [(&plain, 48_000.0), (&other, rate_hz)].map(|(s, rate)| power_near(s, hz, rate));
        let off = 10.0 * (powers[1] / powers[0]).log10();
        assert!(off.abs() < 0.2, "{hz} Hz: {off} dB");
        let phase = partial_at(&plain, hz, 48_000.0).1;
        let turned = partial_at(&other, hz, rate_hz).1;
        let turns = turned - phase - hz * late_s;
        let off = turns - turns.round();
        assert!(off.abs() < 0.02, "{hz} Hz: {off} turns");
    }
}

/// How much later one sound is than another of the same kind: roughly from the turn of a low tone in it, then from a higher one.
fn delay_s(one: &[f32], other: &[f32]) -> f64 {
    let turned = |hz: f64| partial(other, hz).1 - partial(one, hz).1;
    [77.0, 777.0].iter().fold(0.0, |late_s, hz| {
        let turns = turned(*hz) - hz * late_s;
        late_s + (turns - turns.round()) / hz
    })
}

#[rstest]
fn noise_of_every_colour_is_as_strong(#[values(-6.0, -3.0, 0.0, 3.0, 6.0)] colour_db: f64) {
    let samples = settled(&noise(colour_db), 4096 * 48);
    let power = samples.iter().map(|s| f64::from(s * s)).sum::<f64>() / samples.len() as f64;
    assert!((10.0 * (power / 0.09).log10()).abs() < 1.5, "{power}");
}

#[test]
fn noise_is_the_same_again_and_other_in_every_note() {
    let note = |seed: u8, notes: usize| {
        let mut patch = noise(0.0);
        patch.voice.seed = seed;
        let mut engine = engine(&patch);
        let mut last = vec![];
        for _ in 0..notes {
            engine.silence();
            take(&mut engine, 960);
            engine.note_on(60, 127);
            last = take(&mut engine, 480).0;
        }
        last
    };
    assert!(note(1, 1) == note(1, 1), "the same seed, the same sound");
    assert!(note(1, 1) != note(2, 1), "another seed");
    assert!(note(1, 1) != note(1, 2), "another note");
}
