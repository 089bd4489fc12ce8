//! All checks, in the order in which they fail fastest.

use crate::run::{Result, command, run};
use crate::{build, setup, types};

/// Format, lints, types, and every test.
pub fn test() -> Result {
    setup::all()?;
    run(command("", "cargo", &["fmt", "--all", "--check"]))?;
    build::module()?;
    run(command("web", "npm", &["run", "--silent", "check"]))?;
    run(command("web", "npm", &["run", "--silent", "lint"]))?;
    build::quick()?;
    run(command(
        "",
        "cargo",
        &[
            "clippy",
            "--quiet",
            "--workspace",
            "--all-targets",
            "--",
            "-D",
            "warnings",
        ],
    ))?;
    types::check()?;
    run(command(
        "",
        "cargo",
        &["test", "--workspace", "--no-fail-fast"],
    ))
}
