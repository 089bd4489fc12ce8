//! The command line. Whatever cannot be done is said in one line, with exit code 2.

use std::collections::HashMap;
use std::io::{Read, Seek};
use std::net::{Ipv4Addr, SocketAddr};
use std::path::{Path, PathBuf};
use std::process::ExitCode;
use std::time::Duration;

use clap::{Parser, Subcommand};
use zolvik_engine::program::prepare_with;
use zolvik_files::bundle;
use zolvik_lab::batch::{Batch, What};
use zolvik_lab::render::{Phrased, render_for_file, render_phrase};
use zolvik_lab::{Note, Rendered};
use zolvik_patch::catalogue::param;
use zolvik_patch::document::Audition;
use zolvik_patch::hearing::Listening;
use zolvik_patch::param::ParamId;
use zolvik_patch::playing::differing;
use zolvik_patch::{Patch, json, text};
use zolvik_store::Store;

use crate::clips::StoredClips;
use crate::renders::{Format, RenderError, Work, Written};
use crate::router::router;
use crate::serve::{asked_to_stop, serve as serve_connections};
use crate::state::{App, RENDER_PATIENCE};
use crate::{atomic, demo};

/// Longest file that is rendered, in seconds.
const MAX_LENGTH_S: f64 = 600.0;
/// Shortest.
const MIN_LENGTH_S: f64 = 0.01;
/// How often it is looked whether the backup of the day is due.
const BACKUP_EVERY: Duration = Duration::from_secs(1800);
/// How long work on disk may take once the server has ended.
const LAST_WORK: Duration = Duration::from_millis(400);

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
        /// Most megabytes of all backups together; the newest good one is kept whatever its size.
        #[arg(long, default_value_t = zolvik_store::MOST_BYTES / 1_000_000)]
        backups_mb: u64,
        /// Seconds until a render that nobody follows any more is stopped.
        #[arg(long, default_value_t = RENDER_PATIENCE.as_secs())]
        render_patience: u64,
    },
    /// Renders a note, the phrase or a set of keys of a patch file or bundle, as WAV or FLAC.
    Render {
        /// The patch file.
        patch: PathBuf,
        /// Note, such as C3; the patch's own auditioned note without it.
        #[arg(long)]
        note: Option<String>,
        /// 1 to 127.
        #[arg(long, value_parser = clap::value_parser!(u8).range(1..=127))]
        velocity: Option<u8>,
        /// Where the modulation wheel stands, 0 to 127; as the patch says without it.
        #[arg(long, conflicts_with_all = ["phrase", "set"], value_parser = clap::value_parser!(u8).range(0..=127))]
        wheel: Option<u8>,
        /// Pressure on the keys, 0 to 127.
        #[arg(long, conflicts_with_all = ["phrase", "set"], value_parser = clap::value_parser!(u8).range(0..=127))]
        pressure: Option<u8>,
        /// Where the expression pedal stands, 0 to 127.
        #[arg(long, conflicts_with_all = ["phrase", "set"], value_parser = clap::value_parser!(u8).range(0..=127))]
        expression: Option<u8>,
        /// Where the sustain pedal stands, for what it moves, 0 to 127.
        #[arg(long, conflicts_with_all = ["phrase", "set"], value_parser = clap::value_parser!(u8).range(0..=127))]
        pedal: Option<u8>,
        /// Where the pitch bend stands, such as 100% or -50%.
        #[arg(long, conflicts_with_all = ["phrase", "set"], allow_hyphen_values = true)]
        bend: Option<String>,
        /// Time until it is let go, such as 1.2 or "300 ms".
        #[arg(long)]
        hold: Option<String>,
        /// Length of the file in seconds, 0.01 to 600; until it has sounded out without it.
        #[arg(long, value_parser = length_s)]
        length: Option<f64>,
        /// Sample rate in hertz.
        #[arg(long, default_value_t = 48_000, value_parser = clap::value_parser!(u32).range(8_000..=192_000))]
        rate: u32,
        /// 16, 24 or, of WAV, 32 (float).
        #[arg(long, default_value_t = 24)]
        bits: u32,
        /// The articulation by its name, "base" for the base; the one the file was saved with without it.
        #[arg(long)]
        articulation: Option<String>,
        /// Renders the patch's phrase instead of a note.
        #[arg(long, conflicts_with_all = ["note", "velocity", "hold", "set"])]
        phrase: bool,
        /// With the phrase, the beat too.
        #[arg(long, requires = "phrase")]
        beat: bool,
        /// Renders a set of keys: from, to and semitones in between, such as C1:C6:3.
        #[arg(long, conflicts_with_all = ["note", "hold", "length"])]
        set: Option<String>,
        /// Velocities of the set, such as 40,80,120.
        #[arg(long, requires = "set", value_delimiter = ',', default_value = "100")]
        velocities: Vec<u8>,
        /// In the base and in every articulation.
        #[arg(long, requires = "set", conflicts_with = "articulation")]
        all_articulations: bool,
        /// The file to write, WAV or FLAC by its ending; of a set the folder.
        #[arg(long)]
        out: PathBuf,
    },
    /// Works on a library while it is not served.
    Library {
        /// Folder of the database.
        #[arg(long, default_value = "zolvik-data", global = true)]
        data: PathBuf,
        #[command(subcommand)]
        command: LibraryCommand,
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

#[derive(Subcommand)]
enum LibraryCommand {
    /// Looks over everything that is stored and says what is wrong. Changes nothing.
    Check,
    /// Puts a backup in place of the library, which is set aside; without a name lists the backups.
    Restore {
        /// Name of the backup.
        backup: Option<String>,
    },
}

fn length_s(text: &str) -> Result<f64, String> {
    let why = || format!("give a length of {MIN_LENGTH_S} to {MAX_LENGTH_S} seconds");
    let length_s: f64 = text.parse().map_err(|_| why())?;
    match (MIN_LENGTH_S..=MAX_LENGTH_S).contains(&length_s) {
        true => Ok(length_s),
        false => Err(why()),
    }
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
    #[error("{0} found in the library; what can be done stands beside each")]
    Faults(String),
}

/// Runs the command line.
pub fn main() -> ExitCode {
    let result = match Arguments::parse().command {
        Command::Serve {
            data,
            port,
            demo,
            backups_mb,
            render_patience,
        } => serve(&data, port, demo, (backups_mb, render_patience)),
        Command::Render {
            patch,
            note,
            velocity,
            wheel,
            pressure,
            expression,
            pedal,
            bend,
            hold,
            length,
            rate,
            bits,
            articulation,
            phrase,
            beat,
            set,
            velocities,
            all_articulations,
            out,
        } => written_as(&out, set.is_some(), bits, rate).and_then(|written| {
            let (mut patch, clips) = read_any(&patch)?;
            go_to(&mut patch, articulation.as_deref())?;
            if let Some(set) = set {
                let batch = Batch {
                    what: set_of(&set, velocities)?,
                    all_articulations,
                };
                return render_set(patch, clips, &batch, written, &out);
            }
            let sound = match phrase {
                true => phrase_of(&patch, &clips, length, (beat, rate)),
                false => {
                    let wish = Wish {
                        note,
                        velocity,
                        wheel,
                        pressure,
                        expression,
                        pedal,
                        bend,
                        hold,
                        length,
                    };
                    note_of(&patch, &clips, wish, rate)?
                }
            };
            let failed = |problem: String| Failure::File {
                path: out.clone(),
                problem,
            };
            let bytes = written.bytes(&sound, &|| true);
            let bytes = bytes.map_err(|e| failed(e.to_string()))?;
            atomic::write(&out, &bytes).map_err(|e| failed(e.to_string()))
        }),
        Command::Library { data, command } => library_command(&data, command),
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

/// How a file of this name, or those of a set in a folder of this name, are written; refused before anything is rendered.
fn written_as(out: &Path, is_set: bool, bits: u32, rate_hz: u32) -> Result<Written, Failure> {
    let refused = |problem: RenderError| Failure::File {
        path: out.into(),
        problem: problem.to_string(),
    };
    let is_device = out.metadata().is_ok_and(|data| !data.is_file());
    let format = match is_set || is_device {
        true => Format::Wav,
        false => Written::named(out).map_err(refused)?,
    };
    let written = Written {
        format,
        bits,
        rate_hz,
    };
    written.check().map_err(refused)?;
    Ok(written)
}

fn read(path: &Path) -> Result<Patch, Failure> {
    let failed = |problem: String| Failure::File {
        path: path.into(),
        problem,
    };
    let file = std::fs::File::open(path).map_err(|e| failed(e.to_string()))?;
    read_patch(file).map_err(failed)
}

/// Reads a patch file to its end, or as far as one may go: what comes may have none.
fn read_patch(from: impl Read) -> Result<Patch, String> {
    let mut bytes = vec![];
    let most = json::MAX_BYTES as u64;
    let read = from.take(most + 1).read_to_end(&mut bytes);
    read.map_err(|e| e.to_string())?;
    if bytes.len() as u64 > most {
        return Err(format!(
            "this is longer than a patch file; at most {most} bytes are read"
        ));
    }
    json::read_bytes(&bytes).map_err(|e| e.to_string())
}

/// Reads a patch file, or a bundle with its recordings; from a pipe as well.
fn read_any(path: &Path) -> Result<(Patch, StoredClips), Failure> {
    let failed = |problem: String| Failure::File {
        path: path.into(),
        problem,
    };
    let disk = |e: std::io::Error| failed(e.to_string());
    let mut file = std::fs::File::open(path).map_err(disk)?;
    let mut head = vec![];
    file.by_ref().take(4).read_to_end(&mut head).map_err(disk)?;
    if !bundle::is_bundle(&head) {
        let patch = read_patch(head.as_slice().chain(file)).map_err(failed)?;
        return Ok((patch, StoredClips::default()));
    }
    // a bundle is read to and fro
    let mut passing = tempfile::tempfile().map_err(disk)?;
    let most = bundle::MAX_BYTES as u64;
    let mut all = head.as_slice().chain(file).take(most + 1);
    if std::io::copy(&mut all, &mut passing).map_err(disk)? > most {
        return Err(failed(format!(
            "this is longer than a bundle; at most {most} bytes are read"
        )));
    }
    passing.rewind().map_err(disk)?;
    let mut recordings = HashMap::new();
    let read = bundle::read(std::io::BufReader::new(passing), &mut |taken| {
        recordings.insert(taken.sound.content, taken.wav);
        Ok::<(), std::convert::Infallible>(())
    });
    let Ok(patch) = read.map_err(|e| failed(e.to_string()))?;
    Ok((patch, StoredClips::new(&recordings)))
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
            atomic::write(&patch, text.as_bytes()).map_err(|e| Failure::File {
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
    wheel: Option<u8>,
    pressure: Option<u8>,
    expression: Option<u8>,
    pedal: Option<u8>,
    bend: Option<String>,
    hold: Option<String>,
    length: Option<f64>,
}

/// Reads a value typed as on the screen.
fn typed(id: ParamId, text: &str) -> Result<f64, Failure> {
    // bare numbers have the unit of the help: seconds
    text::read(id, text, param(id).max).map_err(|e| Failure::Argument(e.to_string()))
}

/// Goes to an articulation by its name.
fn go_to(patch: &mut Patch, name: Option<&str>) -> Result<(), Failure> {
    let Some(name) = name else { return Ok(()) };
    let list = &patch.playing.articulations;
    let at = match name.eq_ignore_ascii_case("base") {
        true => None,
        false => {
            let found = list.iter().position(|a| a.name.eq_ignore_ascii_case(name));
            let names: Vec<&str> = list.iter().map(|a| a.name.as_str()).collect();
            let why = || {
                format!(
                    "there is no articulation {name}; there are: base, {}",
                    names.join(", ")
                )
            };
            Some(found.ok_or_else(|| Failure::Argument(why()))? as u8)
        }
    };
    differing::switch(patch, at);
    Ok(())
}

fn note_of(patch: &Patch, clips: &StoredClips, wish: Wish, rate: u32) -> Result<Rendered, Failure> {
    let mut note = Note::auditioned(patch, rate.into());
    if let Some(name) = &wish.note {
        note.key = typed(Audition::NOTE, name)? as u8;
    }
    if let Some(hold) = &wish.hold {
        note.hold_s = typed(Audition::HOLD_S, hold)?;
    }
    note.velocity = wish.velocity.unwrap_or(note.velocity);
    let place = |of: Option<u8>, now: f32| of.map_or(now, |of| f32::from(of) / 127.0);
    let controls = &mut note.controls;
    controls.wheel = place(wish.wheel, controls.wheel);
    controls.pressure = place(wish.pressure, controls.pressure);
    controls.expression = place(wish.expression, controls.expression);
    controls.pedal = place(wish.pedal, controls.pedal);
    if let Some(bend) = &wish.bend {
        controls.bend = typed(Audition::BEND, bend)?;
    }
    note = match wish.length {
        Some(length_s) => Note { length_s, ..note },
        None => note.to_its_end(patch),
    };
    Ok(render_for_file(patch, &note, clips))
}

fn phrase_of(
    patch: &Patch,
    clips: &StoredClips,
    length_s: Option<f64>,
    (with_beat, rate): (bool, u32),
) -> Rendered {
    let mut how = Phrased {
        with_beat,
        ..Phrased::to_its_end(patch, rate.into())
    };
    how.length_s = length_s.unwrap_or(how.length_s);
    let prepared = prepare_with(&patch.for_files(), &Listening::default(), clips);
    render_phrase(&prepared, patch, &how)
}

/// Keys of a set, such as `C1:C6:3`.
fn set_of(text: &str, velocities: Vec<u8>) -> Result<What, Failure> {
    let why = || {
        Failure::Argument(format!(
            "{text} is no set of keys; give from, to and step such as C1:C6:3"
        ))
    };
    let parts: Vec<&str> = text.split(':').collect();
    let [from, to, every] = parts[..] else {
        return Err(why());
    };
    Ok(What::Set {
        from: typed(Audition::NOTE, from)? as u8,
        to: typed(Audition::NOTE, to)? as u8,
        every: every.parse().map_err(|_| why())?,
        velocities,
    })
}

/// Renders a set into a folder, saying how far it is.
fn render_set(
    patch: Patch,
    clips: StoredClips,
    batch: &Batch,
    written: Written,
    out: &Path,
) -> Result<(), Failure> {
    let failed = |problem: String| Failure::File {
        path: out.into(),
        problem,
    };
    let work = Work::new(patch, clips, batch, written);
    let work = work.map_err(|e| Failure::Argument(e.to_string()))?;
    std::fs::create_dir_all(out).map_err(|e| failed(e.to_string()))?;
    for (n, piece) in work.pieces.iter().enumerate() {
        let rendered = work.render(piece, &|_| true);
        let (name, bytes) = rendered.map_err(|e| failed(e.to_string()))?;
        let path = out.join(&name);
        atomic::write(&path, &bytes).map_err(|e| failed(e.to_string()))?;
        println!("{} of {}: {name}", n + 1, work.pieces.len());
    }
    Ok(())
}

fn library_command(data: &Path, command: LibraryCommand) -> Result<(), Failure> {
    if !data.is_dir() {
        return Err(Failure::File {
            path: data.into(),
            problem: "there is no such folder; name the library's with --data".into(),
        });
    }
    match command {
        LibraryCommand::Check => {
            let report = zolvik_store::check(data)?;
            println!(
                "{} patches, {} versions, {} recordings looked over",
                report.patches, report.versions, report.recordings
            );
            report.faults.iter().for_each(|fault| println!("{fault}"));
            match report.faults.len() {
                0 => println!("everything is whole"),
                1 => return Err(Failure::Faults("1 fault was".into())),
                n => return Err(Failure::Faults(format!("{n} faults were"))),
            }
        }
        LibraryCommand::Restore { backup: None } => {
            let names = zolvik_store::backups(data);
            if names.is_empty() {
                println!("there are no backups in {} yet", data.display());
            }
            names.iter().for_each(|name| println!("{name}"));
            let aside = zolvik_store::set_aside(data);
            aside.iter().for_each(|name| println!("{name}"));
        }
        LibraryCommand::Restore { backup: Some(name) } => {
            let aside = zolvik_store::restore(data, &name, chrono::Utc::now())?;
            println!("{name} is the library now; what was there is in backups/{aside}");
        }
    }
    Ok(())
}

fn serve(
    data: &Path,
    port: u16,
    with_demo: bool,
    (backups_mb, render_patience): (u64, u64),
) -> Result<(), Failure> {
    let store = Store::open(data)?;
    if with_demo {
        let added = demo::seed(&store)?;
        if added > 0 {
            println!("Night Garden: {added} patches added to the library");
        }
    }
    let runtime = tokio::runtime::Runtime::new().map_err(Failure::Server)?;
    let served = runtime.block_on(async {
        let address = SocketAddr::from((Ipv4Addr::LOCALHOST, port));
        let listener = tokio::net::TcpListener::bind(address).await;
        let listener = listener.map_err(|e| Failure::Port {
            port,
            problem: e.to_string(),
        })?;
        let port = listener.local_addr().map_err(Failure::Server)?.port();
        let app = App::new(store)
            .with_render_patience(Duration::from_secs(render_patience))
            .with_backup_bytes(backups_mb.saturating_mul(1_000_000));
        tokio::spawn(back_up(app.clone()));
        // whoever reads the address may ask it to stop at once
        let stop = asked_to_stop();
        println!("Zolvik is at http://127.0.0.1:{port}");
        serve_connections(listener, router(app, port), stop).await;
        Ok(())
    });
    runtime.shutdown_timeout(LAST_WORK);
    served
}

/// Makes a backup on every day the server is used.
async fn back_up(app: App) {
    let most_bytes = app.backup_bytes();
    let mut turns = tokio::time::interval(BACKUP_EVERY);
    loop {
        turns.tick().await;
        if let Err(problem) = app
            .read(move |store| store.backup_if_due(chrono::Utc::now(), most_bytes))
            .await
        {
            eprintln!("zolvik: there is no backup of today: {}", problem.detail);
        }
    }
}
