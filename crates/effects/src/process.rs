//! What goes through an effect, what it is set to, and what every effect can do.

use zolvik_patch::catalogue::choice;
use zolvik_patch::choice::Options;
use zolvik_patch::finish::MAX_EQ_BANDS;
use zolvik_patch::finish::effect::{band_position, effect_position};
use zolvik_patch::param::{ChoiceId, ParamId};

use crate::tools::drawn::Point;

/// Frames computed at once.
pub const BLOCK: usize = 16;
/// One channel of a block.
pub type Block = [f32; BLOCK];
/// Both channels of a block.
pub type Stereo = [Block; 2];
/// A block of silence.
pub const SILENT: Stereo = [[0.0; BLOCK]; 2];

/// A value over a block: at its begin and at the begin of the next.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Value {
    /// At the first frame.
    pub now: f32,
    /// At the first frame of the next block.
    pub next: f32,
}

impl Value {
    /// One that stands still.
    pub fn still(value: f64) -> Self {
        Value {
            now: value as f32,
            next: value as f32,
        }
    }

    /// At a frame of the block.
    #[inline(always)]
    pub fn at(&self, frame: usize) -> f32 {
        self.now + (self.next - self.now) * (frame as f32 * (1.0 / BLOCK as f32))
    }

    /// The same value by another measure.
    pub fn map(&self, f: impl Fn(f32) -> f32) -> Value {
        let now = f(self.now);
        Value {
            now,
            next: if self.next == self.now {
                now
            } else {
                f(self.next)
            },
        }
    }
}

/// The type of a band that lets only what lies near it through, for listening.
pub const BAND_ALONE: u8 = u8::MAX;

/// What a band of an EQ is, beside its values.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Band {
    /// Whether it does anything.
    pub on: bool,
    /// A `BandType` as number.
    pub what: u8,
    /// A `CutSlope` as number.
    pub slope: u8,
}

/// What an effect is set to for a block.
#[derive(Debug, Clone, Copy)]
pub struct Setting<'a> {
    /// Its values in the document's units, in the order of the catalogue.
    pub values: &'a [Value],
    /// What it has chosen, in the order of the catalogue.
    pub choices: [u8; 4],
    /// The bands of an EQ.
    pub bands: [Band; MAX_EQ_BANDS],
    /// How many of them there are.
    pub band_count: usize,
    /// What is drawn.
    pub points: &'a [Point],
    /// Frames a second.
    pub rate_hz: f64,
    /// Beats a minute.
    pub tempo_bpm: f64,
    /// Musical time at the block's begin, in beats.
    pub beats: f64,
    /// Frequency of the newest key.
    pub key_hz: f32,
    /// Level of the beat's kick, frame by frame, 0 to 1.
    pub kick: &'a Block,
}

impl Setting<'_> {
    /// A value of the effect.
    #[inline(always)]
    pub fn value(&self, id: ParamId) -> Value {
        let at = effect_position(id);
        self.values.get(at).copied().unwrap_or_default()
    }

    /// The same at the end of the block, for what is reckoned once a block.
    #[inline(always)]
    pub fn end(&self, id: ParamId) -> f64 {
        self.value(id).next.into()
    }

    /// What is chosen.
    #[inline(always)]
    pub fn chosen<T: Options>(&self, id: ChoiceId) -> T {
        debug_assert_eq!(choice(id).options.len(), T::ALL.len(), "{id:?}");
        let at = self.choices.get(usize::from(id.row));
        T::at(at.copied().unwrap_or(0).into())
    }

    /// A value of a band.
    pub fn band(&self, band: usize, id: ParamId) -> Value {
        let at = band_position(band, id);
        self.values.get(at).copied().unwrap_or_default()
    }

    /// Frames in so many seconds, at least one.
    pub fn frames(&self, seconds: f64) -> usize {
        (libm::round(seconds * self.rate_hz) as usize).max(1)
    }
}

/// What every effect can do.
pub trait Process: Send {
    /// Lets a block go through.
    ///
    /// # Real time
    /// No allocation, no lock, no panic.
    fn run(&mut self, block: &mut Stereo, set: &Setting<'_>);

    /// Forgets all it has heard.
    fn clear(&mut self);

    /// By how much it makes the sound softer or louder at the end of the block, in decibels; none where it is no matter of level.
    fn gain_db(&self) -> Option<f32> {
        None
    }

    /// The sound as it came with the phases of what it makes, so that both can be mixed; none where they have the same.
    fn phased(&self) -> Option<&Stereo> {
        None
    }
}
