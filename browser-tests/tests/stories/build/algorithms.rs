//! Arrangements tried in place, kinds of routes, places swapped, and hearing one part alone.

use thirtyfour::prelude::*;
use zolvik_browser_tests::{Stage, in_turn, stage};
use zolvik_patch::document::{Bus, RouteKind, Send, UnitId};

in_turn! {
    algorithms:
    ten_arrangements_are_heard_in_place_and_one_is_taken,
    a_route_changes_what_it_does_and_where_it_leaves,
    parts_are_heard_alone_without_a_trace,
    a_carrier_becomes_a_modulator_in_one_drag_and_comes_back,
}

/// A chain of four: 4 into 3 into 2 into 1.
async fn four(stage: &Stage) -> i64 {
    let id = stage.new_patch().await;
    stage.select(1, false).await;
    for _ in 0..3 {
        stage.add_operator(2).await;
    }
    id
}

async fn ten_arrangements_are_heard_in_place_and_one_is_taken() {
    let stage = stage().await;
    let id = four(&stage).await;
    let before = stage.saved(id).await;
    let undo = "return document.querySelector('[aria-label=Undo]').title";
    let undo_before = stage.js(undo, vec![]).await;
    stage.click("Algorithms").await;
    stage
        .wait_until(
            "sixteen for four operators",
            "return document.querySelectorAll('.choice').length === 16",
        )
        .await;
    let choices = stage.driver.find_all(By::Css(".choice")).await.unwrap();
    let mut seen = std::collections::HashSet::new();
    for choice in &choices[..10] {
        choice.click().await.unwrap();
        let script = "return [...document.querySelectorAll('.rails .grip')].map(g => g.getAttribute('d')).join()";
        seen.insert(stage.js(script, vec![]).await.to_string());
    }
    assert_eq!(seen.len(), 10, "each is drawn, and unlike the others");
    stage.click("Cancel").await;
    assert_eq!(stage.saved(id).await, before, "as it was");
    assert_eq!(
        stage.js(undo, vec![]).await,
        undo_before,
        "trying leaves no trace"
    );
    // by keyboard, and taken: one step of undo
    stage
        .js("document.querySelector('.panel .grid').focus()", vec![])
        .await;
    stage.press(Key::Right + "").await;
    stage.press(Key::Right + "").await;
    stage.click("Apply").await;
    let taken = stage.saved(id).await;
    assert_ne!(taken.routes, before.routes);
    stage.click("Undo").await;
    assert_eq!(stage.saved(id).await, before);
    // one's own is kept for other patches of as many operators
    stage.click("Keep this arrangement").await;
    stage
        .js("document.querySelectorAll('.choice')[0].click()", vec![])
        .await;
    stage.click("Apply").await;
    let carriers = |p: &zolvik_patch::Patch| {
        let out = p.routes.iter().filter(|r| r.send.target().is_none());
        out.count()
    };
    assert_eq!(carriers(&stage.saved(id).await), 4, "all side by side");
    stage.click("4 operators, 1").await;
    stage.click("Apply").await;
    // the chain again: one is heard, and each of the others moves another one
    let chain = stage.saved(id).await;
    let moved: std::collections::BTreeSet<_> = chain
        .routes
        .iter()
        .filter_map(|r| r.send.target())
        .collect();
    assert_eq!(
        (carriers(&chain), moved.len(), chain.routes.len()),
        (1, 3, 4)
    );
}

async fn a_route_changes_what_it_does_and_where_it_leaves() {
    let stage = stage().await;
    let id = four(&stage).await;
    stage.select(2, false).await;
    stage.click("Route to Operator 1: Phase. Change").await;
    stage.click("Ring: multiplies").await;
    stage.set_value("Mix", "80%").await;
    let patch = stage.saved(id).await;
    let route = patch.sends(UnitId(2)).next().unwrap();
    assert_eq!(
        route.send,
        Send::Ring {
            to: UnitId(1),
            mix: 0.8
        }
    );
    // between the same two there is room for another kind, drawn beside it
    stage.select(1, false).await;
    stage.click("Route to Output: Chain one. Change").await;
    stage.click("Clean: past all effects").await;
    let patch = stage.saved(id).await;
    let out = patch.sends(UnitId(1)).next().unwrap();
    assert!(matches!(
        out.send,
        Send::Output {
            bus: Bus::Clean,
            ..
        }
    ));
    // swap: 2 is heard, 1 multiplies it
    stage.click("Place").await;
    stage.js("[...document.querySelectorAll('[role=menuitem]')].find(m => m.textContent.trim() === '2 Operator 2').click(); [...document.querySelectorAll('[role=menuitem] a, [role=menuitem] .p-menu-item-link')].find(m => m.textContent.trim() === '2 Operator 2')?.click()", vec![]).await;
    let patch = stage.saved(id).await;
    let kinds: Vec<_> = patch
        .routes
        .iter()
        .map(|r| (r.from.0, r.send.kind()))
        .collect();
    assert!(kinds.contains(&(1, Some(RouteKind::Ring))), "{kinds:?}");
    assert!(kinds.contains(&(2, None)), "{kinds:?}");
}

async fn parts_are_heard_alone_without_a_trace() {
    let stage = stage().await;
    let id = four(&stage).await;
    stage.select(2, false).await;
    let before = stage.saved(id).await;
    let sign = "return document.querySelector('[data-testid=listening]') !== null";
    for control in [
        "Mute route to Operator 1",
        "Solo route to Operator 1",
        "Hold modulation",
    ] {
        stage.click(control).await;
        stage.wait_until("a sign as long as any is on", sign).await;
        stage.click("Hear all").await;
        let gone = sign.replace("!==", "===");
        stage.wait_until("and then no more", &gone).await;
    }
    // held, the key lets hear without the selected strip
    let chain = stage.driver.action_chain().key_down('o');
    chain.perform().await.unwrap();
    stage.wait_until("without it while held", "return document.querySelector('[aria-label=\"Mute Operator 2\"]').getAttribute('aria-pressed') === 'true'").await;
    let chain = stage.driver.action_chain().key_up('o');
    chain.perform().await.unwrap();
    stage.wait_until("with it again", "return document.querySelector('[aria-label=\"Mute Operator 2\"]').getAttribute('aria-pressed') === 'false'").await;
    assert_eq!(stage.saved(id).await, before, "none of it is an edit");
}

async fn a_carrier_becomes_a_modulator_in_one_drag_and_comes_back() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    stage.add_operator(1).await;
    let targets = |p: &zolvik_patch::Patch| -> Vec<Option<u16>> {
        p.sends(UnitId(2))
            .map(|r| r.send.target().map(|t| t.0))
            .collect()
    };
    let drag = async |to: &str| {
        let from = stage.middle("[data-unit='2'] .grip").await;
        let to = stage.middle(to).await;
        let chain = stage.driver.action_chain().key_down(Key::Shift);
        let chain = chain.move_to(from.0, from.1).click_and_hold();
        let chain = chain.move_to(from.0 + 20, from.1 + 4).move_to(to.0, to.1);
        chain.release().key_up(Key::Shift).perform().await.unwrap();
    };
    drag("[data-unit='1'] .plot").await;
    assert_eq!(targets(&stage.saved(id).await), [Some(1)]);
    drag(".output .badge").await;
    assert_eq!(targets(&stage.saved(id).await), [None]);
}
