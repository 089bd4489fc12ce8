//! One effect: its number, its kind, and what all effects have.

use serde::{Deserialize, Serialize};

use super::kinds::*;
use crate::ids::EffectId;
use crate::movement::shape::ShapePoint;
use crate::params::choice::Options;
use crate::params::param::{ChoiceId, Param, ParamId, PartId, Quantity as Q, When};
use crate::params::part::{Number, Part, Rows, part};
use crate::params::section::SectionId as S;
use crate::parts::look::look;

part! {
    /// An effect of a chain.
    pub struct Effect: Effect "effect" in "" {
        also {
            /// Stable number, from 2001 on.
            id: EffectId = EffectId(EffectId::FIRST),
            /// The user's name for it, up to 40 characters; empty for that of its kind.
            #[serde(default, skip_serializing_if = "String::is_empty")]
            name: String = String::new(),
            /// Whether it does anything.
            on: bool = true,
            /// What it is.
            kind: EffectKind = EffectName::Level.make(),
        }
        values {
            MIX mix: f64 = 0.25, 0.0..1.0, look("Mix", Q::Share, S::Mix).step(0.05, 0.01),
                "Share of what the effect makes; the rest is the sound as it came.";
            #[serde(default)]
            IN_DB in_db: f64 = 0.0, -24.0..24.0, look("In", Q::Gain, S::Mix).step(1.0, 0.1).decimals(1),
                "How loudly the sound goes into the effect.";
            #[serde(default)]
            OUT_DB out_db: f64 = 0.0, -24.0..24.0, look("Out", Q::Gain, S::Mix).step(1.0, 0.1).decimals(1),
                "How loudly what the effect makes comes out of it.";
        }
    }
}

