//! Copies that drift, and a comb that moves.

use zolvik_patch::finish::{Chorus as ChorusRows, Flanger as FlangerRows};

use crate::kind::Effect;
use crate::process::{BLOCK, Block, Process, SILENT, Setting, Stereo};
use crate::tools::biquad::{Biquad, Filter, butterworth};
use crate::tools::flush_denormal;
use crate::tools::line::{Line, cubic};
use crate::tools::ringing::{rounds_s, stages_s};
use crate::tools::wave::{Turns, sine};

const MOST_VOICES: usize = 8;

/// What lies below a cut goes past: as it came, so that what is mixed with it keeps its lows.
struct Past {
    highs: Filter,
}

impl Past {
    /// At the lowest cut all goes in.
    const OPEN_HZ: f32 = 10.0;
    const QUIET: Past = Past {
        highs: Filter::QUIET,
    };

    /// Until what goes past is so many decibels down, in seconds.
    fn ring_s(cut_hz: f64, rate_hz: f64, down_db: f64) -> f64 {
        stages_s(
            [Biquad::high_pass(cut_hz / rate_hz, butterworth(2, 0))],
            rate_hz,
            down_db,
        )
    }

    /// Leaves in the block what goes in, and gives what goes past.
    fn split(&mut self, block: &mut Stereo, cut_hz: f32, rate_hz: f64) -> Stereo {
        if cut_hz <= Past::OPEN_HZ {
            self.highs.clear();
            return SILENT;
        }
        let came = *block;
        let turns = (f64::from(cut_hz) / rate_hz).min(0.49);
        self.highs
            .set_target(Biquad::high_pass(turns, butterworth(2, 0)));
        self.highs.both(block);
        let past = |channel: usize| std::array::from_fn(|n| came[channel][n] - block[channel][n]);
        [past(0), past(1)]
    }
}

/// Puts two sounds together.
fn joined(block: &mut Stereo, past: &Stereo) {
    for (channel, past) in block.iter_mut().zip(past) {
        channel.iter_mut().zip(past).for_each(|(x, low)| *x += low);
    }
}

/// Copies that drift in time.
pub(crate) struct Chorus {
    past: Past,
    lines: [Line; 2],
    turns: Turns,
}

impl Effect for Chorus {
    const SHORTEST_TAIL_S: f64 = 0.15;

    fn new(rate_hz: f64) -> Self {
        let line = Line::new((0.08 * rate_hz) as usize + 8);
        Chorus {
            past: Past::QUIET,
            lines: [line.clone(), line],
            turns: Turns::default(),
        }
    }

    fn load(set: &Setting<'_>) -> f64 {
        0.003 + 0.005_5 * set.end(ChorusRows::VOICES)
    }

    fn tail_s(set: &Setting<'_>, down_db: f64) -> f64 {
        let longest_s = 2.0 * set.end(ChorusRows::DELAY_S);
        longest_s + Past::ring_s(set.end(ChorusRows::LOW_CUT_HZ), set.rate_hz, down_db)
    }
}

