//! Measurements against sounds whose values are known.

use rstest::rstest;
use zolvik_edit::{Connect, Edit, apply};
use zolvik_engine::program::prepare;
use zolvik_lab::axis::time_at;
use zolvik_lab::level::{LevelMeter, level};
use zolvik_lab::spectrum::{HIGHEST_HZ, LOWEST_HZ, spectrum_at};
use zolvik_lab::{Detail, Note, Rendered, render, thumbnail, unfold};
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::document::{Audition, RouteId, Send, UnitId};
use zolvik_patch::hearing::Listening;
use zolvik_patch::movement::{Played, SourceName};
use zolvik_patch::param::ParamId;

/// A parabola through three levels misses the top of a Hann peak by up to this much between two bins.
const PEAK_TOLERANCE_DB: f64 = 0.1;

fn sine(hz: f64, amplitude: f64) -> Rendered {
    let samples: Vec<f32> = (0..96_000)
        .map(|i| {
            (amplitude * (2.0 * std::f64::consts::PI * hz * f64::from(i) / 48_000.0).sin()) as f32
        })
        .collect();
    Rendered {
        left: samples.clone(),
        right: samples,
        ..Rendered::empty(48_000.0)
    }
}

/// The loudness standard's own check: a 997 Hz sine at -20 dB in both channels reads -20 LUFS.
#[test]
fn loudness_agrees_with_the_standard() {
    let measured = level(&sine(997.0, 0.1));
    assert!((measured.loudness_lufs + 20.0).abs() < 0.1, "{measured:?}");
    assert!((measured.true_peak_db + 20.0).abs() < 0.1, "{measured:?}");
}

/// What is measured while it comes is what is measured of the whole, however it was cut; the standard's sine stays what it is.
#[rstest]
#[case::exact(LevelMeter::exact(48_000.0))]
#[case::quick(LevelMeter::quick(48_000.0))]
fn a_level_measured_in_pieces_is_that_of_the_whole(#[case] mut meter: LevelMeter) {
    let sound = sine(997.0, 0.1);
    for end in [0, 5, 4_799, 4_800, 31_111, 95_000] {
        meter.hear(&sound.left[..end], &sound.right[..end]);
    }
    let pieces = meter.end(&sound.left, &sound.right);
    let whole = level(&sound);
    assert_eq!(pieces.loudness_lufs, whole.loudness_lufs);
    assert!((pieces.loudness_lufs + 20.0).abs() < 0.1, "{pieces:?}");
    assert!((pieces.true_peak_db + 20.0).abs() < 0.01, "{pieces:?}");
}

/// A sine at a quarter of the rate, sampled at 45 degrees: no sample reaches its peak, which is 3 dB higher.
#[test]
fn true_peak_sees_between_samples() {
    let samples: Vec<f32> = (0..48_000)
        .map(|i| ((f64::from(i) * 0.5 + 0.25) * std::f64::consts::PI).sin() as f32 * 0.5)
        .collect();
    let sound = Rendered {
        left: samples.clone(),
        right: samples,
        ..Rendered::empty(48_000.0)
    };
    let true_peak_db = level(&sound).true_peak_db;
    assert!((true_peak_db + 6.02).abs() < 0.5, "{true_peak_db} dB");
}

#[rstest]
#[case::low(55.0)]
#[case::middle(440.0)]
#[case::high(7040.0)]
fn spectrum_shows_a_sine_at_its_frequency_and_level(#[case] hz: f64) {
    let rows = 400;
    let sound = sine(hz, 0.5);
    let spectrum = spectrum_at(&sound.left, &sound.right, 48_000.0, 1.0, rows);
    let (row, db) = spectrum
        .rows_db
        .iter()
        .enumerate()
        .max_by(|a, b| a.1.total_cmp(b.1))
        .unwrap();
    let found_hz = LOWEST_HZ * (HIGHEST_HZ / LOWEST_HZ).powf((row as f64 + 0.5) / rows as f64);
    assert!(
        (found_hz / hz).log2().abs() < 0.1,
        "{hz} Hz shown at {found_hz} Hz"
    );
    assert!(
        (f64::from(*db) + 6.02).abs() < 0.3,
        "{hz} Hz shown at {db} dB"
    );
    let partial = spectrum.partials[0];
    assert!(
        (partial.hz - hz).abs() < 0.3 && (partial.db + 6.02).abs() < PEAK_TOLERANCE_DB,
        "{hz} Hz named as {partial:?}"
    );
    assert_eq!(
        spectrum.partials.len(),
        1,
        "a sine has one partial: {:?}",
        spectrum.partials
    );
}

