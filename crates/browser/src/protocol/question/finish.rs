//! Effects.

use serde::Deserialize;
use zolvik_patch::document::{ChainId, EffectId};
use zolvik_patch::finish::EffectName;

/// Effects.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case", remote = "Self")]
#[cfg_attr(feature = "types", ts(tag = "ask"))]
pub enum FinishQuestion {
    /// Gives an effect a ready setting.
    TakeReadyEffect {
        effect: EffectId,
        /// Its place in the list.
        at: usize,
    },
    /// Effects as text.
    CopyEffects { effects: Vec<EffectId> },
    /// Puts copied effects into a chain.
    PasteEffects {
        chain: ChainId,
        /// Their place; none for the end.
        at: Option<usize>,
        /// As [`FinishQuestion::CopyEffects`] gave it.
        text: String,
    },
    /// A setting to be kept.
    KeepEffect { effect: EffectId },
    /// Gives an effect a setting that was kept.
    TakeKeptEffect {
        effect: EffectId,
        /// Under which name.
        name: String,
        /// As [`FinishQuestion::KeepEffect`] gave it.
        text: String,
    },
    /// Which of some kept settings are for a kind of effect.
    KeptFor {
        kind: EffectName,
        /// As [`FinishQuestion::KeepEffect`] gave them.
        texts: Vec<String>,
    },
    /// Puts an effect a place further, over the ends of chains too.
    StepEffect {
        effect: EffectId,
        /// Behind the next one, or before the one before.
        behind: bool,
    },
    /// Adds a band to an EQ.
    AddBand {
        effect: EffectId,
        /// Frequency and gain that were pointed at; none for where there is most room.
        pointed: Option<(f64, f64)>,
    },
    /// Puts a band of an EQ elsewhere.
    DragBand {
        effect: EffectId,
        /// Position of the band.
        at: usize,
        hz: f64,
        gain_db: f64,
        /// Number of the gesture.
        gesture: u32,
    },
}
