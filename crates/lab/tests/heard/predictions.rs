//! What theory expects of a patch against what is rendered, partial by partial.

use rstest::rstest;
use zolvik_engine::program::prepare;
use zolvik_lab::note::Note;
use zolvik_lab::predict::{Explained, Explanation, Fold, Moment, explain};
use zolvik_lab::render::render_program;
use zolvik_lab::rendered::Rendered;
use zolvik_lab::spectrum::{Partial, spectrum_at};
use zolvik_patch::Patch;
use zolvik_patch::document::{
    Bus, Filter, Group, KindName, Quality, Route, RouteId, Send, TunedBy, Unit, UnitId, UnitKind,
};
use zolvik_patch::hearing::Listening;
use zolvik_patch::wave::{Shape, Wave};

const RATE_HZ: f64 = 48_000.0;
const AT_S: f64 = 0.7;

/// Operators with these ratios, full and steady, at A4; none routed.
fn operators(ratios: &[f64]) -> Patch {
    let mut patch = Patch {
        units: vec![],
        routes: vec![],
        ..Patch::empty()
    };
    (patch.audition.note, patch.audition.velocity) = (69, 127);
    for (i, ratio) in ratios.iter().enumerate() {
        let mut unit = Unit::operator(UnitId(i as u16 + 1));
        unit.name = ["Body", "Mallet", "Wire", "Deep"][i].into();
        unit.oscillator_mut().unwrap().ratio = *ratio;
        unit.velocity = 0.0;
        for point in &mut unit.envelope.points[..2] {
            (point.time_s, point.level) = (0.0, 1.0);
        }
        patch.units.push(unit);
    }
    patch
}

fn connect(patch: &mut Patch, from: u16, send: Send) {
    let id = RouteId(patch.routes.len() as u16 + 1);
    let from = UnitId(from);
    let on = true;
    patch.routes.push(Route { id, from, on, send });
}

const OUT: Send = Send::Output {
    level_db: 0.0,
    pan: 0.0,
    bus: Bus::Main,
};

fn phase(to: u16, index_rad: f64) -> Send {
    let to = UnitId(to);
    Send::Phase { to, index_rad }
}

fn rendered(patch: &Patch) -> Rendered {
    let note = Note {
        hold_s: 2.0,
        length_s: 1.4,
        ..Note::auditioned(patch, RATE_HZ)
    };
    render_program(&prepare(patch, &Listening::default()), &note)
}

fn explained(patch: &Patch, sound: &Rendered) -> Explanation {
    explained_as(patch, sound, &[])
}

/// The same with what was measured.
fn explained_as(patch: &Patch, sound: &Rendered, measured: &[Partial]) -> Explanation {
    let block = (AT_S * RATE_HZ) as usize / zolvik_engine::BLOCK;
    let amplitudes = |id: UnitId| {
        let at = sound.units.iter().position(|u| *u == id).unwrap();
        f64::from(sound.amplitudes[at][block])
    };
    let moment = Moment {
        patch,
        listening: &Listening::default(),
        amplitudes: &amplitudes,
        rate_hz: RATE_HZ,
    };
    explain(&moment, measured)
}

/// Level of one frequency by projection under a Blackman-Harris window, of the mean of both channels.
fn level_db(sound: &Rendered, hz: f64) -> f64 {
    let from = ((AT_S - 0.5) * RATE_HZ) as usize;
    let count = RATE_HZ as usize;
    let (mut re, mut im, mut total) = (0.0, 0.0, 0.0);
    for i in 0..count {
        let u = std::f64::consts::TAU * i as f64 / count as f64;
        let window =
            0.35875 - 0.48829 * u.cos() + 0.14128 * (2.0 * u).cos() - 0.01168 * (3.0 * u).cos();
        let angle = std::f64::consts::TAU * (hz * i as f64 / RATE_HZ).fract();
        let sample = 0.5 * f64::from(sound.left[from + i] + sound.right[from + i]);
        re += window * sample * angle.cos();
        im += window * sample * angle.sin();
        total += window;
    }
    20.0 * (2.0 * f64::hypot(re, im) / total).max(1e-9).log10()
}

