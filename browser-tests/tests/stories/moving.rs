//! Movement, as one makes it: sources, links, and what is heard of them. Gestures are counted as in the whole jobs.

use std::path::PathBuf;

use thirtyfour::prelude::*;
use zolvik_browser_tests::{Stage, in_turn};
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::document::{Filter, Operator, Send, UnitId, VoiceSettings};
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

in_turn! {
    values_that_move:
    a_pitch_that_is_moved_off_says_so_and_is_mended_by_one_click,
    steps_are_drawn_typed_counted_and_both_views_share_one_history,
    velocity_shortens_an_attack_note_by_note,
    sources_are_dragged_onto_values_and_strips,
    move_fits_smaller_windows_and_the_dark,
}

async fn look(stage: &Stage, name: &str) {
    if let Ok(folder) = std::env::var("ZOLVIK_LOOK") {
        stage.picture(&PathBuf::from(folder).join(name)).await;
    }
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

fn link(patch: &Patch, to: impl Fn(Address) -> bool) -> &Link {
    let found = patch.movement.links.iter().find(|l| to(l.to));
    found.expect("a link to it")
}

async fn a_vibrato_that_comes_in_late_and_grows_with_the_wheel() {
    let mut hand = Hand::new().await;
    // a link with its amount: the right button, what moves it, the amount
    hand.ask("Fine").await;
    look(&hand.stage, "move-1-menu.png").await;
    hand.click("+ LFO").await;
    hand.typed("15").await;
    assert_eq!(hand.gestures, 1 + 3, "a link with a typed amount");
    look(&hand.stage, "move-2-linked.png").await;
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
    look(&hand.stage, "move-3-vibrato.png").await;
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
    look(&hand.stage, "move-4-drawn.png").await;
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
    look(&hand.stage, "move-5-hold.png").await;
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
    look(&hand.stage, "move-6-four.png").await;
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

async fn a_pitch_that_is_moved_off_says_so_and_is_mended_by_one_click() {
    let mut hand = Hand::new().await;
    hand.ask("Fine").await;
    hand.click("+ LFO").await;
    hand.typed("40").await;
    hand.click("Up: from the value upward").await;
    hand.stage.press(Key::Escape + "").await;
    let told = hand.stage.find("[data-testid=pitch-shift]").await;
    let words = told.text().await.unwrap();
    assert!(
        words.contains("Fine LFO") && words.contains("20 ct"),
        "{words}"
    );
    look(&hand.stage, "move-7-shift.png").await;
    told.click().await.unwrap();
    hand.stage
        .wait_until(
            "it is gone",
            "return document.querySelector('[data-testid=pitch-shift]') === null",
        )
        .await;
    assert_eq!(
        hand.patch().await.movement.links[0].direction,
        Direction::Both
    );
    // the field shows how far it is swept, and its menu by what
    hand.stage
        .find("[data-param='operator.detune_cents'] .swept")
        .await;
    // what is gone takes its links with it; undo brings both back
    let before = hand.patch().await;
    hand.click("Move").await;
    hand.click_on("[data-source='1001'] .words").await;
    hand.stage.press(Key::Delete + "").await;
    hand.stage
        .wait_until(
            "it is empty",
            "return document.querySelector('[data-source]') === null",
        )
        .await;
    assert!(hand.patch().await.movement.is_empty());
    hand.stage.chord(Key::Control, "z").await;
    hand.stage.find("[data-source='1001']").await;
    assert_eq!(hand.patch().await, before);
}

async fn steps_are_drawn_typed_counted_and_both_views_share_one_history() {
    let mut hand = Hand::new().await;
    hand.click("Move").await;
    hand.stage.find(".none").await;
    look(&hand.stage, "move-8-empty.png").await;
    hand.click("+ Steps").await;
    let (x, y, w, h) = hand.stage.bounds("[data-testid=steps] svg.sheet").await;
    hand.stage
        .drag((x + w / 16, y + 4), (x + w - w / 16, y + h - 4))
        .await;
    hand.set("Glide 8", "50%").await;
    let patch = hand.patch().await;
    let SourceKind::Steps(steps) = &patch.movement.sources[0].kind else {
        panic!("steps");
    };
    let levels: Vec<f64> = steps.steps.iter().map(|s| s.level).collect();
    assert!(levels[0] > 0.9 && levels[7] < 0.1, "{levels:?}");
    assert_eq!(steps.steps[7].glide, 0.5);
    look(&hand.stage, "move-9-steps.png").await;
    // the lowest and highest value are typed as well as the amount
    hand.click("Add link").await;
    hand.typed("operator 1 level").await;
    hand.click("Lowest of Operator 1 level: −12.0 dB").await;
    let input = hand
        .stage
        .find("input[aria-label='Lowest of Operator 1 level, typed']")
        .await;
    input.send_keys("-30" + Key::Enter).await.unwrap();
    let patch = hand.patch().await;
    let level = Address::route(patch.routes[0].id, Send::LEVEL_DB);
    assert_eq!(level.get(&patch), Ok(-30.0));
    assert_eq!(patch.movement.links[0].amount, 21.0, "from -30 to -9 dB");
    // Build and back: nothing is opened anew, and undo goes on
    hand.click("Build").await;
    hand.stage.find("[data-unit='1']").await;
    hand.click("Move").await;
    hand.stage.find("[data-source='1001']").await;
    hand.click("Undo").await;
    hand.stage.wait_until("the end is as before", "return document.querySelector(\"[aria-label^='Lowest of Operator 1 level']\")?.textContent.includes('12')").await;
    let patch = hand.patch().await;
    assert_eq!(level.get(&patch), Ok(-12.0));
    assert_eq!(patch.movement.links[0].amount, 3.0);
}

async fn velocity_shortens_an_attack_note_by_note() {
    let mut hand = Hand::new().await;
    hand.set("Attack", "400 ms").await;
    hand.ask("Attack").await;
    hand.click("+ Performance").await;
    hand.typed("-380 ms").await;
    hand.stage.press(Key::Escape + "").await;
    look(&hand.stage, "move-10-attack.png").await;
    let patch = hand.patch().await;
    hand.within("attack by velocity", 8);
    let to = Address::point(UnitId(1), 0, zolvik_patch::document::Point::TIME_S);
    let link = link(&patch, |address| address == to);
    assert_eq!((link.amount, link.direction), (0.38, Direction::Down));
    // a soft note takes its time, a hard one does not
    let rise_s = |velocity: u8| {
        let note = zolvik_lab::Note {
            key: 69,
            velocity,
            hold_s: 1.0,
            length_s: 1.0,
            rate_hz: RATE_HZ,
            controls: Default::default(),
        };
        let sound = zolvik_lab::render::render(&patch, &note);
        let chunks: Vec<f64> = sound.left.chunks(480).map(rms).collect();
        let most = chunks.iter().copied().fold(0.0, f64::max);
        chunks.iter().position(|level| *level > 0.8 * most).unwrap() as f64 / 100.0
    };
    assert!(
        rise_s(1) > 0.25 && rise_s(127) < 0.06,
        "{} and {} s",
        rise_s(1),
        rise_s(127)
    );
}

/// Sources lie at hand in Build: dragged onto a value or a strip they move that; of several strips all.
async fn sources_are_dragged_onto_values_and_strips() {
    let mut hand = Hand::new().await;
    hand.line("sine x2 > 1 1rad; sine x3 > 1 1rad").await;
    hand.stage.select(1, false).await;
    hand.ask("Level").await;
    hand.click("+ LFO").await;
    hand.stage.press(Key::Escape + "").await;
    let chip = hand.stage.middle(".shelf .btn").await;
    let field = hand.stage.find("[data-param='operator.offset_hz']").await;
    field.scroll_into_view().await.unwrap();
    let (x, y, w, h) = hand.stage.bounds("[data-param='operator.offset_hz']").await;
    hand.stage.drag(chip, (x + w / 2, y + h / 2)).await;
    hand.stage
        .find("[data-param='operator.offset_hz'] .swept")
        .await;
    // both modulators, by a drop on one of them
    hand.stage.select(2, false).await;
    hand.stage.select(3, true).await;
    let chip = hand.stage.middle(".shelf .btn").await;
    let strip = hand.stage.middle("[data-unit='2'] .plot").await;
    hand.stage.drag(chip, strip).await;
    look(&hand.stage, "move-11-shelf.png").await;
    let patch = hand.patch().await;
    let targets: Vec<Address> = patch.movement.links.iter().map(|l| l.to).collect();
    let route = |unit: u16| patch.sends(UnitId(unit)).next().unwrap().id;
    for unit in [2, 3] {
        assert!(
            targets.contains(&Address::route(route(unit), Send::INDEX_RAD)),
            "{targets:?}"
        );
    }
    assert!(
        targets.iter().any(|to| to.param == Operator::OFFSET_HZ),
        "{targets:?}"
    );
    // onto a rail: its depth
    hand.stage.select(1, false).await;
    hand.stage.add_operator(2).await;
    hand.stage.find("[data-unit='4']").await;
    let new = hand.patch().await.routes.last().unwrap().id;
    let chip = hand.stage.middle(".shelf .btn").await;
    let place = "const p = document.querySelector(`path.grip[data-route='${arguments[0]}']`); const at = p.getPointAtLength(p.getTotalLength() / 2).matrixTransform(p.getScreenCTM()); return [at.x, at.y]";
    let at = hand.stage.js(place, vec![new.0.into()]).await;
    let rail = [0, 1].map(|i| at[i].as_f64().unwrap().round() as i64);
    hand.stage.drag(chip, (rail[0], rail[1])).await;
    let index = Address::route(new, Send::INDEX_RAD);
    let patch = hand.patch().await;
    assert!(patch.movement.links.iter().any(|l| l.to == index));
}

/// At smaller windows nothing of Move is cut off sideways, and all of it can be reached.
async fn move_fits_smaller_windows_and_the_dark() {
    let mut hand = Hand::new().await;
    hand.click("Move").await;
    for kind in ["+ LFO", "+ Random", "+ Macro"] {
        hand.click(kind).await;
    }
    hand.key("1").await;
    hand.stage.find("[data-testid=shape]").await;
    for (width, height) in [(1366, 650), (1024, 700), (800, 600)] {
        hand.stage
            .driver
            .set_window_rect(0, 0, width, height + 143)
            .await
            .unwrap();
        tokio::time::sleep(std::time::Duration::from_millis(700)).await;
        look(&hand.stage, &format!("move-{width}.png")).await;
        let wide = "return document.documentElement.scrollWidth <= innerWidth && document.querySelector('.score').scrollWidth <= document.querySelector('.score').clientWidth + 1";
        assert_eq!(
            hand.stage.js(wide, vec![]).await,
            true,
            "{width}: something stands out sideways"
        );
        let seen = "const b = document.querySelector('.add .btn').getBoundingClientRect(); return b.height > 0 && b.bottom <= innerHeight && document.querySelectorAll('.list .row').length === 3";
        assert_eq!(
            hand.stage.js(seen, vec![]).await,
            true,
            "{width}: the line to add is out of sight"
        );
    }
    hand.stage
        .driver
        .set_window_rect(0, 0, 1280, 943)
        .await
        .unwrap();
    hand.click("Dark").await;
    tokio::time::sleep(std::time::Duration::from_millis(900)).await;
    look(&hand.stage, "move-dark.png").await;
}
