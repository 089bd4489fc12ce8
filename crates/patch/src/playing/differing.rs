//! What is different in articulations: found, exchanged with what the patch has, kept as it is edited.

use super::articulation::Difference;
use crate::error::PatchError;
use crate::ids::{EffectId, LinkId, UnitId};
use crate::movement::{SourceKind, target};
use crate::params::address::Address;
use crate::params::catalogue::param;
use crate::params::limits::{MAX_ARTICULATIONS, MAX_DIFFERENCES, MAX_UNIT_NAME};
use crate::params::param::{Owner, PartId};
use crate::params::values;
use crate::patch::Patch;
use crate::plain::clean_name;
impl Difference {
    /// What the patch has in its place now; none if the patch has no such thing.
    pub fn present(&self, patch: &Patch) -> Option<Difference> {
        Some(match self {
            Difference::Value { address, .. } => Difference::Value {
                address: *address,
                value: address.get(patch).ok()?,
            },
            Difference::Envelope { unit, .. } => Difference::Envelope {
                unit: *unit,
                envelope: Box::new(patch.envelope(*unit)?.clone()),
            },
            Difference::Shape { source, kind } => {
                let now = &patch.source(*source)?.kind;
                // of another kind by now: the shape means nothing to it
                if now.name() != kind.name() {
                    return None;
                }
                Difference::Shape {
                    source: *source,
                    kind: Box::new(now.clone()),
                }
            }
            Difference::Unit { unit, .. } => Difference::Unit {
                unit: *unit,
                on: patch.unit(*unit)?.on,
            },
            Difference::Source { source, .. } => Difference::Source {
                source: *source,
                on: patch.source(*source)?.on,
            },
            Difference::Link { link, .. } => Difference::Link {
                link: *link,
                on: patch.link(*link)?.on,
            },
            Difference::Effect { effect, .. } => Difference::Effect {
                effect: *effect,
                on: patch.effect(*effect)?.on,
            },
        })
    }

    /// Brings it into a patch that has the thing.
    fn bring(&self, patch: &mut Patch) {
        match self {
            // what `present` found can be set
            Difference::Value { address, value } => drop(address.set(patch, *value)),
            Difference::Envelope { unit, envelope } => {
                if let Some(slot) = patch.envelope_mut(*unit) {
                    *slot = (**envelope).clone();
                }
            }
            Difference::Shape { source, kind } => {
                if let Some(slot) = patch.source_mut(*source) {
                    slot.kind = (**kind).clone();
                }
            }
            Difference::Unit { unit, on } => {
                if let Some(slot) = patch.unit_mut(*unit) {
                    slot.on = *on;
                }
            }
            Difference::Source { source, on } => {
                if let Some(slot) = patch.source_mut(*source) {
                    slot.on = *on;
                }
            }
            Difference::Link { link, on } => {
                if let Some(slot) = patch.link_mut(*link) {
                    slot.on = *on;
                }
            }
            Difference::Effect { effect, on } => {
                let mut all = patch.finish.effects_mut();
                if let Some(slot) = all.find(|e| e.id == *effect) {
                    slot.on = *on;
                }
            }
        }
    }
}

/// Exchanges what a list holds with what the patch has.
fn exchange(patch: &mut Patch, at: usize) {
    let Some(articulation) = patch.playing.articulations.get(at) else {
        return;
    };
    let mut list = articulation.differences.clone();
    list.retain_mut(|difference| match difference.present(patch) {
        Some(there) => {
            difference.bring(patch);
            *difference = there;
            true
        }
        None => false,
    });
    patch.playing.articulations[at].differences = list;
}

/// Goes to another articulation, or to the base.
pub fn switch(patch: &mut Patch, to: Option<u8>) {
    if let Some(at) = patch.playing.articulation.take() {
        exchange(patch, at.into());
    }
    if let Some(at) = to.filter(|at| usize::from(*at) < patch.playing.articulations.len()) {
        exchange(patch, at.into());
        patch.playing.articulation = Some(at);
    }
}

/// The patch as a file has it: the base, with the number of the one that is heard.
pub fn for_file(patch: &Patch) -> Patch {
    let mut base = patch.clone();
    let heard = base.playing.articulation;
    switch(&mut base, None);
    base.playing.articulation = heard;
    base
}

/// A patch that was read from a file, as what is heard of it has it.
pub fn from_file(patch: &mut Patch) {
    let heard = patch.playing.articulation.take();
    switch(patch, heard);
}

/// Whether a value can be different in an articulation: what a patch is tried with is the same for all, and envelopes and shapes are
/// taken as a whole.
fn is_own(address: Address) -> bool {
    let row = param(address.param);
    let parts = [
        PartId::Audition,
        PartId::Playing,
        PartId::Arpeggio,
        PartId::Envelope,
    ];
    !parts.contains(&address.param.part) && !matches!(row.owner, Owner::Point | Owner::Place)
}

