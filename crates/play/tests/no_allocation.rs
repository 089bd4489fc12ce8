//! A binary of its own: it replaces the process-wide allocator by one that counts.

use rstest::rstest;
use zolvik_counting::{Counting, calls};
use zolvik_engine::program::prepare;
use zolvik_patch::document::Quality;
use zolvik_patch::hearing::Listening;
use zolvik_patch::playing::ready::READY_PHRASES;
use zolvik_patch::playing::{Beat, Order};
use zolvik_patch::testing::any_patch;
use zolvik_play::{Player, Score};

#[global_allocator]
static ALLOCATOR: Counting = Counting;

#[rstest]
fn playing_a_phrase_with_beat_and_arpeggio_never_allocates(
    #[values(0, 1, 2, 3, 4, 5, 6, 7)] seed: usize,
) {
    let mut player = Player::new(48_000.0);
    let (mut left, mut right, mut beat) = ([0.0; 128], [0.0; 128], [0.0; 128]);
    let mut patch = any_patch(seed as u64);
    // what the engine does at higher rates is counted by its own test
    patch.voice.quality = Quality::X1;
    patch.playing.phrase = Some(READY_PHRASES[seed].phrase().into());
    patch.playing.beat = Beat::ALL[seed % Beat::ALL.len()];
    patch.playing.arpeggio.order = Order::ALL[seed % Order::ALL.len()];
    player.engine.take(&prepare(&patch, &Listening::default()));
    player.play(Score::of(&patch), true);
    player.record(true);
    let before = calls();
    for block in 0..300u16 {
        if block % 50 == 10 {
            player.midi([0x90, 40 + (block / 10) as u8, 100]);
            player.midi([0xB0, 1, 40]);
        }
        player.process(&mut left, &mut right, &mut beat);
    }
    assert_eq!(calls(), before);
    assert!(!player.kept().is_empty());
}

#[test]
fn what_is_allocated_is_counted() {
    let before = calls();
    drop(std::hint::black_box(vec![1u8]));
    assert_eq!(calls(), before + 2);
}
