//! The picture against what it is to show: partials apart, onsets sharp, levels true.

use rstest::rstest;
use std::f64::consts::TAU;
use zolvik_lab::axis::FLOOR_DB;
use zolvik_lab::picture::{Grid, Painter};
use zolvik_lab::spectrum::{Span, row_hz, spectrum_at};

const RATE_HZ: f64 = 48_000.0;

fn sound(length_s: f64, of: impl Fn(f64) -> f64) -> Vec<f32> {
    (0..(length_s * RATE_HZ) as usize)
        .map(|i| of(i as f64 / RATE_HZ) as f32)
        .collect()
}

fn grid(length_s: f64, columns: usize) -> Grid {
    Grid {
        columns,
        rows: 256,
        length_s,
        exponent: 1.0,
        rate_hz: RATE_HZ,
        span: Span::default(),
        whole: true,
    }
}

fn painted(grid: Grid, left: &[f32], right: &[f32]) -> Painter {
    let mut painter = Painter::new(grid);
    painter.hear(left, right);
    painter.end();
    painter
}

/// Level of a cell in decibels.
fn db(painter: &Painter, row: usize, column: usize) -> f64 {
    let cell = painter.picture()[row * painter.grid().columns + column];
    f64::from(FLOOR_DB) * (1.0 - f64::from(cell) / 255.0)
}

fn row_of(hz: f64, rows: usize) -> usize {
    (0..rows)
        .rposition(|row| row_hz(row as f64, rows) <= hz)
        .unwrap()
}

/// Strongest level of a column, and its row.
fn top(painter: &Painter, column: usize) -> (usize, f64) {
    let levels = (0..painter.grid().rows).map(|row| (row, db(painter, row, column)));
    levels.max_by(|a, b| a.1.total_cmp(&b.1)).unwrap()
}

#[test]
fn a_sine_has_its_level_in_its_row_whatever_its_frequency() {
    let mut hz = 24.0;
    while hz < 16_000.0 {
        let sine = sound(1.0, |t| 0.25 * (TAU * hz * t).sin());
        let painter = painted(grid(1.0, 10), &sine, &sine);
        let (row, level) = top(&painter, 5);
        assert!((level + 12.04).abs() < 0.3, "{hz} Hz: {level} dB");
        let right = row_of(hz, 256);
        assert!(
            row.abs_diff(right) <= 1,
            "{hz} Hz in row {row}, not {right}"
        );
        hz *= 1.0731;
    }
}

#[test]
fn two_partials_27_hz_apart_at_55_hz_stand_apart() {
    let both = sound(1.0, |t| {
        0.3 * ((TAU * 55.0 * t).sin() + (TAU * 82.0 * t).sin())
    });
    let painter = painted(grid(1.0, 20), &both, &both);
    let (low, high) = (row_of(55.0, 256), row_of(82.0, 256));
    for column in 6..14 {
        let between = (low..high).map(|row| db(&painter, row, column));
        let valley = between.fold(0.0, f64::min);
        for row in [low, high] {
            let apart = db(&painter, row, column) - valley;
            assert!(apart > 40.0, "column {column}: {apart} dB");
        }
    }
}

/// Seconds between 20 dB and 1 dB below where a sine that sets in comes to.
#[rstest]
#[case::high(5_000.0, 0.006)]
#[case::middle(500.0, 0.025)]
fn an_onset_is_sharp(#[case] hz: f64, #[case] bar_s: f64) {
    let columns = 600;
    let burst = sound(0.3, |t| {
        if t < 0.15 {
            0.0
        } else {
            0.5 * (TAU * hz * t).sin()
        }
    });
    let painter = painted(grid(0.3, columns), &burst, &burst);
    let row = row_of(hz, 256);
    let end = db(&painter, row, columns * 3 / 4);
    let first = |below: f64| {
        (0..columns)
            .find(|c| db(&painter, row, *c) > end - below)
            .unwrap()
    };
    let rise_s = (first(1.0) - first(20.0)) as f64 * 0.3 / columns as f64;
    assert!(rise_s < bar_s, "{hz} Hz rises over {rise_s} s");
    let middle_s = 0.5 * (first(1.0) + first(20.0)) as f64 * 0.3 / columns as f64;
    assert!(
        (middle_s - 0.15).abs() < 0.5 * bar_s,
        "{hz} Hz sets in at {middle_s} s"
    );
}

#[test]
fn no_lines_beside_a_sine() {
    for hz in [61.0, 333.0, 1_111.0, 7_777.0] {
        let sine = sound(1.0, |t| 0.9 * (TAU * hz * t).sin());
        let painter = painted(grid(1.0, 10), &sine, &sine);
        let centre = row_of(hz, 256);
        for row in 0..256 {
            // twice the width of a main lobe, in rows
            if (row_hz(row as f64, 256) / hz).log2().abs() > 0.5 {
                let level = db(&painter, row, 5);
                assert!(
                    level < -60.0,
                    "{hz} Hz, row {row} beside {centre}: {level} dB"
                );
            }
        }
    }
}

