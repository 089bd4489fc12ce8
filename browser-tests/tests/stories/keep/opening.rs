//! Openings that are left, answers that come late, tabs that are closed, pages that are loaded again.

use super::losing::{new_patch, open, ratio, until_stored};
use std::time::{Duration, Instant};
use zolvik_browser_tests::{PATIENCE, Server, Stage, stage, stage_with};

/// Answers to reading patches come this much later from now on, in milliseconds, as listed by turns.
async fn delay_reading(stage: &Stage, turns_ms: &[u64]) {
    let script = "const real = window.fetch; const turns = arguments[0]; let n = 0;\
        window.fetch = async (path, options) => {\
          const answer = await real(path, options);\
          const reads = /patches\\/\\d+$/.test(String(path)) && (!options?.method || options.method === 'GET');\
          if (reads) await new Promise(done => setTimeout(done, turns[n++ % turns.length]));\
          return answer }";
    stage.js(script, vec![turns_ms.into()]).await;
}

/// Goes to an address as the page itself does, without loading it anew.
async fn go(stage: &Stage, path: &str) {
    let script = "document.querySelector('#app').__vue_app__.config.globalProperties.$router.push(arguments[0])";
    stage.js(script, vec![path.into()]).await;
    stage
        .wait_until(
            "the address",
            &format!("return location.pathname === '{path}'"),
        )
        .await;
}

#[tokio::test]
async fn an_opening_that_was_left_never_comes_back_over_another_patch() {
    let stage = stage_with(true).await;
    stage.open("/").await;
    stage.find(".row.patch").await;
    let list = stage.patches().await;
    let (first, heard) = (list[0]["id"].as_i64().unwrap(), &list[1]);
    let before = stage.stored(first).await;
    delay_reading(&stage, &[900, 0, 0, 0]).await;
    // open, at once back to the Library, hear another, edit whatever is there
    go(&stage, &format!("/patch/{first}")).await;
    tokio::time::sleep(Duration::from_millis(60)).await;
    go(&stage, "/").await;
    let name = heard["name"].as_str().unwrap();
    stage.click(&format!("Hear {name}")).await;
    tokio::time::sleep(Duration::from_millis(1300)).await;
    go(&stage, &format!("/patch/{first}")).await;
    stage
        .wait_until(
            "the first is open",
            &format!(
                "return document.querySelector('.title')?.textContent.includes('{}') ?? false",
                before.meta.name
            ),
        )
        .await;
    stage
        .find("[data-unit='1'] .head")
        .await
        .click()
        .await
        .unwrap();
    stage.set_value("Ratio", "7.25").await;
    until_stored(&stage, first, 7.25).await;
    let after = stage.stored(first).await;
    assert_eq!(
        (after.meta.name, after.units.len()),
        (before.meta.name, before.units.len())
    );
    let other = stage.stored(heard["id"].as_i64().unwrap()).await;
    assert_eq!(other.meta.name, name);
    assert_ne!(ratio(&other), 7.25);
}

#[tokio::test]
async fn fast_back_and_forward_ends_on_the_patch_in_the_address() {
    let stage = stage_with(true).await;
    stage.open("/").await;
    stage.find(".row.patch").await;
    let list = stage.patches().await;
    let ids: Vec<i64> = list
        .iter()
        .take(4)
        .map(|p| p["id"].as_i64().unwrap())
        .collect();
    for id in &ids {
        go(&stage, &format!("/patch/{id}")).await;
        stage.find("[data-unit='1']").await;
    }
    // answers overtake each other
    delay_reading(&stage, &[260, 20, 140, 0, 90]).await;
    for burst in 0..6 {
        // from the middle of a row of patches, so that no step leaves the page
        for at in [0, 1, 2, 3, 0, 1] {
            go(&stage, &format!("/patch/{}", ids[at])).await;
        }
        let script = "const steps = arguments[0]; steps.forEach((s, i) => setTimeout(() => history.go(s), i * 25))";
        let steps = match burst % 3 {
            0 => vec![-1, -1, -1, 1, 1],
            1 => vec![-1, 1, -1, 1, -1],
            _ => vec![-2, 1, -1, 1, -1],
        };
        stage.js(script, vec![steps.into()]).await;
        // until the browser has gone where it goes
        let mut path = stage.js("return location.pathname", vec![]).await;
        loop {
            tokio::time::sleep(Duration::from_millis(700)).await;
            let now = stage.js("return location.pathname", vec![]).await;
            if now == path {
                break;
            }
            path = now;
        }
        let said = stage
            .js(
                "return document.querySelector('.p-toast')?.textContent",
                vec![],
            )
            .await;
        let id = path
            .as_str()
            .and_then(|p| p.strip_prefix("/patch/")?.parse::<i64>().ok());
        let id = id.unwrap_or_else(|| panic!("burst {burst} ended at {path}: {said}"));
        let name = list.iter().find(|p| p["id"] == id).unwrap()["name"]
            .as_str()
            .unwrap();
        let open = format!(
            "return document.querySelector('.title')?.textContent.includes('{name}') ?? false"
        );
        stage
            .wait_until(&format!("burst {burst}: {name} is open"), &open)
            .await;
        // and an edit goes to it
        let wanted = 1.5 + f64::from(burst) / 4.0;
        stage
            .find("[data-unit='1'] .head")
            .await
            .click()
            .await
            .unwrap();
        stage.set_value("Ratio", &wanted.to_string()).await;
        until_stored(&stage, id, wanted).await;
        assert_eq!(stage.stored(id).await.meta.name, name);
    }
}

