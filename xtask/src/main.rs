//! `cargo xtask`: set-up, build, demo, tests and pictures. Every command does what it needs first and
//! skips what is up to date, so people and CI run the same.

mod build;
mod demo;
mod lines;
mod listen;
mod measure;
mod plan;
mod run;
mod setup;
mod size;
mod test;
mod types;

use clap::{Parser, Subcommand};

#[derive(Parser)]
#[command(about = "Set-up, build, demo, tests and pictures of Zolvik")]
struct Arguments {
    #[command(subcommand)]
    command: Command,
}

#[derive(Subcommand)]
enum Command {
    /// Installs what is missing: the wasm-capable compiler, Chromium, npm packages.
    Setup,
    /// Builds the browser module only.
    Module,
    /// Prints what the browser module is made of, by crate.
    Size,
    /// Builds browser module, front end and the release binary.
    Build,
    /// Builds and starts the application with the demo collection.
    Demo {
        /// Port on this machine.
        #[arg(long, default_value_t = 7330)]
        port: u16,
    },
    /// Format, clippy, type check, lint and all tests.
    Test,
    /// Measures what is not part of the tests.
    Measure {
        #[command(subcommand)]
        what: measure::Measure,
    },
    /// Counts the lines, tests apart.
    Lines,
    /// Makes the pictures in docs/screenshots from the demo collection.
    Shots,
    /// Writes the TypeScript types generated from Rust.
    Types,
}

fn main() {
    let result = match Arguments::parse().command {
        Command::Setup => setup::all(),
        Command::Module => build::module(),
        Command::Size => build::size(),
        Command::Build => build::release(),
        Command::Demo { port } => demo::demo(port),
        Command::Test => test::test(),
        Command::Measure { what } => measure::measure(&what),
        Command::Lines => lines::count(),
        Command::Shots => demo::shots(),
        Command::Types => types::write(),
    };
    if let Err(error) = result {
        eprintln!("xtask: {error}");
        std::process::exit(1);
    }
}
