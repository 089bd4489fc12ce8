//! Backups on the screen: what differs, one patch taken out, the whole put in place under two open windows.

use zolvik_browser_tests::stage_with;

#[tokio::test]
async fn a_patch_is_taken_out_of_a_backup_and_the_whole_is_put_in_place_under_two_windows() {
    let stage = stage_with(true).await;
    // what belongs to the library of before is refused: that is how the other window learns of it
    stage.expect_failed_requests();
    stage.open("/").await;
    stage.click("Backups").await;
    stage.click("Back up now").await;
    let same = "return document.querySelector('[data-testid=backup-contents]')?.textContent.includes('All of its patches are as in the library') ?? false";
    stage.wait_until("nothing differs yet", same).await;
    stage.press(thirtyfour::Key::Escape).await;
    let id = stage.patches().await[3]["id"].as_i64().unwrap();
    let name = stage.patches().await[3]["name"]
        .as_str()
        .unwrap()
        .to_owned();
    let before = stage.stored(id).await;
    // another window edits a patch
    let first = stage.driver.window().await.unwrap();
    let second = stage.driver.new_tab().await.unwrap();
    stage.driver.switch_to_window(second.clone()).await.unwrap();
    stage.open(&format!("/patch/{id}")).await;
    stage.select_patch().await;
    stage.set_value("Tempo", "77").await;
    stage.wait_saved().await;
    stage.js("window.was = 'before'", vec![]).await;
    stage.driver.switch_to_window(first).await.unwrap();
    stage.click("Backups").await;
    let one = "return [...document.querySelectorAll('.patches li')].filter(li => li.textContent.includes('changed since')).length === 1";
    stage
        .wait_until("the one that was changed is shown", one)
        .await;
    let look = std::env::var_os("ZOLVIK_LOOK");
    if let Some(folder) = look {
        stage
            .picture(&std::path::Path::new(&folder).join("backups.png"))
            .await;
    }
    stage.click(&format!("Take out {name}")).await;
    stage
        .until("it is there as a copy", async || {
            let list = stage.patches().await;
            list.len() == 28 && list.iter().any(|p| p["name"] == format!("{name} (backup)"))
        })
        .await;
    stage.js("window.was = 'before'", vec![]).await;
    stage.click("Restore the whole library").await;
    stage.click("Restore").await;
    let anew =
        "return window.was === undefined && document.querySelectorAll('.row.patch').length > 0";
    stage.wait_until("the page is loaded again", anew).await;
    assert_eq!(stage.patches().await.len(), 27);
    assert_eq!(stage.stored(id).await, before);
    // and so is the other window, on the patch as it was then
    stage.driver.switch_to_window(second).await.unwrap();
    let anew = "return window.was === undefined && document.querySelector('[data-unit]') !== null";
    stage
        .wait_until("the other page is loaded again", anew)
        .await;
    stage.select_patch().await;
    let tempo = before.audition.tempo_bpm;
    let shown = stage.value("Tempo").await;
    assert!(
        shown.starts_with(&format!("{tempo}")),
        "{shown}, then {tempo}"
    );
    stage.set_value("Tempo", "91").await;
    stage.wait_saved().await;
    assert_eq!(stage.stored(id).await.audition.tempo_bpm, 91.0);
}
