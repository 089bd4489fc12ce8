//! A ready setting.

use crate::finish::effect::{Effect, EffectKind, EffectName};
use crate::finish::kinds::*;
use crate::ids::EffectId;
use crate::params::param::{ChoiceId, ParamId};

/// A ready setting: what it is called, and what is otherwise than at first.
#[derive(Debug, Clone, Copy)]
pub struct Ready {
    /// Whose.
    pub kind: EffectName,
    /// What it is called.
    pub name: &'static str,
    /// What its values are.
    pub values: &'static [(ParamId, f64)],
    /// Which of each choice it has, counted from 0.
    pub choices: &'static [(ChoiceId, usize)],
    bands: &'static [EqBand],
}

pub(super) const fn ready(
    kind: EffectName,
    name: &'static str,
    values: &'static [(ParamId, f64)],
) -> Ready {
    Ready {
        kind,
        name,
        values,
        choices: &[],
        bands: &[],
    }
}

impl Ready {
    pub(super) const fn choosing(self, choices: &'static [(ChoiceId, usize)]) -> Ready {
        Ready { choices, ..self }
    }

    pub(super) const fn bands(self, bands: &'static [EqBand]) -> Ready {
        Ready { bands, ..self }
    }

    /// The effect it makes.
    pub fn make(&self) -> Effect {
        let mut effect = Effect::new(EffectId(EffectId::FIRST), self.kind);
        for (choice, to) in self.choices {
            let _ = effect.choose_of(*choice, *to);
        }
        for (id, value) in self.values {
            if let Some(slot) = effect.value_slot(*id) {
                slot.write(*value);
            }
        }
        if let EffectKind::Eq(eq) = &mut effect.kind {
            eq.bands = self.bands.to_vec();
        }
        effect
    }
}

pub(super) const fn band(what: BandType, hz: f64, gain_db: f64, q: f64) -> EqBand {
    EqBand {
        gain_db,
        q,
        ..EqBand::at(what, hz)
    }
}

pub(super) const MIX: ParamId = Effect::MIX;
