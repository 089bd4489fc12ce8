//! Links: how far they go, where they lead, and what becomes of them.

use super::*;
use rstest::rstest;
use zolvik_edit::history::History;
use zolvik_edit::{Connect, Edit, apply};
use zolvik_patch::address::Address;
use zolvik_patch::document::{
    Filter, KindName, LinkId, Operator, Patch, RouteId, Send, SourceId, UnitId, VoiceSettings,
};
use zolvik_patch::json;
use zolvik_patch::movement::amount::{ends, mean_cents, swept};
use zolvik_patch::movement::{Direction, Link, ShapePoint, SourceKind, SourceName, Timing};
use zolvik_patch::text;

#[rstest]
#[case::index(Address::route(RouteId(2), Send::INDEX_RAD), 0.5, Direction::Up)]
#[case::level(LEVEL(), 3.0, Direction::Up)]
#[case::pitch_in_cents(
    Address::unit(UnitId(1), Operator::DETUNE_CENTS),
    10.0,
    Direction::Both
)]
#[case::ratio_by_a_semitone(Address::unit(UnitId(1), Operator::RATIO), 1.0 / 12.0, Direction::Both)]
#[case::pan(Address::route(RouteId(1), Send::PAN), 0.2, Direction::Both)]
fn a_new_link_is_gentle_and_goes_by_what_it_moves(
    #[case] to: Address,
    #[case] amount: f64,
    #[case] direction: Direction,
) {
    let modulated = after(
        &Patch::empty(),
        &[Edit::AddUnit {
            kind: KindName::Operator,
            connect: Connect::Unit { id: UnitId(1) },
        }],
    );
    let patch = after(&modulated, &[add(SourceName::Lfo, to)]);
    assert_eq!(patch.movement.links[0].amount, amount);
    assert_eq!(patch.movement.links[0].direction, direction);
    // where the value stands has no say
    let at_its_end = Edit::SetValue {
        address: to,
        value: zolvik_patch::catalogue::param(to.param).max,
    };
    let full = after(&modulated, &[at_its_end, add(SourceName::Lfo, to)]);
    assert_eq!(full.movement.links[0].direction, direction);
    // a shape that runs once begins at rest
    let source = Edit::AddSource {
        kind: SourceName::Lfo,
        to: vec![],
    };
    let once = Edit::Choose {
        units: vec![SOURCE.into()],
        choice: Timing::RUNS,
        at: 2,
    };
    let links = Edit::AddLinks {
        from: SOURCE,
        to: vec![to],
    };
    let once = after(&modulated, &[source, once, links]);
    assert_eq!(once.movement.links[0].direction, Direction::Up);
    // what rises from nothing goes up; what is added twice is there once
    let played = after(&modulated, &[add(SourceName::Played, to)]);
    assert_eq!(played.movement.links[0].direction, Direction::Up);
    let again = after(
        &played,
        &[Edit::AddLinks {
            from: SOURCE,
            to: vec![to],
        }],
    );
    assert_eq!(again, played);
}

#[rstest]
#[case::both(Direction::Both, (-15.0, -9.0))]
#[case::up(Direction::Up, (-12.0, -9.0))]
#[case::down(Direction::Down, (-15.0, -12.0))]
fn amount_and_ends_are_two_ways_to_say_the_same(
    #[case] direction: Direction,
    #[case] expected: (f64, f64),
) {
    let link = LinkId(1);
    let patch = after(
        &Patch::empty(),
        &[
            add(SourceName::Lfo, LEVEL()),
            Edit::DirectLink { link, direction },
        ],
    );
    assert_eq!(ends(&patch, &patch.movement.links[0]), Some(expected));
    assert_eq!(swept(&patch, LEVEL()), Some(expected));
    let set = Edit::SetEnds {
        link,
        low: -30.0,
        high: -6.0,
    };
    let patch = after(&patch, &[set]);
    assert_eq!(ends(&patch, &patch.movement.links[0]), Some((-30.0, -6.0)));
    assert_eq!(
        patch.movement.links[0].direction, direction,
        "never guessed"
    );
    let turned = after(&patch, &[Edit::TurnLink { link }]);
    // up and down are each other turned round; both ways it is the other way
    let other = match direction {
        Direction::Both => (Direction::Both, true),
        Direction::Up => (Direction::Down, false),
        Direction::Down => (Direction::Up, false),
    };
    let (before, link) = (&patch.movement.links[0], &turned.movement.links[0]);
    assert_eq!(link.said(), other);
    for place in [0.0, 0.3, 1.0] {
        assert_eq!(link.motion(place), -before.motion(place));
    }
    let twice = after(&turned, &[Edit::TurnLink { link: link.id }]);
    assert_eq!(twice.movement.links[0], *before);
}

