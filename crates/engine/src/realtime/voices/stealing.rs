//! Ending notes: keys going up, the pedal, stealing and silencing.

use crate::realtime::voices::Voices;
use crate::realtime::voices::lanes::{Lane, LaneState};

impl Voices {
    /// Notes that sound and are not fading.
    pub(crate) fn notes(&self) -> usize {
        let first = |v: &&Lane| v.plays() && v.copy == 0;
        self.lanes.iter().filter(first).count()
    }

    /// Fades the oldest released note, or else the oldest.
    pub(in crate::realtime) fn steal(&mut self) {
        self.busy = true;
        let rank = |v: &Lane| match v.state {
            LaneState::Released => Some((0, v.age)),
            LaneState::Pedalled => Some((1, v.age)),
            LaneState::Held => Some((2, v.age)),
            LaneState::Free | LaneState::Fading => None,
        };
        let Some((_, oldest)) = self.lanes.iter().filter_map(rank).min() else {
            return;
        };
        for voice in &mut self.lanes {
            if voice.age == oldest && voice.plays() {
                voice.state = LaneState::Fading;
            }
        }
    }

    /// Releases the lanes of a key that went up.
    pub(crate) fn key_up(&mut self, key: u8, mut release: impl FnMut(usize)) {
        for (lane, voice) in self.lanes.iter_mut().enumerate() {
            if voice.state == LaneState::Held && voice.key == key {
                voice.state = if self.pedal {
                    LaneState::Pedalled
                } else {
                    LaneState::Released
                };
                if voice.state == LaneState::Released {
                    voice.slower = self.slower;
                    release(lane);
                }
            }
        }
    }

    /// Pedal down or up; lanes it held are released.
    pub(crate) fn pedal(&mut self, down: bool, mut release: impl FnMut(usize)) {
        self.pedal = down;
        for (lane, voice) in self.lanes.iter_mut().enumerate() {
            if !down && voice.state == LaneState::Pedalled {
                voice.state = LaneState::Released;
                voice.slower = self.slower;
                release(lane);
            }
        }
    }

    /// Lets every note go and lifts the pedal.
    pub(crate) fn all_up(&mut self, mut release: impl FnMut(usize)) {
        self.pedal = false;
        self.pressed = [0; 128];
        for (lane, voice) in self.lanes.iter_mut().enumerate() {
            if matches!(voice.state, LaneState::Held | LaneState::Pedalled) {
                voice.state = LaneState::Released;
                voice.slower = 1.0;
                release(lane);
            }
        }
    }

    /// Fades everything within milliseconds.
    pub(crate) fn silence(&mut self) {
        self.busy = true;
        (self.pedal, self.slower) = (false, 1.0);
        self.pressed = [0; 128];
        for voice in &mut self.lanes {
            if voice.state != LaneState::Free {
                voice.state = LaneState::Fading;
            }
        }
    }

    /// Lanes that sound, fading ones included.
    pub(crate) fn sounding(&self) -> usize {
        self.lanes
            .iter()
            .filter(|v| v.state != LaneState::Free)
            .count()
    }

    /// Notes that sound, fading ones included; copies count as one.
    pub(crate) fn sounding_notes(&self) -> usize {
        let first = |v: &&Lane| v.state != LaneState::Free && v.copy == 0;
        self.lanes.iter().filter(first).count()
    }
}
