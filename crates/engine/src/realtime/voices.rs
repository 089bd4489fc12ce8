//! Which note sounds in which lanes: starting, copies, pedal, release, stealing, gliding.

use zolvik_patch::document::{Mode, Priority};

use crate::program::{MAX_COPIES, Program, VoiceProgram};
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
    /// Fading quickly because its place was needed, or because it rang long enough.
    Fading,
}

/// One lane.
#[derive(Debug, Clone, Copy, Default)]
pub(crate) struct Voice {
    pub(crate) state: State,
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
    goal_sides: [f32; 2],
    /// Frequency of the key it plays now, copies and bending included, in hertz.
    pub(crate) hz: f64,
    /// The same as octaves above 1 Hz.
    oct: f64,
    /// The key's frequency by itself, as octaves above 1 Hz, and where it glides to.
    pitch_oct: f64,
    goal_oct: f64,
    /// Change a block on the way there.
    glide_oct: f64,
    /// Blocks it has sounded since everything that feeds it ended.
    pub(crate) ringing: u32,
}

impl Voice {
    /// Sounds and is not on its way out.
    fn plays(&self) -> bool {
        !matches!(self.state, State::Free | State::Fading)
    }

    /// Whether a block changes nothing about it.
    fn is_settled(&self) -> bool {
        self.state != State::Fading
            && !self.oct.is_nan()
            && self.gain == self.next_gain
            && self.pitch_oct == self.goal_oct
            && self.sides == self.next_sides
            && self.next_sides == self.goal_sides
    }

    /// Where in the row of copies it stands, -1 to 1.
    fn place(&self) -> f64 {
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
    fn sides_of(&self, voice: &VoiceProgram) -> [f32; 2] {
        if self.copies <= 1 {
            return [1.0; 2];
        }
        let inner = 1.0 / f64::from(self.copies - 1) + 1e-9;
        let level = |place: f64| match place.abs() <= inner {
            true => 1.0,
            false => f64::from(voice.blend),
        };
        let power: f64 = (0..self.copies)
            .map(|copy| level(Voice { copy, ..*self }.place()))
            .map(|g| g * g)
            .sum();
        let gain = level(self.place()) / libm::sqrt(power);
        let root = core::f64::consts::SQRT_2 * gain;
        zolvik_patch::levels::pan_gains(self.side() * f64::from(voice.spread))
            .map(|side| (root * side) as f32)
    }
}

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
    pub(crate) lanes: [Voice; LANE_COUNT],
    /// Whether some lane was on its way in the last block, or has been touched since.
    busy: bool,
    /// Groups beyond this one are free.
    pub(crate) top: usize,
    /// When each key went down, 0 for those that are up; and how hard.
    pressed: [u64; 128],
    struck: [u8; 128],
    pedal: bool,
    count: u64,
    /// Pitch of the last note, in octaves above 1 Hz; none before the first.
    last_oct: Option<f64>,
    /// Octaves all notes are bent by, and where that is to go.
    bend_oct: f64,
    bend_goal_oct: f64,
    wheel: f64,
    /// Spread and blend the lanes' sides were made for, detune and bend their pitches.
    spread_seen: [f32; 2],
    tuning_seen: [f64; 2],
    /// Most notes at once, whatever the patch says; see [`super::relief`].
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
            lanes: [Voice::default(); LANE_COUNT],
            busy: true,
            top: 0,
            pressed: [0; 128],
            struck: [0; 128],
            pedal: false,
            count: 0,
            last_oct: None,
            bend_oct: 0.0,
            bend_goal_oct: 0.0,
            wheel: 0.0,
            spread_seen: [0.0; 2],
            tuning_seen: [0.0; 2],
            allowed: usize::MAX,
            fade_step: (block_s / FADE_S) as f32,
            block_s,
            share: super::smooth::share(FOLLOW_S, block_s),
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
            .any(|v| v.state == State::Held && v.key == key)
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
        let free = self.lanes.iter().filter(|v| v.state == State::Free).count();
        if free < copies {
            return None;
        }
        self.count += 1;
        let goal_oct = libm::log2(hz);
        let from_oct = self.glide_from(goal_oct, overlaps, voice);
        self.last_oct = Some(goal_oct);
        let age = self.count;
        let mut first = Voice {
            state: State::Held,
            key,
            velocity,
            age,
            copies: copies as u8,
            gain: 1.0,
            next_gain: 1.0,
            pitch_oct: from_oct,
            ..Voice::default()
        };
        self.aim(&mut first, goal_oct, voice);
        let begin = self.first_lane(copies);
        let free = (begin..LANE_COUNT).chain(0..begin);
        let mut copy = 0;
        for lane in free {
            if copy == copies {
                break;
            }
            if self.lanes[lane].state == State::Free {
                let mut note = Voice {
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
            lanes.iter().filter(|v| v.state == State::Free).count()
        };
        let fits = |group: &usize| free_in(*group) >= copies.min(LANES);
        match copies {
            1 => 0,
            _ => (0..MAX_GROUPS).find(fits).map_or(0, |group| group * LANES),
        }
    }

    fn glide_from(&self, goal_oct: f64, overlaps: bool, voice: &VoiceProgram) -> f64 {
        let glides = voice.glide_s > 0.0 && (voice.glides_always == 1 || overlaps);
        self.last_oct.filter(|_| glides).unwrap_or(goal_oct)
    }

    /// Sends a voice's pitch to a goal, in the glide's time.
    fn aim(&self, voice: &mut Voice, goal_oct: f64, program: &VoiceProgram) {
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
        if !self.lanes.iter().any(Voice::plays) {
            return Taken::Strike;
        }
        let (goal_oct, velocity) = (libm::log2(hz), self.velocity_of(key));
        let glides = voice.glide_s > 0.0 && (voice.glides_always == 1 || overlaps);
        let sounded_on = self.lanes.iter().any(|v| v.state == State::Held);
        for lane in 0..LANE_COUNT {
            let mut taken = self.lanes[lane];
            if !taken.plays() {
                continue;
            }
            (taken.key, taken.velocity) = (key, velocity);
            taken.state = State::Held;
            taken.ringing = 0;
            // looked at again with the next block
            taken.oct = f64::NAN;
            if !glides {
                taken.pitch_oct = goal_oct;
            }
            self.aim(&mut taken, goal_oct, voice);
            self.lanes[lane] = taken;
        }
        self.last_oct = Some(goal_oct);
        // a note that had been let go begins anew even in legato
        let legato = voice.mode == Mode::Legato as u32 && sounded_on;
        Taken::Over {
            anew: pressed && !legato,
        }
    }

    /// Notes that sound and are not fading.
    pub(crate) fn notes(&self) -> usize {
        let first = |v: &&Voice| v.plays() && v.copy == 0;
        self.lanes.iter().filter(first).count()
    }

    /// Fades the oldest released note, or else the oldest.
    fn steal(&mut self) {
        self.busy = true;
        let rank = |v: &Voice| match v.state {
            State::Released => Some((0, v.age)),
            State::Pedalled => Some((1, v.age)),
            State::Held => Some((2, v.age)),
            State::Free | State::Fading => None,
        };
        let Some((_, oldest)) = self.lanes.iter().filter_map(rank).min() else {
            return;
        };
        for voice in &mut self.lanes {
            if voice.age == oldest && voice.plays() {
                voice.state = State::Fading;
            }
        }
    }

    /// Releases the lanes of a key that went up.
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
        self.pressed = [0; 128];
        for (lane, voice) in self.lanes.iter_mut().enumerate() {
            if matches!(voice.state, State::Held | State::Pedalled) {
                voice.state = State::Released;
                release(lane);
            }
        }
    }

