//! What the parts of a picture cost: `cargo bench -p zolvik-lab`. Printed, never asserted.

use std::hint::black_box;
use std::time::Instant;

use zolvik_engine::program::prepare;
use zolvik_lab::level::level;
use zolvik_lab::render::render_program;
use zolvik_lab::{Detail, Note, unfold};
use zolvik_patch::hearing::Listening;

fn best_ms(mut run: impl FnMut()) -> f64 {
    let mut best = f64::INFINITY;
    for _ in 0..9 {
        let start = Instant::now();
        run();
        best = best.min(start.elapsed().as_secs_f64() * 1000.0);
    }
    best
}

fn main() {
    let text = include_str!("../../../demo/night-garden/frost-fern.json");
    let Ok(patch) = zolvik_patch::json::read(text) else {
        return;
    };
    let program = prepare(&patch, &Listening::default());
    let note = Note {
        length_s: 3.0,
        ..Note::auditioned(&patch, 48_000.0)
    };
    let sound = render_program(&program, &note);
    let render = best_ms(|| {
        black_box(render_program(&program, &note));
    });
    let levels = best_ms(|| {
        black_box(level(&sound));
    });
    let draw = |detail| {
        best_ms(|| {
            black_box(unfold(&program, &note, 0.6, detail));
        })
    };
    println!("render 3 s, 6 operators: {render:.1} ms, levels: {levels:.1} ms");
    println!(
        "coarse picture: {:.1} ms, fine: {:.1} ms",
        draw(Detail::Coarse),
        draw(Detail::Fine)
    );
}
