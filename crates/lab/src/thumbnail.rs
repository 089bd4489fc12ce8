//! A small picture of a sound, for lists.

use zolvik_engine::program::prepare_with;
use zolvik_patch::Patch;
use zolvik_patch::hearing::Listening;
use zolvik_waves::Clips;

use crate::axis::time_at;
use crate::note::Note;
use crate::render::render_program;
use crate::spectrum::{Rows, Transform};

/// Width in pixels.
pub const WIDTH: usize = 144;
/// Height in pixels.
pub const HEIGHT: usize = 32;

/// The spectrogram of the auditioned note, row by row from the top, 0 silent to 255 loudest. It is scaled to
/// the note's own strongest partial, so that quiet patches are seen as well.
pub fn thumbnail(patch: &Patch, clips: &dyn Clips) -> Vec<u8> {
    const RATE_HZ: f64 = 24_000.0;
    let note = Note::auditioned(patch, RATE_HZ);
    let sound = render_program(&prepare_with(patch, &Listening::default(), clips), &note);
    let mut transform = Transform::new(1024);
    let rows = Rows::new(HEIGHT, transform.size(), RATE_HZ);
    let frame = |x: usize| {
        (time_at((x as f64 + 0.5) / WIDTH as f64, note.length_s, 0.6) * RATE_HZ) as usize
    };
    let mut columns: Vec<Vec<f32>> = Vec::with_capacity(WIDTH);
    let mut bins = [vec![], vec![]];
    for x in (0..WIDTH).step_by(2) {
        transform.amplitudes(
            &sound.left,
            &sound.right,
            [frame(x), frame(x + 1)],
            &mut bins,
        );
        columns.extend(bins.iter().map(|bins| rows.strongest(bins).collect()));
    }
    let strongest = columns.iter().flatten().fold(1e-4f32, |a, b| a.max(*b));
    let mut picture = Vec::with_capacity(WIDTH * HEIGHT);
    for y in 0..HEIGHT {
        for column in &columns {
            let db = 20.0 * (column[HEIGHT - 1 - y] / strongest).max(1e-6).log10();
            picture.push(((db + 60.0) / 60.0 * 255.0).clamp(0.0, 255.0) as u8);
        }
    }
    picture
}
