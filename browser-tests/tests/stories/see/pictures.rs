//! Pictures follow the hand, come to their end, and are kept.

use super::eyes::{beating, exact, open_demo};
use serde_json::Value;
use thirtyfour::prelude::*;
use zolvik_browser_tests::{Stage, in_turn, stage, stage_with};

in_turn! {
    pictures_of_a_patch:
    flipping_between_two_states_that_were_seen_renders_nothing_nor_does_matching_them,
}

in_turn! {
    pictures_of_the_collection:
    undo_brings_the_picture_of_before,
    undone_at_once_after_fast_edits_the_picture_is_that_of_before,
    the_picture_follows_the_hand_in_heavy_patches,
    pictures_come_to_their_end_whatever_else_workers_do,
    lines_of_few_corners_pass_through_every_mark,
}

/// The pixels of the picture as a number.
async fn pixels(stage: &Stage) -> Value {
    // a worker paints it: what it shows is copied first
    let script = "const from = document.querySelector('[data-testid=spectrogram]'); const c = document.createElement('canvas'); c.width = 600; c.height = 200; \
        const context = c.getContext('2d'); context.drawImage(from, 0, 0, 600, 200); const d = context.getImageData(0, 0, 600, 200).data; \
        let h = 0; for (const v of d) h = (h * 31 + v) | 0; return h";
    stage.js(script, vec![]).await
}

/// The pixels once nothing more is drawn.
async fn still(stage: &Stage) -> Value {
    let mut last = Value::Null;
    stage
        .until("the picture stands still", async || {
            let before = std::mem::replace(&mut last, pixels(stage).await);
            tokio::time::sleep(std::time::Duration::from_millis(400)).await;
            before == last
        })
        .await;
    last
}

/// What was drawn once is there at once: after undo the same pixels come back without being rendered.
async fn undo_brings_the_picture_of_before() {
    let stage = stage_with(true).await;
    open_demo(&stage, "Frost Fern").await;
    let before = still(&stage).await;
    stage
        .find("[data-unit='3'] .head")
        .await
        .click()
        .await
        .unwrap();
    stage.set_value("Level", "-30").await;
    stage
        .until("another picture", async || pixels(&stage).await != before)
        .await;
    exact(&stage).await;
    assert_ne!(before, still(&stage).await);
    count_renders(&stage).await;
    stage.click("Undo").await;
    stage
        .until("the same pixels", async || pixels(&stage).await == before)
        .await;
    exact(&stage).await;
    assert_eq!(renders(&stage).await, 0, "nothing is rendered for it");
}

/// What waits to be drawn while one edits fast is not wanted any more once all was undone.
async fn undone_at_once_after_fast_edits_the_picture_is_that_of_before() {
    let stage = stage_with(true).await;
    open_demo(&stage, "Frost Fern").await;
    let before = still(&stage).await;
    let edits = "const [gap_ms, done] = [arguments[0], arguments[1]];\
        const document = window.document.querySelector('#app').__vue_app__.config.globalProperties.$pinia._s.get('document');\
        const wait = (ms) => new Promise((resolve) => setTimeout(resolve, ms));\
        (async () => { for (const value of [-20, -21, -22]) { document.edit({ do: 'set_value', address: { param: 'voice.trim_db', id: 0, point: 0 }, value }); await wait(gap_ms) }\
        for (let n = 0; n < 3; n++) document.ask({ ask: 'undo' }); done(true) })()";
    for gap_ms in [20, 60, 100] {
        let edited = stage.driver.execute_async(edits, vec![gap_ms.into()]);
        edited.await.unwrap();
        exact(&stage).await;
        // what was put off would come now
        tokio::time::sleep(std::time::Duration::from_millis(600)).await;
        exact(&stage).await;
        assert_eq!(still(&stage).await, before, "{gap_ms} ms apart");
    }
}

/// Counts from now on what the page has rendered.
async fn count_renders(stage: &Stage) {
    stage.js("window.rendered = 0; const post = Worker.prototype.postMessage; Worker.prototype.postMessage = function (asked, ...rest) { if (asked.picture) window.rendered++; return post.call(this, asked, ...rest) }", vec![]).await;
}

async fn renders(stage: &Stage) -> i64 {
    let rendered = stage.js("return window.rendered", vec![]).await;
    rendered.as_i64().expect("a count")
}

async fn flipping_between_two_states_that_were_seen_renders_nothing_nor_does_matching_them() {
    let stage = stage().await;
    stage.open("/").await;
    let id = stage.bring_in(&beating()).await;
    stage.open(&format!("/patch/{id}")).await;
    exact(&stage).await;
    stage.click("State B").await;
    stage.select(1, false).await;
    stage.set_value("Level", "-30").await;
    let b = still(&stage).await;
    stage.click("State A").await;
    stage.set_value("Level", "-3").await;
    let a = still(&stage).await;
    assert_ne!(a, b);
    let turned_down = "const t = document.querySelector('.tools .toggle')?.title ?? ''; const m = t.match(/by ([0-9.]+) dB/); return !!m && Number(m[1]) > 1";
    stage.wait_until("A is turned down", turned_down).await;
    count_renders(&stage).await;
    for (state, picture) in [("State B", &b), ("State A", &a), ("State B", &b)] {
        stage.click(state).await;
        stage
            .until("its picture", async || pixels(&stage).await == *picture)
            .await;
        exact(&stage).await;
    }
    assert_eq!(renders(&stage).await, 0, "nothing is rendered for it");
    // what was not seen yet is rendered, and its loudness comes with it
    stage.set_value("Level", "0").await;
    stage.wait_until("B is turned down", turned_down).await;
    exact(&stage).await;
    assert_eq!(renders(&stage).await, 2, "coarse, then exact");
}

