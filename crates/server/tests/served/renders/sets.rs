//! Renders on the server: told, stopped, gone on with, taken along.

use super::*;
use crate::server::Server;
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use std::io::Read;
use std::process::Command;
use zolvik_patch::playing::ready::READY_PHRASES;

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

/// A patch whose set takes long: as finely as files can be rendered.
fn long_wish(velocities: usize, keep: bool) -> Value {
    let velocities: Vec<usize> = (1..=velocities).collect();
    let set = json!({ "of": "set", "from": 0, "to": 127, "every": 1, "velocities": velocities });
    let mut wish = wish(json!({ "what": set, "all_articulations": false }), "wav");
    wish["rate_hz"] = json!(192_000);
    wish["keep"] = json!(keep);
    wish
}

/// Follows until so many files are done; gives how far it is then.
async fn until(server: &Server, id: &str, done: u64) -> Value {
    loop {
        let list = server.get("/api/renders").await;
        let all = list.as_array().unwrap();
        let job = all.iter().find(|job| job["id"] == id).unwrap();
        if job["progress"]["done"].as_u64().unwrap() >= done || job["progress"]["ended"] == true {
            return job["progress"].clone();
        }
        tokio::time::sleep(std::time::Duration::from_millis(10)).await;
    }
}

async fn begin(server: &Server, wish: Value) -> String {
    let (status, job) = server.ask(Method::POST, "/api/renders", Some(wish)).await;
    assert_eq!(status, StatusCode::CREATED, "{job}");
    job["id"].as_str().unwrap().to_owned()
}

fn names_in(zip: Vec<u8>) -> Vec<String> {
    let mut zip = zip::ZipArchive::new(std::io::Cursor::new(zip)).unwrap();
    let mut names = vec![];
    for at in 0..zip.len() {
        let mut file = zip.by_index(at).unwrap();
        let mut bytes = vec![];
        // its sum is looked at while it is read
        file.read_to_end(&mut bytes).unwrap();
        zolvik_files::wav::read(&bytes, 60.0).unwrap();
        names.push(file.name().unwrap().into_owned());
    }
    names
}

#[tokio::test]
async fn what_is_done_of_a_set_is_there_after_a_stop_and_gone_on_with() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::start(data.path(), &[]);
    let set = json!({ "of": "set", "from": 50, "to": 62, "every": 1, "velocities": [90] });
    let mut short = wish(json!({ "what": set, "all_articulations": false }), "wav");
    short["rate_hz"] = json!(96_000);
    let id = begin(&server, short).await;
    let path = format!("/api/renders/{id}");
    until(&server, &id, 2).await;
    let (status, stopped) = server
        .ask(Method::POST, &format!("{path}/stop"), None)
        .await;
    assert_eq!((status, &stopped["ended"]), (StatusCode::OK, &json!(true)));
    assert_eq!(stopped["problem"], "stopped");
    let done = stopped["done"].as_u64().unwrap();
    assert!((2..13).contains(&done), "{stopped}");
    let (_, _, part) = server.fetch(&format!("{path}/file")).await;
    let first = names_in(part);
    assert_eq!(first.len() as u64, done);
    let (_, resumed) = server
        .ask(Method::POST, &format!("{path}/resume"), None)
        .await;
    assert!(resumed["done"].as_u64().unwrap() >= done, "{resumed}");
    let end = until(&server, &id, 13).await;
    assert_eq!((&end["done"], &end["problem"]), (&json!(13), &Value::Null));
    let (_, _, all) = server.fetch(&format!("{path}/file")).await;
    let all = names_in(all);
    assert_eq!((all.len(), &all[..first.len()]), (13, &first[..]));
}

/// One long file: stopping it is answered, and the processor free, within a tenth of a second.
#[tokio::test]
async fn a_stop_acts_in_the_middle_of_a_file() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::start(data.path(), &[]);
    let mut long = patch();
    long.audition.hold_s = 10.0;
    let mut one = long_wish(1, false);
    one["document"] = json!(zolvik_patch::json::write(&long));
    one["batch"]["what"] =
        json!({ "of": "set", "from": 30, "to": 31, "every": 1, "velocities": [9] });
    let id = begin(&server, one).await;
    tokio::time::sleep(std::time::Duration::from_millis(60)).await;
    let path = format!("/api/renders/{id}/stop");
    let (_, stopped) = server.ask(Method::POST, &path, None).await;
    assert_eq!(stopped["problem"], "stopped");
    let burnt = processor_s(server.child.id());
    tokio::time::sleep(std::time::Duration::from_millis(400)).await;
    let more = processor_s(server.child.id()) - burnt;
    assert!(
        more < 0.15,
        "{more} s of the processor after it was stopped"
    );
}

