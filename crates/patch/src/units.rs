//! What a unit can be: operator, noise, sample, filter, shaper.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::catalogue::{ParamId as P, default};
use crate::document::RouteKind;
use crate::sound::Sound;
use crate::wave::Wave;

/// What a unit is.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum UnitKind {
    /// An oscillator that other units may move.
    Operator(Operator),
    /// Noise of a colour.
    Noise(Noise),
    /// A recording, played once or round and round.
    Sample(Sample),
    /// Takes parts of a sound away.
    Filter(Filter),
    /// Bends a sound's own waveform.
    Shaper(Shaper),
}

/// A kind of unit by name, for making one.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum KindName {
    /// An operator.
    #[default]
    Operator,
    /// Noise.
    Noise,
    /// A sample.
    Sample,
    /// A filter.
    Filter,
    /// A shaper.
    Shaper,
}

impl KindName {
    /// All kinds.
    pub const ALL: [KindName; 5] = [
        KindName::Operator,
        KindName::Noise,
        KindName::Sample,
        KindName::Filter,
        KindName::Shaper,
    ];

    /// As it is called on the screen.
    pub fn label(self) -> &'static str {
        match self {
            KindName::Operator => "Operator",
            KindName::Noise => "Noise",
            KindName::Sample => "Sample",
            KindName::Filter => "Filter",
            KindName::Shaper => "Shaper",
        }
    }

    /// A new unit of this kind.
    pub fn make(self) -> UnitKind {
        match self {
            KindName::Operator => UnitKind::Operator(Operator::default()),
            KindName::Noise => UnitKind::Noise(Noise::default()),
            KindName::Sample => UnitKind::Sample(Sample::default()),
            KindName::Filter => UnitKind::Filter(Filter::default()),
            KindName::Shaper => UnitKind::Shaper(Shaper::default()),
        }
    }

    /// What routes may do to it, the usual first.
    pub fn takes(self) -> &'static [RouteKind] {
        use RouteKind::{Amplitude, Audio, Frequency, Phase, Ring};
        match self {
            KindName::Operator | KindName::Sample => &[Phase, Frequency, Ring, Amplitude],
            KindName::Noise => &[Amplitude, Ring],
            KindName::Filter => &[Audio, Frequency, Ring, Amplitude],
            KindName::Shaper => &[Audio, Ring, Amplitude],
        }
    }

    /// Whether it makes sound of its own; the others change what they are sent.
    pub fn is_source(self) -> bool {
        !matches!(self, KindName::Filter | KindName::Shaper)
    }
}

impl UnitKind {
    /// Which kind it is.
    pub fn name(&self) -> KindName {
        match self {
            UnitKind::Operator(_) => KindName::Operator,
            UnitKind::Noise(_) => KindName::Noise,
            UnitKind::Sample(_) => KindName::Sample,
            UnitKind::Filter(_) => KindName::Filter,
            UnitKind::Shaper(_) => KindName::Shaper,
        }
    }
}

/// Tuning and wave of an operator. See [`crate::pitch::tuning`] for its frequency.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct Operator {
    /// Which of ratio, semitones and fixed frequency counts; the others are kept for switching back.
    #[serde(default)]
    pub tuned_by: TunedBy,
    /// Multiple of the key's frequency.
    pub ratio: f64,
    /// Distance from the key in semitones.
    #[serde(default)]
    pub semitones: f64,
    /// The same frequency on every key, in hertz.
    #[serde(default = "fixed_default")]
    pub fixed_hz: f64,
    /// Fine tuning in cents.
    pub detune_cents: f64,
    /// Constant offset in hertz, the same on every key.
    pub offset_hz: f64,
    /// What it repeats.
    #[serde(default)]
    pub wave: Wave,
    /// Place in a table, 0 first to 1 last cycle.
    #[serde(default)]
    pub position: f64,
    /// Share of a pulse that is up, 0 to 1.
    #[serde(default = "width_default")]
    pub width: f64,
    /// How its cycle is bent.
    #[serde(default)]
    pub cycle: Cycle,
    /// What is done to its harmonics.
    #[serde(default)]
    pub harmonics: Harmonics,
    /// Where in its cycle a note begins.
    #[serde(default)]
    pub start: Start,
    /// The place a fixed start begins at, in turns.
    #[serde(default)]
    pub start_turns: f64,
}

fn fixed_default() -> f64 {
    default(P::OperatorFixedHz)
}

