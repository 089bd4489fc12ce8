//! Strips typed as a line, and written as one.

use rstest::rstest;
use zolvik_edit::line::{copied, read, uprooted, write};
use zolvik_edit::{Edit, apply};
use zolvik_patch::Patch;
use zolvik_patch::document::{KindName, Send, TunedBy, UnitId};
use zolvik_patch::wave::{Shape, Wave};

fn typed(patch: &Patch, line: &str) -> (Patch, Vec<UnitId>) {
    let strips = read(line)
        .unwrap()
        .into_iter()
        .map(|(strip, _)| strip)
        .collect();
    apply(
        patch,
        &Edit::AddStrips {
            strips,
            selected: Some(vec![]),
        },
    )
    .unwrap()
}

fn out(level_db: f64, pan: f64) -> Send {
    let bus = Default::default();
    Send::Output { level_db, pan, bus }
}

fn sends(patch: &Patch, unit: u16) -> Vec<Send> {
    patch.sends(UnitId(unit)).map(|r| r.send.clone()).collect()
}

#[test]
fn several_strips_are_made_at_once_and_lead_where_they_say() {
    let (patch, new) = typed(
        &Patch::empty(),
        "saw x0.5 -14dB 30L; noise -30; sine x3.5 > 1 1.2rad",
    );
    assert_eq!(new, [UnitId(2), UnitId(3), UnitId(4)]);
    let saw = patch.units[1].oscillator().unwrap();
    assert_eq!((&saw.wave, saw.ratio), (&Wave::Shape(Shape::Saw), 0.5));
    assert_eq!(sends(&patch, 2), [out(-14.0, -0.3)]);
    assert_eq!(patch.units[2].kind.name(), KindName::Noise);
    assert_eq!(sends(&patch, 3), [out(-30.0, 0.0)]);
    let to = UnitId(1);
    assert_eq!(sends(&patch, 4), [Send::Phase { to, index_rad: 1.2 }]);
    assert_eq!(patch.units[3].name, "Operator 4");
}

/// What a line says is made: a level is that of a way out, whatever else the strip does.
#[test]
fn a_level_beside_what_is_moved_is_a_way_out() {
    let (patch, _) = typed(&Patch::empty(), "saw -34dB > 1 20%");
    let tau = std::f64::consts::TAU;
    let to = UnitId(1);
    let index = Send::Phase {
        to,
        index_rad: 0.2 * tau,
    };
    assert_eq!(sends(&patch, 2), [index, out(-34.0, 0.0)]);
}

#[test]
fn a_filter_that_is_typed_is_connected_as_one_that_is_added() {
    let into = |to: u16, pass_db: f64, pass_pan: f64| Send::Audio {
        to: UnitId(to),
        pass_db,
        pass_pan,
    };
    // everything goes through it, as loudly as before
    let (all, _) = typed(&Patch::empty(), "low 800");
    assert_eq!(sends(&all, 1), [into(2, -12.0, 0.0)]);
    assert_eq!(sends(&all, 2), [out(0.0, 0.0)]);
    // what is selected
    let (two, _) = typed(&Patch::empty(), "saw -20dB 40L");
    let strips = |line: &str| {
        read(line)
            .unwrap()
            .into_iter()
            .map(|(strip, _)| strip)
            .collect()
    };
    let edit = Edit::AddStrips {
        strips: strips("high 200Hz"),
        selected: Some(vec![UnitId(2)]),
    };
    let (some, _) = apply(&two, &edit).unwrap();
    assert_eq!(
        (sends(&some, 1), sends(&some, 2)),
        (vec![out(-12.0, 0.0)], vec![into(3, -20.0, -0.4)])
    );
    // what stands before it in the line, and two in series
    let (row, _) = typed(&Patch::empty(), "noise -30; low 800Hz res20; soft -3dB");
    assert_eq!(
        (sends(&row, 1), sends(&row, 2)),
        (vec![out(-12.0, 0.0)], vec![into(3, -30.0, 0.0)])
    );
    assert_eq!(
        (sends(&row, 3), sends(&row, 4)),
        (vec![into(4, 0.0, 0.0)], vec![out(-3.0, 0.0)])
    );
}

#[test]
fn bare_numbers_of_a_line_have_the_units_of_its_help() {
    let (patch, _) = typed(
        &Patch::empty(),
        "sine a20 d300 s60 r1.5; sine r400; noise -inf",
    );
    let points = |at: usize| {
        patch.units[at]
            .envelope
            .points
            .iter()
            .map(|p| (p.time_s, p.level))
            .collect::<Vec<_>>()
    };
    assert_eq!(points(1), [(0.02, 1.0), (0.3, 0.6), (1.5, 0.0)]);
    assert_eq!(points(2)[2].0, 0.4);
    assert_eq!(sends(&patch, 4), [out(-72.0, 0.0)]);
}

