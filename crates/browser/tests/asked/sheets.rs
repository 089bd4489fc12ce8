//! Sheets, offers and words the screen is told: made from the rows, for every kind of unit.

use rstest::rstest;
use serde_json::{Value, json};
use zolvik_browser::page::Page;

use crate::support::ask;
use zolvik_patch::catalogue::{choices, param, unit_params};
use zolvik_patch::document::{KindName, Unit, UnitId};
use zolvik_patch::param::ParamId;
use zolvik_patch::wave::Wave;

fn edit(page: &mut Page, edit: Value) -> Value {
    let answer = ask(
        page,
        json!({ "ask": "edit", "edit": edit, "gesture": null }),
    );
    assert_eq!(answer["is"], "document", "{answer}");
    answer["view"].clone()
}

/// An operator and a unit of a kind after it or heard beside it; the view of the second.
fn with(kind: KindName) -> (Page, Value) {
    let mut page = Page::default();
    let view = edit(
        &mut page,
        json!({ "do": "add_unit", "kind": kind, "connect": { "to": "output" } }),
    );
    let strip = strip(&view, 2);
    (page, strip)
}

fn strip(view: &Value, id: u16) -> Value {
    let strips = view["strips"].as_array().expect("strips");
    let found = strips.iter().find(|s| s["id"] == id);
    found.expect("the strip").clone()
}

fn id_of(value: &Value) -> ParamId {
    serde_json::from_value(value["address"]["param"].clone()).expect("a parameter")
}

#[rstest]
#[case(KindName::Operator)]
#[case(KindName::Noise)]
#[case(KindName::Sample)]
#[case(KindName::Filter)]
#[case(KindName::Shaper)]
fn a_sheet_has_every_row_that_counts_once_in_its_section(#[case] kind: KindName) {
    let (_, strip) = with(kind);
    let sections: Vec<&Value> = strip["sheet"]
        .as_array()
        .unwrap()
        .iter()
        .map(|s| &s["id"])
        .collect();
    let values = strip["values"].as_array().unwrap();
    let unit = Unit::new(UnitId(2), kind);
    for row in unit_params(kind) {
        let shown: Vec<_> = values.iter().filter(|v| id_of(v) == row.id).collect();
        assert_eq!(shown.len(), usize::from(unit.is(row.when)), "{}", row.name);
        for value in shown {
            assert!(sections.contains(&&value["section"]), "{}", row.name);
            assert_eq!(value["label"], row.label);
            assert_eq!(
                value["changed"], false,
                "{} is as a new one has it",
                row.name
            );
        }
    }
    // inside a section they stand as in the catalogue
    let order: Vec<usize> = values
        .iter()
        .filter_map(|v| unit_params(kind).position(|row| row.id == id_of(v)))
        .collect();
    let mut sorted = order.clone();
    sorted.sort_by_key(|at| (param(unit_params(kind).nth(*at).unwrap().id).id.part, *at));
    assert_eq!(order, sorted);
}

#[rstest]
#[case(KindName::Operator)]
#[case(KindName::Sample)]
#[case(KindName::Filter)]
#[case(KindName::Shaper)]
fn every_option_of_a_kind_can_be_chosen_and_decides_what_is_shown(#[case] kind: KindName) {
    let (mut page, _) = with(kind);
    let mut unit = Unit::new(UnitId(2), kind);
    let fresh = unit.clone();
    for row in choices().filter(|row| fresh.chosen_of(row.id).is_some()) {
        for at in 0..row.options.len() {
            let view = edit(
                &mut page,
                json!({ "do": "choose", "units": [2], "choice": row.name, "at": at }),
            );
            unit.kind.part_mut().choose(row.id, at).expect("an option");
            let strip = strip(&view, 2);
            let chosen = strip["choices"]
                .as_array()
                .unwrap()
                .iter()
                .find(|c| c["id"] == row.name);
            match unit.is(row.when) {
                true => assert_eq!(chosen.expect("it is shown")["at"], at, "{}", row.name),
                false => assert!(chosen.is_none(), "{} has no bearing", row.name),
            }
            for value in strip["values"].as_array().unwrap() {
                assert!(unit.is(param(id_of(value)).when), "{value}");
            }
        }
    }
}

