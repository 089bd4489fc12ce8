//! Steps, sources that are dragged onto values, and how movement looks in small windows.

use super::moving::link;
use crate::hand::Hand;
use crate::measure::*;
use thirtyfour::prelude::*;
use zolvik_browser_tests::in_turn;
use zolvik_patch::address::Address;
use zolvik_patch::document::{Operator, Send, UnitId};
use zolvik_patch::movement::{Direction, SourceKind};

in_turn! {
    values_that_move:
    a_pitch_that_is_moved_off_says_so_and_is_mended_by_one_click,
    steps_are_drawn_typed_counted_and_both_views_share_one_history,
    velocity_shortens_an_attack_note_by_note,
    sources_are_dragged_onto_values_and_strips,
    move_fits_smaller_windows_and_the_dark,
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
    hand.stage.look("move-7-shift.png").await;
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
    hand.stage.look("move-8-empty.png").await;
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
    hand.stage.look("move-9-steps.png").await;
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
    hand.stage.look("move-10-attack.png").await;
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
    hand.stage.look("move-11-shelf.png").await;
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
        hand.stage.look(&format!("move-{width}.png")).await;
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
    hand.stage.look("move-dark.png").await;
}
