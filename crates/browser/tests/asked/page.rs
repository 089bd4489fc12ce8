//! The page's side of the module: what the screen is told, tested natively.

use serde_json::{Value, json};
use zolvik_browser::page::Page;

use crate::support::ask;

pub fn modulated() -> Page {
    let mut page = Page::default();
    ask(&mut page, json!({ "ask": "new" }));
    ask(
        &mut page,
        json!({ "ask": "edit", "edit": { "do": "add_unit", "kind": "operator", "connect": { "to": "unit", "id": 1 } }, "gesture": null }),
    );
    page
}

#[test]
fn the_view_says_everything_in_words() {
    let mut page = modulated();
    let typed =
        json!({ "ask": "type", "address": { "param": "operator.ratio", "id": 2 }, "text": "7/2" });
    let view = ask(&mut page, typed)["view"].clone();
    let strip = &view["strips"][0];
    assert_eq!(
        (&strip["id"], &strip["role"]),
        (&json!(2), &json!("Modulator to Operator 1"))
    );
    assert_eq!(
        (&strip["ratio"], &strip["hz"], &strip["note"]),
        (&json!("×3.50"), &json!("770.0 Hz"), &json!("G5 −31 ct"))
    );
    assert_eq!(strip["sends"][0]["pair"], "2 : 7");
    assert_eq!(view["undo"], "ratio");
    assert_eq!(view["audition"]["name"], "A3");
}

#[test]
fn words_at_the_cursor_follow_the_send() {
    let mut page = modulated();
    let words = ask(
        &mut page,
        json!({ "ask": "words", "amplitudes": [0.5, 1.0], "sends": [0, 0] }),
    );
    assert_eq!(words["words"], json!(["0.25 rad", "−12.0 dB"]));
}

#[test]
fn refusals_come_with_a_reason_and_change_nothing() {
    let mut page = modulated();
    let before = page.program();
    let refused = ask(
        &mut page,
        json!({ "ask": "type", "address": { "param": "operator.ratio", "id": 2 }, "text": "loud" }),
    );
    assert!(refused["is"] == "refused" && refused["why"].as_str().unwrap().contains("3:2"));
    let refused = ask(&mut page, json!({ "ask": "load", "text": "{}" }));
    assert_eq!(refused["is"], "refused");
    assert_eq!(page.program(), before);
}

#[test]
fn trimming_puts_the_peak_at_minus_one() {
    let mut page = modulated();
    let view = ask(
        &mut page,
        json!({ "ask": "trim_to", "true_peak_db": -13.04 }),
    )["view"]
        .clone();
    let trim = view["values"]
        .as_array()
        .unwrap()
        .iter()
        .find(|v| v["label"] == "Trim")
        .unwrap()["value"]
        .as_f64()
        .unwrap();
    assert!(
        (trim - 12.0).abs() < 0.11 && -13.04 + trim <= -1.0,
        "trim {trim}"
    );
    assert_eq!(
        ask(
            &mut page,
            json!({ "ask": "trim_to", "true_peak_db": -200.0 })
        )["is"],
        "refused"
    );
}

#[test]
fn muting_changes_the_sound_and_not_the_text() {
    let mut page = modulated();
    let text = ask(&mut page, json!({ "ask": "save" }));
    let before = page.program();
    ask(
        &mut page,
        json!({ "ask": "listen", "listening": { "muted": [2], "soloed": [] } }),
    );
    assert_ne!(page.program(), before);
    assert_eq!(ask(&mut page, json!({ "ask": "save" })), text);
}

#[test]
fn a_whole_patch_put_in_place_is_one_step_of_undo() {
    let mut page = modulated();
    let text = zolvik_patch::json::write(&zolvik_patch::Patch::empty());
    let view = ask(&mut page, json!({ "ask": "bring_back", "text": text }))["view"].clone();
    assert_eq!(
        (view["strips"].as_array().unwrap().len(), &view["undo"]),
        (1, &json!("bring back"))
    );
    let view = ask(&mut page, json!({ "ask": "undo" }))["view"].clone();
    assert_eq!(view["strips"].as_array().unwrap().len(), 2);
}

fn text(page: &mut Page) -> Value {
    ask(page, json!({ "ask": "save" }))["text"].clone()
}

#[test]
fn trying_arrangements_and_going_back_leaves_what_was_and_its_history() {
    let mut page = modulated();
    let (before, undo) = (text(&mut page), json!("add operator"));
    let list = ask(&mut page, json!({ "ask": "arrangements" }))["list"].clone();
    let count = list.as_array().unwrap().len();
    assert_eq!(count, 2, "two operators: side by side, or a stack");
    let present = list
        .as_array()
        .unwrap()
        .iter()
        .position(|a| a["present"] == true);
    assert!(present.is_some(), "one of them is what there is");
    // all of them in turn, ending on the one there was: nothing is left to take back
    for last in 0..count {
        for at in (0..count).chain([last]) {
            let view = ask(&mut page, json!({ "ask": "try_arrangement", "at": at }));
            assert_eq!(view["view"]["trying"], true);
        }
        let view = ask(&mut page, json!({ "ask": "end_trial", "keep": false }));
        assert_eq!((&text(&mut page), &view["view"]["undo"]), (&before, &undo));
    }
    ask(
        &mut page,
        json!({ "ask": "try_arrangement", "at": 1 - present.unwrap() }),
    );
    ask(&mut page, json!({ "ask": "end_trial", "keep": true }));
    assert_ne!(text(&mut page), before);
    ask(&mut page, json!({ "ask": "undo" }));
    assert_eq!(text(&mut page), before, "taken: one step");
}