/// Of a cutoff, whose range is nearly ten octaves, ten percent are nearly one.
#[rstest]
#[case::octaves("1.5", 1.5)]
#[case::semitones("6 st", 0.5)]
#[case::percent_of_the_range("10%", 0.1 * 1000f64.log2())]
#[case::the_other_way("-20 %", -0.2 * 1000f64.log2())]
fn amounts_are_typed_in_the_targets_unit_or_in_percent(#[case] typed: &str, #[case] amount: f64) {
    use zolvik_patch::catalogue::param;
    use zolvik_patch::movement::amount::amount_row;
    let row = amount_row(param(Filter::CUTOFF_HZ));
    let read = text::read_as(&row, typed, 0.0, text::Times::PLAIN).unwrap();
    assert!((read - amount).abs() < 1e-9, "{read}");
}

#[test]
fn ends_of_frequencies_lie_evenly_in_octaves() {
    let filter = Edit::AddUnit {
        kind: KindName::Filter,
        connect: Connect::Output,
    };
    let patch = after(&Patch::empty(), &[filter]);
    let cutoff = Address::unit(UnitId(2), Filter::CUTOFF_HZ);
    let patch = after(&patch, &[add(SourceName::Lfo, cutoff)]);
    assert_eq!(
        ends(&patch, &patch.movement.links[0]),
        Some((1000.0, 2000.0))
    );
    let both = Edit::DirectLink {
        link: LinkId(1),
        direction: Direction::Both,
    };
    let patch = after(&patch, &[both]);
    let set = Edit::SetEnds {
        link: LinkId(1),
        low: 200.0,
        high: 3200.0,
    };
    let patch = after(&patch, &[set]);
    assert!((cutoff.get(&patch).unwrap() - 800.0).abs() < 1e-9);
    assert!((patch.movement.links[0].amount - 2.0).abs() < 1e-12);
}

#[test]
fn what_leads_to_something_gone_goes_with_it_and_comes_back_with_it() {
    let mut history = History::new(Patch::empty());
    let amount = Address::new(Link::AMOUNT, 1);
    let steps = [
        Edit::AddUnit {
            kind: KindName::Operator,
            connect: Connect::Output,
        },
        add(
            SourceName::Lfo,
            Address::unit(UnitId(2), Operator::DETUNE_CENTS),
        ),
        add(SourceName::Played, amount),
        add(SourceName::Follower, LEVEL()),
        Edit::Follow {
            source: SourceId(1003),
            unit: UnitId(2),
        },
        Edit::ScaleLink {
            link: LinkId(3),
            by: Some(SOURCE),
        },
    ];
    for edit in &steps {
        history.edit(edit, None).unwrap();
    }
    let before = history.present().clone();
    assert_eq!(before.movement.links.len(), 3);
    history
        .edit(&Edit::RemoveUnit { unit: UnitId(2) }, None)
        .unwrap();
    // the link that moved the other one's amount had nothing to move any more
    assert_eq!(history.present().movement.links.len(), 1);
    let SourceKind::Follower(follower) = &history.present().movement.sources[2].kind else {
        panic!("the third is a follower");
    };
    assert_eq!(follower.unit, UnitId(1), "it follows something there is");
    history.undo();
    assert_eq!(*history.present(), before);
    history
        .edit(&Edit::RemoveSource { source: SOURCE }, None)
        .unwrap();
    let left = &history.present().movement;
    assert_eq!((left.sources.len(), left.links.len()), (2, 1));
    assert_eq!(left.links[0].scaled_by, None);
    history.undo();
    assert_eq!(*history.present(), before);
}

