//! Units of every kind: how they are put in and taken out, what they can be routed to, what is said of their ways.

use rstest::rstest;
use zolvik_edit::offers::drop;
use zolvik_edit::unheard::unheard;
use zolvik_edit::{Connect, Edit, apply};
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::document::{
    Bus, Destination, Filter, FilterType, KindName, MAX_UNITS, Operator, Route, RouteId, RouteKind,
    Sample, Send, UnitId, UnitKind, VoiceSettings,
};
use zolvik_patch::filter::cutoff_hz;
use zolvik_patch::hearing::{Listening, ways_out};
use zolvik_patch::pitch::auditioned_hz;
use zolvik_patch::sound::{OwnSound, ReadySound, Sound};
use zolvik_patch::{PatchError, json};

fn edited(patch: &Patch, edit: Edit) -> Patch {
    apply(patch, &edit).unwrap().0
}

fn with(patch: &Patch, kind: KindName, connect: Connect) -> Patch {
    edited(patch, Edit::AddUnit { kind, connect })
}

fn after(unit: u16) -> Connect {
    Connect::Unit { id: UnitId(unit) }
}

fn sends(patch: &Patch, unit: u16) -> Vec<(Option<u16>, Option<RouteKind>)> {
    let of = |r: &Route| (r.send.target().map(|u| u.0), r.send.kind());
    patch.sends(UnitId(unit)).map(of).collect()
}

fn nothing() -> Listening {
    Listening::default()
}

#[test]
fn a_filter_after_a_strip_takes_over_its_way_out() {
    let mut patch = Patch::empty();
    patch.routes[0].send = Send::Output {
        level_db: -7.0,
        pan: 0.4,
        bus: Bus::Second,
    };
    let patch = with(&patch, KindName::Filter, after(1));
    assert_eq!(sends(&patch, 1), [(Some(2), Some(RouteKind::Audio))]);
    let out = patch.sends(UnitId(2)).next().unwrap();
    let Send::Output { level_db, pan, bus } = &out.send else {
        panic!("{out:?}")
    };
    assert_eq!(
        (*level_db, *pan, *bus),
        (-7.0, 0.4, Bus::Second),
        "as it was heard before"
    );
    // a second one after the first one: in a row
    let patch = with(&patch, KindName::Shaper, after(2));
    assert_eq!(sends(&patch, 2), [(Some(3), Some(RouteKind::Audio))]);
    assert_eq!(
        ways_out(&patch, UnitId(1)),
        ["through Filter 2, then Shaper 3, by the second way out"]
    );
    assert!(
        patch
            .units
            .iter()
            .all(|u| unheard(&patch, &nothing(), u.id).is_none())
    );
}

#[test]
fn a_filter_after_everything_leaves_what_is_clean_alone() {
    let mut patch = with(&Patch::empty(), KindName::Operator, Connect::Output);
    patch = with(&patch, KindName::Noise, Connect::Output);
    let clean = patch.sends(UnitId(3)).next().unwrap().id;
    patch = edited(
        &patch,
        Edit::SetBus {
            route: clean,
            bus: Bus::Clean,
        },
    );
    let patch = with(&patch, KindName::Filter, Connect::Output);
    for unit in [1, 2] {
        assert_eq!(sends(&patch, unit), [(Some(4), Some(RouteKind::Audio))]);
    }
    assert_eq!(sends(&patch, 3), [(None, None)]);
    assert_eq!(
        ways_out(&patch, UnitId(3)),
        ["direct to output, past Filter 4, clean"]
    );
    assert_eq!(ways_out(&patch, UnitId(1)), ["through Filter 4"]);
    // what comes after everything passes nothing by
    let patch = with(&patch, KindName::Level, Connect::Output);
    assert_eq!(ways_out(&patch, UnitId(5)), ["direct to output"]);
    assert_eq!(
        ways_out(&patch, UnitId(1)),
        ["through Filter 4, then Level 5"]
    );
}

#[test]
fn taking_a_filter_out_leaves_nothing_silent() {
    let patch = with(&Patch::empty(), KindName::Filter, after(1));
    let patch = with(&patch, KindName::Shaper, after(2));
    let without = edited(&patch, Edit::RemoveUnit { unit: UnitId(2) });
    assert_eq!(sends(&without, 1), [(Some(3), Some(RouteKind::Audio))]);
    let without = edited(&without, Edit::RemoveUnit { unit: UnitId(3) });
    assert_eq!(sends(&without, 1), [(None, None)]);
    assert_eq!(
        without.routes[0].send,
        Patch::empty().routes[0].send,
        "as loud as before"
    );
}

