//! One note of a patch as samples.

use zolvik_engine::program::{Prepared, compile, prepare, prepare_with};
use zolvik_engine::{BLOCK, Engine};
use zolvik_patch::Patch;
use zolvik_patch::document::UnitId;
use zolvik_patch::hearing::Listening;
use zolvik_waves::Clips;

/// A note to render.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Note {
    /// MIDI key, 0 to 127.
    pub key: u8,
    /// 1 to 127.
    pub velocity: u8,
    /// Time until it is let go, in seconds.
    pub hold_s: f64,
    /// Length of the result, in seconds.
    pub length_s: f64,
    /// Sample rate in hertz.
    pub rate_hz: f64,
}

/// A rendered note.
#[derive(Debug, Clone, PartialEq)]
pub struct Rendered {
    /// Left channel.
    pub left: Vec<f32>,
    /// Right channel.
    pub right: Vec<f32>,
    /// Sample rate in hertz.
    pub rate_hz: f64,
    /// Units in the order of `amplitudes`.
    pub units: Vec<UnitId>,
    /// What each unit puts out before its routes, 0 to 1, every [`BLOCK`] frames.
    pub amplitudes: Vec<Vec<f32>>,
    /// Where each source of movement stands, 0 to 1, every [`BLOCK`] frames.
    pub places: Vec<Vec<f32>>,
    /// How far each link moves its value, in the value's domain, every [`BLOCK`] frames.
    pub motions: Vec<Vec<f32>>,
}

/// Shortest and longest render, in seconds.
pub const LENGTH_RANGE_S: (f64, f64) = (0.01, 120.0);

impl Note {
    /// The note the patch is auditioned with, drawn over its window.
    pub fn auditioned(patch: &Patch, rate_hz: f64) -> Self {
        let a = &patch.audition;
        Note {
            key: a.note,
            velocity: a.velocity,
            hold_s: a.hold_s,
            length_s: a.window_s,
            rate_hz,
        }
    }

    /// The same note, long enough to sound out fully.
    pub fn to_its_end(self, patch: &Patch) -> Self {
        let program = compile(patch, &Listening::default());
        let tail_s = program.tail_of_s(self.key, self.velocity);
        Note {
            length_s: (self.hold_s + tail_s + 0.02).clamp(LENGTH_RANGE_S.0, LENGTH_RANGE_S.1),
            ..self
        }
    }
}

/// Renders a note. The release falls on the first block at or after `hold_s`.
pub fn render(patch: &Patch, note: &Note) -> Rendered {
    render_program(&prepare(patch, &Listening::default()), note)
}

/// Renders a note for a file: as finely as the patch asks for files, with recordings that were brought in.
pub fn render_for_file(patch: &Patch, note: &Note, clips: &dyn Clips) -> Rendered {
    render_as_heard(patch, &Listening::default(), note, clips)
}

/// The same without what is muted for now.
pub fn render_as_heard(
    patch: &Patch,
    listening: &Listening,
    note: &Note,
    clips: &dyn Clips,
) -> Rendered {
    let prepared = prepare_with(&patch.for_files(), listening, clips);
    render_program(&prepared, note)
}

/// Renders a note of a prepared patch, muted or soloed as it may be.
pub fn render_program(prepared: &Prepared, note: &Note) -> Rendered {
    let mut engine = Engine::new(note.rate_hz);
    engine.take(prepared);
    engine.note_on(note.key, note.velocity);
    let frames =
        (note.length_s.clamp(LENGTH_RANGE_S.0, LENGTH_RANGE_S.1) * note.rate_hz).round() as usize;
    let release = ((note.hold_s * note.rate_hz) as usize).div_ceil(BLOCK) * BLOCK;
    let units: Vec<UnitId> = prepared.program.unit_ids().collect();
    let mut amplitudes = vec![Vec::with_capacity(frames / BLOCK + 1); units.len()];
    let mut now = vec![0.0; units.len()];
    let (sources, links) = prepared.program.movement_counts();
    let (mut places, mut motions) = (vec![vec![]; sources], vec![vec![]; links]);
    let (mut place, mut motion) = (vec![[0.0; 2]; sources], vec![0.0; links]);
    let (mut left, mut right) = (vec![0.0; frames], vec![0.0; frames]);
    for (at, (l, r)) in left
        .chunks_mut(BLOCK)
        .zip(right.chunks_mut(BLOCK))
        .enumerate()
    {
        if at * BLOCK == release {
            engine.note_off(note.key);
        }
        engine.process(l, r);
        engine.amplitudes(&mut now);
        for (now, curve) in now.iter().zip(&mut amplitudes) {
            curve.push(*now);
        }
        engine.places(&mut place);
        engine.motions(&mut motion);
        for ([now, _], curve) in place.iter().zip(&mut places) {
            curve.push(*now);
        }
        for (now, curve) in motion.iter().zip(&mut motions) {
            curve.push(*now);
        }
    }
    Rendered {
        left,
        right,
        rate_hz: note.rate_hz,
        units,
        amplitudes,
        places,
        motions,
    }
}
