//! The screen does what the hand means: selecting, typing, adding, finding, copying.

use serde_json::Value;
use std::path::PathBuf;
use thirtyfour::prelude::*;
use zolvik_browser_tests::{Stage, in_turn, stage, stage_with};
use zolvik_patch::document::{Bus, KindName, Send, UnitId};

in_turn! {
    hands_of_a_patch:
    strips_are_selected_by_keys_clicks_and_ranges_from_anywhere,
    a_number_is_typed_after_one_click_and_keeps_all_its_digits,
    strips_are_copied_as_text_into_another_patch,
    small_windows_and_long_names_break_nothing,
    a_filter_is_inserted_on_a_rail_and_the_index_stays,
    a_sound_is_made_by_keyboard_alone,
    what_was_typed_in_about_survives_escape_and_hints_go_with_the_first_edit,
}

async fn look(stage: &Stage, name: &str) {
    if let Ok(folder) = std::env::var("ZOLVIK_LOOK") {
        stage.picture(&PathBuf::from(folder).join(name)).await;
    }
}

/// Numbers of the selected strips, in the order of the screen.
async fn selected(stage: &Stage) -> Vec<u64> {
    let script = "return [...document.querySelectorAll('.row[aria-selected=true]')].map(r => Number(r.dataset.unit)).sort()";
    let list = stage.js(script, vec![]).await;
    list.as_array()
        .unwrap()
        .iter()
        .filter_map(Value::as_u64)
        .collect()
}

async fn type_line(stage: &Stage, text: &str) {
    let input = stage.find("input[aria-label='Strips as text']").await;
    input.send_keys(text).await.unwrap();
    input.send_keys(Key::Enter + "").await.unwrap();
    input.send_keys(Key::Escape + "").await.unwrap();
}

async fn strips_are_selected_by_keys_clicks_and_ranges_from_anywhere() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    type_line(&stage, "saw x2 -14dB 30L; saw x3 -14dB 30R; noise -40").await;
    assert_eq!(
        selected(&stage).await,
        [2, 3, 4],
        "what is new is selected, and nothing else"
    );
    stage.press("2").await;
    assert_eq!(selected(&stage).await, [2]);
    stage.chord(Key::Shift, "3").await;
    assert_eq!(selected(&stage).await, [2, 3]);
    stage.chord(Key::Control, "a").await;
    assert_eq!(selected(&stage).await, [1, 2, 3, 4]);
    stage.press(Key::Escape + "").await;
    assert!(selected(&stage).await.is_empty());
    // a click, then a range
    stage.select(1, false).await;
    stage.select(3, true).await;
    assert_eq!(selected(&stage).await, [1, 2, 3]);
    // the output is a place
    stage.select_patch().await;
    assert!(selected(&stage).await.is_empty());
    stage.find("[aria-label=Polyphony]").await;
    look(&stage, "hands-patch.png").await;
    // an edit of one of them is one of all
    stage.press("2").await;
    stage.chord(Key::Shift, "3").await;
    stage.set_value("Level", "-20").await;
    stage.set_value("Fine", "5").await;
    // what differs is shown as a range
    assert_eq!(stage.value("Ratio").await, "2.00 to 3.00 ×");
    look(&stage, "hands-two.png").await;
    let patch = stage.saved(id).await;
    for unit in [2, 3] {
        let level = patch.sends(UnitId(unit)).next().unwrap().send.strength();
        assert!((level - 0.1).abs() < 1e-6, "{level}");
        assert_eq!(
            patch
                .unit(UnitId(unit))
                .unwrap()
                .oscillator()
                .unwrap()
                .detune_cents,
            5.0
        );
    }
    stage.press(Key::Delete + "").await;
    let left: Vec<u16> = stage.saved(id).await.units.iter().map(|u| u.id.0).collect();
    assert_eq!(
        left,
        [1, 2, 3, 4],
        "Delete on a value is its default, and takes no strip away"
    );
}