impl Process for Chorus {
    fn run(&mut self, block: &mut Stereo, set: &Setting<'_>) {
        let rate_hz = set.rate_hz as f32;
        let voices = (set.value(ChorusRows::VOICES).next.round() as usize).clamp(2, MOST_VOICES);
        let [rate, depth, delay, width] = [
            ChorusRows::RATE_HZ,
            ChorusRows::DEPTH_S,
            ChorusRows::DELAY_S,
            ChorusRows::WIDTH,
        ]
        .map(|id| set.value(id));
        let scale = 1.0 / (voices as f32).sqrt();
        let cut_hz = set.value(ChorusRows::LOW_CUT_HZ).next;
        let past = self.past.split(block, cut_hz, set.rate_hz);
        for (line, channel) in self.lines.iter_mut().zip(&*block) {
            line.push_all(channel);
        }
        let mut turns = [0.0; BLOCK];
        for (frame, turns) in turns.iter_mut().enumerate() {
            *turns = self.turns.next(rate.at(frame), rate_hz);
        }
        let [mut left, mut right] = SILENT;
        for voice in 0..voices {
            let own = voice as f32 / voices as f32;
            // evenly from side to side
            let place = 2.0 * voice as f32 / (voices - 1) as f32 - 1.0;
            let gains = |wide: f32| {
                let (a, b) = (0.5 * (1.0 - wide * place), 0.5 * (1.0 + wide * place));
                [a.sqrt(), b.sqrt()]
            };
            let standing = (width.now == width.next).then(|| gains(width.now));
            let back: Block = std::array::from_fn(|frame| {
                let (middle, depth) = (delay.at(frame), depth.at(frame).min(delay.at(frame)));
                (middle + depth * sine(turns[frame] + own) * 0.98) * rate_hz
            });
            for frame in 0..BLOCK {
                let (whole, share) = self.lines[0].place(back[frame]);
                let whole = whole + BLOCK - 1 - frame;
                let [l, r] = self
                    .lines
                    .each_ref()
                    .map(|line| cubic(line.around(whole), share));
                let wide = width.at(frame);
                let [a, b] = standing.unwrap_or_else(|| gains(wide));
                let both = 0.5 * (l + r);
                left[frame] += a * (both + (l - both) * (1.0 - wide * 0.5));
                right[frame] += b * (both + (r - both) * (1.0 - wide * 0.5));
            }
        }
        *block = [left, right].map(|side| side.map(|x| x * scale * core::f32::consts::SQRT_2));
        joined(block, &past);
    }

    fn clear(&mut self) {
        self.past = Past::QUIET;
        self.lines.iter_mut().for_each(Line::clear);
        self.turns = Turns::default();
    }
}

/// A short echo that moves, and goes in again.
pub(crate) struct Flanger {
    past: Past,
    lines: [Line; 2],
    turns: Turns,
}

impl Effect for Flanger {
    fn new(rate_hz: f64) -> Self {
        let line = Line::new((0.032 * rate_hz) as usize + 8);
        Flanger {
            past: Past::QUIET,
            lines: [line.clone(), line],
            turns: Turns::default(),
        }
    }

    fn load(_set: &Setting<'_>) -> f64 {
        0.010_5
    }

    fn tail_s(set: &Setting<'_>, down_db: f64) -> f64 {
        let each_s = set.end(FlangerRows::DELAY_S) + set.end(FlangerRows::DEPTH_S);
        let past_s = Past::ring_s(set.end(FlangerRows::LOW_CUT_HZ), set.rate_hz, down_db);
        rounds_s(each_s, set.end(FlangerRows::FEEDBACK), down_db) + past_s
    }
}

impl Process for Flanger {
    fn run(&mut self, block: &mut Stereo, set: &Setting<'_>) {
        let rate_hz = set.rate_hz as f32;
        let [rate, depth, delay, feedback, width] = [
            FlangerRows::RATE_HZ,
            FlangerRows::DEPTH_S,
            FlangerRows::DELAY_S,
            FlangerRows::FEEDBACK,
            FlangerRows::WIDTH,
        ]
        .map(|id| set.value(id));
        let cut_hz = set.value(FlangerRows::LOW_CUT_HZ).next;
        let past = self.past.split(block, cut_hz, set.rate_hz);
        for frame in 0..BLOCK {
            let turns = self.turns.next(rate.at(frame), rate_hz);
            let back = feedback.at(frame);
            for (channel, line) in self.lines.iter_mut().enumerate() {
                let own = turns + 0.5 * width.at(frame) * channel as f32;
                let swept = delay.at(frame) + depth.at(frame) * crate::filter::swing(own);
                let y = line.between(swept * rate_hz - 1.0);
                let sum = flush_denormal(block[channel][frame] + back * y);
                line.push(sum.clamp(-64.0, 64.0));
                // as loud whatever goes round
                block[channel][frame] = y * (1.0 - 0.5 * back.abs());
            }
        }
        joined(block, &past);
    }

    fn clear(&mut self) {
        self.past = Past::QUIET;
        self.lines.iter_mut().for_each(Line::clear);
        self.turns = Turns::default();
    }
}
