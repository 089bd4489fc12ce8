//! What a fresh machine lacks.

use crate::run::{Result, command, has, is_fresh, root, run};

/// Debian's compiler that knows wasm, with the library source it needs.
const WASM_COMPILER: [&str; 2] = ["rustc-web", "rust-web-src"];
/// The browser the tests and pictures use.
const BROWSER: [&str; 2] = ["chromium", "chromium-driver"];

/// Everything.
pub fn all() -> Result {
    wasm_compiler()?;
    browser()?;
    npm_packages()
}

/// A compiler for wasm: the toolchain's own target where it is installed, else Debian's.
pub fn wasm_compiler() -> Result {
    if own_wasm_target() || has("/usr/bin/rustc") {
        Ok(())
    } else {
        install(&WASM_COMPILER)
    }
}

/// Chromium and ChromeDriver.
pub fn browser() -> Result {
    if has("/usr/bin/chromium") && has("/usr/bin/chromedriver") {
        Ok(())
    } else {
        install(&BROWSER)
    }
}

/// The front end's packages, as the lock file says.
pub fn npm_packages() -> Result {
    let stamp = root().join("web/node_modules/.package-lock.json");
    if is_fresh(&stamp, &["web/package-lock.json"]) {
        return Ok(());
    }
    run(command("web", "npm", &["ci", "--no-audit", "--no-fund"]))
}

/// Whether the toolchain has the wasm target itself.
pub fn own_wasm_target() -> bool {
    let asked = command(
        "",
        "rustc",
        &[
            "--print",
            "target-libdir",
            "--target",
            "wasm32-unknown-unknown",
        ],
    )
    .output();
    asked.is_ok_and(|out| has(String::from_utf8_lossy(&out.stdout).trim()))
}

fn install(packages: &[&str]) -> Result {
    run(command("", "apt-get", &["update", "-qq"]))?;
    let mut install = command(
        "",
        "apt-get",
        &["install", "-y", "-qq", "--no-install-recommends"],
    );
    install
        .args(packages)
        .env("DEBIAN_FRONTEND", "noninteractive");
    run(install)
}
