use zolvik_engine::program::prepare;
use zolvik_patch::Patch;
use zolvik_patch::document::{Point, Quality, Start, UnitKind};
use zolvik_patch::hearing::Listening;
use zolvik_patch::playing::{Phrase, PhraseNote};
use zolvik_play::{Player, Score};

/// A sine that begins at its highest point and at once, and is gone 8 ms after it is let go.
pub fn click() -> Patch {
    let mut patch = Patch::empty();
    patch.voice.quality = Quality::X1;
    let unit = &mut patch.units[0];
    if let UnitKind::Operator(operator) = &mut unit.kind {
        operator.start = Start::Fixed;
        operator.start_turns = 0.25;
    }
    unit.velocity = 0.0;
    unit.envelope.points = vec![
        Point::new(0.0, 1.0, 0.0),
        Point::new(0.0, 1.0, 0.0),
        Point::new(0.008, 0.0, 0.0),
    ];
    patch
}

/// A phrase of short notes at these beats.
pub fn phrase(at: &[f64], length_beats: f64) -> Phrase {
    let note = |at_beats: &f64| PhraseNote {
        at_beats: *at_beats,
        length_beats: 1.0 / 64.0,
        semitones: 0,
        velocity: 100,
    };
    Phrase {
        name: "Test".into(),
        length_beats,
        notes: at.iter().map(note).collect(),
        wheel: vec![],
        bend: vec![],
    }
}

pub fn player(patch: &Patch, rate_hz: f64) -> Player {
    let mut player = Player::new(rate_hz);
    player.engine.take(&prepare(patch, &Listening::default()));
    player
}

/// What is played for so long, and the beat beside it; in pieces of odd lengths, as a caller may cut them.
pub fn played(player: &mut Player, frames: usize) -> (Vec<f32>, Vec<f32>) {
    let (mut left, mut right, mut beat) = (vec![0.0; frames], vec![0.0; frames], vec![0.0; frames]);
    let mut at = 0;
    for piece in [128, 1, 77, 500, 16, 31].iter().cycle() {
        let until = (at + piece).min(frames);
        player.process(
            &mut left[at..until],
            &mut right[at..until],
            &mut beat[at..until],
        );
        at = until;
        if at == frames {
            break;
        }
    }
    (left, beat)
}

/// A score of a patch played over and over.
pub fn play(patch: &Patch, rate_hz: f64, frames: usize) -> (Vec<f32>, Vec<f32>) {
    let mut player = player(patch, rate_hz);
    player.play(Score::of(patch), true);
    played(&mut player, frames)
}

/// Where sound begins after at least so many frames of silence.
pub fn onsets(sound: &[f32], silent: usize) -> Vec<usize> {
    let mut list = vec![];
    let mut quiet = silent;
    for (at, sample) in sound.iter().enumerate() {
        if sample.abs() > 1e-4 {
            if quiet >= silent {
                list.push(at);
            }
            quiet = 0;
        } else {
            quiet += 1;
        }
    }
    list
}
