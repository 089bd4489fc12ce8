//! A wave ready to be read: every cycle in versions with ever fewer harmonics, so that none has any beyond half
//! the sample rate.

use std::sync::{Arc, LazyLock};

use zolvik_patch::wave::{OwnTable, Shape, Wave};

use crate::cycles::{cycle_of, cycles};
use crate::fourier::Fourier;
use crate::key::Key;
use crate::memo::{Memo, remembered, with_room};
use crate::words::{Words, double, from_bytes, word};

/// Harmonics of each level, half an octave apart.
pub const LEVELS: [usize; 18] = [
    512, 362, 256, 181, 128, 91, 64, 45, 32, 23, 16, 11, 8, 6, 4, 3, 2, 1,
];

/// Points of a cycle at a level: sixteen or more per period of its highest harmonic (fewer only above 128 harmonics, which
/// are weak in any wave), which leaves cubic interpolation little to get wrong.
pub const fn points(level: usize) -> usize {
    match LEVELS[level] {
        64.. => 2048,
        32.. => 1024,
        16.. => 512,
        8.. => 256,
        _ => 128,
    }
}

/// Points before and after each cycle, so that four neighbours can be read anywhere.
pub const GUARD: usize = 3;

/// All cycles of a wave at all levels.
#[derive(Debug, Clone, PartialEq)]
pub struct Bank {
    /// Which wave it is; see [`key`].
    pub key: u64,
    /// Cycles.
    pub cycles: usize,
    /// First level that is kept; the ones above would be the same.
    pub top: usize,
    /// Where each level of a cycle starts; the point before the cycle's first.
    starts: [u32; LEVELS.len()],
    /// Samples from one cycle to the next.
    stride: usize,
    samples: Words,
}

/// Words before the samples: key, cycles and first level.
const HEAD: usize = 4;

/// Why bytes were not taken as a bank.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
#[error("these bytes are no wave of this version")]
pub struct NoBank;

impl Bank {
    fn layout(top: usize) -> ([u32; LEVELS.len()], usize) {
        let mut starts = [0; LEVELS.len()];
        let mut at = 0;
        for (level, start) in starts.iter_mut().enumerate().skip(top) {
            *start = at as u32;
            at += points(level) + GUARD;
        }
        (starts, at)
    }

    fn build(key: u64, wave: &Wave, own: &[OwnTable]) -> Bank {
        let spectra: Vec<_> = (0..cycles(wave, own))
            .map(|i| cycle_of(wave, own, i))
            .collect();
        let reach = spectra.iter().map(|s| s.reach()).max().unwrap_or(0);
        let top = LEVELS.iter().rposition(|h| *h >= reach).unwrap_or(0);
        let (starts, stride) = Self::layout(top);
        let mut samples = Vec::with_capacity(stride * spectra.len());
        let fouriers: Vec<(usize, Fourier)> = [2048, 1024, 512, 256, 128]
            .map(|n| (n, Fourier::new(n)))
            .into();
        for spectrum in &spectra {
            for (level, harmonics) in LEVELS.iter().enumerate().skip(top) {
                let n = points(level);
                let Some((_, fourier)) = fouriers.iter().find(|(size, _)| *size == n) else {
                    continue;
                };
                let cycle = spectrum.cycle_with(fourier, n, *harmonics);
                samples.push(cycle[n - 1] as f32);
                samples.extend(cycle.iter().map(|x| *x as f32));
                samples.extend([cycle[0] as f32, cycle[1] as f32]);
            }
        }
        Bank {
            key,
            cycles: spectra.len(),
            top,
            starts,
            stride,
            samples: Words::of(samples),
        }
    }

    /// The highest level without a harmonic above a frequency limit, for a cycle repeated at a frequency.
    pub fn level_for(&self, hz: f64, limit_hz: f64) -> usize {
        let fits = limit_hz / hz.max(1e-3);
        let level = LEVELS.iter().position(|h| *h as f64 <= fits);
        level.unwrap_or(LEVELS.len() - 1).max(self.top)
    }

    /// Where a level of the first cycle starts in [`Bank::samples`]: the point before the cycle's first.
    pub fn start(&self, level: usize) -> usize {
        self.starts[level.min(LEVELS.len() - 1)] as usize
    }

    /// Samples from one cycle to the next.
    pub fn stride(&self) -> usize {
        self.stride
    }

    /// All samples.
    pub fn samples(&self) -> &[f32] {
        self.samples.samples()
    }

    /// The bank as bytes, for another thread.
    pub fn bytes(&self) -> Vec<u8> {
        let mut bytes = self.key.to_le_bytes().to_vec();
        bytes.extend((self.cycles as u32).to_le_bytes());
        bytes.extend((self.top as u32).to_le_bytes());
        bytes.extend_from_slice(bytemuck::cast_slice(self.samples()));
        bytes
    }

    /// Reads what [`Bank::bytes`] gave.
    ///
    /// # Errors
    /// If the bytes are none. Never panics.
    pub fn from_bytes(bytes: &[u8]) -> Result<Bank, NoBank> {
        match bytes.len().is_multiple_of(4) {
            true => Bank::from_words(from_bytes(bytes), 0),
            false => Err(NoBank),
        }
    }

    /// The same from memory it then owns, laid out as words, from one of them on: nothing is copied.
    ///
    /// # Errors
    /// As [`Bank::from_bytes`].
    pub fn from_words(words: Vec<f32>, first: usize) -> Result<Bank, NoBank> {
        let head = words.get(first..first + HEAD).ok_or(NoBank)?;
        let key = double(head, 0);
        let (cycles, top) = (word(head, 2) as usize, word(head, 3) as usize);
        if top >= LEVELS.len() || cycles == 0 {
            return Err(NoBank);
        }
        let (starts, stride) = Self::layout(top);
        if stride.checked_mul(cycles) != Some(words.len() - first - HEAD) {
            return Err(NoBank);
        }
        Ok(Bank {
            key,
            cycles,
            top,
            starts,
            stride,
            samples: Words::after(words, first + HEAD),
        })
    }
}

/// What tells waves apart: equal for equal waves, never 0; none for the plain sine, which needs no bank. A pulse
/// is read from the saw's.
pub fn key(wave: &Wave, own: &[OwnTable]) -> Option<u64> {
    let mut hash = Key::new();
    match wave {
        Wave::Shape(Shape::Sine) => return None,
        Wave::Shape(Shape::Pulse) => return key(&Wave::Shape(Shape::Saw), own),
        Wave::Shape(shape) => hash.words([1, *shape as u64]),
        Wave::Table(table) => hash.words([2, *table as u64]),
        Wave::Bars(bars) => {
            hash.words([3, bars.amplitudes.len() as u64]);
            hash.words(bars.amplitudes.iter().map(|x| x.to_bits()));
            hash.words(bars.phases_turns.iter().map(|x| x.to_bits()));
        }
        Wave::Own(id) => {
            let table = own.iter().find(|t| t.id == *id)?;
            hash.words([4, table.harmonics.into()]);
            hash.bytes(bytemuck::cast_slice(&table.cycles.0));
        }
    }
    Some(hash.done())
}

/// Banks made lately: more than a patch has operators.
static MADE: Memo<Bank> = LazyLock::new(|| with_room(24));

/// The bank of a wave, made at most once while it is remembered; none for the plain sine.
pub fn bank(wave: &Wave, own: &[OwnTable]) -> Option<Arc<Bank>> {
    let key = key(wave, own)?;
    remembered(&MADE, key, || Some(Bank::build(key, wave, own)))
}
