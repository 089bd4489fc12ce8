//! Nothing entered is lost: server gone, two windows, versions, bin, files.

use zolvik_browser_tests::{Server, Stage, stage, stage_with};

use crate::keep::losing::until_stored;

async fn open_new(stage: &Stage) -> i64 {
    stage.open("/").await;
    stage.click("New patch").await;
    stage
        .find("[data-unit='1'] .head")
        .await
        .click()
        .await
        .unwrap();
    stage.patches().await[0]["id"].as_i64().unwrap()
}

#[tokio::test]
async fn with_the_server_gone_edits_are_kept_and_saved_when_it_returns() {
    let mut stage = stage().await;
    stage.expect_failed_requests();
    let id = open_new(&stage).await;
    stage.server.kill();
    stage.set_value("Ratio", "7.07").await;
    stage.wait_until("the page says so", "return document.querySelector('[data-testid=save-state]').classList.contains('offline')").await;
    let (x, y) = stage.middle(".board [data-key='60']").await;
    stage
        .driver
        .action_chain()
        .move_to(x, y)
        .click_and_hold()
        .perform()
        .await
        .unwrap();
    stage
        .wait_until(
            "it still plays",
            "return document.querySelector('[data-testid=voices]').textContent.includes('1 voice')",
        )
        .await;
    stage
        .driver
        .action_chain()
        .release()
        .perform()
        .await
        .unwrap();
    stage.set_value("Offset", "0.4 Hz").await;
    let port = stage.server.port;
    stage.server = Server::start(stage.data.path(), port, false);
    stage.wait_saved().await;
    let tuning = stage.stored(id).await.units[0]
        .oscillator()
        .unwrap()
        .clone();
    assert_eq!((tuning.ratio, tuning.offset_hz), (7.07, 0.4));
}

#[tokio::test]
async fn two_windows_on_one_patch_lose_nothing() {
    let stage = stage().await;
    stage.expect_in_console("status of 409");
    let id = open_new(&stage).await;
    let first = stage.driver.window().await.unwrap();
    let second = stage.driver.new_tab().await.unwrap();
    stage.driver.switch_to_window(second).await.unwrap();
    stage.open(&format!("/patch/{id}")).await;
    stage
        .find("[data-unit='1'] .head")
        .await
        .click()
        .await
        .unwrap();
    stage.set_value("Ratio", "2").await;
    stage.wait_until("a save begins", "return document.querySelector('[role=spinbutton][aria-label=Ratio]').getAttribute('aria-valuetext') === '2.00 ×'").await;
    tokio::time::sleep(std::time::Duration::from_millis(500)).await;
    stage.wait_saved().await;
    stage.driver.switch_to_window(first).await.unwrap();
    stage.set_value("Ratio", "5").await;
    stage
        .wait_until("it is told", "return document.querySelector('[role=dialog]')?.textContent.includes('another window') ?? false")
        .await;
    stage.click("Keep both").await;
    stage.wait_until("the copy is open", "return document.querySelector('.title')?.textContent.includes('(mine)') && !document.querySelector('[role=dialog]')").await;
    let list = stage.patches().await;
    assert_eq!(list.len(), 2);
    assert_eq!(
        stage.stored(id).await.units[0].oscillator().unwrap().ratio,
        2.0
    );
    let other = list.iter().find(|p| p["id"] != id).unwrap()["id"]
        .as_i64()
        .unwrap();
    assert_eq!(
        stage.stored(other).await.units[0]
            .oscillator()
            .unwrap()
            .ratio,
        5.0
    );
}

#[tokio::test]
async fn a_version_is_kept_and_brought_back() {
    let stage = stage().await;
    let id = open_new(&stage).await;
    stage.set_value("Ratio", "3").await;
    stage.click("About & versions").await;
    stage
        .find("input[aria-label='Name of the version']")
        .await
        .send_keys("three")
        .await
        .unwrap();
    stage.click("Keep version").await;
    stage.wait_until("it is listed", "return [...document.querySelectorAll('[role=dialog] li')].some(l => l.textContent.includes('three'))").await;
    stage
        .find("[aria-label=Close]")
        .await
        .click()
        .await
        .unwrap();
    stage
        .wait_until(
            "the dialog is gone",
            "return !document.querySelector('[role=dialog]')",
        )
        .await;
    stage
        .find("[data-unit='1'] .second")
        .await
        .click()
        .await
        .unwrap();
    stage.set_value("Ratio", "9").await;
    stage.click("About & versions").await;
    stage.click("Bring back").await;
    stage.wait_until("the strip shows it", "return document.querySelector(\"[data-unit='1'] .second b\")?.textContent.startsWith('×3')").await;
    tokio::time::sleep(std::time::Duration::from_millis(500)).await;
    stage.wait_saved().await;
    assert_eq!(
        stage.stored(id).await.units[0].oscillator().unwrap().ratio,
        3.0
    );
    // bringing back is an edit like any other
    stage.click("Undo").await;
    stage.wait_until("the strip is as before", "return document.querySelector(\"[data-unit='1'] .second b\")?.textContent.startsWith('×9')").await;
}

