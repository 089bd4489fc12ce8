//! The command line. Whatever cannot be done is said in one line, with exit code 2.

use std::io::Read;
use std::net::{Ipv4Addr, SocketAddr};
use std::path::{Path, PathBuf};
use std::process::ExitCode;

use clap::{Parser, Subcommand};
use zolvik_files::bundle;
use zolvik_files::wav;
use zolvik_lab::Note;
use zolvik_lab::render::render_for_file;
use zolvik_patch::catalogue::ParamId;
use zolvik_patch::{Patch, json, text};
use zolvik_store::Store;

use crate::app::{App, router};
use crate::demo;
use crate::sounds::StoredClips;

#[derive(Parser)]
#[command(
    name = "zolvik",
    version,
    about = "Builds frequency- and phase-modulation sounds"
)]
struct Arguments {
    #[command(subcommand)]
    command: Command,
}

#[derive(Subcommand)]
enum Command {
    /// Serves the application on this machine.
    Serve {
        /// Folder of the database; made if it is not there.
        #[arg(long, default_value = "zolvik-data")]
        data: PathBuf,
        /// Port on 127.0.0.1; 0 takes any free one.
        #[arg(long, default_value_t = 7330)]
        port: u16,
        /// Puts the demo collection into an empty library.
        #[arg(long)]
        demo: bool,
    },
    /// Renders one note of a patch file or bundle as WAV.
    Render {
        /// The patch file.
        patch: PathBuf,
        /// Note, such as C3; the patch's own auditioned note without it.
        #[arg(long)]
        note: Option<String>,
        /// 1 to 127.
        #[arg(long, value_parser = clap::value_parser!(u8).range(1..=127))]
        velocity: Option<u8>,
        /// Time until it is let go, such as 1.2 or "300 ms".
        #[arg(long)]
        hold: Option<String>,
        /// Length of the file in seconds; until it has sounded out without it.
        #[arg(long)]
        length: Option<f64>,
        /// Sample rate in hertz.
        #[arg(long, default_value_t = 48_000, value_parser = clap::value_parser!(u32).range(8_000..=192_000))]
        rate: u32,
        /// 16, 24 or 32 (float).
        #[arg(long, default_value_t = 24)]
        bits: u32,
        /// The WAV file to write.
        #[arg(long)]
        out: PathBuf,
    },
    /// Works on patch files.
    Patch {
        #[command(subcommand)]
        command: PatchCommand,
    },
}

#[derive(Subcommand)]
enum PatchCommand {
    /// Says whether a file is a valid patch, and if not, where it is wrong.
    Check {
        /// The patch file.
        patch: PathBuf,
    },
    /// Rewrites a file in the newest format.
    Migrate {
        /// The patch file.
        patch: PathBuf,
    },
    /// Prints the JSON Schema of the patch file.
    Schema,
}

