//! A patch with the recordings it plays as one ZIP file: `patch.json`, and `audio/` with a WAV file for each, named by its
//! content.

use std::collections::HashMap;
use std::io::{Cursor, Read, Write};

use zip::write::SimpleFileOptions;
use zip::{ZipArchive, ZipWriter};
use zolvik_patch::{Patch, PatchError, json};

use crate::recording::{RecordingError, content_of, take};

/// Largest bundle read, in bytes.
pub const MAX_BYTES: usize = 128 << 20;
/// Most bytes a bundle may unpack to.
const MAX_UNPACKED: u64 = 256 << 20;
/// Most files in a bundle.
const MAX_FILES: usize = 64;
const PATCH: &str = "patch.json";

/// Why a bundle was not read. Nothing was kept of it.
#[derive(Debug, thiserror::Error)]
pub enum BundleError {
    /// It is no ZIP file, or a damaged one.
    #[error("this is no bundle ({0}); choose a ZIP file exported here")]
    Kind(String),
    /// It holds something that has no place in a bundle.
    #[error("the bundle holds “{0}”, which has no place in it; nothing of it was taken")]
    Stranger(String),
    /// It unpacks to too much.
    #[error("the bundle unpacks to more than {0} MB; nothing of it was taken")]
    Huge(u64),
    /// It has no patch.
    #[error("the bundle has no {PATCH}; choose a ZIP file exported here")]
    NoPatch,
    /// Its patch is not valid.
    #[error("the bundle's patch is not valid: {0}")]
    Patch(#[from] PatchError),
    /// A recording is not what its name says.
    #[error("the bundle's recording {0} was changed; export the bundle again")]
    Changed(String),
    /// A recording cannot be read.
    #[error("the bundle's recording {name}: {problem}")]
    Recording {
        /// Its name in the bundle.
        name: String,
        /// What is wrong with it.
        problem: RecordingError,
    },
    /// It could not be written.
    #[error("the bundle could not be written: {0}")]
    Write(String),
}

/// A patch and the recordings that came with it, by content.
#[derive(Debug, Clone, PartialEq)]
pub struct Bundle {
    /// The patch.
    pub patch: Patch,
    /// WAV files by their content.
    pub recordings: HashMap<String, Vec<u8>>,
}

/// Whether bytes look like a ZIP file.
pub fn is_bundle(bytes: &[u8]) -> bool {
    bytes.starts_with(b"PK\x03\x04")
}

/// Packs a patch with the recordings that are there; those that are missing stay out.
///
/// # Errors
/// If it cannot be packed.
pub fn write(patch: &Patch, recordings: &HashMap<String, Vec<u8>>) -> Result<Vec<u8>, BundleError> {
    let failed = |e: &dyn std::fmt::Display| BundleError::Write(e.to_string());
    let mut zip = ZipWriter::new(Cursor::new(vec![]));
    let options = SimpleFileOptions::default();
    let mut put = |name: &str, bytes: &[u8]| {
        zip.start_file(name, options).map_err(|e| failed(&e))?;
        zip.write_all(bytes).map_err(|e| failed(&e))
    };
    put(PATCH, json::write(patch).as_bytes())?;
    for content in patch.contents() {
        if let Some(wav) = recordings.get(&content) {
            put(&format!("audio/{content}.wav"), wav)?;
        }
    }
    let done = zip.finish().map_err(|e| failed(&e))?;
    Ok(done.into_inner())
}

/// Unpacks a bundle in memory. Every recording must be what its name says, and nothing else may be in it.
///
/// # Errors
/// What is wrong with it.
pub fn read(bytes: &[u8]) -> Result<Bundle, BundleError> {
    let kind = |e: &dyn std::fmt::Display| BundleError::Kind(e.to_string());
    let mut zip = ZipArchive::new(Cursor::new(bytes)).map_err(|e| kind(&e))?;
    if zip.len() > MAX_FILES {
        return Err(BundleError::Stranger(format!("{} files", zip.len())));
    }
    let (mut text, mut recordings) = (None, HashMap::new());
    let mut room = MAX_UNPACKED;
    for at in 0..zip.len() {
        let file = zip.by_index(at).map_err(|e| kind(&e))?;
        let name = file.name().map_err(|e| kind(&e))?.into_owned();
        let content = name
            .strip_prefix("audio/")
            .and_then(|rest| rest.strip_suffix(".wav"))
            .filter(|content| content.len() == 64 && content.bytes().all(|b| b.is_ascii_hexdigit()))
            .map(str::to_owned);
        if name == "audio/" {
            continue;
        }
        if name != PATCH && content.is_none() {
            return Err(BundleError::Stranger(name));
        }
        // what a header promises is not trusted: no more than the room is unpacked
        let most = if name == PATCH {
            json::MAX_BYTES as u64
        } else {
            room
        };
        let mut unpacked = vec![];
        let read = file.take(most + 1).read_to_end(&mut unpacked);
        read.map_err(|e| kind(&e))?;
        if unpacked.len() as u64 > most {
            return Err(BundleError::Huge(most >> 20));
        }
        room -= (unpacked.len() as u64).min(room);
        match content {
            None => text = Some(String::from_utf8(unpacked).map_err(|e| kind(&e))?),
            Some(content) => {
                if content_of(&unpacked) != content {
                    return Err(BundleError::Changed(name));
                }
                let taken = take(&unpacked, &name).map_err(|problem| BundleError::Recording {
                    name: name.clone(),
                    problem,
                })?;
                // kept as it is written here, whoever packed it
                if taken.sound.content != content {
                    return Err(BundleError::Changed(name));
                }
                recordings.insert(content, taken.wav);
            }
        }
    }
    let patch = json::read(&text.ok_or(BundleError::NoPatch)?)?;
    Ok(Bundle { patch, recordings })
}
