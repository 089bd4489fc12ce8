//! Samples: as recorded at their root key, clean elsewhere, looped without a seam.

use std::sync::Arc;

use rstest::rstest;
use zolvik_engine::Engine;
use zolvik_engine::program::prepare_with;
use zolvik_patch::Patch;
use zolvik_patch::document::{KindName, Sample, Send, Unit, UnitId, UnitKind};
use zolvik_patch::sound::{OwnSound, ReadySound, Sound};
use zolvik_waves::{Clip, Clips, ready};

use crate::support::*;

/// One recording, whatever is asked for.
pub struct Only(Arc<Clip>);

impl Clips for Only {
    fn clip(&self, _: &str) -> Option<Arc<Clip>> {
        Some(self.0.clone())
    }
}

pub fn clip(samples: Vec<f32>) -> Only {
    let rate_hz = RATE_HZ;
    Only(Arc::new(Clip { samples, rate_hz }))
}

pub fn sine(hz: f64, frames: usize) -> Vec<f32> {
    let turn = std::f64::consts::TAU * hz / RATE_HZ;
    (0..frames)
        .map(|i| (turn * i as f64).sin() as f32)
        .collect()
}

/// A sample at full level in the left channel; `name` tells recordings apart.
pub fn patch_of(name: &str, change: impl FnOnce(&mut Sample)) -> Patch {
    let mut patch = plain_units(&[1.0]);
    let mut unit = Unit::new(UnitId(1), KindName::Sample);
    unit.velocity = 0.0;
    unit.envelope.points[2].time_s = 0.01;
    let UnitKind::Sample(sample) = &mut unit.kind else {
        unreachable!()
    };
    sample.sound = Sound::Own(OwnSound {
        content: format!("{name:0>64}"),
        name: name.into(),
        frames: 1,
        rate_hz: 48_000,
    });
    change(sample);
    patch.units[0] = unit;
    connect(&mut patch, 1, TO_LEFT);
    patch
}

pub fn playing(patch: &Patch, clips: &Only, key: u8) -> Engine {
    let mut engine = Engine::new(RATE_HZ);
    engine.take(&prepare_with(patch, &Default::default(), clips));
    engine.note_on(key, 127);
    engine
}

#[rstest]
#[case::forward(false)]
#[case::backward(true)]
fn at_its_root_key_it_is_played_as_recorded(#[case] reverse: bool) {
    let mut recorded: Vec<f32> = (0..3000)
        .map(|i| ((i * 7919 % 1000) as f32 / 500.0 - 1.0) * 0.7)
        .collect();
    let clips = clip(recorded.clone());
    let patch = patch_of(&format!("a{reverse}"), |s| {
        (s.root_key, s.reverse) = (64, reverse);
    });
    if reverse {
        recorded.reverse();
    }
    let heard = take(&mut playing(&patch, &clips, 64), 4000).0;
    // the envelope rises within the first block
    // and ends within its last 2 ms
    let until = 3000 - 96;
    assert!(
        heard[16..until] == recorded[16..until],
        "every sample as it was"
    );
    assert!(heard[3000..].iter().all(|s| *s == 0.0), "and then silence");
}

#[test]
fn start_and_end_cut_and_the_key_may_be_left_alone() {
    let recorded: Vec<f32> = (0..4000).map(|i| (i as f32 / 4000.0) - 0.5).collect();
    let clips = clip(recorded.clone());
    let patch = patch_of("b", |s| {
        (s.start, s.end, s.key_follow) = (0.25, 0.5, false);
    });
    for key in [24, 60, 100] {
        let heard = take(&mut playing(&patch, &clips, key), 1200).0;
        assert!(heard[16..900] == recorded[1016..1900]);
        assert!(heard[1000..].iter().all(|s| *s == 0.0));
    }
}

/// Everything but one frequency, against it, in dB; below 20 kHz.
fn beside_db(samples: &[f32], hz: f64) -> f64 {
    let own = partial(samples, hz).0;
    let step = RATE_HZ / samples.len() as f64 * 2.0;
    let mut strongest = 0.0f64;
    let mut at = 100.0;
    while at < 20_000.0 {
        // the window's main lobe is eight bins wide
        if (at - hz).abs() > 6.0 * RATE_HZ / samples.len() as f64 {
            strongest = strongest.max(partial(samples, at).0);
        }
        at += step;
    }
    20.0 * (strongest / own).log10()
}

