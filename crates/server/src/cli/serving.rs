//! Serving, and what is done to a library.

use super::arguments::LibraryCommand;
use super::failure::Failure;
use crate::demo;
use crate::router::router;
use crate::serve::{asked_to_stop, serve as serve_connections};
use crate::state::App;
use std::net::{Ipv4Addr, SocketAddr};
use std::path::Path;
use std::time::Duration;
use zolvik_store::Store;

pub(super) fn library_command(data: &Path, command: LibraryCommand) -> Result<(), Failure> {
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

pub(super) fn serve(
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
pub(super) async fn back_up(app: App) {
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

/// How often it is looked whether the backup of the day is due.
pub(super) const BACKUP_EVERY: Duration = Duration::from_secs(1800);

/// How long work on disk may take once the server has ended.
pub(super) const LAST_WORK: Duration = Duration::from_millis(400);
