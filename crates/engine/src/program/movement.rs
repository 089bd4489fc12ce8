//! Sources and links of a patch, compiled.

pub(super) mod adding;

use bytemuck::{Pod, Zeroable};
use wide::f32x8;
use zolvik_patch::document::{MAX_LINKS, MAX_SHAPE_POINTS, MAX_SOURCES, Unison, VoiceSettings};
use zolvik_patch::envelope::{CURVATURE, MAX_POINTS};
use zolvik_patch::movement::Runs;
use zolvik_patch::param::ParamId;

use super::envelope::{EnvelopeProgram, envelope_ok};
use super::params::NO_SLOT;
use crate::realtime::power::exp2;

/// Most points of all drawn cycles and steps.
pub(crate) const MAX_SHAPES: usize = MAX_SOURCES * MAX_SHAPE_POINTS;
/// Most sources and links.
pub(crate) const MAX_ITEMS: usize = MAX_SOURCES + MAX_LINKS;
/// In the order of computation, links are counted from here.
pub(crate) const LINKS_FROM: u32 = MAX_SOURCES as u32;

/// A source of a program.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct SourceProgram {
    /// Where it is one.
    pub(crate) envelope: EnvelopeProgram,
    /// How often it goes round in a second, or in how many beats, while that is not moved: a parameter's digits would not do for an hour.
    pub(crate) rate_hz: f64,
    pub(crate) cycle_beats: f64,
    pub(crate) id: u32,
    /// A `SourceName` as number.
    pub(crate) kind: u32,
    /// A `Chance` or `PlayedWhat` as number.
    pub(crate) variant: u32,
    /// 1 where all notes share it.
    pub(crate) shared: u32,
    /// A [`Runs`] as number.
    pub(crate) runs: u32,
    /// 1 where it goes by the tempo.
    pub(crate) in_beats: u32,
    /// Position of the unit it follows.
    pub(crate) unit: u32,
    pub(crate) seed: u32,
    pub(crate) delay_s: f32,
    pub(crate) fade_s: f32,
    pub(crate) rise_s: f32,
    pub(crate) fall_s: f32,
    /// Its points: a range of [`crate::program::Program::shapes`].
    pub(crate) first_point: u32,
    pub(crate) points: u32,
    /// Its parameters: from here on in [`crate::program::Program::params`].
    pub(crate) first_param: u32,
    pub(crate) params: u32,
    /// What moves them: a range of [`crate::program::Program::moves`].
    pub(crate) first_move: u32,
    pub(crate) moves: u32,
    /// 1 where links move its envelope, so that each note has one of its own.
    pub(crate) own_envelope: u32,
    pub(crate) reserved: u32,
}

/// A link of a program.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct LinkProgram {
    /// Position of the source.
    pub(crate) from: u32,
    /// Position of the source that brings it in; [`NO_SLOT`] for none.
    pub(crate) scale: u32,
    pub(crate) bend: SegmentCurve,
    /// Where in the source's way it begins to move, and what makes the rest of its own way 1.
    pub(crate) begin: f32,
    pub(crate) stretch: f32,
    /// Its amount, a parameter.
    pub(crate) amount: u32,
    /// What moves that: a range of [`crate::program::Program::moves`].
    pub(crate) first_move: u32,
    pub(crate) moves: u32,
    /// For whom it is computed: see [`pass`].
    pub(crate) passes: u32,
    /// 1 where it goes along its source's whole way, straight, by itself, with an amount that nothing moves.
    pub(crate) plain: u32,
    /// Its direction: so many times its place on the way, and so much more, is its share of the amount.
    pub(crate) times: f32,
    pub(crate) plus: f32,
}

impl LinkProgram {
    /// The share of its amount at a place on its way, by its direction.
    #[inline(always)]
    pub(crate) fn share(&self, place: f32x8) -> f32x8 {
        place * f32x8::splat(self.times) + f32x8::splat(self.plus)
    }
}

/// For whom links are computed, as bits.
pub(crate) mod pass {
    /// For each note.
    pub(crate) const NOTES: u32 = 1;
    /// For what all notes share.
    pub(crate) const SHARED: u32 = 2;
}

