//! Writing files whole or not at all.

use std::io::Write;
use std::path::Path;

/// Writes a file under a passing name beside its place and gives it its own when it is on disk: on a full disk what was there
/// before stays.
///
/// # Errors
/// If it cannot be written.
pub fn write(path: &Path, bytes: &[u8]) -> std::io::Result<()> {
    let folder = path.parent().filter(|p| !p.as_os_str().is_empty());
    let mut file = tempfile::NamedTempFile::new_in(folder.unwrap_or(Path::new(".")))?;
    file.write_all(bytes)?;
    file.as_file().sync_all()?;
    if let Ok(before) = path.metadata() {
        file.as_file().set_permissions(before.permissions())?;
    }
    file.persist(path)?;
    Ok(())
}
