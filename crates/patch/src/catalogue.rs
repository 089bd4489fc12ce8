//! One row per parameter. Labels, ranges, units, defaults and smoothing stand here and nowhere else.
//!
//! To add a parameter: add its [`ParamId`], its row in [`CATALOGUE`] (same order), and its place in the
//! document in [`crate::address`]. Tests keep rows and ids in step.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// The name of a parameter, as written in files and messages.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, JsonSchema,
)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[allow(missing_docs)] // each is documented by its row's `help`
pub enum ParamId {
    #[serde(rename = "audition.hold_s")]
    AuditionHoldS,
    #[serde(rename = "audition.note")]
    AuditionNote,
    #[serde(rename = "audition.tempo_bpm")]
    AuditionTempoBpm,
    #[serde(rename = "audition.velocity")]
    AuditionVelocity,
    #[serde(rename = "audition.window_s")]
    AuditionWindowS,
    #[serde(rename = "cycle.fold")]
    CycleFold,
    #[serde(rename = "cycle.lean")]
    CycleLean,
    #[serde(rename = "cycle.levels")]
    CycleLevels,
    #[serde(rename = "cycle.repeat")]
    CycleRepeat,
    #[serde(rename = "cycle.steps")]
    CycleSteps,
    #[serde(rename = "envelope.delay_s")]
    EnvelopeDelayS,
    #[serde(rename = "filter.cutoff_hz")]
    FilterCutoffHz,
    #[serde(rename = "filter.drive_db")]
    FilterDriveDb,
    #[serde(rename = "filter.key_follow")]
    FilterKeyFollow,
    #[serde(rename = "filter.mix")]
    FilterMix,
    #[serde(rename = "filter.resonance")]
    FilterResonance,
    #[serde(rename = "filter.sweep_oct")]
    FilterSweepOct,
    #[serde(rename = "filter.vowel")]
    FilterVowel,
    #[serde(rename = "group.level_db")]
    GroupLevelDb,
    #[serde(rename = "harmonics.balance")]
    HarmonicsBalance,
    #[serde(rename = "harmonics.high")]
    HarmonicsHigh,
    #[serde(rename = "harmonics.low")]
    HarmonicsLow,
    #[serde(rename = "harmonics.shift")]
    HarmonicsShift,
    #[serde(rename = "harmonics.spacing")]
    HarmonicsSpacing,
    #[serde(rename = "harmonics.tilt_db")]
    HarmonicsTiltDb,
    #[serde(rename = "noise.colour_db")]
    NoiseColourDb,
    #[serde(rename = "operator.detune_cents")]
    OperatorDetuneCents,
    #[serde(rename = "operator.fixed_hz")]
    OperatorFixedHz,
    #[serde(rename = "operator.offset_hz")]
    OperatorOffsetHz,
    #[serde(rename = "operator.position")]
    OperatorPosition,
    #[serde(rename = "operator.ratio")]
    OperatorRatio,
    #[serde(rename = "operator.semitones")]
    OperatorSemitones,
    #[serde(rename = "operator.start_turns")]
    OperatorStartTurns,
    #[serde(rename = "operator.width")]
    OperatorWidth,
    #[serde(rename = "point.curve")]
    PointCurve,
    #[serde(rename = "point.level")]
    PointLevel,
    #[serde(rename = "point.time_s")]
    PointTimeS,
    #[serde(rename = "route.amount")]
    RouteAmount,
    #[serde(rename = "route.deviation")]
    RouteDeviation,
    #[serde(rename = "route.index_rad")]
    RouteIndexRad,
    #[serde(rename = "route.level_db")]
    RouteLevelDb,
    #[serde(rename = "route.mix")]
    RouteMix,
    #[serde(rename = "route.pan")]
    RoutePan,
    #[serde(rename = "route.pass_db")]
    RoutePassDb,
    #[serde(rename = "sample.crossfade_s")]
    SampleCrossfadeS,
    #[serde(rename = "sample.end")]
    SampleEnd,
    #[serde(rename = "sample.loop_end")]
    SampleLoopEnd,
    #[serde(rename = "sample.loop_start")]
    SampleLoopStart,
    #[serde(rename = "sample.root_key")]
    SampleRootKey,
    #[serde(rename = "sample.semitones")]
    SampleSemitones,
    #[serde(rename = "sample.start")]
    SampleStart,
    #[serde(rename = "shaper.drive_db")]
    ShaperDriveDb,
    #[serde(rename = "shaper.mix")]
    ShaperMix,
    #[serde(rename = "unison.blend")]
    UnisonBlend,
    #[serde(rename = "unison.copies")]
    UnisonCopies,
    #[serde(rename = "unison.detune_cents")]
    UnisonDetuneCents,
    #[serde(rename = "unison.spread")]
    UnisonSpread,
    #[serde(rename = "unit.key_level_db")]
    UnitKeyLevelDb,
    #[serde(rename = "unit.key_times")]
    UnitKeyTimes,
    #[serde(rename = "unit.velocity")]
    UnitVelocity,
    #[serde(rename = "unit.velocity_times")]
    UnitVelocityTimes,
    #[serde(rename = "voice.bend_semitones")]
    VoiceBendSemitones,
    #[serde(rename = "voice.drift_cents")]
    VoiceDriftCents,
    #[serde(rename = "voice.glide_s")]
    VoiceGlideS,
    #[serde(rename = "voice.polyphony")]
    VoicePolyphony,
    #[serde(rename = "voice.seed")]
    VoiceSeed,
    #[serde(rename = "voice.trim_db")]
    VoiceTrimDb,
}

