//! Channels of a controller that gives every note one of its own (MIDI Polyphonic Expression 1.1, MIDI Manufacturers Association, 2022).

/// Registered parameters.
const BEND_RANGE: [u8; 2] = [0, 0];
const ZONE: [u8; 2] = [0, 6];
/// Semitones the bend of one note reaches either way, until it is told otherwise.
const NOTE_BEND_SEMITONES: f32 = 48.0;

/// Which channels are notes' own, and which note each has.
#[derive(Debug, Clone)]
pub(crate) struct Channels {
    /// Member channels of the lower zone (from channel 2 up) and of the upper one (from 15 down).
    members: [u8; 2],
    /// The registered parameter each channel means.
    parameter: [[u8; 2]; 16],
    /// The channel of each key's note, counted from 1; 0 for none.
    of_key: [u8; 128],
    /// Where each channel's bend stands, -1 to 1.
    bend: [f32; 16],
    reach_semitones: f32,
}

impl Channels {
    pub(crate) const NEW: Channels = Channels {
        members: [0; 2],
        parameter: [[127; 2]; 16],
        of_key: [0; 128],
        bend: [0.0; 16],
        reach_semitones: NOTE_BEND_SEMITONES,
    };

    /// Whether a channel (0 to 15) has one note of its own.
    pub(crate) fn is_member(&self, channel: u8) -> bool {
        let [lower, upper] = self.members;
        (1..=lower).contains(&channel) || upper > 0 && (15 - upper..15).contains(&channel)
    }

    /// A controller of a channel: takes those that say what others mean.
    pub(crate) fn control(&mut self, channel: u8, controller: u8, value: u8) {
        let own = usize::from(channel & 15);
        match controller {
            101 => self.parameter[own][0] = value,
            100 => self.parameter[own][1] = value,
            6 if self.parameter[own] == ZONE && (channel == 0 || channel == 15) => {
                self.members[usize::from(channel == 15)] = value.min(15);
            }
            6 if self.parameter[own] == BEND_RANGE && self.is_member(channel) => {
                self.reach_semitones = f32::from(value.min(96));
            }
            _ => {}
        }
    }

    /// A key goes down on a channel. Gives how far its note is bent from the start, in octaves.
    pub(crate) fn press(&mut self, key: u8, channel: u8) -> f32 {
        match self.is_member(channel) {
            true => {
                self.of_key[usize::from(key & 127)] = channel + 1;
                self.bent(channel)
            }
            false => {
                self.of_key[usize::from(key & 127)] = 0;
                0.0
            }
        }
    }

    /// The bend of a channel is turned, -1 to 1. Gives how far its notes are bent, in octaves.
    pub(crate) fn turn(&mut self, channel: u8, place: f32) -> f32 {
        self.bend[usize::from(channel & 15)] = place;
        self.bent(channel)
    }

    fn bent(&self, channel: u8) -> f32 {
        self.bend[usize::from(channel & 15)] * self.reach_semitones / 12.0
    }

    /// Keys whose notes a channel has.
    pub(crate) fn keys(&self, channel: u8) -> impl Iterator<Item = u8> + '_ {
        let own = self.of_key.iter().enumerate();
        own.filter(move |(_, of)| **of == channel + 1)
            .map(|(key, _)| key as u8)
    }
}
