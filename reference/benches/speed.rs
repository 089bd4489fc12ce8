//! Operator-samples per second against a bare sine loop and against another library, in one run.
//! Printed, never asserted: `cargo xtask measure speed`.
#![allow(clippy::disallowed_methods)] // references are reckoned in their own way

use std::hint::black_box;
use std::time::Instant;

use fundsp::prelude32::*;
use wide::f32x8;
use zolvik_engine::{Engine, program::compile, sine_turns};
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::document::{Operator, Quality, Route, RouteId, Send, SourceId, Unit, UnitId};
use zolvik_patch::hearing::Listening;
use zolvik_patch::movement::amount::gentle;
use zolvik_patch::movement::{Source, SourceName};

/// Voices the engine takes.
const VOICES: usize = 32;
const OPERATORS: usize = 6;
const FRAMES: usize = 48_000;

/// Rounds; in each all three are timed in turn, so that a processor that changes its clock favours none.
const ROUNDS: usize = 15;

/// Operator-samples per second of one run.
fn speed(work: usize, run: &mut dyn FnMut()) -> f64 {
    let start = Instant::now();
    run();
    work as f64 / start.elapsed().as_secs_f64()
}

fn median(mut values: Vec<f64>) -> f64 {
    values.sort_by(f64::total_cmp);
    values[values.len() / 2]
}

fn chain() -> Patch {
    let mut patch = Patch {
        units: vec![],
        routes: vec![],
        ..Patch::empty()
    };
    patch.voice.polyphony = VOICES as u8;
    for n in 1..=OPERATORS as u16 {
        patch.units.push(Unit::operator(UnitId(n)));
        let send = if n == 1 {
            Send::output()
        } else {
            Send::phase(UnitId(n - 1))
        };
        patch.routes.push(Route {
            id: RouteId(n),
            from: UnitId(n),
            on: true,
            send,
        });
    }
    patch
}

/// One note of eight copies, or eight notes, of the same chain.
fn voices(copies: u8) -> impl FnMut() {
    let mut patch = chain();
    patch.voice.unison.copies = copies;
    let program = compile(&patch, &Listening::default());
    let mut engine = Engine::new(48_000.0);
    engine.install(&program);
    (0..8 / copies).for_each(|v| engine.note_on(50 + v, 100));
    let (mut left, mut right) = (vec![0.0; FRAMES], vec![0.0; FRAMES]);
    move || {
        engine.process(&mut left, &mut right);
        black_box(&left);
    }
}

fn engine() -> impl FnMut() {
    playing(&chain())
}

fn playing(patch: &Patch) -> impl FnMut() + use<> {
    let program = compile(patch, &Listening::default());
    let mut engine = Engine::new(48_000.0);
    engine.install(&program);
    (0..VOICES as u8).for_each(|v| engine.note_on(40 + v, 100));
    let (mut left, mut right) = (vec![0.0; FRAMES], vec![0.0; FRAMES]);
    move || {
        engine.process(&mut left, &mut right);
        black_box(&left);
    }
}

fn bare() -> impl FnMut() {
    let groups = VOICES / 8 * OPERATORS;
    let mut phases = vec![f32x8::ZERO; groups];
    move || {
        let step = f32x8::splat(0.01);
        for _ in 0..FRAMES / 16 {
            for phase in &mut phases {
                let mut sum = f32x8::ZERO;
                for _ in 0..16 {
                    *phase += step;
                    sum += sine_turns(*phase);
                }
                black_box(sum);
                *phase -= f32x8::splat(0.16);
            }
        }
    }
}

fn fundsp() -> impl FnMut() {
    let hz = |ratio: f32| 220.0 * ratio;
    // phase modulation chain of the library's own sines, one voice at a time as it is meant to be used
    let mut graph = (dc(hz(6.0)) >> (sine() * 100.0 + hz(5.0)))
        >> (sine() * 100.0 + hz(4.0))
        >> (sine() * 100.0 + hz(3.0))
        >> (sine() * 100.0 + hz(2.0))
        >> (sine() * 100.0 + hz(1.0))
        >> sine();
    graph.set_sample_rate(48_000.0);
    let mut buffer = BufferArray::<U1>::new();
    move || {
        for _ in 0..FRAMES / 64 {
            graph.process(64, &BufferRef::empty(), &mut buffer.buffer_mut());
            black_box(&buffer);
        }
    }
}

/// The chain with so many links, each note's own: a cycle on every index, and on levels and pitches.
fn linked(links: usize) -> impl FnMut() + use<> {
    let mut patch = chain();
    patch.voice.quality = Quality::X1;
    let sources: Vec<SourceId> = (0..8)
        .map(|_| {
            let id = patch.free_source();
            patch
                .movement
                .sources
                .push(Source::new(id, SourceName::Lfo));
            id
        })
        .collect();
    for n in 0..links {
        let id = (n % OPERATORS) as u16 + 1;
        let to = match (n / OPERATORS, id) {
            (0, 1) => Address::route(RouteId(1), Send::LEVEL_DB),
            (0, _) => Address::route(RouteId(id), Send::INDEX_RAD),
            _ => Address::unit(UnitId(id), Operator::DETUNE_CENTS),
        };
        let link = gentle(&patch, sources[n % sources.len()], to);
        patch.movement.links.push(link);
    }
    playing(&patch)
}

fn main() {
    let (mut plain, mut moved) = (linked(0), linked(32));
    let work = VOICES * OPERATORS * FRAMES;
    let more = (0..ROUNDS).map(|_| speed(work, &mut plain) / speed(work, &mut moved) - 1.0);
    let more = median(more.collect());
    println!(
        "32 links on {VOICES} notes add {more:.2} of the time, are {:.2} of it then (bar 0.33)",
        more / (1.0 + more)
    );
    let (mut eight_notes, mut eight_copies) = (voices(1), voices(8));
    let work = 8 * OPERATORS * FRAMES;
    let unison =
        (0..ROUNDS).map(|_| speed(work, &mut eight_notes) / speed(work, &mut eight_copies));
    println!(
        "unison of 8 costs {:.2} times a full vector of notes (bar 1.3)",
        median(unison.collect())
    );
    let (mut engine, mut bare, mut fundsp) = (engine(), bare(), fundsp());
    let all = VOICES * OPERATORS * FRAMES;
    let rounds: Vec<[f64; 3]> = (0..ROUNDS)
        .map(|_| {
            [
                speed(all, &mut engine),
                speed(all, &mut bare),
                speed(OPERATORS * FRAMES, &mut fundsp),
            ]
        })
        .collect();
    let of = |pick: &dyn Fn(&[f64; 3]) -> f64| median(rounds.iter().map(pick).collect());
    println!(
        "engine, {VOICES} voices x {OPERATORS} operators: {:.0} M operator-samples/s, median of {ROUNDS} rounds",
        of(&|r| r[0]) / 1e6
    );
    println!(
        "bare sine loop: {:.0} M/s, engine is {:.2} of it (bar 0.6)",
        of(&|r| r[1]) / 1e6,
        of(&|r| r[0] / r[1])
    );
    println!(
        "fundsp chain: {:.0} M/s, engine is {:.2} times it (bar 1.3)",
        of(&|r| r[2]) / 1e6,
        of(&|r| r[0] / r[2])
    );
}
