//! Values in the document: read, written and gone through by where they stand.

use std::fmt::Arguments;

use crate::error::PatchError;
use crate::finish::Chain;
use crate::ids::{ChainId, EffectId, GroupId, LinkId, RouteId, SourceId, UnitId};
use crate::movement::SourceKind;
use crate::params::address::Address;
use crate::params::catalogue::{param, params};
use crate::params::param::{Owner, Param, PartId};
use crate::params::part::{Number, Part};
use crate::patch::Patch;

impl Address {
    /// The present value.
    ///
    /// # Errors
    /// If the patch has no such unit or route, or the parameter is not one of its values.
    pub fn get(&self, patch: &Patch) -> Result<f64, PatchError> {
        let id = self.param;
        let found = match param(id).owner {
            Owner::Patch => patch
                .voice
                .get(id)
                .or_else(|| patch.audition.get(id))
                .or_else(|| patch.playing.get(id)),
            Owner::Unit if id.part == PartId::Envelope => {
                self.known(patch.envelope(self.unit_id()))?.get(id)
            }
            Owner::Unit => self.known(patch.unit(self.unit_id()))?.value(id),
            Owner::Point => {
                let points = &self.known(patch.envelope(self.unit_id()))?.points;
                let point = points.get(usize::from(self.point));
                point.and_then(|p| p.get(id))
            }
            Owner::Source => self.source(patch.source(SourceId(self.id)))?.value(id),
            Owner::Place if self.unit_id().effect().is_some() => {
                let effect = self.effect(patch.effect(EffectId(self.id)))?;
                let point = effect.points().get(usize::from(self.point));
                point.and_then(|p| p.get(id))
            }
            Owner::Place => {
                let at = usize::from(self.point);
                match &self.source(patch.source(SourceId(self.id)))?.kind {
                    SourceKind::Lfo(lfo) => lfo.points.get(at).and_then(|p| p.get(id)),
                    SourceKind::Steps(steps) => steps.steps.get(at).and_then(|s| s.get(id)),
                    _ => None,
                }
            }
            Owner::Link => {
                let link = LinkId(self.id);
                let found = patch.link(link).ok_or(PatchError::NoLink { link })?;
                found.get(id)
            }
            Owner::Route => {
                let route = self.route_id();
                let found = patch.route(route).ok_or(PatchError::NoRoute { route })?;
                found.send.get(id)
            }
            Owner::Group => {
                let group = self.group_id();
                let found = patch.groups.iter().find(|g| g.id == group);
                found.ok_or(PatchError::NoGroup { group })?.get(id)
            }
            Owner::Chain => self.chain().and_then(|c| patch.finish.chain(c).get(id)),
            Owner::Effect => self.effect(patch.effect(EffectId(self.id)))?.value(id),
            Owner::Band => {
                let effect = self.effect(patch.effect(EffectId(self.id)))?;
                let band = effect.bands().get(usize::from(self.point));
                band.and_then(|b| b.get(id))
            }
        };
        found.ok_or_else(|| self.not_there())
    }

