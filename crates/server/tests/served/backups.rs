//! Backups over the API: what differs, single patches taken out, the whole put in place while it is served.

use reqwest::{Client, Method, StatusCode};
use serde_json::{Value, json};
use zolvik_patch::Patch;
use zolvik_patch::document::{KindName, Unit, UnitId, UnitKind};
use zolvik_patch::sound::{OwnSound, Sound};

use crate::server::Server;

fn document(name: &str) -> String {
    let mut patch = Patch::empty();
    patch.meta.name = name.into();
    zolvik_patch::json::write(&patch)
}

async fn create(server: &Server, document: &str) -> i64 {
    let body = json!({ "document": document });
    let (status, made) = server.ask(Method::POST, "/api/patches", Some(body)).await;
    assert_eq!(status, StatusCode::CREATED, "{made}");
    made["summary"]["id"].as_i64().unwrap()
}

async fn save(server: &Server, id: i64, revision: i64, name: &str) -> StatusCode {
    let body = json!({ "revision": revision, "document": document(name) });
    let path = format!("/api/patches/{id}");
    server.ask(Method::PUT, &path, Some(body)).await.0
}

async fn back_up(server: &Server) -> String {
    let (status, name) = server.ask(Method::POST, "/api/backups", None).await;
    assert_eq!(status, StatusCode::CREATED, "{name}");
    name.as_str().unwrap().into()
}

fn names(list: &[Value]) -> Vec<&str> {
    let mut names: Vec<&str> = list.iter().map(|p| p["name"].as_str().unwrap()).collect();
    names.sort_unstable();
    names
}

/// A patch that plays a recording that is brought in.
async fn with_recording(server: &Server) -> (i64, String) {
    let samples: Vec<f32> = (0..4000).map(|n| (n as f32 * 0.1).sin()).collect();
    let wav = zolvik_files::wav::write_mono(&samples, 48_000).unwrap();
    let (status, sound) = server.send("/api/sounds?name=knock", wav).await;
    assert_eq!(status, StatusCode::CREATED, "{sound}");
    let sound: OwnSound = serde_json::from_value(sound).unwrap();
    let mut patch = Patch::empty();
    patch.meta.name = "Knocks".into();
    let mut unit = Unit::new(UnitId(9), KindName::Sample);
    if let UnitKind::Sample(sample) = &mut unit.kind {
        sample.sound = Sound::Own(sound.clone());
    }
    patch.units.push(unit);
    let id = create(server, &zolvik_patch::json::write(&patch)).await;
    (id, sound.content)
}

#[tokio::test]
async fn one_sees_what_differs_and_takes_single_patches_out_with_their_recordings() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::start(data.path(), &[]);
    let same = create(&server, &document("same")).await;
    let changed = create(&server, &document("before")).await;
    let (gone, content) = with_recording(&server).await;
    let backup = back_up(&server).await;
    assert_eq!(save(&server, changed, 1, "after").await, StatusCode::OK);
    create(&server, &document("new")).await;
    server
        .ask(Method::POST, &format!("/api/patches/{gone}/bin"), None)
        .await;
    server.ask(Method::DELETE, "/api/bin", None).await;
    assert_eq!(
        server.fetch(&format!("/api/sounds/{content}")).await.0,
        StatusCode::NOT_FOUND
    );
    let list = server.get("/api/backups").await;
    assert_eq!(
        (&list[0]["name"], &list[0]["patches"]),
        (&json!(backup), &json!(3))
    );
    assert_eq!(list[0]["kind"], "daily");
    let inside = server.get(&format!("/api/backups/{backup}")).await;
    let standing = |id: i64| {
        let all = inside["patches"].as_array().unwrap();
        all.iter().find(|p| p["id"] == id).unwrap()["standing"].clone()
    };
    assert_eq!(
        [standing(same), standing(changed), standing(gone)],
        [json!("same"), json!("changed"), json!("gone")]
    );
    assert_eq!(inside["new_since"], json!(["new"]));
    let (status, copy) = server
        .ask(
            Method::POST,
            &format!("/api/backups/{backup}/patches/{gone}"),
            None,
        )
        .await;
    assert_eq!(status, StatusCode::CREATED, "{copy}");
    assert_eq!(copy["summary"]["name"], "Knocks (backup)");
    let (status, _, wav) = server.fetch(&format!("/api/sounds/{content}")).await;
    assert!(
        status.is_success() && wav.starts_with(b"RIFF"),
        "its recording came along"
    );
    let (status, _) = server
        .ask(
            Method::POST,
            &format!("/api/backups/{backup}/patches/{changed}"),
            None,
        )
        .await;
    assert_eq!(status, StatusCode::CREATED);
    assert_eq!(
        names(&server.list(false).await),
        ["Knocks (backup)", "after", "before (backup)", "new", "same"]
    );
    for (path, wanted) in [
        (
            format!("/api/backups/{backup}/patches/99"),
            StatusCode::NOT_FOUND,
        ),
        (
            "/api/backups/zolvik.sqlite/restore".into(),
            StatusCode::NOT_FOUND,
        ),
        (
            "/api/backups/..%2Fzolvik.sqlite/restore".into(),
            StatusCode::NOT_FOUND,
        ),
    ] {
        let (status, problem) = server.ask(Method::POST, &path, None).await;
        assert_eq!(status, wanted, "{problem}");
    }
}

