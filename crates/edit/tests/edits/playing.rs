//! Phrases, macros' ends and articulations as data.

use rstest::rstest;
use zolvik_edit::{Connect, Edit, apply};
use zolvik_patch::address::Address;
use zolvik_patch::document::{
    ChainId, Envelope, Filter, KindName, LinkId, Operator, Patch, RouteId, Send, SourceId, UnitId,
};
use zolvik_patch::finish::EffectName;
use zolvik_patch::json;
use zolvik_patch::movement::amount::way;
use zolvik_patch::movement::{Macro, SourceName};
use zolvik_patch::playing::differing::{base_value, differing_in_effect, for_file};
use zolvik_patch::playing::ready::READY_PHRASES;
use zolvik_patch::playing::{Phrase, PhraseNote, WheelPlace};

fn after(patch: &Patch, edits: &[Edit]) -> Patch {
    let one = |patch: Patch, edit: &Edit| apply(&patch, edit).unwrap().0;
    edits.iter().fold(patch.clone(), one)
}

const KNOB: SourceId = SourceId(1001);
const LEVEL: fn() -> Address = || Address::route(RouteId(1), Send::LEVEL_DB);
const RATIO: fn() -> Address = || Address::unit(UnitId(1), Operator::RATIO);

fn set(address: Address, value: f64) -> Edit {
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

fn articulated() -> Patch {
    after(
        &Patch::empty(),
        &[
            Edit::AddArticulation {
                name: "Open".into(),
            },
            set(RATIO(), 3.0),
        ],
    )
}

#[test]
fn an_articulation_keeps_what_was_changed_in_it_and_nothing_else() {
    let open = articulated();
    assert_eq!(RATIO().get(&open).unwrap(), 3.0);
    assert_eq!(base_value(&open, RATIO()), Some(1.0));
    let base = after(&open, &[Edit::SwitchArticulation { at: None }]);
    assert_eq!(RATIO().get(&base).unwrap(), 1.0);
    // a change of the base is heard in both, but where that is different
    let base = after(&base, &[set(LEVEL(), -9.0), set(RATIO(), 2.0)]);
    let open = after(&base, &[Edit::SwitchArticulation { at: Some(0) }]);
    assert_eq!(LEVEL().get(&open).unwrap(), -9.0);
    assert_eq!(RATIO().get(&open).unwrap(), 3.0);
    assert_eq!(base_value(&open, RATIO()), Some(2.0));
    // back at what the base has nothing is different any more
    let same = after(&open, &[set(RATIO(), 2.0)]);
    assert_eq!(same.playing.articulations[0].differences, []);
    // what is built is built for all
    let built = after(
        &open,
        &[
            Edit::AddUnit {
                kind: KindName::Operator,
                connect: Connect::Unit { id: UnitId(1) },
            },
            Edit::SwitchArticulation { at: None },
        ],
    );
    assert_eq!(built.units.len(), 2);
    assert_eq!(RATIO().get(&built).unwrap(), 2.0);
}

#[rstest]
#[case::taken_back(true, 1.0, 1.0)]
#[case::made_the_base(false, 3.0, 3.0)]
fn a_difference_is_settled(#[case] take_back: bool, #[case] here: f64, #[case] base: f64) {
    let settled = after(
        &articulated(),
        &[Edit::Settle {
            address: Some(RATIO()),
            take_back,
        }],
    );
    assert_eq!(RATIO().get(&settled).unwrap(), here);
    let there = after(&settled, &[Edit::SwitchArticulation { at: None }]);
    assert_eq!(RATIO().get(&there).unwrap(), base);
    assert_eq!(settled.playing.articulations[0].differences, []);
}

#[test]
fn files_hold_the_base_and_what_is_different() {
    let open = after(
        &articulated(),
        &[
            Edit::SetEnvelope {
                units: vec![UnitId(1)],
                envelope: Box::new(Envelope::default()),
            },
            Edit::SwitchUnit {
                unit: UnitId(1),
                on: false,
            },
        ],
    );
    let text = json::write(&open);
    let raw: serde_json::Value = serde_json::from_str(&text).unwrap();
    assert_eq!(raw["units"][0]["kind"]["operator"]["ratio"], 1.0);
    assert_eq!(raw["units"][0]["on"], true);
    assert_eq!(raw["playing"]["articulation"], 0);
    let listed = &raw["playing"]["articulations"][0]["differences"];
    assert!(listed.to_string().contains("\"value\":3.0"), "{listed}");
    assert_eq!(json::read(&text).unwrap(), open);
    assert!(for_file(&open).units[0].on);
}

#[rstest]
#[case::of_nothing(
    r#"{"unit": {"unit": 9, "on": true}}"#,
    "playing.articulations[0].differences[0]: is about something the patch does not have"
)]
#[case::out_of_range(
    r#"{"value": {"address": {"param": "operator.ratio", "id": 1}, "value": 5000.0}}"#,
    "playing.articulations[0].differences[0]: 5000 is outside"
)]
#[case::of_the_audition(
    r#"{"value": {"address": {"param": "audition.tempo_bpm", "id": 0}, "value": 90.0}}"#,
    "Tempo is the same for all"
)]
#[case::unknown_kind(r#"{"wave": {"unit": 1}}"#, "differences[0]")]
#[case::unknown_field(r#"{"unit": {"unit": 1, "on": true, "colour": 3}}"#, "differences[0]")]
fn what_articulations_cannot_be_is_refused_with_its_place(
    #[case] difference: &str,
    #[case] why: &str,
) {
    let mut raw = serde_json::to_value(Patch::empty()).unwrap();
    let difference: serde_json::Value = serde_json::from_str(difference).unwrap();
    raw["playing"] = serde_json::json!({
        "articulations": [{ "name": "Open", "differences": [difference] }]
    });
    let found = json::read(&raw.to_string()).unwrap_err().to_string();
    assert!(found.contains(why), "{found}");
}

