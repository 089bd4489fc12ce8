//! Running commands and asking what is up to date.

use std::path::{Path, PathBuf};
use std::process::Command;
use std::sync::LazyLock;
use std::time::SystemTime;

/// What went wrong, in one line.
pub type Result<T = ()> = std::result::Result<T, String>;

/// The one set of settings everything native is built with, so that nothing is built twice.
pub const SETTINGS: [&str; 3] = [
    "--workspace",
    "--features",
    "zolvik-browser/types,zolvik-server/types,zolvik-patch/testing",
];

/// The project's root.
pub fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR"))
        .parent()
        .map_or_else(PathBuf::new, Path::to_path_buf)
}

/// Whether nothing was built here before this command.
fn is_from_nothing() -> bool {
    static FRESH: LazyLock<bool> = LazyLock::new(|| !root().join("target/debug/zolvik").exists());
    *FRESH
}

/// A command in a folder of the project.
pub fn command(folder: &str, program: &str, arguments: &[&str]) -> Command {
    let mut command = Command::new(program);
    command.current_dir(root().join(folder)).args(arguments);
    if program == "cargo" && is_from_nothing() {
        // what would make the next build quicker takes an eighth of the time of the first
        command.env("CARGO_INCREMENTAL", "0");
    }
    command
}

/// Runs a command to its end, showing what it prints.
pub fn run(mut command: Command) -> Result {
    println!("xtask: {}", describe(&command));
    let status = command
        .status()
        .map_err(|e| format!("{} cannot be started: {e}", describe(&command)))?;
    if status.success() {
        Ok(())
    } else {
        Err(format!("{} failed ({status})", describe(&command)))
    }
}

/// A command as one types it.
pub fn describe(command: &Command) -> String {
    let words = std::iter::once(command.get_program()).chain(command.get_args());
    words
        .map(|w| w.to_string_lossy())
        .collect::<Vec<_>>()
        .join(" ")
}

/// Whether a program is there.
pub fn has(program: &str) -> bool {
    Path::new(program).exists()
}

/// Whether `product` is there and newer than every file below `sources` (folders or files of the project).
pub fn is_fresh(product: &Path, sources: &[&str]) -> bool {
    let Some(made) = modified(product) else {
        return false;
    };
    sources
        .iter()
        .all(|source| newest(&root().join(source)).is_none_or(|changed| changed <= made))
}

fn modified(path: &Path) -> Option<SystemTime> {
    path.metadata().ok()?.modified().ok()
}

fn newest(path: &Path) -> Option<SystemTime> {
    if path.is_file() {
        return modified(path);
    }
    let entries = std::fs::read_dir(path).ok()?;
    entries
        .flatten()
        .filter_map(|entry| newest(&entry.path()))
        .max()
}
