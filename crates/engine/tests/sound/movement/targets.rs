//! What links make of the values they lead to.

use crate::support::*;
use rstest::rstest;
use zolvik_engine::Control;
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::catalogue::param;
use zolvik_patch::document::{CycleShape, Glide, Group, GroupId, Harmonics, Shaper};
use zolvik_patch::document::{
    Filter, KindName, Noise, Operator, RouteId, RouteKind, Send, Unison, Unit, UnitId,
    VoiceSettings,
};
use zolvik_patch::movement::amount::row_of;
use zolvik_patch::movement::{Direction, Played, PlayedWhat, SourceKind, SourceName};
use zolvik_patch::wave::{Shape, Wave};

/// A modulator, its carrier, a filter, a shaper and noise beside.
fn rich() -> Patch {
    let mut patch = plain_units(&[2.0, 1.0]);
    for (kind, id) in [
        (KindName::Filter, 3),
        (KindName::Shaper, 4),
        (KindName::Noise, 5),
    ] {
        let mut unit = Unit::new(UnitId(id), kind);
        unit.velocity = 0.0;
        patch.units.push(unit);
    }
    if let Some(operator) = patch.units[0].oscillator_mut() {
        operator.wave = Wave::Shape(Shape::Pulse);
    }
    connect(&mut patch, 1, index(2, 1.0));
    connect(&mut patch, 2, Send::to_unit(RouteKind::Audio, UnitId(3)));
    connect(&mut patch, 3, Send::to_unit(RouteKind::Audio, UnitId(4)));
    connect(&mut patch, 4, Send::output());
    connect(&mut patch, 5, Send::output());
    patch.voice.unison.copies = 3;
    // what leaves it: the carrier into the filter, and the shaper
    patch.groups.push(Group {
        id: GroupId(1),
        name: "Group".into(),
        units: vec![UnitId(2), UnitId(4)],
        folded: false,
        level_db: -2.0,
    });
    patch
}

/// A level at its silent end is brought in: by so many decibels from the lowest there is, and is silent again where nothing moves it.
#[rstest]
#[case::on_the_way_out(Address::route(RouteId(4), Send::LEVEL_DB))]
#[case::into_a_filter(Address::route(RouteId(2), Send::PASS_DB))]
#[case::of_a_level_strip(Address::unit(UnitId(6), zolvik_patch::document::Level::LEVEL_DB))]
fn what_is_silent_is_brought_in_from_silence(#[case] to: Address) {
    let mut plain = rich();
    plain.routes.retain(|r| r.from != UnitId(5));
    if to.id == 6 {
        // after all others
        plain.units.push(Unit::new(UnitId(6), KindName::Level));
        plain.routes[3].send = Send::to_unit(RouteKind::Audio, UnitId(6));
        connect(&mut plain, 6, Send::output());
    }
    let with = |level_db: f64| {
        let mut patch = plain.clone();
        to.set(&mut patch, level_db).unwrap();
        patch
    };
    let moved_to = |place: f64| {
        let mut linked = with_link(moved(&with(-72.0), SourceName::Macro, to), |link| {
            (link.direction, link.amount) = (Direction::Up, 48.0);
        });
        let SourceKind::Macro(knob) = &mut linked.movement.sources[0].kind else {
            panic!("a macro was added");
        };
        knob.place = place;
        linked
    };
    let sound = |patch: &Patch| {
        let mut engine = engine(patch);
        engine.note_on(57, 100);
        take(&mut engine, 9_600);
        let (left, _) = take(&mut engine, 9_600);
        let squares = left.iter().map(|x| f64::from(*x).powi(2));
        (squares.sum::<f64>() / left.len() as f64).sqrt()
    };
    assert_eq!(sound(&with(-72.0)), 0.0);
    assert_eq!(sound(&moved_to(0.0)), 0.0);
    for (place, level_db) in [(1.0, -24.0), (0.5, -48.0)] {
        let (linked, typed) = (sound(&moved_to(place)), sound(&with(level_db)));
        let off_db = 20.0 * (linked / typed).log10();
        assert!(off_db.abs() < 0.05, "{level_db} dB: {off_db} dB off");
    }
}