/// Drags with the button held down: the picture changes again and again before it is let go.
async fn follows(stage: &Stage, field: &str) {
    let (x, y) = stage.middle(field).await;
    let press = stage.driver.action_chain().move_to(x, y);
    press.click_and_hold().perform().await.unwrap();
    let mut seen = vec![pixels(stage).await];
    for step in 1..=6 {
        let to = if step % 2 == 0 {
            x + 8 * step
        } else {
            x - 8 * step
        };
        stage
            .driver
            .action_chain()
            .move_to(to, y)
            .perform()
            .await
            .unwrap();
        // the hand is still down: another picture all the same
        stage
            .until("a picture of this place", async || {
                let now = pixels(stage).await;
                let new = !seen.contains(&now);
                if new {
                    seen.push(now);
                }
                new
            })
            .await;
    }
    stage
        .driver
        .action_chain()
        .release()
        .perform()
        .await
        .unwrap();
}

async fn the_picture_follows_the_hand_in_heavy_patches() {
    let stage = stage_with(true).await;
    open_demo(&stage, "Spore Cloud").await;
    stage.click("finished").await;
    exact(&stage).await;
    stage.find("[data-unit] .head").await.click().await.unwrap();
    let index = "[role=spinbutton][aria-label=Index]";
    stage
        .wait_until(
            "an index",
            &format!("return document.querySelector('{index}') !== null"),
        )
        .await;
    follows(&stage, index).await;
    open_demo(&stage, "Frost Fern").await;
    stage.click("Finish").await;
    exact(&stage).await;
    let size = "[role=spinbutton][aria-label=Size]";
    stage
        .wait_until("a reverb", &format!("const f = document.querySelector('{size}'); f?.scrollIntoView({{ block: 'center' }}); return !!f"))
        .await;
    follows(&stage, size).await;
}

/// Some seconds after a patch was opened by its address workers warm up for nobody; a picture that is rendered just then comes to its end.
async fn pictures_come_to_their_end_whatever_else_workers_do() {
    let stage = stage_with(true).await;
    open_demo(&stage, "Spore Cloud").await;
    stage.find("[data-unit] .head").await.click().await.unwrap();
    stage.field("Offset").await;
    // edits for some seconds, each as soon as the picture of the one before is exact
    let edits = "const done = arguments[arguments.length - 1]; const score = document.querySelector('.score');\
        const field = [...document.querySelectorAll('[role=spinbutton][aria-label=Offset]')].find((f) => f.offsetParent);\
        const wait = async (what) => { const from = performance.now(); while (!what() && performance.now() - from < 20000) await new Promise((r) => setTimeout(r, 10)); return what(); };\
        (async () => { let pictures = 0; while (performance.now() < 7000 || pictures < 2) {\
          field.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowUp', bubbles: true }));\
          if (!(await wait(() => score.dataset.exact !== 'true')) || !(await wait(() => score.dataset.exact === 'true'))) return done(-1);\
          pictures++; } done(pictures) })()";
    let pictures = stage.driver.execute_async(edits, vec![]).await.unwrap();
    let pictures = pictures.json().as_i64().unwrap();
    assert_ne!(pictures, -1, "a picture was begun and came to its end");
}

/// The lines of the strips are drawn with few corners; what is marked at the cursor is read from the curve itself, and lies on them everywhere.
async fn lines_of_few_corners_pass_through_every_mark() {
    let stage = stage_with(true).await;
    for name in ["Frost Fern", "Night Rain"] {
        open_demo(&stage, name).await;
        exact(&stage).await;
        for _ in 0..12 {
            let focus = "document.querySelector('[data-testid=ruler], .ruler')?.focus()";
            stage.js(focus, vec![]).await;
            stage.press(Key::Right + "").await;
            let far = stage
                .js(
                    "const plots = [...document.querySelectorAll('[data-unit] svg.plot')].filter((plot) => plot.querySelector('.mark'));
                     const apart = plots.map((plot) => {
                       const mark = plot.querySelector('.mark');
                       const [x, y] = [Number(mark.getAttribute('cx')), Number(mark.getAttribute('cy'))];
                       const corners = plot.querySelector('[data-testid=curve]').getAttribute('d').slice(1).split('L').map((corner) => corner.split(' ').map(Number));
                       // the curve is a value for each column, the line runs through their middles
                       const columns = [-1.5, 0, 1.5].map((by) => {
                         const to = corners.findIndex(([at]) => at >= x + by);
                         const [[x0, y0], [x1, y1]] = [corners[Math.max(0, to - 1)], corners[Math.max(1, to)]];
                         return y0 + ((y1 - y0) * (x + by - x0)) / (x1 - x0 || 1);
                       });
                       return Math.max(0, Math.min(...columns) - y, y - Math.max(...columns));
                     });
                     return plots.length > 2 ? Math.max(...apart) : 1000",
                    vec![],
                )
                .await
                .as_f64()
                .unwrap();
            assert!(far < 0.4, "{name}: a mark is {far} px off its line");
        }
    }
}