/// What a parameter belongs to; decides what the number in an address means.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Owner {
    /// A unit.
    Unit,
    /// A point of a unit's envelope.
    Point,
    /// A route.
    Route,
    /// A group.
    Group,
    /// The patch as a whole.
    Patch,
}

/// How a parameter is written for people.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Quantity {
    /// A multiple of the key's frequency, `3.500 ×`.
    Ratio,
    /// Cents, `+7.0 ct`.
    Cents,
    /// Hertz with sign, `+0.018 Hz`.
    Offset,
    /// Hertz, `220.0 Hz`.
    Hertz,
    /// Semitones with sign, `+7.00 st`.
    Semitones,
    /// Seconds, written as ms below one second.
    Seconds,
    /// Beats a minute.
    Tempo,
    /// 0 to 1, written as percent.
    Share,
    /// -1 to 1, written as signed percent.
    Bipolar,
    /// Octaves with sign.
    Octaves,
    /// Radians.
    Radians,
    /// Decibels; the lowest value is silence.
    Level,
    /// Decibels with sign.
    Gain,
    /// -1 to 1, written `30 L`, `C`, `30 R`.
    Pan,
    /// A MIDI key, written as note name.
    Note,
    /// A whole number.
    Count,
    /// A bare number.
    Number,
}

/// How values spread over a field's bar.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Curve {
    /// Evenly.
    Linear,
    /// Equal ratios take equal room; the range must be above zero.
    Log,
    /// `value = min + (max - min) * place^exponent`: more room for the low end.
    Power(f64),
}

/// One row of the catalogue. Ranges and defaults are in the unit the name carries.
#[derive(Debug, Clone, Copy)]
pub struct Param {
    /// Which parameter.
    pub id: ParamId,
    /// Its id as text, as in files and messages.
    pub name: &'static str,
    /// Label on the screen.
    pub label: &'static str,
    /// How it is written.
    pub quantity: Quantity,
    /// What it belongs to.
    pub owner: Owner,
    /// Lowest value.
    pub min: f64,
    /// Highest value.
    pub max: f64,
    /// Value of a new thing, and of a double click.
    pub default: f64,
    /// Spread over the bar.
    pub curve: Curve,
    /// One arrow key or wheel step; 0 means a hundredth of the bar.
    pub step: f64,
    /// One fine step (with Shift); 0 means a thousandth of the bar.
    pub fine_step: f64,
    /// Digits behind the point when written.
    pub decimals: usize,
    /// Time in which a sounding note follows a change, in seconds.
    pub smoothing_s: f64,
    /// What it does, in one sentence.
    pub help: &'static str,
}

