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
    use super::*;

    #[test]
    fn every_note_of_the_phrase_ends() {
        let mut open = 0i32;
        for timed in phrase(57) {
            match timed.message[0] {
                0x90 => open += 1,
                0x80 => open -= 1,
                _ => {}
            }
        }
        assert_eq!(open, 0);
    }
}
