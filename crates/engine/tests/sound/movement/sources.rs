//! What sources give: cycles, steps, chance, what is played, levels that are followed.

use crate::support::*;
use rstest::rstest;
use zolvik_edit::{Edit, apply};
use zolvik_engine::Control;
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::document::{RouteId, Send, SourceId, UnitId, VoiceSettings};
use zolvik_patch::movement::shape::{READY_SHAPES, level_at};
use zolvik_patch::movement::{
    Chance, Clock, Direction, Link, Played, PlayedWhat, Runs, Scope, SourceKind, SourceName,
};

/// What follows the tempo is where it belongs after ten minutes: within one sample of the beat.
#[rstest]
fn what_follows_the_tempo_stays_on_the_beat(
    #[values((Runs::Note, 44_100.0, 43.0), (Runs::Free, 48_000.0, 133.7), (Runs::Free, 44_100.0, 299.0))]
    (runs, rate_hz, tempo_bpm): (Runs, f64, f64),
) {
    let to = Address::patch(VoiceSettings::TRIM_DB);
    let mut patch = moved(&plain_units(&[1.0]), SourceName::Lfo, to);
    patch.audition.tempo_bpm = tempo_bpm;
    let timing = timing(&mut patch);
    (timing.clock, timing.cycle_beats, timing.runs) = (Clock::Tempo, 3.0, runs);
    let edit = Edit::SetShape {
        source: SourceId(1001),
        points: READY_SHAPES[2].points(),
    };
    let patch = apply(&patch, &edit).unwrap().0;
    let mut engine = engine_at(&patch, rate_hz);
    engine.note_on(60, 100);
    let mut at = 0u64;
    for minute in 1..=10u64 {
        let until = minute * 60 * rate_hz as u64 / 16 * 16;
        let frames = (until - at) as usize;
        take(&mut engine, frames);
        at = until;
        let turns = at as f64 / rate_hz * tempo_bpm / 60.0 / 3.0;
        let expected = turns.fract();
        let off_turns = f64::from(place(&engine)) - expected;
        let off_samples = (off_turns - off_turns.round()) * 3.0 * 60.0 / tempo_bpm * rate_hz;
        // the place itself is a number of 24 bits
        assert!(
            off_samples.abs() < 1.0,
            "after {minute} minutes: {off_samples} samples"
        );
    }
}

#[test]
fn a_cycle_runs_once_and_rests_where_it_has_come_to() {
    let to = Address::patch(VoiceSettings::TRIM_DB);
    let mut patch = moved(&plain_units(&[1.0]), SourceName::Lfo, to);
    (timing(&mut patch).runs, timing(&mut patch).rate_hz) = (Runs::Once, 2.0);
    let edit = Edit::SetShape {
        source: SourceId(1001),
        points: READY_SHAPES[7].points(),
    };
    let patch = apply(&patch, &edit).unwrap().0;
    let SourceKind::Lfo(lfo) = &patch.movement.sources[0].kind else {
        panic!("a shape was added");
    };
    let mut engine = engine(&patch);
    engine.note_on(60, 100);
    take(&mut engine, 12_000);
    let expected = level_at(&lfo.points, 0.5);
    assert!(
        (f64::from(place(&engine)) - expected).abs() < 2e-3,
        "{expected}"
    );
    take(&mut engine, 48_000);
    assert_eq!(place(&engine), lfo.points.last().unwrap().level as f32);
}

#[test]
fn every_ready_shape_is_played_as_it_is_drawn() {
    for ready in READY_SHAPES {
        let to = Address::patch(VoiceSettings::TRIM_DB);
        let mut patch = moved(&plain_units(&[1.0]), SourceName::Lfo, to);
        timing(&mut patch).rate_hz = 1.0;
        let edit = Edit::SetShape {
            source: SourceId(1001),
            points: ready.points(),
        };
        let patch = apply(&patch, &edit).unwrap().0;
        let mut engine = engine(&patch);
        engine.note_on(60, 100);
        for block in 1..3_000u32 {
            take(&mut engine, 16);
            let at = f64::from(block) / 3_000.0;
            let near =
                [-1e-4, 0.0, 1e-4].map(|by| level_at(&ready.points(), (at + by).clamp(0.0, 1.0)));
            let (low, high) = (
                near.iter().copied().fold(1.0, f64::min),
                near.iter().copied().fold(0.0, f64::max),
            );
            let there = f64::from(place(&engine));
            assert!(
                (low - 1e-3..=high + 1e-3).contains(&there),
                "{} at {at}: {there}",
                ready.name
            );
        }
    }
}

