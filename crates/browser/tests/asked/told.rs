//! What the page is told of a view, put together again, is the view: nothing that changed is passed over.

use std::collections::HashMap;
use std::path::Path;
use std::rc::Rc;

use serde_json::{Value, json};
use zolvik_browser::page::Page;
use zolvik_browser::protocol::Answer;
use zolvik_browser::view::{Memory, Told as Part};
use zolvik_patch::testing::any_patch;

/// A page, and one who knows only what it is told.
#[derive(Default)]
struct Told {
    page: Page,
    memory: Memory,
    known: HashMap<String, Value>,
}

impl Told {
    /// Asks, and holds what was told against all of it. Gives how many bytes were told, and how many all of it has.
    fn ask(&mut self, question: Value) -> (usize, usize) {
        let asked = serde_json::from_value(question.clone()).expect("a question");
        let answer = self.page.answer(asked).answer;
        let Answer::Document { view, .. } = answer else {
            panic!("{question}: {answer:?}");
        };
        let all = serde_json::to_value(&view).unwrap();
        let told = serde_json::to_value(view.told(&mut self.memory)).unwrap();
        let bytes = (told.to_string().len(), all.to_string().len());
        let again = self.whole(told);
        for (name, part) in all.as_object().unwrap() {
            assert_eq!(&again[name], part, "{name} after {question}");
        }
        bytes
    }

    fn whole(&mut self, part: Value) -> Value {
        match part {
            Value::Array(list) => list.into_iter().map(|part| self.whole(part)).collect(),
            Value::Object(mut fields) => {
                if let Some(name) = fields.get("same").and_then(Value::as_str) {
                    return self.known[name].clone();
                }
                if let (Some(Value::String(name)), Some(is)) =
                    (fields.get("told").cloned(), fields.remove("is"))
                {
                    self.known.insert(name, is.clone());
                    return is;
                }
                let fields = fields.into_iter();
                Value::Object(
                    fields
                        .map(|(name, part)| (name, self.whole(part)))
                        .collect(),
                )
            }
            other => other,
        }
    }
}

fn demo(name: &str) -> String {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/night-garden");
    std::fs::read_to_string(folder.join(format!("{name}.json"))).unwrap()
}

#[test]
fn after_each_of_many_edits_the_view_is_whole() {
    let mut told = Told::default();
    let edit = |edit: Value| json!({ "ask": "edit", "edit": edit, "gesture": null });
    let ratio = |id: u16, value: f64| {
        edit(
            json!({ "do": "set_value", "address": { "param": "operator.ratio", "id": id }, "value": value }),
        )
    };
    for name in ["frost-fern", "iron-ivy", "frost-fern"] {
        told.ask(json!({ "ask": "load", "text": demo(name) }));
        for question in [
            ratio(3, 2.0),
            ratio(3, 2.5),
            edit(json!({ "do": "rename_unit", "unit": 1, "name": "Rime" })),
            edit(json!({ "do": "switch_unit", "unit": 2, "on": false })),
            edit(
                json!({ "do": "add_unit", "kind": "filter", "connect": { "to": "unit", "id": 1 } }),
            ),
            edit(json!({ "do": "duplicate_units", "units": [1, 2] })),
            edit(json!({ "do": "group_units", "units": [1, 2] })),
            edit(json!({ "do": "add_source", "kind": "lfo", "to": [] })),
            edit(json!({ "do": "add_effect", "chain": "common", "kind": "eq" })),
            edit(json!({ "do": "remove_unit", "unit": 1 })),
            json!({ "ask": "undo" }),
            json!({ "ask": "undo" }),
            json!({ "ask": "redo" }),
            json!({ "ask": "no_phrase" }),
        ] {
            told.ask(question);
        }
    }
}

#[test]
fn from_any_patch_to_any_other_the_view_is_whole() {
    let mut told = Told::default();
    for seed in 0..40 {
        let text = zolvik_patch::json::write(&any_patch(seed));
        told.ask(json!({ "ask": "load", "text": text }));
        told.ask(json!({ "ask": "undo" }));
    }
}

#[test]
fn of_one_value_that_is_moved_little_is_told() {
    let mut told = Told::default();
    let (first, all) = told.ask(json!({ "ask": "load", "text": demo("frost-fern") }));
    assert!(
        first >= all,
        "at first everything is told: {first} of {all}"
    );
    let address = json!({ "param": "operator.ratio", "id": 3 });
    let (moved, all) = told.ask(
        json!({ "ask": "edit", "edit": { "do": "set_value", "address": address, "value": 2.0 }, "gesture": null }),
    );
    assert!(moved * 3 < all, "{moved} of {all} bytes");
}

fn told_once(memory: &mut Memory, text: &str) -> String {
    let mut part = Part::from(text.to_owned());
    memory.tell("name".into(), &mut part);
    serde_json::to_string(&part).unwrap()
}

#[test]
fn what_was_told_is_only_named_until_it_changes() {
    let mut memory = Memory::default();
    assert_eq!(told_once(&mut memory, "a"), r#"{"told":"name","is":"a"}"#);
    assert_eq!(told_once(&mut memory, "a"), r#"{"same":"name"}"#);
    assert_eq!(told_once(&mut memory, "b"), r#"{"told":"name","is":"b"}"#);
    assert_eq!(told_once(&mut memory, "a"), r#"{"told":"name","is":"a"}"#);
}

#[test]
fn another_kind_of_part_under_the_same_name_is_told() {
    let mut memory = Memory::default();
    told_once(&mut memory, "a");
    let mut part = Part::from(3);
    memory.tell("name".into(), &mut part);
    assert_eq!(
        part,
        Part::Anew {
            told: "name".into(),
            is: Rc::new(3)
        }
    );
}

#[test]
fn by_itself_a_part_is_written_as_it_is() {
    assert_eq!(
        serde_json::to_string(&Part::from(vec![1, 2])).unwrap(),
        "[1,2]"
    );
}
