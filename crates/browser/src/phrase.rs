//! The phrase the simulated keyboard plays hands-free: a slow broken chord with the pedal, then a short run.

use serde::Serialize;

/// A MIDI message at a time.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Timed {
    /// From the start, in seconds.
    pub time_s: f64,
    /// Status and two data bytes.
    pub message: [u8; 3],
}

/// The phrase around a key: every note that begins also ends, and the pedal is lifted.
pub fn phrase(key: u8) -> Vec<Timed> {
    const BEAT_S: f64 = 0.3;
    let steps: [(i32, f64, f64, u8); 12] = [
        (0, 0.0, 1.8, 84),
        (7, 1.0, 1.6, 70),
        (12, 2.0, 1.5, 78),
        (15, 3.0, 2.5, 92),
        (-5, 5.0, 2.8, 80),
        (3, 6.0, 1.5, 66),
        (10, 7.0, 1.5, 74),
        (14, 8.0, 2.2, 98),
        (12, 10.0, 0.4, 60),
        (10, 10.5, 0.4, 72),
        (7, 11.0, 0.4, 86),
        (0, 11.5, 2.5, 104),
    ];
    let mut list = vec![Timed {
        time_s: 0.0,
        message: [0xB0, 64, 127],
    }];
    for (step, at, length, velocity) in steps {
        let key = (i32::from(key) + step).clamp(0, 127) as u8;
        list.push(Timed {
            time_s: at * BEAT_S,
            message: [0x90, key, velocity],
        });
        list.push(Timed {
            time_s: (at + length) * BEAT_S,
            message: [0x80, key, 0],
        });
    }
    list.push(Timed {
        time_s: 9.8 * BEAT_S,
        message: [0xB0, 64, 0],
    });
    list.sort_by(|a, b| a.time_s.total_cmp(&b.time_s));
    list
}

#[cfg(test)]
mod tests {
    use std::collections::HashMap;

    use super::*;

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
}
