//! Writes the TypeScript types, into the folder named by `ZOLVIK_TYPES`.
#![cfg(feature = "types")]

use ts_rs::{Config, TS};
use zolvik_browser::protocol::{Answer, Question, Task};

#[test]
fn write_types() {
    let Ok(folder) = std::env::var("ZOLVIK_TYPES") else {
        return;
    };
    let config = Config::default()
        .with_out_dir(folder)
        .with_large_int("number");
    Question::export_all(&config).expect("the folder can be written");
    Task::export_all(&config).expect("the folder can be written");
    Answer::export_all(&config).expect("the folder can be written");
}
