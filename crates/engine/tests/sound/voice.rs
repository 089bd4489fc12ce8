//! Copies, starting phases, drift, mono and legato, gliding, bending, priority.

use rstest::rstest;
use zolvik_engine::Engine;
use zolvik_patch::Patch;
use zolvik_patch::document::{
    Glide, Mode, Priority, Quality, Route, RouteId, Send, Start, Unit, UnitId,
};
use zolvik_patch::pitch::key_hz;

use crate::support::*;

/// A sine at a ratio, full level in the left channel.
fn sine(ratio: f64) -> Patch {
    let mut patch = plain_units(&[ratio]);
    connect(&mut patch, 1, TO_LEFT);
    patch
}

fn level_at(samples: &[f32], hz: f64) -> f64 {
    partial(samples, hz).0
}

#[test]
fn copies_stand_around_the_pitch_and_are_together_as_strong() {
    let mut patch = sine(1.0);
    let unison = &mut patch.voice.unison;
    (unison.copies, unison.detune_cents, unison.spread) = (5, 50.0, 0.0);
    let mut engine = engine(&patch);
    engine.note_on(69, 127);
    assert_eq!(engine.voices(), 1, "copies are one note");
    take(&mut engine, 4800);
    let samples = take(&mut engine, 4 * 48_000).0;
    let mut power = 0.0;
    for place in [-1.0, -0.5, 0.0, 0.5, 1.0] {
        let level = level_at(&samples, 440.0 * 2f64.powf(place * 50.0 / 1200.0));
        assert!((level - 1.0 / 5f64.sqrt()).abs() < 0.01, "{place}: {level}");
        power += level * level;
    }
    assert!((power - 1.0).abs() < 0.02, "{power}");
}

#[test]
fn blend_lowers_the_outer_copies_and_spread_parts_them() {
    let mut patch = sine(1.0);
    let unison = &mut patch.voice.unison;
    (unison.copies, unison.detune_cents, unison.blend) = (3, 40.0, 0.25);
    unison.spread = 1.0;
    patch.routes[0].send = zolvik_patch::document::Send::Output {
        level_db: 0.0,
        pan: 0.0,
        bus: Default::default(),
    };
    let mut engine = engine(&patch);
    engine.note_on(69, 127);
    take(&mut engine, 4800);
    let (left, right) = take(&mut engine, 4 * 48_000);
    let both = |place: f64| {
        let hz = 440.0 * 2f64.powf(place * 40.0 / 1200.0);
        (level_at(&left, hz), level_at(&right, hz))
    };
    let (low, middle, high) = (both(-1.0), both(0.0), both(1.0));
    assert!(
        (middle.0 / middle.1 - 1.0).abs() < 1e-3,
        "the middle is in the middle"
    );
    for one in [low, high] {
        let ratio = one.0.hypot(one.1) / middle.0.hypot(middle.1);
        assert!((ratio - 0.25).abs() < 5e-3, "{ratio}");
        assert!(one.0.min(one.1) < 1e-3, "at the rim");
    }
    assert!((low.0 > low.1) != (high.0 > high.1), "on either side");
}

/// The first samples of some notes in a row.
fn beginnings(patch: &Patch, notes: usize) -> Vec<Vec<f32>> {
    let mut engine = engine(patch);
    (0..notes)
        .map(|_| {
            engine.silence();
            take(&mut engine, 1008);
            engine.note_on(69, 127);
            take(&mut engine, 2400).0
        })
        .collect()
}

#[rstest]
#[case(Start::Fixed, true)]
#[case(Start::Random, false)]
#[case(Start::Free, false)]
fn notes_begin_where_they_are_told_to(#[case] start: Start, #[case] alike: bool) {
    let mut patch = sine(1.0);
    let operator = patch.units[0].oscillator_mut().unwrap();
    (operator.start, operator.start_turns) = (start, 0.25);
    let notes = beginnings(&patch, 4);
    assert_eq!(notes[0] == notes[1], alike);
    assert_eq!(notes[1] == notes[2], alike);
    assert!(
        notes == beginnings(&patch, 4),
        "the same seed, the same sound"
    );
    if start == Start::Fixed {
        // a period of 109 samples later it is there again, the envelope being up
        assert!(notes[0][109] > 0.98, "begins at the peak");
    }
    patch.voice.seed = 2;
    assert_eq!(notes == beginnings(&patch, 4), alike, "another seed");
}

#[test]
fn free_running_goes_on_between_notes() {
    let mut patch = sine(1.0);
    patch.units[0].oscillator_mut().unwrap().start = Start::Free;
    let mut engine = engine(&patch);
    let mut phases = vec![];
    for _ in 0..3 {
        engine.note_on(69, 127);
        take(&mut engine, 480);
        phases.push(partial(&take(&mut engine, 4_800).0, 440.0).1);
        engine.silence();
        take(&mut engine, 48_000 - 5_280);
    }
    // a second holds 440 whole periods
    for phase in &phases {
        let off = (phase - phases[0] + 0.5).rem_euclid(1.0) - 0.5;
        assert!(off.abs() < 1e-3, "{phases:?}");
    }
}