macro_rules! row {
    ($id:ident $name:literal $label:literal $quantity:ident $owner:ident $min:literal..$max:literal = $default:literal,
     $curve:expr, step $step:literal / $fine:literal, decimals $decimals:literal, smooth $smooth:literal, $help:literal) => {
        Param {
            id: ParamId::$id,
            name: $name,
            label: $label,
            quantity: Quantity::$quantity,
            owner: Owner::$owner,
            min: $min,
            max: $max,
            default: $default,
            curve: $curve,
            step: $step,
            fine_step: $fine,
            decimals: $decimals,
            smoothing_s: $smooth,
            help: $help,
        }
    };
}

use Curve::{Linear, Log, Power};

/// All parameters, sorted by name.
#[rustfmt::skip]
pub const CATALOGUE: &[Param] = &[
    row!(AuditionHoldS "audition.hold_s" "Hold" Seconds Patch 0.02..16.0 = 1.5, Power(3.0), step 0.0 / 0.0, decimals 2, smooth 0.0,
        "How long the auditioned note is held."),
    row!(AuditionNote "audition.note" "Note" Note Patch 0.0..127.0 = 57.0, Linear, step 1.0 / 1.0, decimals 0, smooth 0.0,
        "The note everything on the screen is drawn for."),
    row!(AuditionTempoBpm "audition.tempo_bpm" "Tempo" Tempo Patch 20.0..300.0 = 120.0, Linear, step 1.0 / 0.1, decimals 1, smooth 0.0,
        "Beats a minute, for envelopes that are given in beats."),
    row!(AuditionVelocity "audition.velocity" "Velocity" Count Patch 1.0..127.0 = 96.0, Linear, step 1.0 / 1.0, decimals 0, smooth 0.0,
        "How hard the auditioned note is struck."),
    row!(AuditionWindowS "audition.window_s" "Window" Seconds Patch 0.005..20.0 = 3.0, Power(3.0), step 0.0 / 0.0, decimals 2, smooth 0.0,
        "How much of the note's life the drawing spans."),
    row!(CycleFold "cycle.fold" "Fold" Share Unit 0.0..1.0 = 0.0, Linear, step 0.05 / 0.01, decimals 0, smooth 0.01,
        "Turns the cycle's peaks back, again and again: more and more partials."),
    row!(CycleLean "cycle.lean" "Lean" Bipolar Unit -1.0..1.0 = 0.0, Linear, step 0.05 / 0.01, decimals 0, smooth 0.01,
        "Moves the cycle's peaks earlier or later: one flank steeper, the other flatter."),
    row!(CycleLevels "cycle.levels" "Levels" Count Unit 2.0..16.0 = 4.0, Linear, step 1.0 / 1.0, decimals 0, smooth 0.01,
        "Steps of level from zero to the peak."),
    row!(CycleRepeat "cycle.repeat" "Repeat" Ratio Unit 1.0..16.0 = 1.0, Log, step 0.5 / 0.01, decimals 2, smooth 0.01,
        "How many times the cycle runs in one period; what does not fit is faded over, and the pitch stays."),
    row!(CycleSteps "cycle.steps" "Steps" Share Unit 0.0..1.0 = 0.0, Linear, step 0.05 / 0.01, decimals 0, smooth 0.01,
        "How far the level keeps to steps, like a staircase with round edges."),
    row!(EnvelopeDelayS "envelope.delay_s" "Delay" Seconds Unit 0.0..10.0 = 0.0, Power(3.0), step 0.0 / 0.0, decimals 2, smooth 0.0,
        "Time from the press until the envelope begins."),
    row!(FilterCutoffHz "filter.cutoff_hz" "Cutoff" Hertz Unit 20.0..20000.0 = 1000.0, Log, step 0.0 / 0.0, decimals 1, smooth 0.01,
        "Where the filter works, at C4 if it follows the key."),
    row!(FilterDriveDb "filter.drive_db" "Drive" Gain Unit 0.0..36.0 = 0.0, Linear, step 1.0 / 0.1, decimals 1, smooth 0.01,
        "How hard the sound is pressed into the filter; it gets rougher, not louder."),
    row!(FilterKeyFollow "filter.key_follow" "Key follow" Share Unit 0.0..1.0 = 0.5, Linear, step 0.1 / 0.01, decimals 0, smooth 0.0,
        "How far the cutoff follows the key: 100 % keeps the colour the same on every key."),
    row!(FilterMix "filter.mix" "Mix" Share Unit 0.0..1.0 = 1.0, Linear, step 0.05 / 0.01, decimals 0, smooth 0.01,
        "Share of the filtered sound; the rest is the sound as it came."),
    row!(FilterResonance "filter.resonance" "Resonance" Share Unit 0.0..1.0 = 0.2, Linear, step 0.05 / 0.01, decimals 0, smooth 0.01,
        "How much it rings at its cutoff; at 100 % it sings."),
    row!(FilterSweepOct "filter.sweep_oct" "Sweep" Octaves Unit -8.0..8.0 = 1.0, Linear, step 0.5 / 0.1, decimals 2, smooth 0.01,
        "How far its envelope moves the cutoff, in octaves."),
    row!(FilterVowel "filter.vowel" "Vowel" Share Unit 0.0..1.0 = 0.0, Linear, step 0.05 / 0.01, decimals 0, smooth 0.01,
        "Which vowel: from a through e, i and o to u."),
    row!(GroupLevelDb "group.level_db" "Level" Level Group -72.0..12.0 = 0.0, Linear, step 1.0 / 0.1, decimals 1, smooth 0.01,
        "Level of all that the group's operators send to the output. The lowest value is silence."),
    row!(HarmonicsBalance "harmonics.balance" "Odd / even" Bipolar Unit -1.0..1.0 = 0.0, Linear, step 0.05 / 0.01, decimals 0, smooth 0.01,
        "Below zero the even harmonics fade, above zero the odd ones."),
    row!(HarmonicsHigh "harmonics.high" "To" Number Unit 1.0..256.0 = 256.0, Log, step 1.0 / 0.1, decimals 1, smooth 0.01,
        "Harmonics above this number are taken away."),
    row!(HarmonicsLow "harmonics.low" "From" Number Unit 1.0..256.0 = 1.0, Log, step 1.0 / 0.1, decimals 1, smooth 0.01,
        "Harmonics below this number are taken away."),
    row!(HarmonicsShift "harmonics.shift" "Shift" Ratio Unit 0.0..16.0 = 0.0, Power(2.0), step 0.1 / 0.01, decimals 3, smooth 0.01,
        "Moves all partials up by so many times the operator's frequency; whole numbers stay in tune."),
    row!(HarmonicsSpacing "harmonics.spacing" "Spacing" Ratio Unit 0.1..4.0 = 1.0, Log, step 0.1 / 0.01, decimals 3, smooth 0.01,
        "Distance from partial to partial; 1 is in tune, 1.05 rings like metal, 2 leaves the odd ones."),
    row!(HarmonicsTiltDb "harmonics.tilt_db" "Tilt" Gain Unit -12.0..12.0 = 0.0, Linear, step 0.5 / 0.1, decimals 1, smooth 0.01,
        "Change of level with each octave of harmonics: below zero darker, above zero brighter."),
    row!(NoiseColourDb "noise.colour_db" "Colour" Gain Unit -6.0..6.0 = 0.0, Linear, step 0.5 / 0.1, decimals 1, smooth 0.01,
        "Change of level with each octave: below zero darker than white, above zero brighter."),
    row!(OperatorDetuneCents "operator.detune_cents" "Fine" Cents Unit -1200.0..1200.0 = 0.0, Linear, step 1.0 / 0.1, decimals 1, smooth 0.01,
        "Fine tuning in cents; its beat grows with the key."),
    row!(OperatorFixedHz "operator.fixed_hz" "Fixed" Hertz Unit 0.01..20000.0 = 440.0, Log, step 0.0 / 0.0, decimals 2, smooth 0.01,
        "The same frequency on every key."),
    row!(OperatorOffsetHz "operator.offset_hz" "Offset" Offset Unit -200.0..200.0 = 0.0, Linear, step 0.1 / 0.01, decimals 3, smooth 0.01,
        "Constant offset in hertz; its beat is the same on every key."),
    row!(OperatorPosition "operator.position" "Position" Share Unit 0.0..1.0 = 0.0, Linear, step 0.01 / 0.001, decimals 1, smooth 0.01,
        "Place in the table, from its first cycle to its last."),
    row!(OperatorRatio "operator.ratio" "Ratio" Ratio Unit 0.01..64.0 = 1.0, Log, step 0.5 / 0.01, decimals 3, smooth 0.01,
        "Multiple of the key's frequency."),
    row!(OperatorSemitones "operator.semitones" "Semitones" Semitones Unit -72.0..72.0 = 0.0, Linear, step 1.0 / 0.1, decimals 2, smooth 0.01,
        "Distance from the key in semitones; 12 is an octave."),
    row!(OperatorStartTurns "operator.start_turns" "Start at" Share Unit 0.0..1.0 = 0.0, Linear, step 0.05 / 0.01, decimals 1, smooth 0.0,
        "Place in the cycle a note begins at; 25 % is a sine's peak."),
    row!(OperatorWidth "operator.width" "Width" Share Unit 0.01..0.99 = 0.25, Linear, step 0.01 / 0.001, decimals 1, smooth 0.01,
        "Share of the pulse that is up; 50 % is a square."),
    row!(PointCurve "point.curve" "Curve" Bipolar Point -1.0..1.0 = 0.0, Linear, step 0.05 / 0.01, decimals 0, smooth 0.0,
        "Bend of the segment to this point: below zero it starts slowly, above zero it starts fast and then lingers."),
    row!(PointLevel "point.level" "Level" Share Point 0.0..1.0 = 0.8, Linear, step 0.05 / 0.01, decimals 1, smooth 0.01,
        "Level reached at this point, as a share of full."),
    row!(PointTimeS "point.time_s" "Time" Seconds Point 0.0..20.0 = 0.1, Power(3.0), step 0.0 / 0.0, decimals 2, smooth 0.0,
        "Time of the segment that leads to this point."),
    row!(RouteAmount "route.amount" "Amount" Share Route 0.0..1.0 = 0.25, Linear, step 0.05 / 0.01, decimals 0, smooth 0.01,
        "How far the target's level rises and falls."),
    row!(RouteDeviation "route.deviation" "Deviation" Ratio Route 0.0..32.0 = 0.25, Power(3.0), step 0.1 / 0.01, decimals 3, smooth 0.01,
        "Greatest change of frequency either way, as a multiple of the target's own; above 1 it runs through zero."),
    row!(RouteIndexRad "route.index_rad" "Index" Radians Route 0.0..40.0 = 0.5, Power(2.5), step 0.1 / 0.01, decimals 2, smooth 0.01,
        "Modulation index: the greatest phase shift, in radians. More is brighter."),
    row!(RouteLevelDb "route.level_db" "Level" Level Route -72.0..6.0 = -12.0, Linear, step 1.0 / 0.1, decimals 1, smooth 0.01,
        "How loudly it is heard. The lowest value is silence."),
    row!(RouteMix "route.mix" "Mix" Share Route 0.0..1.0 = 0.25, Linear, step 0.05 / 0.01, decimals 0, smooth 0.01,
        "From the target alone to the product of both."),
    row!(RoutePan "route.pan" "Pan" Pan Route -1.0..1.0 = 0.0, Linear, step 0.05 / 0.01, decimals 0, smooth 0.01,
        "Place between left and right, at equal power."),
    row!(RoutePassDb "route.pass_db" "Level" Level Route -72.0..12.0 = 0.0, Linear, step 1.0 / 0.1, decimals 1, smooth 0.01,
        "How strongly it goes in. The lowest value is nothing."),
    row!(SampleCrossfadeS "sample.crossfade_s" "Crossfade" Seconds Unit 0.0..2.0 = 0.05, Power(2.0), step 0.0 / 0.0, decimals 2, smooth 0.0,
        "Time over which the loop's end is faded into what comes before its start, so that the seam is not heard."),
    row!(SampleEnd "sample.end" "End" Share Unit 0.0..1.0 = 1.0, Linear, step 0.01 / 0.001, decimals 1, smooth 0.0,
        "Where playing ends."),
    row!(SampleLoopEnd "sample.loop_end" "Loop end" Share Unit 0.0..1.0 = 1.0, Linear, step 0.01 / 0.001, decimals 1, smooth 0.0,
        "Where the loop goes back to its start."),
    row!(SampleLoopStart "sample.loop_start" "Loop start" Share Unit 0.0..1.0 = 0.25, Linear, step 0.01 / 0.001, decimals 1, smooth 0.0,
        "Where the loop begins."),
    row!(SampleRootKey "sample.root_key" "Root key" Note Unit 0.0..127.0 = 60.0, Linear, step 1.0 / 1.0, decimals 0, smooth 0.0,
        "The key at which it sounds as recorded."),
    row!(SampleSemitones "sample.semitones" "Transpose" Semitones Unit -48.0..48.0 = 0.0, Linear, step 1.0 / 0.1, decimals 2, smooth 0.01,
        "Higher or lower than recorded, in semitones."),
    row!(SampleStart "sample.start" "Start" Share Unit 0.0..1.0 = 0.0, Linear, step 0.01 / 0.001, decimals 1, smooth 0.0,
        "Where playing begins."),
    row!(ShaperDriveDb "shaper.drive_db" "Drive" Gain Unit 0.0..48.0 = 6.0, Linear, step 1.0 / 0.1, decimals 1, smooth 0.01,
        "How hard the sound is pressed into the curve."),
    row!(ShaperMix "shaper.mix" "Mix" Share Unit 0.0..1.0 = 0.5, Linear, step 0.05 / 0.01, decimals 0, smooth 0.01,
        "Share of the bent sound at the envelope's peak; the rest is the sound as it came."),
    row!(UnisonBlend "unison.blend" "Blend" Share Patch 0.0..1.0 = 1.0, Linear, step 0.05 / 0.01, decimals 0, smooth 0.01,
        "Level of the outer copies beside the middle."),
    row!(UnisonCopies "unison.copies" "Copies" Count Patch 1.0..16.0 = 1.0, Linear, step 1.0 / 1.0, decimals 0, smooth 0.0,
        "How many times every note sounds at once."),
    row!(UnisonDetuneCents "unison.detune_cents" "Detune" Cents Patch 0.0..200.0 = 12.0, Power(2.0), step 1.0 / 0.1, decimals 1, smooth 0.01,
        "From the middle to the outermost copy."),
    row!(UnisonSpread "unison.spread" "Spread" Share Patch 0.0..1.0 = 0.5, Linear, step 0.05 / 0.01, decimals 0, smooth 0.01,
        "How far the copies stand apart between left and right."),
    row!(UnitKeyLevelDb "unit.key_level_db" "Key to level" Gain Unit -12.0..12.0 = 0.0, Linear, step 0.5 / 0.1, decimals 1, smooth 0.0,
        "Change of its output with each octave above C4; below C4 the other way. On a modulator, of its index."),
    row!(UnitKeyTimes "unit.key_times" "Key to times" Bipolar Unit -1.0..1.0 = 0.0, Linear, step 0.05 / 0.01, decimals 0, smooth 0.0,
        "How far higher keys shorten the envelope: +100 % halves its times with each octave above C4."),
    row!(UnitVelocity "unit.velocity" "Velocity" Share Unit 0.0..1.0 = 0.5, Linear, step 0.05 / 0.01, decimals 0, smooth 0.0,
        "How far striking softly lowers the output: 0 % not at all, 100 % down to silence."),
    row!(UnitVelocityTimes "unit.velocity_times" "Vel. to times" Bipolar Unit -1.0..1.0 = 0.0, Linear, step 0.05 / 0.01, decimals 0, smooth 0.0,
        "How far striking hard shortens the envelope: +100 % from four times as long to a quarter."),
    row!(VoiceBendSemitones "voice.bend_semitones" "Bend range" Semitones Patch 0.0..24.0 = 2.0, Linear, step 1.0 / 0.1, decimals 1, smooth 0.01,
        "How far the bend wheel reaches either way."),
    row!(VoiceDriftCents "voice.drift_cents" "Drift" Cents Patch 0.0..50.0 = 0.0, Power(2.0), step 1.0 / 0.1, decimals 1, smooth 0.01,
        "How far each operator's pitch wanders slowly by itself."),
    row!(VoiceGlideS "voice.glide_s" "Glide" Seconds Patch 0.0..10.0 = 0.0, Power(3.0), step 0.0 / 0.0, decimals 2, smooth 0.0,
        "Time from one pitch to the next."),
    row!(VoicePolyphony "voice.polyphony" "Polyphony" Count Patch 1.0..32.0 = 16.0, Linear, step 1.0 / 1.0, decimals 0, smooth 0.0,
        "Notes that sound at once."),
    row!(VoiceSeed "voice.seed" "Seed" Count Patch 0.0..255.0 = 1.0, Linear, step 1.0 / 1.0, decimals 0, smooth 0.0,
        "What chance follows: the same seed gives the same sound."),
    row!(VoiceTrimDb "voice.trim_db" "Trim" Gain Patch -36.0..24.0 = 0.0, Linear, step 0.5 / 0.1, decimals 1, smooth 0.02,
        "Level of the whole patch."),
];

