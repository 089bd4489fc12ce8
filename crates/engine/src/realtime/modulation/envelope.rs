//! Envelopes of eight voices at once: from point to point, each segment with a curvature.
//!
//! A segment from `a` to `b` over `T` seconds with curvature `c` is
//! `a + (b - a) (1 - e^(-k t/T)) / (1 - e^-k)`, `k = 6 c`; for `c = 0` a straight line. Such a curve obeys
//! `v' = v m + n` from block to block, which is all the fast path does. Derived here.

use crate::program::EnvelopeProgram;
use crate::sizes::LANES;

use zolvik_patch::envelope::{CURVATURE, MAX_POINTS};

/// The envelopes of eight lanes: one for all, or where links move it one for each note.
#[derive(Clone, Copy)]
pub(crate) struct Courses<'a> {
    pub(crate) common: &'a EnvelopeProgram,
    pub(crate) own: Option<&'a [EnvelopeProgram; LANES]>,
}

impl<'a> Courses<'a> {
    /// That of a lane.
    pub(crate) fn of(&self, lane: usize) -> &'a EnvelopeProgram {
        match self.own {
            Some(own) => &own[lane],
            None => self.common,
        }
    }
}

/// Where a lane's envelope stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Stage {
    Done,
    /// Waiting for its begin.
    Delay,
    /// On the way to a point.
    Segment(u8),
    /// At the held point.
    Held,
}

/// What a lane's envelopes wait for.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub(in crate::realtime) enum Begin {
    #[default]
    Nothing,
    /// A note that begins.
    Note,
    /// One that begins again from where it stands.
    Again,
}

/// State of one unit's envelope in eight lanes.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Envelopes {
    pub(crate) value: [f64; LANES],
    factor: [f64; LANES],
    add: [f64; LANES],
    blocks_left: [i32; LANES],
    over_s: [f64; LANES],
    stage: [Stage; LANES],
    /// Factor of all times, from key and velocity.
    times: [f64; LANES],
    /// How many times as slowly a note that was let go ends; 0 while it is held.
    let_go: [f64; LANES],
}

impl Envelopes {
    /// No note in any lane.
    pub(crate) const IDLE: Envelopes = Envelopes {
        value: [0.0; LANES],
        factor: [0.0; LANES],
        add: [0.0; LANES],
        blocks_left: [i32::MAX; LANES],
        over_s: [0.0; LANES],
        stage: [Stage::Done; LANES],
        times: [1.0; LANES],
        let_go: [0.0; LANES],
    };

    /// Starts a note in a lane, from silence, with all times scaled.
    pub(crate) fn note_on(&mut self, lane: usize, env: &EnvelopeProgram, times: f64, block_s: f64) {
        self.value[lane] = 0.0;
        self.times[lane] = times;
        self.let_go[lane] = 0.0;
        self.enter(lane, Stage::Delay, 0.0, env, block_s);
    }

    /// Starts in a lane as it is asked to.
    pub(in crate::realtime) fn begin(
        &mut self,
        how: Begin,
        lane: usize,
        env: &EnvelopeProgram,
        times: f64,
        block_s: f64,
    ) {
        match how {
            Begin::Nothing => {}
            Begin::Note => self.note_on(lane, env, times, block_s),
            Begin::Again => self.note_again(lane, env, times, block_s),
        }
    }

    /// Starts once more as it just did, by an envelope that is known only now; a note that was let go in between stays so.
    pub(in crate::realtime) fn remake(
        &mut self,
        how: Begin,
        lane: usize,
        env: &EnvelopeProgram,
        block_s: f64,
    ) {
        let slower = self.let_go[lane];
        let is_let_go = slower > 0.0;
        let times = self.times[lane] / if is_let_go { slower } else { 1.0 };
        self.begin(how, lane, env, times, block_s);
        if is_let_go {
            self.release(lane, env, slower, block_s);
        }
    }

