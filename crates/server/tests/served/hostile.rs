//! The real binary against those who wish it ill or do not know better: memory, waiting, connections, headers, odd files.

use std::io::{Cursor, Read, Write};
use std::net::TcpStream;
use std::time::{Duration, Instant};

use reqwest::{Client, Method, StatusCode};
use rstest::rstest;
use serde_json::json;
use zolvik_patch::testing::{Dice, any_patch};

use crate::server::Server;

/// The most memory the process ever held, in megabytes.
fn most_mb(server: &Server) -> u64 {
    let status = std::fs::read_to_string(format!("/proc/{}/status", server.child.id())).unwrap();
    let line = status.lines().find(|l| l.starts_with("VmHWM:")).unwrap();
    line.split_whitespace()
        .nth(1)
        .unwrap()
        .parse::<u64>()
        .unwrap()
        / 1024
}

fn zip(files: &[(&str, &[u8])]) -> Vec<u8> {
    let mut zip = zip::ZipWriter::new(Cursor::new(vec![]));
    for (name, bytes) in files {
        zip.start_file(*name, zip::write::SimpleFileOptions::default())
            .unwrap();
        zip.write_all(bytes).unwrap();
    }
    zip.finish().unwrap().into_inner()
}

/// Sends the same body several times at once; gives the longest wait of a health check meanwhile.
async fn attack(server: &Server, path: &str, body: Vec<u8>, kind: &str, times: usize) -> Duration {
    let client = Client::new();
    let attacks: Vec<_> = (0..times)
        .map(|_| {
            let sent = client
                .post(format!("{}{path}", server.address))
                .header("content-type", kind);
            tokio::spawn(sent.body(body.clone()).send())
        })
        .collect();
    let mut longest = Duration::ZERO;
    while attacks.iter().any(|a| !a.is_finished()) {
        let asked = Instant::now();
        let (status, _) = server.ask(Method::GET, "/api/health", None).await;
        assert_eq!(status, StatusCode::NO_CONTENT);
        longest = longest.max(asked.elapsed());
    }
    for attack in attacks {
        let status = attack.await.unwrap().unwrap().status();
        assert!(status.is_client_error(), "{status}");
    }
    longest
}

#[tokio::test]
async fn files_that_swell_take_little_memory_and_hold_nobody_up() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::start(data.path(), &[]);
    let mut longest = Duration::ZERO;
    for format in [1, 5] {
        let tiny = format!(
            "{{\"format\": {format}, \"units\": [{}{{}}]}}",
            "{\"\":{}},".repeat(590_000)
        );
        let body = serde_json::to_vec(&json!({ "document": tiny })).unwrap();
        longest = longest.max(attack(&server, "/api/patches", body, "application/json", 4).await);
    }
    let bomb = zip(&[
        (
            "patch.json",
            zolvik_patch::json::write(&zolvik_patch::Patch::empty()).as_bytes(),
        ),
        (
            &format!("audio/{}.wav", "0".repeat(64)),
            &vec![0; 300 << 20],
        ),
    ]);
    assert!(bomb.len() < 2 << 20, "it is small while it is packed");
    longest = longest.max(
        attack(
            &server,
            "/api/imports",
            bomb,
            "application/octet-stream",
            10,
        )
        .await,
    );
    let most = most_mb(&server);
    println!("most memory {most} MB (bar 400), longest health check {longest:?} (bar 100 ms)");
    assert!(most < 400, "{most} MB");
}

#[tokio::test(flavor = "multi_thread")]
async fn a_slow_head_and_an_idle_connection_are_let_go_and_others_served() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::start(data.path(), &[]);
    let host = server.address.trim_start_matches("http://").to_owned();
    let begin = |text: &str| {
        let mut stream = TcpStream::connect(&host).unwrap();
        stream.write_all(text.as_bytes()).unwrap();
        stream
            .set_read_timeout(Some(Duration::from_secs(40)))
            .unwrap();
        stream
    };
    let request = format!("GET /api/health HTTP/1.1\r\nHost: {host}\r\n");
    let mut slow = begin(&request);
    let mut idle = begin(&format!("{request}\r\n"));
    // more connections than there is room for: the rest wait, and are served once others go
    let crowd: Vec<TcpStream> = (0..100).map(|_| begin(&request)).collect();
    let (status, _) = server.ask(Method::GET, "/api/health", None).await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    let ended = |stream: &mut TcpStream| {
        let mut rest = vec![];
        stream.read_to_end(&mut rest).is_ok()
    };
    let since = Instant::now();
    assert!(
        tokio::task::block_in_place(|| ended(&mut slow)),
        "a head that never ends"
    );
    assert!(
        tokio::task::block_in_place(|| ended(&mut idle)),
        "a connection nobody uses"
    );
    assert!(since.elapsed() < Duration::from_secs(35));
    drop(crowd);
}

