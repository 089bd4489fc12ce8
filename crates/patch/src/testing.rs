//! Patches for tests: any valid patch from a seed, extremes far more often than chance.

use crate::finish::{Effect, EffectName, EqBand};
use crate::ids::ChainId;
use crate::ids::{GroupId, RouteId, UnitId};
use crate::kinds::operator::{Operator, TunedBy};
use crate::kinds::{KindName, UnitKind};
use crate::movement::amount::gentle;
use crate::movement::order::order;
use crate::movement::target::is_there;
use crate::movement::{Direction, Link, Source, SourceName};
use crate::params::address::Address;
use crate::params::catalogue::{choices, param};
use crate::params::limits::MAX_UNITS;
use crate::params::limits::SHORTEST_STRETCH;
use crate::params::param::{Owner, PartId};
use crate::params::part::Part;
use crate::params::values;
use crate::parts::envelope::{Envelope, Point};
use crate::parts::group::Group;
use crate::parts::route::{Route, Send};
use crate::parts::unit::Unit;
use crate::parts::voice::VoiceSettings;
use crate::parts::wave::{Bars, MAX_BARS, Shape, Table, Wave};
use crate::patch::Patch;
use crate::playing::articulation::{Articulation, Difference};
use crate::playing::differing;
use crate::playing::ready::READY_PHRASES;

/// A small generator of pseudo-random numbers (SplitMix64; Steele, Lea, Flood, 2014).
#[derive(Debug, Clone)]
pub struct Dice(pub u64);

