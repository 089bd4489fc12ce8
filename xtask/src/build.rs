//! The browser module, the front end and the binary.

use std::path::PathBuf;

use crate::plan::{self, Lane, step};
use crate::run::{Result, SETTINGS, command, is_fresh, root, run};
use crate::{setup, size};

/// What the browser module is made of.
const MODULE_SOURCES: [&str; 14] = [
    "xtask/src/build.rs",
    "crates/json/src",
    "crates/patch/src",
    "crates/edit/src",
    "crates/layout/src",
    "crates/waves/src",
    "crates/effects/src",
    "crates/engine/src",
    "crates/play/src",
    "crates/lab/src",
    "crates/files/src",
    "crates/browser/src",
    "Cargo.toml",
    "Cargo.lock",
];
/// What the front end is made of.
const PAGE_SOURCES: [&str; 9] = [
    "web/src",
    "docs/guide",
    "web/public",
    "web/module",
    "web/index.html",
    "web/package-lock.json",
    "web/vite.config.ts",
    "web/tsconfig.json",
    "web/eslint.config.js",
];

/// The wasm module, into `web/module`.
pub fn module() -> Result {
    setup::wasm_compiler()?;
    let product = root().join("web/module/engine.wasm");
    if is_fresh(&product, &MODULE_SOURCES) {
        return Ok(());
    }
    let mut build = command(
        "",
        "cargo",
        &[
            "rustc",
            "--package",
            "zolvik-browser",
            "--lib",
            // not the library for tests beside it: what it leans on would be compiled twice, for that and for the whole
            "--crate-type",
            "cdylib",
            "--target",
            "wasm32-unknown-unknown",
            "--profile",
            "wasm",
        ],
    );
    build.env("CARGO_TARGET_DIR", root().join("target-wasm"));
    // set by the outer cargo for the host; it must not reach the inner one
    build.env_remove("CARGO").env_remove("RUSTUP_TOOLCHAIN");
    let mut flags = "-C target-feature=+simd128 -C link-arg=-zstack-size=4194304".to_owned();
    if !setup::own_wasm_target() {
        // a panic just traps: without its words and places the module is smaller and names no paths
        flags += &format!(
            " -Zlocation-detail=none -Zunstable-options -Cpanic=immediate-abort -C linker={}",
            linker()?.display()
        );
        build
            .args([
                "-Zbuild-std=std,panic_abort",
                "-Zbuild-std-features=optimize_for_size",
            ])
            .env("RUSTC", "/usr/bin/rustc")
            .env("RUSTC_BOOTSTRAP", "1");
    }
    build.env("RUSTFLAGS", flags);
    run(build)?;
    std::fs::create_dir_all(root().join("web/module"))
        .map_err(|e| format!("web/module cannot be made: {e}"))?;
    let bare = size::without_names(&built()?)?;
    std::fs::write(&product, &bare).map_err(|e| format!("the module cannot be written: {e}"))?;
    println!("xtask: browser module: {} KB", bare.len() / 1024);
    Ok(())
}

/// The module as it was built, with the names of its functions.
fn built() -> Result<Vec<u8>> {
    let path = root().join("target-wasm/wasm32-unknown-unknown/wasm/zolvik_browser.wasm");
    std::fs::read(&path).map_err(|e| format!("{} cannot be read: {e}", path.display()))
}

/// What the module is made of.
pub fn size() -> Result {
    module()?;
    size::report(&built()?)
}

/// The toolchain's own linker for wasm.
fn linker() -> Result<PathBuf> {
    let out = command("", "rustc", &["--print", "target-libdir"])
        .output()
        .map_err(|e| format!("rustc: {e}"))?;
    let libraries = PathBuf::from(String::from_utf8_lossy(&out.stdout).trim());
    let linker = libraries.with_file_name("bin").join("rust-lld");
    if linker.exists() {
        Ok(linker)
    } else {
        Err("the toolchain has no rust-lld; install the rustup component llvm-tools".into())
    }
}

/// The front end, into `web/dist`; the module must be there.
pub fn page() -> Result {
    if is_fresh(&root().join("web/dist/index.html"), &PAGE_SOURCES) {
        return Ok(());
    }
    run(command("web", "npm", &["run", "--silent", "build"]))
}

/// The folder the binary takes the front end from; it must be there before that is built.
pub fn dist() -> Result {
    std::fs::create_dir_all(root().join("web/dist"))
        .map_err(|e| format!("web/dist cannot be made: {e}"))
}

/// The binary, quickly built.
fn binary() -> Result {
    dist()?;
    let mut build = command("", "cargo", &["build", "--quiet"]);
    build.args(SETTINGS).args(["--bin", "zolvik"]);
    run(build)
}

/// The binary as a release; the front end becomes part of it.
fn release_binary() -> Result {
    run(command(
        "",
        "cargo",
        &["build", "--release", "--package", "zolvik-server"],
    ))
}

/// What leads to the front end.
pub const PAGE: Lane<'_> = &[
    step("compiler for the browser module", 20, setup::wasm_compiler),
    step("browser module", 110, module),
    step("packages of the front end", 15, setup::npm_packages),
    step("front end", 5, page),
];

/// Everything, as a release.
pub fn release() -> Result {
    let last = [step("release", 240, release_binary)];
    plan::run(&[&[PAGE], &[&last]])?;
    println!("xtask: target/release/zolvik is ready");
    Ok(())
}

/// Everything, quickly built; gives the binary.
pub fn quick() -> Result<PathBuf> {
    // the binary reads the front end from the disk, so both are made side by side
    let server = [step("server", 130, binary)];
    plan::run(&[&[PAGE, &server]])?;
    Ok(root().join("target/debug/zolvik"))
}