#[test]
fn strips_of_a_line_call_each_other_and_values_have_their_units() {
    let line = "7: half sine A2 -7ct 5copies a20ms s50% r1.5s \"Reed; one\"; sine 12st > 7 fm 0.5 > 7 ring 40%; low 2.5kHz q1.2 > out";
    let (patch, _) = typed(&Patch::empty(), line);
    let reed = &patch.units[1];
    let operator = reed.oscillator().unwrap();
    assert_eq!(
        (operator.tuned_by, operator.fixed_hz, operator.detune_cents),
        (TunedBy::Fixed, 110.0, -7.0)
    );
    assert_eq!((reed.name.as_str(), reed.copies), ("Reed; one", 5));
    let points = &reed.envelope.points;
    assert_eq!(
        (points[0].time_s, points[1].level, points[2].time_s),
        (0.02, 0.5, 1.5)
    );
    let to = UnitId(2);
    assert_eq!(
        sends(&patch, 3),
        [
            Send::Frequency { to, deviation: 0.5 },
            Send::Ring { to, mix: 0.4 }
        ]
    );
    assert_eq!(patch.units[2].oscillator().unwrap().semitones, 12.0);
    assert_eq!(patch.units[3].kind.name(), KindName::Filter);
}

/// Into a filter that is there already it goes where the line says so.
#[test]
fn what_is_typed_goes_past_filters_that_are_there() {
    let (patch, _) = typed(&Patch::empty(), "low 800Hz");
    let (straight, _) = typed(&patch, "saw -9 R");
    assert_eq!(sends(&straight, 3), [out(-9.0, 1.0)]);
    let (asked, _) = typed(&patch, "saw > 2 through -9dB R");
    let (to, pass_db, pass_pan) = (UnitId(2), -9.0, 1.0);
    assert_eq!(
        sends(&asked, 3),
        [Send::Audio {
            to,
            pass_db,
            pass_pan
        }]
    );
}

#[rstest]
#[case("wobble x2", "“wobble” is not a strip")]
#[case("saw x2 loud", "“loud” was not understood")]
#[case("saw x900", "“x900”")]
#[case("saw > bell", "“bell”: after >")]
#[case("saw x", "“x”")]
#[case("sine >", "“>” was not")]
#[case("3:", "“3:” is not a strip")]
fn a_word_that_is_none_is_named(#[case] line: &str, #[case] says: &str) {
    let error = read(line).unwrap_err().to_string();
    assert!(error.contains(says), "{error}");
}

#[test]
fn a_number_that_is_no_strip_is_refused_and_nothing_is_added() {
    let strips = read("saw > 9")
        .unwrap()
        .into_iter()
        .map(|(strip, _)| strip)
        .collect();
    assert!(
        apply(
            &Patch::empty(),
            &Edit::AddStrips {
                strips,
                selected: None
            }
        )
        .is_err()
    );
    assert!(read(" ; ;").unwrap().is_empty());
}

/// What is written is read as what it was, as far as words go; what is copied is all of it.
#[test]
fn what_is_written_is_read_again() {
    let line = "saw x0.5 -3ct -14dB 30L; sine x3.5 > 1 1.25rad > 2 fm 0.3; low 800Hz res25%; noise -30dB; fold; level";
    let (patch, new) = typed(&Patch::empty(), line);
    let text = write(&patch, &new);
    let (again, copies) = typed(&Patch::empty(), &text);
    assert_eq!(again.units, patch.units, "{text}");
    for unit in 1..=7 {
        let sorted = |patch: &Patch| {
            let mut all: Vec<String> = sends(patch, unit)
                .iter()
                .map(|s| format!("{s:?}"))
                .collect();
            all.sort();
            all
        };
        assert_eq!(sorted(&again), sorted(&patch), "{text}");
    }
    assert_eq!(write(&again, &copies), text);
    assert_eq!(
        write(&patch, &[UnitId(2)]),
        "saw x0.5 -3ct > 4 through -14dB 30L"
    );
    // and into another patch with all they are, but what leads elsewhere
    let mut strips = copied(&patch, &[UnitId(3)]);
    uprooted(&mut strips);
    let (other, _) = apply(
        &Patch::empty(),
        &Edit::AddStrips {
            strips,
            selected: None,
        },
    )
    .unwrap();
    assert_eq!(sends(&other, 2), [out(-12.0, 0.0)]);
    assert_eq!(other.units[1].kind, patch.units[2].kind);
}

#[test]
fn no_text_whatever_is_a_panic() {
    let mut dice = zolvik_patch::testing::Dice(3);
    let words = [
        "saw", "x", ";", ">", "1", "\"", "-", "a", "s", "q", "fm", "λ", "×2", "30L", "-14dB", ":",
        "2:", "é", "res", "copies",
    ];
    for _ in 0..4000 {
        let line: Vec<&str> = (0..1 + dice.below(7))
            .map(|_| words[dice.below(words.len())])
            .collect();
        let _ = read(&line.join(if dice.below(2) == 0 { " " } else { "" }));
    }
}