#[test]
fn copies_of_strips_are_moved_like_what_they_are_copied_from() {
    let patch = after(
        &Patch::empty(),
        &[
            Edit::AddUnit {
                kind: KindName::Operator,
                connect: Connect::Unit { id: UnitId(1) },
            },
            add(SourceName::Lfo, Address::route(RouteId(2), Send::INDEX_RAD)),
            Edit::AddLinks {
                from: SOURCE,
                to: vec![Address::unit(UnitId(2), Operator::RATIO)],
            },
            Edit::DuplicateUnits {
                units: vec![UnitId(2)],
            },
        ],
    );
    let route = patch.sends(UnitId(3)).next().unwrap().id;
    let to: Vec<Address> = patch.movement.links.iter().skip(2).map(|l| l.to).collect();
    assert_eq!(
        to,
        [
            Address::route(route, Send::INDEX_RAD),
            Address::unit(UnitId(3), Operator::RATIO)
        ]
    );
}

#[test]
fn loops_are_refused_and_named() {
    let rate = |source: u16| Address::new(Timing::RATE_HZ, source);
    let patch = after(
        &Patch::empty(),
        &[
            add(SourceName::Lfo, LEVEL()),
            add(SourceName::Random, rate(1001)),
            Edit::RenameSource {
                source: SOURCE,
                name: "Sway".into(),
            },
        ],
    );
    let edit = Edit::AddLinks {
        from: SOURCE,
        to: vec![rate(1002)],
    };
    let why = apply(&patch, &edit).unwrap_err().to_string();
    assert!(
        why.contains("loop") && why.contains("Sway") && why.contains("Rate random"),
        "{why}"
    );
    let amount = Address::new(Link::AMOUNT, 1);
    let own = Edit::AddLinks {
        from: SOURCE,
        to: vec![amount],
    };
    let patch = after(&patch, &[own]);
    // a file may say of an amount that it moves itself
    let own = r#""param": "link.amount",
          "id": 1"#;
    let itself = json::write(&patch).replacen(own, &own.replace("1", "3"), 1);
    let why = json::read(&itself).unwrap_err().to_string();
    assert!(why.contains("loop"), "{why}");
}

#[test]
fn limits_and_wrong_files_are_told_with_their_path() {
    let full = vec![
        Edit::AddSource {
            kind: SourceName::Steps,
            to: vec![]
        };
        32
    ];
    let patch = after(&Patch::empty(), &full);
    let why = apply(&patch, &full[0]).unwrap_err().to_string();
    assert!(why.contains("32 sources of movement"), "{why}");

    let good = after(&Patch::empty(), &[add(SourceName::Lfo, LEVEL())]);
    let text = json::write(&good);
    assert_eq!(json::read(&text).unwrap(), good);
    let wrong = |from: &str, to: &str| {
        let changed = text.replacen(from, to, 1);
        assert_ne!(changed, text, "{from}");
        json::read(&changed).unwrap_err().to_string()
    };
    let kind = wrong("\"lfo\": {", "\"wobble\": {");
    assert!(
        kind.starts_with("at movement.sources[0].kind") && kind.contains("wobble"),
        "{kind}"
    );
    let rate = wrong("\"rate_hz\": 1.0", "\"rate_hz\": 0.0");
    assert!(
        rate.contains("movement.sources[0].timing.rate_hz") && rate.contains("0.005"),
        "{rate}"
    );
    let gone = wrong("\"from\": 1001", "\"from\": 1007");
    assert!(
        gone.contains("movement.links[0]") && gone.contains("1007"),
        "{gone}"
    );
    let deaf = wrong("route.level_db", "audition.note");
    assert!(deaf.contains("movement.links[0].to"), "{deaf}");
    let twice = text.replacen("\"id\": 1001", "\"id\": 7", 1);
    assert!(
        json::read(&twice)
            .unwrap_err()
            .to_string()
            .contains("movement.sources[0].id")
    );
}