#[tokio::test]
async fn two_tabs_closed_while_offline_are_both_offered() {
    let mut stage = stage().await;
    stage.expect_failed_requests();
    let id = new_patch(&stage).await;
    let first = stage.driver.window().await.unwrap();
    let mut tabs = vec![];
    for _ in 0..2 {
        let tab = stage.driver.new_tab().await.unwrap();
        stage.driver.switch_to_window(tab.clone()).await.unwrap();
        open(&stage, id).await;
        tabs.push(tab);
    }
    stage.server.kill();
    for (tab, value) in tabs.into_iter().zip(["2.25", "3.25"]) {
        stage.driver.switch_to_window(tab).await.unwrap();
        stage.set_value("Ratio", value).await;
        stage.wait_until("it is kept", "return document.querySelector('[data-testid=save-state]').classList.contains('offline')").await;
        stage.driver.close_window().await.unwrap();
    }
    stage.driver.switch_to_window(first).await.unwrap();
    let port = stage.server.port;
    stage.server = Server::start(stage.data.path(), port, false);
    stage.open("/").await;
    stage
        .wait_until(
            "both are offered",
            "return document.querySelectorAll('[data-draft]').length === 2",
        )
        .await;
    stage.click("Restore").await;
    // whichever was kept first
    stage.wait_until("it is open", "return /^×[23].25/.test(document.querySelector(\"[data-unit='1'] .second b\")?.textContent ?? '')").await;
    let taken = match stage.value("Ratio").await.starts_with('2') {
        true => 2.25,
        false => 3.25,
    };
    let left = 5.5 - taken;
    until_stored(&stage, id, taken).await;
    stage.click("1 unsaved…").await;
    stage.click("Keep as a copy").await;
    let end = Instant::now() + PATIENCE;
    loop {
        let list = stage.patches().await;
        if list.len() == 2 {
            let copy = list.iter().find(|p| p["id"] != id).unwrap();
            assert_eq!(copy["name"], "Untitled (unsaved)");
            assert_eq!(
                ratio(&stage.stored(copy["id"].as_i64().unwrap()).await),
                left
            );
            break;
        }
        assert!(Instant::now() < end, "no copy was made");
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    assert_eq!(ratio(&stage.stored(id).await), taken);
}

#[tokio::test]
async fn edits_kept_by_an_earlier_version_are_offered() {
    let stage = stage().await;
    let id = new_patch(&stage).await;
    stage.wait_saved().await;
    let mut patch = stage.stored(id).await;
    patch.units[0].oscillator_mut().unwrap().ratio = 4.25;
    let kept = serde_json::json!({ "revision": 1, "text": zolvik_patch::json::write(&patch) });
    let keep = "localStorage.setItem(arguments[0], arguments[1])";
    stage
        .js(
            keep,
            vec![
                format!("zolvik-unsaved-{id}").into(),
                kept.to_string().into(),
            ],
        )
        .await;
    stage.open("/").await;
    stage
        .wait_until(
            "it is offered",
            "return document.querySelectorAll('[data-draft]').length === 1",
        )
        .await;
    stage.click("Restore").await;
    until_stored(&stage, id, 4.25).await;
}

#[tokio::test]
async fn loading_the_page_again_in_the_middle_of_a_drag_is_as_before_the_drag() {
    let stage = stage().await;
    let id = new_patch(&stage).await;
    let (x, y) = stage.middle("[role=spinbutton][aria-label='Fine']").await;
    let chain = stage.driver.action_chain().move_to(x, y).click_and_hold();
    chain
        .move_to(x + 20, y)
        .move_to(x + 40, y)
        .perform()
        .await
        .unwrap();
    let dragged = stage.value("Fine").await;
    assert_ne!(dragged, "0.0 ct");
    stage.driver.refresh().await.unwrap();
    stage
        .find("[data-unit='1'] .head")
        .await
        .click()
        .await
        .unwrap();
    stage.field("Fine").await;
    assert_eq!(stage.value("Fine").await, "0.0 ct");
    stage.wait_saved().await;
    let stored = stage.stored(id).await;
    assert_eq!(stored.units[0].oscillator().unwrap().detune_cents, 0.0);
}

#[tokio::test]
async fn a_fast_double_click_makes_one_patch() {
    let stage = stage().await;
    stage.open("/").await;
    let button = stage.control("New patch").await;
    let chain = stage.driver.action_chain().double_click_element(&button);
    chain.perform().await.unwrap();
    stage.find("[data-unit='1']").await;
    tokio::time::sleep(Duration::from_millis(400)).await;
    assert_eq!(stage.patches().await.len(), 1);
}
