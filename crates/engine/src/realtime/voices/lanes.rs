//! One lane: the state of the note in it, its pitch and its place among the copies of the note.

use crate::program::{VoiceProgram, copies};
use crate::sizes::{LANES, MAX_SETS};

/// Lanes there are.
pub(crate) const LANE_COUNT: usize = LANES * MAX_SETS;

/// What a lane is doing.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub(crate) enum LaneState {
    #[default]
    Free,
    /// Its key is down.
    Held,
    /// Its key is up but the pedal is down.
    Pedalled,
    /// Let go, sounding out.
    Released,
    /// Fading quickly because its place was needed, or because it rang long enough.
    Fading,
}

/// One lane.
#[derive(Debug, Clone, Copy, Default)]
pub(crate) struct Lane {
    pub(crate) state: LaneState,
    pub(crate) key: u8,
    pub(crate) velocity: u8,
    /// Rises with every note; the lowest is the oldest. Copies of a note have the same.
    pub(crate) age: u64,
    /// How many notes began before it.
    pub(crate) nth: u32,
    /// Which copy of the note it is, of how many.
    pub(crate) copy: u8,
    pub(crate) copies: u8,
    /// Gain at the start of the block; falls while fading.
    pub(crate) gain: f32,
    pub(crate) next_gain: f32,
    /// Factors of both channels at the block's start and end, from the copy's place and level.
    pub(crate) sides: [f32; 2],
    pub(crate) next_sides: [f32; 2],
    pub(in crate::realtime) goal_sides: [f32; 2],
    /// Frequency of the key it plays now, copies and bending included, in hertz.
    pub(crate) hz: f64,
    /// The same as octaves above 1 Hz.
    pub(in crate::realtime) oct: f64,
    /// The key's frequency by itself, as octaves above 1 Hz, and where it glides to.
    pub(in crate::realtime) pitch_oct: f64,
    pub(in crate::realtime) goal_oct: f64,
    /// Change a block on the way there.
    pub(in crate::realtime) glide_oct: f64,
    /// Blocks it has sounded since everything that feeds it ended.
    pub(crate) ringing: u32,
    /// Blocks for which nothing was heard of that.
    pub(crate) faint: u32,
    /// How many times as slowly it ends, since it was let go.
    pub(crate) slower: f64,
}

impl Lane {
    /// Sounds and is not on its way out.
    pub(in crate::realtime) fn plays(&self) -> bool {
        !matches!(self.state, LaneState::Free | LaneState::Fading)
    }

    /// Whether a block changes nothing about it.
    pub(in crate::realtime) fn is_settled(&self) -> bool {
        self.state != LaneState::Fading
            && !self.oct.is_nan()
            && self.gain == self.next_gain
            && self.pitch_oct == self.goal_oct
            && self.sides == self.next_sides
            && self.next_sides == self.goal_sides
    }

    /// Where in the row of copies it stands, -1 to 1.
    pub(in crate::realtime) fn place(&self) -> f64 {
        copies::place(self.copy.into(), self.copies.into())
    }

    /// Which of its copies a unit that sounds so often in a note has here, and in how many lanes that is heard.
    pub(in crate::realtime) fn copy_of(&self, copies: u32) -> (u32, u32) {
        copies::copy_in(self.copy.into(), u32::from(self.copies).max(1), copies)
    }

    /// Its pitch as that of one of so many copies, which have a share of the detune; octaves above 1 Hz.
    pub(in crate::realtime) fn oct_as(&self, copies: u32, share: f64, voice: &VoiceProgram) -> f64 {
        let (copy, _) = self.copy_of(copies);
        let moved = copies::place(copy, copies) * share - self.place();
        self.oct + moved * f64::from(voice.detune_cents) / 1200.0
    }

    /// Factors of both channels, where all units sound as often as the voice says.
    pub(in crate::realtime) fn sides_of(&self, voice: &VoiceProgram) -> [f32; 2] {
        if voice.own_copies != 0 {
            return [1.0; 2];
        }
        let (spread, blend) = (voice.spread.into(), voice.blend.into());
        copies::sides(self.copy.into(), self.copies.into(), spread, blend)
    }

    /// Factors of both channels of a unit that sounds so often, with a share of the spread.
    pub(in crate::realtime) fn sides_as(
        &self,
        copies: u32,
        share: f32,
        voice: &VoiceProgram,
    ) -> [f32; 2] {
        let copies = copies.min(self.copies.into());
        let (copy, lanes) = self.copy_of(copies);
        let spread = f64::from(voice.spread * share);
        // lanes that sound alike add up
        copies::sides(copy, copies, spread, voice.blend.into()).map(|side| side / lanes as f32)
    }
}
