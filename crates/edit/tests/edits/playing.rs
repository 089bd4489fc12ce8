//! Phrases, macros' ends and articulations as data.

use rstest::rstest;
use zolvik_edit::{Edit, apply};
use zolvik_patch::address::Address;
use zolvik_patch::document::{LinkId, Operator, Patch, RouteId, Send, SourceId, UnitId};
use zolvik_patch::json;
use zolvik_patch::movement::amount::way;
use zolvik_patch::movement::{Macro, SourceName};
use zolvik_patch::playing::ready::READY_PHRASES;
use zolvik_patch::playing::{Phrase, PhraseNote, WheelPlace};

pub fn after(patch: &Patch, edits: &[Edit]) -> Patch {
    let one = |patch: Patch, edit: &Edit| apply(&patch, edit).unwrap().0;
    edits.iter().fold(patch.clone(), one)
}

const KNOB: SourceId = SourceId(1001);
pub const LEVEL: fn() -> Address = || Address::route(RouteId(1), Send::LEVEL_DB);
pub const RATIO: fn() -> Address = || Address::unit(UnitId(1), Operator::RATIO);

pub fn set(address: Address, value: f64) -> Edit {
    Edit::SetValue { address, value }
}

fn turn(place: f64) -> Edit {
    set(Address::new(Macro::PLACE, KNOB.0), place)
}

fn with_macro(to: Address) -> Patch {
    let add = Edit::AddSource {
        kind: SourceName::Macro,
        to: vec![to],
    };
    after(&Patch::empty(), &[add])
}

#[rstest]
#[case::upward(-20.0, -3.0)]
#[case::upside_down(-3.0, -40.0)]
fn a_macro_leads_from_one_typed_value_to_the_other(#[case] low: f64, #[case] high: f64) {
    let patch = with_macro(LEVEL());
    let link = patch.movement.links[0].id;
    let patch = after(&patch, &[Edit::SetWay { link, low, high }]);
    let found = way(&patch, &patch.movement.links[0]).unwrap();
    assert!((found.0 - low).abs() < 1e-9 && (found.1 - high).abs() < 1e-9);
    // halfway it is halfway; where it rests on a part of the way it has come there before
    let link = &patch.movement.links[0];
    assert!((link.motion(0.5) - 0.5 * (high - low)).abs() < 1e-9);
    let mut part = link.clone();
    (part.begin_share, part.end_share) = (0.25, 0.75);
    for (place, share) in [(0.1, 0.0), (0.25, 0.0), (0.5, 0.5), (0.75, 1.0), (0.9, 1.0)] {
        let expected = share * (high - low);
        assert!((part.motion(place) - expected).abs() < 1e-9, "at {place}");
    }
}

#[test]
fn what_is_heard_becomes_an_end_of_a_macro() {
    let patch = with_macro(LEVEL());
    let link = patch.movement.links[0].id;
    let begun = after(
        &patch,
        &[
            Edit::SetWay {
                link,
                low: -30.0,
                high: -24.0,
            },
            turn(1.0),
            // heard: -18 dB, since the macro stands 6 dB above the value
            set(LEVEL(), -24.0),
            Edit::TakeEnd {
                source: KNOB,
                high: true,
            },
        ],
    );
    let ends = way(&begun, &begun.movement.links[0]).unwrap();
    assert!((ends.0 + 30.0).abs() < 1e-9, "the low end stays: {ends:?}");
    assert!(
        (ends.1 + 18.0).abs() < 1e-9,
        "what was heard is the high one"
    );
    let low = after(
        &begun,
        &[
            turn(0.5),
            Edit::TakeEnd {
                source: KNOB,
                high: false,
            },
        ],
    );
    let ends = way(&low, &low.movement.links[0]).unwrap();
    assert!(
        (ends.0 + 24.0).abs() < 1e-9 && (ends.1 + 18.0).abs() < 1e-9,
        "{ends:?}"
    );
    assert_eq!(Address::new(Macro::PLACE, KNOB.0).get(&low).unwrap(), 0.0);
}

#[test]
fn a_macro_leads_from_one_state_to_the_other() {
    let add = Edit::AddSource {
        kind: SourceName::Macro,
        to: vec![],
    };
    let refused = apply(
        &after(&Patch::empty(), core::slice::from_ref(&add)),
        &Edit::Morph { source: KNOB },
    );
    assert!(refused.unwrap_err().to_string().contains("keep one as B"));
    let patch = after(
        &Patch::empty(),
        &[
            add,
            Edit::CopyToOther,
            set(LEVEL(), -20.0),
            set(RATIO(), 2.0),
            Edit::Morph { source: KNOB },
        ],
    );
    assert_eq!(patch.movement.links.len(), 2);
    for link in &patch.movement.links {
        let other = patch.other.as_ref().unwrap();
        let (low, high) = way(&patch, link).unwrap();
        assert!((low - link.to.get(&patch).unwrap()).abs() < 1e-9);
        assert!((high - link.to.get(other).unwrap()).abs() < 1e-9);
    }
}