    /// Starts again in a lane, from where it stands, with all times scaled.
    pub(crate) fn note_again(
        &mut self,
        lane: usize,
        env: &EnvelopeProgram,
        times: f64,
        block_s: f64,
    ) {
        self.times[lane] = times;
        self.let_go[lane] = 0.0;
        // a delay would hold the old level; it is passed
        self.enter(lane, Stage::Segment(0), 0.0, env, block_s);
    }

    /// Lets a note go, from wherever it stands; all that is to come takes so many times as long.
    pub(crate) fn release(
        &mut self,
        lane: usize,
        env: &EnvelopeProgram,
        slower: f64,
        block_s: f64,
    ) {
        self.times[lane] *= slower;
        self.let_go[lane] = slower;
        if self.stage[lane] != Stage::Done {
            let after = (env.held + 1).min(u32::from(u8::MAX)) as u8;
            self.enter(lane, Stage::Segment(after), 0.0, env, block_s);
        }
    }

    /// Ends at once, in silence.
    pub(crate) fn silence(&mut self, lane: usize) {
        self.stage[lane] = Stage::Done;
        self.value[lane] = 0.0;
        self.factor[lane] = 0.0;
        self.add[lane] = 0.0;
    }

    /// Whether nothing of it will ever be heard again, even where a key is still held.
    pub(crate) fn is_over(&self, lane: usize, env: &EnvelopeProgram) -> bool {
        let rest = env.held as usize..(env.count as usize).min(MAX_POINTS);
        let rests =
            || env.loop_from > env.held && env.points[rest].iter().all(|point| point.level == 0.0);
        match self.stage[lane] {
            Stage::Done => true,
            Stage::Held => self.value[lane] == 0.0 && rests(),
            Stage::Delay | Stage::Segment(_) => false,
        }
    }

    /// Takes up a changed sustain level in lanes that hold.
    pub(crate) fn retarget(&mut self, courses: Courses<'_>, block_s: f64) {
        for lane in 0..LANES {
            if self.stage[lane] == Stage::Held {
                self.enter(lane, Stage::Held, 0.0, courses.of(lane), block_s);
            }
        }
    }

    /// Goes on as before in blocks that are so many times as long.
    pub(crate) fn rescale(&mut self, times: f64) {
        if times == 1.0 {
            return;
        }
        for lane in 0..LANES {
            self.quicken(lane, times);
        }
    }

    /// What a lane still has to go takes so many times as long.
    pub(crate) fn slow(&mut self, lane: usize, times: f64) {
        self.times[lane] *= times;
        self.let_go[lane] *= times;
        if matches!(self.stage[lane], Stage::Segment(_)) {
            self.quicken(lane, 1.0 / times);
        }
    }

    fn quicken(&mut self, lane: usize, times: f64) {
        let (m, n) = (self.factor[lane], self.add[lane]);
        self.factor[lane] = libm::pow(m, times);
        self.add[lane] = match m {
            1.0 => n * times,
            m => n / (1.0 - m) * (1.0 - self.factor[lane]),
        };
        self.blocks_left[lane] = (f64::from(self.blocks_left[lane]) / times).ceil().min(2e9) as i32;
    }

    /// Moves all lanes on by one block.
    pub(crate) fn advance(&mut self, courses: Courses<'_>, block_s: f64) {
        let mut ended = false;
        for lane in 0..LANES {
            self.value[lane] = self.value[lane] * self.factor[lane] + self.add[lane];
            self.blocks_left[lane] -= 1;
            ended |= self.blocks_left[lane] <= 0;
        }
        if ended {
            for lane in 0..LANES {
                if self.blocks_left[lane] <= 0 {
                    self.next_stage(lane, courses.of(lane), block_s);
                }
            }
        }
    }

