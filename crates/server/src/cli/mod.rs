//! The command line. Whatever cannot be done is said in one line, with exit code 2.

mod arguments;
mod failure;
mod reading;
mod rendering;
mod serving;

use self::arguments::{Arguments, Command, PatchCommand};
use self::failure::Failure;
use self::reading::{read, read_any};
use self::rendering::{Wish, go_to, note_of, phrase_of, render_set, set_of, written_as};
use self::serving::{library_command, serve};
use std::process::ExitCode;

use clap::Parser;
use zolvik_lab::batch::Batch;
use zolvik_patch::json;

use crate::atomic;

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
