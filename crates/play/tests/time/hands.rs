//! Who holds which keys, and that nothing is left sounding once all have let go.

use proptest::prelude::*;
use rstest::rstest;
use zolvik_patch::document::Mode;
use zolvik_patch::playing::Order;
use zolvik_patch::testing::Dice;
use zolvik_play::{Hands, Score};

use crate::support::{click, phrase, played, player};

const ON: [u8; 3] = [0x90, 60, 90];
const OFF: [u8; 3] = [0x90, 60, 0];
const OFF_TOO: [u8; 3] = [0x80, 60, 64];

/// Each row: what comes in, and what is held at its end.
#[rstest]
#[case::struck_twice_without_letting_go(&[("a", ON), ("a", ON), ("a", OFF_TOO)], &[])]
#[case::two_ways_one_lets_go(&[("a", ON), ("b", ON), ("a", OFF)], &[60])]
#[case::two_ways_both_let_go(&[("a", ON), ("b", ON), ("a", OFF), ("b", OFF)], &[])]
#[case::only_its_own(&[("a", ON), ("b", OFF), ("c", OFF_TOO)], &[60])]
#[case::let_go_twice(&[("a", ON), ("b", ON), ("a", OFF), ("a", OFF_TOO)], &[60])]
#[case::two_channels_of_one_keyboard(&[("a", ON), ("a", [0x91, 60, 90]), ("a", [0x81, 60, 0])], &[60])]
#[case::another_key(&[("a", ON), ("a", [0x80, 61, 0])], &[60])]
#[case::all_sound_off(&[("a", ON), ("b", ON), ("a", [0xB0, 120, 0])], &[])]
fn each_way_in_counts_by_itself(#[case] came: &[(&str, [u8; 3])], #[case] held: &[u8]) {
    let mut hands = Hands::default();
    let mut sounds = std::collections::BTreeSet::new();
    for (way, message) in came {
        match hands.take(way, *message) {
            Some([status, key, velocity]) if status & 0xF0 == 0x90 && velocity > 0 => {
                sounds.insert(key);
            }
            Some([status, key, _]) if status & 0xE0 == 0x80 => {
                sounds.remove(&key);
            }
            Some([_, 120, _]) => sounds.clear(),
            _ => {}
        }
    }
    assert_eq!(hands.held(), held);
    assert_eq!(sounds.into_iter().collect::<Vec<u8>>(), held);
}

#[test]
fn what_goes_lets_go_what_only_it_holds() {
    let mut hands = Hands::default();
    for (way, message) in [
        ("a", ON),
        ("b", ON),
        ("b", [0x93, 64, 90]),
        ("b", [0xB0, 64, 127]),
        ("a", [0xB0, 64, 40]),
    ] {
        hands.take(way, message);
    }
    assert!(hands.pedal_holds());
    assert_eq!(
        hands.let_go(|way, _| way == "b"),
        [[0x83, 64, 64], [0xB0, 64, 40]]
    );
    assert_eq!((hands.held(), hands.pedal_holds()), (vec![60], false));
    assert_eq!(hands.let_go(|_, _| true), [[0x80, 60, 64], [0xB0, 64, 0]]);
}

#[test]
fn a_pedal_holds_until_the_last_foot_is_up() {
    let mut hands = Hands::default();
    let pedal = |value| [0xB0, 64, value];
    assert_eq!(hands.take("a", pedal(127)), Some(pedal(127)));
    assert_eq!(hands.take("b", pedal(80)), Some(pedal(127)));
    assert_eq!(hands.take("a", pedal(0)), Some(pedal(80)));
    assert!(hands.pedal_holds());
    assert_eq!(hands.take("b", pedal(0)), Some(pedal(0)));
    assert!(!hands.pedal_holds());
}