#[test]
fn a_section_that_folds_says_so_and_what_is_set_in_it_is_marked() {
    let (mut page, strip_before) = with(KindName::Operator);
    let folds = |strip: &Value, id: &str| {
        let sheet = strip["sheet"].as_array().unwrap();
        sheet.iter().find(|s| s["id"] == id).unwrap()["folds"].clone()
    };
    assert_eq!(folds(&strip_before, "cycle"), true);
    assert_eq!(folds(&strip_before, "pitch"), false);
    let typed =
        json!({ "ask": "type", "address": { "param": "cycle.fold", "id": 2 }, "text": "30 %" });
    let view = ask(&mut page, typed)["view"].clone();
    let strip = strip(&view, 2);
    let fold = strip["values"]
        .as_array()
        .unwrap()
        .iter()
        .find(|v| v["address"]["param"] == "cycle.fold")
        .unwrap();
    assert_eq!(fold["changed"], true);
}

#[test]
fn what_is_heard_without_comes_back_as_it_was() {
    let (mut page, _) = with(KindName::Filter);
    let listening = |answer: &Value| answer["view"]["listening"].clone();
    let before = listening(&ask(
        &mut page,
        json!({ "ask": "hear_without", "units": [] }),
    ));
    let without = listening(&ask(
        &mut page,
        json!({ "ask": "hear_without", "units": [1, 2] }),
    ));
    assert_eq!(without["muted"], json!([1]));
    assert_eq!(without["bypassed"], json!([2]));
    let again = listening(&ask(
        &mut page,
        json!({ "ask": "hear_without", "units": [] }),
    ));
    assert_eq!(again, before);
}

#[test]
fn a_group_s_level_is_in_the_words_of_what_leaves_it() {
    let (mut page, _) = with(KindName::Filter);
    edit(&mut page, json!({ "do": "group_units", "units": [1] }));
    let words = |page: &mut Page| {
        let asked = json!({ "ask": "words", "amplitudes": [1.0, 1.0], "sends": [0, 0] });
        ask(page, asked)["words"][0].clone()
    };
    assert_eq!(words(&mut page), "−12.0 dB");
    let address = json!({ "param": "group.level_db", "id": 1 });
    ask(
        &mut page,
        json!({ "ask": "type", "address": address, "text": "-6" }),
    );
    assert_eq!(words(&mut page), "−18.0 dB");
}

#[rstest]
#[case::louder(-10.0, -16.0, 6.0)]
#[case::softer(-20.0, -16.0, 0.0)]
#[case::silent(-10.0, -200.0, 0.0)]
fn the_louder_state_is_turned_down(
    #[case] here_lufs: f64,
    #[case] there_lufs: f64,
    #[case] lowered_db: f64,
) {
    let asked = json!({ "ask": "match", "here_lufs": here_lufs, "there_lufs": there_lufs });
    let answer = ask(&mut Page::default(), asked);
    assert_eq!(answer["lowered_db"], lowered_db);
    let gain = answer["gain"].as_f64().unwrap();
    assert!((20.0 * gain.log10() + lowered_db).abs() < 1e-9);
}

#[rstest]
#[case(1.0, "0.0 dB")]
#[case(0.5, "−6.0 dB")]
#[case(0.0, "−∞ dB")]
fn a_level_is_told_in_words(#[case] amplitude: f64, #[case] words: &str) {
    let asked = json!({ "ask": "level_words", "amplitude": amplitude });
    assert_eq!(ask(&mut Page::default(), asked)["text"], words);
}

#[test]
fn rules_and_helps_are_told_once() {
    let told = ask(&mut Page::default(), json!({ "ask": "rules" }));
    assert_eq!(told["rules"]["name"], 80);
    assert_eq!(told["rules"]["keys"]["base"], 48);
    let helps = told["helps"].as_array().unwrap();
    assert_eq!(helps.len(), zolvik_patch::catalogue::params().count());
}

