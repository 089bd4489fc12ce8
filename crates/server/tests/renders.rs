//! Rendering many files: the real binary, as a job and on the command line; and what is kept beside patches.

mod server;

use std::io::Read;
use std::process::Command;

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use zolvik_patch::Patch;
use zolvik_patch::edit::{Edit, apply};
use zolvik_patch::playing::ready::READY_PHRASES;

use server::Server;

/// A sine with an articulation an octave higher, and a phrase.
fn patch() -> Patch {
    let edits = [
        Edit::SetPhrase {
            phrase: Some(Box::new(READY_PHRASES[4].phrase())),
        },
        Edit::AddArticulation {
            name: "High".into(),
        },
        Edit::ShiftOctaves {
            units: vec![zolvik_patch::document::UnitId(1)],
            octaves: 1,
        },
        Edit::SwitchArticulation { at: None },
    ];
    let one = |patch: Patch, edit: &Edit| apply(&patch, edit).unwrap().0;
    edits.iter().fold(Patch::empty(), one)
}

fn wish(batch: Value, format: &str) -> Value {
    let document = zolvik_patch::json::write(&patch());
    json!({ "document": document, "batch": batch, "format": format, "bits": 16, "rate_hz": 44100 })
}

/// Begins a render and follows it to its end; gives its number and all it told.
async fn rendered(server: &Server, wish: Value) -> (String, Vec<Value>) {
    let (status, job) = server.ask(Method::POST, "/api/renders", Some(wish)).await;
    assert_eq!(status, StatusCode::CREATED, "{job}");
    let id = job["id"].as_str().unwrap().to_owned();
    let (status, headers, bytes) = server.fetch(&format!("/api/renders/{id}/events")).await;
    assert_eq!(status, StatusCode::OK);
    assert!(headers.contains("text/event-stream"), "{headers}");
    let text = String::from_utf8(bytes).unwrap();
    let told = text.lines().filter_map(|l| l.strip_prefix("data: "));
    let told = told.map(|l| serde_json::from_str(l).unwrap()).collect();
    (id, told)
}

/// Frequency by rising zero crossings.
fn pitch_hz(samples: &[f32], rate_hz: f64) -> f64 {
    let part = &samples[4_000..14_000];
    let rises = part.windows(2).filter(|w| w[0] < 0.0 && w[1] >= 0.0);
    rises.count() as f64 * rate_hz / part.len() as f64
}

#[tokio::test]
async fn a_set_in_all_articulations_comes_as_one_file_with_its_progress_told() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::start(data.path(), &[]);
    let set = json!({ "of": "set", "from": 57, "to": 69, "every": 12, "velocities": [60, 120] });
    let batch = json!({ "what": set, "all_articulations": true });
    let (id, told) = rendered(&server, wish(batch, "wav")).await;
    let last = told.last().unwrap();
    assert_eq!((&last["done"], &last["of"]), (&json!(8), &json!(8)));
    assert_eq!(
        (&last["ended"], &last["problem"]),
        (&json!(true), &Value::Null)
    );
    let (status, headers, bytes) = server.fetch(&format!("/api/renders/{id}/file")).await;
    assert_eq!(status, StatusCode::OK);
    assert!(headers.contains("untitled.zip"), "{headers}");
    let mut zip = zip::ZipArchive::new(std::io::Cursor::new(bytes)).unwrap();
    assert_eq!(zip.len(), 8);
    let mut sound = |name: &str| {
        let mut bytes = vec![];
        zip.by_name(name).unwrap().read_to_end(&mut bytes).unwrap();
        zolvik_files::wav::read(&bytes, 30.0).unwrap()
    };
    let base = sound("untitled-069-A4-v120.wav");
    let high = sound("untitled-high-069-A4-v120.wav");
    assert_eq!(base.rate_hz, 44_100.0);
    assert!((pitch_hz(&base.samples, 44_100.0) - 440.0).abs() < 6.0);
    assert!((pitch_hz(&high.samples, 44_100.0) - 880.0).abs() < 6.0);
    let soft = sound("untitled-057-A3-v060.wav");
    let peak = |s: &[f32]| s.iter().fold(0.0f32, |a, b| a.max(b.abs()));
    assert!(peak(&soft.samples) < 0.7 * peak(&sound("untitled-057-A3-v120.wav").samples));
}

#[tokio::test]
async fn a_phrase_comes_as_flac_and_is_the_same_on_the_command_line() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::start(data.path(), &[]);
    let batch = json!({ "what": { "of": "phrase" }, "all_articulations": false });
    let (id, _) = rendered(&server, wish(batch, "flac")).await;
    let (_, headers, flac) = server.fetch(&format!("/api/renders/{id}/file")).await;
    assert!(headers.contains("untitled-phrase.flac"), "{headers}");
    assert_eq!(&flac[..4], b"fLaC");
    let file = data.path().join("patch.json");
    std::fs::write(&file, zolvik_patch::json::write(&patch())).unwrap();
    let out = data.path().join("x.flac");
    let done = Command::new(env!("CARGO_BIN_EXE_zolvik"))
        .args([
            "render",
            file.to_str().unwrap(),
            "--phrase",
            "--rate",
            "44100",
            "--bits",
            "16",
        ])
        .args(["--out", out.to_str().unwrap()])
        .output()
        .unwrap();
    assert!(done.status.success(), "{done:?}");
    assert_eq!(std::fs::read(&out).unwrap(), flac, "the same bits");
    // what FLAC holds is what WAV holds
    let taken = zolvik_files::recording::take(flac, "x").unwrap();
    let wav = zolvik_files::wav::read(&taken.wav, 60.0).unwrap();
    assert!(wav.samples.iter().any(|s| s.abs() > 0.05));
}

