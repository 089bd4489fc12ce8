//! Keys that are held, one after the other.
#![deny(clippy::unwrap_used, clippy::expect_used, clippy::panic)]

use zolvik_engine::program::ArpeggioProgram;
use zolvik_patch::playing::{Accent, Order};

/// Most keys it takes.
const MOST_KEYS: usize = 32;
/// Most notes of it that sound at once.
const MOST_SOUNDING: usize = 64;
/// How late a key may be to begin on the step it was meant for, in beats.
const LATE_BEATS: f64 = 1.0 / 32.0;
/// How soft the notes are that are no accents.
const SOFT: f64 = 0.62;

/// A key and how hard it was struck.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(crate) struct Struck {
    pub(crate) key: u8,
    pub(crate) velocity: u8,
}

/// Something the arpeggiator does to a key.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) enum Act {
    Down(Struck, f64),
    Up(u8),
}

/// Keys that are held, and the notes made of them.
#[derive(Debug, Clone)]
pub(crate) struct Arpeggiator {
    /// In the order they were pressed.
    keys: [Struck; MOST_KEYS],
    count: usize,
    /// Of those, how many are still down; the others are only held on.
    down: [bool; MOST_KEYS],
    sounding: [(u8, f64); MOST_SOUNDING],
    sounds: usize,
    /// When its first step falls, in beats, and the next one.
    origin_beats: f64,
    step: u64,
    /// Which key of a chord comes next.
    chord: usize,
}

impl Arpeggiator {
    pub(crate) const fn new() -> Self {
        Arpeggiator {
            keys: [Struck {
                key: 0,
                velocity: 0,
            }; MOST_KEYS],
            count: 0,
            down: [false; MOST_KEYS],
            sounding: [(0, 0.0); MOST_SOUNDING],
            sounds: 0,
            origin_beats: 0.0,
            step: 0,
            chord: 0,
        }
    }

    /// A key goes down at a moment; on the grid of a clock that runs, else at once.
    pub(crate) fn press(&mut self, key: Struck, at_beats: f64, runs: bool, p: &ArpeggioProgram) {
        let none_down = !self.down[..self.count].contains(&true);
        if none_down {
            self.count = 0;
        }
        if self.count == 0 {
            let grid = p.rate_beats.max(1.0 / 64.0);
            self.origin_beats = match runs {
                true => ((at_beats - LATE_BEATS.min(0.25 * grid)) / grid).ceil() * grid,
                false => at_beats,
            };
            (self.step, self.chord) = (0, 0);
        }
        self.forget(key.key);
        if self.count < MOST_KEYS {
            (self.keys[self.count], self.down[self.count]) = (key, true);
            self.count += 1;
        }
    }

    fn forget(&mut self, key: u8) {
        if let Some(at) = self.keys[..self.count].iter().position(|k| k.key == key) {
            self.keys.copy_within(at + 1..self.count, at);
            self.down.copy_within(at + 1..self.count, at);
            self.count -= 1;
        }
    }

    /// A key goes up.
    pub(crate) fn lift(&mut self, key: u8, p: &ArpeggioProgram) {
        match p.holds {
            0 => self.forget(key),
            _ => {
                if let Some(at) = self.keys[..self.count].iter().position(|k| k.key == key) {
                    self.down[at] = false;
                }
            }
        }
    }

    /// All keys go up, held on or not.
    pub(crate) fn clear(&mut self) {
        self.count = 0;
    }

    /// Whether it holds keys or sounds.
    pub(crate) fn is_idle(&self) -> bool {
        self.count == 0 && self.sounds == 0
    }

    /// Musical time begins anew.
    pub(crate) fn restart(&mut self) {
        (self.origin_beats, self.step, self.chord) = (0.0, 0, 0);
        for (_, end) in &mut self.sounding[..self.sounds] {
            *end = 0.0;
        }
    }

    /// When a step falls, in beats.
    fn step_beats(&self, step: u64, p: &ArpeggioProgram) -> f64 {
        let even = (step & !1) as f64 * p.rate_beats;
        let late = if step & 1 == 1 {
            2.0 * p.swing * p.rate_beats
        } else {
            0.0
        };
        self.origin_beats + even + late
    }

