//! Two states, flipped while a note sounds, at matched loudness, kept over a restart.

use zolvik_browser_tests::stage;
use zolvik_patch::document::Slot;

#[tokio::test]
async fn two_states_are_flipped_matched_copied_and_found_again() {
    let mut stage = stage().await;
    let id = stage.new_patch().await;
    stage.select(1, false).await;
    stage.click("State B").await;
    stage.set_value("Level", "0 dB").await;
    stage.set_value("Ratio", "2").await;
    let b = stage.saved(id).await;
    assert_eq!(
        (b.slot, b.units[0].oscillator().unwrap().ratio),
        (Slot::B, 2.0)
    );
    // matched: the louder one is turned down by what it is louder
    stage
        .wait_until(
            "B is turned down",
            "const t = document.querySelector('.tools .toggle')?.title ?? ''; const m = t.match(/by ([0-9.]+) dB/); return !!m && Number(m[1]) > 10 && Number(m[1]) < 14",
        )
        .await;
    // flipped by one key while a note sounds, and the note goes on
    stage
        .holding(57, async {
            // a value that was typed keeps the focus, and letters type into it
            stage.js("document.activeElement.blur()", vec![]).await;
            stage.press("a").await;
            stage
                .wait_until(
                    "A, and still sounding",
                    "return document.querySelector('[aria-label=\"State A\"]').getAttribute('aria-pressed') === 'true' && document.querySelector('[data-testid=voices]').textContent.trim() === '1 voice'",
                )
                .await;
        })
        .await;
    assert_eq!(stage.value("Ratio").await, "1.00 ×");
    assert_eq!(stage.value("Level").await, "−12.0 dB");
    // both survive a restart of the server
    stage.wait_saved().await;
    stage.restart_server();
    stage.open(&format!("/patch/{id}")).await;
    stage.find("[data-unit='1']").await;
    let stored = stage.stored(id).await;
    assert_eq!(stored.slot, Slot::A);
    assert_eq!(
        stored.other.unwrap().units[0].oscillator().unwrap().ratio,
        2.0
    );
    stage.select(1, false).await;
    stage.click("State B").await;
    assert_eq!(stage.value("Ratio").await, "2.00 ×");
    stage.click("Copy B to A").await;
    stage.click("State A").await;
    assert_eq!(stage.value("Ratio").await, "2.00 ×");
    stage.click("Undo").await;
    stage.click("Undo").await;
    stage.click("State A").await;
    assert_eq!(stage.value("Ratio").await, "1.00 ×");
}