fn width_default() -> f64 {
    default(P::OperatorWidth)
}

impl Default for Operator {
    fn default() -> Self {
        Operator {
            tuned_by: TunedBy::Ratio,
            ratio: default(P::OperatorRatio),
            semitones: default(P::OperatorSemitones),
            fixed_hz: default(P::OperatorFixedHz),
            detune_cents: default(P::OperatorDetuneCents),
            offset_hz: default(P::OperatorOffsetHz),
            wave: Wave::default(),
            position: default(P::OperatorPosition),
            width: default(P::OperatorWidth),
            cycle: Cycle::default(),
            harmonics: Harmonics::default(),
            start: Start::default(),
            start_turns: default(P::OperatorStartTurns),
        }
    }
}

/// How an operator's pitch is given.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum TunedBy {
    /// As a multiple of the key's frequency.
    #[default]
    Ratio,
    /// As a distance from the key in semitones.
    Semitones,
    /// As a frequency that is the same on every key.
    Fixed,
}

/// Where in its cycle something begins.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum Start {
    /// Always at the same place.
    #[default]
    Fixed,
    /// Anywhere, by the patch's seed.
    Random,
    /// Wherever it would be had it never stopped.
    Free,
}

impl Start {
    /// All ways.
    pub const ALL: [Start; 3] = [Start::Fixed, Start::Random, Start::Free];
}

/// How a cycle is bent, in the order it is done: `lean` moves its places, `repeat` runs through it several times,
/// `fold` turns its peaks back, `steps` draws its level toward a staircase. All at rest leave it as it is.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields, default)]
pub struct Cycle {
    /// Moves the cycle's peaks earlier (above 0) or later, -1 to 1.
    pub lean: f64,
    /// How many times the cycle runs in one period; what does not fit is faded over.
    pub repeat: f64,
    /// Folds what goes beyond the rim back, 0 to 1.
    pub fold: f64,
    /// How far the level keeps to steps, 0 to 1.
    pub steps: f64,
    /// Number of steps either way.
    pub levels: f64,
}

impl Default for Cycle {
    fn default() -> Self {
        Cycle {
            lean: default(P::CycleLean),
            repeat: default(P::CycleRepeat),
            fold: default(P::CycleFold),
            steps: default(P::CycleSteps),
            levels: default(P::CycleLevels),
        }
    }
}

impl Cycle {
    /// Whether it changes nothing.
    pub fn is_plain(&self) -> bool {
        self.lean == 0.0 && self.repeat == 1.0 && self.fold == 0.0 && self.steps == 0.0
    }
}

/// What is done to an operator's harmonics. Partial `k` (from 1) comes to lie at `1 + shift + (k - 1) spacing` times the
/// operator's frequency.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields, default)]
pub struct Harmonics {
    /// Distance from partial to partial, as a multiple of the frequency.
    pub spacing: f64,
    /// Moves all partials up by so many times the frequency.
    pub shift: f64,
    /// Change of level with each octave of harmonics, in decibels.
    pub tilt_db: f64,
    /// -1 odd harmonics only, 0 both, 1 even ones only.
    pub balance: f64,
    /// Harmonics below this number are taken away.
    pub low: f64,
    /// Harmonics above this number are taken away.
    pub high: f64,
}

impl Default for Harmonics {
    fn default() -> Self {
        Harmonics {
            spacing: default(P::HarmonicsSpacing),
            shift: default(P::HarmonicsShift),
            tilt_db: default(P::HarmonicsTiltDb),
            balance: default(P::HarmonicsBalance),
            low: default(P::HarmonicsLow),
            high: default(P::HarmonicsHigh),
        }
    }
}

impl Harmonics {
    /// Whether it changes nothing.
    pub fn is_plain(&self) -> bool {
        *self == Harmonics::default()
    }
}

/// Noise.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct Noise {
    /// Change of level with each octave, in decibels: below 0 darker, above 0 brighter than white.
    pub colour_db: f64,
}

impl Default for Noise {
    fn default() -> Self {
        Noise {
            colour_db: default(P::NoiseColourDb),
        }
    }
}

