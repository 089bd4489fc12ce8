//! Chains of effects behind the voices: transparent where they do nothing, aligned, never clicking, and ended in time.

use rstest::rstest;
use zolvik_engine::program::{compile, prepare};
use zolvik_engine::{BLOCK, Engine};
use zolvik_patch::Patch;
use zolvik_patch::document::{Bus, ChainId, EffectId, Quality, Send};
use zolvik_patch::finish::{Compressor, Delay, Effect, EffectName, Limiter, Reverb};
use zolvik_patch::hearing::Listening;
use zolvik_patch::testing::{Dice, any_patch};

use crate::support::roughness_of_peak;

const RATE_HZ: f64 = 48_000.0;

/// A sine, and the same way by the second way out where it is asked for.
fn patch() -> Patch {
    let mut patch = Patch::empty();
    patch.voice.quality = Quality::X1;
    patch
}

fn effect(kind: EffectName, n: u16) -> Effect {
    Effect::new(EffectId(EffectId::FIRST + n), kind)
}

fn set(effect: &mut Effect, id: zolvik_patch::param::ParamId, value: f64) {
    effect.value_slot(id).unwrap().write(value);
}

/// A note held for a second, in seconds.
fn sound(patch: &Patch, seconds: f64) -> [Vec<f32>; 2] {
    let mut engine = Engine::new(RATE_HZ);
    engine.take(&prepare(patch, &Listening::default()));
    engine.note_on(57, 100);
    let frames = (seconds * RATE_HZ) as usize / BLOCK * BLOCK;
    let (mut l, mut r) = (vec![0.0; frames], vec![0.0; frames]);
    for at in (0..frames).step_by(BLOCK) {
        if at == 48_000 {
            engine.note_off(57);
        }
        engine.process(&mut l[at..at + BLOCK], &mut r[at..at + BLOCK]);
    }
    [l, r]
}

fn latency(patch: &Patch) -> usize {
    let mut engine = Engine::new(RATE_HZ);
    engine.take(&prepare(patch, &Listening::default()));
    engine.effect_latency_frames()
}

/// With nothing of it, or switched off, every effect leaves the sound as it is, to the bit; late by what it says.
#[rstest]
fn an_effect_at_nothing_is_transparent_to_the_bit(
    #[values(false, true)] off: bool,
    #[values(ChainId::First, ChainId::Common)] chain: ChainId,
) {
    let plain = sound(&patch(), 1.5);
    for kind in EffectName::ALL {
        let mut with = patch();
        let mut one = effect(*kind, 0);
        match off {
            true => one.on = false,
            false => one.mix = 0.0,
        }
        with.finish.chain_mut(chain).effects.push(one);
        let late = latency(&with);
        let heard = sound(&with, 1.5);
        for side in 0..2 {
            let count = plain[side].len() - late;
            let same = heard[side][late..] == plain[side][..count];
            assert!(same, "{}: late by {late}", kind.label());
        }
    }
}

/// Ways that run beside each other arrive together, however late the effects in one of them are.
#[test]
fn ways_beside_each_other_arrive_together() {
    let mut with = patch();
    let mut limiter = effect(EffectName::Limiter, 0);
    set(&mut limiter, Limiter::CEILING_DB, 0.0);
    set(&mut limiter, Limiter::AHEAD_S, 0.01);
    with.finish.second.effects.push(limiter);
    // the same strip once more, by the second way and by the clean one, each turned over against the first
    for (bus, id) in [(Bus::Second, 2), (Bus::Clean, 3)] {
        let mut unit = with.units[0].clone();
        unit.id = zolvik_patch::document::UnitId(id);
        if let Some(operator) = unit.oscillator_mut() {
            operator.start_turns = 0.5;
        }
        with.units.push(unit);
        let mut route = with.routes[0].clone();
        (route.id.0, route.from.0) = (id, id);
        route.send = Send::output();
        if let Send::Output {
            bus: own, level_db, ..
        } = &mut route.send
        {
            *own = bus;
            *level_db = -18.020_599_913_279_624;
        }
        with.routes.push(route);
    }
    let heard = sound(&with, 1.0);
    let late = latency(&with);
    assert!(late > 480, "{late}");
    let rest = heard[0][late + 64..]
        .iter()
        .fold(0.0f32, |a, x| a.max(x.abs()));
    // both halves take the whole away
    assert!(rest < 1e-4, "{rest}");
}