    /// Writes a value. The range is checked by [`crate::validate`].
    ///
    /// # Errors
    /// As [`Address::get`].
    pub fn set(&self, patch: &mut Patch, value: f64) -> Result<(), PatchError> {
        let id = self.param;
        let found: Option<&mut dyn Number> = match param(id).owner {
            Owner::Patch => match id.part {
                PartId::Audition => patch.audition.slot(id),
                PartId::Playing | PartId::Arpeggio => patch.playing.slot(id),
                _ => patch.voice.slot(id),
            },
            Owner::Unit if id.part == PartId::Envelope => {
                self.known(patch.envelope_mut(self.unit_id()))?.slot(id)
            }
            Owner::Unit => self.known(patch.unit_mut(self.unit_id()))?.value_slot(id),
            Owner::Point => {
                let points = &mut self.known(patch.envelope_mut(self.unit_id()))?.points;
                let point = points.get_mut(usize::from(self.point));
                point.and_then(|p| p.slot(id))
            }
            Owner::Source => self
                .source(patch.source_mut(SourceId(self.id)))?
                .value_slot(id),
            Owner::Place if self.unit_id().effect().is_some() => {
                let effect = self.effect(patch.effect_mut(EffectId(self.id)))?;
                let points = effect.points_mut();
                points
                    .and_then(|p| p.get_mut(usize::from(self.point)))
                    .and_then(|p| p.slot(id))
            }
            Owner::Place => {
                let at = usize::from(self.point);
                match &mut self.source(patch.source_mut(SourceId(self.id)))?.kind {
                    SourceKind::Lfo(lfo) => lfo.points.get_mut(at).and_then(|p| p.slot(id)),
                    SourceKind::Steps(steps) => steps.steps.get_mut(at).and_then(|s| s.slot(id)),
                    _ => None,
                }
            }
            Owner::Link => {
                let link = LinkId(self.id);
                let found = patch.link_mut(link).ok_or(PatchError::NoLink { link })?;
                found.slot(id)
            }
            Owner::Route => {
                let route = self.route_id();
                let found = patch.routes.iter_mut().find(|r| r.id == route);
                found.ok_or(PatchError::NoRoute { route })?.send.slot(id)
            }
            Owner::Group => {
                let group = self.group_id();
                let found = patch.groups.iter_mut().find(|g| g.id == group);
                found.ok_or(PatchError::NoGroup { group })?.slot(id)
            }
            Owner::Chain => match self.chain() {
                Some(chain) => patch.finish.chain_mut(chain).slot(id),
                None => None,
            },
            Owner::Effect => self
                .effect(patch.effect_mut(EffectId(self.id)))?
                .value_slot(id),
            Owner::Band => {
                let effect = self.effect(patch.effect_mut(EffectId(self.id)))?;
                let band = effect.bands_mut();
                band.and_then(|b| b.get_mut(usize::from(self.point)))
                    .and_then(|b| b.slot(id))
            }
        };
        found.ok_or_else(|| self.not_there())?.write(value);
        Ok(())
    }

    fn unit_id(&self) -> UnitId {
        UnitId(self.id)
    }

    fn route_id(&self) -> RouteId {
        RouteId(self.id)
    }

    fn group_id(&self) -> GroupId {
        GroupId(self.id)
    }

    fn known<T>(&self, unit: Option<T>) -> Result<T, PatchError> {
        unit.ok_or_else(|| PatchError::NoUnit {
            path: param(self.param).name.into(),
            unit: self.unit_id(),
        })
    }

    fn source<T>(&self, source: Option<T>) -> Result<T, PatchError> {
        source.ok_or(PatchError::NoSource {
            source_id: SourceId(self.id),
        })
    }

    /// The chain it is a value of; only the first one can be sent to the second.
    fn chain(&self) -> Option<ChainId> {
        ChainId::of_number(self.id)
            .filter(|id| *id == ChainId::First || self.param != Chain::SECOND_DB)
    }

    fn effect<T>(&self, effect: Option<T>) -> Result<T, PatchError> {
        effect.ok_or(PatchError::NoEffect {
            effect: EffectId(self.id),
        })
    }

    fn not_there(&self) -> PatchError {
        let row = param(self.param);
        let owner = match row.owner {
            Owner::Patch => "the patch",
            Owner::Unit => "a unit of this kind",
            Owner::Point => "an envelope this short",
            Owner::Route => "a route of this kind",
            Owner::Group => "a group",
            Owner::Source => "a source of this kind",
            Owner::Place => "a shape this short",
            Owner::Link => "a link",
            Owner::Chain => "a chain",
            Owner::Effect => "an effect of this kind",
            Owner::Band => "an EQ with so few bands",
        };
        PatchError::NotThere {
            param: row.name,
            owner: owner.into(),
        }
    }
}

/// Every value the document holds, with the path it has in the file.
pub fn all(patch: &Patch) -> Vec<(Address, String)> {
    let mut list = Vec::new();
    visit(patch, |address, row, within| {
        list.push((address, format!("{within}{}{}", row.path, row.field)));
    });
    list
}