/// The row of a parameter.
pub fn param(id: ParamId) -> &'static Param {
    &CATALOGUE[id as usize]
}

/// The default of a parameter.
pub fn default(id: ParamId) -> f64 {
    param(id).default
}

impl Param {
    /// Place of a value on the bar, 0 to 1.
    pub fn place(&self, value: f64) -> f64 {
        let v = value.clamp(self.min, self.max);
        match self.curve {
            Linear => (v - self.min) / (self.max - self.min),
            Log => libm::log(v / self.min) / libm::log(self.max / self.min),
            Power(exponent) => libm::pow((v - self.min) / (self.max - self.min), 1.0 / exponent),
        }
    }

    /// Value at a place on the bar; places outside 0 to 1 are pulled in.
    pub fn value_at(&self, place: f64) -> f64 {
        let p = place.clamp(0.0, 1.0);
        let v = match self.curve {
            Linear => self.min + p * (self.max - self.min),
            Log => self.min * libm::pow(self.max / self.min, p),
            Power(exponent) => self.min + (self.max - self.min) * libm::pow(p, exponent),
        };
        v.clamp(self.min, self.max)
    }

    /// The value some steps away, as arrow keys and the wheel move it.
    pub fn nudge(&self, value: f64, steps: f64, fine: bool) -> f64 {
        let step = if fine { self.fine_step } else { self.step };
        if step > 0.0 {
            // lands on multiples of the step, so that 1.018 + 0.5 gives 1.5 and not 1.518
            let raw = (value + steps * step) / step;
            return (libm::round(raw) * step).clamp(self.min, self.max);
        }
        let share = if fine { 0.001 } else { 0.01 };
        self.tidy(self.value_at(self.place(value) + steps * share))
    }

