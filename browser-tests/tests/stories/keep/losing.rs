//! What a clumsy user and a bad day do: delayed answers, a full disk, a full browser, another library, two tabs, reloading in the
//! middle of a drag. Nothing entered is lost, and the page says what happened.

use std::path::Path;
use std::process::Command;
use std::time::{Duration, Instant};

use zolvik_browser_tests::{PATIENCE, Server, Stage, stage, stage_before, stage_with};

/// Opens a patch and selects its first strip.
pub(crate) async fn open(stage: &Stage, id: i64) {
    stage.open(&format!("/patch/{id}")).await;
    stage
        .find("[data-unit='1'] .head")
        .await
        .click()
        .await
        .unwrap();
}

pub(crate) async fn new_patch(stage: &Stage) -> i64 {
    let id = stage.new_patch().await;
    stage
        .find("[data-unit='1'] .head")
        .await
        .click()
        .await
        .unwrap();
    id
}

pub(crate) fn ratio(patch: &zolvik_patch::Patch) -> f64 {
    patch.units[0].oscillator().unwrap().ratio
}

/// Waits until the store has a ratio for a patch.
pub(crate) async fn until_stored(stage: &Stage, id: i64, wanted: f64) {
    let end = Instant::now() + PATIENCE;
    while ratio(&stage.stored(id).await) != wanted {
        let said = "return [location.pathname, document.querySelector('[data-testid=save-state]')?.textContent, document.querySelector('[role=spinbutton][aria-label=Ratio]')?.getAttribute('aria-valuetext'), document.querySelector('.p-toast')?.textContent]";
        assert!(
            Instant::now() < end,
            "patch {id} has {}; the page says {}",
            ratio(&stage.stored(id).await),
            stage.js(said, vec![]).await
        );
        tokio::time::sleep(Duration::from_millis(80)).await;
    }
}

/// The layer that lets the server's disk fail; the tests of the server have it too.
fn layer(folder: &Path) -> std::path::PathBuf {
    let layer = folder.join("faults.so");
    let source = concat!(
        env!("CARGO_MANIFEST_DIR"),
        "/../crates/server/tests/served/server/faults.c"
    );
    let compiled = Command::new("cc")
        .args(["-shared", "-fPIC", "-O1", "-o"])
        .arg(&layer)
        .arg(source)
        .status();
    assert!(compiled.unwrap().success());
    layer
}

#[tokio::test]
async fn on_a_full_disk_the_page_says_so_keeps_the_edit_and_saves_it_once_there_is_room() {
    let tools = tempfile::tempdir().unwrap();
    let (layer, fault) = (layer(tools.path()), tools.path().join("fault"));
    let stage = stage_before(false, &[("LD_PRELOAD", &layer), ("ZOLVIK_FAULT", &fault)]).await;
    stage.expect_in_console("status of 507");
    // a small picture may be asked for meanwhile, and SQLite cannot open another reader then
    stage.expect_in_console("/picture?content=");
    let id = new_patch(&stage).await;
    std::fs::write(&fault, "full").unwrap();
    stage.set_value("Ratio", "3.5").await;
    stage.wait_until("it says why", "const s = document.querySelector('[data-testid=save-state]'); return s.textContent.includes('Not saved: the disk is full') && s.textContent.includes('Kept here')").await;
    assert_eq!(ratio(&stage.stored(id).await), 1.0);
    // going to the Library while it fails loses nothing, and is told there too
    stage.set_value("Ratio", "4.5").await;
    stage.click("Library").await;
    stage.wait_until("it is told in the Library", "return document.querySelector('[data-testid=left-state]')?.textContent.includes('Not saved yet: Untitled') ?? false").await;
    std::fs::remove_file(&fault).unwrap();
    until_stored(&stage, id, 4.5).await;
    stage
        .wait_until(
            "nothing waits",
            "return !document.querySelector('[data-testid=left-state]')",
        )
        .await;
}

#[tokio::test]
async fn a_large_patch_and_a_full_browser_are_saved_all_the_same() {
    let stage = stage().await;
    let id = new_patch(&stage).await;
    // the browser's small storage is full to the last character
    stage.js("let n = 1 << 20, i = 0; while (n > 0) { try { localStorage.setItem('x' + i++, 'y'.repeat(n)) } catch { n >>= 1 } }", vec![]).await;
    stage.set_value("Ratio", "2.5").await;
    until_stored(&stage, id, 2.5).await;
    stage.wait_saved().await;
    // eight full tables and a second state
    let mut patch = stage.stored(id).await;
    let full = zolvik_patch::wave::Points(vec![-12_345i16; 2 << 16].into());
    patch.tables = (1..=8)
        .map(|n| zolvik_patch::wave::OwnTable {
            id: zolvik_patch::wave::TableId(n),
            name: "Full".into(),
            harmonics: 512,
            cycles: full.clone(),
        })
        .collect();
    patch.other = Some(std::sync::Arc::new(patch.clone()));
    let file = stage.downloads.path().join("large.json");
    std::fs::write(&file, zolvik_patch::json::write(&patch)).unwrap();
    stage.click("Library").await;
    stage
        .find("[data-testid=import]")
        .await
        .send_keys(file.to_str().unwrap())
        .await
        .unwrap();
    stage
        .wait_until(
            "it is there",
            "return document.querySelectorAll('.row.patch').length === 2",
        )
        .await;
    let large = stage.patches().await[0]["id"].as_i64().unwrap();
    open(&stage, large).await;
    stage.set_value("Ratio", "6.5").await;
    until_stored(&stage, large, 6.5).await;
    assert_eq!(stage.stored(large).await.tables.len(), 8);
    // and with the server gone it is kept by the browser
    let mut stage = stage;
    stage.expect_failed_requests();
    stage.wait_saved().await;
    stage.server.kill();
    stage.set_value("Ratio", "9.5").await;
    stage.wait_until("it is kept", "const s = document.querySelector('[data-testid=save-state]'); return s.classList.contains('offline') && s.textContent.includes('Kept here')").await;
    tokio::time::sleep(Duration::from_millis(500)).await;
    stage.driver.goto("about:blank").await.unwrap();
    let port = stage.server.port;
    stage.server = Server::start(stage.data.path(), port, false);
    open(&stage, large).await;
    until_stored(&stage, large, 9.5).await;
}