#[test]
fn another_edit_takes_what_was_being_tried() {
    let mut page = modulated();
    ask(&mut page, json!({ "ask": "arrangements" }));
    ask(&mut page, json!({ "ask": "try_arrangement", "at": 0 }));
    let typed =
        json!({ "ask": "type", "address": { "param": "operator.ratio", "id": 2 }, "text": "5" });
    let view = ask(&mut page, typed)["view"].clone();
    assert_eq!(
        (&view["trying"], &view["undo"]),
        (&json!(false), &json!("ratio"))
    );
    let after = text(&mut page);
    ask(&mut page, json!({ "ask": "end_trial", "keep": false }));
    assert_eq!(text(&mut page), after, "there is nothing to go back to");
}

#[test]
fn linked_envelopes_follow_in_proportion_and_never_leave_their_range() {
    let mut page = modulated();
    let attack = |page: &mut Page, id: u16, typed: &str| {
        let address = json!({ "param": "point.time_s", "id": id, "point": 0 });
        ask(
            page,
            json!({ "ask": "type", "address": address, "text": typed }),
        )
    };
    attack(&mut page, 1, "1 s");
    attack(&mut page, 2, "4 s");
    let link = json!({ "do": "link_envelopes", "units": [1, 2], "equal": false });
    ask(
        &mut page,
        json!({ "ask": "edit", "edit": link, "gesture": null }),
    );
    let view = attack(&mut page, 1, "10 s")["view"].clone();
    let written = |view: &Value, unit: usize| {
        let strips = view["strips"].as_array().unwrap();
        let strip = strips.iter().find(|s| s["id"] == unit).unwrap();
        strip["envelope"]["points"][0]["values"][0]["value"]
            .as_f64()
            .unwrap()
    };
    assert_eq!(
        (written(&view, 1), written(&view, 2)),
        (10.0, 20.0),
        "40 s is beyond the range"
    );
    let view = ask(&mut page, json!({ "ask": "undo" }))["view"].clone();
    assert_eq!((written(&view, 1), written(&view, 2)), (1.0, 4.0));
}

/// A value of a strip on the screen.
fn value<'a>(view: &'a Value, strip: usize, param: &str) -> &'a Value {
    let values = view["strips"][strip]["values"].as_array().unwrap();
    values
        .iter()
        .find(|v| v["address"]["param"] == param)
        .unwrap()
}

#[test]
fn a_field_says_how_far_it_can_be_had() {
    let mut page = Page::default();
    ask(&mut page, json!({ "ask": "new" }));
    let typed = |page: &mut Page, param: &str, text: &str| {
        let question =
            json!({ "ask": "type", "address": { "param": param, "id": 1 }, "text": text });
        ask(page, question)["view"].clone()
    };
    let view = typed(&mut page, "cycle.steps", "100%");
    assert_eq!(value(&view, 0, "cycle.steps")["limit"], Value::Null);
    // sixteen levels of a high note would reach far beyond what is heard
    typed(&mut page, "cycle.levels", "16");
    let view = typed(&mut page, "operator.ratio", "8");
    assert_eq!(
        value(&view, 0, "cycle.steps")["limit"],
        "0 % of it at this note: more would reach beyond 20 kHz"
    );
}

#[test]
fn cost_counts_copies_and_what_works_twice() {
    let mut page = Page::default();
    let view = ask(&mut page, json!({ "ask": "new" }))["view"].clone();
    assert_eq!(
        (&view["cost"], &view["strips"][0]["cost"]),
        (&json!(1.0), &json!(1.0))
    );
    let typed =
        json!({ "ask": "type", "address": { "param": "unit.copies", "id": 1 }, "text": "7" });
    let view = ask(&mut page, typed)["view"].clone();
    assert_eq!(
        (&view["cost"], &view["strips"][0]["cost"]),
        (&json!(7.0), &json!(7.0))
    );
    assert_eq!(view["strips"][0]["role"], "Carrier of 7 copies");
    // a high key of a bright sound takes more times the rate, and says so
    let mut page = Page::default();
    ask(&mut page, json!({ "ask": "new" }));
    let feedback = json!({ "ask": "edit", "edit": { "do": "add_route", "from": 1, "to": 1, "kind": "phase" } });
    ask(&mut page, feedback);
    let typed = |text| json!({ "ask": "type", "address": { "param": "audition.note", "id": 0 }, "text": text });
    let low = ask(&mut page, typed("A2"))["view"].clone();
    let high = ask(&mut page, typed("C8"))["view"].clone();
    assert_eq!((&low["cost"], &low["cost_at"]), (&json!(3.0), &json!("")));
    assert_eq!(
        (&high["cost"], &high["cost_at"]),
        (&json!(5.0), &json!(", at 2 × for C8"))
    );
}