/// A square of A4 moved by a sine, both from phase 0. Its edges lie where the phase crosses half turns: at one to one that is so at x + I sin x = pi,
/// which has one solution up to I = 1; at twice the rate x + I sin 2x goes back over an edge from I = 2.3 on. Near there edges that have a length, as
/// all that is free of aliases have, are stretched: that is heard.
#[rstest]
#[case::alike(1.0, 0.7, true, Some("1.0 rad"))]
#[case::alike_near(1.0, 0.95, false, None)]
#[case::alike_stronger(1.0, 1.2, false, None)]
#[case::octave(2.0, 1.5, true, Some("2.3 rad"))]
#[case::octave_stronger(2.0, 2.6, false, None)]
#[case::beside(1.01, 0.5, false, None)]
fn what_changes_nothing_is_no_cause(
    #[case] ratio: f64,
    #[case] index_rad: f64,
    #[case] idle: bool,
    #[case] from: Option<&str>,
) {
    let of = |index_rad: f64| {
        let mut patch = operators(&[1.0, ratio]);
        patch.units[0].oscillator_mut().unwrap().wave = Wave::Shape(Shape::Square);
        connect(&mut patch, 1, OUT);
        connect(&mut patch, 2, phase(1, index_rad));
        let sound = rendered(&patch);
        (explained(&patch, &sound), sound)
    };
    let ((told, sound), (_, plain)) = (of(index_rad), of(0.0));
    let by_it = told.partials.iter().any(|p| p.units.contains(&UnitId(2)));
    assert_eq!((by_it, told.idle.len()), (!idle, usize::from(idle)));
    assert!(
        from.is_none_or(
            |from| told.idle[0].starts_with("Mallet changes nothing in Body")
                && told.idle[0].contains(from)
        ),
        "{:?}",
        told.idle
    );
    // what is rendered agrees: no harmonic is other than without it
    let moved = (1..8).map(|n| f64::from(n) * 440.0).any(|hz| {
        let [with, without] = [&sound, &plain].map(|s| level_db(s, hz));
        without > -60.0 && (with - without).abs() > 0.3
    });
    assert_eq!(moved, !idle);
}

/// A filter as unit with a number.
fn filter(id: u16, filter: Filter) -> Unit {
    let mut unit = Unit::new(UnitId(id), KindName::Filter);
    unit.kind = UnitKind::Filter(filter);
    unit.velocity = 0.0;
    unit
}

fn two() -> Patch {
    let mut patch = operators(&[1.0, 1.4]);
    connect(&mut patch, 1, OUT);
    connect(&mut patch, 2, phase(1, 2.5));
    patch
}

fn harmonic() -> Patch {
    let mut patch = operators(&[1.0, 1.0]);
    connect(&mut patch, 1, OUT);
    connect(&mut patch, 2, phase(1, 3.0));
    patch
}

fn side_by_side() -> Patch {
    let mut patch = operators(&[1.0, 1.41, 3.2]);
    connect(&mut patch, 1, OUT);
    connect(&mut patch, 2, phase(1, 1.2));
    connect(&mut patch, 3, phase(1, 0.8));
    patch
}

fn chain() -> Patch {
    let mut patch = operators(&[1.0, 1.5, 0.37]);
    connect(&mut patch, 1, OUT);
    connect(&mut patch, 2, phase(1, 1.0));
    connect(&mut patch, 3, phase(2, 1.3));
    patch
}

fn of_frequency() -> Patch {
    let mut patch = operators(&[1.0, 0.31]);
    connect(&mut patch, 1, OUT);
    let (to, deviation) = (UnitId(1), 0.5);
    connect(&mut patch, 2, Send::Frequency { to, deviation });
    patch
}