#[test]
fn what_an_articulation_would_break_is_refused_as_it_is_read() {
    // each value is in its range, but the sample would end before it begins
    let add = Edit::AddUnit {
        kind: KindName::Sample,
        connect: Connect::Output,
    };
    let patch = after(&Patch::empty(), &[add]);
    let mut raw = serde_json::to_value(&patch).unwrap();
    let end = serde_json::json!({
        "value": { "address": { "param": "sample.end", "id": 2 }, "value": 0.0 }
    });
    raw["playing"] = serde_json::json!({
        "articulations": [{ "name": "Broken", "differences": [end] }]
    });
    let found = json::read(&raw.to_string()).unwrap_err().to_string();
    assert!(found.contains("playing.articulations[0]"), "{found}");
    assert!(found.contains("before its start"), "{found}");
}

#[test]
fn removing_what_an_articulation_changes_leaves_it_whole() {
    let patch = after(
        &articulated(),
        &[
            Edit::AddUnit {
                kind: KindName::Filter,
                connect: Connect::Output,
            },
            set(Address::unit(UnitId(2), Filter::CUTOFF_HZ), 300.0),
            Edit::RemoveUnit { unit: UnitId(2) },
        ],
    );
    let read = json::read(&json::write(&patch)).unwrap();
    assert_eq!(read, patch);
    // and of one that is not heard
    let base = after(
        &articulated(),
        &[
            Edit::SwitchArticulation { at: None },
            Edit::AddUnit {
                kind: KindName::Operator,
                connect: Connect::Output,
            },
            Edit::RemoveUnit { unit: UnitId(1) },
        ],
    );
    assert_eq!(json::read(&json::write(&base)).unwrap(), base);
}

