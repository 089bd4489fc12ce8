//! Which note sounds in which lanes: starting, copies, gliding.

pub(crate) mod lanes;
pub(crate) mod notes;
mod onset;
pub(crate) mod ringing;
mod shedding;
mod stealing;

use zolvik_patch::document::{Mode, Priority};

use crate::program::{MAX_COPIES, Program, VoiceProgram};
use crate::realtime::voices::lanes::{LANE_COUNT, Lane, LaneState};
use crate::sizes::{BLOCK, LANES, MAX_SETS};

/// What a key did in mono or legato.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Taken {
    /// Nothing sounded; strike it.
    Strike,
    /// The sounding note took it up; its envelopes begin anew if asked for.
    Over {
        /// Whether envelopes begin anew.
        anew: bool,
    },
    /// Another key has priority.
    Not,
}

/// All lanes, keys and the pedal.
#[derive(Debug, Clone)]
pub(crate) struct Voices {
    pub(crate) lanes: [Lane; LANE_COUNT],
    /// Whether some lane was on its way in the last block, or has been touched since.
    pub(in crate::realtime) busy: bool,
    /// Groups beyond this one are free.
    pub(crate) top: usize,
    /// When each key went down, 0 for those that are up; and how hard.
    pub(in crate::realtime) pressed: [u64; 128],
    struck: [u8; 128],
    pub(in crate::realtime) pedal: bool,
    /// How many times as slowly notes end under a pedal that is half down.
    pub(crate) slower: f64,
    count: u64,
    /// Notes begun.
    notes_begun: u32,
    /// Pitch of the last note, in octaves above 1 Hz; none before the first.
    last_oct: Option<f64>,
    /// Octaves all notes are bent by, and where that is to go.
    pitch_bend_oct: f64,
    pitch_bend_goal_oct: f64,
    wheel: f64,
    /// Octaves each key's note is bent by itself, and where that is to go.
    note_bend_oct: [f32; 128],
    note_bend_goal_oct: [f32; 128],
    note_bends: bool,
    /// Spread and blend the lanes' sides were made for, detune and bend their pitches.
    spread_seen: [f32; 3],
    tuning_seen: [f64; 2],
    /// Most notes at once, whatever the patch says; see [`crate::realtime::voices::shedding`].
    pub(crate) allowed: usize,
    fade_step: f32,
    block_s: f64,
    /// Share of the rest that bend and sides cover in a block.
    share: f32,
}

/// What a stolen or silenced note takes to fade, in seconds.
const FADE_S: f64 = 0.005;
/// What bending and changes of copies take, in seconds.
const FOLLOW_S: f64 = 0.01;

impl Voices {
    pub(crate) fn new(rate_hz: f64) -> Self {
        let block_s = BLOCK as f64 / rate_hz;
        Voices {
            lanes: [Lane::default(); LANE_COUNT],
            busy: true,
            top: 0,
            pressed: [0; 128],
            struck: [0; 128],
            pedal: false,
            slower: 1.0,
            count: 0,
            notes_begun: 0,
            last_oct: None,
            pitch_bend_oct: 0.0,
            pitch_bend_goal_oct: 0.0,
            wheel: 0.0,
            note_bend_oct: [0.0; 128],
            note_bend_goal_oct: [0.0; 128],
            note_bends: false,
            spread_seen: [0.0; 3],
            tuning_seen: [0.0; 2],
            allowed: usize::MAX,
            fade_step: (block_s / FADE_S) as f32,
            block_s,
            share: crate::realtime::modulation::smooth::share(FOLLOW_S, block_s),
        }
    }

    /// A key goes down. Gives whether another one was down.
    pub(crate) fn press(&mut self, key: u8, velocity: u8) -> bool {
        let overlaps = self
            .pressed
            .iter()
            .enumerate()
            .any(|(k, at)| *at > 0 && k != usize::from(key));
        self.count += 1;
        self.pressed[usize::from(key & 127)] = self.count;
        self.struck[usize::from(key & 127)] = velocity;
        overlaps
    }

    /// A key goes up.
    pub(crate) fn lift(&mut self, key: u8) {
        self.pressed[usize::from(key & 127)] = 0;
    }

    /// Lets the next block look at every lane, since one was changed.
    pub(crate) fn wake(&mut self) {
        self.busy = true;
    }

    /// Whether a key's note is held.
    pub(crate) fn holds(&self, key: u8) -> bool {
        self.lanes
            .iter()
            .any(|v| v.state == LaneState::Held && v.key == key)
    }

    /// Which of the keys that are down sounds in mono.
    pub(crate) fn winner(&self, priority: u32) -> Option<u8> {
        let down = (0..128u8).filter(|k| self.pressed[usize::from(*k)] > 0);
        if priority == Priority::Lowest as u32 {
            return down.min();
        }
        if priority == Priority::Highest as u32 {
            return down.max();
        }
        down.max_by_key(|k| self.pressed[usize::from(*k)])
    }

