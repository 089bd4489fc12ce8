//! Recordings and bundles over the real API, on a real SQLite file.

use std::process::Command;

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use zolvik_files::{bundle, wav};
use zolvik_patch::Patch;
use zolvik_patch::document::{KindName, Route, RouteId, Sample, Send, Unit, UnitId, UnitKind};
use zolvik_patch::sound::{OwnSound, Sound};

use crate::server::Server;

fn tone(hz: f64) -> Vec<u8> {
    let turn = std::f64::consts::TAU * hz / 48_000.0;
    let samples: Vec<f32> = (0..24_000)
        .map(|i| (turn * f64::from(i)).sin() as f32 * 0.5)
        .collect();
    wav::write(&samples, &samples, 48_000, wav::Depth::Int24).unwrap()
}

fn playing(sound: &OwnSound) -> Patch {
    let mut patch = Patch::empty();
    patch.meta.name = "Wet Stone".into();
    let mut unit = Unit::new(UnitId(2), KindName::Sample);
    unit.kind = UnitKind::Sample(Sample {
        sound: Sound::Own(sound.clone()),
        key_follow: false,
        ..Sample::default()
    });
    patch.units = vec![unit];
    patch.routes = vec![Route {
        id: RouteId(1),
        from: UnitId(2),
        on: true,
        send: Send::output(),
    }];
    patch
}

async fn sent(server: &Server, bytes: Vec<u8>) -> OwnSound {
    let (status, told) = server.send("/api/sounds?name=Stone.wav", bytes).await;
    assert_eq!(status, StatusCode::CREATED, "{told}");
    serde_json::from_value(told).unwrap()
}

async fn made(server: &Server, patch: &Patch) -> i64 {
    let body = json!({ "document": zolvik_patch::json::write(patch) });
    let (_, made) = server.ask(Method::POST, "/api/patches", Some(body)).await;
    made["summary"]["id"].as_i64().unwrap()
}

#[tokio::test]
async fn a_recording_is_kept_once_and_survives_a_kill() {
    let data = tempfile::tempdir().unwrap();
    let mut server = Server::start(data.path(), &[]);
    let first = sent(&server, tone(440.0)).await;
    assert_eq!(
        (first.name.as_str(), first.frames, first.rate_hz),
        ("Stone", 24_000, 48_000)
    );
    let size = || {
        let files = std::fs::read_dir(data.path()).unwrap();
        files
            .map(|f| f.unwrap().metadata().unwrap().len())
            .sum::<u64>()
    };
    let once = size();
    let again = sent(&server, tone(440.0)).await;
    assert_eq!(first.content, again.content);
    assert!(size() < once + 20_000, "kept once: {once} then {}", size());
    server.child.kill().unwrap();
    server.child.wait().unwrap();
    let server = Server::start(data.path(), &[]);
    let (status, headers, bytes) = server
        .fetch(&format!("/api/sounds/{}", first.content))
        .await;
    assert!(
        status.is_success() && headers.contains("audio/wav"),
        "{headers}"
    );
    let back = wav::read(&bytes, 10.0).unwrap();
    assert_eq!(back.samples.len(), 24_000);
    assert!(
        (back.samples[27] - (std::f32::consts::TAU * 440.0 * 27.0 / 48_000.0).sin() * 0.5).abs()
            < 1e-5
    );
    let (status, _, _) = server
        .fetch(&format!("/api/sounds/{}", "0".repeat(64)))
        .await;
    assert_eq!(status, StatusCode::NOT_FOUND);
}

