//! A patch ready to be played: its program with the waves and recordings that reads.

use std::sync::Arc;

use zolvik_patch::document::{EffectId, Patch};
use zolvik_patch::hearing::Listening;
use zolvik_waves::recording::{recording, samples};
use zolvik_waves::{Bank, Clips, NoClips, Recording};

use super::compile::compile;
use super::layout::Program;

/// A patch ready to be played: its program and the banks that reads.
#[derive(Debug, Clone, PartialEq)]
pub struct Prepared {
    pub program: Box<Program>,
    /// Each bank once.
    pub banks: Vec<Arc<Bank>>,
    /// Each recording once; those whose audio is missing are left out, their units are silent.
    pub recordings: Vec<Arc<Recording>>,
    /// An effect before and after which the sound is to be looked at.
    pub tap: Option<EffectId>,
}

/// Compiles a valid patch and fetches the banks it reads; recordings only those that come with the application.
pub fn prepare(patch: &Patch, listening: &Listening) -> Prepared {
    prepare_with(patch, listening, &NoClips)
}

/// As [`prepare`], with recordings that were brought in.
pub fn prepare_with(patch: &Patch, listening: &Listening, clips: &dyn Clips) -> Prepared {
    let waves = patch
        .units
        .iter()
        .filter_map(|u| Some(&u.oscillator()?.wave));
    let mut banks: Vec<Arc<Bank>> = vec![];
    for bank in waves.filter_map(|wave| zolvik_waves::bank(wave, &patch.tables)) {
        if banks.iter().all(|b| b.key != bank.key) {
            banks.push(bank);
        }
    }
    let mut recordings: Vec<Arc<Recording>> = vec![];
    for found in samples(patch).filter_map(|sample| recording(sample, clips)) {
        if recordings.iter().all(|r| r.key != found.key) {
            recordings.push(found);
        }
    }
    Prepared {
        program: Box::new(compile(patch, listening)),
        banks,
        recordings,
        tap: None,
    }
}