    /// How hard a key was struck.
    pub(crate) fn velocity_of(&self, key: u8) -> u8 {
        self.struck[usize::from(key & 127)]
    }

    /// Starts a note in as many lanes as it has copies, sending others into their fade if there are too many. Gives its
    /// number; its lanes are those of that age. None only if more notes begin within a fade than there are lanes.
    pub(crate) fn start(
        &mut self,
        (key, velocity): (u8, u8),
        hz: f64,
        overlaps: bool,
        voice: &VoiceProgram,
    ) -> Option<u64> {
        self.busy = true;
        let copies = voice.copies.clamp(1, MAX_COPIES) as usize;
        let polyphony = match voice.mode {
            m if m == Mode::Poly as u32 => voice.polyphony.clamp(1, 32) as usize,
            _ => 1,
        };
        // room for one more note stays free, so that those stolen can fade
        let most = polyphony
            .min(LANE_COUNT / copies - 1)
            .min(self.allowed)
            .max(1);
        while self.notes() >= most {
            self.steal();
        }
        let free = self
            .lanes
            .iter()
            .filter(|v| v.state == LaneState::Free)
            .count();
        if free < copies {
            return None;
        }
        self.count += 1;
        let goal_oct = libm::log2(hz);
        let from_oct = self.glide_from(goal_oct, overlaps, voice);
        self.last_oct = Some(goal_oct);
        let age = self.count;
        self.notes_begun = self.notes_begun.wrapping_add(1);
        let mut first = Lane {
            nth: self.notes_begun,
            state: LaneState::Held,
            key,
            velocity,
            age,
            copies: copies as u8,
            gain: 1.0,
            next_gain: 1.0,
            pitch_oct: from_oct,
            ..Lane::default()
        };
        self.set_target(&mut first, goal_oct, voice);
        let begin = self.first_lane(copies);
        let free = (begin..LANE_COUNT).chain(0..begin);
        let mut copy = 0;
        for lane in free {
            if copy == copies {
                break;
            }
            if self.lanes[lane].state == LaneState::Free {
                let mut note = Lane {
                    copy: copy as u8,
                    ..first
                };
                note.goal_sides = note.sides_of(voice);
                (note.sides, note.next_sides) = (note.goal_sides, note.goal_sides);
                note.oct = self.oct_of(&note, voice);
                note.hz = libm::exp2(note.oct);
                self.lanes[lane] = note;
                self.top = self.top.max(lane / LANES + 1);
                copy += 1;
            }
        }
        Some(age)
    }

    /// Where to look for lanes first: copies fill whole groups, so that as few as can be are computed.
    fn first_lane(&self, copies: usize) -> usize {
        let free_in = |group: usize| {
            let lanes = &self.lanes[group * LANES..(group + 1) * LANES];
            lanes.iter().filter(|v| v.state == LaneState::Free).count()
        };
        let fits = |group: &usize| free_in(*group) >= copies.min(LANES);
        match copies {
            1 => 0,
            _ => (0..MAX_SETS).find(fits).map_or(0, |group| group * LANES),
        }
    }

    fn glide_from(&self, goal_oct: f64, overlaps: bool, voice: &VoiceProgram) -> f64 {
        let glides = voice.glide_s > 0.0 && (voice.glides_always == 1 || overlaps);
        self.last_oct.filter(|_| glides).unwrap_or(goal_oct)
    }

    /// Sends a voice's pitch to a goal, in the glide's time.
    fn set_target(&self, voice: &mut Lane, goal_oct: f64, program: &VoiceProgram) {
        voice.goal_oct = goal_oct;
        let blocks = (program.glide_s / self.block_s).max(1.0);
        voice.glide_oct = (goal_oct - voice.pitch_oct) / blocks;
    }

    /// A key in mono or legato: the sounding note takes it up, if there is one.
    pub(crate) fn take_over(
        &mut self,
        key: u8,
        hz: f64,
        (overlaps, pressed): (bool, bool),
        voice: &VoiceProgram,
    ) -> Taken {
        self.busy = true;
        if self.winner(voice.priority) != Some(key) {
            return Taken::Not;
        }
        if !self.lanes.iter().any(Lane::plays) {
            return Taken::Strike;
        }
        let (goal_oct, velocity) = (libm::log2(hz), self.velocity_of(key));
        let glides = voice.glide_s > 0.0 && (voice.glides_always == 1 || overlaps);
        let sounded_on = self.lanes.iter().any(|v| v.state == LaneState::Held);
        self.notes_begun = self.notes_begun.wrapping_add(u32::from(pressed));
        for lane in 0..LANE_COUNT {
            let mut taken = self.lanes[lane];
            if !taken.plays() {
                continue;
            }
            taken.nth = self.notes_begun;
            (taken.key, taken.velocity) = (key, velocity);
            taken.state = LaneState::Held;
            (taken.ringing, taken.faint) = (0, 0);
            // looked at again with the next block
            taken.oct = f64::NAN;
            if !glides {
                taken.pitch_oct = goal_oct;
            }
            self.set_target(&mut taken, goal_oct, voice);
            self.lanes[lane] = taken;
        }
        self.last_oct = Some(goal_oct);
        // a note that had been let go begins anew even in legato
        let legato = voice.mode == Mode::Legato as u32 && sounded_on;
        Taken::Over {
            anew: pressed && !legato,
        }
    }