#[tokio::test]
async fn a_render_is_cancelled_and_wrong_wishes_are_refused() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::start(data.path(), &[]);
    let set =
        json!({ "of": "set", "from": 0, "to": 127, "every": 1, "velocities": [20, 60, 100, 127] });
    let batch = json!({ "what": set, "all_articulations": true });
    let (status, job) = server
        .ask(Method::POST, "/api/renders", Some(wish(batch, "wav")))
        .await;
    assert_eq!(status, StatusCode::CREATED);
    let path = format!("/api/renders/{}", job["id"].as_str().unwrap());
    let (status, gone) = server.ask(Method::DELETE, &path, None).await;
    assert_eq!((status, gone), (StatusCode::OK, json!(true)));
    let (status, _) = server.ask(Method::GET, &format!("{path}/file"), None).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
    for (batch, why) in [
        (
            json!({ "of": "set", "from": 60, "to": 40, "every": 1, "velocities": [100] }),
            "from low to high",
        ),
        (
            json!({ "of": "set", "from": 0, "to": 127, "every": 1, "velocities": [1, 2, 3, 4, 5, 6, 7, 8, 9] }),
            "at most 1024",
        ),
        (
            json!({ "of": "set", "from": 60, "to": 60, "every": 1, "velocities": [] }),
            "velocities",
        ),
    ] {
        let batch = json!({ "what": batch, "all_articulations": false });
        let (status, problem) = server
            .ask(Method::POST, "/api/renders", Some(wish(batch, "wav")))
            .await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{problem}");
        assert!(
            problem["detail"].as_str().unwrap().contains(why),
            "{problem}"
        );
    }
}

#[test]
fn the_command_line_renders_sets_and_articulations() {
    let data = tempfile::tempdir().unwrap();
    let file = data.path().join("patch.json");
    std::fs::write(&file, zolvik_patch::json::write(&patch())).unwrap();
    let render = |more: &[&str]| {
        let mut command = Command::new(env!("CARGO_BIN_EXE_zolvik"));
        command.args(["render", file.to_str().unwrap(), "--rate", "44100"]);
        command.args(more).output().unwrap()
    };
    let folder = data.path().join("set");
    let done = render(&[
        "--set",
        "C3:C4:6",
        "--velocities",
        "50,100",
        "--out",
        folder.to_str().unwrap(),
    ]);
    assert!(done.status.success(), "{done:?}");
    assert!(String::from_utf8_lossy(&done.stdout).contains("6 of 6"));
    assert_eq!(std::fs::read_dir(&folder).unwrap().count(), 6);
    let out = data.path().join("high.wav");
    let done = render(&[
        "--articulation",
        "high",
        "--note",
        "A4",
        "--out",
        out.to_str().unwrap(),
    ]);
    assert!(done.status.success(), "{done:?}");
    let sound = zolvik_files::wav::read(&std::fs::read(&out).unwrap(), 30.0).unwrap();
    assert!((pitch_hz(&sound.samples, 44_100.0) - 880.0).abs() < 6.0);
    let wrong = render(&["--articulation", "Nowhere", "--out", out.to_str().unwrap()]);
    assert_eq!(wrong.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&wrong.stderr).contains("there are: base, High"));
}

#[tokio::test]
async fn phrases_and_learnt_controllers_are_kept_through_a_kill_and_checked() {
    let data = tempfile::tempdir().unwrap();
    let mut server = Server::start(data.path(), &[]);
    let phrase = serde_json::to_string(&READY_PHRASES[0].phrase()).unwrap();
    let body = json!({ "document": phrase });
    let path = "/api/kept/phrase/Long%20one";
    let (status, count) = server.ask(Method::PUT, path, Some(body.clone())).await;
    assert_eq!((status, count), (StatusCode::OK, json!(1)));
    // again under the same name: still one
    let (_, count) = server.ask(Method::PUT, path, Some(body)).await;
    assert_eq!(count, json!(1));
    server.child.kill().unwrap();
    server.child.wait().unwrap();
    let server = Server::start(data.path(), &[]);
    let list = server.get("/api/kept/phrase").await;
    assert_eq!(list[0]["name"], "Long one");
    assert_eq!(list[0]["document"], phrase);
    for (path, document) in [
        (
            "/api/kept/phrase/Bad",
            json!({ "document": "{\"name\": \"x\"}" }),
        ),
        (
            "/api/kept/phrase/Bad",
            json!({ "document": phrase.replace("96", "900") }),
        ),
        ("/api/kept/learnt/Bad", json!({ "document": "no JSON" })),
    ] {
        let (status, problem) = server.ask(Method::PUT, path, Some(document)).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{problem}");
    }
    let (status, _) = server.ask(Method::GET, "/api/kept/secrets", None).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
    let (_, gone) = server.ask(Method::DELETE, path, None).await;
    assert_eq!(gone, json!(true));
    assert_eq!(server.get("/api/kept/phrase").await, json!([]));
}
