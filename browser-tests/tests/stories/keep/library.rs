//! The library: sorted, narrowed by tags, several at once, files dropped anywhere, and the list as it was left.

use serde_json::Value;
use zolvik_browser_tests::{Stage, stage_with};

async fn names(stage: &Stage) -> Vec<String> {
    let script = "return [...document.querySelectorAll('.row.patch')].map(r => r.getAttribute('aria-label'))";
    let list = stage.js(script, vec![]).await;
    list.as_array()
        .unwrap()
        .iter()
        .map(|n| n.as_str().unwrap().into())
        .collect()
}

async fn shows(stage: &Stage, count: usize) {
    let script = format!("return document.querySelectorAll('.row.patch').length === {count}");
    stage.wait_until("so many patches are shown", &script).await;
}

#[tokio::test]
async fn patches_are_sorted_tagged_binned_and_brought_back_several_at_once() {
    let stage = stage_with(true).await;
    stage.open("/").await;
    shows(&stage, 27).await;
    // nothing is loaded at first, and the bar says so; then it names what it plays
    let heard = async || {
        stage
            .find("[data-testid=heard]")
            .await
            .text()
            .await
            .unwrap()
    };
    assert!(
        heard().await.contains("nothing loaded"),
        "{}",
        heard().await
    );
    stage.click("Hear Tin Rain").await;
    stage
        .wait_until(
            "it is named",
            "return document.querySelector('[data-testid=heard]').textContent === 'Tin Rain'",
        )
        .await;
    stage.click("Name").await;
    let mut sorted = names(&stage).await;
    sorted.sort_by_key(|name| name.to_lowercase());
    assert_eq!(names(&stage).await, sorted);
    // two are marked, given a tag, and found by it
    stage.click("Mark Broken Prism").await;
    stage.click("Mark Copper Wasp").await;
    let input = stage.find("[aria-label='Tag for those marked']").await;
    input.send_keys("second set").await.unwrap();
    stage.click("Add tag").await;
    stage
        .wait_until("both have it", "return [...document.querySelectorAll('.tags button')].filter(b => b.textContent === 'second set').length === 2")
        .await;
    stage
        .find(".tags button[title='Only with second set']")
        .await
        .click()
        .await
        .unwrap();
    shows(&stage, 2).await;
    // the list is as it was left, also after a patch was opened
    stage
        .find(".row.patch[aria-label='Copper Wasp'] .acts .btn")
        .await
        .click()
        .await
        .unwrap();
    stage.find("[data-unit='1']").await;
    stage.click("Library").await;
    shows(&stage, 2).await;
    // into the bin, and back by one click
    stage.click("Mark all").await;
    stage.click("Move to the bin").await;
    shows(&stage, 0).await;
    stage.click("Undo").await;
    shows(&stage, 2).await;
    // the bin has an address
    stage.open("/?bin").await;
    stage.find("[aria-label='Patches']").await;
    assert_eq!(names(&stage).await, Vec::<String>::new());
}

#[tokio::test]
async fn a_file_dropped_anywhere_is_imported() {
    let stage = stage_with(true).await;
    stage.open("/").await;
    shows(&stage, 27).await;
    let text = include_str!("../../../../demo/night-garden/frost-fern.json").replacen(
        "Frost Fern",
        "Dropped",
        1,
    );
    let drop = "const data = new DataTransfer(); data.items.add(new File([arguments[0]], 'dropped.json', { type: 'application/json' }));\
        document.body.dispatchEvent(new DragEvent('dragover', { dataTransfer: data, bubbles: true, cancelable: true }));\
        document.body.dispatchEvent(new DragEvent('drop', { dataTransfer: data, bubbles: true, cancelable: true }))";
    stage.js(drop, vec![Value::from(text)]).await;
    shows(&stage, 28).await;
    // what was said can be read again
    let bell = stage.find(".bell").await;
    assert_eq!(
        bell.attr("aria-label").await.unwrap().unwrap(),
        "Messages, 1 new"
    );
    bell.click().await.unwrap();
    let said = stage.find(".messages").await.text().await.unwrap();
    assert!(said.contains("Imported “Dropped”"), "{said}");
    assert!(names(&stage).await.contains(&"Dropped".to_string()));
}

#[tokio::test]
async fn one_looks_around_in_the_list_and_comes_back_to_what_can_be_undone() {
    let stage = stage_with(true).await;
    stage.open("/").await;
    shows(&stage, 27).await;
    stage
        .find(".row.patch[aria-label='Copper Wasp'] .acts .btn")
        .await
        .click()
        .await
        .unwrap();
    stage.select(1, false).await;
    let before = stage.value("Ratio").await;
    stage.set_value("Ratio", "5").await;
    stage.set_value("Ratio", "7").await;
    stage.wait_saved().await;
    stage.click("Library").await;
    stage.click("Hear Tin Rain").await;
    let heard = "return document.querySelector('[data-testid=heard]').textContent === 'Tin Rain'";
    stage.wait_until("another one is heard", heard).await;
    // the way back to it stays, and what was done can be undone there
    stage.click("Build").await;
    stage.select(1, false).await;
    stage.click("Undo").await;
    assert_eq!(stage.value("Ratio").await, "5.00 ×");
    stage.click("Undo").await;
    assert_eq!(stage.value("Ratio").await, before);
    stage.chord(thirtyfour::Key::Control, "y").await;
    assert_eq!(stage.value("Ratio").await, "5.00 ×");
}

/// Whether the rows in sight, and more than a few, have their pictures.
const PICTURED: &str = "const seen = [...document.querySelectorAll('.picture')].filter(p => { const box = p.getBoundingClientRect(); return document.elementFromPoint(box.x + 5, box.y + 5) === p });
    return seen.length > 5 && seen.every(p => getComputedStyle(p).maskImage !== 'none')";
/// How many pictures of the list were under way at most at a time.
const AT_ONCE: &str = "const asked = performance.getEntriesByType('resource').filter(e => e.name.includes('/picture?')).map(e => [e.startTime, e.responseEnd]);
    return Math.max(...asked.map(([from]) => asked.filter(([a, b]) => a <= from && from < b).length))";

#[tokio::test]
async fn pictures_come_as_they_are_seen_and_hold_nothing_up() {
    let stage = stage_with(true).await;
    stage.open("/").await;
    shows(&stage, 27).await;
    stage.wait_until("those at the top come", PICTURED).await;
    let last = "document.querySelector('.row.patch:last-of-type .picture')";
    let has = format!("return getComputedStyle({last}).maskImage !== 'none'");
    assert_eq!(stage.js(&has, vec![]).await, Value::Bool(false));
    stage.js(&format!("{last}.scrollIntoView()"), vec![]).await;
    stage.wait_until("and those at the end", PICTURED).await;
    assert_eq!(stage.js(&has, vec![]).await, Value::Bool(true));
    // of the six connections a browser has, some stay free for what is asked for by hand
    let most = stage.js(AT_ONCE, vec![]).await.as_u64().unwrap();
    assert!((1..=3).contains(&most), "{most} at once");
}
