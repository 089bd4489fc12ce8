//! Chains of effects, compiled.

use bytemuck::{Pod, Zeroable};
use zolvik_effects::{Band, Point, SILENT, Setting, Value};
use zolvik_patch::document::EffectId;
use zolvik_patch::finish::effect::effect_params;
use zolvik_patch::finish::{
    CHAINS, EffectName, EqBand, MAX_EFFECT_POINTS, MAX_EFFECTS, MAX_EQ_BANDS,
};

use super::movement::ShapeProgram;

/// An effect of a program.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct EffectProgram {
    pub(crate) id: u32,
    /// An [`EffectName`] as number.
    pub(crate) kind: u32,
    /// 1 where it is switched on.
    pub(crate) on: u32,
    pub(crate) choices: [u8; 4],
    /// Of each band: whether it is on, its type and its slope.
    pub(crate) bands: [[u8; 4]; MAX_EQ_BANDS],
    pub(crate) band_count: u32,
    /// Its parameters: a range of [`crate::program::Program::params`].
    pub(crate) first_param: u32,
    pub(crate) params: u32,
    pub(crate) point_count: u32,
    pub(crate) points: [ShapeProgram; MAX_EFFECT_POINTS],
}

/// A chain of a program.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct ChainProgram {
    /// Its effects: a range of [`RackProgram::effects`].
    pub(crate) first: u32,
    pub(crate) count: u32,
    /// 1 where it is heard.
    pub(crate) on: u32,
    /// Its level, a parameter in decibels; what it sends to the second chain is the next one.
    pub(crate) level: u32,
}

/// The chains of a program.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct RackProgram {
    pub(crate) effects: [EffectProgram; MAX_EFFECTS],
    pub(crate) chains: [ChainProgram; CHAINS],
    pub(crate) effect_count: u32,
    /// 1 where the clean way is heard.
    pub(crate) clean: u32,
    /// Position of its first parameter; all after it are the rack's.
    pub(crate) first_param: u32,
    /// 1 where the sound goes through it as it is.
    pub(crate) plain: u32,
    /// Longest time something is heard after all that goes in has ended.
    pub(crate) tail_s: f32,
    pub(crate) tempo_bpm: f32,
}

impl EffectProgram {
    /// What it is.
    pub(crate) fn name(&self) -> EffectName {
        let known = EffectName::ALL.get(self.kind as usize);
        known.copied().unwrap_or(EffectName::Level)
    }

    /// What it is set to but its values.
    pub(crate) fn setting<'a>(&self, values: &'a [Value], points: &'a [Point]) -> Setting<'a> {
        let mut bands = [Band::default(); MAX_EQ_BANDS];
        for (to, [on, what, slope, _]) in bands.iter_mut().zip(self.bands) {
            *to = Band {
                on: on != 0,
                what,
                slope,
            };
        }
        Setting {
            values,
            choices: self.choices,
            bands,
            band_count: self.band_count as usize,
            points,
            rate_hz: 48_000.0,
            tempo_bpm: 120.0,
            beats: 0.0,
            key_hz: 261.63,
            kick: &SILENT[0],
        }
    }

    /// What is drawn in it.
    pub(crate) fn drawn(&self) -> [Point; MAX_EFFECT_POINTS] {
        self.points.map(|p| Point {
            at: p.at,
            level: p.level,
            curve: p.curve,
        })
    }
}

impl RackProgram {
    /// Its effects.
    pub(crate) fn effects(&self) -> &[EffectProgram] {
        &self.effects[..(self.effect_count as usize).min(MAX_EFFECTS)]
    }

    pub(super) fn effect(&self, id: EffectId) -> Option<&EffectProgram> {
        self.effects().iter().find(|e| e.id == u32::from(id.0))
    }

    /// The effects of a chain.
    pub(crate) fn chain(&self, at: usize) -> &[EffectProgram] {
        let chain = &self.chains[at % CHAINS];
        let range = chain.first as usize..(chain.first + chain.count) as usize;
        self.effects().get(range).unwrap_or(&[])
    }

    /// Whether every index lies inside.
    pub(super) fn is_sound(&self, param_count: u32) -> bool {
        let params = u64::from(param_count);
        let span = |first: u32, count: u32| u64::from(first) + u64::from(count);
        let effect_ok = |e: &EffectProgram| {
            span(e.first_param, e.params) <= params
                && (e.kind as usize) < EffectName::ALL.len()
                && e.params as usize
                    == effect_params(e.name()).count()
                        + e.band_count as usize * EqBand::ROWS.params.len()
                && e.band_count as usize <= MAX_EQ_BANDS
                && e.point_count as usize <= MAX_EFFECT_POINTS
        };
        self.effect_count as usize <= MAX_EFFECTS
            && self.effects().iter().all(effect_ok)
            && self.chains.iter().all(|c| {
                span(c.first, c.count) <= u64::from(self.effect_count) && span(c.level, 2) <= params
            })
            && self.tail_s.is_finite()
    }

    /// Whether the parameters of two stand for the same values.
    pub(crate) fn same_places(&self, other: &Self) -> bool {
        let of = |e: &EffectProgram| (e.id, e.kind, e.first_param, e.params);
        self.first_param == other.first_param
            && self
                .effects()
                .iter()
                .map(of)
                .eq(other.effects().iter().map(of))
    }
}
