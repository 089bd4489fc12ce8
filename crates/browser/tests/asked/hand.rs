//! What a hand that moves is told, and that all that is seen catches up.

use crate::page::modulated;
use crate::support::ask;
use rstest::rstest;
use serde_json::{Value, json};
use zolvik_browser::page::Page;

/// An edit a hand makes that has hold of something.
fn by_hand(on: Value, asks: Value) -> Value {
    json!({ "ask": "by_hand", "on": on, "asks": asks })
}

#[test]
fn a_hand_is_told_what_it_has_hold_of_and_the_view_catches_up() {
    let address = json!({ "param": "route.index_rad", "id": 2 });
    let drag = |moved: f64| json!({ "ask": "drag", "address": address, "start": 0.5, "moved": moved, "fine": false, "gesture": 7 });
    let held = |moved: f64| by_hand(json!({ "of": "value", "address": address }), drag(moved));
    let (mut page, mut other) = (modulated(), modulated());
    let brief = ask(&mut page, held(0.2));
    let whole = ask(&mut other, drag(0.2));
    let value = &whole["view"]["strips"][0]["sends"][0]["values"][0];
    assert_eq!(value["address"]["param"], "route.index_rad");
    assert!(value["value"].as_f64().unwrap() > 0.6, "{value}");
    assert_eq!(brief["is"], "changed");
    assert_eq!(brief["pieces"], json!([{ "of": "value", "value": value }]));
    assert_eq!(brief["banks"], whole["view"]["banks"]);
    assert_eq!(page.program(), other.program());
    assert_eq!(ask(&mut page, json!({ "ask": "view" })), whole);
    // a hand that is at an end, or moves by less than a step, changes nothing
    assert_eq!(ask(&mut page, held(0.2))["is"], "unchanged");
    assert_eq!(page.program(), other.program());
    // a value of a strip comes with how far it can be had
    let address = json!({ "param": "operator.ratio", "id": 1 });
    let drag = json!({ "ask": "drag", "address": address, "start": 1.0, "moved": 0.5, "fine": false, "gesture": 8 });
    let brief = ask(
        &mut page,
        by_hand(json!({ "of": "value", "address": address }), drag),
    );
    let view = ask(&mut page, json!({ "ask": "view" }))["view"].take();
    let strips = view["strips"].as_array().unwrap();
    let values = strips.iter().flat_map(|s| s["values"].as_array().unwrap());
    let told = &brief["pieces"][0]["value"];
    let shown = values.filter(|v| v["address"] == told["address"]);
    assert_eq!(shown.collect::<Vec<_>>(), [told]);
    // what was refused leaves no trace of the hand
    let refused = json!({ "ask": "drag_handle", "unit": 99, "at": 0, "bend": false, "free": true, "time_s": 0.1, "level": 1.0, "gesture": 9 });
    let why = ask(
        &mut page,
        by_hand(json!({ "of": "handles", "unit": 99 }), refused),
    );
    assert_eq!(why["is"], "refused");
    assert_eq!(ask(&mut page, json!({ "ask": "undo" }))["is"], "document");
}

/// A page with a source of movement that is drawn, an EQ and a phrase.
fn with_all() -> Page {
    let mut page = modulated();
    for question in [
        json!({ "ask": "edit", "edit": { "do": "add_source", "kind": "lfo" }, "gesture": null }),
        json!({ "ask": "edit", "edit": { "do": "add_effect", "chain": "first", "kind": "eq", "at": null }, "gesture": null }),
        json!({ "ask": "take_phrase", "at": 0, "from_its_key": false }),
    ] {
        let answer = ask(&mut page, question);
        assert_eq!(answer["is"], "document", "{answer}");
    }
    page
}