async fn a_number_is_typed_after_one_click_and_keeps_all_its_digits() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    stage.select(1, false).await;
    let (x, y) = stage
        .middle("[role=spinbutton][aria-label=Ratio] .value")
        .await;
    stage
        .driver
        .action_chain()
        .move_to(x, y)
        .click()
        .perform()
        .await
        .unwrap();
    let input = stage.find("input[aria-label='Ratio, typed']").await;
    let marked =
        "const i = document.activeElement; return i.value.slice(i.selectionStart, i.selectionEnd)";
    assert_eq!(stage.js(marked, vec![]).await, Value::from("1 ×"));
    input.send_keys("2.9996").await.unwrap();
    input.send_keys(Key::Enter + "").await.unwrap();
    assert_eq!(stage.value("Ratio").await, "2.9996 ×");
    // looked at and left, it stays what it is
    stage.set_value("Ratio", "sqrt(2)").await;
    let exact = 2f64.sqrt();
    let field = stage.field("Ratio").await;
    field.send_keys(Key::Enter + "").await.unwrap();
    let input = stage.find("input[aria-label='Ratio, typed']").await;
    assert!(
        input
            .value()
            .await
            .unwrap()
            .unwrap()
            .starts_with("1.414213562")
    );
    stage
        .driver
        .action_chain()
        .move_to(640, 300)
        .click()
        .perform()
        .await
        .unwrap();
    let ratio = |patch: &zolvik_patch::Patch| patch.units[0].oscillator().unwrap().ratio;
    assert!((ratio(&stage.saved(id).await) - exact).abs() < 1e-12);
    // letters begin typing on a value gone to: a note, not a sound
    stage.field("Note").await.focus().await.unwrap();
    stage
        .driver
        .action_chain()
        .send_keys("c")
        .perform()
        .await
        .unwrap();
    let input = stage.find("input[aria-label='Note, typed']").await;
    assert_eq!(input.value().await.unwrap().unwrap(), "c");
    input.send_keys("4").await.unwrap();
    input.send_keys(Key::Enter + "").await.unwrap();
    assert_eq!(stage.value("Note").await, "C4");
    // units people say
    stage.select(1, false).await;
    stage.set_value("Ratio", "12 st").await;
    assert_eq!(stage.value("Ratio").await, "2.00 ×");
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
    look(&stage, "find.png").await;
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
    look(&stage, "find-line.png").await;
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
    look(&stage, "help.png").await;
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
    look(&stage, "guide.png").await;
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

async fn strips_are_copied_as_text_into_another_patch() {
    let stage = stage().await;
    stage.new_patch().await;
    type_line(&stage, "2: sine x3.5 > 1 1.2rad").await;
    stage.press("1").await;
    stage.chord(Key::Shift, "2").await;
    stage.chord(Key::Control, "c").await;
    let id = stage.new_patch().await;
    stage.chord(Key::Control, "v").await;
    stage
        .wait_until(
            "both are there",
            "return document.querySelectorAll('.row[data-unit]').length === 3",
        )
        .await;
    let patch = stage.saved(id).await;
    let to = UnitId(2);
    let sends: Vec<Send> = patch.sends(UnitId(3)).map(|r| r.send.clone()).collect();
    assert_eq!(
        sends,
        [Send::Phase { to, index_rad: 1.2 }],
        "copies feed copies"
    );
    let (level_db, pan, bus) = (-12.0, 0.0, Bus::Main);
    assert_eq!(
        patch.sends(UnitId(2)).next().unwrap().send,
        Send::Output { level_db, pan, bus }
    );
    assert_eq!(patch.units[1].kind.name(), KindName::Operator);
}

/// At every size everything is reached: nothing sticks out sideways, and long names end in an ellipsis.
async fn small_windows_and_long_names_break_nothing() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    let long = "An eighty letters long name that goes on and on until it really is at its end, so";
    let name: String = long.chars().take(40).collect();
    type_line(
        &stage,
        &format!("saw x2 \"{name}\"; low 800Hz; noise; sine > 1 2rad; sine > 2; sine > 3 40%"),
    )
    .await;
    stage.click("Patch name: Untitled. Rename").await;
    let input = stage.find("input[aria-label='Patch name']").await;
    input.send_keys(Key::Control + "a").await.unwrap();
    input.send_keys(&long[..80]).await.unwrap();
    input.send_keys(Key::Enter + "").await.unwrap();
    stage.press("2").await;
    for (width, height) in [
        (1280, 800),
        (1366, 650),
        (1024, 700),
        (800, 600),
        (640, 400),
        (1920, 1080),
    ] {
        stage
            .driver
            .set_window_rect(0, 0, width, height)
            .await
            .unwrap();
        stage
            .wait_until(
                "it is laid out",
                "return document.querySelector('.row') !== null",
            )
            .await;
        look(&stage, &format!("size-{width}.png")).await;
        let wide = "const r = document.documentElement; return r.scrollWidth - r.clientWidth";
        assert_eq!(stage.js(wide, vec![]).await, Value::from(0), "{width}");
        let out = "const out = []; for (const e of document.querySelectorAll('button, input, [role=spinbutton]')) { const b = e.getBoundingClientRect(); if (b.width && b.right > innerWidth + 1 && !e.closest('.add, .bottom, .tools, .output') && !(innerWidth < 1000 && e.closest('.audition'))) out.push(e.outerHTML.slice(0, 120)) } return out";
        let out = stage.js(out, vec![]).await;
        assert_eq!(out, Value::Array(vec![]), "{width} x {height}");
    }
    assert_eq!(stage.saved(id).await.meta.name.len(), 80);
}

