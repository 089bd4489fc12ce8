//! The phrase and the articulations.

use std::sync::Arc;

use zolvik_patch::Patch;
use zolvik_patch::error::PatchError;
use zolvik_patch::limits::{MAX_PHRASE_BEATS, MIN_PHRASE_BEATS};
use zolvik_patch::plain::clean_name;
use zolvik_patch::playing::articulation::Articulation;
use zolvik_patch::playing::differing;
use zolvik_patch::playing::phrase::{Phrase, PhraseNote, WheelPlace};

pub(super) fn set_phrase(patch: &mut Patch, phrase: Option<&Phrase>) {
    patch.playing.phrase = phrase.cloned().map(Arc::new);
}

/// Changes the phrase and puts it in order.
pub(super) fn phrase_mut(
    patch: &mut Patch,
    change: impl FnOnce(&mut Phrase),
) -> Result<(), PatchError> {
    let phrase = patch.playing.phrase.as_mut().ok_or_else(no_phrase)?;
    let phrase = Arc::make_mut(phrase);
    change(phrase);
    phrase.tidy();
    Ok(())
}

fn no_phrase() -> PatchError {
    PatchError::Shape {
        path: "playing.phrase".into(),
        problem: "there is no phrase; choose one first".into(),
    }
}

pub(super) fn set_length(patch: &mut Patch, beats: f64) -> Result<(), PatchError> {
    phrase_mut(patch, |phrase| {
        phrase.length_beats = beats.clamp(MIN_PHRASE_BEATS, MAX_PHRASE_BEATS);
    })
}

pub(super) fn add_note(patch: &mut Patch, note: PhraseNote) -> Result<(), PatchError> {
    phrase_mut(patch, |phrase| phrase.notes.push(note))
}

pub(super) fn change_notes(
    patch: &mut Patch,
    notes: &[(usize, PhraseNote)],
) -> Result<(), PatchError> {
    phrase_mut(patch, |phrase| {
        for (at, note) in notes {
            if let Some(slot) = phrase.notes.get_mut(*at) {
                *slot = *note;
            }
        }
    })
}

pub(super) fn remove_notes(patch: &mut Patch, notes: &[usize]) -> Result<(), PatchError> {
    phrase_mut(patch, |phrase| {
        let mut at = 0;
        phrase.notes.retain(|_| {
            at += 1;
            !notes.contains(&(at - 1))
        });
    })
}

pub(super) fn set_turns(
    patch: &mut Patch,
    bend: bool,
    turns: &[WheelPlace],
) -> Result<(), PatchError> {
    phrase_mut(patch, |phrase| {
        let list = if bend {
            &mut phrase.bend
        } else {
            &mut phrase.wheel
        };
        *list = turns.to_vec();
    })
}

pub(super) fn articulation_mut(patch: &mut Patch, at: u8) -> Result<&mut Articulation, PatchError> {
    let found = patch.playing.articulations.get_mut(usize::from(at));
    found.ok_or_else(|| PatchError::Shape {
        path: "playing.articulations".into(),
        problem: format!("there is no articulation {at}"),
    })
}

pub(super) fn add_articulation(patch: &mut Patch, name: &str) -> Result<(), PatchError> {
    let like = patch.playing.articulation;
    // like the one that is heard: what is different in that is different in this
    let heard = like.and_then(|at| patch.playing.articulations.get(usize::from(at)));
    let differences = heard.map_or_else(Vec::new, |a| {
        let own = a.differences.iter().filter_map(|d| d.present(patch));
        own.collect()
    });
    differing::switch(patch, None);
    patch.playing.articulations.push(Articulation {
        name: clean_name(name),
        key: None,
        differences,
    });
    let last = patch.playing.articulations.len() - 1;
    differing::switch(patch, Some(last.min(255) as u8));
    Ok(())
}

pub(super) fn remove_articulation(patch: &mut Patch, at: u8) -> Result<(), PatchError> {
    articulation_mut(patch, at)?;
    let heard = patch.playing.articulation;
    differing::switch(patch, None);
    patch.playing.articulations.remove(at.into());
    let heard = heard.filter(|heard| *heard != at);
    differing::switch(patch, heard.map(|heard| heard - u8::from(heard > at)));
    Ok(())
}

pub(super) fn give_key(patch: &mut Patch, at: u8, key: Option<u8>) -> Result<(), PatchError> {
    articulation_mut(patch, at)?;
    if let Some(key) = key.filter(|key| *key > 127) {
        return Err(PatchError::Range {
            path: format!("playing.articulations[{at}].key"),
            min: 0.0,
            max: 127.0,
            actual: key.into(),
        });
    }
    // a key switches to one of them only
    for articulation in &mut patch.playing.articulations {
        articulation.key = articulation.key.filter(|own| Some(*own) != key);
    }
    articulation_mut(patch, at)?.key = key;
    Ok(())
}

pub(super) fn switch(patch: &mut Patch, at: Option<u8>) -> Result<(), PatchError> {
    if let Some(at) = at {
        articulation_mut(patch, at)?;
    }
    differing::switch(patch, at);
    Ok(())
}
