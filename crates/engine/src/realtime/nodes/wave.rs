//! Reading a bank: cubic interpolation inside a cycle, a straight line between neighbouring cycles.

use wide::f32x4;
use zolvik_effects::tools::bounds::Bounds;
use zolvik_waves::Bank;
use zolvik_waves::bank::{LEVELS, points};

use crate::realtime::modulation::smooth::Smooth;
use crate::realtime::sine::{half_sine_turns, part_of_turn};
use crate::sizes::LANES;

/// Which level of a bank each lane reads.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Levels {
    start: [u32; LANES],
    size: [f32; LANES],
}

impl Levels {
    pub(crate) const NONE: Levels = Levels {
        start: [0; LANES],
        size: [128.0; LANES],
    };

    /// The level of one lane for all of them.
    pub(crate) fn like(&self, lane: usize) -> Levels {
        Levels {
            start: [self.start[lane]; LANES],
            size: [self.size[lane]; LANES],
        }
    }

    /// Chooses the level for a lane's frequency.
    pub(crate) fn choose(&mut self, lane: usize, bank: &Bank, hz: f64, limit_hz: f64) {
        let level = bank.level_for(hz, limit_hz).min(LEVELS.len() - 1);
        self.start[lane] = bank.start(level) as u32;
        self.size[lane] = points(level) as f32;
    }
}

/// What a unit repeats in this block.
#[derive(Clone, Copy)]
pub(crate) enum Form<'a> {
    Sine,
    Table(Reader<'a>),
    Pulse(Reader<'a>),
}

/// A bank with the place read at, gliding over the block.
#[derive(Clone, Copy)]
pub(crate) struct Reader<'a> {
    samples: &'a [f32],
    stride: usize,
    cycles: usize,
    levels: Levels,
    place: f32,
    slope: f32,
}

impl<'a> Form<'a> {
    /// `place` is a table's position or a pulse's width, 0 to 1.
    pub(crate) fn new(
        bank: Option<&'a Bank>,
        is_pulse: bool,
        levels: Levels,
        place: &Smooth,
    ) -> Self {
        let Some(bank) = bank else { return Form::Sine };
        let mut reader = Reader {
            samples: bank.samples(),
            stride: bank.stride(),
            cycles: bank.cycles,
            levels,
            place: place.now,
            slope: place.slope(),
        };
        if is_pulse {
            return Form::Pulse(reader);
        }
        let span = (bank.cycles - 1) as f32;
        reader.place *= span;
        reader.slope *= span;
        Form::Table(reader)
    }

    /// A single cycle of so many points, with a point before it and two after it.
    pub(crate) fn cycle(samples: &'a [f32], points: usize) -> Self {
        Form::Table(Reader {
            samples,
            stride: 0,
            cycles: 1,
            levels: Levels {
                start: [0; LANES],
                size: [points as f32; LANES],
            },
            place: 0.0,
            slope: 0.0,
        })
    }

    /// The wave of four lanes at an angle in turns.
    #[inline(always)]
    pub(crate) fn at(&self, turns: f32x4, frame: usize, half: usize) -> f32x4 {
        match self {
            Form::Sine => half_sine_turns(turns),
            Form::Table(reader) => reader.table(turns, frame, half),
            Form::Pulse(reader) => reader.pulse(turns, frame, half),
        }
    }
}

impl Reader<'_> {
    #[inline(always)]
    pub(crate) fn table(&self, turns: f32x4, frame: usize, half: usize) -> f32x4 {
        let place = self.place + self.slope * frame as f32;
        let cycle = (place as usize).min(self.cycles.saturating_sub(2));
        let share = place - cycle as f32;
        let first = self.read(turns, half, cycle);
        if share == 0.0 || self.cycles == 1 {
            return first;
        }
        first + (self.read(turns, half, cycle + 1) - first) * f32x4::splat(share)
    }

    /// The difference of two saws, a width apart: up for that share of the cycle, from its start.
    #[inline(always)]
    pub(crate) fn pulse(&self, turns: f32x4, frame: usize, half: usize) -> f32x4 {
        let width = self.place + self.slope * frame as f32;
        let late = self.read(turns + f32x4::splat(0.5 - width), half, 0);
        late - self.read(turns + f32x4::splat(0.5), half, 0)
    }

    /// One cycle, by the cubic through four neighbours (Lagrange, 1795).
    #[inline(always)]
    fn read(&self, turns: f32x4, half: usize, cycle: usize) -> f32x4 {
        let part = part_of_turn(turns);
        let four = |of: &[f32; LANES]| match half {
            0 => f32x4::new([of[0], of[1], of[2], of[3]]),
            _ => f32x4::new([of[4], of[5], of[6], of[7]]),
        };
        let sizes = four(&self.levels.size);
        let place = part * sizes;
        let whole = place.at_most(sizes - f32x4::ONE).fast_trunc_int();
        let t = place - f32x4::from_i32x4(whole);
        let starts = &self.levels.start[4 * half..4 * half + 4];
        let whole = whole.to_array();
        let mut around = [f32x4::ZERO; 4];
        for (lane, around) in around.iter_mut().enumerate() {
            let from = starts[lane] as usize + whole[lane] as usize + cycle * self.stride;
            if let Some(samples) = self.samples.get(from..).and_then(|s| s.first_chunk()) {
                *around = f32x4::new(*samples);
            }
        }
        let [a, b, c, d] = f32x4::transpose(around);
        let (half, third, sixth) = (
            f32x4::splat(0.5),
            f32x4::splat(1.0 / 3.0),
            f32x4::splat(1.0 / 6.0),
        );
        let c1 = c - a * third - b * half - d * sixth;
        let c2 = (a + c) * half - b;
        let c3 = (d - a) * sixth + (b - c) * half;
        ((c3 * t + c2) * t + c1) * t + b
    }
}

