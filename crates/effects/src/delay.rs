//! Echoes.
//!
//! A tap stands at a whole number of frames. A small change is a glide; a large one fades over to a second tap within 50 ms, so that nothing
//! is heard that does not belong.

use zolvik_patch::finish::{Delay as Rows, DelayIn, DelayWay, LONGEST_DELAY_S};

use crate::drive::soft;
use crate::filter::swing;
use crate::kind::Effect;
use crate::process::{BLOCK, Process, Setting, Stereo};
use crate::tools::follow::Slope;
use crate::tools::grains::Grains;
use crate::tools::line::Line;
use crate::tools::pole::{HighPass, LowPass};
use crate::tools::ringing::{one_pole_s, rounds_s};
use crate::tools::{flush_denormal, gain, one_pole_coefficient};

/// Time in which a tap goes to another place.
const MOVE_S: f64 = 0.05;
/// Length of the pieces of which shifted echoes are made.
const GRAIN_S: f64 = 0.06;
/// Level of the sound itself at which echoes step back all the way.
const FULL: f32 = 0.1;

/// Where a channel is read.
#[derive(Debug, Clone, Copy)]
struct Tap {
    at: usize,
    from: usize,
    /// How far it is on the way from one to the other; 1 when it is there.
    share: f32,
    begun: bool,
}

impl Tap {
    const NONE: Tap = Tap {
        at: 1,
        from: 1,
        share: 1.0,
        begun: false,
    };

    fn set_target(&mut self, frames: usize) {
        if !self.begun {
            (self.at, self.from, self.begun) = (frames, frames, true);
        } else if self.share >= 1.0 && frames != self.at {
            (self.from, self.at, self.share) = (self.at, frames, 0.0);
        }
    }

    #[inline(always)]
    fn read(&mut self, line: &Line, step: f32) -> f32 {
        if self.share >= 1.0 {
            return line.back(self.at - 1);
        }
        self.share = (self.share + step).min(1.0);
        let over = swing(0.5 * self.share);
        let (a, b) = (line.back(self.from - 1), line.back(self.at - 1));
        a + (b - a) * over
    }
}

pub(crate) struct Delay {
    lines: [Line; 2],
    taps: [Tap; 2],
    low: [HighPass; 2],
    high: [LowPass; 2],
    shift: [Grains; 2],
    heard: Slope,
}

/// Both times in seconds.
fn times_s(set: &Setting<'_>) -> [f64; 2] {
    let value = |id| f64::from(set.value(id).next);
    let times = match set.chosen(Rows::CLOCK) {
        DelayIn::Seconds => [value(Rows::LEFT_S), value(Rows::RIGHT_S)],
        DelayIn::Beats => [value(Rows::LEFT_BEATS), value(Rows::RIGHT_BEATS)]
            .map(|beats| beats * 60.0 / set.tempo_bpm.max(1.0)),
    };
    times.map(|s| s.min(LONGEST_DELAY_S))
}

impl Effect for Delay {
    fn new(rate_hz: f64) -> Self {
        let line = Line::new((LONGEST_DELAY_S * rate_hz) as usize + 8);
        let grains = Grains::new(GRAIN_S, rate_hz);
        Delay {
            lines: [line.clone(), line],
            taps: [Tap::NONE; 2],
            low: [HighPass::default(); 2],
            high: [LowPass::default(); 2],
            shift: [grains.clone(), grains],
            heard: Slope::default(),
        }
    }

    fn load(_set: &Setting<'_>) -> f64 {
        0.006_5
    }

    fn tail_s(set: &Setting<'_>, down_db: f64) -> f64 {
        let [a, b] = times_s(set);
        let shifts = set.end(Rows::SHIFT_ST) != 0.0;
        let grain_s = if shifts { 2.0 * GRAIN_S } else { 0.0 };
        // what the cuts hold back a little goes round later
        let beside_s = grain_s + one_pole_s(set.end(Rows::HIGH_CUT_HZ), 8.7);
        let feedback = set.end(Rows::FEEDBACK);
        let down_db = down_db + set.end(Rows::DUCK_DB);
        let echoes_s = match set.chosen(Rows::WAY) {
            DelayWay::Single => a.max(b) + beside_s,
            DelayWay::Straight => rounds_s(a.max(b) + beside_s, feedback, down_db),
            DelayWay::PingPong => rounds_s(a + b + 2.0 * beside_s, feedback, down_db),
        };
        echoes_s + one_pole_s(set.end(Rows::LOW_CUT_HZ), down_db) + 0.1
    }

