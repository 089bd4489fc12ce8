//! A week of use in little time, and clocks that jump: nothing grows, nothing is lost.

use std::path::Path;

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use zolvik_patch::Patch;
use zolvik_patch::testing::Dice;

use crate::server::{Server, layer};

fn document(name: &str) -> String {
    let mut patch = Patch::empty();
    patch.meta.name = name.into();
    zolvik_patch::json::write(&patch)
}

/// What a process holds: memory in megabytes, open files.
fn held(process: u32) -> (f64, usize) {
    let status = std::fs::read_to_string(format!("/proc/{process}/status")).unwrap();
    let line = status
        .lines()
        .find_map(|l| l.strip_prefix("VmRSS:"))
        .unwrap();
    let kilobytes: f64 = line.trim().trim_end_matches("kB").trim().parse().unwrap();
    let files = std::fs::read_dir(format!("/proc/{process}/fd")).unwrap();
    (kilobytes / 1024.0, files.count())
}

fn bytes_in(folder: &Path) -> u64 {
    let entries = std::fs::read_dir(folder).unwrap().map(|e| e.unwrap());
    let each = entries.map(|entry| match entry.metadata().unwrap() {
        data if data.is_dir() => bytes_in(&entry.path()),
        data => data.len(),
    });
    each.sum()
}

/// What one does in some minutes of a day: saves with their steps, a version, a copy that goes through the bin, a recording, a render, the list.
async fn some_minutes(server: &Server, round: usize, revision: &mut i64, dice: &mut Dice) {
    for _ in 0..4 {
        let body = json!({ "revision": *revision, "document": document(&format!("round {round} {}", dice.below(9))) });
        let (status, saved) = server.ask(Method::PUT, "/api/patches/1", Some(body)).await;
        assert_eq!(status, StatusCode::OK, "{saved}");
        *revision = saved["revision"].as_i64().unwrap();
    }
    let (_, version) = server
        .ask(
            Method::POST,
            "/api/patches/1/versions",
            Some(json!({ "name": "v" })),
        )
        .await;
    let path = format!("/api/patches/1/versions/{}", version["id"]);
    assert_eq!(
        server.ask(Method::DELETE, &path, None).await.0,
        StatusCode::OK
    );
    let (_, copy) = server
        .ask(Method::POST, "/api/patches/1/duplicate", None)
        .await;
    let id = &copy["summary"]["id"];
    server.fetch(&format!("/api/patches/{id}/picture")).await;
    server
        .ask(Method::POST, &format!("/api/patches/{id}/bin"), None)
        .await;
    server.ask(Method::DELETE, "/api/bin", None).await;
    let samples: Vec<f32> = (0..400).map(|n| (n as f32 * 0.1).sin()).collect();
    let wav = zolvik_files::wav::write_mono(&samples, 48_000).unwrap();
    assert_eq!(
        server.send("/api/sounds?name=same", wav).await.0,
        StatusCode::CREATED
    );
    let wish = json!({ "document": document("short"), "format": "wav", "bits": 16, "rate_hz": 8000,
        "batch": { "what": { "of": "note" }, "all_articulations": false } });
    let (_, job) = server.ask(Method::POST, "/api/renders", Some(wish)).await;
    let path = format!("/api/renders/{}", job["id"].as_str().unwrap());
    server.fetch(&format!("{path}/events")).await;
    assert!(
        server
            .fetch(&format!("{path}/file"))
            .await
            .2
            .starts_with(b"RIFF")
    );
    server.ask(Method::DELETE, &path, None).await;
    assert_eq!(server.list(false).await.len(), 1);
}