/// Everything in which a patch differs from another, as the other has it. Of what only one of them has nothing is told.
pub fn differences(patch: &Patch, from: &Patch) -> Vec<Difference> {
    let mut list = vec![];
    values::visit(patch, |address, _, _| {
        if is_own(address)
            && let (Ok(now), Ok(value)) = (address.get(patch), address.get(from))
            && now != value
        {
            list.push(Difference::Value { address, value });
        }
    });
    for unit in &patch.units {
        let Some(was) = from.unit(unit.id) else {
            continue;
        };
        if was.envelope != unit.envelope {
            list.push(Difference::Envelope {
                unit: unit.id,
                envelope: Box::new(was.envelope.clone()),
            });
        }
        if was.on != unit.on {
            list.push(Difference::Unit {
                unit: unit.id,
                on: was.on,
            });
        }
    }
    for source in &patch.movement.sources {
        let Some(was) = from.source(source.id) else {
            continue;
        };
        match (&was.kind, &source.kind) {
            (SourceKind::Envelope(a), SourceKind::Envelope(b)) if a != b => {
                list.push(Difference::Envelope {
                    unit: source.id.into(),
                    envelope: Box::new(a.clone()),
                });
            }
            (SourceKind::Lfo(_), SourceKind::Lfo(_))
            | (SourceKind::Steps(_), SourceKind::Steps(_))
                if was.kind != source.kind =>
            {
                list.push(Difference::Shape {
                    source: source.id,
                    kind: Box::new(was.kind.clone()),
                });
            }
            _ => {}
        }
        if was.on != source.on {
            list.push(Difference::Source {
                source: source.id,
                on: was.on,
            });
        }
    }
    for link in &patch.movement.links {
        match from.link(link.id) {
            Some(was) if was.on != link.on => list.push(Difference::Link {
                link: link.id,
                on: was.on,
            }),
            _ => {}
        }
    }
    for effect in patch.finish.effects() {
        match from.effect(effect.id) {
            Some(was) if was.on != effect.on => list.push(Difference::Effect {
                effect: effect.id,
                on: was.on,
            }),
            _ => {}
        }
    }
    list
}

/// Keeps what an edit changed while an articulation is heard as a difference of that one; what is built, named or chosen is built,
/// named or chosen for all.
pub fn keep(before: &Patch, after: &mut Patch) {
    let heard = (before.playing.articulation, after.playing.articulation);
    let (Some(at), true) = (heard.0, heard.0 == heard.1) else {
        return;
    };
    let changed = differences(after, before);
    let Some(mut list) = after
        .playing
        .articulations
        .get_mut(usize::from(at))
        .map(|a| std::mem::take(&mut a.differences))
    else {
        return;
    };
    for difference in changed {
        match list.iter().position(|known| known.same_place(&difference)) {
            // the base is known already; back at what it has, nothing is different any more
            Some(known) => {
                if difference.present(after).as_ref() == Some(&list[known]) {
                    list.remove(known);
                }
            }
            None => list.push(difference),
        }
    }
    after.playing.articulations[usize::from(at)].differences = list;
}

/// Forgets differences in what is no longer there.
pub fn tidy(patch: &mut Patch) {
    if patch.playing.articulations.is_empty() {
        return;
    }
    let mut list = std::mem::take(&mut patch.playing.articulations);
    for articulation in &mut list {
        articulation
            .differences
            .retain(|d| d.present(patch).is_some());
    }
    patch.playing.articulations = list;
}

/// Takes differences of the one that is heard back, or makes them the base's; of one value, or all of them.
pub fn settle(patch: &mut Patch, of: Option<Address>, take_back: bool) {
    let Some(at) = patch.playing.articulation.map(usize::from) else {
        return;
    };
    let list = std::mem::take(&mut patch.playing.articulations[at].differences);
    let (settled, stay): (Vec<_>, Vec<_>) = list
        .into_iter()
        .partition(|d| of.is_none_or(|of| covers(d, of)));
    if take_back {
        settled.iter().for_each(|d| d.bring(patch));
    }
    patch.playing.articulations[at].differences = stay;
}

/// Whether a difference is one in a value.
pub fn covers(difference: &Difference, address: Address) -> bool {
    let row = param(address.param);
    match difference {
        Difference::Value { address: own, .. } => *own == address,
        Difference::Envelope { unit, .. } => {
            (row.owner == Owner::Point || address.param.part == PartId::Envelope)
                && unit.0 == address.id
        }
        Difference::Shape { source, .. } => row.owner == Owner::Place && source.0 == address.id,
        _ => false,
    }
}

