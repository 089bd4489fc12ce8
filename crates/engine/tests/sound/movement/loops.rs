//! Loops of recordings that links move while they sound.

use rstest::rstest;
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::document::{Sample, UnitId, UnitKind};
use zolvik_patch::movement::{Direction, SourceKind, SourceName};
use zolvik_patch::param::ParamId;

use crate::samples::{clip, patch_of, playing, sine};
use crate::support::*;

/// A sample with a link from velocity to an end of its loop.
fn velocity_on(name: &str, end: ParamId, amount: f64, change: impl FnOnce(&mut Sample)) -> Patch {
    let patch = patch_of(name, change);
    let to = Address::unit(UnitId(1), end);
    with_link(moved(&patch, SourceName::Played, to), |link| {
        (link.direction, link.amount) = (Direction::Up, amount);
    })
}

fn sample_mut(patch: &mut Patch) -> &mut Sample {
    match &mut patch.units[0].kind {
        UnitKind::Sample(sample) => sample,
        _ => panic!("a sample"),
    }
}

/// Second by second another tone: where the loop is can be heard.
fn tones() -> Vec<f32> {
    let all = [300.0, 500.0, 700.0, 1_100.0].map(|hz| sine(hz, 48_000));
    all.concat()
}

/// The strongest of the tones after a while.
fn tone_of(patch: &Patch, velocity: u8) -> f64 {
    let clips = clip(tones());
    let mut engine = playing(patch, &clips, 60);
    engine.note_off(60);
    take(&mut engine, 4_800);
    engine.note_on(60, velocity);
    take(&mut engine, 5 * 48_000);
    let heard = take(&mut engine, 48_000).0;
    let level = |hz: &f64| partial(&heard, *hz).0;
    let all = [300.0, 500.0, 700.0, 1_100.0];
    let strongest = all.into_iter().max_by(|a, b| level(a).total_cmp(&level(b)));
    let strongest = strongest.unwrap();
    let rest: f64 = all.iter().filter(|hz| **hz != strongest).map(level).sum();
    assert!(level(&strongest) > 0.5, "{}", level(&strongest));
    assert!(rest < 0.01, "{rest} of the others");
    strongest
}

/// From 5 to 20 %, moved by half the recording at full velocity.
#[rstest]
#[case::soft(1, false, 300.0)]
#[case::hard(127, false, 700.0)]
#[case::soft_and_backward(1, true, 300.0)]
#[case::hard_and_backward(127, true, 700.0)]
fn velocity_says_where_the_loop_is(
    #[case] velocity: u8,
    #[case] reverse: bool,
    #[case] expected_hz: f64,
) {
    let mut patch = velocity_on(
        &format!("e{}", u8::from(reverse)),
        Sample::LOOP_END,
        0.5,
        |s| {
            (s.looped, s.reverse, s.crossfade_s) = (true, reverse, 0.02);
            (s.loop_start, s.loop_end) = (0.05, 0.2);
        },
    );
    let source = patch.movement.sources[0].id;
    let start = Address::unit(UnitId(1), Sample::LOOP_START);
    let edit = zolvik_edit::Edit::AddLinks {
        from: source,
        to: vec![start],
    };
    patch = zolvik_edit::apply(&patch, &edit).unwrap().0;
    patch = with_link(patch, |link| {
        (link.direction, link.amount) = (Direction::Up, 0.5);
    });
    assert_eq!(tone_of(&patch, velocity), expected_hz);
}

