//! Movement as the page is told of it, and what the picture makes of it.

use serde_json::{Value, json};
use zolvik_browser::page::Page;
use zolvik_browser::tasks::Tasks;

use crate::support::ask;

fn edit(page: &mut Page, edit: Value) -> Value {
    ask(
        page,
        json!({ "ask": "edit", "edit": edit, "units": [], "gesture": null }),
    )["view"]
        .clone()
}

/// A modulator on a carrier; a macro moves the index, from 0.5 up by 1.5.
fn moved() -> Page {
    let mut page = Page::default();
    edit(
        &mut page,
        json!({ "do": "add_unit", "kind": "operator", "connect": { "to": "unit", "id": 1 } }),
    );
    let to = json!([{ "param": "route.index_rad", "id": 2 }]);
    edit(
        &mut page,
        json!({ "do": "add_source", "kind": "macro", "to": to }),
    );
    let amount = json!({ "param": "link.amount", "id": 1 });
    ask(
        &mut page,
        json!({ "ask": "type", "address": amount, "text": "1.5 rad" }),
    );
    page
}

fn text(page: &mut Page) -> String {
    ask(page, json!({ "ask": "save" }))["text"]
        .as_str()
        .unwrap()
        .into()
}

#[test]
fn amounts_are_written_and_typed_in_the_unit_of_what_they_move() {
    let mut page = moved();
    let view = edit(
        &mut page,
        json!({ "do": "rename_source", "source": 1001, "name": "Bite" }),
    );
    let link = &view["links"][0];
    assert_eq!(
        (&link["target"], &link["from_name"]),
        (&json!("Operator 2 index"), &json!("Bite"))
    );
    assert_eq!(
        (&link["low"], &link["high"]),
        (&json!("0.50 rad"), &json!("2.00 rad"))
    );
    assert_eq!(
        (&link["amount"]["number"], &link["amount"]["unit"]),
        (&json!("1.50"), &json!("rad"))
    );
    // one end typed leaves the other
    ask(
        &mut page,
        json!({ "ask": "type_end", "link": 1, "high": true, "text": "3" }),
    );
    let answer = ask(
        &mut page,
        json!({ "ask": "type_end", "link": 1, "high": false, "text": "1" }),
    );
    let link = &answer["view"]["links"][0];
    assert_eq!(
        (&link["low"], &link["high"]),
        (&json!("1.00 rad"), &json!("3.00 rad"))
    );
    // what is no value says what would do, and changes nothing
    let before = text(&mut page);
    let refused = ask(
        &mut page,
        json!({ "ask": "type_end", "link": 1, "high": true, "text": "loud" }),
    );
    assert!(
        refused["why"].as_str().unwrap().contains("is not an index"),
        "{refused}"
    );
    assert_eq!(text(&mut page), before);
}

#[test]
fn fields_know_what_moves_them_and_targets_are_found_by_name() {
    let mut page = moved();
    let view = edit(
        &mut page,
        json!({ "do": "switch_source", "source": 1001, "on": true }),
    );
    let sends = &view["strips"][0]["sends"][0]["values"];
    let index = sends
        .as_array()
        .unwrap()
        .iter()
        .find(|v| v["address"]["param"] == "route.index_rad")
        .unwrap();
    assert_eq!(index["moved"]["links"], json!([1]));
    assert!(index["moved"]["high"].as_f64() > index["moved"]["low"].as_f64());
    assert_eq!(index["movable"], "note");
    let found = ask(
        &mut page,
        json!({ "ask": "targets", "text": "operator 1 at", "source": 1001 }),
    );
    let titles: Vec<&str> = found["list"]
        .as_array()
        .unwrap()
        .iter()
        .map(|t| t["title"].as_str().unwrap())
        .collect();
    assert!(titles.contains(&"Operator 1 attack"), "{titles:?}");
    let all = ask(
        &mut page,
        json!({ "ask": "targets", "text": "place", "source": 1001 }),
    );
    assert_eq!(all["list"], json!([]), "a source does not move itself");
}

#[test]
fn copied_sources_are_pasted_and_other_texts_are_refused() {
    let mut page = moved();
    edit(
        &mut page,
        json!({ "do": "add_source", "kind": "lfo", "to": [] }),
    );
    ask(
        &mut page,
        json!({ "ask": "take_shape", "source": 1002, "at": 6 }),
    );
    let copied = ask(&mut page, json!({ "ask": "copy_source", "source": 1002 }))["text"].clone();
    edit(
        &mut page,
        json!({ "do": "add_source", "kind": "steps", "to": [] }),
    );
    let view = ask(
        &mut page,
        json!({ "ask": "paste_source", "source": 1003, "text": copied }),
    )["view"]
        .clone();
    assert_eq!(
        view["sources"][2]["shape"]["picture"],
        view["sources"][1]["shape"]["picture"]
    );
    assert_eq!(view["sources"][2]["name"], "Steps 1", "its own name stays");
    let refused = ask(
        &mut page,
        json!({ "ask": "paste_source", "source": 1003, "text": "0 1 0 1" }),
    );
    assert!(
        refused["why"].as_str().unwrap().contains("no source"),
        "{refused}"
    );
}