    /// The value a drag arrives at: from where it began, moved by a share of the bar, on round numbers.
    pub fn drag(&self, start: f64, moved: f64, fine: bool) -> f64 {
        let raw = self.value_at(self.place(start) + moved * if fine { 0.1 } else { 1.0 });
        let step = if fine { self.fine_step } else { self.step };
        if step > 0.0 {
            self.nudge(raw, 0.0, fine)
        } else {
            self.tidy(raw)
        }
    }

    /// Rounds to three significant digits, but never out of range.
    pub fn tidy(&self, value: f64) -> f64 {
        if value == 0.0 {
            return value.clamp(self.min, self.max);
        }
        let digits = 2.0 - libm::floor(libm::log10(value.abs()));
        let scale = libm::pow(10.0, digits.clamp(-3.0, 5.0));
        (libm::round(value * scale) / scale).clamp(self.min, self.max)
    }
}

/// Gain of a level in decibels as a factor; the lowest level of the catalogue is silence.
pub fn level_gain(level_db: f64) -> f64 {
    if level_db <= param(ParamId::RouteLevelDb).min {
        0.0
    } else {
        db_gain(level_db)
    }
}

/// Gain of a group's level; the lowest is silence.
pub fn group_gain(level_db: f64) -> f64 {
    if level_db <= param(ParamId::GroupLevelDb).min {
        0.0
    } else {
        db_gain(level_db)
    }
}