fn ring() -> Patch {
    let mut patch = operators(&[2.0, 0.81, 1.3]);
    connect(&mut patch, 1, OUT);
    let to = UnitId(1);
    connect(&mut patch, 2, Send::Ring { to, mix: 0.7 });
    connect(&mut patch, 3, Send::Amplitude { to, amount: 0.5 });
    patch
}

fn saw() -> Patch {
    let mut patch = operators(&[0.5, 0.777]);
    patch.units[0].oscillator_mut().unwrap().wave = Wave::Shape(Shape::Saw);
    connect(&mut patch, 1, OUT);
    connect(&mut patch, 2, phase(1, 0.6));
    patch
}

fn feedback() -> Patch {
    // low, where the sample or two the loop takes are nothing
    let mut patch = operators(&[0.125]);
    connect(&mut patch, 1, OUT);
    connect(&mut patch, 1, phase(1, 0.7));
    patch
}

fn through_a_filter() -> Patch {
    let mut patch = two();
    patch.units.push(filter(
        3,
        Filter {
            cutoff_hz: 700.0,
            resonance: 0.5,
            sweep_oct: 1.5,
            mix: 1.0,
            ..Filter::default()
        },
    ));
    let (to, pass_db) = (UnitId(3), -3.0);
    patch.routes[0].send = Send::Audio {
        to,
        pass_db,
        pass_pan: 0.0,
    };
    connect(&mut patch, 3, OUT);
    patch
}

/// What leaves a group into a filter outside has the group's level.
/// All, carriers and modulators each tuned by themselves.
fn tuned() -> Patch {
    let mut patch = chain();
    patch.voice.tune_cents = 37.0;
    patch.voice.carriers_cents = -20.0;
    patch.voice.modulators_cents = 250.0;
    patch
}

fn grouped() -> Patch {
    let mut patch = through_a_filter();
    patch.groups = vec![Group {
        units: vec![UnitId(1)],
        name: "Group".into(),
        level_db: -9.0,
        ..Group::default()
    }];
    patch
}

#[rstest]
#[case::two(two(), 12)]
#[case::harmonic(harmonic(), 5)]
#[case::side_by_side(side_by_side(), 25)]
#[case::chain(chain(), 20)]
#[case::of_frequency(of_frequency(), 8)]
#[case::ring(ring(), 8)]
#[case::saw(saw(), 40)]
#[case::feedback(feedback(), 8)]
#[case::through_a_filter(through_a_filter(), 10)]
#[case::grouped(grouped(), 10)]
#[case::tuned(tuned(), 20)]
fn every_partial_is_as_strong_as_theory_has_it(#[case] patch: Patch, #[case] at_least: usize) {
    let sound = rendered(&patch);
    let told = explained(&patch, &sound);
    assert!(told.beyond.is_empty(), "{:?}", told.beyond);
    let strongest = told.partials[0].predicted_db;
    let counted: Vec<&Explained> = told
        .partials
        .iter()
        .filter(|p| p.predicted_db > strongest - 50.0 && p.hz > 30.0 && p.hz < 12_000.0)
        .collect();
    assert!(counted.len() >= at_least, "{} partials", counted.len());
    for p in counted {
        let heard = level_db(&sound, p.hz);
        assert!(
            (heard - p.predicted_db).abs() < 0.5,
            "{} at {:.1} Hz: {heard:.2} dB, theory {:.2}",
            p.words,
            p.hz,
            p.predicted_db
        );
    }
}

fn at(told: &Explanation, hz: f64) -> &Explained {
    let near = |p: &&Explained| (p.hz - hz).abs() < 0.5;
    told.partials.iter().find(near).unwrap()
}

