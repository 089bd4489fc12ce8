//! Writes the TypeScript types, into the folder named by `ZOLVIK_TYPES`.
#![cfg(feature = "types")]

use ts_rs::{Config, TS};
use zolvik_server::api::types;
use zolvik_server::problem;

#[test]
fn write_types() {
    let Ok(folder) = std::env::var("ZOLVIK_TYPES") else {
        return;
    };
    let config = Config::default()
        .with_out_dir(folder)
        .with_large_int("number");
    types::PatchFull::export_all(&config).expect("the folder can be written");
    types::PatchList::export_all(&config).expect("the folder can be written");
    types::About::export_all(&config).expect("the folder can be written");
    types::Emptied::export_all(&config).expect("the folder can be written");
    types::NewPatch::export_all(&config).expect("the folder can be written");
    types::SavePatch::export_all(&config).expect("the folder can be written");
    types::Named::export_all(&config).expect("the folder can be written");
    types::VersionFull::export_all(&config).expect("the folder can be written");
    problem::Problem::export_all(&config).expect("the folder can be written");
}