/// The phrase and a hand hold the same key: it sounds until both let go.
#[test]
fn a_key_the_phrase_lets_go_sounds_on_under_a_hand_and_the_other_way_round() {
    let mut patch = click();
    let mut long = phrase(&[0.0], 4.0);
    long.notes[0].length_beats = 1.0;
    patch.playing.phrase = Some(long.into());
    let key = Score::of(&patch).keys().next().unwrap().0;
    let sounds = |sound: &[f32]| sound.iter().any(|s| s.abs() > 0.05);
    // at 120 beats a minute the note of the phrase ends after half a second
    let mut under_hand = player(&patch, 48_000.0);
    under_hand.play(Score::of(&patch), false);
    played(&mut under_hand, 4_800);
    under_hand.midi([0x90, key, 90]);
    played(&mut under_hand, 48_000);
    assert!(
        sounds(&played(&mut under_hand, 4_800).0),
        "the hand holds it"
    );
    under_hand.midi([0x80, key, 0]);
    assert!(!sounds(&played(&mut under_hand, 9_600).0[4_800..]));
    let mut under_phrase = player(&patch, 48_000.0);
    under_phrase.play(Score::of(&patch), false);
    played(&mut under_phrase, 4_800);
    under_phrase.midi([0x90, key, 90]);
    played(&mut under_phrase, 480);
    under_phrase.midi([0x80, key, 0]);
    assert!(
        sounds(&played(&mut under_phrase, 9_600).0[4_800..]),
        "the phrase holds it"
    );
    assert!(!sounds(&played(&mut under_phrase, 48_000).0[38_400..]));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]
    #[test]
    fn after_all_ways_in_have_let_go_there_is_silence(seed: u64) {
        let mut dice = Dice(seed);
        let mut patch = click();
        patch.voice.mode = Mode::ALL[dice.below(Mode::ALL.len())];
        patch.playing.arpeggio.order = Order::ALL[dice.below(Order::ALL.len())];
        patch.voice.longest_ring_s = 0.05;
        let mut player = player(&patch, 48_000.0);
        let mut hands = Hands::default();
        let ways = ["screen", "computer", "keyboard 1", "keyboard 2"];
        // few keys, so that they meet
        let mut struck: Vec<(usize, u8, u8)> = vec![];
        for _ in 0..dice.below(120) {
            let (way, channel, key) = (dice.below(ways.len()), dice.below(2) as u8, 58 + dice.below(4) as u8);
            let message = match dice.below(12) {
                0..5 => {
                    struck.push((way, channel, key));
                    [0x90 | channel, key, 1 + dice.below(127) as u8]
                }
                5..9 => [0x80 | channel, key, 0],
                9 => [0x90 | channel, key, 0],
                10 => [0xB0 | channel, 64, dice.below(128) as u8],
                _ => {
                    // one goes, or its window loses the hand
                    for message in hands.let_go(|other, _| other == ways[way]) {
                        player.midi(message);
                    }
                    continue;
                }
            };
            if let Some(message) = hands.take(ways[way], message) {
                player.midi(message);
            }
            if dice.below(4) == 0 {
                played(&mut player, 16 * (1 + dice.below(40)));
            }
        }
        // some note-offs are lost on the way: those ways in go
        for (way, channel, key) in struck {
            if dice.below(3) > 0 && let Some(message) = hands.take(ways[way], [0x80 | channel, key, 0]) {
                player.midi(message);
            }
        }
        for way in ways {
            for message in hands.let_go(|other, _| other == way) {
                player.midi(message);
            }
        }
        prop_assert_eq!(hands.held(), Vec::<u8>::new());
        let (after, _) = played(&mut player, 48_000);
        prop_assert!(after[43_200..].iter().all(|s| *s == 0.0));
    }
}

/// Twenty thousand messages between two blocks, of every kind and on every channel: all that is heard of them is bounded, and silence comes.
#[test]
fn twenty_thousand_messages_at_once_do_no_harm() {
    let mut dice = Dice(20_000);
    let mut patch = click();
    patch.voice.longest_ring_s = 0.05;
    let mut player = player(&patch, 48_000.0);
    let mut hands = Hands::default();
    for _ in 0..20_000 {
        let kind = [0x80, 0x90, 0x90, 0xA0, 0xB0, 0xC0, 0xD0, 0xE0][dice.below(8)];
        let byte = |dice: &mut Dice| dice.below(128) as u8;
        let message = [
            kind | dice.below(16) as u8,
            byte(&mut dice),
            byte(&mut dice),
        ];
        if let Some(message) = hands.take("flood", message) {
            player.midi(message);
        }
    }
    let (sound, _) = played(&mut player, 4_800);
    assert!(sound.iter().all(|s| s.is_finite() && s.abs() < 100.0));
    for message in hands.let_go(|_, _| true) {
        player.midi(message);
    }
    player.midi([0xB0, 123, 0]);
    let (after, _) = played(&mut player, 48_000);
    assert!(after[43_200..].iter().all(|s| *s == 0.0));
}
