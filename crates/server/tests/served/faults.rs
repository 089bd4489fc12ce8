//! The real binary on a disk that fails: what is acknowledged is there afterwards, what is not is told and changes nothing.

use std::path::Path;
use std::process::Command;

use reqwest::{Method, StatusCode};
use rstest::rstest;
use serde_json::{Value, json};
use zolvik_patch::Patch;

use crate::server::{Server, layer};

fn document(name: &str) -> String {
    let mut patch = Patch::empty();
    patch.meta.name = name.into();
    zolvik_patch::json::write(&patch)
}

/// Everything that is stored, as the API shows it.
async fn everything(server: &Server) -> Value {
    let (library, bin) = (server.list(false).await, server.list(true).await);
    let mut all = vec![];
    for patch in library.iter().chain(&bin) {
        let path = format!("/api/patches/{}", patch["id"]);
        let full = server.get(&path).await;
        let versions = server.get(&format!("{path}/versions")).await;
        all.push(json!([full, versions]));
    }
    json!(all)
}

/// Every write there is, by name; patch 1 is in the library, patch 2 in the bin.
fn writes() -> Vec<(&'static str, Method, &'static str, Option<Value>)> {
    let save = json!({ "revision": 1, "document": document("saved") });
    vec![
        ("save", Method::PUT, "/api/patches/1", Some(save)),
        ("create", Method::POST, "/api/patches", Some(json!({}))),
        (
            "rename",
            Method::PATCH,
            "/api/patches/1",
            Some(json!({ "name": "other" })),
        ),
        (
            "tag",
            Method::POST,
            "/api/patches/1/tags",
            Some(json!({ "tag": "other" })),
        ),
        ("duplicate", Method::POST, "/api/patches/1/duplicate", None),
        ("bin", Method::POST, "/api/patches/1/bin", None),
        ("restore", Method::POST, "/api/patches/2/restore", None),
        (
            "version",
            Method::POST,
            "/api/patches/1/versions",
            Some(json!({ "name": "v" })),
        ),
        ("empty bin", Method::DELETE, "/api/bin", None),
    ]
}

#[rstest]
#[case::full(
    "full",
    StatusCode::INSUFFICIENT_STORAGE,
    "the disk is full; make room"
)]
#[case::write_error("write", StatusCode::INTERNAL_SERVER_ERROR, "the disk failed")]
#[case::sync_error("sync", StatusCode::INTERNAL_SERVER_ERROR, "the disk failed")]
#[tokio::test]
async fn a_write_that_fails_is_told_and_changes_nothing(
    #[case] kind: &str,
    #[case] status: StatusCode,
    #[case] words: &str,
) {
    let (tools, data) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let fault = tools.path().join("fault");
    let variables = [
        ("LD_PRELOAD", layer(tools.path())),
        ("ZOLVIK_FAULT", fault.clone()),
    ];
    let variables: Vec<(&str, &Path)> = variables.iter().map(|(k, v)| (*k, v.as_path())).collect();
    let mut server = Server::start_with(data.path(), &[], &variables);
    for name in ["kept", "binned"] {
        let body = json!({ "document": document(name) });
        server.ask(Method::POST, "/api/patches", Some(body)).await;
    }
    server.ask(Method::POST, "/api/patches/2/bin", None).await;
    let before = everything(&server).await;
    std::fs::write(&fault, kind).unwrap();
    for (name, method, path, body) in writes() {
        let (answered, problem) = server.ask(method, path, body).await;
        assert_eq!(answered, status, "{name}: {problem}");
        let detail = problem["detail"].as_str().unwrap_or_default();
        assert!(detail.contains(words), "{name}: {detail}");
        assert_eq!(
            everything(&server).await,
            before,
            "{name} changed something"
        );
    }
    let sound = std::iter::repeat_n(0.25f32, 4000).collect::<Vec<_>>();
    let wav = zolvik_files::wav::write_mono(&sound, 48_000).unwrap();
    let (answered, problem) = server.send("/api/sounds", wav.clone()).await;
    assert_eq!(answered, status, "recording: {problem}");
    // once the disk is well again, so is the server, without being started anew
    std::fs::remove_file(&fault).unwrap();
    for (name, method, path, body) in writes() {
        let (answered, problem) = server.ask(method, path, body).await;
        assert!(
            answered.is_success() || name == "save" && answered == StatusCode::CONFLICT,
            "{name}: {answered} {problem}"
        );
    }
    let (answered, _) = server.send("/api/sounds", wav).await;
    assert_eq!(answered, StatusCode::CREATED);
    // and what it acknowledged is there after a kill
    let after = everything(&server).await;
    server.child.kill().unwrap();
    server.child.wait().unwrap();
    let again = Server::start(data.path(), &[]);
    assert_eq!(everything(&again).await, after);
}

