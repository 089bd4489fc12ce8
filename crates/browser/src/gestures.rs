//! What the simulated controller plays hands-free: a phrase, and slow gestures of wheels and pedals over a held note.

use serde::{Deserialize, Serialize};

/// A MIDI message at a time.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Timed {
    /// From the start, in seconds.
    pub time_s: f64,
    /// Status and two data bytes.
    pub message: [u8; 3],
}

/// Something a player does.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum Gesture {
    /// A slow broken chord with the pedal, then a short run.
    Phrase,
    /// The modulation wheel up and down again.
    Wheel,
    /// Pressure that rises and falls.
    Pressure,
    /// The expression pedal from nothing to full.
    Expression,
    /// One note eight times, from soft to hard.
    Ladder,
    /// A knob that sends controller 21, up and down again.
    Knob,
}

/// The controller the simulated knob sends.
pub const KNOB: u8 = 21;

/// What a player does, around a key: all that begins also ends, and wheels and pedals come back to rest.
pub fn gesture(what: Gesture, key: u8) -> Vec<Timed> {
    /// How long the gestures take, and how often they say where they are.
    const SWEEP_S: f64 = 4.0;
    const STEPS: usize = 80;
    let at = |time_s: f64, message: [u8; 3]| Timed { time_s, message };
    let mut list = vec![at(0.0, [0x90, key, 96])];
    // up to the top in the middle, and back
    let there_and_back = |step: usize| {
        let share = step as f64 / STEPS as f64;
        (127.0 * (1.0 - (2.0 * share - 1.0).abs())).round() as u8
    };
    let mut sweep = |message: &dyn Fn(usize) -> [u8; 3]| {
        for step in 0..=STEPS {
            list.push(at(SWEEP_S * step as f64 / STEPS as f64, message(step)));
        }
    };
    match what {
        Gesture::Phrase => return phrase(key),
        Gesture::Ladder => {
            let notes = [12, 28, 44, 60, 77, 94, 111, 127].into_iter().enumerate();
            let both = notes.flat_map(|(n, velocity)| {
                let begin_s = 0.5 * n as f64;
                [
                    at(begin_s, [0x90, key, velocity]),
                    at(begin_s + 0.4, [0x80, key, 64]),
                ]
            });
            return both.collect();
        }
        Gesture::Wheel => sweep(&|step| [0xB0, 1, there_and_back(step)]),
        Gesture::Pressure => sweep(&|step| [0xD0, there_and_back(step), 0]),
        Gesture::Knob => sweep(&|step| [0xB0, KNOB, there_and_back(step)]),
        Gesture::Expression => {
            sweep(&|step| [0xB0, 11, (127 * step / STEPS) as u8]);
        }
    }
    list.push(at(SWEEP_S + 0.3, [0x80, key, 64]));
    list
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
