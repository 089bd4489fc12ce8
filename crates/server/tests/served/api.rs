//! The real binary on a real SQLite file.

use reqwest::{Client, Method, StatusCode};
use rstest::rstest;
use serde_json::{Value, json};
use zolvik_patch::Patch;

use crate::server::{Server, run_sql};

pub fn document(name: &str) -> String {
    let mut patch = Patch::empty();
    patch.meta.name = name.into();
    zolvik_patch::json::write(&patch)
}

#[tokio::test]
async fn what_was_acknowledged_survives_a_kill() {
    let data = tempfile::tempdir().unwrap();
    let mut server = Server::start(data.path(), &[]);
    let (status, made) = server
        .ask(Method::POST, "/api/patches", Some(json!({})))
        .await;
    assert_eq!(status, StatusCode::CREATED);
    let path = format!("/api/patches/{}", made["summary"]["id"]);
    let mut revision = 1;
    for n in 0..20 {
        let body = json!({ "revision": revision, "document": document(&format!("edit {n}")) });
        let (status, saved) = server.ask(Method::PUT, &path, Some(body)).await;
        assert_eq!(status, StatusCode::OK, "{saved}");
        revision = saved["revision"].as_i64().unwrap();
    }
    server.child.kill().unwrap(); // SIGKILL: no farewell
    server.child.wait().unwrap();
    let again = Server::start(data.path(), &[]);
    let read = again.get(&path).await;
    assert_eq!(read["document"], document("edit 19"));
    assert_eq!(read["summary"]["revision"], revision);
}

#[tokio::test]
async fn a_life_of_a_patch() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::start(data.path(), &["--demo"]);
    let list = server.list(false).await;
    let names: Vec<&str> = list.iter().map(|p| p["name"].as_str().unwrap()).collect();
    assert_eq!(names.len(), demo_patches());
    assert_eq!(
        names[..4],
        ["Frost Fern", "Root Cellar", "Pollen Drift", "Copper Wasp"]
    );
    let id = list[0]["id"].as_i64().unwrap();
    let (status, copy) = server
        .ask(Method::POST, &format!("/api/patches/{id}/duplicate"), None)
        .await;
    assert_eq!(
        (status, &copy["summary"]["name"]),
        (StatusCode::CREATED, &json!("Frost Fern copy"))
    );
    let path = format!("/api/patches/{}", copy["summary"]["id"]);
    let (_, renamed) = server
        .ask(Method::PATCH, &path, Some(json!({ "name": "Rime" })))
        .await;
    assert_eq!(renamed["name"], "Rime");
    let tags = format!("{path}/tags");
    for tag in ["frost", "cold", "cold"] {
        let body = Some(json!({ "tag": tag }));
        let (status, _) = server.ask(Method::POST, &tags, body).await;
        assert_eq!(status, StatusCode::OK);
    }
    let tagged = server.get(&path).await["summary"]["tags"].clone();
    let count = |tag: &str| {
        tagged
            .as_array()
            .unwrap()
            .iter()
            .filter(|t| *t == tag)
            .count()
    };
    assert_eq!((count("cold"), count("frost")), (1, 1), "{tagged}");
    for wrong in ["", &"x".repeat(200)] {
        let body = Some(json!({ "tag": wrong }));
        let (status, problem) = server.ask(Method::POST, &tags, body).await;
        assert!(status.is_client_error(), "{problem}");
    }
    let (status, kept) = server
        .ask(
            Method::POST,
            &format!("{path}/versions"),
            Some(json!({ "name": "first" })),
        )
        .await;
    assert_eq!(status, StatusCode::CREATED);
    let version = server.get(&format!("{path}/versions/{}", kept["id"])).await;
    assert!(version["document"].as_str().unwrap().contains("\"Rime\""));
    server.ask(Method::POST, &format!("{path}/bin"), None).await;
    assert_eq!(server.list(true).await[0]["name"], "Rime");
    assert_eq!(server.list(false).await.len(), demo_patches());
    server
        .ask(Method::POST, &format!("{path}/restore"), None)
        .await;
    assert_eq!(server.list(false).await.len(), demo_patches() + 1);
}