    /// The wheel of the pitch bend, -1 to 1.
    pub(crate) fn pitch_bend(&mut self, wheel: f64) {
        self.wheel = wheel;
    }

    /// The wheel as it stands where a note is to begin: it is bent at once.
    pub(crate) fn stand_bent(&mut self, wheel: f64, program: &VoiceProgram) {
        self.wheel = wheel;
        self.pitch_bend_oct = wheel * f64::from(program.bend_semitones) / 12.0;
    }

    /// Bends the note of a key by itself, in octaves; at once, as it begins, or within 10 ms.
    pub(crate) fn bend_note(&mut self, key: u8, oct: f32, at_once: bool) {
        let key = usize::from(key & 127);
        self.note_bend_goal_oct[key] = oct;
        if at_once {
            self.note_bend_oct[key] = oct;
        }
        self.note_bends |= self.note_bend_oct[key] != oct;
    }

    /// Moves the bends of single notes on by one block; gives whether any moved.
    fn follow_bends(&mut self) -> bool {
        if !self.note_bends {
            return false;
        }
        self.note_bends = false;
        for (now, goal) in self.note_bend_oct.iter_mut().zip(self.note_bend_goal_oct) {
            let rest = goal - *now;
            *now = if rest.abs() < 1e-6 {
                goal
            } else {
                *now + rest * self.share
            };
            self.note_bends |= *now != goal;
        }
        true
    }

    fn oct_of(&self, voice: &Lane, program: &VoiceProgram) -> f64 {
        let detune_oct = voice.place() * f64::from(program.detune_cents) / 1200.0;
        let own_oct = self.note_bend_oct[usize::from(voice.key & 127)];
        voice.pitch_oct + detune_oct + self.pitch_bend_oct + f64::from(own_oct)
    }

    /// Moves fades, glides, bending and copies on by one block. Lanes whose fade has ended are `freed`; gives whether
    /// pitches have changed.
    pub(crate) fn advance(&mut self, program: &Program, mut freed: impl FnMut(usize)) -> bool {
        let voice = &program.voice;
        self.pitch_bend_goal_oct = self.wheel * f64::from(voice.bend_semitones) / 12.0;
        let rest = self.pitch_bend_goal_oct - self.pitch_bend_oct;
        self.pitch_bend_oct = match rest.abs() < 1e-6 {
            true => self.pitch_bend_goal_oct,
            false => self.pitch_bend_oct + rest * f64::from(self.share),
        };
        let spread = [voice.spread, voice.blend, voice.own_copies as f32];
        let respread = self.spread_seen != spread;
        self.spread_seen = spread;
        let retuned = self.tuning_seen != [f64::from(voice.detune_cents), self.pitch_bend_oct];
        self.tuning_seen = [voice.detune_cents.into(), self.pitch_bend_oct];
        let bent = self.follow_bends();
        let at_rest = !respread && !retuned && !bent;
        if at_rest && !self.busy {
            return false;
        }
        self.busy = false;
        let mut changed = false;
        while self.top > 0 && !self.set_sounds(self.top - 1) {
            self.top -= 1;
        }
        for lane in 0..self.top * LANES {
            let v = &self.lanes[lane];
            if v.state == LaneState::Free || at_rest && v.is_settled() {
                continue;
            }
            self.busy = true;
            let mut v = self.lanes[lane];
            v.gain = v.next_gain;
            if v.state == LaneState::Fading {
                if v.gain <= 0.0 {
                    v.state = LaneState::Free;
                    freed(lane);
                }
                v.next_gain = (v.gain - self.fade_step).max(0.0);
            }
            if v.pitch_oct != v.goal_oct {
                let next = v.pitch_oct + v.glide_oct;
                let past = (next - v.goal_oct) * v.glide_oct >= 0.0;
                let near = (next - v.goal_oct).abs() < 1e-9;
                v.pitch_oct = if past || near { v.goal_oct } else { next };
            }
            v.sides = v.next_sides;
            if respread {
                v.goal_sides = v.sides_of(voice);
            }
            for (side, goal) in v.next_sides.iter_mut().zip(v.goal_sides) {
                let rest = goal - *side;
                *side = if rest.abs() < 1e-5 {
                    goal
                } else {
                    *side + rest * self.share
                };
            }
            let oct = self.oct_of(&v, voice);
            if oct != v.oct {
                (v.oct, v.hz) = (oct, libm::exp2(oct));
                changed = true;
            }
            self.lanes[lane] = v;
        }
        changed
    }

    pub(crate) fn set_sounds(&self, group: usize) -> bool {
        self.lanes[group * LANES..(group + 1) * LANES]
            .iter()
            .any(|v| v.state != LaneState::Free)
    }
}
