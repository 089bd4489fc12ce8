//! Operator-samples per second against a bare sine loop and against another library, in one run.
//! Printed, never asserted: `cargo bench -p zolvik-engine`.

use std::hint::black_box;
use std::time::Instant;

use fundsp::prelude32::*;
use wide::f32x8;
use zolvik_engine::{Engine, program::compile, sine_turns};
use zolvik_patch::Patch;
use zolvik_patch::document::{Route, RouteId, Send, Unit, UnitId};
use zolvik_patch::hearing::Listening;

/// Voices the engine takes.
const VOICES: usize = 32;
const OPERATORS: usize = 6;
const FRAMES: usize = 48_000;

/// Best of several runs, in operator-samples per second.
fn best(work: f64, mut run: impl FnMut()) -> f64 {
    let mut best = f64::INFINITY;
    for _ in 0..7 {
        let start = Instant::now();
        run();
        best = best.min(start.elapsed().as_secs_f64());
    }
    work / best
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

fn engine_speed() -> f64 {
    let program = compile(&chain(), &Listening::default());
    let mut engine = Engine::new(48_000.0);
    engine.install(&program);
    (0..VOICES as u8).for_each(|v| engine.note_on(40 + v, 100));
    let (mut left, mut right) = (vec![0.0; FRAMES], vec![0.0; FRAMES]);
    best((VOICES * OPERATORS * FRAMES) as f64, || {
        engine.process(&mut left, &mut right);
        black_box(&left);
    })
}

fn bare_speed() -> f64 {
    let groups = VOICES / 8 * OPERATORS;
    let mut phases = vec![f32x8::ZERO; groups];
    best((VOICES * OPERATORS * FRAMES) as f64, || {
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
    })
}

fn fundsp_speed() -> f64 {
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
    best((OPERATORS * FRAMES) as f64, || {
        for _ in 0..FRAMES / 64 {
            graph.process(64, &BufferRef::empty(), &mut buffer.buffer_mut());
            black_box(&buffer);
        }
    })
}

fn main() {
    let (ours, bare, other) = (engine_speed(), bare_speed(), fundsp_speed());
    println!(
        "engine, {VOICES} voices x {OPERATORS} operators: {:.0} M operator-samples/s",
        ours / 1e6
    );
    println!(
        "bare sine loop: {:.0} M/s, engine is {:.2} of it (bar 0.6)",
        bare / 1e6,
        ours / bare
    );
    println!(
        "fundsp chain: {:.0} M/s, engine is {:.2} times it (bar 1.3)",
        other / 1e6,
        ours / other
    );
}
