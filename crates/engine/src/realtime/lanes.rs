//! One lane: the state of the note in it, its pitch and its place among the copies of the note.

use crate::program::VoiceProgram;
use crate::{LANES, MAX_SETS};

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
    /// Which copy of the note it is, of how many.
    pub(crate) copy: u8,
    pub(crate) copies: u8,
    /// Gain at the start of the block; falls while fading.
    pub(crate) gain: f32,
    pub(crate) next_gain: f32,
    /// Factors of both channels at the block's start and end, from the copy's place and level.
    pub(crate) sides: [f32; 2],
    pub(crate) next_sides: [f32; 2],
    pub(super) goal_sides: [f32; 2],
    /// Frequency of the key it plays now, copies and bending included, in hertz.
    pub(crate) hz: f64,
    /// The same as octaves above 1 Hz.
    pub(super) oct: f64,
    /// The key's frequency by itself, as octaves above 1 Hz, and where it glides to.
    pub(super) pitch_oct: f64,
    pub(super) goal_oct: f64,
    /// Change a block on the way there.
    pub(super) glide_oct: f64,
    /// Blocks it has sounded since everything that feeds it ended.
    pub(crate) ringing: u32,
}

impl Lane {
    /// Sounds and is not on its way out.
    pub(super) fn plays(&self) -> bool {
        !matches!(self.state, LaneState::Free | LaneState::Fading)
    }

    /// Whether a block changes nothing about it.
    pub(super) fn is_settled(&self) -> bool {
        self.state != LaneState::Fading
            && !self.oct.is_nan()
            && self.gain == self.next_gain
            && self.pitch_oct == self.goal_oct
            && self.sides == self.next_sides
            && self.next_sides == self.goal_sides
    }

    /// Where in the row of copies it stands, -1 to 1.
    pub(super) fn place(&self) -> f64 {
        match self.copies {
            0 | 1 => 0.0,
            n => 2.0 * f64::from(self.copy) / f64::from(n - 1) - 1.0,
        }
    }

    /// Where between left and right it stands, -1 to 1: neighbours in pitch are no neighbours in space.
    fn side(&self) -> f64 {
        match self.copies {
            0 | 1 => 0.0,
            n => {
                // a stride without a common divisor goes through all places
                let stride = match n {
                    2..=4 => 1,
                    5 | 7 | 9 | 11 | 13 => 2,
                    6 | 12 => 5,
                    _ => 3,
                };
                let at = usize::from(self.copy) * stride % usize::from(n);
                2.0 * at as f64 / f64::from(n - 1) - 1.0
            }
        }
    }

    /// Factors of both channels: equal power around the middle, and together as strong as a single note.
    pub(super) fn sides_of(&self, voice: &VoiceProgram) -> [f32; 2] {
        if self.copies <= 1 {
            return [1.0; 2];
        }
        let inner = 1.0 / f64::from(self.copies - 1) + 1e-9;
        let level = |place: f64| match place.abs() <= inner {
            true => 1.0,
            false => f64::from(voice.blend),
        };
        let power: f64 = (0..self.copies)
            .map(|copy| level(Lane { copy, ..*self }.place()))
            .map(|g| g * g)
            .sum();
        let gain = level(self.place()) / libm::sqrt(power);
        let root = core::f64::consts::SQRT_2 * gain;
        zolvik_patch::levels::pan_gains(self.side() * f64::from(voice.spread))
            .map(|side| (root * side) as f32)
    }
}