#[rstest]
#[case(7, 9_000.0)]
#[case(12, 6_000.0)]
#[case(19, 3_000.0)]
#[case(31, 1_500.0)]
#[case(-5, 9_000.0)]
#[case(-12, 15_000.0)]
#[case(-24, 17_000.0)]
fn transposed_it_has_nothing_beside_its_tone(#[case] semitones: i32, #[case] hz: f64) {
    let clips = clip(sine(hz, 200_000));
    let patch = patch_of(&format!("c{semitones}"), |s| s.root_key = 60);
    let mut engine = playing(&patch, &clips, (60 + semitones) as u8);
    take(&mut engine, 2400);
    let heard = take(&mut engine, 2400).0;
    let to_hz = hz * 2f64.powf(f64::from(semitones) / 12.0);
    let level = partial(&heard, to_hz).0;
    assert!((level - 1.0).abs() < 0.01, "{level} at {to_hz:.0} Hz");
    let db = beside_db(&heard, to_hz);
    assert!(db < -80.0, "{db:.1} dB");
}

#[rstest]
#[case(12, 15_000.0)]
#[case(7, 18_000.0)]
#[case(24, 10_000.0)]
#[case(36, 4_000.0)]
fn what_would_lie_beyond_half_the_rate_vanishes(#[case] semitones: i32, #[case] hz: f64) {
    let clips = clip(sine(hz, 300_000));
    let patch = patch_of(&format!("d{semitones}"), |s| s.root_key = 60);
    let mut engine = playing(&patch, &clips, (60 + semitones) as u8);
    take(&mut engine, 2400);
    let heard = take(&mut engine, 2400).0;
    let loudest = heard.iter().fold(0.0f32, |a, b| a.max(b.abs()));
    assert!(20.0 * loudest.log10() < -80.0, "{loudest} of {hz} Hz");
}

#[rstest]
fn a_looped_texture_has_no_step_and_keeps_its_level(
    #[values(
        ReadySound::NightWind,
        ReadySound::BoilerHum,
        ReadySound::FarChoir,
        ReadySound::WaterPipes
    )]
    sound: ReadySound,
    #[values(60, 55)] key: u8,
) {
    let mut patch = patch_of("e", |s| {
        s.sound = Sound::Ready(sound);
        (s.looped, s.loop_start, s.loop_end, s.crossfade_s) = (true, 0.3, 0.5, 0.3);
    });
    patch.units[0].name = "Texture".into();
    let mut engine = engine(&patch);
    engine.note_on(key, 127);
    let heard = take(&mut engine, 48_000 * 6).0;
    // the recording itself is as rough as its loop
    let own = ready::clip(sound);
    let (looped, plain) = (roughness(&heard[4800..]), roughness(&own.samples));
    assert!(looped < 1.2 * plain, "{looped} looped, {plain} as recorded");
    // fifty milliseconds at a time, the level never falls or rises out of what the recording does
    let levels = |samples: &[f32]| -> Vec<f64> {
        samples
            .chunks_exact(2400)
            .map(|c| 10.0 * (c.iter().map(|s| f64::from(s * s)).sum::<f64>() / 2400.0).log10())
            .collect()
    };
    let (heard, own) = (
        levels(&heard[96_000..]),
        levels(&own.samples[60_000..140_000]),
    );
    let least = own.iter().copied().fold(f64::MAX, f64::min) - 4.0;
    let most = own.iter().copied().fold(f64::MIN, f64::max) + 4.0;
    assert!(
        heard.iter().all(|db| (least..most).contains(db)),
        "{least:.1} to {most:.1}: {heard:.1?}"
    );
}

/// A slow rise from -1 to 1: wherever it is looped, there is a step of its whole height to be faded.
#[rstest]
#[case::from_the_very_start(0.0, 1.0, 0.0, 0.2)]
#[case::nothing_played_before(0.5, 1.0, 0.5, 0.2)]
#[case::in_the_middle(0.0, 0.9, 0.4, 0.2)]
#[case::wanted_longer_than_there_is(0.0, 1.0, 0.0, 2.0)]
fn a_crossfade_works_wherever_the_loop_begins(
    #[case] start: f64,
    #[case] end: f64,
    #[case] loop_start: f64,
    #[case] crossfade_s: f64,
    #[values(false, true)] reverse: bool,
) {
    let frames = 48_000;
    let rise: Vec<f32> = (0..frames)
        .map(|n| 2.0 * n as f32 / frames as f32 - 1.0)
        .collect();
    let clips = clip(rise);
    let patch = patch_of("h", |s| {
        (s.start, s.end, s.looped, s.reverse) = (start, end, true, reverse);
        (s.loop_start, s.loop_end, s.crossfade_s) = (loop_start, end, crossfade_s);
    });
    let mut engine = playing(&patch, &clips, 60);
    let heard = take(&mut engine, 4 * 48_000).0;
    let step = heard[2_400..]
        .windows(2)
        .map(|w| (w[1] - w[0]).abs())
        .fold(0.0, f32::max);
    assert!(step < 1e-3, "{step}");
    let most = heard.iter().fold(0.0f32, |m, s| m.max(s.abs()));
    assert!(most > 0.3, "it goes on sounding: {most}");
}