#[test]
fn it_begins_after_its_delay_and_fades_in() {
    let mut sine = plain_units(&[1.0]);
    connect(&mut sine, 1, TO_LEFT);
    let to = Address::route(RouteId(1), Send::LEVEL_DB);
    let mut patch = with_link(moved(&sine, SourceName::Macro, to), |link| {
        link.amount = -12.0
    });
    let SourceKind::Macro(knob) = &mut patch.movement.sources[0].kind else {
        panic!("a macro was added");
    };
    knob.place = 1.0;
    patch.movement.sources[0].scope = Scope::Note;
    (timing(&mut patch).delay_s, timing(&mut patch).fade_s) = (0.5, 1.0);
    let mut engine = engine(&patch);
    engine.note_on(69, 127);
    let samples = take(&mut engine, 96_000).0;
    for (at_s, expected_db) in [
        (0.2, 0.0),
        (0.45, 0.0),
        (1.0, -6.0),
        (1.25, -9.0),
        (1.8, -12.0),
    ] {
        let middle = (at_s * 48_000.0) as usize;
        let level = partial(&samples[middle - 1_200..middle + 1_200], 440.0).0;
        let off = off_db(level, 10f64.powf(expected_db / 20.0));
        assert!(off.abs() < 0.1, "{at_s} s: {off} dB");
    }
}

/// Three notes at once, each with a cutoff, level and pitch of its own: velocity moves them.
#[test]
fn each_note_is_moved_by_itself() {
    let mut sine = plain_units(&[1.0]);
    connect(&mut sine, 1, TO_LEFT);
    let to = Address::route(RouteId(1), Send::LEVEL_DB);
    let patch = with_link(moved(&sine, SourceName::Played, to), |link| {
        (link.direction, link.amount) = (Direction::Down, 20.0);
    });
    let mut engine = engine(&patch);
    let notes = [(57u8, 127u8, 220.0), (69, 64, 440.0), (81, 1, 880.0)];
    for (key, velocity, _) in notes {
        engine.note_on(key, velocity);
    }
    take(&mut engine, 4_800);
    let samples = take(&mut engine, 48_000).0;
    for (_, velocity, hz) in notes {
        let expected_db = -20.0 * f64::from(velocity) / 127.0;
        let off = off_db(partial(&samples, hz).0, 10f64.powf(expected_db / 20.0));
        assert!(off.abs() < 0.02, "{hz} Hz: {off} dB");
    }
}

#[rstest]
#[case::each_note(Chance::Note)]
#[case::hold(Chance::Hold)]
#[case::drift(Chance::Drift)]
fn chance_differs_from_note_to_note_and_repeats_in_every_render(#[case] chance: Chance) {
    let to = Address::patch(VoiceSettings::TUNE_CENTS);
    let mut patch = moved(&plain_units(&[1.0]), SourceName::Random, to);
    timing(&mut patch).rate_hz = 20.0;
    let SourceKind::Random(random) = &mut patch.movement.sources[0].kind else {
        panic!("chance was added");
    };
    (random.chance, random.low, random.high) = (chance, 0.2, 0.9);
    let run = |patch: &Patch| -> Vec<f32> {
        let mut engine = engine(patch);
        let mut list = vec![];
        for _ in 0..64 {
            engine.note_on(60, 100);
            for _ in 0..5 {
                take(&mut engine, 4_800);
                list.push(place(&engine));
            }
            engine.note_off(60);
        }
        list
    };
    let first = run(&patch);
    assert_eq!(first, run(&patch), "the same every time");
    assert!(first.iter().all(|x| (0.2..=0.9).contains(x)));
    let mean = first.iter().sum::<f32>() / first.len() as f32;
    assert!((mean - 0.55).abs() < 0.08, "even between its ends: {mean}");
    let mut sorted = first.clone();
    sorted.sort_by(f32::total_cmp);
    sorted.dedup();
    let different = if chance == Chance::Note { 64 } else { 250 };
    assert!(
        sorted.len() >= different,
        "{} different values",
        sorted.len()
    );
    let mut other = patch.clone();
    let SourceKind::Random(random) = &mut other.movement.sources[0].kind else {
        panic!("chance was added");
    };
    random.seed = 2;
    assert_ne!(first, run(&other), "another seed, other values");
}