#[test]
fn combinations_are_named_and_their_cause_is_the_modulator() {
    let patch = two();
    let told = explained(&patch, &rendered(&patch));
    let carrier = at(&told, 440.0);
    assert_eq!(
        (carrier.words.as_str(), carrier.by, carrier.folded),
        ("Body", UnitId(1), None)
    );
    let upper = at(&told, 440.0 + 2.0 * 616.0);
    assert_eq!(
        (upper.words.as_str(), upper.by),
        ("Body + 2 × Mallet", UnitId(2))
    );
    assert_eq!(upper.units, [UnitId(1), UnitId(2)]);
    // 440 - 616 lies below zero and is heard mirrored
    let lower = at(&told, 176.0);
    assert_eq!(
        (lower.words.as_str(), lower.folded),
        ("Body − Mallet", Some(Fold::Zero))
    );
    let deep = explained(&chain(), &rendered(&chain()));
    let third = at(&deep, 440.0 + 660.0 + 162.8);
    assert_eq!(third.words, "Body + Mallet + Wire");
}

#[test]
fn what_folds_past_half_the_rate_is_marked_until_the_quality_is_raised() {
    let mut patch = operators(&[20.0, 16.0]);
    connect(&mut patch, 1, OUT);
    connect(&mut patch, 2, phase(1, 3.0));
    patch.voice.quality = Quality::X1;
    let told = explained(&patch, &rendered(&patch));
    // 8800 + 3 * 7040 = 29,920 Hz comes back at 18,080
    let folded = at(&told, 18_080.0);
    assert_eq!(folded.folded, Some(Fold::Rate));
    assert!((level_db(&rendered(&patch), 18_080.0) - folded.predicted_db).abs() < 0.5);
    for quality in [Quality::X4, Quality::Auto] {
        patch.voice.quality = quality;
        let told = explained(&patch, &rendered(&patch));
        assert!(told.partials.iter().all(|p| (p.hz - 18_080.0).abs() > 0.5));
        assert!(level_db(&rendered(&patch), 18_080.0) < -60.0);
    }
}

#[test]
fn what_theory_does_not_reach_is_said() {
    let mut patch = two();
    patch.units[1].kind = KindName::Noise.make();
    let told = explained(&patch, &rendered(&patch));
    assert_eq!(told.beyond, ["Mallet"]);
    assert_eq!(told.partials.len(), 1, "the carrier is still explained");
    let mut fixed = feedback();
    let Send::Phase { index_rad, .. } = &mut fixed.routes[1].send else {
        unreachable!()
    };
    *index_rad = 4.0;
    assert_eq!(explained(&fixed, &rendered(&fixed)).beyond, ["Body"]);
    let mut fixed_pitch = two();
    let operator = fixed_pitch.units[1].oscillator_mut().unwrap();
    (operator.tuned_by, operator.fixed_hz) = (TunedBy::Fixed, 100.0);
    let told = explained(&fixed_pitch, &rendered(&fixed_pitch));
    assert_eq!(at(&told, 540.0).words, "Body + Mallet");
}

#[test]
fn loops_and_crowds_end_soon_and_are_named() {
    // two saws in a circle, each with a crowd of harmonics, and a third between
    let mut patch = operators(&[1.0, 1.01, 2.03, 0.49]);
    for unit in &mut patch.units {
        unit.oscillator_mut().unwrap().wave = Wave::Shape(Shape::Saw);
    }
    connect(&mut patch, 1, OUT);
    for (from, to) in [(2, 1), (3, 2), (4, 3), (1, 2), (2, 3), (4, 1)] {
        connect(&mut patch, from, phase(to, 6.0));
    }
    let sound = rendered(&patch);
    // without a limit this would not come to an end
    let told = explained(&patch, &sound);
    assert!(!told.beyond.is_empty(), "it is said");
    assert!(told.partials.len() <= 96);
}