/// Seconds of the processor a process has taken.
fn processor_s(process: u32) -> f64 {
    let stat = std::fs::read_to_string(format!("/proc/{process}/stat")).unwrap();
    let fields: Vec<&str> = stat
        .rsplit(')')
        .next()
        .unwrap()
        .split_whitespace()
        .collect();
    let ticks = |at: usize| fields[at].parse::<f64>().unwrap();
    (ticks(11) + ticks(12)) / 100.0
}

#[tokio::test]
async fn a_render_nobody_follows_stops_unless_it_was_said_to_go_on() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::start(data.path(), &["--render-patience", "2"]);
    let followed = begin(&server, long_wish(4, false)).await;
    let url = format!("{}/api/renders/{followed}/events", server.address);
    let events = reqwest::get(&url).await.unwrap();
    let kept = begin(&server, long_wish(4, true)).await;
    let left = begin(&server, long_wish(4, false)).await;
    let end = until(&server, &left, 9999).await;
    assert_eq!(end["problem"], "stopped");
    let list = server.get("/api/renders").await;
    let ended = |id: &str| {
        let all = list.as_array().unwrap();
        all.iter().find(|job| job["id"] == id).unwrap()["progress"]["ended"].clone()
    };
    assert_eq!(
        (ended(&followed), ended(&kept)),
        (json!(false), json!(false))
    );
    // a page that closes is one that follows no more
    drop(events);
    let end = until(&server, &followed, 9999).await;
    assert_eq!(end["problem"], "stopped");
    let (_, gone) = server
        .ask(Method::DELETE, &format!("/api/renders/{kept}"), None)
        .await;
    assert_eq!(gone, json!(true));
    assert_eq!(
        server.get("/api/renders").await.as_array().unwrap().len(),
        2
    );
}

/// Several take the same file along at once, one of them by ranges: each gets all of it.
#[tokio::test]
async fn a_file_is_taken_along_by_several_at_once_and_by_ranges() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::start(data.path(), &[]);
    let set = json!({ "of": "set", "from": 50, "to": 59, "every": 1, "velocities": [90] });
    let (id, _) = rendered(
        &server,
        wish(json!({ "what": set, "all_articulations": false }), "wav"),
    )
    .await;
    let url = format!("{}/api/renders/{id}/file", server.address);
    let fetch = || async { reqwest::get(&url).await.unwrap().bytes().await.unwrap() };
    let (a, b, c, d) = tokio::join!(fetch(), fetch(), fetch(), fetch());
    assert!(a == b && b == c && c == d);
    assert_eq!(names_in(a.to_vec()).len(), 10);
    let client = reqwest::Client::new();
    let range = |text: &'static str| client.get(&url).header("range", text).send();
    let size = a.len();
    for (asked, from, until) in [
        ("bytes=0-99", 0, 100),
        ("bytes=1000-", 1000, size),
        ("bytes=-50", size - 50, size),
        ("bytes=10-99999999999", 10, size),
    ] {
        let part = range(asked).await.unwrap();
        assert_eq!(part.status(), StatusCode::PARTIAL_CONTENT, "{asked}");
        let told = part.headers()["content-range"].to_str().unwrap().to_owned();
        assert_eq!(told, format!("bytes {from}-{}/{size}", until - 1));
        assert_eq!(part.headers()["content-length"], (until - from).to_string());
        assert_eq!(part.bytes().await.unwrap(), a.slice(from..until), "{asked}");
    }
    let beyond = range("bytes=99999999999-").await.unwrap();
    assert_eq!(beyond.status(), StatusCode::RANGE_NOT_SATISFIABLE);
    assert_eq!(beyond.headers()["content-range"], format!("bytes */{size}"));
    let whole = reqwest::get(&url).await.unwrap();
    assert_eq!(whole.headers()["content-length"], size.to_string());
}