#[test]
fn drift_wanders_slowly_within_its_cents() {
    let mut patch = sine(1.0);
    patch.voice.drift_cents = 20.0;
    let mut engine = engine(&patch);
    engine.note_on(69, 127);
    let mut cents = vec![];
    for _ in 0..60 {
        let samples = take(&mut engine, 4_800).0;
        // frequency from how the phase moves between the halves
        let (a, b) = (
            partial(&samples[..2400], 440.0).1,
            partial(&samples[2400..], 440.0).1,
        );
        let moved = (b - a + 0.5).rem_euclid(1.0) - 0.5;
        let hz = 440.0 + moved * RATE_HZ / 2400.0;
        cents.push(1200.0 * (hz / 440.0).log2());
    }
    let most = cents.iter().fold(0.0f64, |a, b| a.max(b.abs()));
    assert!((4.0..=20.5).contains(&most), "{most}");
    let jump = cents
        .windows(2)
        .map(|w| (w[1] - w[0]).abs())
        .fold(0.0, f64::max);
    assert!(jump < 8.0, "{jump} ct in a tenth of a second");
}

/// How far the phase runs away from a frequency over a stretch, in turns.
fn runs_off(samples: &[f32], hz: f64) -> f64 {
    let half = samples.len() / 2;
    let turn = std::f64::consts::TAU * hz / RATE_HZ;
    let phase = |from: usize| {
        let (mut re, mut im) = (0.0, 0.0);
        for (i, sample) in samples.iter().enumerate().skip(from).take(half) {
            re += f64::from(*sample) * (turn * i as f64).cos();
            im += f64::from(*sample) * (turn * i as f64).sin();
        }
        re.atan2(im) / std::f64::consts::TAU
    };
    (phase(half) - phase(0) + 0.5).rem_euclid(1.0) - 0.5
}

#[rstest]
fn a_glide_arrives_in_its_time_within_a_millisecond(
    #[values(Mode::Mono, Mode::Legato, Mode::Poly)] mode: Mode,
    #[values(0.02, 0.1, 0.5)] glide_s: f64,
) {
    // 32 times the key, so that a millisecond holds many periods
    let mut patch = sine(16.0);
    (patch.voice.mode, patch.voice.glide_s, patch.voice.glide) = (mode, glide_s, Glide::Always);
    let mut engine = engine(&patch);
    engine.note_on(57, 127);
    take(&mut engine, 4800);
    if mode == Mode::Poly {
        engine.silence();
        take(&mut engine, 960);
    }
    engine.note_on(69, 127);
    let samples = take(&mut engine, 48_000).0;
    let goal_hz = 16.0 * key_hz(69.0);
    let at = (glide_s * RATE_HZ) as usize;
    let after = runs_off(&samples[at + 48..at + 48 + 96], goal_hz);
    assert!(after.abs() < 0.002, "not there a millisecond late: {after}");
    let before = runs_off(&samples[at - 48 - 96..at - 48], goal_hz);
    assert!(before.abs() > 0.002, "there a millisecond early: {before}");
    // half-way in pitch at half the time: the octave's middle
    let middle = at / 2;
    let middle_hz = 16.0 * key_hz(63.0);
    let off = runs_off(&samples[middle - 24..middle + 24], middle_hz);
    assert!(off.abs() < 0.04, "{off} at the middle");
}

#[test]
fn gliding_on_overlap_needs_an_overlap() {
    let mut patch = sine(1.0);
    (patch.voice.mode, patch.voice.glide_s, patch.voice.glide) = (Mode::Mono, 0.2, Glide::Overlap);
    let heard = |overlap: bool| {
        let mut engine = engine(&patch);
        engine.note_on(57, 127);
        take(&mut engine, 4800);
        if !overlap {
            engine.note_off(57);
        }
        engine.note_on(69, 127);
        level_at(&take(&mut engine, 2400).0, 440.0)
    };
    assert!(heard(false) > 0.9, "{}", heard(false));
    assert!(heard(true) < 0.3, "{}", heard(true));
}

fn mono(mode: Mode, priority: Priority) -> Engine {
    let mut patch = sine(1.0);
    (patch.voice.mode, patch.voice.priority) = (mode, priority);
    patch.units[0].envelope.points[0].time_s = 0.05;
    engine(&patch)
}

/// Which of some keys sounds.
fn sounding(engine: &mut Engine, keys: &[u8]) -> Vec<u8> {
    take(engine, 4800);
    let samples = take(engine, 9600).0;
    keys.iter()
        .copied()
        .filter(|k| level_at(&samples, key_hz((*k).into())) > 0.5)
        .collect()
}

