//! The page's side of effects: what the screen is told of them, and ready, copied and kept settings.

use serde_json::{Value, json};
use zolvik_browser::page::Page;

use crate::support::ask;

fn edit(page: &mut Page, edit: Value) -> Value {
    ask(
        page,
        json!({ "ask": "edit", "edit": edit, "gesture": null }),
    )
}

fn with(kind: &str) -> (Page, Value) {
    let mut page = Page::default();
    ask(&mut page, json!({ "ask": "new" }));
    let made = edit(
        &mut page,
        json!({ "do": "add_effect", "chain": "common", "kind": kind }),
    );
    assert_eq!(made["select"], json!([2001]));
    let view = made["view"]["finish"].clone();
    (page, view)
}

fn effect(view: &Value) -> &Value {
    &view["chains"][2]["effects"][0]
}

#[test]
fn an_effect_is_told_with_its_values_and_its_chain() {
    let (mut page, view) = with("reverb");
    let reverb = effect(&view);
    assert_eq!(
        (&reverb["title"], &reverb["on"]),
        (&json!("Reverb"), &json!(true))
    );
    let mix = reverb["main"].as_array().unwrap().last().unwrap();
    assert_eq!(
        (&mix["label"], &mix["number"]),
        (&json!("Mix"), &json!("25"))
    );
    assert_eq!(reverb["main"].as_array().unwrap().len(), 4);
    assert!(reverb["share"].as_f64().unwrap() > 0.005);
    assert_eq!(view["chains"][0]["from"], json!(["Operator 1"]));
    // moved by all notes alike, and it says so
    assert_eq!(mix["movable"], "all");
    let typed = json!({ "ask": "type", "address": { "param": "reverb.time_s", "id": 2001 }, "text": "3.5 s" });
    let now = ask(&mut page, typed)["view"]["finish"].clone();
    let time = effect(&now)["values"]
        .as_array()
        .unwrap()
        .iter()
        .find(|v| v["label"] == "Time")
        .unwrap()
        .clone();
    assert_eq!(time["value"], 3.5);
    let undone = ask(&mut page, json!({ "ask": "undo" }));
    assert_eq!(undone["view"]["undo"], "add reverb");
}

#[test]
fn ready_settings_are_taken_kept_and_taken_again() {
    let (mut page, _) = with("drive");
    let rules = ask(&mut page, json!({ "ask": "rules" }));
    let drive = rules["effects"]
        .as_array()
        .unwrap()
        .iter()
        .find(|k| k["kind"] == "drive")
        .unwrap()
        .clone();
    assert!(drive["ready"].as_array().unwrap().len() >= 4);
    let taken = ask(
        &mut page,
        json!({ "ask": "take_ready_effect", "effect": 2001, "at": 1 }),
    );
    assert_eq!(effect(&taken["view"]["finish"])["title"], drive["ready"][1]);
    let kept = ask(&mut page, json!({ "ask": "keep_effect", "effect": 2001 }));
    let (mut other, _) = with("drive");
    let again = ask(
        &mut other,
        json!({ "ask": "take_kept_effect", "effect": 2001, "name": "Mine", "text": kept["text"] }),
    );
    assert_eq!(effect(&again["view"]["finish"])["title"], "Mine");
    // of another kind, or from a newer version, it is refused and says why
    let (mut reverb, _) = with("reverb");
    let refused = ask(
        &mut reverb,
        json!({ "ask": "take_kept_effect", "effect": 2001, "name": "Mine", "text": kept["text"] }),
    );
    assert_eq!(
        refused["why"],
        "\u{201c}Mine\u{201d} is for Drive, not for Reverb"
    );
    let newer = kept["text"].as_str().unwrap().replace("drive_db", "vapour");
    let refused = ask(
        &mut other,
        json!({ "ask": "take_kept_effect", "effect": 2001, "name": "Mine", "text": newer }),
    );
    assert!(
        refused["why"].as_str().unwrap().contains("newer version"),
        "{refused}"
    );
}

#[test]
fn effects_are_copied_as_text_and_pasted_into_other_patches() {
    let (mut page, _) = with("delay");
    let copied = ask(
        &mut page,
        json!({ "ask": "copy_effects", "effects": [2001] }),
    );
    let (mut other, _) = with("eq");
    let pasted = ask(
        &mut other,
        json!({ "ask": "paste_effects", "chain": "first", "at": null, "text": copied["text"] }),
    );
    assert_eq!(pasted["select"], json!([2002]));
    assert_eq!(
        pasted["view"]["finish"]["chains"][0]["effects"][0]["kind"],
        "delay"
    );
    let refused = ask(
        &mut other,
        json!({ "ask": "paste_effects", "chain": "first", "at": null, "text": "saw x2" }),
    );
    assert_eq!(refused["is"], "refused");
}

#[test]
fn a_band_that_is_dragged_is_one_step_and_bends_the_curve() {
    let (mut page, view) = with("eq");
    assert!(
        effect(&view)["curve"]
            .as_array()
            .unwrap()
            .iter()
            .all(|db| db.as_f64().unwrap().abs() < 0.01)
    );
    for (hz, gain_db) in [(700.0, 2.0), (900.0, 5.0), (1_000.0, 6.04)] {
        ask(
            &mut page,
            json!({ "ask": "drag_band", "effect": 2001, "at": 1, "hz": hz, "gain_db": gain_db, "gesture": 7 }),
        );
    }
    let now = ask(
        &mut page,
        json!({ "ask": "listen", "listening": { "muted": [], "soloed": [] } }),
    );
    let eq = effect(&now["view"]["finish"]).clone();
    assert_eq!(
        (&eq["bands"][1]["hz"], &eq["bands"][1]["gain_db"]),
        (&json!(1000.0), &json!(6.0))
    );
    let most = eq["curve"]
        .as_array()
        .unwrap()
        .iter()
        .map(|db| db.as_f64().unwrap())
        .fold(0.0, f64::max);
    assert!((most - 6.0).abs() < 0.1, "{most}");
    let undone = ask(&mut page, json!({ "ask": "undo" }));
    assert_eq!(
        effect(&undone["view"]["finish"])["bands"][1]["gain_db"],
        0.0
    );
}