#[test]
fn an_effect_is_on_in_one_articulation_and_off_in_the_base() {
    let effect = after(
        &articulated(),
        &[
            Edit::SwitchArticulation { at: None },
            Edit::AddEffect {
                kind: EffectName::Chorus,
                chain: ChainId::Common,
                at: None,
            },
        ],
    );
    let id = effect.finish.effects().next().unwrap().id;
    let off = Edit::SwitchEffect {
        effect: id,
        on: false,
    };
    let there = after(
        &effect,
        &[Edit::SwitchArticulation { at: Some(0) }, off.clone()],
    );
    assert!(!there.effect(id).unwrap().on);
    assert_eq!(differing_in_effect(&there, id), 1);
    let base = after(&there, &[Edit::SwitchArticulation { at: None }]);
    assert!(base.effect(id).unwrap().on, "the base has it on still");
    assert_eq!(differing_in_effect(&base, id), 0);
    // in a file too, and an older format has no such thing
    let text = json::write(&there);
    assert_eq!(json::read(&text).unwrap(), there);
    assert!(text.contains(r#""effect""#), "{text}");
    // as it is in the base again it is no difference; with the effect it goes
    let on = Edit::SwitchEffect {
        effect: id,
        on: true,
    };
    assert_eq!(differing_in_effect(&after(&there, &[on]), id), 0);
    let gone = after(&there, &[Edit::RemoveEffect { effect: id }]);
    assert_eq!(json::read(&json::write(&gone)).unwrap(), gone);
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

/// What would hold in one articulation and not in the base is refused in words of the screen, and all that was there can still be written.
#[test]
fn a_link_to_a_point_that_only_an_articulation_has_is_refused() {
    use zolvik_patch::PatchError;
    use zolvik_patch::document::Point;
    let edited = |patch: &Patch, edit: Edit| apply(patch, &edit).map(|(next, _)| next);
    let name = "Soft".to_owned();
    let patch = edited(&Patch::empty(), Edit::AddArticulation { name }).unwrap();
    let soft = edited(&patch, Edit::SwitchArticulation { at: Some(0) }).unwrap();
    let point = Edit::AddPoint {
        unit: UnitId(1),
        time_s: 0.4,
        level: 0.6,
    };
    let soft = edited(&soft, point.clone()).unwrap();
    let count = soft.units[0].envelope.points.len();
    let last = Address::point(UnitId(1), count - 1, Point::TIME_S);
    let link = Edit::AddSource {
        kind: SourceName::Lfo,
        to: vec![last],
    };
    let refused = edited(&soft, link.clone()).unwrap_err();
    assert!(
        matches!(&refused, PatchError::OnlyHere { here, there, .. } if here == "Soft" && there == "Base")
    );
    assert!(
        refused.to_string().starts_with(
            "this fits Soft alone: in Base an envelope this short has no time. Nothing was changed;"
        ),
        "{refused}"
    );
    // what was there before can be written and edited on
    let renamed = edited(
        &soft,
        Edit::RenameUnit {
            unit: UnitId(1),
            name: "Reed".into(),
        },
    )
    .unwrap();
    assert_eq!(json::read(&json::write(&renamed)), Ok(renamed.clone()));
    // once the base has the point too, both are made
    let base = edited(&renamed, Edit::SwitchArticulation { at: None }).unwrap();
    let base = edited(&base, point).unwrap();
    let linked = edited(&base, link).unwrap();
    assert_eq!(json::read(&json::write(&linked)), Ok(linked));
}

#[test]
fn a_key_that_two_articulations_would_switch_on_is_the_first_ones() {
    let mut patch = Patch::empty();
    for name in ["Soft", "Hard", "Mute"] {
        let add = Edit::AddArticulation { name: name.into() };
        patch = apply(&patch, &add).unwrap().0;
    }
    for (articulation, key) in patch.playing.articulations.iter_mut().zip([24, 24, 200]) {
        articulation.key = Some(key);
    }
    let read = zolvik_patch::json::read(&zolvik_patch::json::write(&patch)).unwrap();
    let keys: Vec<Option<u8>> = read.playing.articulations.iter().map(|a| a.key).collect();
    assert_eq!(keys, [Some(24), None, None]);
}
