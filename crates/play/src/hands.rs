//! Who holds which keys: each way in (the screen, the computer's keys, each channel of each keyboard) counts by itself.
//!
//! A note-off ends only what its own way in struck, a key that two ways in hold sounds until both have let go, and a note-off that got lost is made
//! up for by the next stroke, by all notes off, or when the way in goes.

use std::collections::BTreeMap;

use zolvik_patch::playing::controllers::{PEDAL_HOLDS, SUSTAIN};

/// What one way in holds.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
struct Held {
    /// A bit for each key.
    keys: u128,
    /// How far its sustain pedal is down.
    pedal: u8,
}

/// All ways in there were, with what they hold.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Hands {
    /// By name and channel.
    ways: BTreeMap<(String, u8), Held>,
}

const fn bit(key: u8) -> u128 {
    1 << (key & 127)
}

impl Hands {
    /// Takes a message of a way in; gives what is to be heard of it.
    pub fn take(&mut self, way: &str, message: [u8; 3]) -> Option<[u8; 3]> {
        let [status, first, second] = message;
        let channel = status & 15;
        let held = self.ways.entry((way.to_owned(), channel)).or_default();
        match (status & 0xF0, first & 127) {
            (0x90, key) if second > 0 => {
                held.keys |= bit(key);
                Some(message)
            }
            (0x80 | 0x90, key) => {
                let was_held = held.keys & bit(key) != 0;
                held.keys &= !bit(key);
                (was_held && self.keys() & bit(key) == 0).then_some(message)
            }
            (0xB0, SUSTAIN) => {
                held.pedal = second;
                Some([status, first, self.pedal()])
            }
            (0xB0, 120) => {
                self.ways.clear();
                Some(message)
            }
            _ => Some(message),
        }
    }

    /// All notes off on a channel of a way in, or everything that is held by ways in that go: what is to be heard of it.
    pub fn let_go(&mut self, goes: impl Fn(&str, u8) -> bool) -> Vec<[u8; 3]> {
        let (before, pedal) = (self.keys(), self.pedal());
        let mut channels = BTreeMap::new();
        self.ways.retain(|(way, channel), held| {
            let stays = !goes(way, *channel);
            if !stays {
                for key in 0..128 {
                    if held.keys & bit(key) != 0 {
                        channels.insert(key, *channel);
                    }
                }
            }
            stays
        });
        let gone = before & !self.keys();
        let keys = (0..128).filter(|key| gone & bit(*key) != 0);
        let off = |key| [0x80 | channels.get(&key).copied().unwrap_or(0), key, 64];
        let mut messages: Vec<[u8; 3]> = keys.map(off).collect();
        if self.pedal() != pedal {
            messages.push([0xB0, SUSTAIN, self.pedal()]);
        }
        messages
    }

    /// A bit for each key that is held by any.
    fn keys(&self) -> u128 {
        self.ways.values().fold(0, |keys, held| keys | held.keys)
    }

    /// Keys that are held by any, from low to high.
    pub fn held(&self) -> Vec<u8> {
        let keys = self.keys();
        (0..128).filter(|key| keys & bit(*key) != 0).collect()
    }

    /// How far the pedal is down that is down furthest.
    fn pedal(&self) -> u8 {
        let all = self.ways.values();
        all.map(|held| held.pedal).max().unwrap_or(0)
    }

    /// Whether a sustain pedal holds.
    pub fn pedal_holds(&self) -> bool {
        self.pedal() >= PEDAL_HOLDS
    }
}
