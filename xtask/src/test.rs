//! All checks, in the order in which they fail fastest.

use std::process::Command;

use crate::listen::run_tests;
use crate::plan::{self, Lane, Step, step};
use crate::run::{Result, SETTINGS, command, run};
use crate::{build, setup};

fn format() -> Result {
    run(command("", "cargo", &["fmt", "--all", "--check"]))
}

fn front_end() -> Result {
    run(command("web", "npm", &["run", "--silent", "check"]))?;
    run(command("web", "npm", &["run", "--silent", "lint"]))?;
    run(command("web", "npm", &["run", "--silent", "test"]))
}

/// The compiler that lints what it builds, so that nothing is looked at twice: of what others wrote a check alone takes minutes.
fn linted(rest: &[&str]) -> Command {
    let mut cargo = command("", "cargo", &["test"]);
    cargo.args(SETTINGS).args(rest);
    cargo
        .env("RUSTC_WORKSPACE_WRAPPER", "clippy-driver")
        .env("CLIPPY_ARGS", DENY_WARNINGS);
    cargo
}

/// `-D warnings`, as `cargo clippy` hands it on.
const DENY_WARNINGS: &str = "-D__CLIPPY_HACKERY__warnings__CLIPPY_HACKERY__";

fn tests_built() -> Result {
    build::dist()?;
    run(linted(&["--quiet", "--no-run"]))
}

fn tests() -> Result {
    // those that were built, no more: `--lib` would build libraries as tests that have none
    let mut cargo = linted(&["--no-fail-fast", "--tests"]);
    // how long each test took is told only by those that may use what is not stable
    cargo.args([
        "--config",
        RUNNER,
        "--",
        "-Z",
        "unstable-options",
        "--report-time",
    ]);
    let tested = run_tests(cargo);
    run(linted(&["--quiet", "--doc"]))?;
    tested
}

/// What starts the programs of tests.
const RUNNER: &str = "target.'cfg(all())'.runner = ['env', 'RUSTC_BOOTSTRAP=1']";

/// Format, lints, types, and every test.
pub fn test() -> Result {
    const BEGIN: Lane<'_> = &[step("format", 2, format)];
    const NATIVE: Lane<'_> = &[step("tests linted and built", 480, tests_built)];
    const BROWSER: Lane<'_> = &[step("browser for the stories", 40, setup::browser)];
    // while the tests are still being built
    const CHECKS: [Step; 1] = [step("checks of the front end", 40, front_end)];
    let page = [build::PAGE, &CHECKS].concat();
    const TESTS: Lane<'_> = &[step("tests", 1000, tests)];
    plan::run(&[&[BEGIN], &[BROWSER], &[&page, NATIVE], &[TESTS]])
}
