//! What is known of a parameter: its row. The rows themselves stand with the parts they belong to, see [`crate::params::part`].

use crate::params::section::SectionId;

/// The parts of a document that have parameters, in the order of the catalogue.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[repr(u8)]
#[allow(missing_docs)] // each is the type of the same name
pub enum PartId {
    Audition,
    VoiceSettings,
    Unison,
    Group,
    Send,
    Operator,
    CycleShape,
    Harmonics,
    Noise,
    Sample,
    Filter,
    Shaper,
    Level,
    Unit,
    Envelope,
    Point,
    Source,
    Timing,
    Lfo,
    ShapePoint,
    Steps,
    Step,
    Random,
    Played,
    Follower,
    Macro,
    Link,
    Playing,
    Arpeggio,
    Chain,
    Effect,
    Drive,
    FilterEffect,
    Resonators,
    Eq,
    EqBand,
    Compressor,
    ThreeBand,
    Transients,
    Ducker,
    Chorus,
    Flanger,
    Phaser,
    Delay,
    Reverb,
    Shifter,
    Widening,
    Stereo,
    Limiter,
    Gain,
}

/// The name of a parameter: a part and the position of its row there. In files and messages it is written as text,
/// such as `filter.cutoff_hz`.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct ParamId {
    /// The part it belongs to.
    pub part: PartId,
    /// Position of its row in the part.
    pub row: u8,
}

impl ParamId {
    /// The same position as an index.
    pub const fn at(self) -> usize {
        self.row as usize
    }
}

/// The name of a choice: a part and the position of its row there. In messages it is written as text, such as
/// `filter.response`.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct ChoiceId {
    /// The part it belongs to.
    pub part: PartId,
    /// Position of its row in the part.
    pub row: u8,
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
    /// A source of movement.
    Source,
    /// A point of a source's drawn cycle, or one of its steps.
    Place,
    /// A link from a source to a value.
    Link,
    /// A chain of effects.
    Chain,
    /// An effect.
    Effect,
    /// A band of an EQ.
    Band,
}

/// How a parameter is written for people.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
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
    /// A length in beats, written as a note length or in bars.
    Beats,
    /// Times a second, `0.31 Hz`; a period in seconds says the same.
    Rate,
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
    /// How many times; 0 is as many times as the voice.
    Copies,
    /// A bare number.
    Number,
}

/// The domain in which a value is smoothed and moved.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Domain {
    /// The value itself: shares, decibels, cents, radians.
    Plain,
    /// Octaves above one: `log2(value)`. Frequencies and ratios.
    Octaves,
}

/// A rate at which what moves might as well stand still, in hertz: once round in thirty years.
const STILL: f64 = 1e-9;

impl Domain {
    /// A value of the document in this domain.
    pub fn enter(self, value: f64) -> f64 {
        match self {
            Domain::Plain => value,
            // what stands still is as far down as matters
            Domain::Octaves => libm::log2(value.max(STILL)),
        }
    }

    /// The value of the document again.
    pub fn leave(self, place: f64) -> f64 {
        match self {
            Domain::Plain => place,
            Domain::Octaves => libm::exp2(place),
        }
    }
}

/// How values spread over a field's bar.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Curve {
    /// Evenly.
    Linear,
    /// Equal ratios take equal room; the range must be above zero.
    Log,
    /// As [`Curve::Log`] from this value on; the low end of the bar is 0, at which what has a rate stands still.
    ZeroOrLog(f64),
    /// `value = min + (max - min) * place^exponent`: more room for the low end.
    Power(f64),
}

/// For whom a parameter may be moved by a source.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Linked {
    /// Each note has a value of its own.
    Note,
    /// All notes share one.
    Patch,
    /// Each note takes it up as it begins, and keeps it.
    Onset,
    /// It stands still while a note sounds.
    Never,
}

/// Under which circumstances a value or choice has any bearing, and is shown.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum When {
    /// Always.
    Always,
    /// While one of these options of a choice is taken.
    Chosen(ChoiceId, &'static [u8]),
    /// While an operator's wave is a table that is scanned.
    Scanned,
    /// While an operator's wave is a pulse.
    Pulse,
    /// On units that make sound of their own.
    Source,
}

