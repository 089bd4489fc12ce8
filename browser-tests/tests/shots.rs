//! The pictures in docs/screenshots, from the demo collection. Run by `cargo xtask shots`.

use std::path::PathBuf;

use zolvik_browser_tests::{Stage, stage_with};

async fn settled(stage: &Stage) {
    // what was clicked last has its effect
    tokio::time::sleep(std::time::Duration::from_millis(200)).await;
    stage
        .wait_until(
            "the fine picture",
            "return document.querySelector('.score')?.dataset.exact === 'true'",
        )
        .await;
    tokio::time::sleep(std::time::Duration::from_millis(300)).await;
}

async fn open_patch(stage: &Stage, name: &str) {
    stage.open("/").await;
    let row = stage
        .find(&format!("[role=row][aria-label='{name}'] .acts .btn"))
        .await;
    row.click().await.expect("open");
    settled(stage).await;
}

#[tokio::test]
#[ignore = "makes pictures; run by cargo xtask shots"]
async fn pictures_of_the_main_views() {
    let Ok(folder) = std::env::var("ZOLVIK_SHOTS") else {
        return;
    };
    let folder = PathBuf::from(folder);
    std::fs::create_dir_all(&folder).expect("the folder");
    let stage = stage_with(true).await;
    stage.open("/").await;
    stage.find("[role=row][aria-label='Frost Fern']").await;
    stage
        .wait_until(
            "pictures",
            "return document.querySelectorAll('.picture').length >= 4",
        )
        .await;
    // each is drawn by the server when it is first asked for
    stage
        .wait_until(
            "all in sight",
            "return [...document.querySelectorAll('.picture')].filter(p => { const box = p.getBoundingClientRect(); return document.elementFromPoint(box.x + 5, box.y + 5) === p })\
                .every(p => getComputedStyle(p).maskImage !== 'none')",
        )
        .await;
    tokio::time::sleep(std::time::Duration::from_millis(300)).await;
    stage.picture(&folder.join("library.png")).await;
    open_patch(&stage, "Frost Fern").await;
    stage
        .find("[data-unit='3'] .head")
        .await
        .click()
        .await
        .expect("select");
    settled(&stage).await;
    stage.picture(&folder.join("build.png")).await;
    stage.click("Algorithms").await;
    stage
        .js("document.querySelectorAll('.choice')[40].click()", vec![])
        .await;
    settled(&stage).await;
    stage.picture(&folder.join("algorithms.png")).await;
    stage.click("Cancel").await;
    open_patch(&stage, "Fern Organ").await;
    stage.select(1, false).await;
    settled(&stage).await;
    stage.click("Draw the harmonics").await;
    stage
        .at_rest("svg[aria-label='Amplitudes of the harmonics']")
        .await;
    stage.picture(&folder.join("harmonics.png")).await;
    open_patch(&stage, "Night Rain").await;
    stage.select(1, false).await;
    settled(&stage).await;
    stage
        .js(
            "document.querySelector('[data-testid=envelope]').scrollIntoView()",
            vec![],
        )
        .await;
    stage.picture(&folder.join("envelope.png")).await;
    open_patch(&stage, "Cellar Growl").await;
    stage.select(4, false).await;
    settled(&stage).await;
    stage.find("[data-testid=response]").await;
    stage.picture(&folder.join("filter.png")).await;
    open_patch(&stage, "Glasshouse Air").await;
    stage.select(3, false).await;
    settled(&stage).await;
    stage.find("[data-testid=waveform]").await;
    stage.picture(&folder.join("sample.png")).await;
    open_patch(&stage, "Lantern Bowl").await;
    settled(&stage).await;
    stage.click("Partials explained").await;
    stage.find("[data-testid=partials] tbody tr").await;
    tokio::time::sleep(std::time::Duration::from_millis(400)).await;
    stage.picture(&folder.join("why.png")).await;
    open_patch(&stage, "Gate Opens").await;
    stage.click("Move").await;
    stage.find("[data-source='1001']").await;
    stage.click("Linear time").await;
    stage.press("1").await;
    settled(&stage).await;
    stage.picture(&folder.join("move.png")).await;
    stage.click("Zoom on attack").await;
    open_patch(&stage, "Gravel Gate").await;
    stage.select(3, false).await;
    settled(&stage).await;
    let field = stage.find("[data-param='route.index_rad']").await;
    field.scroll_into_view().await.expect("scrolling");
    field.focus().await.expect("the focus");
    // what scrolls lets go of what hangs from it
    tokio::time::sleep(std::time::Duration::from_millis(400)).await;
    stage.press("l").await;
    stage.find("[data-testid=field-menu] .link").await;
    tokio::time::sleep(std::time::Duration::from_millis(400)).await;
    stage.picture(&folder.join("field.png")).await;
    stage.press(thirtyfour::Key::Escape + "").await;
    open_patch(&stage, "Mud Throat").await;
    stage.choose("Picture", "Phrase").await;
    stage
        .find("[data-note='4'] .hit")
        .await
        .click()
        .await
        .expect("a note");
    settled(&stage).await;
    tokio::time::sleep(std::time::Duration::from_millis(900)).await;
    stage.picture(&folder.join("phrase.png")).await;
    stage.choose("Picture", "Note").await;
    open_patch(&stage, "Gravel Gate").await;
    stage
        .find(".macros .cell .grip")
        .await
        .click()
        .await
        .expect("a macro");
    stage.find(".editor .target").await;
    settled(&stage).await;
    stage.picture(&folder.join("macro.png")).await;
    open_patch(&stage, "Root Cellar").await;
    stage
        .find("[data-unit='1'] .head")
        .await
        .click()
        .await
        .expect("select");
    stage.click("Dark").await;
    settled(&stage).await;
    stage.picture(&folder.join("build-dark.png")).await;
    for (patch, effect, file) in [
        ("Frost Fern", "EQ", "finish.png"),
        ("Shutter Stab", "Compressor", "chains.png"),
    ] {
        open_patch(&stage, patch).await;
        stage.chord(thirtyfour::Key::Alt, "3").await;
        let row = format!("[role=listitem][aria-label='{effect}']");
        stage.find(&row).await.click().await.expect("the effect");
        let drawn = "return document.querySelector('[data-testid=after]') !== null && document.querySelectorAll('[data-testid=band-change]').length > 0";
        stage.wait_until("it is drawn", drawn).await;
        settled(&stage).await;
        stage.picture(&folder.join(file)).await;
    }
}