#[test]
fn what_nothing_goes_into_says_so_and_mends_itself() {
    let mut patch = with(&Patch::empty(), KindName::Filter, after(1));
    // the operator goes straight out; the filter leads out, but has nothing to let through
    patch.routes[1].send = Send::output();
    assert_eq!(sends(&patch, 1), [(None, None)]);
    assert!(unheard(&patch, &nothing(), UnitId(1)).is_none());
    let said = unheard(&patch, &nothing(), UnitId(2)).unwrap();
    assert!(said.why.contains("nothing goes into it"));
    let mended = edited(&patch, said.mend.unwrap().edit);
    assert!(unheard(&mended, &nothing(), UnitId(2)).is_none());
    assert_eq!(sends(&mended, 1), [(Some(2), Some(RouteKind::Audio))]);
}

#[rstest]
#[case(KindName::Noise, RouteKind::Phase)]
#[case(KindName::Noise, RouteKind::Audio)]
#[case(KindName::Filter, RouteKind::Phase)]
#[case(KindName::Shaper, RouteKind::Frequency)]
#[case(KindName::Operator, RouteKind::Audio)]
#[case(KindName::Sample, RouteKind::Audio)]
fn what_a_unit_cannot_take_is_refused_in_files_and_put_right_by_hand(
    #[case] kind: KindName,
    #[case] wrong: RouteKind,
) {
    let patch = with(&Patch::empty(), kind, Connect::Output);
    // one that is not routed there yet
    let patch = with(&patch, KindName::Operator, after(1));
    let (from, to) = (UnitId(3), Some(UnitId(2)));
    // by hand it becomes what the unit can take
    let by_hand = edited(
        &patch,
        Edit::AddRoute {
            from,
            to,
            kind: wrong,
        },
    );
    let added = by_hand.routes.last().unwrap();
    assert!(kind.takes().contains(&added.send.kind().unwrap()));
    // in a file it is a fault with a path
    let mut file = by_hand.clone();
    file.routes.last_mut().unwrap().send = Send::to_unit(wrong, UnitId(2));
    let error = json::read(&json::write(&file)).unwrap_err().to_string();
    assert!(
        error.contains("routes[") && error.contains(wrong.label()),
        "{error}"
    );
}

#[test]
fn switching_key_follow_keeps_the_present_notes_cutoff() {
    let mut patch = with(&Patch::empty(), KindName::Filter, after(1));
    patch.audition.note = 45;
    let cutoff = |p: &Patch| match &p.units[1].kind {
        UnitKind::Filter(f) => cutoff_hz(f, auditioned_hz(p), 0.0),
        _ => unreachable!(),
    };
    let before = cutoff(&patch);
    for follow in [0.0, 1.0, 0.3] {
        let address = Address::unit(UnitId(2), Filter::KEY_FOLLOW);
        patch = edited(
            &patch,
            Edit::SetValue {
                address,
                value: follow,
            },
        );
        assert!((cutoff(&patch) / before - 1.0).abs() < 1e-9, "{follow}");
    }
}

#[test]
fn a_comb_is_tuned_to_the_key_as_soon_as_it_is_chosen() {
    let patch = with(&Patch::empty(), KindName::Filter, after(1));
    let comb = edited(
        &patch,
        Edit::Choose {
            units: vec![UnitId(2)],
            choice: Filter::RESPONSE,
            at: FilterType::CombPlus as usize,
        },
    );
    let UnitKind::Filter(f) = &comb.units[1].kind else {
        unreachable!()
    };
    let hz = auditioned_hz(&comb);
    assert!((1200.0 * (cutoff_hz(f, hz, 1.0) / hz).log2()).abs() < 1e-6);
    assert!(f.mix < 1.0, "and arrives gently");
}

#[test]
fn places_of_a_sample_stop_each_other_and_crossed_ones_are_refused_in_files() {
    let patch = with(&Patch::empty(), KindName::Sample, Connect::Output);
    let set = |patch: &Patch, param, value| {
        let address = Address::unit(UnitId(2), param);
        edited(patch, Edit::SetValue { address, value })
    };
    let moved = set(&patch, Sample::LOOP_END, 0.5);
    let moved = set(&moved, Sample::LOOP_START, 0.9);
    let UnitKind::Sample(s) = &moved.units[1].kind else {
        unreachable!()
    };
    assert!(s.loop_start < s.loop_end && s.loop_end == 0.5);
    let crossed = json::write(&moved).replace("\"loop_end\": 0.5", "\"loop_end\": 0.1");
    let error = json::read(&crossed).unwrap_err().to_string();
    assert!(
        error.contains("units[1].kind.sample.loop_end") && error.contains("exchange"),
        "{error}"
    );
}

#[test]
fn a_choice_nobody_offers_changes_nothing() {
    let patch = Patch::empty();
    for (units, choice, at) in [
        (vec![UnitId(1)], Filter::SLOPE, 0),
        (vec![UnitId(1)], Operator::START, 7),
        (vec![], VoiceSettings::MODE, 9),
        (vec![], Operator::START, 0),
    ] {
        assert!(apply(&patch, &Edit::Choose { units, choice, at }).is_err());
    }
}

