//! TypeScript types from Rust.

use std::path::Path;

use crate::run::{Result, SETTINGS, command, root, run};

const FOLDER: &str = "web/src/engine/generated";

/// Writes them into the front end.
pub fn write() -> Result {
    write_into(&root().join(FOLDER))
}

fn write_into(folder: &Path) -> Result {
    // types that are gone must not stay
    if folder.exists() {
        std::fs::remove_dir_all(folder).map_err(|e| format!("{}: {e}", folder.display()))?;
    }
    let mut test = command("", "cargo", &["test", "--quiet"]);
    test.args(SETTINGS).args(["--test", "types"]);
    test.env("ZOLVIK_TYPES", folder);
    run(test)
}
