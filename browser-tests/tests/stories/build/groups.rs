//! Strips grouped: named, folded, muted, soloed and levelled together.

use thirtyfour::prelude::*;
use zolvik_browser_tests::{Stage, stage};
use zolvik_lab::level::level;
use zolvik_lab::{Note, render};

fn peak_db(patch: &zolvik_patch::Patch) -> f64 {
    let note = Note::auditioned(patch, 48_000.0);
    level(&render(patch, &note)).true_peak_db
}

async fn shown(stage: &Stage) -> i64 {
    let script = "return [...document.querySelectorAll('.row[data-unit]')].filter(r => r.offsetHeight > 0).length";
    stage.js(script, vec![]).await.as_i64().unwrap()
}

#[tokio::test]
async fn strips_are_grouped_named_folded_muted_and_levelled() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    stage.add_operator(1).await;
    stage.add_operator(1).await;
    stage.select(1, false).await;
    stage.select(2, true).await;
    stage.click("Group 2").await;
    let name = stage.control("Group name: Group 1. Rename").await;
    name.click().await.unwrap();
    let input = stage.find("input[aria-label='Group name']").await;
    input.send_keys(Key::Control + "a").await.unwrap();
    input.send_keys("Roots").await.unwrap();
    input.send_keys(Key::Enter + "").await.unwrap();
    assert_eq!(stage.saved(id).await.groups[0].name, "Roots");

    stage.click("Fold Roots").await;
    assert_eq!(shown(&stage).await, 1, "two of three are folded away");
    stage.click("Unfold Roots").await;
    assert_eq!(shown(&stage).await, 3);

    let before = stage.saved(id).await;
    stage.click("Mute group Roots").await;
    stage
        .wait_until(
            "both are muted, with a sign",
            "return ['Mute Operator 1', 'Mute Operator 2'].every(l => document.querySelector(`[aria-label='${l}']`).getAttribute('aria-pressed') === 'true') && !!document.querySelector('[data-testid=listening]')",
        )
        .await;
    stage.click("Mute group Roots").await;
    stage.click("Solo group Roots").await;
    stage.click("Hear all").await;
    assert_eq!(stage.saved(id).await, before, "none of it is an edit");

    stage.set_value("Level of Roots", "-72 dB").await;
    let quiet = stage.saved(id).await;
    // three equal sines become one: 20 log10(3) = 9.5 dB less
    let fallen = peak_db(&before) - peak_db(&quiet);
    assert!((fallen - 9.54).abs() < 0.1, "{fallen} dB");
    stage.click("Dissolve").await;
    assert!(stage.saved(id).await.groups.is_empty());
    stage.click("Undo").await;
    assert_eq!(stage.saved(id).await, quiet);
}