    /// Fades everything within milliseconds.
    pub(crate) fn silence(&mut self) {
        self.busy = true;
        self.pedal = false;
        self.pressed = [0; 128];
        for voice in &mut self.lanes {
            if voice.state != State::Free {
                voice.state = State::Fading;
            }
        }
    }

    /// The bend wheel, -1 to 1.
    pub(crate) fn bend(&mut self, wheel: f64) {
        self.wheel = wheel;
    }

    fn oct_of(&self, voice: &Voice, program: &VoiceProgram) -> f64 {
        let detune_oct = voice.place() * f64::from(program.detune_cents) / 1200.0;
        voice.pitch_oct + detune_oct + self.bend_oct
    }

    /// Moves fades, glides, bending and copies on by one block. Lanes whose fade has ended are `freed`; gives whether
    /// pitches have changed.
    pub(crate) fn advance(&mut self, program: &Program, mut freed: impl FnMut(usize)) -> bool {
        let voice = &program.voice;
        self.bend_goal_oct = self.wheel * f64::from(voice.bend_semitones) / 12.0;
        let rest = self.bend_goal_oct - self.bend_oct;
        self.bend_oct = match rest.abs() < 1e-6 {
            true => self.bend_goal_oct,
            false => self.bend_oct + rest * f64::from(self.share),
        };
        let respread = self.spread_seen != [voice.spread, voice.blend];
        self.spread_seen = [voice.spread, voice.blend];
        let retuned = self.tuning_seen != [f64::from(voice.detune_cents), self.bend_oct];
        self.tuning_seen = [voice.detune_cents.into(), self.bend_oct];
        let at_rest = !respread && !retuned;
        if at_rest && !self.busy {
            return false;
        }
        self.busy = false;
        let mut changed = false;
        while self.top > 0 && !self.group_sounds(self.top - 1) {
            self.top -= 1;
        }
        for lane in 0..self.top * LANES {
            let v = &self.lanes[lane];
            if v.state == State::Free || at_rest && v.is_settled() {
                continue;
            }
            self.busy = true;
            let mut v = self.lanes[lane];
            v.gain = v.next_gain;
            if v.state == State::Fading {
                if v.gain <= 0.0 {
                    v.state = State::Free;
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

    pub(crate) fn group_sounds(&self, group: usize) -> bool {
        self.lanes[group * LANES..(group + 1) * LANES]
            .iter()
            .any(|v| v.state != State::Free)
    }

    /// Lanes that sound, fading ones included.
    pub(crate) fn sounding(&self) -> usize {
        self.lanes.iter().filter(|v| v.state != State::Free).count()
    }

    /// Notes that sound, fading ones included; copies count as one.
    pub(crate) fn sounding_notes(&self) -> usize {
        let first = |v: &&Voice| v.state != State::Free && v.copy == 0;
        self.lanes.iter().filter(first).count()
    }
}