/// Why a command failed, in one line.
#[derive(Debug, thiserror::Error)]
enum Failure {
    #[error("{}: {problem}", path.display())]
    File { path: PathBuf, problem: String },
    #[error("{0}")]
    Argument(String),
    #[error(transparent)]
    Store(#[from] zolvik_store::StoreError),
    #[error("port {port} on 127.0.0.1 cannot be used ({problem}); choose another with --port")]
    Port { port: u16, problem: String },
    #[error("the server stopped: {0}")]
    Server(std::io::Error),
}

/// Runs the command line.
pub fn main() -> ExitCode {
    let result = match Arguments::parse().command {
        Command::Serve { data, port, demo } => serve(&data, port, demo),
        Command::Render {
            patch,
            note,
            velocity,
            hold,
            length,
            rate,
            bits,
            out,
        } => read_any(&patch).and_then(|(patch, clips)| {
            render_to(
                &patch,
                &clips,
                Wish {
                    note,
                    velocity,
                    hold,
                    length,
                    rate,
                    bits,
                },
                &out,
            )
        }),
        Command::Patch { command } => patch_command(command),
    };
    match result {
        Ok(()) => ExitCode::SUCCESS,
        Err(failure) => {
            eprintln!("zolvik: {failure}");
            ExitCode::from(2)
        }
    }
}

fn read(path: &Path) -> Result<Patch, Failure> {
    let failed = |problem: String| Failure::File {
        path: path.into(),
        problem,
    };
    let size = path.metadata().map_err(|e| failed(e.to_string()))?.len();
    if size > json::MAX_BYTES as u64 {
        return Err(failed(format!(
            "{size} bytes are too many for a patch file; at most {} are read",
            json::MAX_BYTES
        )));
    }
    let text = std::fs::read_to_string(path).map_err(|e| failed(e.to_string()))?;
    json::read(&text).map_err(|e| failed(e.to_string()))
}

/// Reads a patch file, or a bundle with its recordings.
fn read_any(path: &Path) -> Result<(Patch, StoredClips), Failure> {
    let failed = |problem: String| Failure::File {
        path: path.into(),
        problem,
    };
    let mut head = [0; 4];
    let file = std::fs::File::open(path);
    let looked = file.and_then(|mut file| file.read(&mut head));
    looked.map_err(|e| failed(e.to_string()))?;
    if !bundle::is_bundle(&head) {
        return Ok((read(path)?, StoredClips::default()));
    }
    let size = path.metadata().map_err(|e| failed(e.to_string()))?.len();
    if size > bundle::MAX_BYTES as u64 {
        return Err(failed(format!("{size} bytes are too many for a bundle")));
    }
    let bytes = std::fs::read(path).map_err(|e| failed(e.to_string()))?;
    let bundle = bundle::read(&bytes).map_err(|e| failed(e.to_string()))?;
    Ok((bundle.patch, StoredClips::new(&bundle.recordings)))
}

fn patch_command(command: PatchCommand) -> Result<(), Failure> {
    match command {
        PatchCommand::Check { patch } => {
            let read = read(&patch)?;
            println!(
                "{}: valid, {} strips, {} routes",
                patch.display(),
                read.units.len(),
                read.routes.len()
            );
        }
        PatchCommand::Migrate { patch } => {
            let text = json::write(&read(&patch)?);
            std::fs::write(&patch, text).map_err(|e| Failure::File {
                path: patch,
                problem: e.to_string(),
            })?;
        }
        PatchCommand::Schema => println!("{:#}", json::schema()),
    }
    Ok(())
}

struct Wish {
    note: Option<String>,
    velocity: Option<u8>,
    hold: Option<String>,
    length: Option<f64>,
    rate: u32,
    bits: u32,
}

fn render_to(patch: &Patch, clips: &StoredClips, wish: Wish, out: &Path) -> Result<(), Failure> {
    let rate_hz = f64::from(wish.rate);
    let mut note = Note::auditioned(patch, rate_hz);
    let typed =
        |id, text: &str| text::read(id, text, 0.0).map_err(|e| Failure::Argument(e.to_string()));
    if let Some(name) = &wish.note {
        note.key = typed(ParamId::AuditionNote, name)? as u8;
    }
    if let Some(hold) = &wish.hold {
        note.hold_s = typed(ParamId::AuditionHoldS, hold)?;
    }
    note.velocity = wish.velocity.unwrap_or(note.velocity);
    note = match wish.length {
        Some(length_s) => Note { length_s, ..note },
        None => note.to_its_end(patch),
    };
    let depth = wav::Depth::try_from(wish.bits).map_err(|e| Failure::Argument(e.to_string()))?;
    let sound = render_for_file(patch, &note, clips);
    let failed = |problem: String| Failure::File {
        path: out.into(),
        problem,
    };
    let bytes = wav::write(&sound.left, &sound.right, wish.rate, depth)
        .map_err(|e| failed(e.to_string()))?;
    std::fs::write(out, bytes).map_err(|e| failed(e.to_string()))
}

fn serve(data: &Path, port: u16, with_demo: bool) -> Result<(), Failure> {
    let mut store = Store::open(data)?;
    if with_demo {
        let added = demo::seed(&mut store)?;
        if added > 0 {
            println!("Night Garden: {added} patches added to the library");
        }
    }
    let runtime = tokio::runtime::Runtime::new().map_err(Failure::Server)?;
    runtime.block_on(async {
        let address = SocketAddr::from((Ipv4Addr::LOCALHOST, port));
        let listener = tokio::net::TcpListener::bind(address).await;
        let listener = listener.map_err(|e| Failure::Port {
            port,
            problem: e.to_string(),
        })?;
        let port = listener.local_addr().map_err(Failure::Server)?.port();
        println!("Zolvik is at http://127.0.0.1:{port}");
        let stop = async {
            // without a signal handler the server simply runs on
            let _ = tokio::signal::ctrl_c().await;
        };
        axum::serve(listener, router(App::new(store), port))
            .with_graceful_shutdown(stop)
            .await
            .map_err(Failure::Server)
    })
}
