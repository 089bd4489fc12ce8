//! What is told of typed lines and of what is found by name.

use serde::Serialize;
use zolvik_patch::address::Address;
use zolvik_patch::document::{EffectId, SourceId, UnitId};
use zolvik_patch::finish::EffectName;
use zolvik_patch::movement::SourceName;
use zolvik_patch::section::SectionId;

/// A word of a line and what it means.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct WordView {
    pub text: String,
    pub meaning: String,
}

/// Something found by its name.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Hit {
    /// What it is or belongs to.
    pub of: HitOf,
    /// Which value, if it is one.
    pub address: Option<Address>,
    /// The part of a sheet it stands in, which may be folded up.
    pub section: Option<SectionId>,
    /// In words: a name, or name and value.
    pub title: String,
    /// What it is now.
    pub now: String,
}

/// What something found is or belongs to; all are numbered for good.
#[derive(Debug, Clone, Copy, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(tag = "is", content = "id", rename_all = "snake_case")]
pub enum HitOf {
    /// The patch as a whole.
    Patch,
    /// A strip.
    Strip(UnitId),
    /// A source of movement.
    Source(SourceId),
    /// An effect.
    Effect(EffectId),
}

/// A value that may be moved.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Target {
    /// Which value.
    pub address: Address,
    /// Its name with its owner's.
    pub title: String,
    /// The strip that has it; none for the patch's values.
    pub unit: Option<UnitId>,
    /// What it is now, written.
    pub now: String,
}

/// A kind of source.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct KindView {
    pub kind: SourceName,
    pub label: &'static str,
    /// What it is for, in one sentence.
    pub help: &'static str,
}

/// A phrase to choose.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct ReadyPhraseView {
    pub name: &'static str,
    /// What it is good for.
    pub help: &'static str,
    /// A key it sounds good from.
    pub key: u8,
    pub key_name: String,
}

/// Something that is different in some articulation.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct DifferenceView {
    /// What, such as `Dew index`.
    pub title: String,
    /// What it is in the base and in every articulation, in words.
    pub values: Vec<String>,
    /// In which of them it is as in the base.
    pub same: Vec<bool>,
}

/// A kind of effect.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct EffectKindView {
    pub kind: EffectName,
    pub label: &'static str,
    /// What it is for, in one sentence.
    pub help: &'static str,
    /// Names of its ready settings.
    pub ready: Vec<&'static str>,
}
