//! Where a parameter's value stands in the document.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::catalogue::{Owner, ParamId, param};
use crate::document::{Audition, GroupId, Patch, RouteId, Send, Unit, UnitId, UnitKind, Voice};
use crate::error::PatchError;

/// One value of one thing: a parameter and the number of the unit or route that has it (0 for the patch).
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Address {
    /// Which parameter.
    pub param: ParamId,
    /// Number of the unit, route or group; 0 where the patch as a whole is meant.
    pub id: u16,
    /// Position of a point of the unit's envelope; 0 elsewhere.
    #[serde(default)]
    pub point: u8,
}

impl Address {
    /// A value of the thing with a number.
    pub fn new(param: ParamId, id: u16) -> Self {
        Address {
            param,
            id,
            point: 0,
        }
    }

    /// A value of a point of a unit's envelope.
    pub fn point(unit: UnitId, at: usize, param: ParamId) -> Self {
        Address {
            param,
            id: unit.0,
            point: at.min(255) as u8,
        }
    }

    /// A value of the patch as a whole.
    pub fn patch(param: ParamId) -> Self {
        Address::new(param, 0)
    }

    /// A value of a unit.
    pub fn unit(unit: UnitId, param: ParamId) -> Self {
        Address::new(param, unit.0)
    }

    /// A value of a route.
    pub fn route(route: RouteId, param: ParamId) -> Self {
        Address::new(param, route.0)
    }

