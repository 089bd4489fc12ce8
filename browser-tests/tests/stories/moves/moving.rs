//! Movement, as one makes it: sources, links, and what is heard of them. Gestures are counted as in the whole jobs.

use thirtyfour::prelude::*;
use zolvik_browser_tests::in_turn;
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::document::{Filter, Send, VoiceSettings};
use zolvik_patch::movement::{Chance, Clock, Direction, Link, Macro, PlayedWhat, SourceKind};

use crate::hand::Hand;
use crate::measure::*;

in_turn! {
    sources_and_links:
    a_vibrato_that_comes_in_late_and_grows_with_the_wheel,
    a_drawn_shape_of_two_bars_opens_index_and_cutoff_against_each_other,
    sample_and_hold_on_the_pitch_pulled_back_to_a_semitone,
    one_source_moves_four_things_one_of_them_upside_down,
    an_envelope_moves_the_pitch_of_modulators_only_by_the_keyboard_alone,
}

/// The same patch with the knob of a source at its end, as when a wheel is up.
fn at_its_end(patch: &Patch, source: usize) -> Patch {
    let mut patch = patch.clone();
    patch.movement.sources[source].kind = SourceKind::Macro(Macro {
        place: 1.0,
        ..Macro::default()
    });
    patch
}

/// How far a link goes, below zero where it goes down.
fn said(link: &Link) -> f64 {
    match link.said() {
        (Direction::Down, _) | (_, true) => -link.amount.abs(),
        _ => link.amount,
    }
}

pub(crate) fn link(patch: &Patch, to: impl Fn(Address) -> bool) -> &Link {
    let found = patch.movement.links.iter().find(|l| to(l.to));
    found.expect("a link to it")
}

async fn a_vibrato_that_comes_in_late_and_grows_with_the_wheel() {
    let mut hand = Hand::new().await;
    // a link with its amount: the right button, what moves it, the amount
    hand.ask("Fine").await;
    hand.stage.look("move-1-menu.png").await;
    hand.click("+ LFO").await;
    hand.typed("15").await;
    assert_eq!(hand.gestures, 1 + 3, "a link with a typed amount");
    hand.stage.look("move-2-linked.png").await;
    hand.stage.press(Key::Escape + "").await;
    hand.click("Move").await;
    hand.set("Rate", "5.5").await;
    hand.click("Onset and smoothing").await;
    hand.set("Delay", "1 s").await;
    hand.set("Fade in", "1 s").await;
    hand.click("+ Performance").await;
    hand.choose("What", "Wheel").await;
    hand.key("1").await;
    hand.pick(
        "What controls the depth of the link to Operator 1 fine",
        "Performance 1",
    )
    .await;
    hand.stage.look("move-3-vibrato.png").await;
    let patch = hand.patch().await;
    hand.within("vibrato", 20);

    let [shape, wheel] = &patch.movement.sources[..] else {
        panic!("two sources: {:?}", patch.movement.sources);
    };
    assert!(matches!(&wheel.kind, SourceKind::Played(p) if p.what == PlayedWhat::Wheel));
    assert_eq!(
        (
            shape.timing.rate_hz,
            shape.timing.delay_s,
            shape.timing.fade_s
        ),
        (5.5, 1.0, 1.0)
    );
    let [link] = &patch.movement.links[..] else {
        panic!("one link: {:?}", patch.movement.links);
    };
    assert_eq!((link.amount, link.direction), (15.0, Direction::Both));
    assert_eq!(link.scaled_by, Some(wheel.id));
    // what is heard: nothing without the wheel; with it nothing for a second, then fifteen cents either way
    let still = note(&patch, 69, 4.0, 4.2);
    let (low, high) = pitch_span_cents(&still.left, (0.2, 3.9), 440.0);
    assert!(low > -0.5 && high < 0.5, "at rest {low} to {high}");
    let moved = note(&at_its_end(&patch, 1), 69, 4.0, 4.2);
    let (low, high) = pitch_span_cents(&moved.left, (0.2, 0.95), 440.0);
    assert!(low > -0.5 && high < 0.5, "too early: {low} to {high}");
    let (low, high) = pitch_span_cents(&moved.left, (2.2, 3.9), 440.0);
    assert!(
        (-16.0..-12.0).contains(&low) && (12.0..16.0).contains(&high),
        "{low} to {high}"
    );
}

async fn a_drawn_shape_of_two_bars_opens_index_and_cutoff_against_each_other() {
    let mut hand = Hand::new().await;
    hand.line("sine x2 > 1 2rad; low 800Hz").await;
    hand.click("Move").await;
    hand.click("+ LFO").await;
    hand.choose("Rate in", "Tempo").await;
    hand.set("Length", "2 bars").await;
    // drawn freehand: from the lower left to the upper right
    hand.choose("Points or drawing", "Draw").await;
    let (x, y, w, h) = hand.stage.bounds("[data-testid=shape] svg.sheet").await;
    hand.gestures += 1;
    hand.stage
        .drag((x + 12, y + h - 12), (x + w - 12, y + 12))
        .await;
    hand.choose("Points or drawing", "Points").await;
    hand.click("Add link").await;
    hand.typed("2 index").await;
    hand.typed("1.5").await;
    hand.click("Add link").await;
    hand.typed("cutoff").await;
    hand.typed("-2").await;
    hand.stage.look("move-4-drawn.png").await;
    let patch = hand.patch().await;
    hand.within("opposite directions", 20);
    let source = &patch.movement.sources[0];
    assert_eq!(
        (source.timing.clock, source.timing.cycle_beats),
        (Clock::Tempo, 8.0)
    );
    let SourceKind::Lfo(lfo) = &source.kind else {
        panic!("a shape");
    };
    let at = |place| zolvik_patch::movement::shape::level_at(&lfo.points, place);
    assert!(
        at(0.1) < 0.25 && at(0.9) > 0.75 && lfo.points.len() < 20,
        "{:?}",
        lfo.points
    );
    let index = link(&patch, |to| to.param == Send::INDEX_RAD);
    let cutoff = link(&patch, |to| to.param == Filter::CUTOFF_HZ);
    assert_eq!((said(index), said(cutoff)), (1.5, -2.0));
}

