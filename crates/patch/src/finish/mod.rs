//! What becomes of the sound after the voices: two chains of effects, a common one after both, and the clean way past all.
//!
//! The ways out of the voices (see [`crate::parts::route::Bus`]) lead into them: main into the first chain, second into the second, clean past
//! everything. Both chains run into the common one.

mod bands;
pub mod effect;
pub mod kinds;
pub mod ready;

use serde::{Deserialize, Serialize};

pub use self::effect::{Effect, EffectKind, EffectName};
pub use self::kinds::*;
use crate::ids::{ChainId, EffectId};
use crate::params::param::Quantity as Q;
use crate::params::part::part;
use crate::params::section::SectionId as S;
use crate::parts::look::look;
use crate::parts::route::Bus;

/// Chains of a patch: first, second, common.
pub const CHAINS: usize = 3;
/// Most effects of a chain.
pub const MAX_CHAIN_EFFECTS: usize = 8;
/// Most effects of a patch.
pub const MAX_EFFECTS: usize = CHAINS * MAX_CHAIN_EFFECTS;

part! {
    /// A chain of effects.
    #[serde(default)]
    pub struct Chain: Chain "chain" in "" {
        also {
            /// The user's name for it, 1 to 40 characters.
            name: String = "Chain".into(),
            /// Whether it is heard.
            on: bool = true,
            /// Up to eight effects, in the order the sound goes through them.
            #[serde(skip_serializing_if = "Vec::is_empty")]
            effects: Vec<Effect> = vec![],
        }
        values {
            LEVEL_DB level_db: f64 = 0.0, -60.0..12.0, look("Level", Q::Level, S::Chain).step(1.0, 0.1).decimals(1).shared(),
                "How loudly it goes on to the common chain; of the common chain, how loudly it leaves.";
            SECOND_DB second_db: f64 = -60.0, -60.0..12.0, look("To the second", Q::Level, S::Chain).step(1.0, 0.1).decimals(1).shared(),
                "How loudly the first chain is heard in the second one as well.";
        }
    }
}

/// The chains of a patch, and the clean way.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields, default)]
pub struct Finish {
    /// Where the main way out leads.
    pub first: Chain,
    /// Where the second way out leads.
    pub second: Chain,
    /// Where both run into.
    pub common: Chain,
}

impl Default for Finish {
    fn default() -> Self {
        let named = |id: ChainId| Chain {
            name: id.label().into(),
            ..Chain::default()
        };
        Finish {
            first: named(ChainId::First),
            second: named(ChainId::Second),
            common: named(ChainId::Common),
        }
    }
}

impl ChainId {
    /// What a chain is called until it is named.
    pub fn label(self) -> &'static str {
        match self {
            ChainId::First => "Chain one",
            ChainId::Second => "Chain two",
            ChainId::Common => "Common",
        }
    }
}

impl ChainId {
    /// The way out of the voices that leads into it; none of the common one.
    pub fn bus(self) -> Option<Bus> {
        match self {
            ChainId::First => Some(Bus::Main),
            ChainId::Second => Some(Bus::Second),
            ChainId::Common => None,
        }
    }

    /// Its name in files.
    pub(crate) fn field(self) -> &'static str {
        match self {
            ChainId::First => "first",
            ChainId::Second => "second",
            ChainId::Common => "common",
        }
    }
}

impl Finish {
    /// Whether nothing is done to the sound, and nothing is named.
    pub fn is_plain(&self) -> bool {
        *self == Finish::default()
    }

    /// One of its chains.
    pub fn chain(&self, id: ChainId) -> &Chain {
        match id {
            ChainId::First => &self.first,
            ChainId::Second => &self.second,
            ChainId::Common => &self.common,
        }
    }

    /// One of its chains, for changing.
    pub fn chain_mut(&mut self, id: ChainId) -> &mut Chain {
        match id {
            ChainId::First => &mut self.first,
            ChainId::Second => &mut self.second,
            ChainId::Common => &mut self.common,
        }
    }

    /// All chains with their names as fields of the file.
    pub fn chains(&self) -> impl Iterator<Item = (ChainId, &Chain)> {
        ChainId::ALL.into_iter().map(|id| (id, self.chain(id)))
    }

    /// All effects, for changing.
    pub fn effects_mut(&mut self) -> impl Iterator<Item = &mut Effect> {
        let chains = [&mut self.first, &mut self.second, &mut self.common];
        chains.into_iter().flat_map(|chain| &mut chain.effects)
    }

    /// All effects, chain by chain.
    pub fn effects(&self) -> impl Iterator<Item = &Effect> {
        self.chains().flat_map(|(_, chain)| &chain.effects)
    }

    /// Where an effect stands.
    pub fn place(&self, id: EffectId) -> Option<(ChainId, usize)> {
        let at = |chain: &Chain| chain.effects.iter().position(|e| e.id == id);
        self.chains()
            .find_map(|(which, chain)| Some((which, at(chain)?)))
    }

    /// The place behind an effect, or before it, over the ends of chains too; none at the first and the last. Counted without it.
    pub fn next_place(&self, id: EffectId, behind: bool) -> Option<(ChainId, usize)> {
        let (chain, at) = self.place(id)?;
        let which = ChainId::ALL.iter().position(|c| *c == chain)?;
        match behind {
            true if at + 1 < self.chain(chain).effects.len() => Some((chain, at + 1)),
            true => Some((*ChainId::ALL.get(which + 1)?, 0)),
            false if at > 0 => Some((chain, at - 1)),
            false => {
                let before = ChainId::ALL[which.checked_sub(1)?];
                Some((before, self.chain(before).effects.len()))
            }
        }
    }
}