/// A macro at its end sounds like the value typed: for values each note has, and for those all notes share.
#[rstest]
#[case::index(Address::route(RouteId(1), Send::INDEX_RAD), 1.5)]
#[case::level(Address::route(RouteId(4), Send::LEVEL_DB), 4.0)]
#[case::pan(Address::route(RouteId(4), Send::PAN), 0.5)]
#[case::pan_before_a_filter(Address::route(RouteId(2), Send::PASS_PAN), 0.5)]
#[case::ratio(Address::unit(UnitId(1), Operator::RATIO), 0.5)]
#[case::cents(Address::unit(UnitId(2), Operator::DETUNE_CENTS), 30.0)]
#[case::width(Address::unit(UnitId(1), Operator::WIDTH), 0.2)]
#[case::lean(Address::unit(UnitId(2), CycleShape::LEAN), 0.4)]
#[case::fold(Address::unit(UnitId(2), CycleShape::FOLD), 0.6)]
#[case::start(Address::unit(UnitId(2), Operator::START_TURNS), 0.25)]
#[case::tilt(Address::unit(UnitId(1), Harmonics::TILT_DB), 6.0)]
#[case::cutoff(Address::unit(UnitId(3), Filter::CUTOFF_HZ), 2.0)]
#[case::resonance(Address::unit(UnitId(3), Filter::RESONANCE), 0.5)]
#[case::sweep(Address::unit(UnitId(3), Filter::SWEEP_OCT), 2.0)]
#[case::shaper_drive(Address::unit(UnitId(4), Shaper::DRIVE_DB), 12.0)]
#[case::shaper_mix(Address::unit(UnitId(4), Shaper::MIX), 0.4)]
#[case::colour(Address::unit(UnitId(5), Noise::COLOUR_DB), -5.0)]
#[case::trim(Address::patch(VoiceSettings::TRIM_DB), -6.0)]
#[case::level_into_a_filter(Address::route(RouteId(2), Send::PASS_DB), -5.0)]
#[case::group(Address::new(Group::LEVEL_DB, 1), -5.0)]
#[case::group_up(Address::new(Group::LEVEL_DB, 1), 9.0)]
#[case::tune(Address::patch(VoiceSettings::TUNE_CENTS), 70.0)]
#[case::carriers(Address::patch(VoiceSettings::CARRIERS_CENTS), 70.0)]
#[case::modulators(Address::patch(VoiceSettings::MODULATORS_CENTS), -300.0)]
#[case::unison_detune(Address::patch(Unison::DETUNE_CENTS), 30.0)]
#[case::unison_spread(Address::patch(Unison::SPREAD), 0.5)]
fn a_source_that_stands_at_its_end_sounds_like_the_value_typed(
    #[case] to: Address,
    #[case] amount: f64,
) {
    let plain = rich();
    let linked = with_link(moved(&plain, SourceName::Macro, to), |link| {
        (link.direction, link.amount) = (Direction::Up, amount);
    });
    let mut linked = linked;
    let SourceKind::Macro(knob) = &mut linked.movement.sources[0].kind else {
        panic!("a macro was added");
    };
    knob.place = 1.0;
    let mut typed = plain.clone();
    let row = row_of(&plain, to);
    let value = row
        .domain
        .leave(row.domain.enter(to.get(&plain).unwrap()) + amount);
    to.set(&mut typed, value).unwrap();
    let sound = |patch: &Patch| {
        let mut engine = engine(patch);
        engine.note_on(57, 100);
        // what is drawn from harmonics is made anew while it moves, and then again
        take(&mut engine, 9_600);
        let (mut left, right) = take(&mut engine, 9_600);
        left.extend(right);
        left
    };
    let (linked, typed, plain) = (sound(&linked), sound(&typed), sound(&plain));
    let off = |a: &[f32], b: &[f32]| {
        a.iter()
            .zip(b)
            .fold(0.0f32, |most, (a, b)| most.max((a - b).abs()))
    };
    let peak = typed.iter().fold(0.0f32, |most, s| most.max(s.abs()));
    assert!(
        off(&typed, &plain) > 0.01 * peak,
        "no case: {}",
        param(to.param).name
    );
    let wrong = off(&linked, &typed);
    // copies begin their first block as the voice has them by itself, and keep that much of a phase
    let most = if to.param == Unison::DETUNE_CENTS {
        3e-2
    } else {
        2e-3
    };
    assert!(
        wrong < most * peak,
        "{}: {wrong} of {peak}",
        param(to.param).name
    );
}