#[cfg(test)]
#[allow(clippy::unwrap_used, clippy::disallowed_methods)] // a test may panic, and reckons in its own way
mod tests {
    use super::*;
    use crate::sizes::BLOCK;
    use zolvik_patch::wave::{Table, Wave};
    use zolvik_waves::cycles::cycle_of;

    const RATE_HZ: f64 = 48_000.0;

    /// Half a second of a table whose position swings between 0 and 1 as a sine of 20 Hz, as the engine reads it: the
    /// position set once a block.
    fn scanned(table: Table, hz: f64) -> Vec<f64> {
        let bank = zolvik_waves::bank(&Wave::Table(table), &[]).unwrap();
        let mut levels = Levels::NONE;
        levels.choose(0, &bank, hz, 0.5 * RATE_HZ);
        let mut place = Smooth::default();
        place.jump(swing(0) as f32);
        let mut out = vec![];
        for block in 0..1500 {
            place.set_target(swing((block + 1) * BLOCK) as f32);
            place.advance(1.0);
            let form = Form::new(Some(&bank), false, levels, &place);
            for frame in 0..BLOCK {
                let turns = (hz * (block * BLOCK + frame) as f64 / RATE_HZ).fract() as f32;
                out.push(f64::from(
                    form.at(f32x4::splat(turns), frame, 0).to_array()[0],
                ));
            }
        }
        out
    }

    fn swing(frame: usize) -> f64 {
        0.5 - 0.5 * libm::cos(core::f64::consts::TAU * 20.0 * frame as f64 / RATE_HZ)
    }

    /// The chords between the blocks' ends swing a hair less than the sine: by `(w t)^2 / 12`, w the swing's angular
    /// frequency and t the length of a block.
    fn swing_of_chords(frame: usize) -> f64 {
        let less = (core::f64::consts::TAU * 20.0 * BLOCK as f64 / RATE_HZ).powi(2) / 12.0;
        0.5 + (swing(frame) - 0.5) * (1.0 - less)
    }

    /// The same from the harmonics, with a position of its own for each sample.
    fn reference(table: Table, hz: f64) -> Vec<f64> {
        let cycles: Vec<_> = (0..32)
            .map(|i| cycle_of(&Wave::Table(table), &[], i))
            .collect();
        let harmonics = LEVELS
            .iter()
            .find(|h| **h as f64 <= 0.5 * RATE_HZ / hz)
            .unwrap();
        let at = |cycle: usize, t: f64| -> f64 {
            (1..=(*harmonics).min(cycles[cycle].cosine.len()))
                .map(|n| {
                    let (s, c) = (core::f64::consts::TAU * n as f64 * t).sin_cos();
                    cycles[cycle].cosine[n - 1] * c + cycles[cycle].sine[n - 1] * s
                })
                .sum()
        };
        (0..1500 * BLOCK)
            .map(|i| {
                let t = (hz * i as f64 / RATE_HZ).fract();
                let place = swing_of_chords(i) * 31.0;
                let cycle = (place as usize).min(30);
                let share = place - cycle as f64;
                at(cycle, t) * (1.0 - share) + at(cycle + 1, t) * share
            })
            .collect()
    }

    /// The strongest partial of half a second, every 2 Hz: all there are repeat 20 times a second.
    fn strongest(samples: &[f64]) -> f64 {
        let count = samples.len();
        let amplitude = |bin: usize| {
            // each step turns a pointer by the bin's angle
            let (s, c) = (core::f64::consts::TAU * bin as f64 / count as f64).sin_cos();
            let (mut x, mut y, mut re, mut im) = (1.0, 0.0, 0.0, 0.0);
            for sample in samples {
                re += sample * x;
                im += sample * y;
                (x, y) = (x * c - y * s, x * s + y * c);
            }
            re.hypot(im)
        };
        (1..count / 2).map(amplitude).fold(0.0, f64::max)
    }

    #[test]
    fn a_scan_at_20_hz_has_no_steps() {
        for table in [
            Table::HumToAh,
            Table::ReedPipe,
            Table::SmallBell,
            Table::LowGrowl,
        ] {
            let (heard, exact) = (scanned(table, 220.0), reference(table, 220.0));
            let error: Vec<f64> = heard.iter().zip(&exact).map(|(a, b)| a - b).collect();
            let db = 20.0 * libm::log10(strongest(&error) / strongest(&exact));
            assert!(db < -80.0, "{table:?}: {db:.1} dB off");
        }
    }
}
