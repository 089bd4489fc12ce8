//! Open formats in and out.
//!
//! - [`wav`]: WAV files with 16, 24 bit or 32 bit float, out; of any usual kind, in.
//! - `recording`: WAV, FLAC, AIFF and OGG Vorbis, in, with the feature `exchange`.
//! - `bundle`: a patch with its recordings as a ZIP file, with the feature `exchange`.
//! - [`midi`]: Standard MIDI files, phrases in and out.
//! - [`scala`]: scales and keyboard maps, in.
//! - The patch file itself is read and written by [`zolvik_patch::json`]; [`file_name`] names it.

#[cfg(feature = "exchange")]
pub mod bundle;
#[cfg(feature = "exchange")]
pub mod flac;
pub mod midi;
#[cfg(feature = "exchange")]
pub mod recording;
pub mod scala;
pub mod wav;

/// Most bytes of a file's name without its ending: systems take 255 with it.
const MAX_STEM: usize = 200;

/// A safe file name for a patch: its letters and digits in lower case, joined by dashes, of a length every system takes.
pub fn file_name(patch_name: &str, ending: &str) -> String {
    let stem = zolvik_patch::plain::file_stem(patch_name, MAX_STEM);
    format!("{}.{ending}", stem.as_deref().unwrap_or("patch"))
}