fn task(tasks: &mut Tasks, task: Value) -> Value {
    tasks.begin();
    let answer = tasks.answer(serde_json::from_value(task).expect("a task"));
    serde_json::to_value(answer).expect("an answer")
}

/// A picture of a patch, rendered and drawn by one that does both.
fn drawn(tasks: &mut Tasks, text: &str) -> Value {
    let listening = json!({ "muted": [], "soloed": [] });
    let of = json!({ "text": text, "listening": listening, "exponent": 1.0, "detail": "coarse" });
    let renders = task(tasks, json!({ "task": "render", "of": of }));
    let sound = json!({ "task": "draw", "of": of, "rate_hz": renders["rate_hz"], "length_s": renders["length_s"] });
    task(tasks, sound);
    loop {
        let rendered = task(tasks, json!({ "task": "render_on", "spent_ms": 1.0 }));
        let piece = tasks.parts()[0].clone();
        tasks.put(&piece);
        task(tasks, json!({ "task": "draw_on", "look": false }));
        if rendered["more"] == false {
            return task(tasks, json!({ "task": "draw_end", "key": 1 }));
        }
    }
}

/// What is drawn for nobody goes all the way: it sounds, and every unit and source of it has a curve.
#[test]
fn a_bit_of_everything_is_rendered_and_drawn() {
    let mut tasks = Tasks::default();
    let everything = task(&mut tasks, json!({ "task": "everything" }));
    let text = everything["text"].as_str().expect("a patch");
    let mut page = Page::default();
    let opened = ask(
        &mut page,
        json!({ "ask": "load", "text": text, "of": null }),
    );
    assert_eq!(opened["is"], "document", "{opened}");
    let unfolded = drawn(&mut tasks, text);
    assert_eq!(unfolded["is"], "unfolded", "{unfolded}");
    let count = |list: &Value| list.as_array().map_or(0, Vec::len);
    assert_eq!(count(&unfolded["units"]), 7);
    assert_eq!(count(&unfolded["sources"]), 7);
    let peak_db = unfolded["level"]["true_peak_db"].as_f64().expect("a level");
    assert!((-40.0..24.0).contains(&peak_db), "{peak_db} dB");
}

/// What *Why it sounds so* says and the strips draw is the value as it is moved, not as it stands.
#[test]
fn the_picture_and_its_reasons_follow_the_links() {
    let explained = |text: &str| {
        let mut tasks = Tasks::default();
        let unfolded = drawn(&mut tasks, text);
        let spectrum = task(
            &mut tasks,
            json!({ "task": "spectrum", "time_s": 1.0, "rows": 60 }),
        );
        (unfolded, spectrum["explanation"]["partials"].clone())
    };
    let mut page = moved();
    let place = json!({ "param": "macro.place", "id": 1001 });
    ask(
        &mut page,
        json!({ "ask": "type", "address": place, "text": "100%" }),
    );
    let (unfolded, moved) = explained(&text(&mut page));
    assert_eq!(
        (&unfolded["sources"], &unfolded["links"], &unfolded["sends"]),
        (&json!([1001]), &json!([1]), &json!([2]))
    );
    edit(&mut page, json!({ "do": "remove_source", "source": 1001 }));
    let (_, still) = explained(&text(&mut page));
    ask(
        &mut page,
        json!({ "ask": "type", "address": { "param": "route.index_rad", "id": 2 }, "text": "2" }),
    );
    let (_, typed) = explained(&text(&mut page));
    assert_eq!(moved, typed);
    assert_ne!(moved, still);
}