/// Sines at these frequencies, 12 dB below full scale, all over the note.
fn beside_each_other(hz: &[f64]) -> Patch {
    let mut patch = operators(&vec![1.0; hz.len()]);
    for (at, hz) in hz.iter().enumerate() {
        let oscillator = patch.units[at].oscillator_mut().unwrap();
        (oscillator.tuned_by, oscillator.fixed_hz) = (TunedBy::Fixed, *hz);
        let id = at as u16 + 1;
        connect(&mut patch, id, Send::output());
        let Send::Output { level_db, .. } = &mut patch.routes[at].send else {
            unreachable!()
        };
        *level_db = -12.0;
    }
    patch
}

/// Partials nearer than any window there is room for can show: theory says where they are. Truth is what was asked for.
#[rstest]
#[case(&[40.0, 43.0], 0.4)]
#[case(&[40.0, 43.0], 1.0)]
#[case(&[40.0, 41.0], 0.4)]
#[case(&[27.5, 29.0], 0.2)]
#[case(&[55.0, 57.0, 82.0], 0.3)]
#[case(&[100.0, 104.0, 108.0], 0.4)]
#[case(&[440.0, 446.0], 0.7)]
#[case(&[2000.0, 2003.0, 2007.5], 1.2)]
fn partials_seen_as_one_are_told_apart(#[case] hz: &[f64], #[case] at_s: f64) {
    let patch = beside_each_other(hz);
    let sound = rendered(&patch);
    let spectrum = spectrum_at(&sound.left, &sound.right, RATE_HZ, at_s, 64);
    let mut explanation = explained(&patch, &sound);
    let told = explanation.told_apart(&spectrum);
    let loud = told.iter().filter(|p| p.db > -40.0);
    let mut found: Vec<(f64, f64)> = loud.map(|p| (p.hz, p.db)).collect();
    found.sort_by(|a, b| a.0.total_cmp(&b.0));
    assert_eq!(found.len(), hz.len(), "{found:?}");
    for ((found_hz, db), hz) in found.iter().zip(hz) {
        assert!((found_hz - hz).abs() < 0.25, "{hz}: {found_hz}");
        // in the middle each side has half the power
        assert!((db + 15.01).abs() < 0.3, "{hz}: {db} dB");
    }
}

#[test]
fn what_is_hidden_by_a_stronger_neighbour_is_not_given_its_level() {
    let mut patch = beside_each_other(&[55.3, 55.0, 110.0]);
    let Send::Output { level_db, .. } = &mut patch.routes[0].send else {
        unreachable!()
    };
    *level_db = -52.0;
    let sound = rendered(&patch);
    let spectrum = spectrum_at(&sound.left, &sound.right, RATE_HZ, AT_S, 64);
    let mut explanation = explained_as(&patch, &sound, &spectrum.partials);
    let told = explanation.told_apart(&spectrum);
    let of = |hz: f64| {
        let own = explanation
            .partials
            .iter()
            .find(|p| (p.hz - hz).abs() < 0.01);
        own.unwrap()
    };
    for hz in [55.0, 110.0] {
        let db = of(hz).measured_db.unwrap();
        assert!((db + 15.01).abs() < 0.3, "{hz}: {db} dB");
    }
    assert_eq!((of(55.3).measured_db, of(55.3).blended), (None, true));
    // what is pointed at there is the strong one
    let low = told.iter().find(|p| p.hz < 80.0).unwrap();
    let made = explanation.of(low).unwrap();
    assert_eq!(made.hz, 55.0, "{low:?}");
}

#[test]
fn what_theory_does_not_have_stays_as_measured() {
    let patch = beside_each_other(&[440.0, 446.0]);
    let sound = rendered(&patch);
    let spectrum = spectrum_at(&sound.left, &sound.right, RATE_HZ, 0.7, 64);
    // something else is heard there, much louder
    let mut explanation = explained(&patch, &sound);
    for own in &mut explanation.partials {
        own.predicted_db -= 40.0;
    }
    assert_eq!(explanation.told_apart(&spectrum), spectrum.partials);
    assert!(explanation.partials.iter().all(|own| !own.blended));
}
