//! The demo and the pictures made from it.

use std::process::Command;

use crate::run::{Result, SETTINGS, command, root, run};
use crate::{build, setup};

/// Starts the application with the demo collection in its own data folder.
pub fn demo(port: u16) -> Result {
    let binary = build::quick()?;
    let mut serve = Command::new(binary);
    serve.current_dir(root()).args([
        "serve",
        "--demo",
        "--data",
        "demo/data",
        "--port",
        &port.to_string(),
    ]);
    run(serve)
}

/// One picture of each main view.
pub fn shots() -> Result {
    setup::browser()?;
    build::quick()?;
    let mut shots = command("", "cargo", &["test"]);
    shots.args(SETTINGS).args(["--test", "shots"]);
    shots.args(["--", "--ignored", "--nocapture"]);
    shots.env("ZOLVIK_SHOTS", root().join("docs/screenshots"));
    run(shots)
}