#[tokio::test]
async fn the_library_searches_bins_restores_exports_and_imports() {
    let stage = stage_with(true).await;
    stage.expect_in_console("status of 422");
    stage.open("/").await;
    stage
        .find("input[type=search]")
        .await
        .send_keys("pad drift")
        .await
        .unwrap();
    stage
        .wait_until(
            "one is found",
            "return document.querySelectorAll('.row.patch').length === 1",
        )
        .await;
    stage.click("Export Pollen Drift").await;
    let file = stage.download("json").await;
    let exported = zolvik_patch::json::read(&std::fs::read_to_string(&file).unwrap()).unwrap();
    assert_eq!(exported.meta.name, "Pollen Drift");
    stage.click("Move Pollen Drift to the bin").await;
    stage
        .wait_until(
            "it is gone",
            "return document.querySelectorAll('.row.patch').length === 0",
        )
        .await;
    stage.click("Bin").await;
    stage.click("Restore").await;
    stage
        .wait_until(
            "the bin is empty",
            "return document.querySelector('.empty') !== null",
        )
        .await;
    stage.click("Back to the library").await;
    stage
        .wait_until(
            "it is back",
            "return document.querySelectorAll('.row.patch').length === 1",
        )
        .await;
    stage
        .find("[data-testid=import]")
        .await
        .send_keys(file.to_str().unwrap())
        .await
        .unwrap();
    stage
        .wait_until(
            "there are two",
            "return document.querySelectorAll('.row.patch').length === 2",
        )
        .await;
    // a broken file: named path, nothing changed
    let broken = stage.downloads.path().join("broken.json");
    std::fs::write(
        &broken,
        std::fs::read_to_string(&file)
            .unwrap()
            .replacen("\"ratio\": 2.0", "\"ratio\": -2.0", 1),
    )
    .unwrap();
    stage
        .find("[data-testid=import]")
        .await
        .send_keys(broken.to_str().unwrap())
        .await
        .unwrap();
    stage.wait_until("the path is named", "return [...document.querySelectorAll('.p-toast-detail')].some(d => d.textContent.includes('units[0].kind.operator.ratio'))").await;
    assert_eq!(stage.patches().await.len(), 28);
}

#[tokio::test]
async fn an_edit_survives_closing_the_page_before_it_was_saved() {
    let mut stage = stage().await;
    stage.expect_failed_requests();
    let id = open_new(&stage).await;
    stage.server.kill();
    stage.set_value("Ratio", "6.5").await;
    stage.wait_until("it stands", "return document.querySelector('[role=spinbutton][aria-label=Ratio]').getAttribute('aria-valuetext') === '6.50 ×'").await;
    stage.driver.goto("about:blank").await.unwrap();
    let port = stage.server.port;
    stage.server = Server::start(stage.data.path(), port, false);
    assert_eq!(
        stage.stored(id).await.units[0].oscillator().unwrap().ratio,
        1.0,
        "the server never had it"
    );
    stage.open(&format!("/patch/{id}")).await;
    stage.wait_until("the page has it", "return document.querySelector(\"[data-unit='1'] .second b\")?.textContent.startsWith('×6.5')").await;
    stage
        .wait_until(
            "it is being saved",
            "return document.querySelector('[data-testid=save-state]') !== null",
        )
        .await;
    stage
        .until("it is saved", async || {
            stage.stored(id).await.units[0].oscillator().unwrap().ratio == 6.5
        })
        .await;
}

#[tokio::test]
async fn what_can_be_undone_survives_loading_again_a_restart_and_another_browser() {
    let mut stage = stage().await;
    let id = open_new(&stage).await;
    for ratio in ["3", "5", "7"] {
        stage.set_value("Ratio", ratio).await;
    }
    // at once: a step that is taken back before it was sent is kept all the same
    stage.click("Undo").await;
    // what is told as saved may still be the state of before
    until_stored(&stage, id, 5.0).await;
    stage.saved(id).await;
    stage.server.kill();
    let port = stage.server.port;
    stage.server = Server::start(stage.data.path(), port, false);
    // another browser has nothing of ours
    stage
        .js("localStorage.clear(); sessionStorage.clear()", vec![])
        .await;
    let open = async |stage: &Stage| {
        stage.open(&format!("/patch/{id}")).await;
        stage.select(1, false).await;
    };
    let is = async |stage: &Stage, ratio: &str| {
        let shown = format!(
            "return document.querySelector('[role=spinbutton][aria-label=Ratio]')?.getAttribute('aria-valuetext') === '{ratio}.00 ×'"
        );
        stage.wait_until(ratio, &shown).await;
    };
    open(&stage).await;
    is(&stage, "5").await;
    for (button, ratio) in [
        ("Undo", "3"),
        ("Undo", "1"),
        ("Redo", "3"),
        ("Redo", "5"),
        ("Redo", "7"),
    ] {
        stage.click(button).await;
        is(&stage, ratio).await;
    }
    until_stored(&stage, id, 7.0).await;
    let mut patch = stage.saved(id).await;
    // another program saves: what there was before is one step back, and all the rest behind it
    if let zolvik_patch::document::UnitKind::Operator(operator) = &mut patch.units[0].kind {
        operator.ratio = 9.0;
    }
    let url = format!("http://127.0.0.1:{port}/api/patches/{id}");
    let now: serde_json::Value = reqwest::get(&url).await.unwrap().json().await.unwrap();
    let body = serde_json::json!({ "revision": now["summary"]["revision"], "document": zolvik_patch::json::write(&patch) });
    let saved = reqwest::Client::new()
        .put(&url)
        .json(&body)
        .send()
        .await
        .unwrap();
    assert!(saved.status().is_success());
    open(&stage).await;
    is(&stage, "9").await;
    for ratio in ["7", "5", "3"] {
        stage.click("Undo").await;
        is(&stage, ratio).await;
    }
    stage.set_value("Ratio", "4").await;
    until_stored(&stage, id, 4.0).await;
    stage.saved(id).await;
    open(&stage).await;
    stage.click("Undo").await;
    is(&stage, "3").await;
}
