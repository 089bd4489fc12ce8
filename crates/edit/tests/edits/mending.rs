//! The nearest valid patch to a text that is none.

use proptest::prelude::*;
use rstest::rstest;
use serde_json::{Value, json};
use zolvik_edit::mend::nearest;
use zolvik_patch::testing::{Dice, any_patch};
use zolvik_patch::validate::{savable, validate};
use zolvik_patch::{Patch, json as file};

fn tree(patch: &Patch) -> Value {
    serde_json::from_str(&file::write(patch)).unwrap()
}

#[rstest]
#[case::beyond_its_range("/units/0/velocity", json!(1e9))]
#[case::no_such_unit("/routes", json!([{ "id": 900, "from": 77, "to": null }]))]
#[case::an_unknown_field("/meta/colour", json!("red"))]
#[case::an_unknown_kind("/movement/sources", json!([{ "id": 1001, "name": "x", "kind": { "thing": {} } }]))]
#[case::no_articulations("/playing/articulations", json!([{ "name": "" }]))]
fn what_is_wrong_is_left_out_and_the_rest_stays(#[case] place: &str, #[case] value: Value) {
    let mut patch = Patch::empty();
    patch.meta.name = "Stays".into();
    let mut broken = tree(&patch);
    let mut at = &mut broken;
    for part in place.split('/').skip(1) {
        at = match part.parse::<usize>() {
            Ok(place) => &mut at[place],
            Err(_) => &mut at[part],
        };
    }
    *at = value;
    let text = broken.to_string();
    assert!(file::read(&text).is_err());
    let mended = nearest(&text).unwrap();
    assert_eq!(mended.patch.meta.name, "Stays");
    assert_eq!(mended.patch.units.len(), 1);
    assert!(!mended.left_out.is_empty());
    assert_eq!(
        file::read(&file::write(&mended.patch)).as_ref(),
        Ok(&mended.patch)
    );
}

#[test]
fn what_is_valid_stays_as_it_is_and_what_is_no_json_is_refused() {
    let patch = any_patch(11);
    let mended = nearest(&file::write(&patch)).unwrap();
    assert_eq!((mended.patch, mended.left_out), (patch, vec![]));
    assert!(nearest("{broken").is_err());
}

/// Some value inside a tree that holds no others.
fn somewhere<'a>(tree: &'a mut Value, dice: &mut Dice) -> &'a mut Value {
    let count = match &*tree {
        Value::Object(fields) => fields.len(),
        Value::Array(list) => list.len(),
        _ => 0,
    };
    if count == 0 {
        return tree;
    }
    let which = dice.below(count);
    let inside = match tree {
        Value::Object(fields) => fields.values_mut().nth(which),
        Value::Array(list) => list.get_mut(which),
        _ => None,
    };
    somewhere(inside.unwrap(), dice)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]
    /// Any patch with values of it turned into something else: what comes of it, if anything, is valid and can be saved.
    #[test]
    fn whatever_is_mended_is_valid(seed: u64) {
        let mut dice = Dice(seed);
        let mut broken = tree(&any_patch(seed));
        for _ in 0..=dice.below(3) {
            let other = [json!(-1e12), json!("what"), json!(null), json!([1])][dice.below(4)].clone();
            *somewhere(&mut broken, &mut dice) = other;
        }
        if let Ok(mended) = nearest(&broken.to_string()) {
            prop_assert_eq!(validate(&mended.patch), Ok(()));
            prop_assert_eq!(savable(&mended.patch), Ok(()));
            prop_assert_eq!(file::read(&file::write(&mended.patch)), Ok(mended.patch));
        }
    }
}