#[tokio::test]
async fn every_acknowledged_save_survives_kills_at_any_moment() {
    let data = tempfile::tempdir().unwrap();
    let mut dice = zolvik_patch::testing::Dice(0x5eed);
    let mut revision = 1i64;
    let mut acknowledged = String::new();
    for round in 0..12 {
        let mut server = Server::start(data.path(), &[]);
        if round == 0 {
            let body = json!({ "document": document("first") });
            server.ask(Method::POST, "/api/patches", Some(body)).await;
            acknowledged = document("first");
        }
        let stored = server.get("/api/patches/1").await;
        let found = stored["summary"]["revision"].as_i64().unwrap();
        // the save under way when the kill came may be there or not; nothing before it may be missing
        assert!(
            found == revision || found == revision + 1,
            "{found}, acknowledged {revision}"
        );
        if found == revision {
            assert_eq!(stored["document"], acknowledged);
        }
        (revision, acknowledged) = (found, stored["document"].as_str().unwrap().into());
        let (address, first) = (server.address.clone(), revision);
        let saving = tokio::spawn(async move {
            let client = reqwest::Client::new();
            let mut last = (first, None);
            for n in 0.. {
                let text = document(&format!("round {round} save {n}"));
                let body = json!({ "revision": last.0, "document": text });
                let sent = client
                    .put(format!("{address}/api/patches/1"))
                    .json(&body)
                    .send()
                    .await;
                let Ok(answer) = sent else { break };
                assert_eq!(answer.status(), StatusCode::OK);
                if answer.json::<Value>().await.is_err() {
                    break;
                }
                last = (last.0 + 1, Some(text));
            }
            last
        });
        tokio::time::sleep(std::time::Duration::from_millis(
            30 + dice.below(200) as u64,
        ))
        .await;
        server.child.kill().unwrap();
        server.child.wait().unwrap();
        let (last, text) = saving.await.unwrap();
        (revision, acknowledged) = (last, text.unwrap_or(acknowledged));
    }
    assert!(revision > 24, "{revision} saves were acknowledged");
}

#[tokio::test]
async fn a_data_folder_that_was_deleted_is_noticed() {
    let parent = tempfile::tempdir().unwrap();
    let data = parent.path().join("data");
    let server = Server::start(&data, &[]);
    server
        .ask(Method::POST, "/api/patches", Some(json!({})))
        .await;
    std::fs::remove_dir_all(&data).unwrap();
    let body = json!({ "revision": 1, "document": document("lost") });
    let (status, problem) = server.ask(Method::PUT, "/api/patches/1", Some(body)).await;
    assert_eq!(status, StatusCode::SERVICE_UNAVAILABLE, "{problem}");
    assert!(
        problem["detail"]
            .as_str()
            .unwrap()
            .contains("moved, deleted or replaced"),
        "{problem}"
    );
}

#[test]
fn a_full_disk_is_called_so_at_the_start_too() {
    let (tools, data) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let fault = tools.path().join("fault");
    std::fs::write(&fault, "full").unwrap();
    let started = Command::new(env!("CARGO_BIN_EXE_zolvik"))
        .args(["serve", "--port", "0", "--data"])
        .arg(data.path())
        .env("LD_PRELOAD", layer(tools.path()))
        .env("ZOLVIK_FAULT", &fault)
        .output()
        .unwrap();
    assert_eq!(started.status.code(), Some(2));
    let told = String::from_utf8_lossy(&started.stderr);
    assert!(told.contains("the disk is full; make room"), "{told}");
    assert_eq!(told.lines().count(), 1, "{told}");
}
