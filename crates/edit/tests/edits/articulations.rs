//! Articulations: what is different in one, and what an edit may not break in another.

use crate::playing::{LEVEL, RATIO, after, set};
use rstest::rstest;
use zolvik_edit::{Connect, Edit, apply};
use zolvik_patch::address::Address;
use zolvik_patch::document::{ChainId, Envelope, Filter, KindName, Patch, UnitId};
use zolvik_patch::finish::EffectName;
use zolvik_patch::json;
use zolvik_patch::movement::SourceName;
use zolvik_patch::playing::differing::{base_value, differing_in_effect, for_file};

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