    #[cold]
    fn next_stage(&mut self, lane: usize, env: &EnvelopeProgram, block_s: f64) {
        // a rounding may leave the stage a hair early; no stage begins before its time
        let late_s = self.over_s[lane].max(0.0);
        let next = match self.stage[lane] {
            Stage::Delay => Stage::Segment(0),
            Stage::Segment(at) => {
                let reached = u32::from(at);
                self.value[lane] = env.points[usize::from(at) % MAX_POINTS].level;
                if reached == env.held {
                    match env.loop_from <= env.held {
                        true => Stage::Segment(env.loop_from as u8),
                        false => Stage::Held,
                    }
                } else if reached + 1 < env.count {
                    Stage::Segment(at + 1)
                } else {
                    Stage::Done
                }
            }
            // a loop drawn while the note is held begins at once
            Stage::Held if env.loop_from <= env.held => Stage::Segment(env.loop_from as u8),
            Stage::Held => Stage::Held,
            Stage::Done => Stage::Done,
        };
        self.enter(lane, next, late_s, env, block_s);
    }

    /// Onsets a stage that started `late_s` before this block's end, with `value` as its start level. Stages that
    /// are over before they begin are passed; a loop is never that short, so this comes to an end.
    fn enter(
        &mut self,
        lane: usize,
        stage: Stage,
        late_s: f64,
        env: &EnvelopeProgram,
        block_s: f64,
    ) {
        self.stage[lane] = stage;
        let times = self.times[lane];
        let (time_s, curve, to) = match stage {
            Stage::Delay => (env.delay_s * times, 0.0, 0.0),
            Stage::Segment(at) => {
                let point = &env.points[usize::from(at) % MAX_POINTS];
                let time_s = point.time_s * times;
                // the end never clicks, and a round takes its time however notes shorten it
                let round = env.loop_from <= u32::from(at) && u32::from(at) <= env.held;
                let shortest = if u32::from(at) + 1 >= env.count || round {
                    block_s
                } else {
                    0.0
                };
                (time_s.max(shortest), point.curve, point.level)
            }
            Stage::Held => {
                let held = env.points[env.held as usize % MAX_POINTS].level;
                return self.hold(lane, held, block_s);
            }
            Stage::Done => {
                self.value[lane] = 0.0;
                return self.hold(lane, 0.0, block_s);
            }
        };
        if late_s >= time_s {
            self.value[lane] = to;
            self.over_s[lane] = late_s - time_s;
            return self.next_stage(lane, env, block_s);
        }
        self.curve(lane, [time_s, curve, to, late_s], block_s);
    }

    fn curve(&mut self, lane: usize, [time_s, curve, to, late_s]: [f64; 4], block_s: f64) {
        let (from, k) = (self.value[lane], CURVATURE * curve);
        if k.abs() < 1e-3 {
            self.factor[lane] = 1.0;
            self.add[lane] = (to - from) * block_s / time_s;
            self.value[lane] = from + (to - from) * late_s / time_s;
        } else {
            let goal = from + (to - from) / (1.0 - libm::exp(-k));
            self.factor[lane] = libm::exp(-k * block_s / time_s);
            self.add[lane] = goal * (1.0 - self.factor[lane]);
            self.value[lane] = goal - (goal - from) * libm::exp(-k * late_s / time_s);
        }
        let blocks = ((time_s - late_s) / block_s).ceil();
        self.blocks_left[lane] = blocks as i32;
        self.over_s[lane] = late_s + blocks * block_s - time_s;
    }

    /// Stays, or glides within a few milliseconds, at a level.
    fn hold(&mut self, lane: usize, level: f64, block_s: f64) {
        const GLIDE_S: f64 = 0.01;
        self.factor[lane] = libm::exp(-block_s / GLIDE_S);
        self.add[lane] = level * (1.0 - self.factor[lane]);
        if (self.value[lane] - level).abs() < 1e-6 {
            self.value[lane] = level;
            self.factor[lane] = 0.0;
            self.add[lane] = level;
        }
        // looked at again after a while, so that the glide can end exactly
        self.blocks_left[lane] = 1024;
    }
}
