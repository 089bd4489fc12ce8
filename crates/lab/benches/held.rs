//! What eight held notes of every demo patch cost, as a share of the time there is on one core at 48 kHz, and what the slowest block of 128
//! frames does: `cargo bench -p zolvik-lab --bench held`. Printed, never asserted.

use std::hint::black_box;
use std::time::Instant;

use zolvik_engine::Engine;
use zolvik_engine::program::prepare;
use zolvik_patch::hearing::Listening;

const FRAMES: usize = 128;
const BLOCKS: usize = 750;
const RATE_HZ: f64 = 48_000.0;

fn main() {
    // of one patch only, if it is named
    let only = std::env::args().skip(1).find(|arg| !arg.starts_with('-'));
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/night-garden");
    let Ok(files) = std::fs::read_dir(folder) else {
        return;
    };
    let mut paths: Vec<_> = files.flatten().map(|file| file.path()).collect();
    paths.sort();
    for path in paths {
        let Ok(text) = std::fs::read_to_string(&path) else {
            continue;
        };
        let Ok(patch) = zolvik_patch::json::read(&text) else {
            continue;
        };
        if only.as_ref().is_some_and(|only| *only != patch.meta.name) {
            continue;
        }
        let mut engine = Engine::new(RATE_HZ);
        engine.take(&prepare(&patch, &Listening::default()));
        for key in [36, 43, 48, 52, 55, 60, 64, 67] {
            engine.note_on(key, 100);
        }
        let (mut left, mut right) = ([0.0; FRAMES], [0.0; FRAMES]);
        let mut times: Vec<f64> = (0..BLOCKS)
            .map(|_| {
                let start = Instant::now();
                engine.process(&mut left, &mut right);
                black_box(&left);
                start.elapsed().as_secs_f64() * RATE_HZ / FRAMES as f64
            })
            .collect();
        let mean = times.iter().sum::<f64>() / BLOCKS as f64;
        // one in a hundred may have been interrupted
        times.sort_by(f64::total_cmp);
        let (slowest, name) = (times[BLOCKS * 99 / 100], &patch.meta.name);
        println!(
            "{name}: {:.1} % of the time, {:.1} % in the slowest blocks",
            100.0 * mean,
            100.0 * slowest
        );
    }
}