#[rstest]
#[case::both(Direction::Both, -3.0, 3.0)]
#[case::up(Direction::Up, 0.0, 3.0)]
#[case::down(Direction::Down, 0.0, -3.0)]
fn direction_says_from_where_to_where(
    #[case] direction: Direction,
    #[case] at_rest: f64,
    #[case] at_full: f64,
) {
    let mut sine = plain_units(&[1.0]);
    connect(&mut sine, 1, TO_LEFT);
    let to = Address::route(RouteId(1), Send::LEVEL_DB);
    let patch = with_link(moved(&sine, SourceName::Played, to), |link| {
        (link.direction, link.amount) = (direction, 3.0);
    });
    let mut patch = patch;
    patch.movement.sources[0].kind = SourceKind::Played(Played {
        what: PlayedWhat::Wheel,
    });
    let middle = 0.5 * (at_rest + at_full);
    for (wheel, expected_db) in [(0.0, at_rest), (0.5, middle), (1.0, at_full)] {
        let mut engine = engine(&patch);
        engine.control(Control::Wheel, wheel);
        engine.note_on(69, 127);
        take(&mut engine, 9_600);
        let level = partial(&take(&mut engine, 24_000).0, 440.0).0;
        let off = off_db(level, 10f64.powf(expected_db / 20.0));
        assert!(off.abs() < 0.02, "{wheel}: {off} dB");
    }
}

/// Vibrato as theory has it: a sine of so many cents on the pitch is frequency modulation, its sidebands Bessel functions of deviation by
/// rate (Chowning, "The synthesis of complex audio spectra by means of frequency modulation", 1973).
#[rstest]
#[case::slow(7.0, 10.0)]
#[case::fast(100.0, 40.0)]
fn a_sine_on_the_pitch_has_the_sidebands_of_theory(#[case] rate_hz: f64, #[case] cents: f64) {
    let mut sine = plain_units(&[1.0]);
    connect(&mut sine, 1, TO_LEFT);
    let to = Address::unit(UnitId(1), Operator::DETUNE_CENTS);
    let mut patch = with_link(moved(&sine, SourceName::Lfo, to), |link| {
        link.amount = cents
    });
    timing(&mut patch).rate_hz = rate_hz;
    let mut engine = engine(&patch);
    engine.note_on(93, 127); // 1760 Hz
    take(&mut engine, 4_800);
    let samples = take(&mut engine, 48_000).0;
    let deviation_hz = 1760.0 * (cents / 1200.0 * std::f64::consts::LN_2);
    let index = deviation_hz / rate_hz;
    for n in 0..4 {
        let theory = libm::jn(n, index).abs();
        if theory < 0.01 {
            continue;
        }
        // a pitch that moves in cents is a little stronger on one side: the mean of both
        let of = |side: f64| partial(&samples, 1760.0 + side * f64::from(n) * rate_hz).0;
        let level = 0.5 * (of(1.0) + of(-1.0));
        assert!(
            off_db(level, theory).abs() < 0.5,
            "{n}: {level} for {theory}"
        );
    }
}

