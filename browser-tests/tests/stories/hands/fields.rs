//! Value fields: typed, dragged, stepped, refused, reset.

use thirtyfour::prelude::*;
use zolvik_browser_tests::{Stage, in_turn, stage};
use zolvik_patch::document::Send;

in_turn! {
    fields:
    every_way_to_set_a_value_works_and_is_undone,
    what_is_no_value_is_explained_and_the_old_one_stays,
    under_a_hand_the_number_and_the_sound_come_at_once_and_the_rest_follows,
    under_a_hand_only_the_strip_it_moves_gets_another_scale,
    escape_takes_a_drag_back_and_leaves_what_is_selected,
}

async fn new_patch() -> Stage {
    let stage = stage().await;
    stage.open("/").await;
    stage.click("New patch").await;
    stage
        .find("[data-unit='1'] .head")
        .await
        .click()
        .await
        .unwrap();
    stage.field("Ratio").await;
    stage
}

async fn every_way_to_set_a_value_works_and_is_undone() {
    let stage = new_patch().await;
    // typing starts with the first digit
    stage.field("Ratio").await.send_keys("2.5").await.unwrap();
    stage
        .find("input[aria-label='Ratio, typed']")
        .await
        .send_keys(Key::Enter + "")
        .await
        .unwrap();
    assert_eq!(stage.value("Ratio").await, "2.50 ×");
    // arrow keys
    stage
        .field("Ratio")
        .await
        .send_keys(Key::Up + "")
        .await
        .unwrap();
    assert_eq!(stage.value("Ratio").await, "3.00 ×");
    // a drag upward
    let (x, y) = stage
        .middle("[role=spinbutton][aria-label='Sustain'] .label")
        .await;
    stage.drag((x, y), (x, y - 60)).await;
    assert_eq!(stage.value("Sustain").await, "100 %");
    // one undo takes back the whole drag
    stage.click("Undo").await;
    assert_eq!(stage.value("Sustain").await, "80 %");
    // the wheel
    stage.js("const field = document.querySelector('[role=spinbutton][aria-label=Level]'); field.focus(); field.dispatchEvent(new WheelEvent('wheel', {deltaY: -100, bubbles: true, cancelable: true}))", vec![]).await;
    stage.wait_until("the wheel moved it", "return document.querySelector('[role=spinbutton][aria-label=Level]').getAttribute('aria-valuetext') === '−11.0 dB'").await;
    // a double click gives the default back
    let (x, y) = stage
        .middle("[role=spinbutton][aria-label='Ratio'] .label")
        .await;
    stage
        .driver
        .action_chain()
        .move_to(x, y)
        .double_click()
        .perform()
        .await
        .unwrap();
    stage.wait_until("the default", "return document.querySelector('[role=spinbutton][aria-label=Ratio]').getAttribute('aria-valuetext') === '1.00 ×'").await;
    // an octave in one gesture
    stage.click("An octave down").await;
    assert_eq!(stage.value("Ratio").await, "0.50 ×");
}

async fn what_is_no_value_is_explained_and_the_old_one_stays() {
    let stage = new_patch().await;
    let before = stage.value("Attack").await;
    stage.set_value("Attack", "soon").await;
    let why = stage
        .find(".problem[role=alert]")
        .await
        .text()
        .await
        .unwrap();
    assert!(why.contains("“soon”") && why.contains("340 ms"), "{why}");
    stage
        .find("input[aria-label='Attack, typed']")
        .await
        .send_keys(Key::Escape + "")
        .await
        .unwrap();
    assert_eq!(stage.value("Attack").await, before);
    stage.set_value("Attack", "99 s").await;
    let why = stage
        .find(".problem[role=alert]")
        .await
        .text()
        .await
        .unwrap();
    assert!(why.contains("goes from"), "{why}");
}

/// How many different heights the live waveform has.
const HEIGHTS: &str = "new Set((document.querySelector('[data-testid=waveform]').getAttribute('d') ?? '').match(/ [\\d.]+/g)).size";