/// How a segment bends: along it is `(1 - 2^(power t)) / whole`, or `t` where it is straight.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct SegmentCurve {
    pub(crate) power: f32,
    pub(crate) whole: f32,
}

impl SegmentCurve {
    /// None.
    pub(crate) const STRAIGHT: SegmentCurve = SegmentCurve {
        power: 0.0,
        whole: 1.0,
    };

    /// That of a curve from -1 to 1.
    pub(super) fn of(curve: f64) -> SegmentCurve {
        let k = CURVATURE as f32 * curve as f32;
        if k.abs() < 1e-3 {
            return SegmentCurve::STRAIGHT;
        }
        let power = k * -core::f32::consts::LOG2_E;
        let [whole, ..] = (f32x8::ONE - exp2(f32x8::splat(power))).to_array();
        SegmentCurve { power, whole }
    }

    /// Whether it does not.
    pub(crate) fn is_straight(self) -> bool {
        self.power == 0.0
    }
}

/// A point of a drawn cycle and the segment that leads to it; of a step only level and glide, as curve.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct ShapeProgram {
    pub(crate) at: f32,
    pub(crate) level: f32,
    pub(crate) curve: f32,
    pub(crate) bend: SegmentCurve,
}

/// A link that moves a value of an envelope, or where a unit begins, for each note as it begins.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct OnsetProgram {
    /// Position of the unit, or of the source; [`NO_SLOT`] for the other of both.
    pub(crate) unit: u32,
    pub(crate) source: u32,
    /// Position of the point, and which value of it: see [`onset`].
    pub(crate) point: u32,
    pub(crate) what: u32,
    pub(crate) link: u32,
    /// What amounts are multiplied by, and the range the value stays in.
    pub(crate) scale: f32,
    pub(crate) low: f32,
    pub(crate) high: f32,
}

/// Values of an envelope's point, as numbers.
pub(crate) mod onset {
    pub(crate) const TIME: u32 = 0;
    pub(crate) const LEVEL: u32 = 1;
    pub(crate) const CURVE: u32 = 2;
    /// Of the envelope itself.
    pub(crate) const DELAY: u32 = 3;
    /// Where a unit begins: in its cycle, or in its recording.
    pub(crate) const START: u32 = 4;
}

/// Sources, links, and what they move.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct MovementProgram {
    pub(crate) sources: [SourceProgram; MAX_SOURCES],
    pub(crate) links: [LinkProgram; MAX_LINKS],
    pub(crate) shapes: [ShapeProgram; MAX_SHAPES],
    /// In which order sources and links are computed, links from [`LINKS_FROM`] on.
    pub(crate) order: [u32; MAX_ITEMS],
    pub(crate) onsets: [OnsetProgram; MAX_LINKS],
    pub(crate) onset_count: u32,
    pub(crate) source_count: u32,
    pub(crate) link_count: u32,
    pub(crate) shape_count: u32,
    /// The voice's parameters: from here on, in the order of [`VOICE`].
    pub(crate) first_voice: u32,
    /// What moves those of them that every note has by itself: a range of [`crate::program::Program::moves`].
    pub(crate) first_move: u32,
    pub(crate) moves: u32,
    /// What moves parameters for all notes alike: a range of [`crate::program::Program::moves`].
    pub(crate) first_shared: u32,
    pub(crate) shared: u32,
    /// 1 where some of the voice's parameters are moved.
    pub(crate) moves_voice: u32,
    /// 1 where all operators' pitch is moved.
    pub(crate) moves_pitch: u32,
    pub(crate) reserved: u32,
}

/// The parameters of the voice, in the order of their positions.
pub(crate) const VOICE: [ParamId; 8] = [
    VoiceSettings::TUNE_CENTS,
    VoiceSettings::CARRIERS_CENTS,
    VoiceSettings::MODULATORS_CENTS,
    VoiceSettings::DRIFT_CENTS,
    Unison::DETUNE_CENTS,
    Unison::SPREAD,
    Unison::BLEND,
    VoiceSettings::GLIDE_S,
];
/// Those of them that every note has by itself.
pub(crate) const VOICE_PITCHES: usize = 3;

impl SourceProgram {
    /// Whether it begins by itself, whatever is played.
    pub(crate) fn is_free(&self) -> bool {
        self.runs == Runs::Free as u32
    }
}

