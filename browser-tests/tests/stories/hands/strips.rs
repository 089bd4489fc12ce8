//! The screen does what the hand means: selecting, typing, adding, finding, copying.

use serde_json::Value;
use thirtyfour::prelude::*;
use zolvik_browser_tests::{Stage, in_turn, stage};
use zolvik_patch::document::{Bus, KindName, Send, UnitId};

in_turn! {
    hands_of_a_patch:
    strips_are_selected_by_keys_clicks_and_ranges_from_anywhere,
    a_number_is_typed_after_one_click_and_keeps_all_its_digits,
    strips_are_copied_as_text_into_another_patch,
    small_windows_and_long_names_break_nothing,
    a_filter_is_inserted_on_a_rail_and_the_index_stays,
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
    stage.look("hands-patch.png").await;
    // an edit of one of them is one of all
    stage.press("2").await;
    stage.chord(Key::Shift, "3").await;
    stage.set_value("Level", "-20").await;
    stage.set_value("Fine", "5").await;
    // what differs is shown as a range
    assert_eq!(stage.value("Ratio").await, "2.00 to 3.00 ×");
    stage.look("hands-two.png").await;
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
        stage.look(&format!("size-{width}.png")).await;
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
    stage.look("inserted.png").await;
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