#[test]
fn the_wide_start_gives_the_first_tenth_a_quarter_of_the_room() {
    assert!((time_at(0.25, 1.0, 0.6) - 0.1).abs() < 0.01);
    assert_eq!(time_at(0.5, 4.0, 1.0), 2.0);
}

#[test]
fn unfolding_follows_the_patch() {
    let patch = Patch::empty();
    let bright = apply(
        &patch,
        &Edit::AddUnit {
            kind: zolvik_patch::document::KindName::Operator,
            connect: Connect::Unit { id: UnitId(1) },
        },
    )
    .unwrap()
    .0;
    let address = zolvik_patch::address::Address::new(Send::INDEX_RAD, 2);
    let bright = apply(
        &bright,
        &Edit::SetValue {
            address,
            value: 4.0,
        },
    )
    .unwrap()
    .0;
    let look = |patch: &Patch, detail| {
        let program = prepare(patch, &Listening::default());
        unfold(&program, &Note::auditioned(patch, 48_000.0), 0.6, detail)
    };
    let (plain, rich) = (look(&patch, Detail::Fine), look(&bright, Detail::Fine));
    // partials at whole multiples of 220 Hz stand out in the middle of the note; a sine has only the first
    let at = |u: &zolvik_lab::Unfolded, hz: f64| {
        let share = (hz / LOWEST_HZ).ln() / (HIGHEST_HZ / LOWEST_HZ).ln();
        let row = (share * u.rows as f64) as usize;
        i32::from(u.spectrogram[row * u.columns + u.columns / 2])
    };
    for n in 1..=6 {
        let (here, between) = (220.0 * f64::from(n), 220.0 * (f64::from(n) + 0.5));
        let stands_out = |u| at(u, here) - at(u, between);
        assert!(stands_out(&rich) > 25, "{n}: {}", stands_out(&rich));
        assert_eq!(stands_out(&plain) > 25, n == 1, "{n} of the sine");
    }
    assert_eq!(rich.curves.len(), 2);
    // struck at 96 of 127 with the usual velocity
    let struck = 1.0 - 0.7 * (1.0 - (96.0f32 / 127.0).powi(2));
    let most = rich.curves[0].iter().copied().fold(0.0, f32::max);
    assert!((most - struck).abs() < 0.01, "the envelope's peak: {most}");
    let last = *plain.loudness_db.last().unwrap();
    assert!(
        last < -100.0,
        "let go after half the window, it is silent at the end: {last} dB"
    );
    let coarse = look(&bright, Detail::Coarse);
    let apart_db = rich.level.true_peak_db - coarse.level.true_peak_db;
    assert!(
        (0.0..0.3).contains(&apart_db),
        "the coarse picture's peak is {apart_db} dB low"
    );
    assert_eq!(coarse.level.loudness_lufs, rich.level.loudness_lufs);
    assert_eq!(
        thumbnail::thumbnail(&bright, &zolvik_waves::NoClips).len(),
        thumbnail::WIDTH * thumbnail::HEIGHT
    );
}

#[test]
fn a_render_to_its_end_ends_silent() {
    let patch = Patch::empty();
    let note = Note {
        hold_s: 0.3,
        ..Note::auditioned(&patch, 44_100.0)
    }
    .to_its_end(&patch);
    let sound = render(&patch, &note);
    assert!(sound.left.iter().rev().take(100).all(|s| *s == 0.0));
    assert!(sound.left.iter().any(|s| s.abs() > 0.1));
}

