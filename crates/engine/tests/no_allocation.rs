//! A binary of its own: it replaces the process-wide allocator by one that counts.

use zolvik_counting::{Counting, calls};
use zolvik_engine::{Engine, Guard, program::prepare};
use zolvik_patch::hearing::Listening;
use zolvik_patch::testing::any_patch;

#[global_allocator]
static ALLOCATOR: Counting = Counting;

#[test]
fn the_audio_path_never_allocates() {
    let programs: Vec<_> = (0..12)
        .map(|seed| {
            let mut patch = any_patch(seed);
            if seed % 2 == 0 {
                patch.voice.quality = zolvik_patch::document::Quality::Auto;
            }
            prepare(&patch, &Listening::default())
        })
        .collect();
    let mut engine = Engine::new(48_000.0);
    let mut guard = Guard::new(48_000.0);
    let (mut left, mut right) = ([0.0; 128], [0.0; 128]);
    for prepared in &programs {
        for bank in &prepared.banks {
            engine.cache_bank(bank.clone());
        }
        for recording in &prepared.recordings {
            engine.cache_recording(recording.clone());
        }
    }
    let before = calls();
    // what is made beforehand, for each program anew
    let mut beforehand = 0;
    for (i, program) in programs.iter().enumerate() {
        let made = calls();
        engine.reserve(&program.program);
        beforehand += calls() - made;
        engine.install(&program.program);
        for key in 0..40 {
            engine.midi([0x90, 40 + key, 100]);
        }
        engine.pedal(i % 2 == 0);
        for _ in 0..8 {
            engine.process(&mut left, &mut right);
            guard.process(&mut left, &mut right);
        }
        engine.midi([0x80, 44, 0]);
        engine.shed_notes(3.0);
        engine.lower_quality();
        engine.allow_more_notes();
        if i % 3 == 0 {
            engine.all_notes_off();
        }
        engine.process(&mut left, &mut right);
    }
    engine.silence();
    engine.process(&mut left, &mut right);
    assert_eq!(
        calls() - before - beforehand,
        0,
        "the audio path allocated or freed"
    );
}
