//! Value fields: typed, dragged, stepped, refused, reset.

use thirtyfour::prelude::*;
use zolvik_browser_tests::{Stage, stage};

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

#[tokio::test]
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

#[tokio::test]
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
