//! Little room, no pointer, a finger: everything is reached all the same.

use thirtyfour::prelude::*;
use zolvik_browser_tests::{Stage, in_turn, stage, stage_with};
use zolvik_patch::document::UnitId;

in_turn! {
    small_of_a_patch:
    the_right_button_or_a_long_press_says_what_can_be_done_to_a_strip,
    what_stands_in_a_title_reaches_the_keyboard,
    a_link_that_lost_its_route_is_told_and_made_anew,
}

/// Makes the page so many pixels wide and high, as a zoom of the browser does.
async fn zoomed(stage: &Stage, width: u32, height: u32) {
    stage
        .driver
        .set_window_rect(0, 0, width, height)
        .await
        .unwrap();
    let script = format!("return [innerWidth - {width}, innerHeight - {height}]");
    let off = stage.js(&script, vec![]).await;
    // what the window itself takes
    let [wide, high] = [0, 1].map(|i| off[i].as_i64().unwrap_or(0));
    let rect = (i64::from(width) - wide, i64::from(height) - high);
    stage
        .driver
        .set_window_rect(0, 0, rect.0 as u32, rect.1 as u32)
        .await
        .unwrap();
}

/// What is narrower than a finger or cannot be brought into the window, by its name; the page itself never scrolls sideways.
const OUT_OF_REACH: &str = "const faults = []; if (document.documentElement.scrollWidth > innerWidth) faults.push('the page is ' + document.documentElement.scrollWidth + ' px wide');\
    for (const one of document.querySelectorAll('main button, main [role=spinbutton], header button, header a, footer button, section[aria-label=Audition] button')) {\
      if (!one.checkVisibility({ visibilityProperty: true, opacityProperty: true }) || one.closest('[aria-hidden=true]')) continue;\
      const name = one.getAttribute('aria-label') ?? one.textContent.trim(); one.scrollIntoView({ block: 'center', inline: 'center' });\
      const box = one.getBoundingClientRect(); if (box.width === 0) continue;\
      if (box.width < 18 || box.height < 12) faults.push(`${name} is ${box.width} x ${box.height}`);\
      const [x, y] = [box.left + box.width / 2, box.top + box.height / 2];\
      if (x < 0 || y < 0 || x > innerWidth || y > innerHeight) faults.push(`${name} stays at ${x}, ${y}`);\
    } return faults";

#[tokio::test]
async fn at_a_zoom_of_200_percent_and_on_a_narrow_window_all_is_reached() {
    let stage = stage_with(true).await;
    let patches = stage.patches().await;
    let fern = patches.iter().find(|p| p["name"] == "Frost Fern").unwrap()["id"].clone();
    for (width, height) in [(640, 400), (320, 640)] {
        stage.open("/").await;
        zoomed(&stage, width, height).await;
        stage.find(".row.patch").await;
        let list = stage.js(OUT_OF_REACH, vec![]).await;
        assert_eq!(list, serde_json::json!([]), "library, {width} x {height}");
        for view in ["", "/move", "/finish"] {
            stage.open(&format!("/patch/{fern}{view}")).await;
            stage
                .find("[data-unit='1'], [data-source], [data-testid=chain-common]")
                .await;
            let faults = stage.js(OUT_OF_REACH, vec![]).await;
            assert_eq!(faults, serde_json::json!([]), "{view}, {width} x {height}");
        }
        // the inspector opens over the strips, and a value is typed there
        stage.open(&format!("/patch/{fern}")).await;
        stage
            .find("[data-unit='1'] .called")
            .await
            .click()
            .await
            .unwrap();
        stage.click("Inspector").await;
        stage.set_value("Ratio", &format!("{}", width / 100)).await;
        let patch = stage.saved(fern.as_i64().unwrap()).await;
        let ratio = patch.unit(UnitId(1)).unwrap().oscillator().unwrap().ratio;
        assert_eq!(ratio, f64::from(width / 100));
        stage.click("Inspector").await;
        // by its name it is gone to where the inspector is closed, too
        stage.chord(Key::Control, "k").await;
        stage.press("ratio").await;
        stage.find("#found [role=option]").await;
        stage.press(Key::Enter + "").await;
        let there = "return document.activeElement?.getAttribute('aria-label') === 'Ratio' && document.activeElement.checkVisibility()";
        stage.wait_until("the field has the focus", there).await;
    }
    zoomed(&stage, 1280, 800).await;
}

/// So long a finger rests that asks.
const LONG: std::time::Duration = std::time::Duration::from_millis(900);

