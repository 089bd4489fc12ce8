//! TypeScript types from Rust.

use std::path::Path;

use crate::run::{Result, command, root, run};

const FOLDER: &str = "web/src/engine/generated";

/// Writes them into the front end.
pub fn write() -> Result {
    write_into(&root().join(FOLDER))
}

/// Fails if the ones in the tree are not what Rust says.
pub fn check() -> Result {
    let fresh = root().join("target/types");
    write_into(&fresh)?;
    let mut diff = command("", "diff", &["-r", "-q"]);
    diff.arg(fresh).arg(FOLDER);
    run(diff).map_err(|_| "the generated types are stale; run cargo xtask types and commit".into())
}

fn write_into(folder: &Path) -> Result {
    // types that are gone must not stay
    if folder.exists() {
        std::fs::remove_dir_all(folder).map_err(|e| format!("{}: {e}", folder.display()))?;
    }
    for package in ["zolvik-browser", "zolvik-server"] {
        let mut test = command(
            "",
            "cargo",
            &[
                "test",
                "--quiet",
                "--package",
                package,
                "--features",
                "types",
                "--test",
                "types",
            ],
        );
        test.env("ZOLVIK_TYPES", folder);
        run(test)?;
    }
    Ok(())
}