impl MovementProgram {
    /// What moves envelopes, and where units begin.
    pub(crate) fn onsets(&self) -> &[OnsetProgram] {
        &self.onsets[..(self.onset_count as usize).min(MAX_LINKS)]
    }

    /// Those that move where a unit begins.
    pub(crate) fn starts(&self) -> impl Iterator<Item = &OnsetProgram> {
        self.onsets().iter().filter(|o| o.what == onset::START)
    }

    /// Those that move a unit's envelope.
    pub(crate) fn onsets_of_unit(&self, at: usize) -> impl Iterator<Item = &OnsetProgram> {
        let own = self.onsets().iter().filter(|o| o.what != onset::START);
        own.filter(move |o| o.unit as usize == at)
    }

    /// Those that move a source's envelope.
    pub(crate) fn onsets_of_source(&self, at: usize) -> impl Iterator<Item = &OnsetProgram> {
        let all = self.onsets().iter();
        all.filter(move |o| o.source as usize == at)
    }

    /// Its sources.
    pub(crate) fn sources(&self) -> &[SourceProgram] {
        &self.sources[..(self.source_count as usize).min(MAX_SOURCES)]
    }

    /// Its links.
    pub(crate) fn links(&self) -> &[LinkProgram] {
        &self.links[..(self.link_count as usize).min(MAX_LINKS)]
    }

    /// The order of computation.
    pub(crate) fn order(&self) -> &[u32] {
        &self.order[..(self.sources().len() + self.links().len()).min(MAX_ITEMS)]
    }

    /// Whether every index lies inside.
    pub(super) fn is_sound(&self, units: usize, param_count: u32, move_count: u32) -> bool {
        let (params, moves) = (u64::from(param_count), u64::from(move_count));
        let span = |first: u32, count: u32| u64::from(first) + u64::from(count);
        let source = |at: u32| at < self.source_count;
        let source_ok = |s: &SourceProgram| {
            span(s.first_point, s.points) <= u64::from(self.shape_count)
                && span(s.first_param, s.params) <= params
                && span(s.first_move, s.moves) <= moves
                && (s.unit as usize) < units.max(1)
                && envelope_ok(&s.envelope)
        };
        let link_ok = |l: &LinkProgram| {
            source(l.from)
                && (l.scale == NO_SLOT || source(l.scale))
                && u64::from(l.amount) < params
                && span(l.first_move, l.moves) <= moves
        };
        let item_ok = |item: &u32| match item.checked_sub(LINKS_FROM) {
            None => source(*item),
            Some(link) => link < self.link_count,
        };
        let onset_ok = |o: &OnsetProgram| {
            ((o.unit as usize) < units || source(o.source))
                && (o.point as usize) < MAX_POINTS
                && o.link < self.link_count
        };
        self.source_count as usize <= MAX_SOURCES
            && self.onset_count as usize <= MAX_LINKS
            && self.onsets().iter().all(onset_ok)
            && self.link_count as usize <= MAX_LINKS
            && self.shape_count as usize <= MAX_SHAPES
            && span(self.first_voice, VOICE.len() as u32) <= params
            && span(self.first_move, self.moves) <= moves
            && span(self.first_shared, self.shared) <= moves
            && self.sources().iter().all(source_ok)
            && self.links().iter().all(link_ok)
            && self.order().iter().all(item_ok)
    }

    /// Whether two differ only in values.
    pub(super) fn same_shape(&self, other: &Self) -> bool {
        let of_source = |s: &SourceProgram| (s.id, s.kind, s.variant, s.shared, s.runs, s.in_beats);
        let of_link = |l: &LinkProgram| (l.from, l.scale, [l.times, l.plus]);
        let of_onset = |o: &OnsetProgram| (o.unit, o.source, o.point, o.what, o.link);
        self.order() == other.order()
            && self
                .onsets()
                .iter()
                .map(of_onset)
                .eq(other.onsets().iter().map(of_onset))
            && self
                .sources()
                .iter()
                .map(of_source)
                .eq(other.sources().iter().map(of_source))
            && self
                .links()
                .iter()
                .map(of_link)
                .eq(other.links().iter().map(of_link))
    }
}
