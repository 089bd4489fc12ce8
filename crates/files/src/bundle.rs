//! A patch with the recordings it plays as one ZIP file: `patch.json`, and `audio/` with a WAV file for each, named by its
//! content.

use std::collections::HashSet;
use std::io::{Read, Seek, SeekFrom, Write};

use zip::write::SimpleFileOptions;
use zip::{ZipArchive, ZipWriter};
use zolvik_json::outside::{quoted, visible};
use zolvik_patch::{Patch, PatchError, json};

use crate::recording::{self, RecordingError, Taken, take};

/// Largest bundle read, in bytes: two states of 16 samples, each with the longest recording of its own, packed not at all.
pub const MAX_BYTES: usize = 1 << 30;
/// Most bytes a bundle may unpack to.
const MAX_UNPACKED: u64 = MAX_BYTES as u64;
/// Most bytes of one recording.
const MAX_RECORDING: usize = recording::MAX_BYTES;
/// Most characters of a foreign name that are told again.
const MAX_NAME: usize = 80;
const AUDIO: &str = "audio/";
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
    /// It holds something twice.
    #[error("the bundle holds “{0}” or another file twice; export it again")]
    Twice(String),
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

/// Whether bytes look like a ZIP file.
pub fn is_bundle(bytes: &[u8]) -> bool {
    bytes.starts_with(b"PK\x03\x04")
}

/// Packs a patch with the recordings that are there; those that are missing stay out. Gives how many recordings it holds.
///
/// # Errors
/// If it cannot be packed.
pub fn write(
    patch: &Patch,
    into: impl Write + Seek,
    mut recording: impl FnMut(&str) -> Option<Vec<u8>>,
) -> Result<usize, BundleError> {
    let failed = |e: &dyn std::fmt::Display| BundleError::Write(e.to_string());
    let mut zip = ZipWriter::new(into);
    let options = SimpleFileOptions::default();
    let mut put = |name: &str, bytes: &[u8]| {
        zip.start_file(name, options).map_err(|e| failed(&e))?;
        zip.write_all(bytes).map_err(|e| failed(&e))
    };
    put(PATCH, json::write(patch).as_bytes())?;
    let mut count = 0;
    for content in patch.contents() {
        if let Some(wav) = recording(&content) {
            put(&format!("{AUDIO}{content}.wav"), &wav)?;
            count += 1;
        }
    }
    zip.finish().map_err(|e| failed(&e))?;
    Ok(count)
}

/// How many files the list at the end of a ZIP file says it has. The reader takes files of one name for one, so that one could
/// hide after another.
fn listed(bytes: &mut (impl Read + Seek)) -> std::io::Result<Option<usize>> {
    /// The end of the list: its sign, its own length without a remark, and where the count of files stands.
    const END: (&[u8], usize, usize) = (b"PK\x05\x06", 22, 10);
    let length = bytes.seek(SeekFrom::End(0))?;
    let tail = length.min(END.1 as u64 + u64::from(u16::MAX));
    bytes.seek(SeekFrom::Start(length - tail))?;
    let mut end = vec![];
    bytes.by_ref().take(tail).read_to_end(&mut end)?;
    bytes.rewind()?;
    let at = end.windows(END.1).rposition(|w| w.starts_with(END.0));
    let count = |at: usize| u16::from_le_bytes([end[at + END.2], end[at + END.2 + 1]]);
    Ok(at.map(|at| usize::from(count(at))))
}

/// Unpacks a bundle. Every recording must be what its name says, and nothing else may be in it. Recordings are handed to `keep`
/// one after the other, in no particular order, before it is known whether the rest is whole.
///
/// # Errors
/// What is wrong with it; inside, what `keep` refused.
pub fn read<E>(
    mut bytes: impl Read + Seek,
    keep: &mut dyn FnMut(Taken) -> Result<(), E>,
) -> Result<Result<Patch, E>, BundleError> {
    let kind = |e: &dyn std::fmt::Display| BundleError::Kind(quoted(&e.to_string()));
    let listed = listed(&mut bytes).map_err(|e| kind(&e))?;
    let mut zip = ZipArchive::new(bytes).map_err(|e| kind(&e))?;
    if zip.len() > MAX_FILES {
        return Err(BundleError::Stranger(format!("{} files", zip.len())));
    }
    if listed.is_some_and(|n| n != zip.len()) {
        return Err(BundleError::Twice(PATCH.into()));
    }
    if zip.has_overlapping_files().map_err(|e| kind(&e))? {
        return Err(BundleError::Kind("files in it share the same bytes".into()));
    }
    let (mut patch, mut seen) = (None, HashSet::new());
    let mut room = MAX_UNPACKED;
    for at in 0..zip.len() {
        let file = zip.by_index(at).map_err(|e| kind(&e))?;
        let name = file.name().map_err(|e| kind(&e))?.into_owned();
        if name == AUDIO {
            continue;
        }
        if !seen.insert(name.clone()) {
            return Err(BundleError::Twice(visible(&name, MAX_NAME)));
        }
        let content = name
            .strip_prefix(AUDIO)
            .and_then(|rest| rest.strip_suffix(".wav"))
            .filter(|content| {
                content.len() == 64 && content.bytes().all(|b| b.is_ascii_hexdigit())
            });
        if name != PATCH && content.is_none() {
            return Err(BundleError::Stranger(visible(&name, MAX_NAME)));
        }
        // what a header promises is not trusted: no more than the room is unpacked
        let most = match content {
            Some(_) => room.min(MAX_RECORDING as u64),
            None => json::MAX_BYTES as u64,
        };
        let mut unpacked = vec![];
        let read = file.take(most + 1).read_to_end(&mut unpacked);
        read.map_err(|e| kind(&e))?;
        if unpacked.len() as u64 > most {
            return Err(BundleError::Huge(most >> 20));
        }
        room -= (unpacked.len() as u64).min(room);
        let Some(content) = content else {
            patch = Some(json::read_bytes(&unpacked)?);
            continue;
        };
        let taken = take(unpacked, &name).map_err(|problem| BundleError::Recording {
            name: name.clone(),
            problem,
        })?;
        // any file of the same samples will do: it is kept as it is written here, whoever packed it
        if taken.sound.content != content {
            return Err(BundleError::Changed(name));
        }
        if let Err(refused) = keep(taken) {
            return Ok(Err(refused));
        }
    }
    Ok(Ok(patch.ok_or(BundleError::NoPatch)?))
}
