//! All checks, in the order in which they fail fastest.

use crate::plan::{self, Lane, step};
use crate::run::{Result, SETTINGS, command, run};
use crate::{build, setup};

fn format() -> Result {
    run(command("", "cargo", &["fmt", "--all", "--check"]))
}

fn front_end() -> Result {
    run(command("web", "npm", &["run", "--silent", "check"]))?;
    run(command("web", "npm", &["run", "--silent", "lint"]))
}

/// The compiler that lints what it builds, so that nothing is looked at twice: of what others wrote a check alone takes minutes.
fn linted(rest: &[&str]) -> Result {
    let mut cargo = command("", "cargo", &["test"]);
    cargo.args(SETTINGS).args(rest);
    cargo
        .env("RUSTC_WORKSPACE_WRAPPER", "clippy-driver")
        .env("CLIPPY_ARGS", DENY_WARNINGS);
    run(cargo)
}

/// `-D warnings`, as `cargo clippy` hands it on.
const DENY_WARNINGS: &str = "-D__CLIPPY_HACKERY__warnings__CLIPPY_HACKERY__";

fn tests_built() -> Result {
    build::dist()?;
    linted(&["--quiet", "--no-run"])
}

fn tests() -> Result {
    linted(&["--no-fail-fast"])
}

/// Format, lints, types, and every test.
pub fn test() -> Result {
    const BEGIN: Lane<'_> = &[step("format", 2, format)];
    const NATIVE: Lane<'_> = &[step("tests linted and built", 300, tests_built)];
    const BROWSER: Lane<'_> = &[step("browser for the stories", 40, setup::browser)];
    const PAGE: Lane<'_> = &[step("checks of the front end", 15, front_end)];
    const TESTS: Lane<'_> = &[step("tests", 600, tests)];
    plan::run(&[
        &[BEGIN],
        &[BROWSER],
        &[build::PAGE, NATIVE],
        &[PAGE],
        &[TESTS],
    ])
}
