//! Writes the TypeScript types, into the folder named by `ZOLVIK_TYPES`.
#![cfg(feature = "types")]

use ts_rs::{Config, TS};
use zolvik_server::{api, problem};

#[test]
fn write_types() {
    let Ok(folder) = std::env::var("ZOLVIK_TYPES") else {
        return;
    };
    let config = Config::default()
        .with_out_dir(folder)
        .with_large_int("number");
    api::PatchFull::export_all(&config).expect("the folder can be written");
    api::NewPatch::export_all(&config).expect("the folder can be written");
    api::SavePatch::export_all(&config).expect("the folder can be written");
    api::Named::export_all(&config).expect("the folder can be written");
    api::VersionFull::export_all(&config).expect("the folder can be written");
    problem::Problem::export_all(&config).expect("the folder can be written");
}