/// What is set for the auditioned note is drawn and rendered: what it brings in is there. The link is of 3 dB between the ends of the source.
#[rstest]
#[case::wheel(3, Audition::WHEEL, (0.0, 127.0))]
#[case::bend(4, Audition::BEND, (-1.0, 1.0))]
#[case::pressure(5, Audition::PRESSURE, (0.0, 127.0))]
#[case::expression(6, Audition::EXPRESSION, (0.0, 127.0))]
#[case::pedal(7, Audition::PEDAL, (0.0, 127.0))]
#[case::slide(11, Audition::TIMBRE, (0.0, 1.0))]
fn what_is_played_beside_the_key_is_rendered(
    #[case] what: usize,
    #[case] id: ParamId,
    #[case] (low, high): (f64, f64),
) {
    let patch = played(what, 3.0);
    let up_db = peak_db(&with(&patch, id, high)) - peak_db(&with(&patch, id, low));
    assert!((up_db - 3.0).abs() < 0.1, "{up_db} dB");
}

/// A note is bent from its first sample on, by the wheel's range of two semitones; unmoved it is as it was.
#[rstest]
#[case(0.0, 220.0)]
#[case(1.0, 220.0 * 1.122_462)]
#[case(-0.5, 220.0 / 1.059_463)]
fn a_bent_note_has_its_pitch_at_once(#[case] bend: f64, #[case] hz: f64) {
    let patch = with(&Patch::empty(), Audition::BEND, bend);
    let patch = with(&patch, Audition::NOTE, 57.0);
    let sound = render(&patch, &Note::auditioned(&patch, 48_000.0));
    // whole turns of a sine are counted by where it rises through zero, from 5 ms on
    let rises: Vec<f64> = (240..24_000)
        .filter(|i| sound.left[*i] <= 0.0 && sound.left[i + 1] > 0.0)
        .map(|i| {
            let (a, b) = (f64::from(sound.left[i]), f64::from(sound.left[i + 1]));
            (i as f64 - a / (b - a)) / 48_000.0
        })
        .collect();
    for pair in [&rises[..11], &rises[rises.len() - 11..]] {
        let found = 10.0 / (pair[10] - pair[0]);
        assert!((found / hz - 1.0).abs() < 2e-4, "{found} Hz for {hz}");
    }
}

fn with(patch: &Patch, id: ParamId, value: f64) -> Patch {
    let address = Address::patch(id);
    apply(patch, &Edit::SetValue { address, value }).unwrap().0
}

fn peak_db(patch: &Patch) -> f64 {
    level(&render(patch, &Note::auditioned(patch, 48_000.0))).true_peak_db
}

/// A performance source on the level of the only strip, up by so much.
fn played(what: usize, amount_db: f64) -> Patch {
    let to = vec![Address::route(RouteId(1), Send::LEVEL_DB)];
    let kind = SourceName::Played;
    let (patch, made) = apply(&Patch::empty(), &Edit::AddSource { kind, to }).unwrap();
    let choose = Edit::Choose {
        units: made,
        choice: Played::WHAT,
        at: what,
    };
    let (patch, _) = apply(&patch, &choose).unwrap();
    assert_eq!(patch.movement.links[0].amount, amount_db);
    patch
}

/// What is added to the peak brings it to -1 dB, or less than a tenth below; of silence nothing follows.
#[rstest::rstest]
#[case::down(0.0, 3.0, Some(-4.0))]
#[case::up(-6.0, -20.0, Some(13.0))]
#[case::never_above(0.0, -0.96, Some(-0.1))]
#[case::silence(0.0, -200.0, None)]
fn a_trim_puts_the_peak_just_below_full_scale(
    #[case] trim_db: f64,
    #[case] true_peak_db: f64,
    #[case] expected: Option<f64>,
) {
    let trimmed = zolvik_lab::level::trimmed_db(trim_db, true_peak_db);
    assert_eq!(trimmed, expected);
    if let Some(trimmed) = trimmed {
        let peak = true_peak_db + trimmed - trim_db;
        assert!((-1.1..=-1.0 + 1e-9).contains(&peak), "{peak}");
    }
}
