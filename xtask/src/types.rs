//! TypeScript types from Rust.

use std::path::Path;

use crate::run::{Result, SETTINGS, command, root, run};

const FOLDER: &str = "web/src/engine/generated";

/// Writes them into the front end. Those of before stay until the new ones are there: who is stopped in the middle still has a whole folder.
pub fn write() -> Result {
    let folder = root().join(FOLDER);
    let new = root().join("target/types");
    write_into(&new)?;
    // types that are gone must not stay
    remove(&folder)?;
    std::fs::rename(&new, &folder).map_err(|e| format!("{}: {e}", folder.display()))
}

fn write_into(folder: &Path) -> Result {
    remove(folder)?;
    let mut test = command("", "cargo", &["test", "--quiet"]);
    test.args(SETTINGS).args(["--test", "types"]);
    test.env("ZOLVIK_TYPES", folder);
    run(test)
}

fn remove(folder: &Path) -> Result {
    if folder.exists() {
        std::fs::remove_dir_all(folder).map_err(|e| format!("{}: {e}", folder.display()))?;
    }
    Ok(())
}