    /// The present value.
    ///
    /// # Errors
    /// If the patch has no such unit or route, or the parameter is not one of its values.
    pub fn get(&self, patch: &Patch) -> Result<f64, PatchError> {
        // one table serves reading and writing; a copy of the owner is cheap beside a second table
        let read = |slot: Slot<'_>| match slot {
            Slot::Real(value) => *value,
            Slot::Whole(value) => f64::from(*value),
        };
        match param(self.param).owner {
            Owner::Patch => {
                let (mut audition, mut voice) = (patch.audition.clone(), patch.voice.clone());
                self.patch_slot(&mut audition, &mut voice).map(read)
            }
            Owner::Unit | Owner::Point => {
                let mut unit = self.found(patch.unit(UnitId(self.id)))?.clone();
                self.unit_slot(&mut unit).map(read)
            }
            Owner::Route => {
                let route = RouteId(self.id);
                let found = patch.route(route).ok_or(PatchError::NoRoute { route })?;
                self.send_slot(&mut found.send.clone()).map(read)
            }
            Owner::Group => {
                let group = GroupId(self.id);
                let found = patch.groups.iter().find(|g| g.id == group);
                Ok(found.ok_or(PatchError::NoGroup { group })?.level_db)
            }
        }
    }

    fn found<T>(&self, unit: Option<T>) -> Result<T, PatchError> {
        unit.ok_or_else(|| PatchError::NoUnit {
            path: param(self.param).name.into(),
            unit: UnitId(self.id),
        })
    }

    /// Writes a value. The range is checked by [`crate::validate`].
    ///
    /// # Errors
    /// As [`Address::get`].
    pub fn set(&self, patch: &mut Patch, value: f64) -> Result<(), PatchError> {
        match self.slot(patch)? {
            Slot::Real(place) => *place = value,
            Slot::Whole(place) => *place = value.round().clamp(0.0, 255.0) as u8,
        }
        Ok(())
    }

    fn slot<'a>(&self, patch: &'a mut Patch) -> Result<Slot<'a>, PatchError> {
        match param(self.param).owner {
            Owner::Patch => self.patch_slot(&mut patch.audition, &mut patch.voice),
            Owner::Unit | Owner::Point => {
                let found = self.found(patch.unit_mut(UnitId(self.id)))?;
                self.unit_slot(found)
            }
            Owner::Group => {
                let id = GroupId(self.id);
                let found = patch.groups.iter_mut().find(|g| g.id == id);
                let group = found.ok_or(PatchError::NoGroup { group: id })?;
                Ok(Slot::Real(&mut group.level_db))
            }
            Owner::Route => {
                let route = RouteId(self.id);
                let found = patch.routes.iter_mut().find(|r| r.id == route);
                self.send_slot(&mut found.ok_or(PatchError::NoRoute { route })?.send)
            }
        }
    }

    fn patch_slot<'a>(
        &self,
        audition: &'a mut Audition,
        voice: &'a mut Voice,
    ) -> Result<Slot<'a>, PatchError> {
        Ok(match self.param {
            ParamId::AuditionHoldS => Slot::Real(&mut audition.hold_s),
            ParamId::AuditionTempoBpm => Slot::Real(&mut audition.tempo_bpm),
            ParamId::AuditionNote => Slot::Whole(&mut audition.note),
            ParamId::AuditionVelocity => Slot::Whole(&mut audition.velocity),
            ParamId::AuditionWindowS => Slot::Real(&mut audition.window_s),
            ParamId::VoicePolyphony => Slot::Whole(&mut voice.polyphony),
            ParamId::VoiceTrimDb => Slot::Real(&mut voice.trim_db),
            ParamId::UnisonBlend => Slot::Real(&mut voice.unison.blend),
            ParamId::UnisonCopies => Slot::Whole(&mut voice.unison.copies),
            ParamId::UnisonDetuneCents => Slot::Real(&mut voice.unison.detune_cents),
            ParamId::UnisonSpread => Slot::Real(&mut voice.unison.spread),
            ParamId::VoiceBendSemitones => Slot::Real(&mut voice.bend_semitones),
            ParamId::VoiceDriftCents => Slot::Real(&mut voice.drift_cents),
            ParamId::VoiceGlideS => Slot::Real(&mut voice.glide_s),
            ParamId::VoiceSeed => Slot::Whole(&mut voice.seed),
            _ => return Err(self.not_there("the patch")),
        })
    }

    fn unit_slot<'a>(&self, unit: &'a mut Unit) -> Result<Slot<'a>, PatchError> {
        if param(self.param).name.split_once('.').map(|(of, _)| of) != Some("unit")
            && !matches!(param(self.param).owner, Owner::Point)
            && self.param != ParamId::EnvelopeDelayS
        {
            return self.kind_slot(&mut unit.kind);
        }
        let envelope = &mut unit.envelope;
        Ok(Slot::Real(match self.param {
            ParamId::EnvelopeDelayS => &mut envelope.delay_s,
            ParamId::PointCurve | ParamId::PointLevel | ParamId::PointTimeS => {
                let point = envelope.points.get_mut(usize::from(self.point));
                let point = point.ok_or_else(|| self.not_there("an envelope this short"))?;
                match self.param {
                    ParamId::PointCurve => &mut point.curve,
                    ParamId::PointLevel => &mut point.level,
                    _ => &mut point.time_s,
                }
            }
            ParamId::UnitKeyLevelDb => &mut unit.key_level_db,
            ParamId::UnitKeyTimes => &mut unit.key_times,
            ParamId::UnitVelocity => &mut unit.velocity,
            ParamId::UnitVelocityTimes => &mut unit.velocity_times,
            _ => return Err(self.not_there("a unit")),
        }))
    }

    fn kind_slot<'a>(&self, kind: &'a mut UnitKind) -> Result<Slot<'a>, PatchError> {
        let name = kind.name().label().to_lowercase();
        Ok(Slot::Real(match (kind, self.param) {
            (UnitKind::Operator(operator), id) => match id {
                ParamId::CycleFold => &mut operator.cycle.fold,
                ParamId::CycleLean => &mut operator.cycle.lean,
                ParamId::CycleLevels => &mut operator.cycle.levels,
                ParamId::CycleRepeat => &mut operator.cycle.repeat,
                ParamId::CycleSteps => &mut operator.cycle.steps,
                ParamId::HarmonicsBalance => &mut operator.harmonics.balance,
                ParamId::HarmonicsHigh => &mut operator.harmonics.high,
                ParamId::HarmonicsLow => &mut operator.harmonics.low,
                ParamId::HarmonicsShift => &mut operator.harmonics.shift,
                ParamId::HarmonicsSpacing => &mut operator.harmonics.spacing,
                ParamId::HarmonicsTiltDb => &mut operator.harmonics.tilt_db,
                ParamId::OperatorDetuneCents => &mut operator.detune_cents,
                ParamId::OperatorFixedHz => &mut operator.fixed_hz,
                ParamId::OperatorOffsetHz => &mut operator.offset_hz,
                ParamId::OperatorPosition => &mut operator.position,
                ParamId::OperatorRatio => &mut operator.ratio,
                ParamId::OperatorSemitones => &mut operator.semitones,
                ParamId::OperatorStartTurns => &mut operator.start_turns,
                ParamId::OperatorWidth => &mut operator.width,
                _ => return Err(self.not_there("an operator")),
            },
            (UnitKind::Noise(noise), ParamId::NoiseColourDb) => &mut noise.colour_db,
            (UnitKind::Sample(sample), id) => match id {
                ParamId::SampleCrossfadeS => &mut sample.crossfade_s,
                ParamId::SampleEnd => &mut sample.end,
                ParamId::SampleLoopEnd => &mut sample.loop_end,
                ParamId::SampleLoopStart => &mut sample.loop_start,
                ParamId::SampleSemitones => &mut sample.semitones,
                ParamId::SampleStart => &mut sample.start,
                ParamId::SampleRootKey => return Ok(Slot::Whole(&mut sample.root_key)),
                _ => return Err(self.not_there("a sample")),
            },
            (UnitKind::Filter(filter), id) => match id {
                ParamId::FilterCutoffHz => &mut filter.cutoff_hz,
                ParamId::FilterDriveDb => &mut filter.drive_db,
                ParamId::FilterKeyFollow => &mut filter.key_follow,
                ParamId::FilterMix => &mut filter.mix,
                ParamId::FilterResonance => &mut filter.resonance,
                ParamId::FilterSweepOct => &mut filter.sweep_oct,
                ParamId::FilterVowel => &mut filter.vowel,
                _ => return Err(self.not_there("a filter")),
            },
            (UnitKind::Shaper(shaper), ParamId::ShaperDriveDb) => &mut shaper.drive_db,
            (UnitKind::Shaper(shaper), ParamId::ShaperMix) => &mut shaper.mix,
            _ => return Err(self.not_there(&format!("a {name}"))),
        }))
    }

    fn send_slot<'a>(&self, send: &'a mut Send) -> Result<Slot<'a>, PatchError> {
        Ok(Slot::Real(match (self.param, send) {
            (ParamId::RouteIndexRad, Send::Phase { index_rad, .. }) => index_rad,
            (ParamId::RouteDeviation, Send::Frequency { deviation, .. }) => deviation,
            (ParamId::RouteMix, Send::Ring { mix, .. }) => mix,
            (ParamId::RouteAmount, Send::Amplitude { amount, .. }) => amount,
            (ParamId::RoutePassDb, Send::Audio { pass_db, .. }) => pass_db,
            (ParamId::RouteLevelDb, Send::Output { level_db, .. }) => level_db,
            (ParamId::RoutePan, Send::Output { pan, .. }) => pan,
            (_, Send::Output { .. }) => return Err(self.not_there("a route to the output")),
            _ => return Err(self.not_there("a route of this kind")),
        }))
    }

    fn not_there(&self, owner: &str) -> PatchError {
        PatchError::NotThere {
            param: param(self.param).name,
            owner: owner.into(),
        }
    }
}

