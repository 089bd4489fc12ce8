//! Rendering, on the server and on the command line.

mod files;
mod sets;

use crate::server::Server;
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use zolvik_edit::{Edit, apply};
use zolvik_patch::Patch;
use zolvik_patch::playing::ready::READY_PHRASES;

/// A sine with an articulation an octave higher, and a phrase.
pub fn patch() -> Patch {
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

pub fn wish(batch: Value, format: &str) -> Value {
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