#[tokio::test]
async fn another_library_on_the_same_port_is_never_written_by_a_page_of_this_one() {
    let mut stage = stage().await;
    stage.expect_failed_requests();
    let id = new_patch(&stage).await;
    let other = tempfile::tempdir().unwrap();
    let port = stage.server.port;
    stage.server.kill();
    stage.set_value("Ratio", "5.5").await;
    stage.server = Server::start(other.path(), port, false);
    let client = reqwest::Client::new();
    let made = client
        .post(format!("{}/api/patches", stage.server.address))
        .header("content-type", "application/json")
        .body("{}")
        .send()
        .await
        .unwrap();
    assert!(made.status().is_success());
    stage.wait_until("it is told", "return document.querySelector('[data-testid=save-state]').textContent.includes('another library')").await;
    assert_eq!(
        ratio(&stage.stored(id).await),
        1.0,
        "the other library's patch of the same number"
    );
    // loading the page again shows the other library, and its patch as it is stored
    open(&stage, id).await;
    tokio::time::sleep(Duration::from_millis(700)).await;
    assert_eq!(ratio(&stage.stored(id).await), 1.0);
    // back on the first library the edit is found and saved, from the Library view
    stage.server.kill();
    stage.server = Server::start(stage.data.path(), port, false);
    stage.open("/").await;
    until_stored(&stage, id, 5.5).await;
}

#[tokio::test]
async fn a_damaged_patch_is_shown_as_damaged_and_can_be_exported_as_it_is() {
    let stage = stage_with(true).await;
    stage.run_sql("UPDATE patches SET document = '{broken' WHERE name = 'Root Cellar'");
    stage.open("/").await;
    stage.wait_until("it is marked", "return document.querySelector(\"[aria-label='Root Cellar']\")?.textContent.includes('Damaged') ?? false").await;
    assert_eq!(
        stage
            .js(
                "return document.querySelectorAll('.row.patch').length",
                vec![]
            )
            .await,
        27
    );
    stage.click("Export Root Cellar").await;
    let file = stage.download("txt").await;
    assert_eq!(std::fs::read_to_string(file).unwrap(), "{broken");
    stage.click("Move Root Cellar to the bin").await;
    stage
        .wait_until(
            "it is gone",
            "return document.querySelectorAll('.row.patch').length === 26",
        )
        .await;
    stage.click("Bin").await;
    stage.find("[aria-label='Root Cellar']").await;
    stage.click("Empty the bin").await;
    stage.click("Delete for good").await;
    stage
        .wait_until(
            "it is empty",
            "return document.querySelector('.empty') !== null",
        )
        .await;
    assert_eq!(stage.patches().await.len(), 26);
}

/// A state the server refuses is kept as it is, in the browser and beside the good one, and its nearest valid one can be opened: at once, and in
/// another browser.
#[tokio::test]
async fn a_state_that_cannot_be_saved_is_kept_beside_and_its_nearest_valid_one_offered() {
    let stage = stage().await;
    stage.expect_failed_requests();
    let id = new_patch(&stage).await;
    stage.set_value("Ratio", "3").await;
    until_stored(&stage, id, 3.0).await;
    // what is sent from now on has a value no patch may have: a fault of the page
    let script = "const real = window.fetch; window.fetch = (path, options) => {\
        if (options?.method !== 'PUT') return real(path, options);\
        const body = JSON.parse(options.body);\
        const broken = JSON.parse(body.document); broken.units[0].velocity = 1e9;\
        return real(path, { ...options, body: JSON.stringify({ ...body, document: JSON.stringify(broken) }) }) }";
    stage.js(script, vec![]).await;
    stage.set_value("Ratio", "5").await;
    let told = "return document.querySelector('[role=dialog] [data-draft] .why')?.textContent.includes('Cannot be saved') ?? false";
    stage
        .wait_until("it says that it cannot be saved", told)
        .await;
    assert_eq!(ratio(&stage.stored(id).await), 3.0, "the good one is there");
    // another browser, without that fault
    stage
        .js("localStorage.clear(); sessionStorage.clear()", vec![])
        .await;
    stage.open(&format!("/patch/{id}")).await;
    stage.wait_until("it is offered there too", told).await;
    stage.click("Open the nearest valid").await;
    let left_out = "return document.querySelector('.p-toast')?.textContent.includes('units[0].velocity') ?? false";
    stage
        .wait_until("what was left out is told", left_out)
        .await;
    until_stored(&stage, id, 5.0).await;
    let level = stage.stored(id).await.units[0].velocity;
    assert!(level <= 1.0, "{level}");
    // it is one step, and offered no more; what the first window kept when it was left is still there to be decided on
    stage.open(&format!("/patch/{id}")).await;
    stage.click("Discard").await;
    stage.select(1, false).await;
    assert_eq!(stage.value("Ratio").await, "5.00 ×");
    stage.click("Undo").await;
    assert_eq!(stage.value("Ratio").await, "3.00 ×");
    assert_eq!(
        stage
            .js("return document.querySelector('[data-draft]')", vec![])
            .await,
        serde_json::Value::Null
    );
}
