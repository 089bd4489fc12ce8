//! Files of a note, the phrase or a set, by the command line.

use super::failure::Failure;
use crate::atomic;
use crate::clips::StoredClips;
use crate::renders::{Format, RenderError, Work, Written};
use std::path::Path;
use zolvik_engine::program::prepare_with;
use zolvik_lab::batch::{Batch, What};
use zolvik_lab::render::{Phrased, render_for_file, render_phrase};
use zolvik_lab::{Note, Rendered};
use zolvik_patch::catalogue::param;
use zolvik_patch::document::Audition;
use zolvik_patch::hearing::Listening;
use zolvik_patch::param::ParamId;
use zolvik_patch::playing::differing;
use zolvik_patch::{Patch, text};

pub(super) struct Wish {
    pub(super) note: Option<String>,
    pub(super) velocity: Option<u8>,
    pub(super) wheel: Option<u8>,
    pub(super) pressure: Option<u8>,
    pub(super) expression: Option<u8>,
    pub(super) pedal: Option<u8>,
    pub(super) bend: Option<String>,
    pub(super) hold: Option<String>,
    pub(super) length: Option<f64>,
}

/// Reads a value typed as on the screen.
pub(super) fn typed(id: ParamId, text: &str) -> Result<f64, Failure> {
    // bare numbers have the unit of the help: seconds
    text::read(id, text, param(id).max).map_err(|e| Failure::Argument(e.to_string()))
}

/// Goes to an articulation by its name.
pub(super) fn go_to(patch: &mut Patch, name: Option<&str>) -> Result<(), Failure> {
    let Some(name) = name else { return Ok(()) };
    let list = &patch.playing.articulations;
    let at = match name.eq_ignore_ascii_case("base") {
        true => None,
        false => {
            let found = list.iter().position(|a| a.name.eq_ignore_ascii_case(name));
            let names: Vec<&str> = list.iter().map(|a| a.name.as_str()).collect();
            let why = || {
                format!(
                    "there is no articulation {name}; there are: base, {}",
                    names.join(", ")
                )
            };
            Some(found.ok_or_else(|| Failure::Argument(why()))? as u8)
        }
    };
    differing::switch(patch, at);
    Ok(())
}

pub(super) fn note_of(
    patch: &Patch,
    clips: &StoredClips,
    wish: Wish,
    rate: u32,
) -> Result<Rendered, Failure> {
    let mut note = Note::auditioned(patch, rate.into());
    if let Some(name) = &wish.note {
        note.key = typed(Audition::NOTE, name)? as u8;
    }
    if let Some(hold) = &wish.hold {
        note.hold_s = typed(Audition::HOLD_S, hold)?;
    }
    note.velocity = wish.velocity.unwrap_or(note.velocity);
    let place = |of: Option<u8>, now: f32| of.map_or(now, |of| f32::from(of) / 127.0);
    let controls = &mut note.controls;
    controls.wheel = place(wish.wheel, controls.wheel);
    controls.pressure = place(wish.pressure, controls.pressure);
    controls.expression = place(wish.expression, controls.expression);
    controls.pedal = place(wish.pedal, controls.pedal);
    if let Some(bend) = &wish.bend {
        controls.bend = typed(Audition::BEND, bend)?;
    }
    note = match wish.length {
        Some(length_s) => Note { length_s, ..note },
        None => note.to_its_end(patch),
    };
    Ok(render_for_file(patch, &note, clips))
}

pub(super) fn phrase_of(
    patch: &Patch,
    clips: &StoredClips,
    length_s: Option<f64>,
    (with_beat, rate): (bool, u32),
) -> Rendered {
    let mut how = Phrased {
        with_beat,
        ..Phrased::to_its_end(patch, rate.into())
    };
    how.length_s = length_s.unwrap_or(how.length_s);
    let prepared = prepare_with(&patch.for_files(), &Listening::default(), clips);
    render_phrase(&prepared, patch, &how)
}

/// Keys of a set, such as `C1:C6:3`.
pub(super) fn set_of(text: &str, velocities: Vec<u8>) -> Result<What, Failure> {
    let why = || {
        Failure::Argument(format!(
            "{text} is no set of keys; give from, to and step such as C1:C6:3"
        ))
    };
    let parts: Vec<&str> = text.split(':').collect();
    let [from, to, every] = parts[..] else {
        return Err(why());
    };
    Ok(What::Set {
        from: typed(Audition::NOTE, from)? as u8,
        to: typed(Audition::NOTE, to)? as u8,
        every: every.parse().map_err(|_| why())?,
        velocities,
    })
}

/// Renders a set into a folder, saying how far it is.
pub(super) fn render_set(
    patch: Patch,
    clips: StoredClips,
    batch: &Batch,
    written: Written,
    out: &Path,
) -> Result<(), Failure> {
    let failed = |problem: String| Failure::File {
        path: out.into(),
        problem,
    };
    let work = Work::new(patch, clips, batch, written);
    let work = work.map_err(|e| Failure::Argument(e.to_string()))?;
    std::fs::create_dir_all(out).map_err(|e| failed(e.to_string()))?;
    for (n, piece) in work.pieces.iter().enumerate() {
        let rendered = work.render(piece, &|_| true);
        let (name, bytes) = rendered.map_err(|e| failed(e.to_string()))?;
        let path = out.join(&name);
        atomic::write(&path, &bytes).map_err(|e| failed(e.to_string()))?;
        println!("{} of {}: {name}", n + 1, work.pieces.len());
    }
    Ok(())
}

/// How a file of this name, or those of a set in a folder of this name, are written; refused before anything is rendered.
pub(super) fn written_as(
    out: &Path,
    is_set: bool,
    bits: u32,
    rate_hz: u32,
) -> Result<Written, Failure> {
    let refused = |problem: RenderError| Failure::File {
        path: out.into(),
        problem: problem.to_string(),
    };
    let is_device = out.metadata().is_ok_and(|data| !data.is_file());
    let format = match is_set || is_device {
        true => Format::Wav,
        false => Written::named(out).map_err(refused)?,
    };
    let written = Written {
        format,
        bits,
        rate_hz,
    };
    written.check().map_err(refused)?;
    Ok(written)
}