#[test]
fn arranging_operators_leaves_other_units_and_their_ways_alone() {
    use zolvik_edit::arrangement::{assign, layouts, operators};
    let mut patch = with(&Patch::empty(), KindName::Operator, Connect::Output);
    patch = with(&patch, KindName::Filter, Connect::Output);
    patch = with(&patch, KindName::Noise, after(1));
    assert_eq!(operators(&patch).len(), 2);
    let chain = layouts(2).into_iter().find(|l| l.carriers() == 1).unwrap();
    let places = assign(&patch, &chain);
    let next = edited(&patch, Edit::Arrange { places });
    let carriers: Vec<u16> = [1, 2]
        .into_iter()
        .filter(|u| next.sounds(UnitId(*u)))
        .collect();
    assert_eq!(carriers.len(), 1, "one is heard, through the filter still");
    assert_eq!(
        sends(&next, carriers[0]),
        [(Some(3), Some(RouteKind::Audio))]
    );
    assert_eq!(
        sends(&next, 4),
        sends(&patch, 4),
        "the noise moves what it moved"
    );
}

#[test]
fn files_of_format_3_are_read_with_everything_new_at_rest() {
    let mut file: serde_json::Value = serde_json::from_str(&json::write(&Patch::empty())).unwrap();
    file["format"] = 3.into();
    let voice = serde_json::json!({ "polyphony": 12, "trim_db": -2.0, "quality": "2x" });
    file["voice"] = voice;
    let operator = file["units"][0]["kind"]["operator"]
        .as_object_mut()
        .unwrap();
    for new in ["cycle", "harmonics", "start", "start_turns"] {
        operator.remove(new).unwrap();
    }
    let read = json::read(&file.to_string()).unwrap();
    assert_eq!(read.units, Patch::empty().units);
    assert_eq!((read.voice.polyphony, read.voice.unison.copies), (12, 1));
}

#[test]
fn no_more_units_than_the_format_allows_whatever_their_kind() {
    let mut patch = Patch::empty();
    for i in 1..MAX_UNITS {
        patch = with(&patch, KindName::ALL[i % 5], Connect::Output);
    }
    let (kind, connect) = (KindName::Shaper, Connect::Output);
    let full = apply(&patch, &Edit::AddUnit { kind, connect });
    assert!(matches!(full, Err(PatchError::TooMany { .. })));
}

#[test]
fn a_level_strip_after_a_group_takes_what_leaves_the_group_and_nothing_else() {
    use zolvik_patch::document::GroupId;
    let mut patch = Patch::empty();
    for _ in 0..2 {
        patch = with(&patch, KindName::Operator, Connect::Output);
    }
    let units = vec![UnitId(1), UnitId(2)];
    let patch = apply(&patch, &Edit::GroupUnits { units }).unwrap().0;
    let group = Connect::Group { id: GroupId(1) };
    let patch = with(&patch, KindName::Level, group);
    for unit in [1, 2] {
        assert_eq!(sends(&patch, unit), [(Some(4), Some(RouteKind::Audio))]);
    }
    for unit in [3, 4] {
        assert_eq!(sends(&patch, unit), [(None, None)]);
    }
    assert_eq!(patch.groups[0].units, [UnitId(1), UnitId(2)]);
    // what stands in the group says so among its offers
    let offered =
        zolvik_edit::offers::offers(&patch, zolvik_edit::offers::OfferKind::Add, Some(UnitId(1)));
    let labels: Vec<String> = offered
        .into_iter()
        .flat_map(|g| g.items)
        .map(|item| item.label)
        .collect();
    assert!(labels.contains(&"Level after Group 1".into()), "{labels:?}");
    // no such group
    let connect = Connect::Group { id: GroupId(9) };
    let kind = KindName::Level;
    assert!(apply(&patch, &Edit::AddUnit { kind, connect }).is_err());
}

/// A filter once more stands behind itself.
#[test]
fn a_filter_is_duplicated_in_series() {
    let filter = Edit::AddUnit {
        kind: KindName::Filter,
        connect: Connect::Output,
    };
    let (patch, _) = apply(&Patch::empty(), &filter).unwrap();
    let (twice, new) = apply(
        &patch,
        &Edit::DuplicateUnits {
            units: vec![UnitId(2)],
        },
    )
    .unwrap();
    assert_eq!(new, [UnitId(3)]);
    let ends = |id: u16| {
        twice
            .sends(UnitId(id))
            .map(|r| r.send.target())
            .collect::<Vec<_>>()
    };
    assert_eq!(
        (ends(1), ends(2), ends(3)),
        (vec![Some(UnitId(2))], vec![Some(UnitId(3))], vec![None])
    );
}