async fn the_right_button_or_a_long_press_says_what_can_be_done_to_a_strip() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    let head = stage.find("[data-unit='1'] .called").await;
    let chain = stage.driver.action_chain();
    chain.context_click_element(&head).perform().await.unwrap();
    stage
        .find(".p-contextmenu [aria-label=Duplicate]")
        .await
        .click()
        .await
        .unwrap();
    stage.find("[data-unit='2']").await;
    // by the keyboard: the menu of what is selected
    stage.select(1, false).await;
    let list = stage.find(".list[role=grid]").await;
    list.focus().await.unwrap();
    // ChromeDriver's keys open no menus: what the menu key does is said to the list
    let menu_key = "document.querySelector('.list[role=grid]').dispatchEvent(new MouseEvent('contextmenu', { bubbles: true, cancelable: true, clientX: 300, clientY: 200 }))";
    stage.js(menu_key, vec![]).await;
    let inside = "return document.activeElement?.closest('.p-contextmenu') !== null";
    stage.wait_until("the menu has the focus", inside).await;
    stage.press(Key::Down + "").await;
    stage.press(Key::Down + "").await;
    stage.press(Key::Enter + "").await;
    let patch = stage.saved(id).await;
    assert!(!patch.unit(UnitId(1)).unwrap().on && patch.unit(UnitId(2)).unwrap().on);
    let back = "return document.activeElement?.getAttribute('role') === 'grid'";
    stage
        .wait_until("the focus is back in the list", back)
        .await;
    // a finger that rests asks, and is no click when it is lifted
    stage.finger("[data-unit='2'] .called", LONG).await;
    stage
        .find(".p-contextmenu [aria-label=Remove]")
        .await
        .click()
        .await
        .unwrap();
    let patch = stage.saved(id).await;
    assert_eq!(patch.units.len(), 1);
    // of a value it asks what moves it; one that is lifted at once types
    stage.select(1, false).await;
    let ratio = "[role=spinbutton][aria-label='Fine']";
    stage.finger(ratio, LONG).await;
    stage.find("[data-testid=field-menu]").await;
    tokio::time::sleep(std::time::Duration::from_millis(600)).await;
    let typing = "return document.querySelector(\"input[aria-label='Fine, typed']\") === null";
    assert_eq!(stage.js(typing, vec![]).await, true);
}

async fn what_stands_in_a_title_reaches_the_keyboard() {
    let stage = stage().await;
    stage.new_patch().await;
    stage.press(Key::Tab + "").await;
    let undo = "document.querySelector('[aria-label=\"All notes off\"]').focus()";
    stage.js(undo, vec![]).await;
    let tip = stage.find("[data-testid=tip]").await;
    assert_eq!(tip.text().await.unwrap(), "Let every note go at once");
    stage.press(Key::Tab + "").await;
    stage
        .wait_until(
            "it goes with the focus",
            "return document.querySelector('[data-testid=tip]')?.textContent !== 'Let every note go at once'",
        )
        .await;
}

async fn a_link_that_lost_its_route_is_told_and_made_anew() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    stage.add_operator(2).await;
    let index = stage.field("Index").await;
    index.focus().await.unwrap();
    stage.press("l").await;
    stage.find("[data-testid=field-menu]").await;
    stage.click("+ LFO").await;
    stage.press(Key::Escape + "").await;
    let patch = stage.saved(id).await;
    assert_eq!(patch.movement.sources[0].name, "Index LFO");
    // what it moved goes, and nothing takes its place
    let route = patch
        .routes
        .iter()
        .find(|r| r.from == UnitId(2))
        .unwrap()
        .id
        .0;
    let remove = "const doc = document.querySelector('#app').__vue_app__.config.globalProperties.$pinia._s.get('document'); doc.edit({ do: 'remove_route', route: arguments[0] })";
    stage.js(remove, vec![route.into()]).await;
    let lost = stage.find("[data-unit='2'] .warn-tag").await;
    assert_eq!(lost.text().await.unwrap(), "link lost");
    lost.click().await.unwrap();
    // in Move the list of values is open already
    let search = stage.find("input[aria-label='What it moves']").await;
    search.send_keys("operator 1 level").await.unwrap();
    search.send_keys(Key::Enter + "").await.unwrap();
    let patch = stage.saved(id).await;
    assert_eq!(patch.movement.links.len(), 1);
    let told = "return document.querySelector('.warn-tag') === null";
    stage.wait_until("nothing is lost any more", told).await;
}