    /// What it does before a moment, in time; one thing a call, none when there is no more.
    pub(crate) fn next(&mut self, until_beats: f64, p: &ArpeggioProgram) -> Option<Act> {
        let at = self.step_beats(self.step, p);
        let goes_on = p.order != Order::Off as u32 && self.count > 0 && at < until_beats;
        let limit = if goes_on { at + 1e-9 } else { until_beats };
        let ended = |(_, end): &(u8, f64)| *end < limit || p.order == Order::Off as u32;
        if let Some(ended) = self.sounding[..self.sounds].iter().position(ended) {
            let key = self.sounding[ended].0;
            self.sounds -= 1;
            self.sounding[ended] = self.sounding[self.sounds];
            return Some(Act::Up(key));
        }
        if !goes_on {
            return None;
        }
        let (note, last) = self.note(p);
        if last {
            self.step += 1;
            self.chord = 0;
        } else {
            self.chord += 1;
        }
        Some(match note {
            Some(note) => {
                if self.sounds < MOST_SOUNDING {
                    self.sounding[self.sounds] = (note.key, at + p.gate * p.rate_beats);
                    self.sounds += 1;
                }
                Act::Down(note, at)
            }
            None => return self.next(until_beats, p),
        })
    }

    /// The note of the step at hand, none where the keyboard has none; and whether it is the step's last.
    fn note(&self, p: &ArpeggioProgram) -> (Option<Struck>, bool) {
        let mut keys = self.keys;
        let keys = &mut keys[..self.count];
        let octaves = u64::from(p.octaves.max(1));
        let count = self.count as u64;
        let whole = count * octaves;
        if p.order != Order::Played as u32 {
            keys.sort_unstable_by_key(|k| k.key);
        }
        let step = self.step;
        let at = match p.order {
            o if o == Order::Chord as u32 => {
                let key = self.chord.min(self.count - 1) as u64;
                (step % octaves) * count + key
            }
            o if o == Order::Down as u32 => whole - 1 - step % whole,
            o if o == Order::UpDown as u32 => {
                let round = (2 * whole).saturating_sub(2).max(1);
                let place = step % round;
                place.min(round - place)
            }
            o if o == Order::Chance as u32 => mixed(step, p.seed) % whole,
            _ => step % whole,
        };
        let last = p.order != Order::Chord as u32 || self.chord + 1 >= self.count;
        let struck = keys[(at % count) as usize];
        let key = u64::from(struck.key) + 12 * (at / count);
        let loud = match p.accent {
            a if a == Accent::Two as u32 => step.is_multiple_of(2),
            a if a == Accent::Three as u32 => step.is_multiple_of(3),
            a if a == Accent::Four as u32 => step.is_multiple_of(4),
            _ => true,
        };
        let share = match p.accent {
            a if a == Accent::Rising as u32 => 0.4 + 0.6 * (step % 8) as f64 / 7.0,
            _ if loud => 1.0,
            _ => SOFT,
        };
        let velocity = (f64::from(struck.velocity) * share) as u8;
        let note = (key < 128).then(|| Struck {
            key: key as u8,
            velocity: velocity.max(1),
        });
        (note, last)
    }
}