#[test]
fn a_recording_that_is_cut_off_fades_in_its_last_two_milliseconds() {
    let clips = clip(vec![1.0; 4_800]);
    let patch = patch_of("i", |s| s.end = 0.5);
    let mut engine = playing(&patch, &clips, 60);
    let heard = take(&mut engine, 4_800).0;
    let step = heard[480..]
        .windows(2)
        .map(|w| (w[1] - w[0]).abs())
        .fold(0.0, f32::max);
    assert!(step < 0.05, "{step}");
    assert!(
        (heard[2_400 - 100] - heard[1_000]).abs() < 1e-3,
        "nothing before is touched"
    );
    assert!(heard[2_402..].iter().all(|s| s.abs() < 1e-3));
}

#[test]
fn a_short_loop_is_a_tone_of_its_length() {
    // a hundred samples of a sine, exactly one period: the loop is that sine for good
    let clips = clip(sine(480.0, 4_800));
    let patch = patch_of("f", |s| {
        s.looped = true;
        (s.loop_start, s.loop_end, s.crossfade_s) = (0.5, 0.5 + 100.0 / 4800.0, 0.0);
    });
    for key in [60, 48, 67] {
        let mut engine = playing(&patch, &clips, key);
        take(&mut engine, 48_000);
        let heard = take(&mut engine, 9_600).0;
        let hz = 480.0 * 2f64.powf((f64::from(key) - 60.0) / 12.0);
        assert!((partial(&heard, hz).0 - 1.0).abs() < 1e-3);
        assert!(beside_db(&heard[..4800], hz) < -80.0);
    }
}

#[test]
fn a_sample_modulates_and_is_modulated() {
    let clips = clip(sine(200.0, 96_000));
    // as modulator of a sine: sidebands 200 Hz apart
    let mut patch = patch_of("g", |s| s.key_follow = false);
    patch.routes.clear();
    let mut carrier = plain_units(&[1.0]).units.remove(0);
    carrier.id = UnitId(2);
    patch.units.push(carrier);
    connect(&mut patch, 1, index(2, 1.5));
    connect(&mut patch, 2, TO_LEFT);
    let mut engine = playing(&patch, &clips, 81);
    take(&mut engine, 2400);
    let heard = take(&mut engine, 24_000).0;
    for n in 0..4 {
        let theory = libm::jn(n, 1.5).abs();
        let is = partial(&heard, 880.0 + 200.0 * f64::from(n)).0;
        assert!((is - theory).abs() < 2e-3, "{n}: {is} {theory}");
    }
    // moved in phase by a sine: one turn is a period of the root key
    let mut moved = patch_of("h", |s| (s.key_follow, s.root_key) = (true, 69));
    let mut mover = plain_units(&[0.25]).units.remove(0);
    mover.id = UnitId(2);
    moved.units.push(mover);
    connect(
        &mut moved,
        2,
        Send::Phase {
            to: UnitId(1),
            index_rad: 1.0,
        },
    );
    let clips = clip(sine(440.0, 96_000));
    let mut engine = playing(&moved, &clips, 69);
    take(&mut engine, 4800);
    let heard = take(&mut engine, 24_000).0;
    for n in 0..3 {
        let is = partial(&heard, 440.0 + 110.0 * f64::from(n)).0;
        let theory = libm::jn(n, 1.0).abs();
        assert!((is - theory).abs() < 2e-3, "{n}: {is} {theory}");
    }
}

#[test]
fn missing_audio_is_silence_and_leaves_the_rest_alone() {
    let mut patch = patch_of("i", |_| {});
    let mut other = plain_units(&[1.0]).units.remove(0);
    other.id = UnitId(2);
    patch.units.push(other);
    connect(&mut patch, 2, TO_LEFT);
    let mut engine = engine(&patch);
    engine.note_on(69, 127);
    take(&mut engine, 2400);
    let heard = take(&mut engine, 24_000).0;
    assert!((partial(&heard, 440.0).0 - 1.0).abs() < 1e-4);
    patch.units.pop();
    patch.routes.pop();
    let mut engine = crate::support::engine(&patch);
    engine.note_on(69, 127);
    assert!(take(&mut engine, 4800).0.iter().all(|s| *s == 0.0));
}
