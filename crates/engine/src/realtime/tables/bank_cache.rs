//! The banks an engine may read. Put here off the audio path, read on it.

use std::sync::Arc;

use zolvik_waves::{Bank, Recording};

use crate::program::{Program, kind};
use crate::realtime::sine::Lanes;
use crate::sizes::MAX_SETS;
use zolvik_patch::document::MAX_UNITS;

/// Banks kept: those of the program that sounds, of the one that fades and of the one that waits.
const ROOM: usize = 3 * MAX_UNITS;

/// The banks.
#[derive(Debug, Clone, Default)]
pub(crate) struct BankCache {
    banks: Vec<Arc<Bank>>,
    recordings: Vec<Arc<Recording>>,
}

/// Place in the cache of each unit's bank; none for sines.
pub(crate) type Places = [Option<u8>; MAX_UNITS];

impl BankCache {
    pub(crate) fn new() -> Self {
        BankCache {
            banks: Vec::with_capacity(ROOM),
            recordings: Vec::with_capacity(ROOM),
        }
    }

    /// Adds a bank. Where the bank cache is full one makes room that none of the programs reads. Not for the audio
    /// path: frees memory. Places found before may then be wrong; they must be looked up again.
    pub(crate) fn put(&mut self, bank: Arc<Bank>, read: [&Program; 3]) {
        let key = bank.key;
        put(&mut self.banks, bank, key, |b| b.key, read);
    }

    /// Adds a recording, as [`BankCache::put`].
    pub(crate) fn put_recording(&mut self, recording: Arc<Recording>, read: [&Program; 3]) {
        // made before the first recording is read
        zolvik_waves::kernel::make_ready();
        let key = recording.key;
        put(&mut self.recordings, recording, key, |r| r.key, read);
    }

    /// Where a program's banks and recordings stand. A bank that was not put here is read as a sine, a recording as
    /// silence.
    pub(crate) fn places(&self, program: &Program) -> Places {
        std::array::from_fn(|u| {
            let unit = &program.units[u];
            let key = unit.wave_key;
            let at = match unit.kind {
                kind::SAMPLE => self.recordings.iter().position(|r| r.key == key),
                _ => self.banks.iter().position(|b| b.key == key),
            };
            at.filter(|_| key != 0).map(|at| at as u8)
        })
    }

    /// Keys of all that is here.
    pub(crate) fn keys(&self) -> impl Iterator<Item = u64> {
        let banks = self.banks.iter().map(|b| b.key);
        banks.chain(self.recordings.iter().map(|r| r.key))
    }

    #[inline(always)]
    pub(crate) fn recording(&self, place: Option<u8>) -> Option<&Recording> {
        self.recordings.get(usize::from(place?)).map(|r| &**r)
    }

    #[inline(always)]
    pub(crate) fn get(&self, place: Option<u8>) -> Option<&Bank> {
        self.banks.get(usize::from(place?)).map(|bank| &**bank)
    }
}

fn put<T>(
    list: &mut Vec<Arc<T>>,
    new: Arc<T>,
    key: u64,
    key_of: impl Fn(&T) -> u64,
    read: [&Program; 3],
) {
    if let Some(at) = list.iter().position(|b| key_of(b) == key) {
        // wanted again: it is the newest now
        let known = list.remove(at);
        list.push(known);
        return;
    }
    if list.len() == ROOM {
        let is_read = |key: u64| {
            read.iter()
                .any(|p| p.units.iter().any(|u| u.wave_key == key))
        };
        let idle = list.iter().position(|b| !is_read(key_of(b)));
        list.remove(idle.unwrap_or(0));
    }
    list.push(new);
}

/// The delay lines of combs: memory that is made off the audio path, for as many as there may be.
#[derive(Debug, Clone, Default)]
pub(crate) struct Lines {
    frames: Vec<Lanes>,
    /// Frames of each line, a power of two.
    each: usize,
}

impl Lines {
    /// Makes room for so many combs, each of so many frames. Not for the audio path. What longer lines replace is lost.
    pub(crate) fn reserve(&mut self, combs: usize, each: usize) {
        if combs > 0 && each > self.each {
            (self.frames, self.each) = (vec![], each);
        }
        let needed = combs * MAX_SETS * self.each;
        if self.frames.len() < needed {
            // memory nothing has been written to costs nothing yet
            let mut frames: Vec<Lanes> = bytemuck::allocation::zeroed_vec(needed);
            frames[..self.frames.len()].copy_from_slice(&self.frames);
            self.frames = frames;
        }
    }

    /// Whether lines are so long, so that making room for more of them loses nothing.
    pub(crate) fn reaches(&self, each: usize) -> bool {
        each <= self.each
    }

    /// Whether there is room for so many combs, each of so many frames.
    pub(crate) fn has_room(&self, combs: usize, each: usize) -> bool {
        combs == 0 || self.reaches(each) && combs * MAX_SETS * self.each <= self.frames.len()
    }

    /// The line of a comb in a set of lanes; none if there is no room for it.
    #[inline(always)]
    pub(crate) fn line(&mut self, comb: usize, set: usize) -> Option<&mut [Lanes]> {
        let from = (comb * MAX_SETS + set) * self.each;
        match self.each {
            0 => None,
            each => self.frames.get_mut(from..from + each),
        }
    }

    /// Takes over what another one holds of a comb in the sets that are used, where both are of a length.
    pub(crate) fn take(&mut self, comb: usize, other: &Lines, theirs: usize, sets: usize) {
        if self.each != other.each {
            return;
        }
        let (from, to) = (theirs * MAX_SETS * self.each, comb * MAX_SETS * self.each);
        let length = sets.min(MAX_SETS) * self.each;
        if let (Some(to), Some(from)) = (
            self.frames.get_mut(to..to + length),
            other.frames.get(from..from + length),
        ) {
            to.copy_from_slice(from);
        }
    }
}
