//! Effects and their chains.

use super::find::each_effect;
use super::movement::{InRow, links_follow};
use zolvik_patch::Patch;
use zolvik_patch::document::{ChainId, EffectId};
use zolvik_patch::error::PatchError;
use zolvik_patch::finish::{Effect, EffectName, EqBand, MAX_CHAIN_EFFECTS, MAX_EQ_BANDS};
use zolvik_patch::param::{ChoiceId, Owner};
use zolvik_patch::part::Part;
use zolvik_patch::plain::clean_name;

fn no_effect(effect: EffectId) -> PatchError {
    PatchError::NoEffect { effect }
}

fn room(patch: &Patch, chain: ChainId, more: usize) -> Result<(), PatchError> {
    let actual = patch.finish.chain(chain).effects.len() + more;
    match actual > MAX_CHAIN_EFFECTS {
        true => Err(PatchError::TooMany {
            path: patch.finish.chain(chain).name.clone(),
            max: MAX_CHAIN_EFFECTS,
            actual,
        }),
        false => Ok(()),
    }
}

/// Puts a new effect into a chain, gently: at a place, or at the end.
pub(super) fn add(
    patch: &mut Patch,
    chain: ChainId,
    kind: EffectName,
    at: Option<usize>,
) -> Result<EffectId, PatchError> {
    room(patch, chain, 1)?;
    let id = patch.free_effect();
    let list = &mut patch.finish.chain_mut(chain).effects;
    // what holds a ceiling stays last
    let end = match list.last().map(|e| e.kind.name()) {
        Some(EffectName::Limiter) => list.len() - 1,
        _ => list.len(),
    };
    list.insert(at.unwrap_or(end).min(list.len()), Effect::new(id, kind));
    Ok(id)
}

/// Puts copies of effects into a chain.
pub(super) fn paste(
    patch: &mut Patch,
    chain: ChainId,
    at: Option<usize>,
    effects: &[Effect],
) -> Result<Vec<EffectId>, PatchError> {
    room(patch, chain, effects.len())?;
    let mut made = vec![];
    let first = at.unwrap_or(patch.finish.chain(chain).effects.len());
    for (i, effect) in effects.iter().enumerate() {
        let id = patch.free_effect();
        let list = &mut patch.finish.chain_mut(chain).effects;
        let effect = Effect {
            id,
            ..effect.clone()
        };
        list.insert((first + i).min(list.len()), effect);
        made.push(id);
    }
    Ok(made)
}

pub(super) fn remove(patch: &mut Patch, effect: EffectId) -> Result<Option<EffectId>, PatchError> {
    let (chain, at) = patch.finish.place(effect).ok_or(no_effect(effect))?;
    let list = &mut patch.finish.chain_mut(chain).effects;
    list.remove(at);
    Ok(list.get(at).or(list.last()).map(|e| e.id))
}

/// Puts an effect elsewhere: `at` counts the places of the chain without it.
pub(super) fn move_to(
    patch: &mut Patch,
    effect: EffectId,
    chain: ChainId,
    at: usize,
) -> Result<(), PatchError> {
    let (from, was) = patch.finish.place(effect).ok_or(no_effect(effect))?;
    if from != chain {
        room(patch, chain, 1)?;
    }
    let moved = patch.finish.chain_mut(from).effects.remove(was);
    let list = &mut patch.finish.chain_mut(chain).effects;
    list.insert(at.min(list.len()), moved);
    Ok(())
}

pub(super) fn duplicate(patch: &mut Patch, effect: EffectId) -> Result<EffectId, PatchError> {
    let (chain, at) = patch.finish.place(effect).ok_or(no_effect(effect))?;
    let copy = patch.finish.chain(chain).effects[at].clone();
    let made = paste(patch, chain, Some(at + 1), &[copy])?;
    Ok(made[0])
}

pub(super) fn switch(patch: &mut Patch, effect: EffectId, on: bool) -> Result<(), PatchError> {
    patch.effect_mut(effect).ok_or(no_effect(effect))?.on = on;
    Ok(())
}

pub(super) fn rename(patch: &mut Patch, effect: EffectId, name: &str) -> Result<(), PatchError> {
    patch.effect_mut(effect).ok_or(no_effect(effect))?.name = clean_name(name);
    Ok(())
}

/// Gives an effect all another one has, such as a ready setting; its number, place and switch stay.
pub(super) fn set(patch: &mut Patch, id: EffectId, like: &Effect) -> Result<(), PatchError> {
    let effect = patch.effect_mut(id).ok_or(no_effect(id))?;
    *effect = Effect {
        id,
        on: effect.on,
        ..like.clone()
    };
    Ok(())
}

pub(super) fn choose(
    patch: &mut Patch,
    effects: impl Iterator<Item = EffectId>,
    choice: ChoiceId,
    to: usize,
) -> Result<bool, PatchError> {
    let mut done = false;
    each_effect(patch, effects, |effect| {
        done |= effect.choose_of(choice, to).is_some();
    })?;
    Ok(done)
}

fn bands_mut(patch: &mut Patch, effect: EffectId) -> Result<&mut Vec<EqBand>, PatchError> {
    let found = patch.effect_mut(effect).ok_or(no_effect(effect))?;
    found.bands_mut().ok_or_else(|| PatchError::NotThere {
        param: "Bands",
        owner: "an effect of this kind".into(),
    })
}

fn band_mut(patch: &mut Patch, effect: EffectId, at: usize) -> Result<&mut EqBand, PatchError> {
    let band = bands_mut(patch, effect)?.get_mut(at);
    band.ok_or_else(|| PatchError::NotThere {
        param: "Band",
        owner: "an EQ with so few bands".into(),
    })
}

pub(super) fn add_band(
    patch: &mut Patch,
    effect: EffectId,
    band: EqBand,
) -> Result<(), PatchError> {
    let bands = bands_mut(patch, effect)?;
    if bands.len() >= MAX_EQ_BANDS {
        return Err(PatchError::TooMany {
            path: "bands".into(),
            max: MAX_EQ_BANDS,
            actual: bands.len() + 1,
        });
    }
    bands.push(band);
    Ok(())
}

pub(super) fn remove_band(
    patch: &mut Patch,
    effect: EffectId,
    at: usize,
) -> Result<(), PatchError> {
    band_mut(patch, effect, at)?;
    let bands = bands_mut(patch, effect)?;
    if bands.len() == 1 {
        return Err(PatchError::Shape {
            path: "bands".into(),
            problem: "an EQ keeps one band; switch it off instead".into(),
        });
    }
    bands.remove(at);
    links_follow(patch, (Owner::Band, effect.0), InRow::Went(at));
    Ok(())
}

pub(super) fn switch_band(
    patch: &mut Patch,
    effect: EffectId,
    at: usize,
    on: bool,
) -> Result<(), PatchError> {
    band_mut(patch, effect, at)?.on = on;
    Ok(())
}

pub(super) fn choose_band(
    patch: &mut Patch,
    effect: EffectId,
    at: usize,
    choice: ChoiceId,
    to: usize,
) -> Result<(), PatchError> {
    let band = band_mut(patch, effect, at)?;
    band.choose(choice, to).ok_or_else(|| PatchError::NotThere {
        param: zolvik_patch::catalogue::choice(choice).label,
        owner: "a band".into(),
    })
}