async fn a_filter_is_inserted_on_a_rail_and_the_index_stays() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    type_line(&stage, "sine x2 > 1 1.7rad").await;
    // pointed at, the key opens what can stand there
    let script = "const p = document.querySelector('.grip[data-route=\"2\"]'); const m = p.getPointAtLength(p.getTotalLength() / 2); const b = p.ownerSVGElement.getBoundingClientRect(); return [b.left + m.x, b.top + m.y]";
    let place = stage.js(script, vec![]).await;
    let number = |i: usize| place[i].as_f64().unwrap() as i64;
    stage
        .driver
        .action_chain()
        .move_to(number(0), number(1))
        .perform()
        .await
        .unwrap();
    stage.press("i").await;
    stage.click("Insert filter here").await;
    stage
        .wait_until(
            "three strips",
            "return document.querySelectorAll('.row[data-unit]').length === 3",
        )
        .await;
    let patch = stage.saved(id).await;
    let index_rad = 1.7;
    let to = UnitId(1);
    assert_eq!(
        patch.sends(UnitId(3)).next().unwrap().send,
        Send::Phase { to, index_rad }
    );
    assert_eq!(patch.sends(UnitId(2)).count(), 1);
    look(&stage, "inserted.png").await;
    // and by keyboard alone, from the send; a menu has the keys until it is gone
    stage
        .wait_until(
            "the menu to go",
            "return !document.querySelector('[role=menu]')",
        )
        .await;
    stage.press("1").await;
    stage.click("Route to Output: Chain one. Change").await;
    stage.click("Insert level here").await;
    stage
        .wait_until(
            "four strips",
            "return document.querySelectorAll('.row[data-unit]').length === 4",
        )
        .await;
    // a number that is no strip is refused where it was typed, and nothing is added
    let input = stage.find("input[aria-label='Strips as text']").await;
    input.send_keys("saw > 99").await.unwrap();
    input.send_keys(Key::Enter + "").await.unwrap();
    stage
        .wait_until(
            "it says why",
            "return document.querySelector('.add .wrong .said')?.textContent.includes('99')",
        )
        .await;
    input.send_keys(Key::Escape + "").await.unwrap();
    assert_eq!(stage.saved(id).await.units.len(), 4);
    // a file says what is muted, and can be saved as it is heard
    stage.click("Mute Operator 2").await;
    stage.click("Render").await;
    let told = stage.find("[data-testid=muted-now]").await;
    stage.wait_until("it says what is muted", "return document.querySelector('[data-testid=muted-now]').textContent.includes('as it is heard now')").await;
    told.find(By::Css("input"))
        .await
        .unwrap()
        .click()
        .await
        .unwrap();
    stage.click("Save WAV").await;
    let bytes = std::fs::read(stage.download("wav").await).unwrap();
    let data = bytes.windows(4).position(|w| w == b"data").unwrap() + 8;
    // 24 bit, two channels, behind their head: a sine alone, since what moved it is left out
    let left = bytes[data..]
        .chunks_exact(6)
        .map(|f| i32::from_le_bytes([0, f[0], f[1], f[2]]) as f32 / 2f32.powi(31));
    let left: Vec<f32> = left.skip(4_800).take(48_000).collect();
    let at = |n: f64| crate::measure::amplitude(&left, 48_000.0, 220.0 * n);
    assert!(
        at(1.0) > 0.01 && at(3.0) < 1e-3 * at(1.0),
        "{} {}",
        at(1.0),
        at(3.0)
    );
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
    look(&stage, "hands-hints.png").await;
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