/// One row for each kind: its name, part, label, the mix it arrives with, the rows the engine knows, the values shown in its row, and
/// what it is for.
macro_rules! effect_kinds {
    ($($(#[$meta:meta])* $Kind:ident($Type:ty) $label:literal, $mix:literal, rows [$($Row:ty),*], main [$($Main:expr),*], $help:literal;)*) => {
        /// What an effect is.
        #[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
        #[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
        #[cfg_attr(feature = "types", derive(ts_rs::TS))]
        #[serde(rename_all = "snake_case")]
        pub enum EffectKind { $($(#[$meta])* $Kind($Type)),* }

        /// A kind of effect by name, for making one.
        #[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
        #[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
        #[cfg_attr(feature = "types", derive(ts_rs::TS))]
        #[serde(rename_all = "snake_case")]
        pub enum EffectName { $($(#[$meta])* $Kind),* }

        impl EffectName {
            /// All kinds, in the order they are offered.
            pub const ALL: &'static [EffectName] = &[$(EffectName::$Kind),*];

            /// As it is called on the screen.
            pub fn label(self) -> &'static str {
                match self { $(EffectName::$Kind => $label),* }
            }

            /// What it is for, in one sentence.
            pub fn help(self) -> &'static str {
                match self { $(EffectName::$Kind => $help),* }
            }

            /// A new one of this kind.
            pub fn make(self) -> EffectKind {
                match self { $(EffectName::$Kind => EffectKind::$Kind(Default::default())),* }
            }

            /// The share of what it makes a new one arrives with.
            pub fn gentle_mix(self) -> f64 {
                match self { $(EffectName::$Kind => $mix),* }
            }

            /// The rows of its own parts, in the order of their positions.
            pub fn rows(self) -> &'static [Rows] {
                match self { $(EffectName::$Kind => { const ROWS: &[Rows] = &[$(<$Row>::ROWS),*]; ROWS })* }
            }

            /// Values that say most of it, at most four.
            pub fn main_values(self) -> &'static [ParamId] {
                match self { $(EffectName::$Kind => { const MAIN: &[ParamId] = &[$($Main),*]; MAIN })* }
            }
        }

        impl EffectKind {
            /// Which kind it is.
            pub fn name(&self) -> EffectName {
                match self { $(EffectKind::$Kind(_) => EffectName::$Kind),* }
            }

            /// Its parameters and choices.
            pub fn part(&self) -> &dyn Part {
                match self { $(EffectKind::$Kind(part) => part),* }
            }

            /// The same, for writing.
            pub fn part_mut(&mut self) -> &mut dyn Part {
                match self { $(EffectKind::$Kind(part) => part),* }
            }
        }
    };
}

effect_kinds! {
    /// Bends the wave.
    Drive(Drive) "Drive", 0.25, rows [Drive], main [Drive::DRIVE_DB, Drive::BIAS, Drive::AFTER_DB],
        "Bends the wave: rounder, harder, folded, or coarser.";
    /// A filter.
    Filter(FilterEffect) "Filter", 1.0, rows [FilterEffect], main [FilterEffect::CUTOFF_HZ, FilterEffect::RESONANCE, FilterEffect::DRIVE_DB],
        "A filter over the whole chain.";
    /// Tuned things that ring along.
    Resonators(Resonators) "Resonators", 0.25, rows [Resonators], main [Resonators::COUNT, Resonators::SPREAD, Resonators::DECAY_S],
        "Tuned strings or plates that ring along.";
    /// Eight bands.
    Eq(Eq) "EQ", 1.0, rows [Eq], main [],
        "Raises and lowers what lies in up to eight bands.";
    /// Holds loud things down.
    Compressor(Compressor) "Compressor", 1.0, rows [Compressor], main [Compressor::THRESHOLD_DB, Compressor::RATIO, Compressor::ATTACK_S, Compressor::MAKEUP_DB],
        "Holds what is loud down.";
    /// Three compressors side by side.
    ThreeBand(ThreeBand) "Multiband compressor", 1.0, rows [ThreeBand], main [ThreeBand::AMOUNT, ThreeBand::TIME, ThreeBand::LOW_HZ, ThreeBand::HIGH_HZ],
        "Holds lows, middle and highs together: presses what is loud down and lifts what is quiet.";
    /// Attack and sustain.
    Transients(Transients) "Transients", 1.0, rows [Transients], main [Transients::ATTACK_DB, Transients::SUSTAIN_DB],
        "Makes the beginning of sounds harder or softer, and what follows longer or shorter.";
    /// Makes room for the beat.
    Ducker(Ducker) "Ducker", 1.0, rows [Ducker], main [Ducker::DEPTH_DB, Ducker::RELEASE_S, Ducker::CYCLE_BEATS],
        "Steps back with every kick of the beat, or along a drawn shape.";
    /// Copies that drift.
    Chorus(Chorus) "Chorus", 0.25, rows [Chorus], main [Chorus::VOICES, Chorus::RATE_HZ, Chorus::DEPTH_S],
        "Copies that drift in time: thicker and wider.";
    /// A comb that moves.
    Flanger(Flanger) "Flanger", 0.25, rows [Flanger], main [Flanger::RATE_HZ, Flanger::DEPTH_S, Flanger::FEEDBACK],
        "A short echo that moves: a sweeping comb.";
    /// Notches that move.
    Phaser(Phaser) "Phaser", 0.25, rows [Phaser], main [Phaser::STAGES, Phaser::RATE_HZ, Phaser::CENTRE_HZ, Phaser::FEEDBACK],
        "Notches that move through the sound, or stand.";
    /// Echoes.
    Delay(Delay) "Delay", 0.25, rows [Delay], main [Delay::LEFT_S, Delay::LEFT_BEATS, Delay::FEEDBACK, Delay::HIGH_CUT_HZ],
        "Echoes, in time or in beats.";
    /// A room.
    Reverb(Reverb) "Reverb", 0.25, rows [Reverb], main [Reverb::SIZE, Reverb::TIME_S, Reverb::PRE_S, Reverb::DAMP_HZ],
        "A room around the sound.";
    /// Other pitches.
    Shifter(Shifter) "Shifter", 0.25, rows [Shifter], main [Shifter::SEMITONES, Shifter::CENTS, Shifter::HERTZ],
        "The sound at another pitch, or all its partials moved by as many hertz.";
    /// Wider.
    Widening(Widening) "Widening", 0.25, rows [Widening], main [Widening::TIME_S, Widening::DETUNE_CENTS, Widening::ABOVE_HZ],
        "Makes the sound wider, above a frequency.";
    /// Where it stands.
    Stereo(Stereo) "Stereo", 1.0, rows [Stereo], main [Stereo::MONO_HZ, Stereo::LOW_WIDTH, Stereo::MID_WIDTH, Stereo::HIGH_WIDTH],
        "How wide lows, middle and highs are, and where they stand; mono below a frequency.";
    /// Never louder.
    Limiter(Limiter) "Limiter", 1.0, rows [Limiter], main [Limiter::CEILING_DB, Limiter::RELEASE_S, Limiter::AHEAD_S],
        "Nothing leaves it louder than its ceiling.";
    /// Louder, softer, turned round.
    Level(Gain) "Level", 1.0, rows [Gain], main [Gain::GAIN_DB],
        "Louder or softer, or turned upside down.";
}

/// Most parameters of an effect the engine knows, those of the bands of an EQ included.
pub const MAX_EFFECT_PARAMS: usize = 3 + MAX_EQ_BANDS * 3;

/// The parameters of an effect of a kind, in the order of their positions; those of an EQ's bands come after them, band by band.
pub fn effect_params(kind: EffectName) -> impl Iterator<Item = &'static Param> {
    let own = kind.rows().iter().flat_map(|rows| rows.params);
    Effect::ROWS.params.iter().chain(own)
}

/// Position of a parameter among those of its effect.
pub const fn effect_position(id: ParamId) -> usize {
    match id.part {
        PartId::Effect => id.row as usize,
        _ => Effect::ROWS.params.len() + id.row as usize,
    }
}

/// Position of a parameter of an EQ's band.
pub const fn band_position(band: usize, id: ParamId) -> usize {
    Effect::ROWS.params.len()
        + Eq::ROWS.params.len()
        + band * EqBand::ROWS.params.len()
        + id.row as usize
}

impl Effect {
    /// A new effect of a kind: it arrives gently.
    pub fn new(id: EffectId, kind: EffectName) -> Self {
        Effect {
            id,
            kind: kind.make(),
            mix: kind.gentle_mix(),
            ..Effect::default()
        }
    }

    /// What it is called.
    pub fn title(&self) -> &str {
        match self.name.as_str() {
            "" => self.kind.name().label(),
            name => name,
        }
    }

    /// A value, of whatever part of it.
    pub fn value(&self, id: ParamId) -> Option<f64> {
        self.get(id).or_else(|| self.kind.part().get(id))
    }

    /// The place of a value, for writing.
    pub fn value_slot(&mut self, id: ParamId) -> Option<&mut dyn Number> {
        match self.get(id).is_some() {
            true => self.slot(id),
            false => self.kind.part_mut().slot(id),
        }
    }

    /// Whether what a row depends on is so.
    pub fn is(&self, when: When) -> bool {
        match when {
            When::Chosen(choice, options) => self
                .kind
                .part()
                .chosen(choice)
                .is_some_and(|at| options.contains(&(at as u8))),
            _ => true,
        }
    }

    /// What it has chosen, in the order of the catalogue, up to four.
    pub fn choices(&self) -> [u8; 4] {
        let mut chosen = [0; 4];
        let rows = self.kind.name().rows().iter().flat_map(|r| r.choices);
        for (to, row) in chosen.iter_mut().zip(rows) {
            *to = self.kind.part().chosen(row.id).unwrap_or(0) as u8;
        }
        chosen
    }

    /// The bands of an EQ.
    pub fn bands(&self) -> &[EqBand] {
        match &self.kind {
            EffectKind::Eq(eq) => &eq.bands,
            _ => &[],
        }
    }

    /// The bands of an EQ, for changing.
    pub fn bands_mut(&mut self) -> Option<&mut Vec<EqBand>> {
        match &mut self.kind {
            EffectKind::Eq(eq) => Some(&mut eq.bands),
            _ => None,
        }
    }

    /// The points of what is drawn in it.
    pub fn points(&self) -> &[ShapePoint] {
        match &self.kind {
            EffectKind::Drive(drive) => &drive.points,
            EffectKind::Ducker(ducker) => &ducker.points,
            _ => &[],
        }
    }

    /// Whether it works by what is drawn in it: a drive and a ducker do where that is chosen.
    pub fn works_by_drawing(&self) -> bool {
        match &self.kind {
            EffectKind::Drive(drive) => drive.bend == Bend::Drawn,
            EffectKind::Ducker(ducker) => ducker.by == DuckBy::Shape,
            _ => false,
        }
    }

    /// The points of what is drawn in it, for changing.
    pub fn points_mut(&mut self) -> Option<&mut Vec<ShapePoint>> {
        match &mut self.kind {
            EffectKind::Drive(drive) => Some(&mut drive.points),
            EffectKind::Ducker(ducker) => Some(&mut ducker.points),
            _ => None,
        }
    }

    /// Chooses; none if it has no such choice or option.
    pub fn choose_of(&mut self, id: ChoiceId, to: usize) -> Option<()> {
        self.kind.part_mut().choose(id, to)
    }
}

/// The position of an option, for the engine.
pub fn option_at<T: Options>(option: T) -> u8 {
    option.position() as u8
}