#[tokio::test]
async fn a_patch_with_audio_travels_as_one_bundle() {
    let (here, there) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let from = Server::start(here.path(), &[]);
    let sound = sent(&from, tone(440.0)).await;
    let id = made(&from, &playing(&sound)).await;
    let (_, headers, packed) = from.fetch(&format!("/api/patches/{id}/file")).await;
    assert!(headers.contains("wet-stone.zip"), "{headers}");
    assert!(bundle::is_bundle(&packed));
    let to = Server::start(there.path(), &[]);
    let (status, taken) = to.send("/api/imports", packed.clone()).await;
    assert_eq!(status, StatusCode::CREATED, "{taken}");
    assert_eq!(taken["summary"]["name"], "Wet Stone");
    let (status, _, wav_file) = to.fetch(&format!("/api/sounds/{}", sound.content)).await;
    assert!(status.is_success() && wav_file.starts_with(b"RIFF"));
    // the command line plays it from the bundle alone
    let file = there.path().join("stone.zip");
    let out = there.path().join("stone.wav");
    std::fs::write(&file, packed).unwrap();
    let done = Command::new(env!("CARGO_BIN_EXE_zolvik"))
        .arg("render")
        .arg(&file)
        .args(["--length", "0.4", "--bits", "32", "--out"])
        .arg(&out)
        .output()
        .unwrap();
    assert!(
        done.status.success(),
        "{}",
        String::from_utf8_lossy(&done.stderr)
    );
    let rendered = wav::read(&std::fs::read(&out).unwrap(), 10.0).unwrap();
    let loudest = rendered.samples.iter().fold(0.0f32, |a, b| a.max(b.abs()));
    assert!(loudest > 0.05, "{loudest}");
    // a patch without audio of its own is a plain file
    let id = made(&from, &Patch::empty()).await;
    let (_, headers, text) = from.fetch(&format!("/api/patches/{id}/file")).await;
    assert!(headers.contains("untitled.json"), "{headers}");
    let (status, _) = to.send("/api/imports", text).await;
    assert_eq!(status, StatusCode::CREATED);
}

#[tokio::test]
async fn bad_uploads_are_refused_with_what_to_do_and_the_server_goes_on() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::start(data.path(), &[]);
    let detail = |(status, problem): (StatusCode, Value)| {
        (status, problem["detail"].as_str().unwrap_or("").to_owned())
    };
    let (status, why) = detail(
        server
            .send("/api/sounds?name=x.wav", b"no sound".to_vec())
            .await,
    );
    assert!(
        status == StatusCode::UNPROCESSABLE_ENTITY && why.contains("convert it"),
        "{why}"
    );
    let (status, why) = detail(server.send("/api/sounds", vec![0; 200 << 20]).await);
    assert!(
        status == StatusCode::PAYLOAD_TOO_LARGE && why.contains("64 MB"),
        "{status} {why}"
    );
    let (status, why) = detail(
        server
            .send("/api/imports", b"PK\x03\x04 and no more".to_vec())
            .await,
    );
    assert!(
        status == StatusCode::UNPROCESSABLE_ENTITY && why.contains("no bundle"),
        "{why}"
    );
    let (status, why) = detail(server.send("/api/imports", vec![0xff, 0xfe, 0x00]).await);
    assert!(
        status == StatusCode::UNPROCESSABLE_ENTITY && why.contains("UTF-8"),
        "{why}"
    );
    assert!(server.list(false).await.is_empty(), "nothing was kept");
}

#[tokio::test]
async fn a_bundle_without_its_recording_comes_in_all_the_same() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::start(data.path(), &[]);
    let sound = sent(&server, tone(300.0)).await;
    let mut patch = playing(&sound);
    // missing audio behind a patch is no fault: it is kept, and the strip will say so
    let UnitKind::Sample(sample) = &mut patch.units[0].kind else {
        unreachable!()
    };
    sample.sound = Sound::Own(OwnSound {
        content: "ab".repeat(32),
        ..sound
    });
    let mut packed = std::io::Cursor::new(vec![]);
    bundle::write(&patch, &mut packed, |_| None).unwrap();
    let packed = packed.into_inner();
    let (status, taken) = server.send("/api/imports", packed).await;
    assert_eq!(status, StatusCode::CREATED, "{taken}");
    let id = taken["summary"]["id"].as_i64().unwrap();
    let (status, _, picture) = server.fetch(&format!("/api/patches/{id}/picture")).await;
    assert!(status.is_success() && picture.starts_with(b"\x89PNG"));
}