#[test]
fn a_mean_shift_of_the_pitch_is_known() {
    let cents = Address::unit(UnitId(1), Operator::DETUNE_CENTS);
    let patch = after(&Patch::empty(), &[add(SourceName::Lfo, cents)]);
    assert_eq!(
        mean_cents(&patch, UnitId(1)),
        None,
        "both ways there is none"
    );
    let up = Edit::DirectLink {
        link: LinkId(1),
        direction: Direction::Up,
    };
    let patch = after(&patch, &[up]);
    let shift = |patch: &Patch| {
        mean_cents(patch, UnitId(1)).map(|(cents, link)| (libm::round(cents * 1e6) / 1e6, link))
    };
    assert_eq!(shift(&patch), Some((5.0, LinkId(1))));
    // what is drawn counts: a pulse that is up for a quarter of its time lies half of its way below the middle
    let both = Edit::DirectLink {
        link: LinkId(1),
        direction: Direction::Both,
    };
    let drawn = [(0.0, 1.0), (0.25, 1.0), (0.25, 0.0), (1.0, 0.0)];
    let points = drawn.map(|(at, level)| ShapePoint {
        at,
        level,
        curve: 0.0,
    });
    let pulse = Edit::SetShape {
        source: SOURCE,
        points: points.to_vec(),
    };
    assert_eq!(
        shift(&after(&patch, &[both, pulse])),
        Some((-5.0, LinkId(1)))
    );
    // a drop that runs once is meant, and so is what is played
    let once = Edit::Choose {
        units: vec![SOURCE.into()],
        choice: Timing::RUNS,
        at: 2,
    };
    let once = after(&patch, &[once]);
    assert_eq!(shift(&once), None);
    let tune = Address::patch(VoiceSettings::TUNE_CENTS);
    assert_eq!(shift(&after(&once, &[add(SourceName::Played, tune)])), None);
}

/// Links go on with the point they moved, of units as of sources; those to a point that goes go with it.
#[rstest]
fn links_go_on_with_the_points_of_envelopes(#[values(false, true)] of_source: bool) {
    use zolvik_patch::document::Point;
    let patch = after(
        &Patch::empty(),
        &[
            add(SourceName::Envelope, LEVEL()),
            add(SourceName::Played, LEVEL()),
        ],
    );
    let unit = match of_source {
        true => UnitId::from(SOURCE),
        false => UnitId(1),
    };
    let times = [0, 2].map(|at| Address::point(unit, at, Point::TIME_S));
    let from = patch.movement.sources[1].id;
    let linked = Edit::AddLinks {
        from,
        to: times.to_vec(),
    };
    let patch = after(&patch, &[linked]);
    let moved = |patch: &Patch| -> Vec<u8> {
        let links = patch.movement.links.iter();
        let of_points = links.filter(|l| l.to.param == Point::TIME_S && l.to.id == unit.0);
        of_points.map(|l| l.to.point).collect()
    };
    let release_s = |patch: &Patch| {
        let envelope = patch.envelope(unit).unwrap();
        envelope.points.last().unwrap().time_s
    };
    let came = Edit::AddPoint {
        unit,
        time_s: 0.1,
        level: 0.3,
    };
    let more = after(&patch, &[came]);
    assert_eq!(more.envelope(unit).unwrap().points.len(), 4);
    assert!(
        moved(&more).contains(&3),
        "still the release: {:?}",
        moved(&more)
    );
    assert_eq!(release_s(&more), release_s(&patch));
    let went = after(&more, &[Edit::RemovePoint { unit, at: 1 }]);
    assert!(moved(&went).contains(&2), "{:?}", moved(&went));
    // the point of a link itself
    let attack = moved(&went)[0];
    let gone = Edit::RemovePoint {
        unit,
        at: attack.into(),
    };
    let less = after(&went, &[gone]);
    assert_eq!(moved(&less), [1], "only the release is moved still");
    json::read(&json::write(&less)).unwrap();
}