/// The strongest partial far above all that belongs to the sound while a macro goes from end to end in a twentieth of a second.
fn residue_db(patch: &Patch) -> f64 {
    let mut engine = engine(patch);
    engine.note_on(57, 127);
    take(&mut engine, 9_600);
    engine.control(Control::Wheel, 1.0);
    let (left, right) = take(&mut engine, 4_800);
    let mut most = 0.0f64;
    for channel in [left, right] {
        for band in 0..420 {
            let hz = 2_600.0 + 50.0 * f64::from(band);
            most = most.max(partial(&channel, hz).0);
        }
    }
    20.0 * most.max(1e-9).log10()
}

#[rstest]
#[case::level(Address::route(RouteId(2), Send::LEVEL_DB), 40.0)]
#[case::pan(Address::route(RouteId(2), Send::PAN), 1.0)]
#[case::index(Address::route(RouteId(1), Send::INDEX_RAD), 1.5)]
#[case::pitch(Address::unit(UnitId(2), Operator::DETUNE_CENTS), 1_200.0)]
#[case::tune(Address::patch(VoiceSettings::TUNE_CENTS), 1_200.0)]
#[case::cutoff(Address::unit(UnitId(3), Filter::CUTOFF_HZ), 6.0)]
fn a_fast_move_adds_nothing_that_does_not_belong(#[case] to: Address, #[case] amount: f64) {
    let mut patch = plain_units(&[1.0, 1.0]);
    connect(&mut patch, 1, index(2, 0.2));
    connect(&mut patch, 2, Send::output());
    if to.param == Filter::CUTOFF_HZ {
        let mut filter = Unit::new(UnitId(3), KindName::Filter);
        if let zolvik_patch::document::UnitKind::Filter(filter) = &mut filter.kind {
            filter.cutoff_hz = 100.0;
        }
        patch.units.push(filter);
        patch.routes[1].send = Send::to_unit(RouteKind::Audio, UnitId(3));
        connect(&mut patch, 3, Send::output());
    } else if to.param == Send::LEVEL_DB {
        patch.routes[1].send = Send::Output {
            level_db: -40.0,
            pan: 0.0,
            bus: Default::default(),
        };
    } else {
        patch.routes[1].send = Send::Output {
            level_db: 0.0,
            pan: 0.0,
            bus: Default::default(),
        };
    }
    let mut patch = with_link(moved(&patch, SourceName::Played, to), |link| {
        (link.direction, link.amount) = (Direction::Up, amount);
    });
    patch.movement.sources[0].kind = SourceKind::Played(Played {
        what: PlayedWhat::Wheel,
    });
    (timing(&mut patch).rise_s, timing(&mut patch).fall_s) = (0.05, 0.05);
    let residue = residue_db(&patch);
    println!("{}: {residue:.1} dB", param(to.param).name);
    assert!(residue < -80.0, "{}: {residue:.1} dB", param(to.param).name);
}

/// What tunes everything tunes recordings too: moved by a macro as typed.
#[test]
fn recordings_follow_what_tunes_everything() {
    let mut patch = plain_units(&[]);
    let mut unit = Unit::new(UnitId(1), KindName::Sample);
    unit.velocity = 0.0;
    patch.units.push(unit);
    connect(&mut patch, 1, Send::output());
    let to = Address::patch(VoiceSettings::TUNE_CENTS);
    let mut linked = with_link(moved(&patch, SourceName::Macro, to), |link| {
        (link.direction, link.amount) = (Direction::Up, 500.0);
    });
    let SourceKind::Macro(knob) = &mut linked.movement.sources[0].kind else {
        panic!("a macro was added");
    };
    knob.place = 1.0;
    let mut typed = patch.clone();
    typed.voice.tune_cents = 500.0;
    let sound = |patch: &Patch| {
        let mut engine = engine(patch);
        engine.note_on(60, 100);
        take(&mut engine, 9_600).0
    };
    let (linked, typed, plain) = (sound(&linked), sound(&typed), sound(&patch));
    let off = |a: &[f32], b: &[f32]| {
        a.iter()
            .zip(b)
            .fold(0.0f32, |most, (a, b)| most.max((a - b).abs()))
    };
    let peak = typed.iter().fold(0.0f32, |most, s| most.max(s.abs()));
    assert!(off(&typed, &plain) > 0.1 * peak, "no case");
    // the first block begins before what moves it has
    assert!(
        off(&linked, &typed) < 0.05 * peak,
        "{} of {peak}",
        off(&linked, &typed)
    );
}

