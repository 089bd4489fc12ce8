//! Every patch of the demo collection sounds, stays bounded, and renders the bits it is known to render. Where a change of the engine
//! is meant to change them, `ZOLVIK_GOLDEN=write cargo test -p zolvik-lab --test demo_bits` takes the new ones down.

use std::fmt::Write as _;
use std::path::Path;

use sha2::{Digest, Sha256};
use zolvik_lab::render::{Run, prepared};
use zolvik_lab::{Note, render};
use zolvik_patch::{Patch, json};

fn collection() -> Vec<(String, Patch)> {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/night-garden");
    let mut files: Vec<_> = std::fs::read_dir(folder)
        .unwrap()
        .map(|entry| entry.unwrap().path())
        .filter(|path| path.extension().is_some_and(|e| e == "json"))
        .collect();
    files.sort();
    let read = |path: &std::path::PathBuf| {
        let name = path.file_stem().unwrap().to_string_lossy().into_owned();
        (
            name,
            json::read(&std::fs::read_to_string(path).unwrap()).unwrap(),
        )
    };
    files.iter().map(read).collect()
}

/// The auditioned note, a low soft one at another rate, and a high hard one.
fn notes(patch: &Patch) -> [Note; 3] {
    let auditioned = Note {
        length_s: 1.5,
        ..Note::auditioned(patch, 48_000.0)
    };
    let other = |key, velocity, rate_hz| Note {
        key,
        velocity,
        hold_s: 0.2,
        length_s: 0.5,
        rate_hz,
        controls: Default::default(),
    };
    [
        auditioned,
        other(38, 50, 44_100.0),
        other(81, 120, 48_000.0),
    ]
}

/// A player that has played something else gives the bits a new one gives.
#[test]
fn a_player_that_begins_anew_is_as_new() {
    let mut player = zolvik_play::Player::new(48_000.0);
    for (name, patch) in collection() {
        let note = Note {
            length_s: 0.6,
            hold_s: 0.3,
            ..Note::auditioned(&patch, 48_000.0)
        };
        let mut run = Run::note(player, &prepared(&patch), &note);
        while run.go(100) {}
        let sound;
        (sound, player, _) = run.end();
        let new = render(&patch, &note);
        assert!(sound.left == new.left && sound.right == new.right, "{name}");
        assert_eq!(sound.motions, new.motions, "{name}");
        // and left in the middle of notes that follow each other
        for key in 40..60 {
            player.note_on(key, 100);
            let mut room = [[0.0; 300]; 3];
            let [left, right, beat] = &mut room;
            player.process(left, right, beat);
        }
    }
}

#[test]
fn demo_patches_sound_and_render_the_bits_known() {
    let patches = collection();
    assert_eq!(patches.len(), 27);
    let mut lines = String::new();
    for (name, patch) in &patches {
        for (at, note) in notes(patch).iter().enumerate() {
            let rendered = render(patch, note);
            let both = rendered.left.iter().chain(&rendered.right);
            let peak = both.clone().fold(0.0f32, |a, b| a.max(b.abs()));
            assert!(
                peak.is_finite() && peak < 4.0 && peak > 0.001,
                "{name}: {peak}"
            );
            let mut hash = Sha256::new();
            both.for_each(|sample| hash.update(sample.to_le_bytes()));
            let bits: String = hash.finalize()[..8].iter().fold(String::new(), |mut s, b| {
                write!(s, "{b:02x}").unwrap();
                s
            });
            writeln!(lines, "{name} {at} {bits}").unwrap();
        }
    }
    let golden = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/golden/demo-renders.txt");
    if std::env::var("ZOLVIK_GOLDEN").is_ok_and(|v| v == "write") {
        std::fs::create_dir_all(golden.parent().unwrap()).unwrap();
        std::fs::write(&golden, &lines).unwrap();
    }
    let known = std::fs::read_to_string(&golden).unwrap_or_default();
    for (now, known) in lines.lines().zip(known.lines()) {
        assert_eq!(now, known, "other bits than before");
    }
    assert_eq!(lines.lines().count(), known.lines().count());
}