/// What is typed says what a time is counted in.
#[test]
fn a_note_length_in_a_time_follows_the_tempo_and_a_time_in_beats_no_longer_does() {
    let mut page = Page::default();
    edit(
        &mut page,
        json!({ "do": "add_source", "kind": "lfo", "to": [] }),
    );
    let mut type_in = |param: &str, id: u16, text: &str| {
        let address = json!({ "param": param, "id": id });
        ask(
            &mut page,
            json!({ "ask": "type", "address": address, "text": text }),
        )
    };
    let value = |answer: &Value, param: &str| {
        let all = answer["view"]["sources"][0]["values"]
            .as_array()
            .unwrap()
            .clone();
        let found = all.into_iter().find(|v| v["address"]["param"] == param);
        found.map(|v| {
            format!(
                "{} {}",
                v["number"].as_str().unwrap(),
                v["unit"].as_str().unwrap()
            )
        })
    };
    let bars = type_in("timing.delay_s", 1001, "2 bars");
    assert_eq!(
        value(&bars, "timing.delay_beats").as_deref(),
        Some("2 bars")
    );
    assert_eq!(
        value(&bars, "timing.delay_s"),
        None,
        "the other one holds no more"
    );
    let back = type_in("timing.delay_beats", 1001, "300 ms");
    assert_eq!(value(&back, "timing.delay_s").as_deref(), Some("300 ms"));
    let rate = type_in("timing.rate_hz", 1001, "1/8 dotted");
    assert_eq!(
        value(&rate, "timing.cycle_beats").as_deref(),
        Some("1/8 dotted")
    );
    let hz = type_in("timing.cycle_beats", 1001, "0.3 Hz");
    assert_eq!(value(&hz, "timing.rate_hz").as_deref(), Some("0.3 Hz"));
    let number = type_in("timing.rate_hz", 1001, "1/4");
    assert_eq!(value(&number, "timing.rate_hz").as_deref(), Some("0.25 Hz"));
    assert_eq!(number["view"]["undo"], json!("rate"), "one step");
}

/// A sign that is typed is a direction; the amount that is shown has none.
#[test]
fn direction_and_sign_of_a_link_are_one_truth() {
    let mut page = moved();
    let mut type_in = |text: &str| {
        let amount = json!({ "param": "link.amount", "id": 1 });
        ask(
            &mut page,
            json!({ "ask": "type", "address": amount, "text": text }),
        )
    };
    let seen = |answer: &Value| {
        let link = &answer["view"]["links"][0];
        let number = link["amount"]["number"].as_str().unwrap().to_owned();
        (
            number,
            link["direction"].as_str().unwrap().to_owned(),
            link["turned"].as_bool().unwrap(),
        )
    };
    let of =
        |number: &str, direction: &str, turned| (number.to_owned(), direction.to_owned(), turned);
    assert_eq!(seen(&type_in("0.3")), of("0.30", "up", false));
    assert_eq!(seen(&type_in("-0.4")), of("0.40", "down", false));
    assert_eq!(
        seen(&type_in("-0.2")),
        of("0.20", "down", false),
        "down goes down"
    );
    assert_eq!(
        seen(&type_in("0.1")),
        of("0.10", "down", false),
        "a bare number keeps it"
    );
    assert_eq!(seen(&type_in("+0.1")), of("0.10", "up", false));
    edit(
        &mut page,
        json!({ "do": "direct_link", "link": 1, "direction": "both" }),
    );
    let mut type_in = |text: &str| {
        let amount = json!({ "param": "link.amount", "id": 1 });
        ask(
            &mut page,
            json!({ "ask": "type", "address": amount, "text": text }),
        )
    };
    assert_eq!(seen(&type_in("-0.2")), of("0.20", "both", true));
    assert_eq!(seen(&type_in("0.3")), of("0.30", "both", true));
    // a file that has it below zero is read alike
    let file = text(&mut page).replace("\"direction\": \"both\"", "\"direction\": \"down\"");
    let answer = ask(
        &mut page,
        json!({ "ask": "load", "text": file, "of": null }),
    );
    assert_eq!(seen(&answer), of("0.30", "up", false));
}

/// Links are found by whole names first, by the number of a strip, and none twice.
#[test]
fn what_may_be_linked_is_ranked() {
    let mut page = moved();
    edit(
        &mut page,
        json!({ "do": "rename_unit", "unit": 1, "name": "A" }),
    );
    let mut titles = |text: &str| -> Vec<String> {
        let answer = ask(
            &mut page,
            json!({ "ask": "targets", "text": text, "source": 1001 }),
        );
        let list = answer["list"].as_array().unwrap().iter();
        list.map(|t| t["title"].as_str().unwrap().to_owned())
            .collect()
    };
    assert_eq!(titles("a level")[0], "A level");
    assert_eq!(titles("2 index")[0], "Operator 2 index");
    let all = titles("index");
    let amount = all.iter().position(|t| t.starts_with("amount of"));
    assert!(amount.is_none_or(|at| at + 1 == all.len()), "{all:?}");
    let times = titles("time");
    let mut once = times.clone();
    once.dedup();
    assert_eq!(times, once);
}