/// Switching, adding, moving and taking out while a note sounds never clicks, and the voice goes on.
#[rstest]
fn changes_of_the_chains_do_not_click(
    #[values(
        EffectName::Drive,
        EffectName::Eq,
        EffectName::Chorus,
        EffectName::Delay,
        EffectName::Reverb,
        EffectName::Stereo,
        EffectName::Limiter,
        EffectName::ThreeBand
    )]
    kind: EffectName,
) {
    let without = patch();
    let mut with = patch();
    let mut one = effect(kind, 0);
    one.mix = 0.8;
    with.finish.first.effects = vec![one.clone(), effect(EffectName::Level, 1)];
    let mut off = with.clone();
    off.finish.first.effects[0].on = false;
    let mut moved = with.clone();
    moved.finish.first.effects.swap(0, 1);
    let mut common = with.clone();
    common.finish.common.effects = std::mem::take(&mut common.finish.first.effects);
    let still = roughness_of_peak(&sound(&with, 1.0)[0][9_600..])
        .max(roughness_of_peak(&sound(&without, 1.0)[0][9_600..]));
    let mut engine = Engine::new(RATE_HZ);
    engine.take(&prepare(&without, &Listening::default()));
    engine.note_on(57, 100);
    let mut all = vec![];
    for state in [&without, &with, &off, &with, &moved, &common, &without] {
        engine.take(&prepare(state, &Listening::default()));
        let (mut l, mut r) = (vec![0.0; 9_600], vec![0.0; 9_600]);
        engine.process(&mut l, &mut r);
        all.extend(l);
    }
    let rough = roughness_of_peak(&all[4_800..]);
    let at = (4_801..all.len() - 1)
        .max_by(|a, b| {
            let d = |i: usize| (all[i - 1] - 2.0 * all[i] + all[i + 1]).abs();
            d(*a).total_cmp(&d(*b))
        })
        .unwrap();
    println!("{kind:?}: roughest at {at}, {} of a state", at % 9_600);
    assert!(
        rough < 3.0 * still + 0.002,
        "{kind:?}: {rough}, still {still}"
    );
    let end = &all[all.len() - 4_800..];
    assert!(end.iter().any(|x| x.abs() > 0.02), "the voice goes on");
}

/// A tail goes on while the routing of the voices changes.
#[test]
fn a_change_of_the_routing_leaves_tails_ringing() {
    let mut with = patch();
    let mut reverb = effect(EffectName::Reverb, 0);
    reverb.mix = 1.0;
    set(&mut reverb, Reverb::TIME_S, 4.0);
    with.finish.common.effects.push(reverb);
    let mut other = with.clone();
    let edit = zolvik_edit::Edit::AddUnit {
        kind: zolvik_patch::document::KindName::Noise,
        connect: zolvik_edit::Connect::Unit {
            id: zolvik_patch::document::UnitId(1),
        },
    };
    if let Ok((next, _)) = zolvik_edit::apply(&other, &edit) {
        other = next;
    }
    let run = |change: bool| {
        let mut engine = Engine::new(RATE_HZ);
        engine.take(&prepare(&with, &Listening::default()));
        engine.note_on(57, 100);
        let (mut l, mut r) = (vec![0.0; 24_000], vec![0.0; 24_000]);
        engine.process(&mut l, &mut r);
        engine.note_off(57);
        engine.process(&mut l, &mut r);
        if change {
            engine.take(&prepare(&other, &Listening::default()));
        }
        engine.process(&mut l, &mut r);
        l.iter().map(|x| x * x).sum::<f32>()
    };
    let (still, changed) = (run(false), run(true));
    assert!(still > 1e-3);
    assert!((changed / still - 1.0).abs() < 0.2, "{changed} {still}");
}