#[tokio::test]
async fn the_later_of_two_windows_is_told() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::start(data.path(), &[]);
    server
        .ask(Method::POST, "/api/patches", Some(json!({})))
        .await;
    let save = |name: &str| json!({ "revision": 1, "document": document(name) });
    let (first, _) = server
        .ask(Method::PUT, "/api/patches/1", Some(save("first")))
        .await;
    let (second, problem) = server
        .ask(Method::PUT, "/api/patches/1", Some(save("second")))
        .await;
    assert_eq!((first, second), (StatusCode::OK, StatusCode::CONFLICT));
    assert_eq!(problem["title"], "changed elsewhere");
    assert_eq!(
        server.get("/api/patches/1").await["summary"]["name"],
        "first"
    );
}

/// Patches of the demo collection.
fn demo_patches() -> usize {
    zolvik_server::demo::collection().unwrap().len()
}

#[rstest]
#[case::no_such_patch(Method::GET, "/api/patches/77", None, 404, "no patch 77")]
#[case::no_such_path(Method::GET, "/api/nothing", None, 404, "there is no")]
#[case::broken_document(Method::POST, "/api/patches", Some(json!({ "document": "{" })), 422, "not JSON")]
#[case::unknown_field(Method::POST, "/api/patches", Some(json!({ "colour": 1 })), 422, "colour")]
#[case::list_for_an_object(Method::POST, "/api/patches", Some(json!([null, null])), 422, "send an object")]
#[case::bad_name(Method::PATCH, "/api/patches/1", Some(json!({ "name": " " })), 422, "meta.name")]
#[case::too_large(Method::POST, "/api/patches", Some(json!({ "document": " ".repeat(19 << 20) })), 413, "18 MB")]
#[tokio::test]
async fn bad_requests_get_a_problem_that_says_what_is_wrong(
    #[case] method: Method,
    #[case] path: &str,
    #[case] body: Option<Value>,
    #[case] expected: u16,
    #[case] words: &str,
) {
    let data = tempfile::tempdir().unwrap();
    let server = Server::start(data.path(), &["--demo"]);
    let (status, problem) = server.ask(method, path, body).await;
    assert_eq!(status.as_u16(), expected, "{problem}");
    assert_eq!(problem["status"], expected);
    assert!(
        problem["detail"]
            .as_str()
            .unwrap_or_default()
            .contains(words),
        "{problem}"
    );
    assert_eq!(
        server.list(false).await.len(),
        demo_patches(),
        "nothing changed"
    );
}

#[rstest]
#[case::foreign_name("host", "evil.example")]
#[case::other_port("host", "127.0.0.1:1")]
#[case::foreign_page("origin", "http://evil.example")]
#[case::opaque_page("origin", "null")]
#[tokio::test]
async fn foreign_hosts_and_origins_are_refused(#[case] header: &str, #[case] value: &str) {
    let data = tempfile::tempdir().unwrap();
    let server = Server::start(data.path(), &[]);
    let response = Client::new()
        .get(format!("{}/api/patches", server.address))
        .header(header, value)
        .send()
        .await
        .unwrap();
    assert_eq!(response.status(), StatusCode::FORBIDDEN);
    assert_eq!(
        response.headers()["content-type"],
        "application/problem+json"
    );
}

#[tokio::test]
async fn answers_carry_the_strict_headers() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::start(data.path(), &[]);
    let response = reqwest::get(format!("{}/api/health", server.address))
        .await
        .unwrap();
    let headers = response.headers();
    assert_eq!(headers["cross-origin-opener-policy"], "same-origin");
    assert_eq!(headers["cross-origin-embedder-policy"], "require-corp");
    assert_eq!(headers["x-content-type-options"], "nosniff");
    assert!(
        headers["content-security-policy"]
            .to_str()
            .unwrap()
            .contains("default-src 'none'")
    );
}

