//! Writing and reading by any layout, and what is said of what cannot be read.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use zolvik_json::kind_in_field;
use zolvik_json::{Form, read, text};

#[derive(Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct Part {
    at: f64,
    list: Vec<Inner>,
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    named: BTreeMap<String, u8>,
}
#[derive(Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", remote = "Self")]
enum Inner {
    Plain,
    With { level_db: f64, on: Option<bool> },
    Deep { inner: Box<Inner>, wave: Plain },
}
kind_in_field!(Inner, "is");

/// The same by serde's own way.
#[derive(Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", tag = "is")]
enum Usual {
    Plain,
    With { level_db: f64, on: Option<bool> },
    Deep { inner: Box<Usual>, wave: Plain },
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
enum Plain {
    Sine,
    Partials(u8, f32),
    Own { id: i64 },
    Named(String),
}

#[rstest::rstest]
#[case(Plain::Sine)]
#[case(Plain::Partials(7, 0.1))]
#[case(Plain::Own { id: -3 })]
#[case(Plain::Named("ä \u{1f33f}".into()))]
fn kinds_are_written_and_read_as_by_the_usual_way(#[case] wave: Plain) {
    let inner = Inner::With {
        level_db: -0.1,
        on: Some(true),
    };
    let usual = Usual::With {
        level_db: -0.1,
        on: Some(true),
    };
    let ours = Inner::Deep {
        inner: Box::new(inner),
        wave: wave.clone(),
    };
    let theirs = Usual::Deep {
        inner: Box::new(usual),
        wave,
    };
    let written = text(&ours, Form::Dense);
    assert_eq!(written, serde_json::to_string(&theirs).unwrap());
    assert_eq!(read::<Inner>(&written), Ok(ours));
    assert_eq!(read::<Usual>(&written), Ok(theirs));
    assert_eq!(
        text(&Inner::Plain, Form::Dense),
        serde_json::to_string(&Usual::Plain).unwrap()
    );
}

#[rstest::rstest]
#[case("-9007199254740993")]
#[case("18446744073709551615")]
#[case("0.1")]
#[case("1e-320")]
#[case("-0.0")]
#[case("2.2250738585072011e-308")]
#[case("123456789012345680000")]
fn numbers_are_those_of_the_usual_reader(#[case] text: &str) {
    let ours: f64 = read(text).unwrap();
    let theirs: f64 = serde_json::from_str(text).unwrap();
    assert_eq!(ours.to_bits(), theirs.to_bits());
    assert_eq!(read::<u64>(text).ok(), serde_json::from_str(text).ok());
    assert_eq!(read::<i64>(text).ok(), serde_json::from_str(text).ok());
    assert_eq!(read::<f32>(text).ok(), serde_json::from_str(text).ok());
    assert!(read::<u8>(text).is_err());
}

fn part() -> Part {
    Part {
        at: 0.1 + 0.2,
        list: vec![
            Inner::Plain,
            Inner::With {
                level_db: -6.5,
                on: None,
            },
        ],
        named: [("a \"b\"".to_owned(), 3)].into(),
    }
}

#[test]
fn both_layouts_are_those_of_the_usual_writer() {
    assert_eq!(
        text(&part(), Form::Dense),
        serde_json::to_string(&part()).unwrap()
    );
    assert_eq!(
        text(&part(), Form::Lines),
        serde_json::to_string_pretty(&part()).unwrap()
    );
    assert_eq!(text(&Vec::<u8>::new(), Form::Lines), "[]");
}

#[test]
fn what_was_written_is_read_to_the_bit() {
    assert_eq!(read::<Part>(&text(&part(), Form::Lines)), Ok(part()));
}

#[rstest::rstest]
#[case::field(r#"{"at":1,"list":[],"more":1}"#, "more", "unknown field")]
#[case::lacks(r#"{"at":1,"list":[{"is":"with"}]}"#, "list[0]", "missing field")]
#[case::inside(
    r#"{"at":1,"list":[{"is":"plain"},{"is":"with","level_db":[]}]}"#,
    "list[1]",
    "level_db: invalid type"
)]
#[case::untold(r#"{"at":1,"list":[{"level_db":1}]}"#, "list[0]", "missing field")]
#[case::number(r#"{"at":1,"list":[{"is":3}]}"#, "list[0]", "is: invalid type")]
#[case::named(r#"{"at":1,"list":[],"named":{"x":300}}"#, "named.x", "invalid value")]
#[case::list(r#"{"at":1,"list":{}}"#, "list", "invalid type")]
#[case::whole("[1]", ".", "invalid type")]
#[case::kind(r#"{"at":"x","list":[]}"#, "at", "invalid type")]
#[case::deep(
    "{\"list\":[{\"is\":\"plain\"},\n {\"is\":\"[,{\\\"\"}],\"at\":1}",
    "list[1]",
    "unknown variant"
)]
#[case::twice("{\"at\":1,\n\"list\":[],\"at\":2}", "line 2", "stands twice")]
#[case::end(r#"{"at":1,"list":[]} x"#, "line 1", "trailing")]
#[case::none("{", "line 1", "EOF")]
fn what_is_wrong_is_said_with_its_place(
    #[case] text: &str,
    #[case] path: &str,
    #[case] problem: &str,
) {
    let wrong = read::<Part>(text).unwrap_err();
    assert!(wrong.path.contains(path), "{wrong}");
    assert!(wrong.problem.contains(problem), "{wrong}");
}

#[derive(Debug, PartialEq, Deserialize)]
#[serde(rename_all = "snake_case", remote = "Self")]
enum Near {
    Step { by: u8 },
    Stay,
}

#[derive(Debug, PartialEq, Deserialize)]
#[serde(rename_all = "snake_case", remote = "Self")]
enum Far {
    Leap { by: u8 },
}

zolvik_json::kinds_read_in_field! {
    #[derive(Debug, PartialEq)]
    pub enum Move in "do" {
        Near(Near),
        Far(Far),
    }
}

#[rstest::rstest]
#[case::first_list(r#"{"do":"step","by":2}"#, Ok(Move::Near(Near::Step { by: 2 })))]
#[case::without_fields(r#"{"do":"stay"}"#, Ok(Move::Near(Near::Stay)))]
#[case::second_list(r#"{"do":"leap","by":9}"#, Ok(Move::Far(Far::Leap { by: 9 })))]
#[case::of_no_list(r#"{"do":"fly"}"#, Err(".: .: unknown do `fly`"))]
#[case::its_own_fault(
    r#"{"do":"step","by":true}"#,
    Err(".: by: invalid type: boolean `true`, expected u8")
)]
fn kinds_of_several_lists_are_told_apart_as_of_one(
    #[case] text: &str,
    #[case] expected: Result<Move, &str>,
) {
    let read = read::<Move>(text).map_err(|misread| misread.to_string());
    assert_eq!(read, expected.map_err(str::to_owned));
}