#[tokio::test]
async fn a_backup_is_put_in_place_while_the_library_is_served_and_taken_back() {
    let data = tempfile::tempdir().unwrap();
    let mut server = Server::start(data.path(), &[]);
    let id = create(&server, &document("early")).await;
    let backup = back_up(&server).await;
    assert_eq!(save(&server, id, 1, "late").await, StatusCode::OK);
    let about = server.get("/api/library").await;
    let path = format!("/api/backups/{backup}/restore");
    let (status, aside) = server.ask(Method::POST, &path, None).await;
    assert_eq!(status, StatusCode::OK, "{aside}");
    assert_eq!(names(&server.list(false).await), ["early"]);
    // the same revision again, from a page that knows the library of before: it must not pass for one based on this one
    assert_eq!(save(&server, id, 1, "another late").await, StatusCode::OK);
    let now = server.get("/api/library").await;
    assert_eq!(now["library"], about["library"]);
    assert_ne!(now["opening"], about["opening"]);
    let stale = Client::new()
        .put(format!("{}/api/patches/{id}", server.address))
        .header("zolvik-library", about["library"].as_str().unwrap())
        .header("zolvik-opening", about["opening"].as_str().unwrap())
        .json(&json!({ "revision": 2, "document": document("lost") }))
        .send()
        .await
        .unwrap();
    assert_eq!(stale.status(), StatusCode::PRECONDITION_FAILED);
    let problem: Value = stale.json().await.unwrap();
    assert_eq!(problem["title"], "a backup was put in place");
    assert_eq!(names(&server.list(false).await), ["another late"]);
    // one that is no library leaves everything as it is, served
    let broken = data
        .path()
        .join("backups/zolvik-20260102-030405.678.sqlite");
    std::fs::write(&broken, "no tables").unwrap();
    let path = "/api/backups/zolvik-20260102-030405.678.sqlite/restore";
    let (status, problem) = server.ask(Method::POST, path, None).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{problem}");
    assert_eq!(names(&server.list(false).await), ["another late"]);
    // what was set aside is put back, and is what it was after a kill
    let path = format!("/api/backups/{}/restore", aside.as_str().unwrap());
    let (status, answer) = server.ask(Method::POST, &path, None).await;
    assert_eq!(status, StatusCode::OK, "{answer}");
    let opening = server.get("/api/library").await["opening"].clone();
    server.child.kill().unwrap();
    server.child.wait().unwrap();
    let server = Server::start(data.path(), &[]);
    assert_eq!(names(&server.list(false).await), ["late"]);
    assert_eq!(
        server.get("/api/library").await["opening"],
        opening,
        "a new start is no other library"
    );
}