#[tokio::test]
async fn the_api_describes_itself_and_draws_pictures() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::start(data.path(), &["--demo"]);
    let described = server.get("/api/openapi.json").await;
    for path in [
        "/api/patches",
        "/api/patches/{id}",
        "/api/patches/{id}/versions",
        "/api/patches/{id}/picture",
    ] {
        assert!(
            described["paths"].get(path).is_some(),
            "{path} is described"
        );
    }
    assert!(server.get("/api/schema").await["$defs"]["Envelope"].is_object());
    let png = reqwest::get(format!("{}/api/patches/1/picture", server.address))
        .await
        .unwrap()
        .bytes()
        .await
        .unwrap();
    let mut reader = png::Decoder::new(std::io::Cursor::new(&png[..]))
        .read_info()
        .unwrap();
    let mut pixels = vec![0; reader.output_buffer_size().unwrap()];
    reader.next_frame(&mut pixels).unwrap();
    let inked = pixels.chunks(2).filter(|p| p[1] > 60).count();
    assert!(
        inked > 100,
        "the picture shows a sound: {inked} inked points"
    );
}

#[tokio::test]
async fn a_damaged_patch_is_listed_exported_as_it_is_and_binned() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::start(data.path(), &["--demo"]);
    // another program wrote nonsense
    run_sql(
        data.path(),
        "UPDATE patches SET document = '{broken' WHERE id = 3",
    );
    let list = server.list(false).await;
    assert_eq!(list.len(), 27);
    let damaged: Vec<&Value> = list.iter().filter(|p| !p["damage"].is_null()).collect();
    assert_eq!(damaged.len(), 1);
    assert_eq!(damaged[0]["id"], 3);
    let (status, problem) = server.ask(Method::GET, "/api/patches/3", None).await;
    assert_eq!(
        (status, &problem["title"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("damaged"))
    );
    assert!(
        problem["detail"]
            .as_str()
            .unwrap()
            .contains("export it as it is"),
        "{problem}"
    );
    let (status, headers, bytes) = server.fetch("/api/patches/3/raw").await;
    assert!(
        status.is_success() && headers.contains("attachment"),
        "{headers}"
    );
    assert_eq!(bytes, b"{broken");
    let (status, _) = server.ask(Method::POST, "/api/patches/3/bin", None).await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(server.list(false).await.len(), 26);
    drop(server);
    // and a start with the demo collection works beside it
    let server = Server::start(data.path(), &["--demo"]);
    assert_eq!(server.list(true).await.len(), 1);
}

#[tokio::test]
async fn pictures_are_drawn_once_for_each_content() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::start(data.path(), &["--demo"]);
    let patch = server.list(false).await[0].clone();
    let path = format!(
        "/api/patches/{}/picture?content={}",
        patch["id"],
        patch["content"].as_str().unwrap()
    );
    let (_, headers, first) = server.fetch(&path).await;
    assert!(headers.contains("immutable"), "{headers}");
    let kept = || {
        std::fs::read_dir(data.path().join("cache"))
            .unwrap()
            .count()
    };
    assert_eq!(kept(), 1);
    let (_, _, again) = server.fetch(&path).await;
    assert!(first == again && kept() == 1);
    let (_, headers, _) = server
        .fetch(&format!("/api/patches/{}/picture", patch["id"]))
        .await;
    assert!(headers.contains("no-cache"), "{headers}");
}

#[tokio::test]
async fn a_suffix_never_makes_a_name_too_long() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::start(data.path(), &[]);
    let body = json!({ "document": document(&"x".repeat(80)), "suffix": "(mine)" });
    let (status, made) = server.ask(Method::POST, "/api/patches", Some(body)).await;
    assert_eq!(status, StatusCode::CREATED, "{made}");
    let name = made["summary"]["name"].as_str().unwrap();
    assert!(
        name.ends_with("x (mine)") && name.chars().count() == 80,
        "{name}"
    );
}
