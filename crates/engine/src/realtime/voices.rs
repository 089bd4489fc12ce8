//! Which note sounds in which lane: starting, pedal, release, stealing.

use crate::{BLOCK, LANES, MAX_GROUPS};

/// Lanes there are.
pub(crate) const LANE_COUNT: usize = LANES * MAX_GROUPS;

/// What a lane is doing.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub(crate) enum State {
    #[default]
    Free,
    /// Its key is down.
    Held,
    /// Its key is up but the pedal is down.
    Pedalled,
    /// Let go, sounding out.
    Released,
    /// Fading quickly because its place was needed.
    Fading,
}

/// One lane.
#[derive(Debug, Clone, Copy, Default)]
pub(crate) struct Voice {
    pub(crate) state: State,
    pub(crate) key: u8,
    pub(crate) velocity: u8,
    /// Rises with every note; the lowest is the oldest.
    pub(crate) age: u64,
    /// Gain at the start of the block; falls while fading.
    pub(crate) gain: f32,
    pub(crate) next_gain: f32,
}

/// All lanes and the pedal.
#[derive(Debug, Clone)]
pub(crate) struct Voices {
    pub(crate) lanes: [Voice; LANE_COUNT],
    pedal: bool,
    count: u64,
    fade_step: f32,
}

/// What a stolen or silenced note takes to fade, in seconds.
const FADE_S: f64 = 0.005;

impl Voices {
    pub(crate) fn new(rate_hz: f64) -> Self {
        let fade_step = (BLOCK as f64 / (FADE_S * rate_hz)) as f32;
        Voices {
            lanes: [Voice::default(); LANE_COUNT],
            pedal: false,
            count: 0,
            fade_step,
        }
    }

    /// Finds a lane for a new note, sending another into its fade if the polyphony is used up. None only
    /// if more than twice the polyphony begin within a fade.
    pub(crate) fn start(&mut self, key: u8, velocity: u8, polyphony: usize) -> Option<usize> {
        let playing = self
            .lanes
            .iter()
            .filter(|v| !matches!(v.state, State::Free | State::Fading))
            .count();
        if playing >= polyphony {
            self.steal();
        }
        let lane = self.lanes.iter().position(|v| v.state == State::Free)?;
        self.count += 1;
        self.lanes[lane] = Voice {
            state: State::Held,
            key,
            velocity,
            age: self.count,
            gain: 1.0,
            next_gain: 1.0,
        };
        Some(lane)
    }

    /// Fades the oldest released note, or else the oldest.
    fn steal(&mut self) {
        let rank = |v: &Voice| match v.state {
            State::Released => Some((0, v.age)),
            State::Pedalled => Some((1, v.age)),
            State::Held => Some((2, v.age)),
            State::Free | State::Fading => None,
        };
        let oldest = self
            .lanes
            .iter()
            .enumerate()
            .filter_map(|(i, v)| rank(v).map(|r| (r, i)))
            .min();
        if let Some((_, lane)) = oldest {
            self.lanes[lane].state = State::Fading;
        }
    }

    /// Lanes to release when a key goes up.
    pub(crate) fn key_up(&mut self, key: u8, mut release: impl FnMut(usize)) {
        for (lane, voice) in self.lanes.iter_mut().enumerate() {
            if voice.state == State::Held && voice.key == key {
                voice.state = if self.pedal {
                    State::Pedalled
                } else {
                    State::Released
                };
                if voice.state == State::Released {
                    release(lane);
                }
            }
        }
    }

    /// Pedal down or up; lanes it held are released.
    pub(crate) fn pedal(&mut self, down: bool, mut release: impl FnMut(usize)) {
        self.pedal = down;
        for (lane, voice) in self.lanes.iter_mut().enumerate() {
            if !down && voice.state == State::Pedalled {
                voice.state = State::Released;
                release(lane);
            }
        }
    }

    /// Lets every note go and lifts the pedal.
    pub(crate) fn all_up(&mut self, mut release: impl FnMut(usize)) {
        self.pedal = false;
        for (lane, voice) in self.lanes.iter_mut().enumerate() {
            if matches!(voice.state, State::Held | State::Pedalled) {
                voice.state = State::Released;
                release(lane);
            }
        }
    }

    /// Fades everything within milliseconds.
    pub(crate) fn silence(&mut self) {
        self.pedal = false;
        for voice in &mut self.lanes {
            if voice.state != State::Free {
                voice.state = State::Fading;
            }
        }
    }

    /// Moves the fades on by one block; lanes whose fade has ended are `freed`.
    pub(crate) fn advance(&mut self, mut freed: impl FnMut(usize)) {
        for (lane, voice) in self.lanes.iter_mut().enumerate() {
            voice.gain = voice.next_gain;
            if voice.state == State::Fading {
                if voice.gain <= 0.0 {
                    voice.state = State::Free;
                    freed(lane);
                }
                voice.next_gain = (voice.gain - self.fade_step).max(0.0);
            }
        }
    }

    pub(crate) fn group_sounds(&self, group: usize) -> bool {
        self.lanes[group * LANES..(group + 1) * LANES]
            .iter()
            .any(|v| v.state != State::Free)
    }

    pub(crate) fn sounding(&self) -> usize {
        self.lanes.iter().filter(|v| v.state != State::Free).count()
    }
}