#[test]
fn a_link_whose_route_went_without_an_heir_is_told_until_it_is_made_anew() {
    let mut page = moved();
    let told = |view: &Value| view["loose"].clone();
    let gone = edit(&mut page, json!({ "do": "remove_route", "route": 2 }));
    assert_eq!(told(&gone).as_array().unwrap().len(), 1);
    let loose = told(&gone)[0].clone();
    assert_eq!(
        (&loose["source"], &loose["unit"]),
        (&json!(1001), &json!(2))
    );
    let words = "Index moved Operator 2 index, which is gone with its route";
    assert_eq!(loose["words"], words);
    // an edit of something else leaves it told; undo brings the link back
    let renamed = edit(
        &mut page,
        json!({ "do": "rename_unit", "unit": 2, "name": "Dew" }),
    );
    assert_eq!(told(&renamed), told(&gone));
    ask(&mut page, json!({ "ask": "undo" }));
    let back = ask(&mut page, json!({ "ask": "undo" }))["view"].clone();
    assert_eq!(
        (told(&back), back["links"].as_array().unwrap().len()),
        (json!([]), 1)
    );
    // a link to another route is the same link made anew
    edit(&mut page, json!({ "do": "remove_route", "route": 2 }));
    let level = json!({ "param": "route.level_db", "id": 1 });
    let anew = edit(
        &mut page,
        json!({ "do": "add_links", "from": 1001, "to": [level] }),
    );
    assert_eq!(told(&anew), json!([]));
}

/// What is asked away is told no more, nor what went with its source or its strip.
#[test]
fn a_link_that_is_wanted_no_more_is_told_no_more() {
    let ends = [
        json!({ "ask": "forget_loose", "source": 1001 }),
        json!({ "ask": "edit", "edit": { "do": "remove_source", "source": 1001 }, "units": [], "gesture": null }),
        json!({ "ask": "edit", "edit": { "do": "remove_unit", "unit": 2 }, "units": [], "gesture": null }),
    ];
    for end in ends {
        let mut page = moved();
        edit(&mut page, json!({ "do": "remove_route", "route": 2 }));
        let after = ask(&mut page, end.clone());
        assert_eq!(after["view"]["loose"], json!([]), "{end}");
    }
    // a link that is removed itself is none that was lost
    let mut page = moved();
    let removed = edit(&mut page, json!({ "do": "remove_link", "link": 1 }));
    assert_eq!(removed["loose"], json!([]));
}

/// What waits a second and fades in over another is drawn at rest until then, and half as far half way: a source that goes up rests at its bottom.
#[test]
fn a_source_that_waits_is_drawn_waiting() {
    let mut page = Page::default();
    let to = json!([{ "param": "route.level_db", "id": 1 }]);
    edit(
        &mut page,
        json!({ "do": "add_source", "kind": "steps", "to": to }),
    );
    edit(
        &mut page,
        json!({ "do": "set_step_count", "source": 1001, "count": 1 }),
    );
    for (param, value) in [
        ("timing.delay_s", 1.0),
        ("timing.fade_s", 1.0),
        ("audition.hold_s", 3.0),
    ] {
        let id = if param.starts_with("audition") {
            0
        } else {
            1001
        };
        let address = json!({ "param": param, "id": id });
        edit(
            &mut page,
            json!({ "do": "set_value", "address": address, "value": value }),
        );
    }
    let mut tasks = Tasks::default();
    let answer = drawn(&mut tasks, &text(&mut page));
    let columns = answer["columns"].as_u64().unwrap() as usize;
    let places: Vec<f32> = tasks.parts()[3]
        .chunks(4)
        .map(|b| f32::from_le_bytes([b[0], b[1], b[2], b[3]]))
        .take(columns)
        .collect();
    // three seconds, evenly; a single step stays at its level
    let at = |time_s: f64| places[(time_s / 3.0 * columns as f64) as usize];
    let full = at(2.5);
    assert!(full > 0.9, "{full}");
    assert_eq!((at(0.1), at(0.9)), (0.0, 0.0));
    assert!((at(1.5) / full - 0.5).abs() < 0.02, "{}", at(1.5));
}

/// Two sends of a strip moved by one source that become one: that is moved once, and no link is told as lost.
#[test]
fn a_link_that_becomes_one_with_another_is_not_lost() {
    let mut page = moved();
    edit(
        &mut page,
        json!({ "do": "add_route", "from": 2, "to": null, "kind": "phase" }),
    );
    let level = json!({ "param": "route.level_db", "id": 3 });
    edit(
        &mut page,
        json!({ "do": "add_links", "from": 1001, "to": [level] }),
    );
    let one = edit(&mut page, json!({ "do": "make_carrier", "unit": 2 }));
    assert_eq!(
        one["links"].as_array().unwrap().len(),
        1,
        "{}",
        one["links"]
    );
    assert_eq!(one["loose"], json!([]));
}