/// What is heard ends within the tail that is stated, whatever feeds itself.
#[rstest]
#[case::reverb(EffectName::Reverb, &[(Reverb::TIME_S, 1.0)])]
#[case::delay(EffectName::Delay, &[(Delay::FEEDBACK, 0.5)])]
#[case::for_ever(EffectName::Delay, &[(Delay::FEEDBACK, 1.0), (Delay::DRIVE_DB, 24.0)])]
fn it_ends_within_the_stated_tail(
    #[case] kind: EffectName,
    #[case] values: &[(zolvik_patch::param::ParamId, f64)],
) {
    let mut with = patch();
    let mut one = effect(kind, 0);
    one.mix = 1.0;
    for (id, value) in values {
        set(&mut one, *id, *value);
    }
    with.finish.common.effects.push(one);
    let program = compile(&with, &Listening::default());
    let tail_s = program.tail_of_s(57, 100);
    assert!(tail_s > 0.5 && tail_s < 31.0, "{tail_s}");
    let heard = sound(&with, 1.0 + tail_s + 0.3);
    let end = ((1.0 + tail_s + 0.1) * RATE_HZ) as usize;
    assert!(
        heard[0][end..].iter().all(|x| *x == 0.0),
        "silent at its end"
    );
    let before = ((1.0 + 0.3 * tail_s) * RATE_HZ) as usize;
    assert!(
        heard[0][before..before + 9_600]
            .iter()
            .any(|x| x.abs() > 1e-6)
    );
}

/// A link to a value of an effect moves it: a mix that is moved from nothing to all.
#[test]
fn links_move_values_of_effects() {
    use zolvik_edit::{Edit, apply};
    use zolvik_patch::address::Address;
    use zolvik_patch::movement::{Macro, SourceName};
    let mut with = patch();
    let mut level = effect(EffectName::Level, 0);
    set(&mut level, zolvik_patch::finish::Gain::GAIN_DB, -20.0);
    level.mix = 0.0;
    with.finish.first.effects.push(level);
    let to = vec![Address::new(Effect::MIX, EffectId::FIRST)];
    let kind = SourceName::Macro;
    let (mut moved, _) = apply(&with, &Edit::AddSource { kind, to }).unwrap();
    let link = moved.movement.links[0].id;
    let (low, high) = (0.0, 1.0);
    moved = apply(&moved, &Edit::SetWay { link, low, high }).unwrap().0;
    let at = |place: f64| {
        let mut patch = moved.clone();
        let address = Address::new(Macro::PLACE, patch.movement.sources[0].id.0);
        address.set(&mut patch, place).unwrap();
        let x = &sound(&patch, 0.5)[0];
        x[12_000..].iter().fold(0.0f32, |a, b| a.max(b.abs()))
    };
    let db = 20.0 * (at(1.0) / at(0.0)).log10();
    assert!((db + 20.0).abs() < 0.1, "{db} dB");
}

/// Echoes ring on while the tempo changes: nothing clicks, and the next ones come at the new time.
#[test]
fn a_change_of_tempo_leaves_echoes_whole() {
    let mut with = patch();
    let mut delay = effect(EffectName::Delay, 0);
    set(&mut delay, Effect::MIX, 0.5);
    let _ = delay.choose_of(Delay::CLOCK, 1);
    set(&mut delay, Delay::LEFT_BEATS, 0.5);
    set(&mut delay, Delay::RIGHT_BEATS, 0.5);
    set(&mut delay, Delay::FEEDBACK, 0.7);
    with.finish.common.effects.push(delay);
    let mut engine = Engine::new(RATE_HZ);
    let play = |engine: &mut Engine, seconds: f64| {
        let frames = (seconds * RATE_HZ) as usize;
        let (mut l, mut r) = (vec![0.0; frames], vec![0.0; frames]);
        engine.process(&mut l, &mut r);
        l
    };
    with.audition.tempo_bpm = 120.0;
    engine.take(&prepare(&with, &Listening::default()));
    engine.note_on(57, 100);
    let held = play(&mut engine, 0.4);
    engine.note_off(57);
    let before = play(&mut engine, 0.3);
    with.audition.tempo_bpm = 90.0;
    engine.take(&prepare(&with, &Listening::default()));
    let after = play(&mut engine, 1.0);
    let still = roughness_of_peak(&held[12_000..]).max(roughness_of_peak(&before));
    assert!(after.iter().all(|x| x.is_finite()));
    assert!(after.iter().any(|x| x.abs() > 0.01), "they ring on");
    println!("{} against {still}", roughness_of_peak(&after));
    assert!(roughness_of_peak(&after) < 2.0 * still);
}

/// A compressor that listens to the beat does nothing where there is none.
#[test]
fn a_side_chain_without_a_beat_does_nothing() {
    let mut with = patch();
    let mut one = effect(EffectName::Compressor, 0);
    let _ = one.choose_of(Compressor::SIDE, 1);
    with.finish.first.effects.push(one);
    assert_eq!(sound(&with, 0.5), sound(&patch(), 0.5));
}

