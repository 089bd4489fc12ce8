//! By keyboard alone: a sound is made, things are found by name, what was typed stays.

use thirtyfour::prelude::*;
use zolvik_browser_tests::{in_turn, stage, stage_with};

in_turn! {
    keys_alone:
    a_sound_is_made_by_keyboard_alone,
    what_was_typed_in_about_survives_escape_and_hints_go_with_the_first_edit,
}

#[tokio::test]
async fn strips_are_found_done_and_added_by_name() {
    let stage = stage_with(true).await;
    let patches = stage.patches().await;
    let bell = patches.iter().find(|p| p["name"] == "Frost Fern").unwrap();
    stage.open(&format!("/patch/{}", bell["id"])).await;
    stage.find("[data-unit='3']").await;
    let title = stage.driver.title().await.unwrap();
    assert_eq!(title, "Frost Fern · Zolvik");
    let find = async |text: &str| {
        stage.chord(Key::Control, "k").await;
        let input = stage
            .find("input[aria-label='Find, or type a strip']")
            .await;
        input.send_keys(text).await.unwrap();
        stage
            .wait_until(
                "something is found",
                "return document.querySelectorAll('#found [role=option]').length > 0",
            )
            .await;
        input
    };
    let input = find("halo").await;
    stage.look("find.png").await;
    input.send_keys(Key::Enter + "").await.unwrap();
    stage.wait_until("the strip is selected", "return document.querySelector('.row[aria-selected=true]')?.getAttribute('aria-label') === 'Halo'").await;
    // a value of another strip
    let input = find("stem ratio").await;
    input.send_keys(Key::Enter + "").await.unwrap();
    stage
        .wait_until(
            "its field has the focus",
            "return document.activeElement?.getAttribute('aria-label') === 'Ratio'",
        )
        .await;
    // a strip, said before it is made
    let input = find("saw x0.5 -14dB 30L").await;
    let said = stage.find("[data-testid=line]").await.text().await.unwrap();
    assert!(
        said.contains("wave: saw") && said.contains("place"),
        "{said}"
    );
    stage.look("find-line.png").await;
    input.send_keys(Key::Enter + "").await.unwrap();
    stage
        .wait_until(
            "seven strips",
            "return document.querySelectorAll('.row[data-unit]').length === 7",
        )
        .await;
    // help
    stage.press("?").await;
    let search = stage
        .find("input[aria-label='Search keys and gestures']")
        .await;
    search.send_keys("duplicate").await.unwrap();
    let text = stage.find(".groups").await.text().await.unwrap();
    assert!(
        text.contains("Ctrl+D") && !text.contains("Ctrl+G"),
        "{text}"
    );
    stage.look("help.png").await;
    // the guide, with its pictures, from the application itself
    for page in [
        "A first sound",
        "A bell",
        "A bass with a clean sub",
        "A pad through one filter",
        "A hat",
        "Reading the result",
    ] {
        stage.click(page).await;
        let shown = "const i = document.querySelector('[data-testid=guide] img'); return !!i && i.complete && i.naturalWidth > 600 && i.src.startsWith(location.origin)";
        stage.wait_until("its picture is there", shown).await;
    }
    stage.look("guide.png").await;
}

#[tokio::test]
async fn help_without_the_server_says_so_and_has_its_guide_once_it_is_back() {
    let mut stage = stage().await;
    stage.new_patch().await;
    stage.wait_saved().await;
    stage.expect_failed_requests();
    stage.forget_what_was_loaded().await;
    stage.server.kill();
    stage.press("?").await;
    stage
        .wait_until(
            "it says so",
            "return document.querySelector('.help [role=alert]')?.innerText.includes('could not be loaded')",
        )
        .await;
    // the keys are there in any case
    stage.find(".groups dt").await;
    stage.press(Key::Escape).await;
    stage
        .wait_until(
            "closed",
            "return document.querySelector('.groups') === null",
        )
        .await;
    stage.restart_server();
    stage.press("?").await;
    stage.click("A bell").await;
    stage.find("[data-testid=guide]").await;
}

/// From the library to a sound and a changed value, without a pointer.
async fn a_sound_is_made_by_keyboard_alone() {
    let stage = stage().await;
    stage.open("/").await;
    stage.find("[aria-label='Patches']").await;
    let focused = "return document.activeElement?.textContent?.trim() ?? ''";
    // the library's region, then on to the button
    for _ in 0..40 {
        if stage.js(focused, vec![]).await == "New patch" {
            break;
        }
        stage.press(Key::Tab + "").await;
    }
    stage.press(Key::Enter + "").await;
    stage.find("[data-unit='1']").await;
    // F6 to the line to add, and in it to the text
    let label = "return document.activeElement?.getAttribute('aria-label') ?? ''";
    for _ in 0..8 {
        if stage
            .js(
                "return document.activeElement?.closest('.add') !== null",
                vec![],
            )
            .await
            == true
        {
            break;
        }
        stage.press("\u{e036}").await;
    }
    for _ in 0..8 {
        if stage.js(label, vec![]).await == "Strips as text" {
            break;
        }
        stage.press(Key::Tab + "").await;
    }
    stage.press("sine x3 > 1 2rad").await;
    stage.press(Key::Enter + "").await;
    stage
        .wait_until(
            "two strips",
            "return document.querySelectorAll('.row[data-unit]').length === 2",
        )
        .await;
    stage.press(Key::Escape + "").await;
    stage.press("2").await;
    // to its ratio, by name, and over it
    stage.chord(Key::Control, "k").await;
    stage
        .find("input[aria-label='Find, or type a strip']")
        .await;
    stage.press("operator 2 index").await;
    stage.press(Key::Escape + "").await;
    stage
        .wait_until("closed", "return document.querySelector('#found') === null")
        .await;
    stage.press("\u{e036}").await;
    for _ in 0..60 {
        if stage.js(label, vec![]).await == "Ratio" {
            break;
        }
        stage.press(Key::Tab + "").await;
    }
    stage.press("3.5").await;
    stage.press(Key::Enter + "").await;
    stage.wait_until("it is taken", "return document.querySelector('[role=spinbutton][aria-label=Ratio]').getAttribute('aria-valuetext') === '3.50 ×'").await;
    // and it sounds
    stage.press(" ").await;
    stage.wait_until("the note sounds", "return document.querySelector('[data-testid=voices]').textContent.trim() === '1 voice'").await;
}

async fn what_was_typed_in_about_survives_escape_and_hints_go_with_the_first_edit() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    stage.find("[data-testid=hints]").await;
    stage.look("hands-hints.png").await;
    stage.click("About & versions").await;
    let note = stage.find("#about-note").await;
    note.send_keys("Held notes below C3").await.unwrap();
    stage.press(Key::Escape + "").await;
    let closed = "return document.querySelector('[role=dialog]') === null";
    stage.wait_until("it is closed", closed).await;
    stage.click("About & versions").await;
    stage.click("Apply").await;
    assert_eq!(stage.saved(id).await.meta.note, "Held notes below C3");
    stage
        .wait_until(
            "the hints are gone",
            "return document.querySelector('[data-testid=hints]') === null",
        )
        .await;
    // applied, it is forgotten: what the patch says is shown
    stage.wait_until("it is closed", closed).await;
    stage.click("Undo").await;
    stage.click("About & versions").await;
    let value = "return document.querySelector('#about-note').value === ''";
    stage.wait_until("the patch's own note", value).await;
}