#[test]
fn a_recording_begins_where_a_link_has_it() {
    use zolvik_patch::document::{Sample, Unit};
    use zolvik_patch::sound::{ReadySound, Sound};
    let mut plain = plain_units(&[1.0]);
    plain.units[0] = Unit::new(UnitId(1), zolvik_patch::document::KindName::Sample);
    if let zolvik_patch::document::UnitKind::Sample(sample) = &mut plain.units[0].kind {
        *sample = Sample {
            sound: Sound::Ready(ReadySound::NightWind),
            root_key: 57,
            start: 0.1,
            end: 0.9,
            ..Sample::default()
        };
    }
    connect(&mut plain, 1, Send::output());
    let to = Address::unit(UnitId(1), Sample::START);
    let mut linked = with_link(moved(&plain, SourceName::Macro, to), |link| {
        (link.direction, link.amount) = (Direction::Up, 0.25);
    });
    if let SourceKind::Macro(knob) = &mut linked.movement.sources[0].kind {
        knob.place = 1.0;
    }
    let mut typed = plain.clone();
    to.set(&mut typed, 0.35).unwrap();
    let sound = |patch: &Patch| {
        let mut engine = engine(patch);
        engine.note_on(57, 100);
        take(&mut engine, 9_600).0
    };
    let (linked, typed, plain) = (sound(&linked), sound(&typed), sound(&plain));
    let off = |a: &[f32], b: &[f32]| {
        let most = a
            .iter()
            .zip(b)
            .fold(0.0f32, |m, (a, b)| m.max((a - b).abs()));
        most / b.iter().fold(0.0f32, |m, s| m.max(s.abs()))
    };
    assert!(off(&plain, &typed) > 0.3, "no case");
    // the cut falls on a whole sample, the link's place between two
    assert!(
        off(&linked[480..], &typed[480..]) < 0.05,
        "{}",
        off(&linked[480..], &typed[480..])
    );
}

/// A macro on the time of glides: the pitch is where the value typed brings it, halfway and after.
#[test]
fn glides_are_as_long_as_what_moves_them_says() {
    let plain = {
        let mut patch = plain_units(&[1.0]);
        connect(&mut patch, 1, Send::output());
        patch.voice.glide = Glide::Always;
        patch.voice.glide_s = 0.1;
        patch
    };
    let mut patch = with_link(
        moved(
            &plain,
            SourceName::Macro,
            Address::patch(VoiceSettings::GLIDE_S),
        ),
        |link| (link.direction, link.amount) = (Direction::Up, 0.3),
    );
    let SourceKind::Macro(knob) = &mut patch.movement.sources[0].kind else {
        panic!("a macro was added");
    };
    knob.place = 1.0;
    let mut typed = plain.clone();
    typed.voice.glide_s = 0.4;
    let glide = |patch: &Patch| {
        let mut engine = engine(patch);
        engine.note_on(57, 100);
        take(&mut engine, 4800);
        engine.note_off(57);
        engine.note_on(69, 100);
        take(&mut engine, 24_000).0
    };
    assert_eq!(glide(&patch), glide(&typed));
    assert_ne!(glide(&patch), glide(&plain));
}
