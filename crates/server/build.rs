//! The front end is embedded from `web/dist`. The folder must be there for the binary to look into it, and a
//! new front end must be embedded anew.

fn main() {
    let dist = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../web/dist");
    // without a front end the server still builds, and says that it has none
    if let Err(error) = std::fs::create_dir_all(&dist) {
        println!("cargo:warning=web/dist cannot be made: {error}");
    }
    println!("cargo:rerun-if-changed={}", dist.display());
}
