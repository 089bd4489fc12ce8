//! The banks an engine may read. Put here off the audio path, read on it.

use std::sync::Arc;

use zolvik_waves::Bank;

use crate::program::Program;
use zolvik_patch::document::MAX_UNITS;

/// Banks kept: those of the program that sounds, of the one that fades and of the one that waits.
const ROOM: usize = 3 * MAX_UNITS;

/// The banks.
#[derive(Debug, Clone, Default)]
pub(crate) struct Shelf {
    banks: Vec<Arc<Bank>>,
}

/// Place on the shelf of each unit's bank; none for sines.
pub(crate) type Places = [Option<u8>; MAX_UNITS];

impl Shelf {
    pub(crate) fn new() -> Self {
        Shelf {
            banks: Vec::with_capacity(ROOM),
        }
    }

    /// Adds a bank. Where the shelf is full one makes room that none of the programs reads. Not for the audio
    /// path: frees memory. Places found before may then be wrong; they must be looked up again.
    pub(crate) fn put(&mut self, bank: Arc<Bank>, read: [&Program; 3]) {
        if self.banks.iter().any(|b| b.key == bank.key) {
            return;
        }
        if self.banks.len() == ROOM {
            let is_read = |key: u64| {
                read.iter()
                    .any(|p| p.units.iter().any(|u| u.wave_key == key))
            };
            let idle = self.banks.iter().position(|b| !is_read(b.key));
            self.banks.remove(idle.unwrap_or(0));
        }
        self.banks.push(bank);
    }

    /// Where a program's banks stand. A bank that was not put here is read as a sine.
    pub(crate) fn places(&self, program: &Program) -> Places {
        std::array::from_fn(|u| {
            let key = program.units[u].wave_key;
            let at = self.banks.iter().position(|b| b.key == key);
            at.filter(|_| key != 0).map(|at| at as u8)
        })
    }

    #[inline(always)]
    pub(crate) fn get(&self, place: Option<u8>) -> Option<&Bank> {
        self.banks.get(usize::from(place?)).map(|bank| &**bank)
    }
}