/// While one of some options, by their names, of a choice is taken: `when!(Delay::WAY is DelayWay::{Straight, PingPong})`.
macro_rules! when {
    ($Part:ident::$ID:ident is $Type:ident::{$($Option:ident),+}) => {
        $crate::params::param::When::Chosen($Part::$ID, &[$($Type::$Option as u8),+])
    };
}
pub(crate) use when;

impl When {
    /// Whether it asks for one of the options that is chosen; none where it asks for something else.
    pub(crate) fn chosen(self, of: impl Fn(ChoiceId) -> Option<usize>) -> Option<bool> {
        match self {
            When::Always => Some(true),
            When::Chosen(choice, options) => {
                let at = of(choice);
                Some(at.is_some_and(|at| options.iter().any(|o| usize::from(*o) == at)))
            }
            When::Scanned | When::Pulse | When::Source => None,
        }
    }
}

/// One row of the catalogue. Ranges and defaults are in the unit the name carries.
#[derive(Debug, Clone, Copy)]
pub struct Param {
    /// Which parameter.
    pub id: ParamId,
    /// Its id as text, as in files and messages.
    pub name: &'static str,
    /// Name of its field in the file.
    pub field: &'static str,
    /// Path in the file from what it belongs to up to the field; empty or with a point at its end.
    pub path: &'static str,
    /// Label on the screen.
    pub label: &'static str,
    /// How it is written.
    pub quantity: Quantity,
    /// What it belongs to.
    pub owner: Owner,
    /// Where on a sheet it stands; rows of a section stand in the order of the catalogue.
    pub section: SectionId,
    /// When it is shown.
    pub when: When,
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
    /// Digits after the point when written.
    pub decimals: usize,
    /// Time in which a sounding note follows a change, in seconds.
    pub smoothing_s: f64,
    /// The domain in which it is smoothed and moved.
    pub domain: Domain,
    /// For whom it may be moved.
    pub linked: Linked,
    /// What it does, in one sentence.
    pub help: &'static str,
}

impl Param {
    /// Place of a value on the bar, 0 to 1.
    pub fn place(&self, value: f64) -> f64 {
        let v = value.clamp(self.min, self.max);
        match self.curve {
            Curve::Linear => (v - self.min) / (self.max - self.min),
            Curve::Log => libm::log(v / self.min) / libm::log(self.max / self.min),
            Curve::ZeroOrLog(low) => (libm::log(v / low) / libm::log(self.max / low)).max(0.0),
            Curve::Power(exponent) => {
                libm::pow((v - self.min) / (self.max - self.min), 1.0 / exponent)
            }
        }
    }

    /// The lowest value that ratios are counted from.
    pub fn lowest_ratio(&self) -> f64 {
        match self.curve {
            Curve::ZeroOrLog(low) => low,
            _ => self.min,
        }
    }

    /// Value at a place on the bar; places outside 0 to 1 are pulled in.
    pub fn value_at(&self, place: f64) -> f64 {
        let p = place.clamp(0.0, 1.0);
        let v = match self.curve {
            Curve::Linear => self.min + p * (self.max - self.min),
            Curve::Log => self.min * libm::pow(self.max / self.min, p),
            Curve::ZeroOrLog(_) if p == 0.0 => 0.0,
            Curve::ZeroOrLog(low) => low * libm::pow(self.max / low, p),
            Curve::Power(exponent) => self.min + (self.max - self.min) * libm::pow(p, exponent),
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
        let digits = 2.0 - libm::log10(value.abs()).floor();
        let scale = libm::pow(10.0, digits.clamp(-3.0, 5.0));
        (libm::round(value * scale) / scale).clamp(self.min, self.max)
    }

    /// Gain of a level in decibels as a factor; the lowest level of the row is silence.
    pub fn gain(&self, level_db: f64) -> f64 {
        if level_db <= self.min {
            0.0
        } else {
            crate::laws::levels::db_gain(level_db)
        }
    }
}