#[test]
fn what_is_unlike_on_both_sides_is_seen() {
    let sine = sound(1.0, |t| 0.5 * (TAU * 440.0 * t).sin());
    let turned: Vec<f32> = sine.iter().map(|x| -x).collect();
    let painter = painted(grid(1.0, 10), &sine, &turned);
    assert!((top(&painter, 5).1 + 6.02).abs() < 0.3);
    let silent = vec![0.0; sine.len()];
    let spectrum = spectrum_at(&silent, &sine, RATE_HZ, 0.5, 256);
    assert!(spectrum.rows_place[row_of(440.0, 256)] > 0.99);
    assert!((spectrum.partials[0].db + 9.03).abs() < 0.1);
}

#[test]
fn how_it_comes_changes_nothing() {
    let sweep = sound(0.9, |t| 0.5 * (TAU * (40.0 + 4_000.0 * t * t) * t).sin());
    let whole = painted(grid(1.0, 200), &sweep, &sweep);
    let mut cut = Painter::new(grid(1.0, 200));
    // over another picture
    cut.hear(&sweep[9_000..], &sweep[9_000..]);
    cut.end();
    cut.clear();
    let mut fronts = cut.fronts();
    assert!(fronts.iter().all(|front| *front == 0));
    for part in sweep.chunks(331) {
        cut.hear(part, part);
        let now = cut.fronts();
        assert!(now.iter().zip(&fronts).all(|(now, before)| now >= before));
        fronts = now;
    }
    cut.end();
    assert_eq!(whole.picture(), cut.picture());
    assert!(cut.fronts().iter().all(|front| *front == 200));
}

#[rstest]
#[case::lowest(20.4, 0.5)]
#[case::sub(40.3, 0.5)]
#[case::bass(55.7, 0.5)]
#[case::upper(187.2, 0.5)]
#[case::middle(261.63, 0.5)]
fn lows_are_named_to_half_a_hertz(#[case] hz: f64, #[case] bar_hz: f64) {
    let sine = sound(2.0, |t| 0.5 * (TAU * hz * t).sin());
    for time_s in [0.2, 1.0] {
        let found = spectrum_at(&sine, &sine, RATE_HZ, time_s, 100).partials[0];
        assert!(
            (found.hz - hz).abs() < bar_hz,
            "{hz}: {found:?} at {time_s} s"
        );
    }
    let found = spectrum_at(&sine, &sine, RATE_HZ, 1.0, 100).partials;
    assert_eq!(found.len(), 1, "{found:?}");
    assert!((found[0].db + 6.02).abs() < 0.1, "{found:?}");
}

#[rstest]
#[case(55.0, 57.5)]
#[case(41.2, 43.0)]
fn the_two_partials_of_a_beat_are_named(#[case] one: f64, #[case] other: f64) {
    let beat = sound(3.0, |t| {
        0.3 * (TAU * one * t).sin() + 0.2 * (TAU * other * t).sin()
    });
    let found = spectrum_at(&beat, &beat, RATE_HZ, 1.4, 100).partials;
    assert_eq!(found.len(), 2, "{found:?}");
    assert!(
        (found[0].hz - one).abs() < 0.1 && (found[1].hz - other).abs() < 0.1,
        "{found:?}"
    );
    assert!((found[0].db + 10.46).abs() < 0.3, "{found:?}");
}

#[test]
fn a_low_that_dies_away_has_the_level_of_its_moment() {
    let pluck = sound(2.0, |t| (-8.0 * t).exp() * (TAU * 60.0 * t).sin());
    let found = spectrum_at(&pluck, &pluck, RATE_HZ, 0.5, 100).partials[0];
    let there = 20.0 * (-8.0f64 * 0.5).exp().log10();
    assert!((found.db - there).abs() < 1.5, "{found:?}, not {there}");
}

#[test]
fn a_part_of_the_frequencies_is_drawn_over_the_whole_height() {
    let sine = sound(1.0, |t| 0.5 * (TAU * 100.0 * t).sin());
    let span = Span {
        from_hz: 50.0,
        to_hz: 200.0,
    };
    let painter = painted(
        Grid {
            span,
            ..grid(1.0, 10)
        },
        &sine,
        &sine,
    );
    let (row, level) = top(&painter, 5);
    assert!(
        row.abs_diff(128) <= 1 && (level + 6.02).abs() < 0.3,
        "{row}: {level}"
    );
    // 8 cents a row: half of it is heard as out of tune, and seen
    let near = span.zoomed(100.0, 0.5);
    assert!((near.from_hz - 70.71).abs() < 0.01 && (near.to_hz - 141.42).abs() < 0.01);
    assert_eq!(span.zoomed(100.0, 100.0), Span::default());
    let higher = span.moved(2.0);
    assert_eq!((higher.from_hz, higher.to_hz), (100.0, 400.0));
    let lowest = span.moved(0.01);
    assert!((lowest.from_hz - 20.0).abs() < 1e-9 && (lowest.to_hz - 80.0).abs() < 1e-9);
    let narrow = span.zoomed(100.0, 1e-3);
    assert!(narrow.to_hz / narrow.from_hz > 1.25);
}