#[test]
fn settings_go_from_link_to_link_in_shares_of_their_ranges() {
    let patch = after(
        &with_macro(LEVEL()),
        &[
            Edit::AddLinks {
                from: KNOB,
                to: vec![RATIO()],
            },
            set(Address::new(zolvik_patch::movement::Link::CURVE, 1), 0.5),
            Edit::LikeLink {
                link: LinkId(2),
                like: LinkId(1),
            },
        ],
    );
    let [level, ratio] = &patch.movement.links[..] else {
        panic!("two links")
    };
    assert_eq!((ratio.curve, ratio.to), (0.5, RATIO()));
    let reach = |link: &zolvik_patch::movement::Link| {
        let row = zolvik_patch::movement::amount::amount_row(zolvik_patch::catalogue::param(
            link.to.param,
        ));
        link.amount / row.max
    };
    assert!((reach(ratio) - reach(level)).abs() < 1e-12);
}

fn phrase() -> Patch {
    let phrase = READY_PHRASES[0].phrase();
    after(
        &Patch::empty(),
        &[Edit::SetPhrase {
            phrase: Some(Box::new(phrase)),
        }],
    )
}

#[test]
fn notes_are_kept_in_time_and_within_the_phrase() {
    let note = |at_beats: f64, semitones: i16| PhraseNote {
        at_beats,
        length_beats: 1.0,
        semitones,
        velocity: 90,
    };
    let patch = after(
        &phrase(),
        &[
            Edit::AddNote { note: note(3.0, 7) },
            Edit::AddNote { note: note(2.0, 3) },
            Edit::AddNote {
                note: note(-1.0, -5),
            },
        ],
    );
    let found = patch.playing.phrase.clone().unwrap();
    let at: Vec<f64> = found.notes.iter().map(|n| n.at_beats).collect();
    assert_eq!(at, [0.0, 0.0, 2.0, 3.0]);
    assert_eq!(found.overlapping(), [false, false, true, true]);
    // what lies after the end is gone with it
    let shorter = after(&patch, &[Edit::SetPhraseLength { beats: 2.5 }]);
    assert_eq!(shorter.playing.phrase.unwrap().notes.len(), 3);
    let fewer = after(&patch, &[Edit::RemoveNotes { notes: vec![0, 2] }]);
    let left = fewer.playing.phrase.unwrap();
    assert_eq!(
        left.notes.iter().map(|n| n.semitones).collect::<Vec<_>>(),
        [0, 7]
    );
}

#[rstest]
#[case::before_the_first(0.0, 0.2)]
#[case::between(2.0, 0.5)]
#[case::after_the_last(7.0, 0.8)]
fn a_wheel_moves_evenly_between_its_turns(#[case] at_beats: f64, #[case] expected: f64) {
    let turns = [(1.0, 0.2), (3.0, 0.8)].map(|(at_beats, place)| WheelPlace { at_beats, place });
    assert!((Phrase::place_at(&turns, at_beats) - expected).abs() < 1e-12);
}

#[test]
fn a_phrase_out_of_bounds_is_refused_with_its_place() {
    let mut raw = serde_json::to_value(phrase()).unwrap();
    raw["playing"]["phrase"]["notes"][0]["velocity"] = 0.into();
    let found = json::read(&raw.to_string()).unwrap_err().to_string();
    assert!(
        found.contains("playing.phrase.notes[0].velocity"),
        "{found}"
    );
    raw["playing"]["phrase"]["notes"][0]["velocity"] = 90.into();
    raw["playing"]["phrase"]["notes"][0]["colour"] = 1.into();
    let found = json::read(&raw.to_string()).unwrap_err().to_string();
    assert!(found.contains("playing.phrase.notes[0]"), "{found}");
}

#[test]
fn a_ninth_macro_and_a_ninth_articulation_are_refused() {
    let knob = Edit::AddSource {
        kind: SourceName::Macro,
        to: vec![],
    };
    let full = after(&Patch::empty(), &vec![knob.clone(); 8]);
    assert!(
        apply(&full, &knob)
            .unwrap_err()
            .to_string()
            .contains("up to 8")
    );
    let open = Edit::AddArticulation {
        name: "Open".into(),
    };
    let full = after(&Patch::empty(), &vec![open.clone(); 8]);
    assert!(
        apply(&full, &open)
            .unwrap_err()
            .to_string()
            .contains("up to 8")
    );
    let key = after(
        &full,
        &[
            Edit::KeyArticulation {
                at: 2,
                key: Some(24),
            },
            Edit::KeyArticulation {
                at: 5,
                key: Some(24),
            },
        ],
    );
    let keys: Vec<_> = key.playing.articulations.iter().map(|a| a.key).collect();
    assert_eq!(keys[2], None, "a key switches to one only");
    assert_eq!(keys[5], Some(24));
}

#[test]
fn both_states_are_tried_with_the_same_phrase() {
    let patch = after(
        &phrase(),
        &[
            Edit::Flip,
            Edit::RenamePhrase {
                name: "Again".into(),
            },
            Edit::Flip,
        ],
    );
    assert_eq!(patch.playing.phrase.unwrap().name, "Again");
}

#[test]
fn a_macro_takes_the_pitch_off_only_where_it_stands() {
    let fine = Address::unit(UnitId(1), Operator::DETUNE_CENTS);
    let patch = with_macro(fine);
    let off = |patch: &Patch| {
        zolvik_patch::movement::amount::mean_cents(patch, UnitId(1)).map_or(0.0, |(cents, _)| cents)
    };
    assert_eq!(off(&patch), 0.0);
    assert!((off(&after(&patch, &[turn(0.5)])) - 5.0).abs() < 1e-9);
}
