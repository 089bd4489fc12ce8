//! Envelopes of eight voices at once: attack, decay, sustain, release with curvature.
//!
//! A segment from `a` to `b` over `T` seconds with curvature `c` is
//! `a + (b - a) (1 - e^(-k t/T)) / (1 - e^-k)`, `k = 6 c`; for `c = 0` a straight line. Such a curve obeys
//! `v' = v m + n` from block to block, which is all the fast path does. Derived here.

use crate::LANES;
use crate::program::EnvelopeProgram;

use zolvik_patch::shape::BEND;

/// Where a lane's envelope stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Stage {
    Done,
    Attack,
    Decay,
    Sustain,
    Release,
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
    };

    /// Starts a note in a lane, from silence.
    pub(crate) fn press(&mut self, lane: usize, env: &EnvelopeProgram, block_s: f64) {
        self.value[lane] = 0.0;
        self.enter(lane, Stage::Attack, 0.0, env, block_s);
    }

    /// Lets a note go, from wherever it stands.
    pub(crate) fn let_go(&mut self, lane: usize, env: &EnvelopeProgram, block_s: f64) {
        if self.stage[lane] != Stage::Done {
            self.enter(lane, Stage::Release, 0.0, env, block_s);
        }
    }

    /// Ends at once, in silence.
    pub(crate) fn quiet(&mut self, lane: usize) {
        self.stage[lane] = Stage::Done;
        self.value[lane] = 0.0;
        self.factor[lane] = 0.0;
        self.add[lane] = 0.0;
    }

    pub(crate) fn is_done(&self, lane: usize) -> bool {
        self.stage[lane] == Stage::Done
    }

    /// Takes up a changed sustain level in lanes that hold.
    pub(crate) fn retarget(&mut self, env: &EnvelopeProgram, block_s: f64) {
        for lane in 0..LANES {
            if self.stage[lane] == Stage::Sustain {
                self.enter(lane, Stage::Sustain, 0.0, env, block_s);
            }
        }
    }

    /// Goes on as before in blocks that are so many times as long.
    pub(crate) fn rescale(&mut self, times: f64) {
        if times == 1.0 {
            return;
        }
        for lane in 0..LANES {
            let (m, n) = (self.factor[lane], self.add[lane]);
            self.factor[lane] = libm::pow(m, times);
            self.add[lane] = match m {
                1.0 => n * times,
                m => n / (1.0 - m) * (1.0 - self.factor[lane]),
            };
            self.blocks_left[lane] =
                libm::ceil(f64::from(self.blocks_left[lane]) / times).min(2e9) as i32;
        }
    }

    /// Moves all lanes on by one block.
    pub(crate) fn advance(&mut self, env: &EnvelopeProgram, block_s: f64) {
        let mut ended = false;
        for lane in 0..LANES {
            self.value[lane] = self.value[lane] * self.factor[lane] + self.add[lane];
            self.blocks_left[lane] -= 1;
            ended |= self.blocks_left[lane] <= 0;
        }
        if ended {
            for lane in 0..LANES {
                if self.blocks_left[lane] <= 0 {
                    self.next_stage(lane, env, block_s);
                }
            }
        }
    }

    #[cold]
    fn next_stage(&mut self, lane: usize, env: &EnvelopeProgram, block_s: f64) {
        let over_s = self.over_s[lane];
        match self.stage[lane] {
            Stage::Attack => {
                self.value[lane] = 1.0;
                self.enter(lane, Stage::Decay, over_s, env, block_s);
            }
            Stage::Decay => {
                self.value[lane] = env.sustain;
                self.enter(lane, Stage::Sustain, 0.0, env, block_s);
            }
            Stage::Sustain => self.enter(lane, Stage::Sustain, 0.0, env, block_s),
            Stage::Release | Stage::Done => self.enter(lane, Stage::Done, 0.0, env, block_s),
        }
    }

    /// Begins a stage that started `late_s` before this block's end, with `value` as its start level.
    fn enter(
        &mut self,
        lane: usize,
        stage: Stage,
        late_s: f64,
        env: &EnvelopeProgram,
        block_s: f64,
    ) {
        self.stage[lane] = stage;
        let (time_s, curve, to) = match stage {
            Stage::Attack => (env.attack_s, env.attack_curve, 1.0),
            Stage::Decay => (env.decay_s, env.decay_curve, env.sustain),
            Stage::Release => (env.release_s.max(block_s), env.release_curve, 0.0),
            Stage::Sustain => return self.hold(lane, env.sustain, block_s),
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
        let (from, k) = (self.value[lane], BEND * curve);
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
        let blocks = libm::ceil((time_s - late_s) / block_s);
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
