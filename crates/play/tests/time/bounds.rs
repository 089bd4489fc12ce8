use proptest::prelude::*;
use zolvik_patch::playing::ready::READY_PHRASES;
use zolvik_patch::playing::{Accent, Beat, Order};
use zolvik_patch::testing::{Dice, any_patch};
use zolvik_play::Score;

use crate::support::{played, player};

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]
    #[test]
    fn any_patch_plays_any_phrase_finitely_and_is_silent_after_a_stop(seed: u64) {
        let mut patch = any_patch(seed);
        let mut dice = Dice(seed);
        let ready = &READY_PHRASES[dice.below(READY_PHRASES.len())];
        patch.playing.phrase = Some(ready.phrase().into());
        patch.playing.beat = Beat::ALL[dice.below(Beat::ALL.len())];
        patch.playing.arpeggio.order = Order::ALL[dice.below(Order::ALL.len())];
        patch.playing.arpeggio.accent = Accent::ALL[dice.below(Accent::ALL.len())];
        patch.voice.longest_ring_s = 0.05;
        let mut player = player(&patch, 48_000.0);
        player.play(Score::of(&patch), true);
        let (sound, beat) = played(&mut player, 24_000);
        prop_assert!(sound.iter().chain(&beat).all(|s| s.is_finite()));
        player.midi([0x90, 40, 90]);
        player.stop();
        player.midi([0xB0, 123, 0]);
        player.midi([0xB0, 120, 0]);
        let (after, beat) = played(&mut player, 4_800);
        prop_assert!(after[2_400..].iter().all(|s| *s == 0.0));
        prop_assert!(beat.iter().all(|s| *s == 0.0));
    }

    #[test]
    fn bytes_that_are_no_score_are_refused(bytes: Vec<u8>, cut in 0usize..200) {
        let _ = Score::from_bytes(&bytes);
        let patch = any_patch(7);
        let whole = Score::of(&patch).bytes();
        let part = &whole[..cut.min(whole.len())];
        prop_assert!(part.len() == whole.len() || Score::from_bytes(part).is_err());
    }
}

#[test]
fn a_score_comes_back_from_its_bytes() {
    let mut patch = any_patch(3);
    patch.playing.beat = Beat::HalfMoon;
    for ready in READY_PHRASES {
        patch.playing.phrase = Some(ready.phrase().into());
        let score = Score::of(&patch);
        assert_eq!(Score::from_bytes(&score.bytes()), Ok(score));
    }
}
