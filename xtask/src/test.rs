//! All checks, in the order in which they fail fastest.

use crate::plan::{self, Lane, step};
use crate::run::{Result, SETTINGS, command, run};
use crate::{build, setup};

fn cargo(verb: &str, settings: &[&str], rest: &[&str]) -> Result {
    let mut cargo = command("", "cargo", &[verb]);
    cargo.args(settings).args(rest);
    run(cargo)
}

fn format() -> Result {
    cargo("fmt", &[], &["--all", "--check"])
}

fn front_end() -> Result {
    run(command("web", "npm", &["run", "--silent", "check"]))?;
    run(command("web", "npm", &["run", "--silent", "lint"]))
}

fn lints() -> Result {
    build::dist()?;
    cargo(
        "clippy",
        &SETTINGS,
        &["--quiet", "--all-targets", "--", "-D", "warnings"],
    )
}

fn tests_built() -> Result {
    cargo("test", &SETTINGS, &["--quiet", "--no-run"])
}

fn tests() -> Result {
    cargo("test", &SETTINGS, &["--no-fail-fast"])
}

/// Format, lints, types, and every test.
pub fn test() -> Result {
    const BEGIN: Lane<'_> = &[step("format", 2, format)];
    const NATIVE: Lane<'_> = &[
        step("lints", 150, lints),
        step("tests built", 280, tests_built),
    ];
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
