//! The command line: what it renders, refuses, looks over and brings back.

use crate::api::document;
use crate::server::Server;
use reqwest::Method;
use std::process::{Command, Output};

fn zolvik(arguments: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_zolvik"))
        .args(arguments)
        .output()
        .unwrap()
}

fn fails_in_one_line(arguments: &[&str], words: &str) {
    let out = zolvik(arguments);
    let said = String::from_utf8_lossy(&out.stderr);
    assert_eq!(out.status.code(), Some(2), "{said}");
    assert_eq!(said.trim().lines().count(), 1, "one line: {said}");
    assert!(said.contains(words), "“{said}” says {words}");
}

#[test]
fn what_cannot_be_served_is_one_plain_line_and_exit_code_2() {
    let folder = tempfile::tempdir().unwrap();
    let taken = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
    let port = taken.local_addr().unwrap().port().to_string();
    let data = folder.path().join("data");
    fails_in_one_line(
        &["serve", "--port", &port, "--data", data.to_str().unwrap()],
        "--port",
    );
    let file = folder.path().join("file");
    std::fs::write(&file, "x").unwrap();
    fails_in_one_line(
        &["serve", "--port", "0", "--data", file.to_str().unwrap()],
        "--data",
    );
    fails_in_one_line(&["patch", "check", file.to_str().unwrap()], "not JSON");
    fails_in_one_line(
        &["render", "nowhere.json", "--out", "x.wav"],
        "nowhere.json",
    );
}

#[test]
fn the_command_line_renders_what_it_was_asked_for() {
    let folder = tempfile::tempdir().unwrap();
    let (patch, out) = (folder.path().join("p.json"), folder.path().join("x.wav"));
    std::fs::write(&patch, document("Test")).unwrap();
    let (patch, wav) = (patch.to_str().unwrap(), out.to_str().unwrap());
    let done = zolvik(&[
        "render",
        patch,
        "--note",
        "C3",
        "--velocity",
        "100",
        "--hold",
        "300 ms",
        "--length",
        "1",
        "--rate",
        "44100",
        "--bits",
        "32",
        "--out",
        wav,
    ]);
    assert!(
        done.status.success(),
        "{}",
        String::from_utf8_lossy(&done.stderr)
    );
    let bytes = std::fs::read(&out).unwrap();
    let samples: Vec<f32> = bytes[bytes.len() - 44_100 * 8..]
        .chunks(8)
        .map(|b| f32::from_le_bytes([b[0], b[1], b[2], b[3]]))
        .collect();
    assert_eq!(samples.len(), 44_100);
    // C3 is 130.81 Hz: upward zero crossings of the held part
    let crossings = samples[2205..11_025]
        .windows(2)
        .filter(|w| w[0] < 0.0 && w[1] >= 0.0)
        .count();
    assert!(
        (25..=27).contains(&crossings),
        "{crossings} cycles in 0.2 s"
    );
    assert!(
        samples[30_000..].iter().all(|s| *s == 0.0),
        "silent after the release"
    );
    fails_in_one_line(&["render", patch, "--note", "H9", "--out", wav], "C#3");
    fails_in_one_line(
        &["render", patch, "--bits", "12", "--out", wav],
        "16, 24 or 32",
    );
}

#[test]
fn every_demo_patch_is_valid_loud_enough_and_not_too_loud() {
    for patch in zolvik_server::demo::collection().unwrap() {
        let note = zolvik_lab::Note::auditioned(&patch, 48_000.0);
        let sound = zolvik_lab::render(&patch, &note);
        let level = zolvik_lab::level::level(&sound);
        assert!(
            (-12.0..=-0.5).contains(&level.true_peak_db),
            "{}: {level:?}",
            patch.meta.name
        );
        assert!(
            patch.units.len() + patch.movement.sources.len() >= 4
                && !patch.meta.note.is_empty()
                && !patch.meta.tags.is_empty()
        );
    }
}