async fn sample_and_hold_on_the_pitch_pulled_back_to_a_semitone() {
    let mut hand = Hand::new().await;
    hand.ask("Fine").await;
    hand.click("+ Random").await;
    hand.typed("1200").await;
    // a value that was just taken is opened again by Enter: digits select strips
    hand.stage.press(Key::Enter + "").await;
    hand.typed("1 st").await;
    hand.stage.press(Key::Escape + "").await;
    hand.click("Move").await;
    hand.choose("New value", "Sample and hold").await;
    hand.set("Rate", "8").await;
    hand.stage.look("move-5-hold.png").await;
    let patch = hand.patch().await;
    hand.within("sample and hold", 12);
    assert!(
        matches!(&patch.movement.sources[0].kind, SourceKind::Random(r) if r.chance == Chance::Hold)
    );
    assert_eq!(patch.movement.links[0].amount, 100.0);
    let sound = note(&patch, 69, 3.0, 3.2);
    let (low, high) = pitch_span_cents(&sound.left, (0.1, 2.9), 440.0);
    assert!(
        (-101.0..-40.0).contains(&low) && (40.0..101.0).contains(&high),
        "{low} to {high}"
    );
    assert_eq!(
        sound.left,
        note(&patch, 69, 3.0, 3.2).left,
        "the same every time"
    );
}

async fn one_source_moves_four_things_one_of_them_upside_down() {
    let mut hand = Hand::new().await;
    hand.line("sine x2 > 1 1rad; low 800Hz").await;
    hand.click("Move").await;
    hand.click("+ LFO").await;
    for (what, amount) in [
        ("2 index", "0.6"),
        ("cutoff", "1"),
        ("operator 1 pan", "30%"),
        ("resonance", "20%"),
    ] {
        hand.click("Add link").await;
        hand.typed(what).await;
        hand.typed(amount).await;
    }
    let last = hand
        .stage
        .find("[data-link='2'] [title^='Turn round']")
        .await;
    last.scroll_into_view().await.unwrap();
    hand.gestures += 1;
    last.click().await.unwrap();
    hand.stage.look("move-6-four.png").await;
    let patch = hand.patch().await;
    hand.within("one moves four", 22);
    let amounts: Vec<f64> = patch.movement.links.iter().map(said).collect();
    assert_eq!(amounts, [0.6, -1.0, 0.3, 0.2]);
    // undo takes back one thing at a time, and nothing of it is lost
    for _ in 0..3 {
        hand.stage.chord(Key::Control, "z").await;
    }
    hand.stage
        .wait_until(
            "the last link is gone",
            "return document.querySelectorAll('[data-testid=links] .link').length === 3",
        )
        .await;
    for _ in 0..3 {
        hand.stage.chord(Key::Control, "y").await;
    }
    hand.stage
        .wait_until(
            "it is back",
            "return document.querySelectorAll('[data-testid=links] .link').length === 4",
        )
        .await;
    assert_eq!(hand.patch().await, patch);
}

async fn an_envelope_moves_the_pitch_of_modulators_only_by_the_keyboard_alone() {
    let mut hand = Hand::new().await;
    hand.line("sine x3 > 1 2rad").await;
    hand.stage.press(Key::Escape + "").await;
    hand.chord(Key::Alt, "2").await;
    hand.stage.find("[aria-label='Add a source']").await;
    // to the line to add by its region, then along it
    for _ in 0..8 {
        hand.stage.press(Key::F6 + "").await;
        let there = "return document.activeElement?.closest('.add') !== null && document.activeElement.closest('.add') !== undefined";
        if hand.stage.js(there, vec![]).await == true {
            break;
        }
    }
    hand.stage.press(Key::Tab + Key::Tab).await;
    hand.key(&(Key::Enter + "").to_string()).await;
    hand.stage.find("[data-source='1001']").await;
    hand.stage.control("Add link").await.focus().await.unwrap();
    hand.key(&(Key::Enter + "").to_string()).await;
    hand.typed("modulators").await;
    hand.typed("-1200").await;
    let patch = hand.patch().await;
    assert!(matches!(
        patch.movement.sources[0].kind,
        SourceKind::Envelope(_)
    ));
    let [link] = &patch.movement.links[..] else {
        panic!("one link");
    };
    assert_eq!(
        (link.to, link.amount, link.direction),
        (
            Address::patch(VoiceSettings::MODULATORS_CENTS),
            1200.0,
            Direction::Down
        )
    );
    // the carrier keeps its pitch: no word of a shift stands at its strip
    hand.chord(Key::Alt, "1").await;
    hand.stage.find("[data-unit='1']").await;
    let shifted = "return document.querySelector('[data-testid=pitch-shift]') === null";
    assert_eq!(hand.stage.js(shifted, vec![]).await, true);
}