/// What is told of a piece a hand has hold of is what the view has of it afterwards, and so are the values told beside it.
#[rstest]
#[case::handles(
    json!({ "of": "handles", "unit": 2 }),
    json!({ "ask": "drag_handle", "unit": 2, "at": 0, "bend": false, "free": true, "time_s": 0.25, "level": 0.5, "gesture": 5 }),
    "/strips/0/handles", "handles", 0.25
)]
#[case::shape(
    json!({ "of": "shape", "source": 1001 }),
    json!({ "ask": "edit", "edit": { "do": "move_shape_point", "source": 1001, "point": 1, "at": 0.3, "level": 0.9 }, "gesture": 5 }),
    "/sources/0/shape", "shape", 0.9
)]
#[case::effect(
    json!({ "of": "effect", "effect": 2001 }),
    json!({ "ask": "drag_band", "effect": 2001, "at": 0, "hz": 333.0, "gain_db": -7.0, "gesture": 5 }),
    "/finish/chains/0/effects/0", "effect", 333.0
)]
#[case::phrase(
    json!({ "of": "phrase" }),
    json!({ "ask": "move_notes", "notes": [0], "by_beats": 0.0, "by_semitones": 0, "longer_beats": 0.125, "grid_beats": 0.0, "gesture": 5 }),
    "/phrase", "phrase", 0.0
)]
fn a_piece_is_told_as_the_view_has_it(
    #[case] on: Value,
    #[case] asks: Value,
    #[case] place: &str,
    #[case] name: &str,
    #[case] moved_to: f64,
) {
    let mut page = with_all();
    let before = ask(&mut page, json!({ "ask": "view" }))["view"].clone();
    let told = ask(&mut page, by_hand(on.clone(), asks));
    assert_eq!(told["is"], "changed", "{told}");
    let pieces = told["pieces"].as_array().unwrap();
    let view = ask(&mut page, json!({ "ask": "view" }))["view"].clone();
    let own = view.pointer(place).unwrap();
    assert_ne!(before.pointer(place).unwrap(), own, "it moved");
    assert_eq!((&pieces[0]["of"], &pieces[0][name]), (&on["of"], own));
    let all: Vec<&Value> = pieces[1..].iter().map(|p| &p["value"]).collect();
    let there = own_values(&view);
    assert!(all.iter().all(|value| there.contains(value)));
    let has = |p: &&Value| (p["value"].as_f64().unwrap() - moved_to).abs() < 1e-9;
    assert_eq!(
        all.iter().any(has),
        name != "phrase",
        "the value itself is among them"
    );
}

#[test]
fn bars_under_a_hand_are_told_as_the_inspector_has_them() {
    let mut page = modulated();
    let bar = |harmonic: usize| json!({ "ask": "draw_bar", "unit": 2, "harmonic": harmonic, "amplitude": 0.5, "phase_turns": null, "gesture": 5 });
    let told = ask(
        &mut page,
        by_hand(json!({ "of": "wave", "unit": 2 }), bar(3)),
    );
    let wave = &told["pieces"][0]["wave"];
    assert_eq!(
        (&wave["amplitudes"][0], &wave["amplitudes"][2]),
        (&json!(1.0), &json!(0.5))
    );
    let own = ask(&mut page, json!({ "ask": "inspect", "unit": 2 }));
    assert_eq!(&own["view"]["wave"], wave);
}

/// All values there are in a view, wherever they stand.
fn own_values(view: &Value) -> Vec<&Value> {
    match view {
        Value::Object(fields) if fields.contains_key("address") && fields.contains_key("exact") => {
            vec![view]
        }
        Value::Object(fields) => fields.values().flat_map(own_values).collect(),
        Value::Array(list) => list.iter().flat_map(own_values).collect(),
        _ => vec![],
    }
}