/// A slow rise has a step of its whole height to be faded at every seam: however fast both ends move there is none.
#[rstest]
#[case::slow(0.3)]
#[case::fast(7.0)]
fn a_loop_that_moves_never_clicks(#[case] rate_hz: f64, #[values(false, true)] reverse: bool) {
    let frames = 48_000;
    let rise: Vec<f32> = (0..frames)
        .map(|n| 2.0 * n as f32 / frames as f32 - 1.0)
        .collect();
    let mut patch = patch_of(&format!("f{}", u8::from(reverse)), |s| {
        (s.looped, s.reverse, s.crossfade_s) = (true, reverse, 0.05);
        (s.loop_start, s.loop_end) = (0.2, 0.7);
    });
    for end in [Sample::LOOP_START, Sample::LOOP_END] {
        let to = Address::unit(UnitId(1), end);
        patch = with_link(moved(&patch, SourceName::Lfo, to), |link| {
            (link.direction, link.amount) = (Direction::Both, 0.2);
        });
        timing(&mut patch).rate_hz = rate_hz * patch.movement.sources.len() as f64;
    }
    let clips = clip(rise);
    let mut engine = playing(&patch, &clips, 60);
    let heard = take(&mut engine, 10 * 48_000).0;
    let step = heard[2_400..]
        .windows(2)
        .map(|w| (w[1] - w[0]).abs())
        .fold(0.0, f32::max);
    // 50 ms from end to end, a sixth louder where both are half alike
    assert!(step < 2.0 * 1.2 / 2_400.0, "{step}");
    let rounds = heard
        .windows(2)
        .filter(|w| w[0] < 0.0 && w[1] >= 0.0)
        .count()
        + heard
            .windows(2)
            .filter(|w| w[0] >= 0.0 && w[1] < 0.0)
            .count();
    assert!(rounds > 10, "it goes round: {rounds}");
}

/// An end that moves to where the sound has passed already ends the round there, not at the end of the recording.
#[test]
fn an_end_that_comes_from_behind_is_taken_at_once() {
    let to = Address::unit(UnitId(1), Sample::LOOP_END);
    let patch = patch_of("e2", |s| {
        (s.looped, s.crossfade_s) = (true, 0.02);
        (s.loop_start, s.loop_end) = (0.0, 1.0);
    });
    let mut patch = with_link(moved(&patch, SourceName::Macro, to), |link| {
        (link.direction, link.amount) = (Direction::Down, 0.8);
    });
    let clips = clip(tones());
    let mut engine = playing(&patch, &clips, 60);
    // into the third tone; then the loop is the first fifth
    take(&mut engine, 120_000);
    assert!(partial(&take(&mut engine, 9_600).0, 700.0).0 > 0.9);
    if let SourceKind::Macro(place) = &mut patch.movement.sources[0].kind {
        place.place = 1.0;
    }
    engine.take(&zolvik_engine::program::prepare_with(
        &patch,
        &Default::default(),
        &clips,
    ));
    take(&mut engine, 4_800);
    assert!(partial(&take(&mut engine, 9_600).0, 300.0).0 > 0.9);
}

/// Where nothing moves it away it is the loop that was typed.
#[test]
fn a_loop_that_is_not_moved_away_sounds_like_the_one_that_stands_still() {
    let typed = |s: &mut Sample| {
        (s.looped, s.crossfade_s) = (true, 0.02);
        (s.loop_start, s.loop_end) = (0.3, 0.45);
    };
    let linked = velocity_on("e3", Sample::LOOP_START, 0.0, typed);
    let mut still = linked.clone();
    still.movement.links.clear();
    typed(sample_mut(&mut still));
    let clips = clip(tones());
    let heard = |patch: &Patch| {
        let mut engine = playing(patch, &clips, 60);
        take(&mut engine, 4 * 48_000).0
    };
    let (linked, still) = (heard(&linked), heard(&still));
    // to the bit until the first fade, in it as loud within a decibel and a half; its round has the same length
    let first_fade = 86_400 - 960;
    assert_eq!(linked[..first_fade], still[..first_fade]);
    let power = |sound: &[f32]| {
        sound[96_000..]
            .iter()
            .map(|s| f64::from(s * s))
            .sum::<f64>()
    };
    let off_db = 10.0 * (power(&linked) / power(&still)).log10();
    assert!(off_db.abs() < 0.5, "{off_db} dB");
    let apart = |lag: usize| -> f64 {
        let pairs = linked[96_000..96_000 + 28_800]
            .iter()
            .zip(&still[96_000 + lag..]);
        pairs.map(|(a, b)| f64::from((a - b).abs())).sum::<f64>() / 28_800.0
    };
    assert!(apart(0) < 0.02, "{}", apart(0));
}
