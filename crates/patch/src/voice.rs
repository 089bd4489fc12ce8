//! What holds for every note of a patch.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::catalogue::{ParamId as P, default};
use crate::units::Start;

/// What holds for every note of the patch.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields, default)]
pub struct Voice {
    /// Notes that sound at once, 1 to 32.
    pub polyphony: u8,
    /// Level of the whole patch, in decibels.
    pub trim_db: f64,
    /// How finely it is computed while it is played.
    pub quality: Quality,
    /// How finely it is computed when it is written to a file; as while it is played if none.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub render_quality: Option<Quality>,
    /// How keys become notes.
    pub mode: Mode,
    /// Which of several held keys sounds when only one can.
    pub priority: Priority,
    /// Time from one pitch to the next, in seconds.
    pub glide_s: f64,
    /// When it glides.
    pub glide: Glide,
    /// How far the bend wheel reaches either way, in semitones.
    pub bend_semitones: f64,
    /// Copies of every note.
    pub unison: Unison,
    /// How far pitches wander by themselves, in cents.
    pub drift_cents: f64,
    /// What chance follows: the same seed, the same sound.
    pub seed: u8,
}

impl Default for Voice {
    fn default() -> Self {
        Voice {
            polyphony: default(P::VoicePolyphony) as u8,
            trim_db: default(P::VoiceTrimDb),
            quality: Quality::default(),
            render_quality: None,
            mode: Mode::default(),
            priority: Priority::default(),
            glide_s: default(P::VoiceGlideS),
            glide: Glide::default(),
            bend_semitones: default(P::VoiceBendSemitones),
            unison: Unison::default(),
            drift_cents: default(P::VoiceDriftCents),
            seed: default(P::VoiceSeed) as u8,
        }
    }
}

/// Copies of every note, a little apart.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields, default)]
pub struct Unison {
    /// How many, 1 to 16; 1 is the note alone.
    pub copies: u8,
    /// From the middle to the outermost copy, in cents.
    pub detune_cents: f64,
    /// How far they stand apart between left and right, 0 to 1.
    pub spread: f64,
    /// Level of the outer copies beside the middle, 0 to 1.
    pub blend: f64,
    /// Where in their cycles the copies begin.
    pub start: Start,
}

impl Default for Unison {
    fn default() -> Self {
        Unison {
            copies: default(P::UnisonCopies) as u8,
            detune_cents: default(P::UnisonDetuneCents),
            spread: default(P::UnisonSpread),
            blend: default(P::UnisonBlend),
            start: Start::Random,
        }
    }
}

/// How keys become notes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum Mode {
    /// Every key is a note of its own.
    #[default]
    Poly,
    /// One note; every key starts its envelopes anew.
    Mono,
    /// One note; keys that overlap only change its pitch.
    Legato,
}

impl Mode {
    /// All of them.
    pub const ALL: [Mode; 3] = [Mode::Poly, Mode::Mono, Mode::Legato];
}

/// Which of several held keys sounds when only one can.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum Priority {
    /// The one pressed last.
    #[default]
    Last,
    /// The lowest.
    Lowest,
    /// The highest.
    Highest,
}

impl Priority {
    /// All of them.
    pub const ALL: [Priority; 3] = [Priority::Last, Priority::Lowest, Priority::Highest];
}

/// When pitches glide.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum Glide {
    /// From every note to the next.
    Always,
    /// Only while another key is held.
    #[default]
    Overlap,
}

impl Glide {
    /// Both.
    pub const ALL: [Glide; 2] = [Glide::Always, Glide::Overlap];
}

/// How many times the sample rate the sound is computed at. More costs as much more and keeps partials beyond
/// half the rate from folding back.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub enum Quality {
    /// At the sample rate.
    #[default]
    #[serde(rename = "1x")]
    X1,
    /// At twice the rate.
    #[serde(rename = "2x")]
    X2,
    /// At four times the rate.
    #[serde(rename = "4x")]
    X4,
    /// At eight times the rate.
    #[serde(rename = "8x")]
    X8,
}

impl Quality {
    /// All of them.
    pub const ALL: [Quality; 4] = [Quality::X1, Quality::X2, Quality::X4, Quality::X8];

    /// The factor itself.
    pub fn factor(self) -> usize {
        match self {
            Quality::X1 => 1,
            Quality::X2 => 2,
            Quality::X4 => 4,
            Quality::X8 => 8,
        }
    }
}
