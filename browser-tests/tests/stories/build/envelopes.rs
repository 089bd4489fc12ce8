//! Envelopes: points, ready shapes, copying, linking, tempo, and where the sound's end cuts a strip off.

use thirtyfour::prelude::*;
use zolvik_browser_tests::{Stage, in_turn, stage};
use zolvik_patch::document::{Patch, UnitId};
use zolvik_patch::envelope::{Envelope, READY};

in_turn! {
    envelopes:
    points_are_added_dragged_typed_held_and_taken_out,
    linked_envelopes_are_edited_as_one_and_one_is_left_out,
    a_shape_is_copied_to_another_strip_and_tied_to_the_tempo,
    a_modulator_that_outlives_its_carrier_is_marked,
}

fn ready(name: &str) -> Envelope {
    READY.iter().find(|r| r.name == name).unwrap().envelope()
}

fn env(patch: &Patch, unit: u16) -> &Envelope {
    &patch.unit(UnitId(unit)).unwrap().envelope
}

async fn take_shape(stage: &Stage, name: &str) {
    stage.click("Shapes").await;
    let xpath = format!("//div[@class='shapes']//button[normalize-space(.)='{name}']");
    let query = stage.driver.query(By::XPath(&xpath));
    query.first().await.unwrap().click().await.unwrap();
    stage.press(Key::Escape + "").await;
}

/// Carriers, all alike.
async fn carriers(stage: &Stage, count: usize) -> i64 {
    let id = stage.new_patch().await;
    for _ in 1..count {
        stage.add_operator(1).await;
    }
    id
}

async fn points_are_added_dragged_typed_held_and_taken_out() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    stage.select(1, false).await;
    // a double click on the strip adds a point there
    let plot = stage.at_rest("[data-unit='1'] svg.plot").await;
    let (x, y) = (
        (plot.x + plot.width * 0.3) as i64,
        (plot.y + plot.height * 0.6) as i64,
    );
    let chain = stage.driver.action_chain().move_to(x, y);
    chain.double_click().perform().await.unwrap();
    stage
        .wait_until(
            "four points in values",
            "return document.querySelectorAll('[data-testid=envelope] .point').length === 4",
        )
        .await;
    let patch = stage.saved(id).await;
    assert_eq!((env(&patch, 1).points.len(), env(&patch, 1).held), (4, 2));
    let added = env(&patch, 1).points[1];
    assert!((0.2..0.75).contains(&added.level), "{added:?}");
    // typed to the millisecond
    stage.set_value("Time 2", "340 ms").await;
    stage.set_value("Level 2", "25").await;
    stage.set_value("Curve 2", "-30").await;
    let patch = stage.saved(id).await;
    let point = env(&patch, 1).points[1];
    assert_eq!((point.time_s, point.level, point.curve), (0.34, 0.25, -0.3));
    // dragged on the strip
    let (x, y) = stage
        .middle("[data-unit='1'] [data-handle='1'] .square")
        .await;
    stage.drag((x, y), (x + 30, y - 8)).await;
    let patch = stage.saved(id).await;
    let moved = env(&patch, 1).points[1];
    assert!(moved.time_s > 0.4 && moved.level > 0.3, "{moved:?}");
    // held at it, with a round from the first
    stage.click("Point 2").await;
    stage.click("Hold the note here").await;
    stage.click("Point 1").await;
    stage.click("Go round from here while held").await;
    let patch = stage.saved(id).await;
    assert_eq!(
        (env(&patch, 1).held, env(&patch, 1).loop_from),
        (1, Some(0))
    );
    stage.click("Point 1, loop").await;
    stage.click("Take this point out").await;
    assert_eq!(env(&stage.saved(id).await, 1).points.len(), 3);
    for _ in 0..8 {
        stage.click("Undo").await;
    }
    assert_eq!(
        stage.saved(id).await,
        Patch {
            meta: patch.meta,
            ..Patch::empty()
        }
    );
}

async fn linked_envelopes_are_edited_as_one_and_one_is_left_out() {
    let stage = stage().await;
    let id = carriers(&stage, 4).await;
    stage.select(2, false).await;
    stage.set_value("Attack", "1 s").await;
    stage.select(1, false).await;
    stage.set_value("Attack", "500 ms").await;
    stage.select(2, true).await;
    stage.select(3, true).await;
    stage.click("Link 3, keep differences").await;
    stage.select(1, false).await;
    stage.set_value("Attack", "*2").await;
    let patch = stage.saved(id).await;
    let attacks: Vec<f64> = (1..=4).map(|u| env(&patch, u).points[0].time_s).collect();
    assert_eq!(
        attacks,
        [1.0, 2.0, 0.01, 0.005],
        "each in proportion, 4 left out"
    );
    // a drag on one strip moves all of them, as one step
    let (x, y) = stage
        .middle("[data-unit='1'] [data-handle='1'] .square")
        .await;
    stage.drag((x, y), (x, y + 12)).await;
    let dragged = stage.saved(id).await;
    let sustains: Vec<f64> = (1..=4).map(|u| env(&dragged, u).points[1].level).collect();
    assert!(sustains[0] < 0.75, "{sustains:?}");
    assert!(sustains[..3].iter().all(|s| (s - sustains[0]).abs() < 1e-6) && sustains[3] == 0.8);
    stage.click("Undo").await;
    assert_eq!(stage.saved(id).await, patch);
    // made alike, by a ready shape
    stage.select(2, true).await;
    stage.select(3, true).await;
    stage.click("Link alike").await;
    stage.select(3, false).await;
    take_shape(&stage, "Ripple").await;
    let patch = stage.saved(id).await;
    for unit in 1..=3 {
        assert_eq!(*env(&patch, unit), ready("Ripple"), "operator {unit}");
    }
    assert_eq!(env(&patch, 4).points.len(), 3);
    stage.click("Unlink").await;
    take_shape(&stage, "Tick").await;
    assert_eq!(*env(&stage.saved(id).await, 1), ready("Ripple"));
}

async fn a_shape_is_copied_to_another_strip_and_tied_to_the_tempo() {
    let stage = stage().await;
    let id = carriers(&stage, 2).await;
    stage.select(1, false).await;
    take_shape(&stage, "Double strike").await;
    stage.click("Copy").await;
    stage.select(2, false).await;
    stage.click("Paste").await;
    let patch = stage.saved(id).await;
    assert_eq!(*env(&patch, 2), ready("Double strike"));
    stage.set_value("Tempo", "60").await;
    stage.click("In beats").await;
    stage.set_value("Time 4", "1/4 dotted").await;
    assert_eq!(stage.value("Time 4").await, "1/4 dotted");
    let patch = stage.saved(id).await;
    assert!(env(&patch, 2).in_beats);
    assert!(
        (env(&patch, 2).points[3].time_s - 0.75).abs() < 1e-9,
        "at 120 beats a minute"
    );
    stage.set_value("Shown", "5 ms").await;
    assert_eq!(stage.saved(id).await.audition.window_s, 0.005);
}

async fn a_modulator_that_outlives_its_carrier_is_marked() {
    let stage = stage().await;
    stage.new_patch().await;
    stage.select(1, false).await;
    stage.add_operator(2).await;
    stage.set_value("Release", "1.2 s").await;
    let mark = stage.find("[data-unit='2'] [data-testid=cut]").await;
    let words = mark.text().await.unwrap();
    assert!(words.contains("Operator 1 ends here"), "{words}");
    stage.set_value("Release", "100 ms").await;
    stage
        .wait_until(
            "no mark",
            "return document.querySelector('[data-testid=cut]') === null",
        )
        .await;
}
