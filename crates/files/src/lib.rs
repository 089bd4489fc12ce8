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

/// A safe file name for a patch: its letters and digits in lower case, joined by dashes.
pub fn file_name(patch_name: &str, ending: &str) -> String {
    let words = patch_name
        .split(|c: char| !c.is_alphanumeric())
        .filter(|w| !w.is_empty());
    let stem = words.collect::<Vec<_>>().join("-").to_lowercase();
    let stem = if stem.is_empty() { "patch" } else { &stem };
    format!("{stem}.{ending}")
}
