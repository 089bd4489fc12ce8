//! Writing files whole or not at all, where they can be replaced.

use std::fs::{File, Metadata, OpenOptions, Permissions};
use std::io::Write;
use std::os::unix::fs::{MetadataExt, PermissionsExt};
use std::path::{Path, PathBuf};

/// Writes a file under a passing name beside its place and gives it its own when it is on disk: on a full disk what was there
/// before stays. New ones get the rights the surroundings say. What a link leads to is written, and the link stays; devices, pipes and
/// files of several names are written as they are.
///
/// # Errors
/// If it cannot be written.
pub fn write(path: &Path, bytes: &[u8]) -> std::io::Result<()> {
    let before = path.metadata().ok();
    if before.as_ref().is_some_and(|data| !is_replaceable(data)) {
        let mut file = OpenOptions::new().write(true).open(path)?;
        if before.is_some_and(|data| data.is_file()) {
            file.set_len(0)?;
        }
        file.write_all(bytes)?;
        return settle(&file);
    }
    let path = target(path)?;
    if path.starts_with("/proc") || path.starts_with("/dev") {
        return File::create(path)?.write_all(bytes);
    }
    let folder = path.parent().filter(|p| !p.as_os_str().is_empty());
    let mut file = tempfile::Builder::new()
        .permissions(Permissions::from_mode(0o666))
        .tempfile_in(folder.unwrap_or(Path::new(".")))?;
    file.write_all(bytes)?;
    file.as_file().sync_all()?;
    if let Some(before) = before {
        file.as_file().set_permissions(before.permissions())?;
    }
    file.persist(path)?;
    Ok(())
}

/// Whether another file may take a file's place.
fn is_replaceable(data: &Metadata) -> bool {
    data.is_file() && data.nlink() == 1
}

/// Where a path leads.
fn target(path: &Path) -> std::io::Result<PathBuf> {
    /// As many links in a row as systems follow.
    const MOST: usize = 40;
    let mut path = path.to_owned();
    for _ in 0..MOST {
        match std::fs::read_link(&path) {
            Ok(next) => path = path.parent().unwrap_or(Path::new("")).join(next),
            Err(_) => return Ok(path),
        }
    }
    Err(std::io::Error::other("too many links lead to each other"))
}

/// Brings a file to the disk, where it is one that lies there.
fn settle(file: &File) -> std::io::Result<()> {
    match file.metadata()?.is_file() {
        true => file.sync_all(),
        false => Ok(()),
    }
}
