//! What the simulated controller plays hands-free.

use std::collections::HashMap;

use zolvik_browser::gestures::{Gesture, KNOB, Timed, gesture, phrase};

#[rstest::rstest]
#[case::low(0)]
#[case::middle(57)]
#[case::high(127)]
fn every_note_of_the_phrase_ends_after_it_began_and_the_pedal_is_lifted(#[case] key: u8) {
    let mut down: HashMap<u8, f64> = HashMap::new();
    let (mut notes, mut pedal_s) = (0, None);
    for timed in phrase(key) {
        let [status, first, second] = timed.message;
        match (status, first) {
            (0x90, _) => {
                assert!((1..=127).contains(&second), "velocity {second}");
                // a key struck again while it is down would be one note that ends twice
                let before = down.insert(first, timed.time_s);
                assert!(
                    before.is_none() || key != 57,
                    "key {first} at {} s",
                    timed.time_s
                );
                notes += 1;
            }
            (0x80, _) => {
                if let Some(since) = down.remove(&first) {
                    assert!(timed.time_s > since, "key {first} ends as it begins");
                } else {
                    assert_ne!(key, 57, "key {first} ends and was not down");
                }
            }
            (0xB0, 64) => pedal_s = (second > 0).then_some(timed.time_s),
            message => panic!("{message:?} is no part of a phrase"),
        }
    }
    assert!(down.is_empty(), "still down: {down:?}");
    assert!(notes > 8, "{notes} notes");
    assert_eq!(pedal_s, None, "the pedal stays down");
}

#[rstest::rstest]
#[case::wheel(Gesture::Wheel, 0xB0, 1, 0)]
#[case::pressure(Gesture::Pressure, 0xD0, 0, 0)]
#[case::expression(Gesture::Expression, 0xB0, 11, 127)]
#[case::knob(Gesture::Knob, 0xB0, KNOB, 0)]
fn gestures_reach_the_top_and_come_to_rest(
    #[case] what: Gesture,
    #[case] status: u8,
    #[case] controller: u8,
    #[case] rest: u8,
) {
    let list = gesture(what, 57);
    let value = |t: &Timed| match (t.message[0], status) {
        (0xD0, 0xD0) => Some(t.message[1]),
        (0xB0, 0xB0) if t.message[1] == controller => Some(t.message[2]),
        _ => None,
    };
    let values: Vec<u8> = list.iter().filter_map(value).collect();
    assert_eq!(values.iter().max(), Some(&127));
    assert_eq!(values.last(), Some(&rest));
    let notes = |kind: u8| list.iter().filter(|t| t.message[0] == kind).count();
    assert_eq!((notes(0x90), notes(0x80)), (1, 1));
    let ladder = gesture(Gesture::Ladder, 57);
    assert_eq!(ladder.len(), 16);
}