#[test]
fn scales_stand_still_under_a_hand_and_settle_when_it_rests() {
    let drag = |moved: f64, gesture: u32| json!({ "ask": "drag", "address": { "param": "route.index_rad", "id": 2 }, "start": 0.5, "moved": moved, "fine": false, "gesture": gesture });
    // index, and how much fills the strip, in radians; 8 hundredths of it are air
    let send = |view: &Value, unit: u64| {
        let strips = view["view"]["strips"].as_array().unwrap();
        let send = &strips.iter().find(|s| s["id"] == unit).unwrap()["sends"][0];
        let index = send["values"][0]["value"].as_f64().unwrap();
        let end = index / send["height"].as_f64().unwrap() / 1.08;
        (index, (end * 100.0).round() / 100.0)
    };
    let mut page = modulated();
    let second =
        json!({ "do": "add_unit", "kind": "operator", "connect": { "to": "unit", "id": 1 } });
    ask(
        &mut page,
        json!({ "ask": "edit", "edit": second, "gesture": null }),
    );
    let mut moved = |moved: f64, gesture: u32| {
        ask(&mut page, drag(moved, gesture));
        let view = ask(&mut page, json!({ "ask": "view" }));
        let other = send(&view, 3);
        let (index, end) = send(&view, 2);
        (index, end, other.1)
    };
    let (start, end, other) = moved(0.0, 3);
    assert_eq!((end, other), (1.0, 1.0), "{start}");
    // what would go over its scale gets a wider one; the other stands still
    let (high, end, other) = moved(0.2, 3);
    assert!(end >= 2.0 * high && high > 1.0, "{high} of {end}");
    assert_eq!(other, 1.0);
    let (higher, most, other) = moved(0.6, 3);
    assert!(most >= higher && most > end, "{higher} of {most}");
    assert_eq!(other, 1.0);
    // and back
    let (low, still, other) = moved(-0.02, 3);
    assert!(low < 1.0, "{low}");
    assert_eq!((still, other), (most, 1.0));
    let (high, _, _) = moved(0.2, 3);
    // at rest they share one again
    let rested = ask(&mut page, json!({ "ask": "view", "at_rest": true }));
    let ((_, end), (_, other)) = (send(&rested, 2), send(&rested, 3));
    assert!(end >= high && end < 2.0 * high, "{high} of {end}");
    assert_eq!(end, other);
    // the next hand finds it so
    ask(&mut page, drag(0.0, 4));
    let view = ask(&mut page, json!({ "ask": "view" }));
    assert_eq!((send(&view, 2).1, send(&view, 3).1), (end, end));
    // undone there is no hand on it any more
    let undone = ask(&mut page, json!({ "ask": "undo" }));
    assert_eq!(send(&undone, 2), (high, end));
    let undone = ask(&mut page, json!({ "ask": "undo" }));
    assert_eq!(send(&undone, 2).1, 1.0);
}

#[test]
fn a_drag_is_taken_back_and_nothing_else() {
    let mut page = modulated();
    let typed =
        json!({ "ask": "type", "address": { "param": "operator.ratio", "id": 2 }, "text": "3" });
    let before = ask(&mut page, typed)["view"].clone();
    let drag = |page: &mut Page, moved: f64, gesture: u32| {
        ask(
            page,
            json!({ "ask": "drag", "address": { "param": "route.index_rad", "id": 2 }, "start": 0.5, "moved": moved, "fine": false, "gesture": gesture }),
        );
    };
    drag(&mut page, 0.3, 7);
    let taken = ask(&mut page, json!({ "ask": "take_back", "gesture": 7 }));
    assert_eq!(
        (&taken["view"]["strips"], &taken["view"]["undo"]),
        (&before["strips"], &before["undo"])
    );
    // one that came back by itself left nothing to take back
    drag(&mut page, 0.3, 8);
    drag(&mut page, 0.0, 8);
    assert_eq!(
        ask(&mut page, json!({ "ask": "take_back", "gesture": 8 }))["is"],
        "unchanged"
    );
    let view = ask(&mut page, json!({ "ask": "view", "at_rest": true }))["view"].clone();
    assert_eq!(
        (&view["strips"], &view["undo"]),
        (&before["strips"], &before["undo"])
    );
}