async fn under_a_hand_the_number_and_the_sound_come_at_once_and_the_rest_follows() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    stage.select(1, false).await;
    stage.find(".board").await;
    // a hand on the level's field, that moves by so many pixels and does not let go; gives the number two frames later
    let hand = "const [type, by, done] = arguments; \
        const field = document.querySelector('[data-send] [role=spinbutton][aria-label=Level]'); const box = field.getBoundingClientRect(); \
        field.setPointerCapture = () => {}; \
        const at = (type, x) => field.dispatchEvent(new PointerEvent(type, { bubbles: true, pointerId: 1, button: 0, buttons: 1, clientX: box.left + 20 + x, clientY: box.top + 9 })); \
        if (type === 'pointerdown') { at(type, 0); at('pointermove', by / 2); at('pointermove', by) } else at(type, by); \
        requestAnimationFrame(() => requestAnimationFrame(() => done(Number(field.getAttribute('aria-valuenow')))))";
    let moved = async |kind: &str, by: f64| {
        let moved = stage
            .driver
            .execute_async(hand, vec![kind.into(), by.into()])
            .await;
        moved.unwrap().json().as_f64().unwrap()
    };
    let undo = "return document.querySelector('[aria-label=Undo]').title";
    stage
        .holding(60, async {
            stage
                .wait_until("the waveform moves", &format!("return {HEIGHTS} > 20"))
                .await;
            // down to silence, which is the lowest value: what leads nowhere is said at the strip while the hand still holds it
            assert_eq!(moved("pointerdown", -400.0).await, -72.0);
            stage
                .wait_until("it is silent", &format!("return {HEIGHTS} <= 2"))
                .await;
            stage
                .wait_until(
                    "the strip says so",
                    "return document.querySelector(\"[data-unit='1'] [data-testid=unheard]\") !== null",
                )
                .await;
            assert_eq!(stage.js(undo, vec![]).await, "Undo level (Ctrl+Z)");
            assert_eq!(stage.stored(id).await.routes[0].send, Send::output());
            // and up again, not to where it was
            let level_db = moved("pointermove", 10.0).await;
            assert!(level_db > -12.0 && level_db < 6.0, "{level_db}");
            stage
                .wait_until("the waveform moves again", &format!("return {HEIGHTS} > 20"))
                .await;
            stage
                .wait_until(
                    "the strip is heard again",
                    "return document.querySelector(\"[data-unit='1'] [data-testid=unheard]\") === null",
                )
                .await;
            assert_eq!(moved("pointerup", 10.0).await, level_db);
            let Send::Output { level_db: stored, .. } = stage.saved(id).await.routes[0].send else {
                panic!("it leads to the output");
            };
            assert!((stored - level_db).abs() < 1e-9, "{stored}, {level_db}");
        })
        .await;
    // one step, all of it
    stage.chord(Key::Control, "z").await;
    assert_eq!(stage.saved(id).await.routes[0].send, Send::output());
}

/// The marks beside the strips, from top to bottom, by strip.
const MARKS: &str = "return [2, 3].map(id => [...document.querySelectorAll(`[data-unit='${id}'] .ticks span`)].map(s => s.textContent).join(' '))";

async fn under_a_hand_only_the_strip_it_moves_gets_another_scale() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    for _ in 0..2 {
        stage.select(1, false).await;
        stage.add_operator(2).await;
    }
    stage.select(2, false).await;
    let marks =
        async || -> Vec<String> { serde_json::from_value(stage.js(MARKS, vec![]).await).unwrap() };
    let before = marks().await;
    assert_eq!(before[0], before[1]);
    let index = "[data-send] [role=spinbutton][aria-label=Index]";
    let (x, y) = stage.middle(index).await;
    let chain = stage.driver.action_chain().move_to(x, y).click_and_hold();
    let chain = chain.move_by_offset(20, 0).move_by_offset(60, 0);
    chain.perform().await.unwrap();
    stage
        .until("its strip has a wider scale", async || {
            marks().await[0] != before[0]
        })
        .await;
    assert_eq!(marks().await[1], before[1], "the other stands still");
    let chain = stage.driver.action_chain();
    chain.release().perform().await.unwrap();
    stage
        .until("both share one again", async || {
            let now = marks().await;
            now[0] == now[1] && now[0] != before[0]
        })
        .await;
    let Send::Phase { index_rad, .. } = stage.saved(id).await.routes[1].send else {
        panic!("it modulates");
    };
    let marked = marks().await[0].clone();
    let top: f64 = marked.split(' ').next().unwrap().parse().unwrap();
    assert!(
        index_rad > 1.0 && index_rad < 2.0 * top,
        "{index_rad}, {marked}"
    );
}

async fn escape_takes_a_drag_back_and_leaves_what_is_selected() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    stage.select(1, false).await;
    stage.set_value("Ratio", "3").await;
    let before = stage.saved(id).await;
    let (x, y) = stage
        .middle("[data-send] [role=spinbutton][aria-label=Level]")
        .await;
    let chain = stage.driver.action_chain().move_to(x, y).click_and_hold();
    let chain = chain.move_by_offset(-20, 0).move_by_offset(-40, 0);
    chain.perform().await.unwrap();
    stage
        .wait_until(
            "it is dragged",
            "return document.querySelector('[aria-label=Undo]').title.includes('level')",
        )
        .await;
    stage.press(Key::Escape).await;
    stage
        .wait_until(
            "it is as it was",
            "return document.querySelector('[aria-label=Undo]').title.includes('ratio')",
        )
        .await;
    // the hand that is still down moves nothing any more
    let chain = stage.driver.action_chain().move_by_offset(30, 0).release();
    chain.perform().await.unwrap();
    assert_eq!(stage.value("Ratio").await, "3.00 ×");
    assert_eq!(stage.saved(id).await.routes, before.routes);
    stage
        .find("[data-unit='1'].selected, .selected[data-unit='1']")
        .await;
    // it can be had all the same
    stage.chord(Key::Control, "y").await;
    stage
        .wait_until(
            "it is done again",
            "return document.querySelector('[aria-label=Undo]').title.includes('level')",
        )
        .await;
}