/// A recording and how it is played. Places are shares of the recording's length.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct Sample {
    /// What is played.
    pub sound: Sound,
    /// Where it begins.
    pub start: f64,
    /// Where it ends.
    pub end: f64,
    /// Whether it goes round from the loop's end to its start.
    pub looped: bool,
    /// Where the loop begins.
    pub loop_start: f64,
    /// Where the loop ends.
    pub loop_end: f64,
    /// Time over which the loop's end is faded into what comes before its start.
    pub crossfade_s: f64,
    /// Whether it is played backwards.
    pub reverse: bool,
    /// The key it sounds as recorded at.
    pub root_key: u8,
    /// Whether its pitch follows the key.
    pub key_follow: bool,
    /// Transposition in semitones.
    pub semitones: f64,
}

impl Default for Sample {
    fn default() -> Self {
        Sample {
            sound: Sound::default(),
            start: default(P::SampleStart),
            end: default(P::SampleEnd),
            looped: false,
            loop_start: default(P::SampleLoopStart),
            loop_end: default(P::SampleLoopEnd),
            crossfade_s: default(P::SampleCrossfadeS),
            reverse: false,
            root_key: default(P::SampleRootKey) as u8,
            key_follow: true,
            semitones: default(P::SampleSemitones),
        }
    }
}

/// What a filter lets through.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum Response {
    /// What lies below the cutoff.
    #[default]
    Low,
    /// What lies above.
    High,
    /// What lies near.
    Band,
    /// All but what lies near.
    Notch,
    /// All, with what lies near raised.
    Peak,
    /// The cutoff's multiples.
    CombPlus,
    /// The cutoff's odd multiples.
    CombMinus,
    /// The ringing places of a vowel.
    Vowel,
}

impl Response {
    /// All of them.
    pub const ALL: [Response; 8] = [
        Response::Low,
        Response::High,
        Response::Band,
        Response::Notch,
        Response::Peak,
        Response::CombPlus,
        Response::CombMinus,
        Response::Vowel,
    ];

    /// Whether it is a comb, which is tuned rather than set.
    pub fn is_comb(self) -> bool {
        matches!(self, Response::CombPlus | Response::CombMinus)
    }
}

/// How steep a filter is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub enum Slope {
    /// 12 dB an octave.
    #[default]
    #[serde(rename = "12dB")]
    Db12,
    /// 24 dB an octave.
    #[serde(rename = "24dB")]
    Db24,
}

impl Slope {
    /// Both.
    pub const ALL: [Slope; 2] = [Slope::Db12, Slope::Db24];
}

/// A filter. Its envelope moves the cutoff, see [`crate::filter::cutoff_hz`].
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct Filter {
    /// What it lets through.
    pub response: Response,
    /// How steep it is.
    pub slope: Slope,
    /// The cutoff at key C4, in hertz.
    pub cutoff_hz: f64,
    /// How far the cutoff follows the key: 1 fully, 0 not at all.
    pub key_follow: f64,
    /// How far the envelope moves the cutoff, in octaves.
    pub sweep_oct: f64,
    /// 0 none, 1 ringing by itself.
    pub resonance: f64,
    /// How hard it is driven, in decibels.
    pub drive_db: f64,
    /// Which vowel: 0 to 1 through a, e, i, o, u.
    pub vowel: f64,
    /// Share of the filtered sound; the rest is unfiltered.
    pub mix: f64,
}

impl Default for Filter {
    fn default() -> Self {
        Filter {
            response: Response::default(),
            slope: Slope::default(),
            cutoff_hz: default(P::FilterCutoffHz),
            key_follow: default(P::FilterKeyFollow),
            sweep_oct: default(P::FilterSweepOct),
            resonance: default(P::FilterResonance),
            drive_db: default(P::FilterDriveDb),
            vowel: default(P::FilterVowel),
            mix: default(P::FilterMix),
        }
    }
}

/// How a shaper bends.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum Bend {
    /// Rounds the peaks.
    #[default]
    Soft,
    /// Cuts the peaks off.
    Hard,
    /// Turns the peaks back.
    Fold,
    /// Turns what is below zero up.
    Rectify,
}

impl Bend {
    /// All of them.
    pub const ALL: [Bend; 4] = [Bend::Soft, Bend::Hard, Bend::Fold, Bend::Rectify];
}

/// A shaper. Its envelope moves the mix.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct Shaper {
    /// How it bends.
    pub bend: Bend,
    /// How hard it is driven, in decibels.
    pub drive_db: f64,
    /// Share of the bent sound; the rest is as it came.
    pub mix: f64,
}

impl Default for Shaper {
    fn default() -> Self {
        Shaper {
            bend: Bend::default(),
            drive_db: default(P::ShaperDriveDb),
            mix: default(P::ShaperMix),
        }
    }
}