/// Tells every value the document holds: its address, its row, and what its path in the file begins with, which costs nothing
/// until it is written.
pub fn visit(patch: &Patch, mut tell: impl FnMut(Address, &Param, Arguments<'_>)) {
    for row in params() {
        match row.owner {
            Owner::Patch => tell(Address::patch(row.id), row, format_args!("")),
            Owner::Unit | Owner::Point => {
                for (i, source) in patch.movement.sources.iter().enumerate() {
                    let SourceKind::Envelope(envelope) = &source.kind else {
                        continue;
                    };
                    let id = source.id.into();
                    match row.id.part {
                        PartId::Envelope => {
                            let within = format_args!("movement.sources[{i}].kind.");
                            tell(Address::unit(id, row.id), row, within);
                        }
                        PartId::Point => {
                            for at in 0..envelope.points.len() {
                                let within = format_args!(
                                    "movement.sources[{i}].kind.envelope.points[{at}]."
                                );
                                tell(Address::point(id, at, row.id), row, within);
                            }
                        }
                        _ => {}
                    }
                }
            }
            _ => {}
        }
        match row.owner {
            Owner::Patch => {}
            Owner::Unit => {
                for (i, unit) in patch.units.iter().enumerate() {
                    // the rest belongs to other kinds of units
                    if unit.value(row.id).is_some() {
                        tell(
                            Address::unit(unit.id, row.id),
                            row,
                            format_args!("units[{i}]."),
                        );
                    }
                }
            }
            Owner::Point => {
                for (i, unit) in patch.units.iter().enumerate() {
                    for at in 0..unit.envelope.points.len() {
                        let within = format_args!("units[{i}].envelope.points[{at}].");
                        tell(Address::point(unit.id, at, row.id), row, within);
                    }
                }
            }
            Owner::Source => {
                for (i, source) in patch.movement.sources.iter().enumerate() {
                    if source.value(row.id).is_some() {
                        let within = format_args!("movement.sources[{i}].");
                        tell(Address::new(row.id, source.id.0), row, within);
                    }
                }
            }
            Owner::Place => {
                for (i, source) in patch.movement.sources.iter().enumerate() {
                    let (list, count) = match &source.kind {
                        SourceKind::Lfo(lfo) if row.id.part == PartId::ShapePoint => {
                            ("lfo.points", lfo.points.len())
                        }
                        SourceKind::Steps(steps) if row.id.part == PartId::Step => {
                            ("steps.steps", steps.steps.len())
                        }
                        _ => continue,
                    };
                    for at in 0..count {
                        let within = format_args!("movement.sources[{i}].kind.{list}[{at}].");
                        tell(Address::point(source.id.into(), at, row.id), row, within);
                    }
                }
            }
            Owner::Link => {
                for (i, link) in patch.movement.links.iter().enumerate() {
                    let address = Address::new(row.id, link.id.0);
                    tell(address, row, format_args!("movement.links[{i}]."));
                }
            }
            Owner::Chain | Owner::Effect | Owner::Band => of_finish(patch, row, &mut tell),
            Owner::Group => {
                for (i, group) in patch.groups.iter().enumerate() {
                    let address = Address::new(row.id, group.id.0);
                    tell(address, row, format_args!("groups[{i}]."));
                }
            }
            Owner::Route => {
                for (i, route) in patch.routes.iter().enumerate() {
                    if route.send.get(row.id).is_some() {
                        let within = format_args!("routes[{i}].");
                        tell(Address::route(route.id, row.id), row, within);
                    }
                }
            }
        }
    }
}

/// Values of chains, of their effects and of bands.
fn of_finish(patch: &Patch, row: &Param, tell: &mut impl FnMut(Address, &Param, Arguments<'_>)) {
    for (id, chain) in patch.finish.chains() {
        if row.owner == Owner::Chain {
            let address = Address::new(row.id, id.number());
            if address.chain().is_some() {
                tell(address, row, format_args!("finish.{}.", id.field()));
            }
            continue;
        }
        for (i, effect) in chain.effects.iter().enumerate() {
            let field = id.field();
            if effect.value(row.id).is_some() {
                let within = format_args!("finish.{field}.effects[{i}].");
                tell(Address::new(row.id, effect.id.0), row, within);
            }
            if row.owner != Owner::Band {
                continue;
            }
            for at in 0..effect.bands().len() {
                let within = format_args!("finish.{field}.effects[{i}].kind.eq.bands[{at}].");
                tell(Address::band(effect.id, at, row.id), row, within);
            }
        }
    }
}