/// Any rack of any effects with any values stays finite and ends.
#[rstest]
fn any_rack_is_finite_at_every_rate(#[values(0, 1, 2, 3)] part: u64) {
    let tried = racks((0..40).map(|seed| seed * 4 + part));
    assert!(tried > 6, "{tried}");
}

/// The same for many more: `cargo test -p zolvik-engine --test sound -- --ignored ten_thousand`.
#[rstest]
#[ignore = "an hour; each part says when it is done"]
fn ten_thousand_racks_are_finite_at_every_rate(
    #[values(0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19)] part: u64,
) {
    let with_racks = (0..)
        .map(|n| 10_000 + 20 * n + part)
        .filter(|seed| any_patch(*seed).finish.effects().next().is_some());
    assert_eq!(racks(with_racks.take(500)), 500);
}

/// What is let go ends within the tail that is stated, whatever stands behind it: no voice is left, and not a bit.
#[rstest]
fn any_rack_ends_within_its_stated_tail(#[values(0, 1, 2, 3)] part: u64) {
    assert!(ends((0..60).map(|seed| seed * 4 + part)) > 5);
}

/// The same for many more: `cargo test -p zolvik-engine --test sound -- --ignored ten_thousand`.
#[rstest]
#[ignore = "each part says when it is done"]
fn ten_thousand_racks_end_within_their_stated_tail(
    #[values(0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19)] part: u64,
) {
    let with_racks = (0..)
        .map(|n| 10_000 + 20 * n + part)
        .filter(|seed| any_patch(*seed).finish.effects().next().is_some());
    assert_eq!(ends(with_racks.take(500)), 500);
}

/// As [`racks`], to the end of what is heard; at a low rate, as it takes up to half a minute of sound.
fn ends(seeds: impl Iterator<Item = u64>) -> usize {
    const LOW_RATE_HZ: f64 = 8_000.0;
    let mut tried = 0;
    for seed in seeds {
        let mut with = any_patch(seed);
        if with.finish.effects().next().is_none() {
            continue;
        }
        tried += 1;
        with.voice.quality = Quality::X1;
        with.voice.longest_ring_s = 0.1;
        for unit in &mut with.units {
            unit.envelope.in_beats = false;
            unit.envelope.delay_s = unit.envelope.delay_s.min(0.01);
            for point in &mut unit.envelope.points {
                point.time_s = point.time_s.min(0.001);
            }
        }
        let tail_s = compile(&with, &Listening::default()).tail_of_s(57, 100);
        let mut engine = Engine::new(LOW_RATE_HZ);
        engine.take(&prepare(&with, &Listening::default()));
        let take = |engine: &mut Engine, seconds: f64| {
            let frames = (seconds * LOW_RATE_HZ) as usize;
            let (mut l, mut r) = (vec![0.0; frames], vec![0.0; frames]);
            engine.process(&mut l, &mut r);
            [l, r].concat()
        };
        engine.note_on(57, 100);
        take(&mut engine, 0.2);
        engine.note_off(57);
        take(&mut engine, tail_s + 0.1);
        assert_eq!(engine.voices(), 0, "seed {seed} goes on after {tail_s} s");
        let rest = take(&mut engine, 0.1);
        let loudest = rest.iter().fold(0.0_f32, |most, x| most.max(x.abs()));
        assert!(loudest == 0.0, "seed {seed}: {loudest} after {tail_s} s");
    }
    tried
}

/// How many of some random patches have effects; all of those are played.
fn racks(seeds: impl Iterator<Item = u64>) -> usize {
    let mut tried = 0;
    for seed in seeds {
        let mut with = any_patch(seed);
        if with.finish.effects().next().is_none() {
            continue;
        }
        tried += 1;
        with.voice.quality = Quality::X1;
        let rate_hz = [8_000.0, 44_100.0, 48_000.0, 96_000.0, 192_000.0][Dice(seed).below(5)];
        let mut engine = Engine::new(rate_hz);
        engine.take(&prepare(&with, &Listening::default()));
        engine.note_on(57, 100);
        let frames = (0.2 * rate_hz) as usize;
        let (mut l, mut r) = (vec![0.0; frames], vec![0.0; frames]);
        engine.process(&mut l, &mut r);
        engine.note_off(57);
        engine.process(&mut l, &mut r);
        for x in l.iter().chain(&r) {
            assert!(x.is_finite() && x.abs() < 1e6, "seed {seed}: {x}");
        }
    }
    tried
}