/// Gain of a route into a filter or shaper; the lowest is nothing.
pub fn pass_gain(pass_db: f64) -> f64 {
    if pass_db <= param(ParamId::RoutePassDb).min {
        0.0
    } else {
        db_gain(pass_db)
    }
}

/// `10^(db/20)`.
pub fn db_gain(db: f64) -> f64 {
    libm::pow(10.0, db / 20.0)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rows_stand_in_the_order_of_their_ids_and_are_complete() {
        for (i, row) in CATALOGUE.iter().enumerate() {
            assert_eq!(row.id as usize, i, "{} is out of order", row.name);
            let written = serde_json::to_value(row.id).unwrap();
            assert_eq!(written, row.name, "file name and row name differ");
            assert!(
                row.min <= row.default && row.default <= row.max,
                "{}",
                row.name
            );
            assert!(
                row.help.ends_with('.') && !row.label.is_empty(),
                "{}",
                row.name
            );
        }
        assert_eq!(ParamId::VoiceTrimDb as usize + 1, CATALOGUE.len());
        assert!(CATALOGUE.windows(2).all(|w| w[0].name < w[1].name));
    }

    #[test]
    fn places_and_values_are_inverse() {
        for row in CATALOGUE {
            for i in 0..=20 {
                let place = f64::from(i) / 20.0;
                let back = row.place(row.value_at(place));
                assert!(
                    (back - place).abs() < 1e-9,
                    "{} at {place}: {back}",
                    row.name
                );
            }
        }
    }

    #[test]
    fn steps_land_on_round_numbers() {
        let ratio = param(ParamId::OperatorRatio);
        assert_eq!(ratio.nudge(1.018, 1.0, false), 1.5);
        assert_eq!(ratio.nudge(64.0, 1.0, false), 64.0);
        assert_eq!(param(ParamId::PointTimeS).nudge(0.0, -1.0, false), 0.0);
    }
}