#[test]
fn a_source_may_move_another_ones_rate_and_a_links_amount() {
    let mut sine = plain_units(&[1.0]);
    connect(&mut sine, 1, TO_LEFT);
    let level = Address::route(RouteId(1), Send::LEVEL_DB);
    let patch = with_link(moved(&sine, SourceName::Lfo, level), |link| {
        (link.direction, link.amount) = (Direction::Both, 6.0);
    });
    // the wheel brings the movement in: its amount goes from 0 to 6 dB
    let amount = Address::new(Link::AMOUNT, patch.movement.links[0].id.0);
    let mut patch = with_link(moved(&patch, SourceName::Played, amount), |link| {
        (link.direction, link.amount) = (Direction::Up, 6.0);
    });
    patch.movement.links[0].amount = 0.0;
    patch.movement.sources[1].kind = SourceKind::Played(Played {
        what: PlayedWhat::Wheel,
    });
    let swing_db = |wheel: f32| {
        let mut engine = engine(&patch);
        engine.control(Control::Wheel, wheel);
        engine.note_on(81, 127);
        take(&mut engine, 4_800);
        let samples = take(&mut engine, 48_000).0;
        let levels: Vec<f64> = samples.chunks(480).map(|c| partial(c, 880.0).0).collect();
        let most = levels.iter().copied().fold(0.0, f64::max);
        let least = levels.iter().copied().fold(9.0, f64::min);
        off_db(most, least)
    };
    assert!(swing_db(0.0) < 0.05);
    assert!((swing_db(0.5) - 6.0).abs() < 0.1, "{}", swing_db(0.5));
    assert!((swing_db(1.0) - 12.0).abs() < 0.1, "{}", swing_db(1.0));
    // and a loop is refused, by name
    let rate = Address::new(zolvik_patch::movement::Timing::RATE_HZ, 1001);
    let edit = Edit::AddLinks {
        from: SourceId(1001),
        to: vec![rate],
    };
    let why = apply(&patch, &edit).unwrap_err().to_string();
    assert!(why.contains("Level LFO, Level LFO"), "{why}");
}

/// What wheels and keys do comes where it is asked for.
#[rstest]
#[case::velocity(PlayedWhat::Velocity, 0.5039)]
#[case::key(PlayedWhat::Key, 0.6)]
#[case::wheel(PlayedWhat::Wheel, 0.2520)]
#[case::bend(PlayedWhat::Bend, 1.0)]
#[case::pressure(PlayedWhat::Pressure, 0.7559)]
#[case::expression(PlayedWhat::Expression, 0.0)]
#[case::pedal(PlayedWhat::Pedal, 1.0)]
#[case::alternating(PlayedWhat::Alternate, 0.0)]
#[case::held(PlayedWhat::Held, 0.25)]
#[case::release_velocity(PlayedWhat::ReleaseVelocity, 0.0787)]
fn what_is_played_arrives(#[case] what: PlayedWhat, #[case] expected: f32) {
    let to = Address::patch(VoiceSettings::TUNE_CENTS);
    let mut patch = moved(&plain_units(&[1.0]), SourceName::Played, to);
    patch.movement.sources[0].kind = SourceKind::Played(Played { what });
    let mut engine = engine(&patch);
    for message in [
        [0xB0, 1, 32],
        [0xE0, 127, 127],
        [0xA0, 72, 96],
        [0xD0, 20, 0],
        [0xB0, 11, 0],
        [0xB0, 64, 127],
        [0x90, 72, 80],
        [0x80, 72, 10],
        [0x90, 60, 99],
        [0x90, 72, 64],
    ] {
        engine.midi(message);
    }
    // the third note: odd ones are 1, so the second and fourth are 0
    engine.midi([0x80, 60, 0]);
    engine.midi([0x90, 60, 1]);
    engine.midi([0x80, 60, 0]);
    engine.midi([0x90, 72, 64]);
    if what == PlayedWhat::Held {
        engine.midi([0x90, 61, 1]);
    }
    take(&mut engine, 9_600);
    let there = place(&engine);
    if what == PlayedWhat::Alternate {
        let next = {
            engine.midi([0x90, 74, 64]);
            take(&mut engine, 480);
            place(&engine)
        };
        assert_eq!(there + next, 1.0, "in turn");
        return;
    }
    if what == PlayedWhat::Held {
        assert!((there - expected).abs() < 1e-3, "{there}");
        return;
    }
    assert!((there - expected).abs() < 1e-3, "{there}");
}

#[test]
fn a_follower_gives_the_level_of_its_strip() {
    let mut patch = plain_units(&[1.0, 1.0]);
    connect(&mut patch, 1, TO_LEFT);
    patch.units[1].envelope.points[1].level = 0.4;
    let to = Address::patch(VoiceSettings::TUNE_CENTS);
    let patch = moved(&patch, SourceName::Follower, to);
    let edit = Edit::Follow {
        source: SourceId(1001),
        unit: UnitId(2),
    };
    let patch = apply(&patch, &edit).unwrap().0;
    let mut engine = engine(&patch);
    engine.note_on(60, 127);
    take(&mut engine, 48_000);
    assert!((place(&engine) - 0.4).abs() < 1e-3, "{}", place(&engine));
}