#[test]
fn one_who_comes_back_to_a_patch_has_its_steps_again() {
    let mut page = modulated();
    let text = |page: &mut Page| ask(page, json!({ "ask": "save" }))["text"].clone();
    let blank = text(&mut Page::default());
    let load = |page: &mut Page, text: &Value, of: Option<i32>| {
        ask(page, json!({ "ask": "load", "text": text, "of": of }))["view"].clone()
    };
    let ratio = |typed: &str| json!({ "ask": "type", "address": { "param": "operator.ratio", "id": 1 }, "text": typed });

    let first = text(&mut page);
    assert_eq!(
        load(&mut page, &first, Some(7))["undo"],
        Value::Null,
        "another document"
    );
    ask(&mut page, ratio("3"));
    ask(&mut page, ratio("4"));
    ask(&mut page, json!({ "ask": "undo" }));
    let left = text(&mut page);

    // heard in the list, another one opened and changed, and back
    load(&mut page, &blank, None);
    load(&mut page, &blank, Some(8));
    ask(
        &mut page,
        json!({ "ask": "edit", "edit": { "do": "add_unit", "kind": "operator", "connect": { "to": "output" } }, "gesture": null }),
    );
    let back = load(&mut page, &left, Some(7));
    assert_eq!(
        (&back["undo"], &back["redo"]),
        (&json!("ratio"), &json!("ratio"))
    );
    ask(&mut page, json!({ "ask": "undo" }));
    assert_eq!(text(&mut page), first);
    ask(&mut page, json!({ "ask": "redo" }));

    // one that was changed elsewhere, and another patch of the same text, begin anew
    load(&mut page, &blank, Some(8));
    assert_eq!(load(&mut page, &first, Some(7))["undo"], Value::Null);
    load(&mut page, &left, Some(9));
    ask(&mut page, ratio("5"));
    load(&mut page, &blank, Some(8));
    assert_eq!(load(&mut page, &left, Some(10))["undo"], Value::Null);
}

#[test]
fn strips_say_at_which_frequency_they_run() {
    let mut page = modulated();
    let tune = |param: &str, cents: &str| json!({ "ask": "type", "address": { "param": param, "id": 0 }, "text": cents });
    ask(&mut page, tune("voice.tune_cents", "1200"));
    let view = ask(&mut page, tune("voice.modulators_cents", "-1200"))["view"].clone();
    let said: Vec<&Value> = [0, 1].map(|n| &view["strips"][n]["hz"]).to_vec();
    // the modulator's ratio is 1: an octave up and down again; the carrier is an octave up
    assert_eq!(said, [&json!("220.0 Hz"), &json!("440.0 Hz")]);
}

/// A demo patch on a page, and what is found on it by a name.
fn finding(text: &str) -> impl FnMut(&str) -> Value {
    let mut page = Page::default();
    ask(
        &mut page,
        json!({ "ask": "load", "text": text, "of": null }),
    );
    move |name| ask(&mut page, json!({ "ask": "find", "text": name }))["hits"].clone()
}

/// What is found by its name: strips, sends, sources and effects, with their values.
#[test]
fn everything_of_a_patch_is_found_by_its_name() {
    let mut hits = finding(include_str!(
        "../../../../demo/night-garden/frost-fern.json"
    ));
    let titles = |hits: &Value| -> Vec<String> {
        let list = hits.as_array().expect("a list");
        list.iter()
            .map(|hit| hit["title"].as_str().expect("a title").to_owned())
            .collect()
    };
    let found = hits("stem index");
    assert_eq!(titles(&found)[0], "Stem to Bell, index");
    assert_eq!(found[0]["of"], json!({ "is": "strip", "id": 2 }));
    assert_eq!(found[0]["address"]["param"], "route.index_rad");
    let found = titles(&hits("bell attack"));
    assert_eq!(found, ["Bell, attack"], "an envelope's time");
    // what is called just so comes before what has the word in its name
    let found = titles(&hits("level"));
    assert!(found[0].ends_with(", level"), "{found:?}");
    assert!(found.len() > 3, "{found:?}");
    let reverb = hits("reverb size");
    assert_eq!(reverb[0]["of"]["is"], "effect", "{reverb}");
    assert_eq!(reverb[0]["address"]["id"], reverb[0]["of"]["id"]);
    let mut hits = finding(include_str!(
        "../../../../demo/night-garden/glass-moths.json"
    ));
    let found = hits("rate");
    let list = found.as_array().expect("a list");
    assert!(
        list.iter().any(|hit| hit["of"]["is"] == "source"),
        "{found}"
    );
    assert_eq!(hits("no such thing anywhere"), json!([]));
    // the beat stands beside a phrase, and is not gone to where there is none
    assert_eq!(hits("beat level")[0]["title"], "Beat level");
    let mut plain = modulated();
    let found = ask(&mut plain, json!({ "ask": "find", "text": "beat level" }));
    assert_eq!(found["hits"], json!([]));
    assert_eq!(hits("  "), json!([]));
}