/// What the base has for a value while an articulation is heard that has another; none where both are the same.
pub fn base_value(patch: &Patch, address: Address) -> Option<f64> {
    let at = patch.playing.articulation?;
    let list = &patch
        .playing
        .articulations
        .get(usize::from(at))?
        .differences;
    let found = list.iter().find(|d| covers(d, address))?;
    let base = match found {
        Difference::Value { value, .. } => *value,
        Difference::Envelope { .. } | Difference::Shape { .. } => {
            let mut base = patch.clone();
            found.bring(&mut base);
            address.get(&base).ok()?
        }
        _ => return None,
    };
    (address.get(patch).ok()? != base).then_some(base)
}

/// How many things are different in a strip (a unit, or a source by its number) while an articulation is heard.
pub fn differing(patch: &Patch, strip: UnitId) -> usize {
    let heard = patch.playing.articulation;
    let heard = heard.and_then(|at| patch.playing.articulations.get(usize::from(at)));
    let is_own = |d: &&Difference| match d {
        Difference::Value { address, .. } => match strip.source() {
            Some(source) => {
                param(address.param).owner == Owner::Source && address.id == source.0
                    || param(address.param).owner == Owner::Link
                        && patch
                            .link(LinkId(address.id))
                            .is_some_and(|l| l.from == source)
            }
            None => target::unit_of(patch, *address) == Some(strip),
        },
        Difference::Envelope { unit, .. } | Difference::Unit { unit, .. } => *unit == strip,
        Difference::Shape { source, .. } | Difference::Source { source, .. } => {
            UnitId::from(*source) == strip
        }
        Difference::Link { link, .. } => patch
            .link(*link)
            .is_some_and(|l| UnitId::from(l.from) == strip),
        Difference::Effect { .. } => false,
    };
    heard.map_or(0, |a| a.differences.iter().filter(is_own).count())
}

/// How many things are different in an effect while an articulation is heard.
pub fn differing_in_effect(patch: &Patch, effect: EffectId) -> usize {
    let heard = patch.playing.articulation;
    let heard = heard.and_then(|at| patch.playing.articulations.get(usize::from(at)));
    let is_own = |d: &&Difference| match d {
        Difference::Value { address, .. } => {
            let owner = param(address.param).owner;
            matches!(owner, Owner::Effect | Owner::Band) && address.id == effect.0
        }
        Difference::Effect { effect: own, .. } => *own == effect,
        _ => false,
    };
    heard.map_or(0, |a| a.differences.iter().filter(is_own).count())
}

/// Checks the articulations of a patch.
///
/// # Errors
/// What is out of place, with its path.
pub fn check(patch: &Patch) -> Result<(), PatchError> {
    let list = &patch.playing.articulations;
    let path = |rest: String| format!("playing.articulations{rest}");
    let few = |path: String, max: usize, actual: usize| match actual > max {
        true => Err(PatchError::TooMany { path, max, actual }),
        false => Ok(()),
    };
    few(path(String::new()), MAX_ARTICULATIONS, list.len())?;
    if let Some(at) = patch
        .playing
        .articulation
        .filter(|at| usize::from(*at) >= list.len())
    {
        return Err(PatchError::Shape {
            path: "playing.articulation".into(),
            problem: format!("there is no articulation {at}"),
        });
    }
    for (i, articulation) in list.iter().enumerate() {
        if clean_name(&articulation.name).is_empty() {
            return Err(PatchError::Shape {
                path: path(format!("[{i}].name")),
                problem: "is empty; give it a name".into(),
            });
        }
        let letters = articulation.name.chars().count();
        few(path(format!("[{i}].name")), MAX_UNIT_NAME, letters)?;
        let own = |n: usize| path(format!("[{i}].differences[{n}]"));
        let count = articulation.differences.len();
        few(path(format!("[{i}].differences")), MAX_DIFFERENCES, count)?;
        for (n, difference) in articulation.differences.iter().enumerate() {
            if difference.present(patch).is_none() {
                return Err(PatchError::Shape {
                    path: own(n),
                    problem: "is about something the patch does not have".into(),
                });
            }
            match difference {
                Difference::Value { address, value } => {
                    let row = param(address.param);
                    if !is_own(*address) {
                        return Err(PatchError::Shape {
                            path: own(n),
                            problem: format!("{} is the same for all", row.label),
                        });
                    }
                    if !(row.min..=row.max).contains(value) {
                        return Err(PatchError::Range {
                            path: own(n),
                            min: row.min,
                            max: row.max,
                            actual: *value,
                        });
                    }
                }
                Difference::Envelope { envelope, .. } => envelope.check(&own(n))?,
                _ => {}
            }
        }
    }
    Ok(())
}
