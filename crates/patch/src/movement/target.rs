//! What links may lead to.

use super::link::Link;
use super::source::{Clock, Timing};
use crate::ids::{ChainId, EffectId, LinkId, RouteId, SourceId, UnitId};
use crate::kinds::operator::Operator;
use crate::kinds::sample::Sample;
use crate::params::address::Address;
use crate::params::catalogue::param;
use crate::params::param::{Linked, Owner, Param, ParamId};
use crate::parts::envelope::Point;
use crate::parts::voice::VoiceSettings;
use crate::patch::Patch;

/// For whom a value may be moved, with what its owner allows. The end of an envelope is silence.
pub fn linkable_at(patch: &Patch, to: Address) -> Linked {
    let points = || patch.envelope(UnitId(to.id)).map(|e| e.points.len());
    let is_end = to.param == Point::LEVEL && points() == Some(usize::from(to.point) + 1);
    match is_end {
        true => Linked::Never,
        false => linkable(param(to.param)),
    }
}

/// For whom a value of a kind may be moved.
pub fn linkable(row: &Param) -> Linked {
    match row.owner {
        Owner::Place => Linked::Never,
        Owner::Point | Owner::Group => row.linked,
        Owner::Unit | Owner::Route | Owner::Patch | Owner::Source | Owner::Link => row.linked,
        Owner::Chain | Owner::Effect | Owner::Band => row.linked,
    }
}

/// Whether a patch has a value that may be moved there.
pub fn is_there(patch: &Patch, to: Address) -> bool {
    linkable_at(patch, to) != Linked::Never && to.get(patch).is_ok()
}

/// Whether links move the loop of a sample while it sounds.
pub fn moves_loop(patch: &Patch, unit: UnitId) -> bool {
    let of_loop = [Sample::LOOP_START, Sample::LOOP_END];
    let mut links = patch.movement.links.iter();
    links.any(|link| link.to.id == unit.0 && of_loop.contains(&link.to.param))
}

/// A value by the name of what has it and its own, such as `Dew index`.
pub fn name(patch: &Patch, to: Address) -> String {
    let label = param(to.param).label;
    let lower = label.to_lowercase();
    let of = |owner: Option<&str>| {
        owner.map_or_else(|| label.into(), |owner| format!("{owner} {lower}"))
    };
    match param(to.param).owner {
        Owner::Point => {
            let label = point_label(patch, to);
            let owner = strip_name(patch, UnitId(to.id));
            owner.map_or_else(|| label.clone(), |owner| format!("{owner} {label}"))
        }
        Owner::Unit => of(strip_name(patch, UnitId(to.id))),
        Owner::Route => of(patch
            .route(RouteId(to.id))
            .and_then(|r| patch.unit(r.from))
            .map(|u| u.name.as_str())),
        Owner::Source | Owner::Place => of(patch.source(SourceId(to.id)).map(|s| s.name.as_str())),
        Owner::Link => match patch.link(LinkId(to.id)) {
            Some(link) if link.to != to => format!(
                "amount of {} on {}",
                source_name(patch, link),
                name(patch, link.to)
            ),
            _ => label.into(),
        },
        Owner::Chain => of(ChainId::of_number(to.id).map(|c| patch.finish.chain(c).name.as_str())),
        Owner::Effect => of(effect_name(patch, EffectId(to.id)).as_deref()),
        Owner::Band => match patch.effect(EffectId(to.id)) {
            Some(effect) => {
                let name = effect_name(patch, effect.id).unwrap_or_default();
                format!("{name} {} {lower}", to.point + 1)
            }
            None => label.into(),
        },
        Owner::Group => of(patch
            .groups
            .iter()
            .find(|g| g.id.0 == to.id)
            .map(|g| g.name.as_str())),
        Owner::Patch => label.into(),
    }
}

/// An effect's title, and where another one has the same, the chain it stands in.
pub fn effect_name(patch: &Patch, id: EffectId) -> Option<String> {
    let title = patch.effect(id)?.title();
    let alike = patch.finish.effects().filter(|e| e.title() == title);
    let chain = patch
        .finish
        .chains()
        .find(|(_, c)| c.effects.iter().any(|e| e.id == id));
    Some(match (alike.count(), chain) {
        (2.., Some((_, chain))) => format!("{title} ({})", chain.name),
        _ => title.into(),
    })
}

/// What a value of an envelope's point is called: by its part where the envelope has the common form.
fn point_label(patch: &Patch, to: Address) -> String {
    const PLAIN: [[&str; 3]; 3] = [
        ["attack", "peak", "attack curve"],
        ["decay", "sustain", "decay curve"],
        ["release", "end", "release curve"],
    ];
    let plain = patch.envelope(UnitId(to.id)).is_some_and(|e| e.is_plain());
    let which = [Point::TIME_S, Point::LEVEL, Point::CURVE]
        .iter()
        .position(|id| *id == to.param);
    match (plain, which) {
        (true, Some(which)) => PLAIN[usize::from(to.point).min(2)][which].into(),
        _ => format!("{} {}", param(to.param).label.to_lowercase(), to.point + 1),
    }
}

/// The name of a unit, or of the source a strip stands for.
fn strip_name(patch: &Patch, unit: UnitId) -> Option<&str> {
    match unit.source() {
        Some(source) => patch.source(source).map(|s| s.name.as_str()),
        None => patch.unit(unit).map(|u| u.name.as_str()),
    }
}

fn source_name(patch: &Patch, link: &Link) -> String {
    patch
        .source(link.from)
        .map_or_else(String::new, |s| s.name.clone())
}

/// The unit a value belongs to, or begins at; none for the patch's.
pub fn unit_of(patch: &Patch, to: Address) -> Option<UnitId> {
    match param(to.param).owner {
        Owner::Unit | Owner::Point => Some(UnitId(to.id)),
        Owner::Route => patch.route(RouteId(to.id)).map(|r| r.from),
        Owner::Link => patch
            .link(LinkId(to.id))
            .filter(|l| l.to != to)
            .and_then(|l| unit_of(patch, l.to)),
        _ => None,
    }
}

/// The value meant by a whole strip: the depth of its strongest send; of a source its rate.
pub fn of_strip(patch: &Patch, unit: UnitId) -> Option<Address> {
    if let Some(source) = unit.source() {
        let rate = patch.source(source)?.timing.clock;
        let id = match rate {
            Clock::Hertz => Timing::RATE_HZ,
            Clock::Tempo => Timing::CYCLE_BEATS,
        };
        return Some(Address::new(id, source.0));
    }
    let strongest = patch
        .sends(unit)
        .max_by(|a, b| patch.strength(a).total_cmp(&patch.strength(b)));
    strongest.map(|route| Address::route(route.id, route.send.depth()))
}

/// Whether moving a value moves the pitch of an operator that is heard itself.
pub(crate) fn pitches(patch: &Patch, to: Address, unit: UnitId) -> bool {
    let own = [
        Operator::RATIO,
        Operator::SEMITONES,
        Operator::FIXED_HZ,
        Operator::DETUNE_CENTS,
    ];
    match to.param {
        VoiceSettings::TUNE_CENTS => true,
        VoiceSettings::CARRIERS_CENTS => patch.sounds(unit),
        VoiceSettings::MODULATORS_CENTS => !patch.sounds(unit),
        id => own.contains(&id) && to.id == unit.0,
    }
}

/// Cents in one of the amounts a pitch is moved by.
pub(crate) fn cents_of(id: ParamId) -> f64 {
    match id {
        Operator::RATIO | Operator::FIXED_HZ => 1200.0,
        Operator::SEMITONES => 100.0,
        _ => 1.0,
    }
}