#[rstest]
#[case::nothing_open(false)]
#[case::in_the_middle_of_a_body(true)]
#[tokio::test]
async fn it_ends_soon_when_asked(#[case] open: bool) {
    let data = tempfile::tempdir().unwrap();
    let mut server = Server::start(data.path(), &[]);
    let host = server.address.trim_start_matches("http://").to_owned();
    let mut stream = TcpStream::connect(&host).unwrap();
    if open {
        let head =
            format!("POST /api/imports HTTP/1.1\r\nHost: {host}\r\nContent-Length: 100000\r\n\r\n");
        stream.write_all(head.as_bytes()).unwrap();
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    let asked = Instant::now();
    let pid = server.child.id().to_string();
    std::process::Command::new("kill")
        .args(["-INT", &pid])
        .status()
        .unwrap();
    while server.child.try_wait().unwrap().is_none() {
        assert!(asked.elapsed() < Duration::from_secs(4), "it goes on");
        tokio::time::sleep(Duration::from_millis(20)).await;
    }
    println!("ended after {:?} (bar 2 s)", asked.elapsed());
}

#[rstest]
#[case::foreign_host("/api/patches", "host", "evil.example", 403)]
#[case::foreign_origin("/api/patches", "origin", "http://evil.example", 403)]
#[case::foreign_image("/api/patches/1/picture", "sec-fetch-site", "cross-site", 403)]
#[case::other_port_of_this_machine("/api/patches/1/file", "sec-fetch-site", "same-site", 403)]
#[case::other_library("/api/patches", "zolvik-library", "0123", 412)]
#[case::no_number("/api/patches/abc", "x", "y", 404)]
#[case::no_number_of_a_version("/api/patches/1/versions/x", "x", "y", 404)]
#[case::too_large_a_number("/api/patches/99999999999999999999", "x", "y", 404)]
#[case::senseless_query("/api/patches?bin=maybe", "x", "y", 400)]
#[case::missing_asset("/assets/nothing.js", "x", "y", 404)]
#[case::missing_file("/favicon.ico", "x", "y", 404)]
#[case::hidden_signs("/api/%E2%80%AEevil", "x", "y", 404)]
#[tokio::test]
async fn refusals_are_problems_with_the_strict_headers(
    #[case] path: &str,
    #[case] header: &str,
    #[case] value: &str,
    #[case] status: u16,
) {
    let data = tempfile::tempdir().unwrap();
    let server = Server::start(data.path(), &[]);
    server
        .ask(Method::POST, "/api/patches", Some(json!({})))
        .await;
    let asked = Client::new().get(format!("{}{path}", server.address));
    let answer = asked.header(header, value).send().await.unwrap();
    assert_eq!(answer.status().as_u16(), status);
    let headers = answer.headers().clone();
    assert_eq!(headers["content-type"], "application/problem+json");
    assert_eq!(headers["x-content-type-options"], "nosniff");
    assert!(
        headers["content-security-policy"]
            .to_str()
            .unwrap()
            .contains("default-src 'none'")
    );
    let text = answer.text().await.unwrap();
    assert!(!text.contains('\u{202e}'), "{text}");
}

#[tokio::test]
async fn a_wrong_method_and_a_long_address_are_problems_too() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::start(data.path(), &[]);
    for (method, path) in [
        (Method::DELETE, "/api/patches/1".to_owned()),
        (Method::POST, "/".to_owned()),
        (Method::PUT, format!("/{}", "x".repeat(3000))),
    ] {
        let (status, problem) = server.ask(method, &path, None).await;
        assert_eq!(status, StatusCode::METHOD_NOT_ALLOWED, "{problem}");
        assert!(
            problem["detail"].as_str().unwrap().chars().count() < 300,
            "{problem}"
        );
    }
}

#[tokio::test]
async fn mutated_patches_bundles_and_recordings_are_refused_or_whole() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::start(data.path(), &[]);
    let mut dice = Dice(0xbad);
    let tone: Vec<f32> = (0..2000).map(|i| (i as f32 * 0.1).sin()).collect();
    let wav = zolvik_files::wav::write_mono(&tone, 48_000).unwrap();
    for round in 0..400u64 {
        let patch = zolvik_patch::json::write(&any_patch(round)).into_bytes();
        let (path, mut bytes) = match round % 4 {
            0 | 1 => ("/api/imports", patch),
            2 => ("/api/imports", zip(&[("patch.json", &patch)])),
            _ => ("/api/sounds?name=x.wav", wav.clone()),
        };
        for _ in 0..1 + dice.below(5) {
            let at = dice.below(bytes.len());
            match dice.below(4) {
                0 => bytes.truncate(at.max(8)),
                1 => bytes.insert(at, dice.bits() as u8),
                _ => bytes[at] = dice.bits() as u8,
            }
        }
        let (status, told) = server.send(path, bytes).await;
        assert!(
            status == StatusCode::CREATED || status == StatusCode::UNPROCESSABLE_ENTITY,
            "round {round}: {status} {told}"
        );
        if status != StatusCode::CREATED {
            let detail = told["detail"].as_str().unwrap();
            assert!(
                !detail.is_empty() && detail.chars().count() < 600,
                "round {round}: {detail}"
            );
        }
    }
    let listed = server.get("/api/patches").await;
    assert!(
        listed["patches"]
            .as_array()
            .unwrap()
            .iter()
            .all(|p| p["damage"].is_null())
    );
}

#[tokio::test]
async fn a_library_of_thousands_is_listed_by_stretches() {
    let data = tempfile::tempdir().unwrap();
    let store = zolvik_store::Store::open(data.path()).unwrap();
    let mut patches = vec![zolvik_patch::Patch::empty(); 2409];
    for (n, patch) in patches.iter_mut().enumerate() {
        patch.meta.name = format!("p{n}");
    }
    store.create_all(&patches).unwrap();
    drop(store);
    let server = Server::start(data.path(), &[]);
    let asked = Instant::now();
    let mut names = std::collections::HashSet::new();
    for offset in (0..2409).step_by(500) {
        let part = server
            .get(&format!("/api/patches?offset={offset}&limit=500"))
            .await;
        assert_eq!(part["total"], 2409);
        for patch in part["patches"].as_array().unwrap() {
            assert!(patch["damage"].is_null() && patch["strips"].as_u64() > Some(0));
            names.insert(patch["name"].as_str().unwrap().to_owned());
        }
    }
    println!(
        "2409 patches listed in {:?} (bar 0.3 s, debug build)",
        asked.elapsed()
    );
    assert_eq!(names.len(), 2409);
}