/// A new carrier goes straight out, past another one's filter; through it where that is asked for.
#[test]
fn a_new_carrier_goes_past_filters_unless_it_is_asked_for() {
    let add = |kind, connect| Edit::AddUnit { kind, connect };
    let (patch, _) = apply(
        &Patch::empty(),
        &add(KindName::Filter, Connect::Unit { id: UnitId(1) }),
    )
    .unwrap();
    let straight = apply(&patch, &add(KindName::Operator, Connect::Output))
        .unwrap()
        .0;
    assert_eq!(
        straight.sends(UnitId(3)).next().unwrap().send,
        Send::output()
    );
    let asked = apply(
        &patch,
        &add(KindName::Operator, Connect::Through { id: UnitId(2) }),
    )
    .unwrap()
    .0;
    assert_eq!(
        asked.sends(UnitId(3)).next().unwrap().send.target(),
        Some(UnitId(2))
    );
}

/// Led into a filter only, it keeps its level and its place; nothing gets softer that all is sent through.
#[test]
fn into_a_filter_alone_it_goes_as_loudly_and_from_the_same_place() {
    let set = |param, value| Edit::SetValue {
        address: Address::route(RouteId(1), param),
        value,
    };
    let add = Edit::AddUnit {
        kind: KindName::Filter,
        connect: Connect::Output,
    };
    let after =
        |patch: Patch, edits: &[Edit]| edits.iter().fold(patch, |p, e| apply(&p, e).unwrap().0);
    let patch = after(
        Patch::empty(),
        &[
            set(Send::LEVEL_DB, -30.0),
            set(Send::PAN, -0.4),
            add.clone(),
        ],
    );
    let other = after(patch, &[Edit::MakeCarrier { unit: UnitId(1) }, add]);
    let only = drop(&other, UnitId(1), Destination::Unit(UnitId(3)), true);
    let led = after(other, &[only]);
    let send = &led.sends(UnitId(1)).next().unwrap().send;
    let to = UnitId(3);
    assert_eq!(
        *send,
        Send::Audio {
            to,
            pass_db: -30.0,
            pass_pan: -0.4
        }
    );
    // a filter nothing goes into, with a way out of its own
    let (lone, _) = apply(
        &Patch::empty(),
        &Edit::AddStrips {
            strips: zolvik_edit::line::read("low 1kHz > out")
                .unwrap()
                .into_iter()
                .map(|(s, _)| s)
                .collect(),
            selected: None,
        },
    )
    .unwrap();
    let (through, _) = apply(&lone, &Edit::TakeThrough { unit: UnitId(2) }).unwrap();
    let level = |id: u16| through.sends(UnitId(id)).next().unwrap().send.strength();
    let whole = level(1) * level(2);
    assert!((whole - Send::output().strength()).abs() < 1e-12, "{whole}");
}

fn played(patch: &Patch, unit: u16) -> Sample {
    match &patch.unit(UnitId(unit)).unwrap().kind {
        UnitKind::Sample(sample) => sample.clone(),
        other => panic!("{other:?}"),
    }
}

/// What goes on is a loop as it arrives: a texture, and of one's own what is longer than a strike rings.
#[rstest]
#[case::attack(Sound::Ready(ReadySound::Thump), false)]
#[case::texture(Sound::Ready(ReadySound::Crickets), true)]
#[case::short(imported("Knock", 1.9), false)]
#[case::long(imported("Street", 2.1), true)]
fn a_long_recording_arrives_as_a_loop(#[case] sound: Sound, #[case] looped: bool) {
    let set = |patch: &Patch, sound: &Sound| {
        let (units, sound) = (vec![UnitId(2)], Box::new(sound.clone()));
        edited(patch, Edit::SetSound { units, sound })
    };
    let patch = with(&Patch::empty(), KindName::Sample, Connect::Output);
    let once = set(&patch, &sound);
    assert_eq!(played(&once, 2).looped, looped);
    // what was set to play once afterwards stays so, chosen once more
    let (units, choice) = (vec![UnitId(2)], Sample::LOOPED);
    let unlooped = edited(
        &once,
        Edit::Choose {
            units,
            choice,
            at: 0,
        },
    );
    assert!(!played(&set(&unlooped, &sound), 2).looped);
    // one more sample plays what was imported; what comes with the application is no reason
    let more = with(&once, KindName::Sample, Connect::Output);
    let again = played(&more, 3);
    let own = matches!(sound, Sound::Own(_));
    assert_eq!(again.sound == sound, own);
    assert_eq!(again.looped, own && looped);
}

fn imported(name: &str, length_s: f64) -> Sound {
    Sound::Own(OwnSound {
        content: "0".repeat(64),
        name: name.into(),
        frames: (length_s * 44_100.0) as u32,
        rate_hz: 44_100,
    })
}