    fn lift_db(set: &Setting<'_>) -> f64 {
        set.end(Rows::DUCK_DB) + set.end(Rows::DRIVE_DB)
    }
}

impl Process for Delay {
    fn run(&mut self, block: &mut Stereo, set: &Setting<'_>) {
        let way: DelayWay = set.chosen(Rows::WAY);
        for (tap, time_s) in self.taps.iter_mut().zip(times_s(set)) {
            tap.set_target(set.frames(time_s).min(self.lines[0].longest()));
        }
        let [low, high] = [Rows::LOW_CUT_HZ, Rows::HIGH_CUT_HZ].map(|id| set.value(id).next);
        self.low
            .iter_mut()
            .for_each(|f| f.set(low.into(), set.rate_hz));
        self.high
            .iter_mut()
            .for_each(|f| f.set(high.into(), set.rate_hz));
        let (feedback, duck) = (set.value(Rows::FEEDBACK), set.value(Rows::DUCK_DB));
        let drive = set.value(Rows::DRIVE_DB);
        let times = drive.map(gain);
        let semitones = set.value(Rows::SHIFT_ST).next;
        let ratio = libm::exp2f(semitones / 12.0);
        let step = (1.0 / (MOVE_S * set.rate_hz)) as f32;
        let follow = (
            one_pole_coefficient(0.005, set.rate_hz),
            one_pole_coefficient(0.25, set.rate_hz),
        );
        let piece = (GRAIN_S * set.rate_hz) as f32;
        // the cuts take something each time round, but not at the middle: all of it would never end
        for frame in 0..BLOCK {
            let came = [block[0][frame], block[1][frame]];
            let loud = came[0].abs().max(came[1].abs());
            let heard = self.heard.toward((loud / FULL).min(1.0), follow);
            let back = feedback.at(frame).min(0.999);
            let mut echoes = [0.0; 2];
            for channel in 0..2 {
                let read = self.taps[channel].read(&self.lines[channel], step);
                let cut = self.high[channel].next(self.low[channel].next(read));
                let pressed = match drive.next > 0.0 || drive.now > 0.0 {
                    true => soft(cut * times.at(frame)) / times.at(frame),
                    false => cut,
                };
                echoes[channel] = match semitones != 0.0 {
                    true => self.shift[channel].next(pressed, ratio, piece),
                    false => pressed,
                };
            }
            let (to_left, to_right) = match way {
                DelayWay::Straight => (came[0] + back * echoes[0], came[1] + back * echoes[1]),
                // what comes goes to the left, from there to the right, and round
                DelayWay::PingPong => (0.5 * (came[0] + came[1]) + back * echoes[1], echoes[0]),
                DelayWay::Single => (came[0], came[1]),
            };
            self.lines[0].push(flush_denormal(to_left.clamp(-32.0, 32.0)));
            self.lines[1].push(flush_denormal(to_right.clamp(-32.0, 32.0)));
            let factor = gain(-duck.at(frame) * heard);
            block[0][frame] = echoes[0] * factor;
            block[1][frame] = echoes[1] * factor;
        }
        self.low.iter_mut().for_each(HighPass::settle);
        self.high.iter_mut().for_each(LowPass::settle);
        self.heard.settle();
    }

    fn clear(&mut self) {
        self.lines.iter_mut().for_each(Line::clear);
        self.shift.iter_mut().for_each(Grains::clear);
        self.taps = [Tap::NONE; 2];
        self.low.iter_mut().for_each(HighPass::clear);
        self.high.iter_mut().for_each(LowPass::clear);
        self.heard = Slope::default();
    }
}
