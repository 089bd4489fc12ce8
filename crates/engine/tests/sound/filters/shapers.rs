//! Drive and shapers: the harmonics of their curves, as loud as what came, and nothing folded back.

use super::*;
use crate::support::*;
use rstest::rstest;
use std::f64::consts::PI;
use zolvik_patch::Patch;
use zolvik_patch::document::{
    Filter, FilterType, KindName, Quality, Shaper, ShaperCurve, Slope, Unit, UnitId, UnitKind,
};

/// How strong a sine comes out of what presses it, against how strong it went in, in decibels.
fn driven_db(through_filter: bool, curve: ShaperCurve, drive_db: f64, level_db: f64) -> f64 {
    let mut patch = match through_filter {
        true => {
            let mut filter = still(FilterType::Low, Slope::Db12, 18_000.0, 0.0);
            filter.drive_db = drive_db;
            filtered(440.0, filter)
        }
        false => shaped(curve, drive_db, 1.0),
    };
    patch.routes[0].send = through(2, level_db);
    let mut engine = engine(&patch);
    engine.note_on(60, 127);
    take(&mut engine, 24_000);
    let samples = take(&mut engine, 24_000).0;
    let power: f64 = samples.iter().map(|s| f64::from(*s).powi(2)).sum();
    10.0 * (2.0 * power / samples.len() as f64).log10() - level_db
}

#[rstest]
#[case::filter(true, ShaperCurve::Soft)]
#[case::soft(false, ShaperCurve::Soft)]
#[case::hard(false, ShaperCurve::Hard)]
#[case::fold(false, ShaperCurve::Fold)]
#[case::rectify(false, ShaperCurve::Rectify)]
fn drive_makes_rougher_and_not_louder(
    #[case] filter: bool,
    #[case] curve: ShaperCurve,
    #[values(-40.0, -20.0, -6.0, 0.0)] level_db: f64,
) {
    for drive_db in [0.0, 3.0, 12.0, 24.0, 36.0, 48.0] {
        let off = driven_db(filter, curve, drive_db, level_db);
        assert!(
            off.abs() < if drive_db > 24.0 { 2.0 } else { 1.0 },
            "{level_db} dB driven by {drive_db}: {off:.2} dB"
        );
    }
}

/// The first milliseconds are not louder than what went in either.
#[test]
fn drive_is_not_louder_where_a_note_begins() {
    let mut patch = shaped(ShaperCurve::Soft, 48.0, 1.0);
    patch.routes[0].send = through(2, -40.0);
    let mut engine = engine(&patch);
    engine.note_on(60, 127);
    let start = take(&mut engine, 960).0;
    let peak = start.iter().fold(0.0f32, |most, s| most.max(s.abs()));
    assert!(peak < 0.02, "{peak}");
}

/// A sine of full level through a shaper.
fn shaped(curve: ShaperCurve, drive_db: f64, mix: f64) -> Patch {
    let mut patch = filtered(440.0, Filter::default());
    patch.units[1] = Unit::new(UnitId(2), KindName::Shaper);
    patch.units[1].kind = UnitKind::Shaper(Shaper {
        curve,
        drive_db,
        mix,
    });
    patch.units[1].velocity = 0.0;
    let points = &mut patch.units[1].envelope.points;
    (points[0].time_s, points[1].time_s, points[1].level) = (0.0, 0.0, 1.0);
    patch.routes[0].send = through(2, 0.0);
    patch
}

fn harmonics(patch: &Patch) -> Vec<f64> {
    let mut engine = engine(patch);
    engine.note_on(60, 127);
    take(&mut engine, 24_000);
    let samples = take(&mut engine, 24_000).0;
    (1..=5)
        .map(|n| partial(&samples, 440.0 * f64::from(n)).0)
        .collect()
}

