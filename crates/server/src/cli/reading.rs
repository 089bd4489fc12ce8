//! Patch files and bundles.

use super::failure::Failure;
use crate::clips::StoredClips;
use std::collections::HashMap;
use std::io::{Read, Seek};
use std::path::Path;
use zolvik_files::bundle;
use zolvik_patch::{Patch, json};

pub(super) fn read(path: &Path) -> Result<Patch, Failure> {
    let failed = |problem: String| Failure::File {
        path: path.into(),
        problem,
    };
    let file = std::fs::File::open(path).map_err(|e| failed(e.to_string()))?;
    read_patch(file).map_err(failed)
}

/// Reads a patch file to its end, or as far as one may go: what comes may have none.
pub(super) fn read_patch(from: impl Read) -> Result<Patch, String> {
    let mut bytes = vec![];
    let most = json::MAX_BYTES as u64;
    let read = from.take(most + 1).read_to_end(&mut bytes);
    read.map_err(|e| e.to_string())?;
    if bytes.len() as u64 > most {
        return Err(format!(
            "this is longer than a patch file; at most {most} bytes are read"
        ));
    }
    json::read_bytes(&bytes).map_err(|e| e.to_string())
}

/// Reads a patch file, or a bundle with its recordings; from a pipe as well.
pub(super) fn read_any(path: &Path) -> Result<(Patch, StoredClips), Failure> {
    let failed = |problem: String| Failure::File {
        path: path.into(),
        problem,
    };
    let disk = |e: std::io::Error| failed(e.to_string());
    let mut file = std::fs::File::open(path).map_err(disk)?;
    let mut head = vec![];
    file.by_ref().take(4).read_to_end(&mut head).map_err(disk)?;
    if !bundle::is_bundle(&head) {
        let patch = read_patch(head.as_slice().chain(file)).map_err(failed)?;
        return Ok((patch, StoredClips::default()));
    }
    // a bundle is read to and fro
    let mut passing = tempfile::tempfile().map_err(disk)?;
    let most = bundle::MAX_BYTES as u64;
    let mut all = head.as_slice().chain(file).take(most + 1);
    if std::io::copy(&mut all, &mut passing).map_err(disk)? > most {
        return Err(failed(format!(
            "this is longer than a bundle; at most {most} bytes are read"
        )));
    }
    passing.rewind().map_err(disk)?;
    let mut recordings = HashMap::new();
    let read = bundle::read(std::io::BufReader::new(passing), &mut |taken| {
        recordings.insert(taken.sound.content, taken.wav);
        Ok::<(), std::convert::Infallible>(())
    });
    let Ok(patch) = read.map_err(|e| failed(e.to_string()))?;
    Ok((patch, StoredClips::new(&recordings)))
}