enum Slot<'a> {
    Real(&'a mut f64),
    Whole(&'a mut u8),
}

/// Every value the document holds, with the path it has in the file.
pub fn all(patch: &Patch) -> Vec<(Address, String)> {
    let mut list = Vec::new();
    for row in crate::catalogue::CATALOGUE {
        let leaf = row.name.split_once('.').map_or(row.name, |(_, leaf)| leaf);
        match row.owner {
            Owner::Patch => {
                let path = match row.name.split_once('.') {
                    Some(("unison", leaf)) => format!("voice.unison.{leaf}"),
                    _ => row.name.to_owned(),
                };
                list.push((Address::patch(row.id), path));
            }
            Owner::Unit => {
                for (i, unit) in patch.units.iter().enumerate() {
                    let Some((group, _)) = row.name.split_once('.') else {
                        continue;
                    };
                    let within = match group {
                        "unit" => String::new(),
                        "envelope" => "envelope.".into(),
                        // the rest belongs to kinds of units, each of which has its own
                        _ if Address::unit(unit.id, row.id).get(patch).is_err() => continue,
                        "cycle" | "harmonics" => format!("kind.operator.{group}."),
                        _ => format!("kind.{group}."),
                    };
                    let path = format!("units[{i}].{within}{leaf}");
                    list.push((Address::unit(unit.id, row.id), path));
                }
            }
            Owner::Point => {
                for (i, unit) in patch.units.iter().enumerate() {
                    for at in 0..unit.envelope.points.len() {
                        let path = format!("units[{i}].envelope.points[{at}].{leaf}");
                        list.push((Address::point(unit.id, at, row.id), path));
                    }
                }
            }
            Owner::Group => {
                for (i, group) in patch.groups.iter().enumerate() {
                    let address = Address::new(row.id, group.id.0);
                    list.push((address, format!("groups[{i}].{leaf}")));
                }
            }
            Owner::Route => {
                for (i, route) in patch.routes.iter().enumerate() {
                    let kind = match (&route.send, row.id) {
                        (Send::Phase { .. }, ParamId::RouteIndexRad) => "phase",
                        (Send::Frequency { .. }, ParamId::RouteDeviation) => "frequency",
                        (Send::Ring { .. }, ParamId::RouteMix) => "ring",
                        (Send::Amplitude { .. }, ParamId::RouteAmount) => "amplitude",
                        (Send::Audio { .. }, ParamId::RoutePassDb) => "audio",
                        (Send::Output { .. }, ParamId::RouteLevelDb | ParamId::RoutePan) => {
                            "output"
                        }
                        _ => continue,
                    };
                    list.push((
                        Address::route(route.id, row.id),
                        format!("routes[{i}].send.{kind}.{leaf}"),
                    ));
                }
            }
        }
    }
    list
}