#[rstest]
#[case(Priority::Last, [60, 67, 64], [60, 67, 64], 67)]
#[case(Priority::Lowest, [60, 67, 64], [60, 60, 60], 60)]
#[case(Priority::Highest, [60, 67, 64], [60, 67, 67], 67)]
#[case(Priority::Lowest, [64, 60, 67], [64, 60, 60], 60)]
fn one_note_at_a_time_by_priority(
    #[case] priority: Priority,
    #[case] pressed: [u8; 3],
    #[case] heard: [u8; 3],
    #[case] back_to: u8,
) {
    for mode in [Mode::Mono, Mode::Legato] {
        let mut engine = mono(mode, priority);
        for (key, expected) in pressed.iter().zip(heard) {
            engine.note_on(*key, 127);
            assert_eq!(sounding(&mut engine, &[60, 64, 67]), [expected], "{mode:?}");
            assert_eq!(engine.voices(), 1);
        }
        // the last one pressed goes up: back to one that is still down
        engine.note_off(pressed[2]);
        assert_eq!(sounding(&mut engine, &[60, 64, 67]), [back_to], "{mode:?}");
        engine.note_off(pressed[0]);
        engine.note_off(pressed[1]);
        take(&mut engine, 24_000);
        assert_eq!(engine.voices(), 0, "nothing hangs");
    }
}

#[test]
fn mono_strikes_anew_and_legato_does_not() {
    let after = |mode: Mode| {
        let mut patch = sine(1.0);
        patch.voice.mode = mode;
        let points = &mut patch.units[0].envelope.points;
        // a quick rise to full, then down to a third
        (points[0].time_s, points[1].time_s, points[1].level) = (0.01, 0.2, 0.3);
        let mut engine = engine(&patch);
        engine.note_on(60, 127);
        take(&mut engine, 24_000);
        engine.note_on(64, 127);
        let samples = take(&mut engine, 2400).0;
        assert!(
            roughness(&samples) < 0.01,
            "no click: {}",
            roughness(&samples)
        );
        samples.iter().fold(0.0f32, |a, b| a.max(b.abs()))
    };
    assert!(after(Mode::Mono) > 0.9);
    assert!(after(Mode::Legato) < 0.4);
}

#[test]
fn the_wheel_bends_by_its_range_and_comes_back() {
    let mut patch = sine(1.0);
    patch.voice.bend_semitones = 7.0;
    let mut engine = engine(&patch);
    engine.note_on(69, 127);
    engine.midi([0xE0, 127, 127]);
    take(&mut engine, 9600);
    let up = level_at(&take(&mut engine, 9600).0, key_hz(76.0));
    assert!(up > 0.999, "{up}");
    engine.midi([0xE0, 0, 0]);
    take(&mut engine, 9600);
    let down = level_at(&take(&mut engine, 9600).0, key_hz(62.0));
    assert!(down > 0.999, "{down}");
    engine.midi([0xE0, 0, 64]);
    take(&mut engine, 9600);
    let back = level_at(&take(&mut engine, 48_000).0, 440.0);
    assert!(back > 0.9999, "{back}");
}

#[test]
fn many_copies_leave_room_for_new_notes_and_nothing_hangs() {
    let mut patch = sine(1.0);
    patch.voice.unison.copies = 16;
    patch.voice.polyphony = 32;
    let mut engine = engine(&patch);
    for key in 40..70 {
        engine.note_on(key, 100);
        take(&mut engine, 400);
    }
    let newest = level_at(&take(&mut engine, 9600).0, 440.0);
    assert!(newest > 0.02, "the newest is heard: {newest}");
    (40..70).for_each(|key| engine.note_off(key));
    take(&mut engine, 48_000);
    assert_eq!(engine.voices(), 0);
}

/// A sideband at 27.2 kHz folds down to 20.8 kHz at the plain rate; what is written at four times that has none of it.
#[test]
fn a_render_in_finer_quality_has_nothing_folded() {
    let mut patch = sine(1.0);
    patch.units.push(Unit::operator(UnitId(2)));
    patch.units[1].oscillator_mut().unwrap().ratio = 3.0;
    patch.units[1].velocity = 0.0;
    patch.units[1].envelope = patch.units[0].envelope.clone();
    patch.routes.push(Route {
        id: RouteId(9),
        from: UnitId(2),
        on: true,
        send: Send::Phase {
            to: UnitId(1),
            index_rad: 6.0,
        },
    });
    patch.voice.render_quality = Some(Quality::X4);
    let folded_hz = 48_000.0 - 13.0 * key_hz(96.0);
    let folded = |patch: &Patch| {
        let mut engine = engine(patch);
        engine.note_on(96, 127);
        take(&mut engine, 9_600);
        level_at(&take(&mut engine, 48_000).0, folded_hz)
    };
    let (played, written) = (folded(&patch), folded(&patch.for_files()));
    assert!(played > 0.1, "J4(6) is 0.36: {played}");
    assert!(written < 1e-4, "{written}");
}