/// A number by chance for a step (SplitMix64; Steele, Lea, Flood, 2014).
fn mixed(step: u64, seed: u32) -> u64 {
    let z = (step ^ u64::from(seed) << 40)
        .wrapping_add(1)
        .wrapping_mul(0x9E37_79B9_7F4A_7C15);
    let z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
    let z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
    z ^ (z >> 31)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    fn program(order: Order, octaves: u32) -> ArpeggioProgram {
        ArpeggioProgram {
            rate_beats: 0.25,
            gate: 0.5,
            swing: 0.5,
            order: order as u32,
            accent: 0,
            holds: 0,
            octaves,
            seed: 1,
            reserved: 0,
        }
    }

    fn keys_in_time(p: &ArpeggioProgram, pressed: &[u8], until_beats: f64) -> Vec<(u8, f64)> {
        let mut arpeggiator = Arpeggiator::new();
        for key in pressed {
            let struck = Struck {
                key: *key,
                velocity: 100,
            };
            arpeggiator.press(struck, 0.0, false, p);
        }
        let mut list = vec![];
        while let Some(act) = arpeggiator.next(until_beats, p) {
            if let Act::Down(struck, at) = act {
                list.push((struck.key, at));
            }
        }
        list
    }

    #[rstest]
    #[case::up(Order::Up, 1, &[60, 64, 67, 60, 64, 67])]
    #[case::up_over_two_octaves(Order::Up, 2, &[60, 64, 67, 72, 76, 79])]
    #[case::down(Order::Down, 1, &[67, 64, 60, 67, 64, 60])]
    #[case::up_and_down(Order::UpDown, 1, &[60, 64, 67, 64, 60, 64])]
    #[case::as_played(Order::Played, 1, &[64, 67, 60, 64, 67, 60])]
    #[case::off(Order::Off, 1, &[])]
    fn orders_go_through_the_held_keys(
        #[case] order: Order,
        #[case] octaves: u32,
        #[case] expected: &[u8],
    ) {
        let found = keys_in_time(&program(order, octaves), &[64, 67, 60], 1.5);
        let keys: Vec<u8> = found.iter().map(|(key, _)| *key).collect();
        assert_eq!(keys, expected);
        for (at, (_, beats)) in found.iter().enumerate() {
            assert_eq!(*beats, at as f64 * 0.25);
        }
    }

    #[test]
    fn a_chord_sounds_at_once_and_chance_repeats_by_its_seed() {
        let chord = keys_in_time(&program(Order::Chord, 1), &[64, 67, 60], 0.5);
        assert_eq!(chord.len(), 6);
        assert!(chord[..3].iter().all(|(_, at)| *at == 0.0));
        let mut chance = program(Order::Chance, 2);
        let first = keys_in_time(&chance, &[60, 64, 67], 16.0);
        assert_eq!(first, keys_in_time(&chance, &[60, 64, 67], 16.0));
        chance.seed = 2;
        assert_ne!(first, keys_in_time(&chance, &[60, 64, 67], 16.0));
        // every one of six comes about as often: 64 steps
        for key in [60, 64, 67, 72, 76, 79] {
            let times = first.iter().filter(|(k, _)| *k == key).count();
            assert!((3..=21).contains(&times), "{key}: {times}");
        }
    }

    #[test]
    fn swing_gate_and_accents_are_as_typed() {
        let p = ArpeggioProgram {
            swing: 0.6,
            accent: Accent::Two as u32,
            ..program(Order::Up, 1)
        };
        let mut arpeggiator = Arpeggiator::new();
        let struck = Struck {
            key: 60,
            velocity: 100,
        };
        arpeggiator.press(struck, 0.0, false, &p);
        let mut acts = vec![];
        while let Some(act) = arpeggiator.next(0.6, &p) {
            acts.push(act);
        }
        let down = |velocity: u8, at: f64| Act::Down(Struck { key: 60, velocity }, at);
        assert_eq!(
            acts,
            [
                down(100, 0.0),
                Act::Up(60),
                down(62, 0.3),
                Act::Up(60),
                down(100, 0.5)
            ]
        );
    }

    #[test]
    fn what_is_held_on_is_replaced_by_the_next_keys() {
        let p = ArpeggioProgram {
            holds: 1,
            ..program(Order::Up, 1)
        };
        let mut arpeggiator = Arpeggiator::new();
        let press = |arpeggiator: &mut Arpeggiator, key: u8| {
            arpeggiator.press(Struck { key, velocity: 90 }, 0.0, false, &p);
        };
        press(&mut arpeggiator, 60);
        arpeggiator.lift(60, &p);
        assert!(!arpeggiator.is_idle(), "it goes on");
        press(&mut arpeggiator, 48);
        press(&mut arpeggiator, 52);
        let mut keys = vec![];
        while let Some(act) = arpeggiator.next(0.6, &p) {
            if let Act::Down(struck, _) = act {
                keys.push(struck.key);
            }
        }
        assert_eq!(keys, [48, 52, 48]);
    }
}
