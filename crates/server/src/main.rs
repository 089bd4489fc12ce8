//! The `zolvik` binary.

fn main() -> std::process::ExitCode {
    zolvik_server::cli::main()
}
