//! A wave ready to be read: every cycle in versions with ever fewer harmonics, so that none has any beyond half
//! the sample rate.

use std::sync::{Arc, Mutex};

use zolvik_patch::wave::{OwnTable, Shape, Wave};

use crate::fourier::Fourier;
use crate::spectrum::{cycle_of, cycles};

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

/// Points before and behind each cycle, so that four neighbours can be read anywhere.
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
    samples: Vec<f32>,
}

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
            samples,
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
        &self.samples
    }

    /// The bank as bytes, for another thread.
    pub fn bytes(&self) -> Vec<u8> {
        let mut bytes = self.key.to_le_bytes().to_vec();
        bytes.extend((self.cycles as u32).to_le_bytes());
        bytes.extend((self.top as u32).to_le_bytes());
        bytes.extend_from_slice(bytemuck::cast_slice(&self.samples));
        bytes
    }

    /// Reads what [`Bank::bytes`] gave.
    ///
    /// # Errors
    /// If the bytes are none. Never panics.
    pub fn from_bytes(bytes: &[u8]) -> Result<Bank, NoBank> {
        let (head, rest) = bytes.split_at_checked(16).ok_or(NoBank)?;
        let word = |at: usize| u32::from_le_bytes(std::array::from_fn(|i| head[at + i]));
        let (cycles, top) = (word(8) as usize, word(12) as usize);
        let (starts, stride) = Self::layout(top);
        let expected = stride.checked_mul(cycles).and_then(|n| n.checked_mul(4));
        if top >= LEVELS.len() || cycles == 0 || expected != Some(rest.len()) {
            return Err(NoBank);
        }
        let mut samples = vec![0.0f32; stride * cycles];
        bytemuck::cast_slice_mut(&mut samples).copy_from_slice(rest);
        Ok(Bank {
            key: u64::from(word(0)) | u64::from(word(4)) << 32,
            cycles,
            top,
            starts,
            stride,
            samples,
        })
    }
}

/// What tells waves apart: equal for equal waves, never 0; none for the plain sine, which needs no bank. A pulse
/// is read from the saw's.
pub fn key(wave: &Wave, own: &[OwnTable]) -> Option<u64> {
    let mut hash = Fnv::new();
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
            hash.words(table.cycles.0.iter().map(|p| *p as u16 as u64));
        }
    }
    Some(hash.0.max(1))
}

/// The hash of Fowler, Noll and Vo (FNV-1a, 64 bit), a word at a time.
pub(crate) struct Fnv(pub(crate) u64);

impl Fnv {
    pub(crate) fn new() -> Self {
        Fnv(0xcbf2_9ce4_8422_2325)
    }

    pub(crate) fn words(&mut self, words: impl IntoIterator<Item = u64>) {
        for word in words {
            self.0 = (self.0 ^ word).wrapping_mul(0x0000_0100_0000_01b3);
            self.0 ^= self.0 >> 32;
        }
    }
}

/// Banks made lately, the newest last.
static MADE: Mutex<Vec<Arc<Bank>>> = Mutex::new(Vec::new());
/// How many are remembered: more than a patch has operators.
const REMEMBERED: usize = 24;

/// The bank of a wave, made at most once while it is remembered; none for the plain sine.
pub fn bank(wave: &Wave, own: &[OwnTable]) -> Option<Arc<Bank>> {
    let key = key(wave, own)?;
    let mut made = MADE.lock().unwrap_or_else(|e| e.into_inner());
    if let Some(at) = made.iter().position(|b| b.key == key) {
        let bank = made.remove(at);
        made.push(bank.clone());
        return Some(bank);
    }
    let bank = Arc::new(Bank::build(key, wave, own));
    if made.len() >= REMEMBERED {
        made.remove(0);
    }
    made.push(bank.clone());
    Some(bank)
}
