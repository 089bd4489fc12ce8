//! What the command line takes.

use crate::state::RENDER_PATIENCE;
use clap::{Parser, Subcommand};
use std::path::PathBuf;

/// Longest file that is rendered, in seconds.
pub(super) const MAX_LENGTH_S: f64 = 600.0;

/// Shortest.
pub(super) const MIN_LENGTH_S: f64 = 0.01;

#[derive(Parser)]
#[command(
    name = "zolvik",
    version,
    about = "Builds frequency- and phase-modulation sounds"
)]
pub(super) struct Arguments {
    #[command(subcommand)]
    pub(super) command: Command,
}

#[derive(Subcommand)]
pub(super) enum Command {
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
pub(super) enum PatchCommand {
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
pub(super) enum LibraryCommand {
    /// Looks over everything that is stored and says what is wrong. Changes nothing.
    Check,
    /// Puts a backup in place of the library, which is set aside; without a name lists the backups.
    Restore {
        /// Name of the backup.
        backup: Option<String>,
    },
}

pub(super) fn length_s(text: &str) -> Result<f64, String> {
    let why = || format!("give a length of {MIN_LENGTH_S} to {MAX_LENGTH_S} seconds");
    let length_s: f64 = text.parse().map_err(|_| why())?;
    match (MIN_LENGTH_S..=MAX_LENGTH_S).contains(&length_s) {
        true => Ok(length_s),
        false => Err(why()),
    }
}