/// Bars and steps are typed as all else: percent, degrees, whole numbers, with a comma too; what is none, or beyond, changes nothing and says why.
#[rstest]
#[case::percent("type_bar", "amplitude", "12,5", Ok(0.125))]
#[case::unit("type_bar", "amplitude", "40 %", Ok(0.4))]
#[case::beyond("type_bar", "amplitude", "300", Err("100"))]
#[case::no_number("type_bar", "amplitude", "loud", Err("loud"))]
#[case::degrees("type_bar", "phase", "90°", Ok(0.25))]
#[case::backward("type_bar", "phase", "-90", Ok(0.75))]
#[case::round("type_bar", "phase", "450", Ok(0.25))]
#[case::not_a_number("type_bar", "phase", "nan", Err("nan"))]
#[case::steps("type_step_count", "", "12", Ok(12.0))]
#[case::none("type_step_count", "", "0", Err("1"))]
#[case::empty("type_step_count", "", "", Err("no"))]
#[case::many("type_step_count", "", "1e400", Err(""))]
fn what_is_drawn_is_typed_too(
    #[case] question: &str,
    #[case] part: &str,
    #[case] text: &str,
    #[case] expected: Result<f64, &str>,
) {
    let mut page = Page::default();
    let edit = json!({ "do": "add_source", "kind": "steps", "to": [] });
    ask(
        &mut page,
        json!({ "ask": "edit", "edit": edit, "units": [], "gesture": null }),
    );
    let asked = match part {
        "" => json!({ "ask": question, "source": 1001, "text": text }),
        part => json!({ "ask": question, "unit": 1, "harmonic": 2, "part": part, "text": text }),
    };
    let answer = ask(&mut page, asked);
    let saved = ask(&mut page, json!({ "ask": "save" }));
    let patch = zolvik_patch::json::read(saved["text"].as_str().unwrap()).unwrap();
    let zolvik_patch::movement::SourceKind::Steps(steps) = &patch.movement.sources[0].kind else {
        panic!("steps")
    };
    match expected {
        Ok(value) => {
            let now = match (part, &patch.units[0].oscillator().unwrap().wave) {
                ("amplitude", Wave::Bars(bars)) => bars.harmonic(2).0,
                ("phase", Wave::Bars(bars)) => bars.harmonic(2).1,
                _ => steps.steps.len() as f64,
            };
            assert!((now - value).abs() < 1e-9, "{now}: {answer}");
        }
        Err(why) => {
            assert_eq!(answer["is"], "refused");
            assert!(answer["why"].as_str().unwrap().contains(why), "{answer}");
            assert_eq!(steps.steps.len(), 8);
        }
    }
}

/// What is heard only by what it moves says so, however it gets there; what leads nowhere moves nothing.
#[rstest]
#[case::carrier(json!({ "to": "output" }), false, false)]
#[case::modulator(json!({ "to": "unit", "id": 1 }), false, true)]
#[case::both(json!({ "to": "unit", "id": 1 }), true, false)]
fn what_only_moves_others_says_so(
    #[case] connect: Value,
    #[case] heard_too: bool,
    #[case] expected: bool,
) {
    let mut page = Page::default();
    let add = json!({ "do": "add_unit", "kind": "operator", "connect": connect });
    let mut view = edit(&mut page, add);
    if heard_too {
        let out = json!({ "do": "add_route", "from": 2, "to": null, "kind": "phase" });
        view = edit(&mut page, out);
    }
    let second = |view: &Value| -> Value {
        let strips = view["strips"].as_array().unwrap();
        let found = strips.iter().find(|s| s["id"] == 2);
        found.unwrap().clone()
    };
    assert_eq!(second(&view)["only_modulates"], expected);
    // without any send it leads nowhere
    for send in second(&view)["sends"].as_array().unwrap() {
        let route = &send["route"];
        view = edit(&mut page, json!({ "do": "remove_route", "route": route }));
    }
    assert_eq!(second(&view)["only_modulates"], false);
}
