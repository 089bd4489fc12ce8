//! The rows of the catalogue.

use zolvik_patch::catalogue::{choice, choices, param, params, position, unit_params};
use zolvik_patch::document::{KindName, Operator, Point};
use zolvik_patch::param::{Linked, ParamId};

#[test]
fn every_row_stands_in_its_place_and_has_a_name_of_its_own() {
    let mut names: Vec<&str> = params().map(|row| row.name).collect();
    for row in params() {
        assert_eq!(param(row.id).name, row.name);
        assert!(row.help.ends_with('.') && !row.label.is_empty());
        let still = matches!(row.linked, Linked::Never | Linked::Onset);
        assert!(row.smoothing_s > 0.0 || still);
        let written = serde_json::to_value(row.id).unwrap();
        assert_eq!(written, row.name);
        assert_eq!(serde_json::from_value::<ParamId>(written).unwrap(), row.id);
    }
    for row in choices() {
        assert_eq!(choice(row.id).name, row.name);
        assert!(row.help.ends_with('.') && row.options.len() > 1);
    }
    names.extend(choices().map(|row| row.name));
    let all = names.len();
    names.sort_unstable();
    names.dedup();
    assert_eq!(names.len(), all, "a name is used twice");
    assert!(serde_json::from_str::<ParamId>("\"filter.depth\"").is_err());
}

#[test]
fn positions_count_through_the_parameters_of_each_kind() {
    for kind in KindName::ALL {
        for (at, row) in unit_params(*kind).enumerate() {
            assert_eq!(position(row.id), at, "{}", row.name);
        }
    }
}

#[test]
fn places_and_values_are_inverse() {
    for row in params() {
        for i in 0..=20 {
            let place = f64::from(i) / 20.0;
            let back = row.place(row.value_at(place));
            assert!(
                (back - place).abs() < 1e-9,
                "{} at {place}: {back}",
                row.name
            );
        }
        let there = row.domain.enter(row.default);
        assert!((row.domain.leave(there) - row.default).abs() < 1e-9);
    }
}

#[test]
fn steps_land_on_round_numbers() {
    let ratio = param(Operator::RATIO);
    assert_eq!(ratio.nudge(1.018, 1.0, false), 1.5);
    assert_eq!(ratio.nudge(64.0, 1.0, false), 64.0);
    assert_eq!(param(Point::TIME_S).nudge(0.0, -1.0, false), 0.0);
}