#[test]
fn lengths_that_are_none_and_wrong_files_are_refused_by_the_command_line() {
    let folder = tempfile::tempdir().unwrap();
    let patch = folder.path().join("p.json");
    std::fs::write(&patch, document("Test")).unwrap();
    let patch = patch.to_str().unwrap();
    for length in ["nan", "inf", "1e9", "-1", "0", "soon"] {
        let out = zolvik(&[
            "render",
            patch,
            &format!("--length={length}"),
            "--out",
            "x.wav",
        ]);
        let said = String::from_utf8_lossy(&out.stderr);
        assert_eq!(out.status.code(), Some(2), "{length}: {said}");
        assert!(said.contains("0.01 to 600 seconds"), "{length}: {said}");
    }
}

#[test]
fn migrating_leaves_the_file_whole_when_the_disk_is_full() {
    let folder = tempfile::tempdir().unwrap();
    let patch = folder.path().join("p.json");
    let old = include_str!("../../../patch/tests/golden/format-1-1.json");
    std::fs::write(&patch, old).unwrap();
    let limited = |limit: &str| {
        let command = format!("ulimit -f {limit}; trap '' XFSZ; exec \"$0\" patch migrate \"$1\"");
        let mut shell = Command::new("bash");
        shell
            .args(["-c", &command, env!("CARGO_BIN_EXE_zolvik")])
            .arg(&patch);
        shell.output().unwrap()
    };
    // files of at most 4 KB, less than it needs
    let out = limited("4");
    assert_eq!(
        out.status.code(),
        Some(2),
        "{}",
        String::from_utf8_lossy(&out.stderr)
    );
    assert_eq!(std::fs::read_to_string(&patch).unwrap(), old);
    assert_eq!(
        std::fs::read_dir(folder.path()).unwrap().count(),
        1,
        "nothing is left lying about"
    );
    assert!(limited("unlimited").status.success());
    assert!(
        std::fs::read_to_string(&patch)
            .unwrap()
            .contains(&format!("\"format\": {}", zolvik_patch::document::FORMAT))
    );
}

#[tokio::test]
async fn a_library_is_looked_over_and_a_backup_brought_back() {
    let data = tempfile::tempdir().unwrap();
    let folder = data.path().to_str().unwrap().to_owned();
    let server = Server::start(data.path(), &["--demo"]);
    let first = server.list(false).await[0]["id"].clone();
    let out = zolvik(&["library", "check", "--data", &folder]);
    let said = String::from_utf8_lossy(&out.stdout).to_string();
    assert!(
        out.status.success() && said.contains("27 patches") && said.contains("whole"),
        "{said}"
    );
    // the backup of the day is made soon after the start
    let backup = loop {
        match zolvik_store::backups(data.path()).pop() {
            Some(name) => break name,
            None => tokio::time::sleep(std::time::Duration::from_millis(20)).await,
        }
    };
    server
        .ask(Method::POST, &format!("/api/patches/{first}/bin"), None)
        .await;
    server.ask(Method::DELETE, "/api/bin", None).await;
    assert_eq!(server.list(false).await.len(), 26);
    let out = zolvik(&["library", "restore", &backup, "--data", &folder]);
    assert_eq!(out.status.code(), Some(2), "not while it is served");
    drop(server);
    let out = zolvik(&["library", "restore", "--data", &folder]);
    assert!(String::from_utf8_lossy(&out.stdout).contains(&backup));
    assert!(
        zolvik(&["library", "restore", &backup, "--data", &folder])
            .status
            .success()
    );
    let server = Server::start(data.path(), &[]);
    assert_eq!(server.list(false).await.len(), 27);
    fails_in_one_line(
        &["library", "restore", "nothing", "--data", &folder],
        "there is no backup",
    );
    fails_in_one_line(
        &["library", "check", "--data", "/nowhere/at/all"],
        "no such folder",
    );
}