#[tokio::test]
async fn a_week_of_use_takes_no_more_memory_handles_or_disk_than_a_day() {
    // more by hand: ZOLVIK_ROUNDS=2000
    let rounds: usize = std::env::var("ZOLVIK_ROUNDS")
        .ok()
        .map_or(16, |n| n.parse().unwrap());
    let data = tempfile::tempdir().unwrap();
    let server = Server::start(data.path(), &[]);
    let body = json!({ "document": document("lived in") });
    server.ask(Method::POST, "/api/patches", Some(body)).await;
    let (mut revision, mut dice) = (1, Dice(7));
    let mut after_a_day = None;
    for round in 0..rounds {
        some_minutes(&server, round, &mut revision, &mut dice).await;
        if round == rounds / 4 {
            after_a_day = Some((held(server.child.id()), bytes_in(data.path())));
        }
    }
    let ((memory_mb, files), disk) = after_a_day.unwrap();
    let ((memory_now_mb, files_now), disk_now) = (held(server.child.id()), bytes_in(data.path()));
    println!(
        "{memory_mb:.0} to {memory_now_mb:.0} MB, {files} to {files_now} files, {disk} to {disk_now} bytes"
    );
    assert!(
        memory_now_mb < memory_mb + 24.0,
        "{memory_mb} to {memory_now_mb} MB"
    );
    assert!(files_now <= files + 4, "{files} to {files_now} open files");
    // steps of undo are kept up to 500, pictures as many as are worth it
    assert!(disk_now < disk + 2_000_000, "{disk} to {disk_now} bytes");
    assert_eq!(revision, 1 + 4 * rounds as i64);
}

/// The clock of the day jumps by months to and fro while the library is served and between: saves, lists, undo and backups go on.
#[tokio::test]
async fn a_clock_that_jumps_both_ways_loses_nothing() {
    const DAY_S: i64 = 86_400;
    let (tools, data) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let clock = tools.path().join("clock");
    let variables = [
        ("LD_PRELOAD", layer(tools.path())),
        ("ZOLVIK_CLOCK", clock.clone()),
    ];
    let variables: Vec<(&str, &Path)> = variables.iter().map(|(k, v)| (*k, v.as_path())).collect();
    let mut made = vec![];
    let mut revision = 1;
    for (turn, days) in [0, 40, -90, 0, 400, -4000, 1].into_iter().enumerate() {
        std::fs::write(&clock, (days * DAY_S).to_string()).unwrap();
        let mut server = Server::start_with(data.path(), &[], &variables);
        if turn == 0 {
            let body = json!({ "document": document("begun") });
            server.ask(Method::POST, "/api/patches", Some(body)).await;
        }
        for inside in [3, -3] {
            std::fs::write(&clock, ((days + inside) * DAY_S).to_string()).unwrap();
            let body = json!({ "revision": revision, "document": document(&format!("turn {turn} {inside}")) });
            let (status, saved) = server.ask(Method::PUT, "/api/patches/1", Some(body)).await;
            assert_eq!(status, StatusCode::OK, "{saved}");
            revision += 1;
            let (status, name) = server.ask(Method::POST, "/api/backups", None).await;
            assert_eq!(status, StatusCode::CREATED, "{name}");
            made.push(name.as_str().unwrap().to_owned());
            let list = server.get("/api/backups").await;
            let present: Vec<&Value> = list
                .as_array()
                .unwrap()
                .iter()
                .map(|b| &b["name"])
                .collect();
            assert!(present.contains(&&name), "the one just made is there");
            let summary = &server.list(false).await[0];
            assert_eq!(
                (&summary["revision"], &summary["damage"]),
                (&json!(revision), &Value::Null)
            );
            // the clock it went by was the one that was wrong
            let changed = summary["changed_at"].as_str().unwrap();
            let changed: chrono::DateTime<chrono::Utc> = changed.parse().unwrap();
            let off = (changed - chrono::Utc::now()).num_hours() as f64 / 24.0;
            assert!((off - (days + inside) as f64).abs() < 1.1, "{off}");
        }
        server.child.kill().unwrap();
        server.child.wait().unwrap();
    }
    let server = Server::start(data.path(), &[]);
    let kept = server.get("/api/patches/1/steps").await;
    assert_eq!(kept["steps"]["past"].as_array().unwrap().len(), 14);
    // every backup that is left can be looked into
    let list = server.get("/api/backups").await;
    for backup in list.as_array().unwrap() {
        assert_eq!(backup["patches"], 1);
    }
    made.sort();
    made.dedup();
    assert_eq!(made.len(), 14);
}