impl Dice {
    /// The next 64 bits.
    pub fn bits(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let z = (self.0 ^ (self.0 >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        let z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
        z ^ (z >> 31)
    }

    /// A whole number below `end`.
    pub fn below(&mut self, end: usize) -> usize {
        (self.bits() % end.max(1) as u64) as usize
    }

    /// 0 to 1.
    pub fn share(&mut self) -> f64 {
        (self.bits() >> 11) as f64 / (1u64 << 53) as f64
    }
}

/// A valid patch with 0 to 16 units, any routing and values that are often at their limits.
pub fn any_patch(seed: u64) -> Patch {
    let mut dice = Dice(seed);
    let mut patch = Patch {
        units: vec![],
        routes: vec![],
        ..Patch::empty()
    };
    for n in 0..dice.below(MAX_UNITS + 1) {
        let kind = KindName::ALL[dice.below(10).saturating_sub(4)];
        let mut unit = Unit::new(UnitId(n as u16 + 1), kind);
        unit.on = dice.below(8) > 0;
        unit.envelope = any_envelope(&mut dice);
        if let Some(operator) = unit.oscillator_mut() {
            any_oscillator(operator, &mut dice);
        }
        for choice in choices() {
            let at = dice.below(choice.options.len());
            let _ = unit.kind.part_mut().choose(choice.id, at);
        }
        patch.units.push(unit);
    }
    for choice in choices() {
        let at = dice.below(choice.options.len());
        let at = if choice.id == VoiceSettings::QUALITY {
            at.saturating_sub(dice.below(8))
        } else {
            at
        };
        let _ = patch.voice.choose(choice.id, at);
    }
    add_routes(&mut patch, &mut dice);
    if patch.units.len() > 2 && dice.below(3) == 0 {
        let count = 1 + dice.below(patch.units.len() - 1);
        patch.groups.push(Group {
            id: GroupId(1),
            name: "Group".into(),
            units: patch.units[..count].iter().map(|u| u.id).collect(),
            folded: dice.below(2) == 0,
            level_db: 0.0,
        });
    }
    for (address, _) in values::all(&patch) {
        let row = param(address.param);
        let value = match dice.below(6) {
            0 => row.min,
            1 => row.max,
            2 => row.default,
            _ => row.value_at(dice.share()),
        };
        if address.set(&mut patch, value).is_err() {
            unreachable!("every listed address can be set");
        }
    }
    for unit in &mut patch.units {
        if let UnitKind::Sample(s) = &mut unit.kind {
            for (from, to) in [
                (&mut s.start, &mut s.end),
                (&mut s.loop_start, &mut s.loop_end),
            ] {
                (*from, *to) = (from.min(*to).min(0.9), to.max(*from));
                *to = to.max(*from + SHORTEST_STRETCH);
            }
        }
        if let Some(end) = unit.envelope.points.last_mut() {
            end.level = 0.0;
        }
    }
    add_finish(&mut patch, &mut Dice(seed ^ 0x5EED_0F32));
    add_movement(&mut patch, &mut Dice(seed ^ 0x5EED_0F30));
    add_playing(&mut patch, &mut Dice(seed ^ 0x5EED_0F31));
    patch
}

/// In a quarter of the patches a rack of any effects with any values.
fn add_finish(patch: &mut Patch, dice: &mut Dice) {
    if dice.below(4) > 0 {
        return;
    }
    for _ in 0..1 + dice.below(7) {
        let kind = EffectName::ALL[dice.below(EffectName::ALL.len())];
        let mut effect = Effect::new(patch.free_effect(), kind);
        effect.on = dice.below(8) > 0;
        for choice in choices() {
            let _ = effect.choose_of(choice.id, dice.below(choice.options.len()));
        }
        if let Some(bands) = effect.bands_mut() {
            for band in bands {
                for choice in EqBand::ROWS.choices {
                    let _ = band.choose(choice.id, dice.below(choice.options.len()));
                }
            }
        }
        let chain = ChainId::ALL[dice.below(3)];
        patch.finish.chain_mut(chain).effects.push(effect);
    }
    for (address, _) in values::all(patch) {
        let row = param(address.param);
        let of_finish = matches!(row.owner, Owner::Effect | Owner::Band | Owner::Chain);
        if of_finish && dice.below(2) == 0 {
            let _ = address.set(patch, row.value_at(dice.share()));
        }
    }
}

/// In half of the patches some sources, and links between whatever may be moved.
fn add_movement(patch: &mut Patch, dice: &mut Dice) {
    if dice.below(2) == 0 {
        return;
    }
    for _ in 0..dice.below(6) {
        let kind = SourceName::ALL[dice.below(SourceName::ALL.len())];
        if kind == SourceName::Follower && patch.units.is_empty() {
            continue;
        }
        let mut source = Source::new(patch.free_source(), kind);
        for choice in choices() {
            let _ = source.choose_of(choice.id, dice.below(choice.options.len()));
        }
        patch.movement.sources.push(source);
    }
    let all: Vec<_> = values::all(patch).into_iter().map(|(a, _)| a).collect();
    let can: Vec<_> = all.into_iter().filter(|a| is_there(patch, *a)).collect();
    let sources: Vec<_> = patch.movement.sources.iter().map(|s| s.id).collect();
    for _ in 0..dice.below(12) {
        if sources.is_empty() {
            break;
        }
        let link = gentle(
            patch,
            sources[dice.below(sources.len())],
            can[dice.below(can.len())],
        );
        patch.movement.links.push(Link {
            direction: Direction::ALL[dice.below(3)],
            scaled_by: (dice.below(4) == 0).then(|| sources[dice.below(sources.len())]),
            on: dice.below(6) > 0,
            amount: link.amount * (8.0 * dice.share() - 4.0),
            curve: 2.0 * dice.share() - 1.0,
            ..link
        });
        if order(patch).is_err() {
            patch.movement.links.pop();
        }
    }
    for (address, _) in values::all(patch) {
        let row = param(address.param);
        if matches!(row.owner, Owner::Source) && dice.below(3) == 0 {
            let _ = address.set(patch, row.value_at(dice.share()));
        }
    }
}

/// In half of the patches a phrase and articulations; in some another state to lead to.
fn add_playing(patch: &mut Patch, dice: &mut Dice) {
    if dice.below(2) == 0 {
        return;
    }
    let ready = &READY_PHRASES[dice.below(READY_PHRASES.len())];
    patch.playing.phrase = Some(ready.phrase().into());
    let all: Vec<_> = values::all(patch).into_iter().map(|(a, _)| a).collect();
    let own = |a: &Address| {
        let still = [
            PartId::Sample,
            PartId::Audition,
            PartId::Playing,
            PartId::Arpeggio,
        ];
        !still.contains(&a.param.part)
            && !matches!(param(a.param).owner, Owner::Point | Owner::Place)
            && a.param.part != PartId::Envelope
    };
    let own: Vec<_> = all.into_iter().filter(own).collect();
    for n in 0..dice.below(4) {
        let mut differences: Vec<Difference> = vec![];
        for _ in 0..dice.below(6) {
            let address = own[dice.below(own.len())];
            let known =
                |d: &Difference| matches!(d, Difference::Value { address: a, .. } if *a == address);
            if !differences.iter().any(known) {
                let value = param(address.param).value_at(dice.share());
                let whole = address.get(patch).is_ok_and(|v| v == libm::round(v));
                let row = param(address.param);
                let round = libm::round(value).clamp(row.min, row.max);
                let value = if whole { round } else { value };
                differences.push(Difference::Value { address, value });
            }
        }
        if let Some(unit) = patch.units.first() {
            differences.push(Difference::Unit {
                unit: unit.id,
                on: dice.below(2) == 0,
            });
        }
        patch.playing.articulations.push(Articulation {
            name: format!("Variant {n}"),
            key: None,
            differences,
        });
    }
    let count = patch.playing.articulations.len();
    let heard = dice.below(count + 1);
    differing::switch(patch, (heard < count).then_some(heard as u8));
    if dice.below(3) == 0 {
        let mut other = patch.clone();
        other.voice.trim_db = -6.0;
        for route in &mut other.routes {
            let depth = route.send.depth();
            if let Some(slot) = route.send.slot(depth) {
                slot.write(param(depth).default);
            }
        }
        patch.other = Some(other.into());
    }
}

fn any_envelope(dice: &mut Dice) -> Envelope {
    let most = if dice.below(3) == 0 { 15 } else { 3 };
    let count = 2 + dice.below(most);
    let held = dice.below(count - 1);
    Envelope {
        delay_s: 0.0,
        points: (0..count).map(|_| Point::new(0.1, 0.5, 0.0)).collect(),
        held: held as u8,
        loop_from: (dice.below(4) == 0).then(|| dice.below(held + 1) as u8),
        in_beats: dice.below(5) == 0,
    }
}

fn any_oscillator(operator: &mut Operator, dice: &mut Dice) {
    operator.tuned_by = [TunedBy::Ratio, TunedBy::Semitones, TunedBy::Fixed][dice.below(5) / 2];
    operator.wave = match dice.below(6) {
        0 => Wave::Table(Table::ALL[dice.below(Table::ALL.len())]),
        1 | 2 => Wave::Shape(Shape::ALL[dice.below(Shape::ALL.len())]),
        3 => {
            let mut bars = Bars::single();
            for _ in 0..dice.below(20) {
                bars.set(1 + dice.below(MAX_BARS), dice.share(), dice.share());
            }
            Wave::Bars(bars)
        }
        _ => Wave::default(),
    };
}

fn add_routes(patch: &mut Patch, dice: &mut Dice) {
    let units = patch.units.len();
    if units == 0 {
        return;
    }
    for _ in 0..dice.below(units * 3 + 1) {
        let from = UnitId(dice.below(units) as u16 + 1);
        let send = if dice.below(3) == 0 {
            Send::output()
        } else {
            let to = dice.below(units);
            let takes = patch.units[to].kind.name().takes();
            let kind = takes[dice.below(takes.len() + 2).saturating_sub(2)];
            Send::to_unit(kind, UnitId(to as u16 + 1))
        };
        let same = |r: &Route| (r.send.target(), r.send.kind()) == (send.target(), send.kind());
        if !patch.sends(from).any(same) {
            let id = RouteId(patch.routes.len() as u16 + 1);
            patch.routes.push(Route {
                id,
                from,
                on: dice.below(8) > 0,
                send,
            });
        }
    }
}