/// What lies where harmonics past half a rate would be mirrored to, below 20 kHz, against the strongest harmonic, in dB.
fn mirrored_db(patch: &Patch, hz: f64) -> f64 {
    let mut engine = engine(patch);
    engine.note_on(60, 127);
    take(&mut engine, 24_000);
    let samples = take(&mut engine, 65_536).0;
    let strongest = (1..=8)
        .map(|n| partial(&samples, hz * f64::from(n)).0)
        .fold(0.0, f64::max);
    let places = (1..=400).map(|n| {
        let turns = (f64::from(n) * hz / RATE_HZ).fract();
        (n, RATE_HZ * turns.min(1.0 - turns))
    });
    let power: f64 = places
        .filter(|(n, place)| f64::from(*n) * hz > 0.5 * RATE_HZ && *place < 20_000.0)
        .map(|(_, place)| partial(&samples, place).0.powi(2))
        .sum();
    10.0 * (power.max(1e-30) / strongest.powi(2)).log10()
}

#[rstest]
fn curves_do_not_fold_back(
    #[values(
        ShaperCurve::Hard,
        ShaperCurve::Fold,
        ShaperCurve::Rectify,
        ShaperCurve::Soft
    )]
    curve: ShaperCurve,
    #[values((Quality::X1, -60.0), (Quality::X4, -90.0))] at: (Quality, f64),
    // exactly so many times in 65,536 samples: 1 and 3.5 kHz
    #[values((1365, 24.0), (1365, 12.0), (4779, 12.0))] tone: (u32, f64),
) {
    let ((quality, bar_db), (times, drive_db)) = (at, tone);
    let hz = RATE_HZ * f64::from(times) / 65_536.0;
    let mut patch = shaped(curve, drive_db, 1.0);
    patch.units[0].oscillator_mut().unwrap().fixed_hz = hz;
    patch.voice.quality = quality;
    let db = mirrored_db(&patch, hz);
    assert!(db < bar_db, "{curve:?} {quality:?} {hz:.0} Hz: {db:.1} dB");
}

#[test]
fn shapers_make_the_harmonics_of_their_curves() {
    // a sine cut to a square by 48 dB of drive: 4/pi (1, 0, 1/3, 0, 1/5), as strong as the sine
    let square = harmonics(&shaped(ShaperCurve::Hard, 48.0, 1.0));
    for (n, level) in [(1, 1.0), (3, 1.0 / 3.0), (5, 0.2)] {
        let theory = 0.5f64.sqrt() * 4.0 / PI * level;
        assert!(
            (square[n - 1] - theory).abs() < 0.01,
            "{n}: {} {theory}",
            square[n - 1]
        );
    }
    assert!(square[1] < 1e-4 && square[3] < 1e-4, "no even ones");
    // sin(g sin x) has 2 J_n(g) at odd n
    let g = 10f64.powf(12.0 / 20.0);
    let folded = harmonics(&shaped(ShaperCurve::Fold, 12.0, 1.0));
    let scale = (1.0 - libm::jn(0, 2.0 * g)).sqrt().recip();
    for n in [1, 3, 5] {
        let theory = (2.0 * libm::jn(n, g) * scale).abs();
        let heard = folded[n as usize - 1];
        assert!((heard - theory).abs() < 0.003, "{n}: {heard} {theory}");
    }
    // a rectified sine: only even ones, and no offset
    let up = harmonics(&shaped(ShaperCurve::Rectify, 0.0, 1.0));
    assert!(up[0] < 1e-3 && up[1] > 0.2, "{up:?}");
    let mut engine = engine(&shaped(ShaperCurve::Rectify, 0.0, 1.0));
    engine.note_on(60, 127);
    take(&mut engine, 48_000);
    let mean: f32 = take(&mut engine, 48_000).0.iter().sum::<f32>() / 48_000.0;
    assert!(mean.abs() < 3e-3, "{mean}");
    // soft adds odd ones gently, and a mix of nothing changes nothing
    let soft = harmonics(&shaped(ShaperCurve::Soft, 6.0, 1.0));
    assert!(soft[2] > 0.01 && soft[2] < 0.2 * soft[0] && soft[1] < 1e-4);
    let dry = harmonics(&shaped(ShaperCurve::Hard, 48.0, 0.0));
    assert!((dry[0] - 1.0).abs() < 1e-4 && dry[2] < 1e-4);
}
