//! Reading the picture: by pointing, by zooming, beside it, and as the list of what makes it.

use serde_json::Value;
use thirtyfour::prelude::*;
use zolvik_browser_tests::{Stage, in_turn, stage, stage_with};
use zolvik_patch::document::{Operator, Route, RouteId, Send, Unit, UnitId};

use zolvik_patch::address::Address;

in_turn! {
    eyes_of_a_patch:
    the_two_partials_of_a_beating_sub_are_named_by_pointing,
    flipping_between_two_states_that_were_seen_renders_nothing_nor_does_matching_them,
    the_click_of_an_attack_is_found_by_zooming,
}

in_turn! {
    eyes_of_the_collection:
    the_waveform_is_seen_down_to_single_cycles_and_where_things_stand,
    why_it_sounds_so_stands_beside_the_result_and_is_sorted,
    undo_brings_the_picture_of_before,
    undone_at_once_after_fast_edits_the_picture_is_that_of_before,
    the_picture_follows_the_hand_in_heavy_patches,
    pictures_come_to_their_end_whatever_else_workers_do,
    lines_of_few_corners_pass_through_every_mark,
}

/// A picture of the screen, where one is wanted.
async fn look(stage: &Stage, name: &str) {
    if let Ok(folder) = std::env::var("ZOLVIK_LOOK") {
        let path = std::path::Path::new(&folder).join(format!("{name}.png"));
        stage.picture(&path).await;
    }
}

async fn open_demo(stage: &Stage, name: &str) {
    let patches = stage.patches().await;
    let found = patches.iter().find(|p| p["name"] == name).unwrap();
    stage.open(&format!("/patch/{}", found["id"])).await;
    exact(stage).await;
}

/// Waits until the picture is exact.
async fn exact(stage: &Stage) {
    stage
        .wait_until(
            "the exact picture",
            "return document.querySelector('.score')?.dataset.exact === 'true'",
        )
        .await;
}

/// A sub at 55 Hz that beats with another at 57.5 Hz.
fn beating() -> zolvik_patch::Patch {
    let mut patch = zolvik_patch::Patch::empty();
    patch.audition.note = 33;
    patch.audition.hold_s = 3.0;
    patch.audition.window_s = 3.4;
    let mut second = Unit::operator(UnitId(2));
    second.name = "Beat".into();
    patch.units.push(second);
    patch.routes.push(Route {
        id: RouteId(2),
        from: UnitId(2),
        on: true,
        send: Send::output(),
    });
    let offset = Address::new(Operator::OFFSET_HZ, 2);
    offset.set(&mut patch, 2.5).unwrap();
    patch
}

async fn pointed_at(stage: &Stage, time_share: f64, hz: f64) -> String {
    let script = "const b = document.querySelector('[data-testid=sheet]').getBoundingClientRect(); const s = JSON.parse(localStorage['zolvik-span'] ?? '{\"from_hz\":20,\"to_hz\":20000}');\
        return [b.left + b.width * arguments[0], b.top + b.height * (1 - Math.log(arguments[1] / s.from_hz) / Math.log(s.to_hz / s.from_hz))]";
    let place = stage.js(script, vec![time_share.into(), hz.into()]).await;
    let number = |i: usize| place[i].as_f64().unwrap() as i64;
    let chain = stage
        .driver
        .action_chain()
        .move_to(number(0) - 2, number(1));
    chain.move_to(number(0), number(1)).perform().await.unwrap();
    tokio::time::sleep(std::time::Duration::from_millis(400)).await;
    stage.find("[data-testid=read]").await.text().await.unwrap()
}

async fn the_two_partials_of_a_beating_sub_are_named_by_pointing() {
    let stage = stage().await;
    stage.open("/").await;
    let id = stage.bring_in(&beating()).await;
    stage.open(&format!("/patch/{id}")).await;
    exact(&stage).await;
    let result = stage.find(".result").await;
    // nearer to the lows: three octaves of the ten
    stage
        .js("document.querySelector('.result').focus()", vec![])
        .await;
    let wheel = "const b = document.querySelector('[data-testid=sheet]').getBoundingClientRect(); \
        document.querySelector('.result').dispatchEvent(new WheelEvent('wheel', { bubbles: true, cancelable: true, ctrlKey: true, deltaY: -100, clientX: b.left + 50, clientY: b.bottom - b.height * 0.146 }))";
    for _ in 0..9 {
        stage.js(wheel, vec![]).await;
    }
    exact(&stage).await;
    let mut first = String::new();
    stage
        .until("the frequencies are the near ones", async || {
            first = pointed_at(&stage, 0.6, 54.6).await;
            first.starts_with("55.0 Hz A1")
        })
        .await;
    let second = pointed_at(&stage, 0.6, 58.0).await;
    look(&stage, "eyes-beat").await;
    assert!(second.starts_with("57.5 Hz"), "{second}");
    assert!(second.contains("Beat"), "{second}");
    // also where the note has only begun
    for (hz, name) in [(54.6, "55.0 Hz"), (58.0, "57.5 Hz")] {
        let early = pointed_at(&stage, 0.12, hz).await;
        assert!(early.starts_with(name), "{early}");
    }
    assert!(first.contains("dB at "), "{first}");
    // kept for the next time, and all of it again by a key
    result.send_keys("0").await.unwrap();
    stage
        .wait_until(
            "all frequencies",
            "return !document.querySelector('.result .whole')",
        )
        .await;
    result.send_keys("+").await.unwrap();
    stage.find(".result .whole").await;
    stage.open(&format!("/patch/{id}")).await;
    stage.find(".result .whole").await.click().await.unwrap();
    stage
        .wait_until(
            "all frequencies",
            "return !document.querySelector('.result .whole')",
        )
        .await;
}

async fn the_waveform_is_seen_down_to_single_cycles_and_where_things_stand() {
    let stage = stage_with(true).await;
    open_demo(&stage, "Root Cellar").await;
    stage.click("cycles").await;
    let label = "return document.querySelector('.cycles').getAttribute('aria-label')";
    let path = "return [...document.querySelectorAll('[data-testid=cycles] .wave')].map(p => p.getAttribute('d')).join(' ')";
    stage
        .wait_until(
            "a waveform",
            &format!(
                "{} .length > 400",
                path.replace("return ", "return (") + ")"
            ),
        )
        .await;
    let hertz = "return [...document.querySelectorAll('.cycles [data-testid=frequencies] text')].map(t => t.textContent).join(' ')";
    let hertz = stage.js(hertz, vec![]).await;
    assert!(
        hertz.as_str().unwrap().contains("1 k") && hertz.as_str().unwrap().contains("50"),
        "{hertz}"
    );
    let (before, wide) = (stage.js(label, vec![]).await, stage.js(path, vec![]).await);
    let pane = stage.find(".cycles").await;
    stage
        .js("document.querySelector('.cycles').focus()", vec![])
        .await;
    for _ in 0..3 {
        pane.send_keys("+").await.unwrap();
    }
    let changed = "return [...document.querySelectorAll('[data-testid=cycles] .wave')].map(p => p.getAttribute('d')).join(' ') !== arguments[0]";
    stage
        .until("another waveform", async || {
            stage.js(changed, vec![wide.clone()]).await == Value::Bool(true)
        })
        .await;
    let (after, near) = (stage.js(label, vec![]).await, stage.js(path, vec![]).await);
    assert_ne!(before, after);
    assert_ne!(wide, near);
    assert!(after.as_str().unwrap().contains("2.5 ms"), "{after}");
    look(&stage, "eyes-cycles").await;
    stage.click("stereo").await;
    stage
        .wait_until("places", "return [...document.querySelectorAll('[data-testid=stereo] .place')].some(p => (p.getAttribute('d') ?? '').length > 40)")
        .await;
    look(&stage, "eyes-stereo").await;
    stage.click("spectrum").await;
    stage.find("[data-testid=theory]").await;
}

async fn why_it_sounds_so_stands_beside_the_result_and_is_sorted() {
    let stage = stage_with(true).await;
    open_demo(&stage, "Frost Fern").await;
    stage.click("Partials explained").await;
    stage
        .wait_until(
            "the list",
            "return document.querySelectorAll('[data-testid=partials] tbody tr').length > 5",
        )
        .await;
    let covers = "const a = document.querySelector('[data-testid=partials]').getBoundingClientRect(), b = document.querySelector('.result').getBoundingClientRect(); return a.left >= b.right - 1";
    assert_eq!(
        stage.js(covers, vec![]).await,
        true,
        "the result stays to be seen"
    );
    let heard = "return [...document.querySelectorAll('[data-testid=partials] tbody tr')].map(r => { const t = r.children[0].textContent.trim(); return parseFloat(t) * (t.includes('kHz') ? 1000 : 1) })";
    stage.click("Sort by Partial").await;
    let numbers = |of: Value| -> Vec<f64> {
        of.as_array()
            .unwrap()
            .iter()
            .map(|v| v.as_f64().unwrap())
            .collect()
    };
    let up = numbers(stage.js(heard, vec![]).await);
    assert!(up.windows(2).all(|w| w[0] <= w[1] + 6.0), "{up:?}");
    stage.click("Sort by Partial").await;
    let down = numbers(stage.js(heard, vec![]).await);
    assert!(
        down.windows(2).all(|w| w[0] + 6.0 >= w[1]) && down != up,
        "{down:?}"
    );
    look(&stage, "eyes-why").await;
    stage.click("Close the list").await;
    stage
        .wait_until(
            "the inspector",
            "return !document.querySelector('[data-testid=partials]')",
        )
        .await;
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

/// A sine that begins at its highest point, with no attack: the waveform jumps at the press.
async fn the_click_of_an_attack_is_found_by_zooming() {
    let stage = stage().await;
    stage.open("/").await;
    let mut patch = zolvik_patch::Patch::empty();
    patch.audition.note = 45;
    patch.units[0].envelope.points[0].time_s = 0.0;
    Address::new(Operator::START_TURNS, 1)
        .set(&mut patch, 0.25)
        .unwrap();
    let id = stage.bring_in(&patch).await;
    stage.open(&format!("/patch/{id}")).await;
    exact(&stage).await;
    stage.click("cycles").await;
    // the cursor to the press, by the keys of the ruler
    stage
        .js(
            "document.querySelector('[data-testid=ruler], .ruler')?.focus()",
            vec![],
        )
        .await;
    stage.press(Key::Home + "").await;
    let pane = stage.find(".cycles").await;
    for _ in 0..2 {
        pane.send_keys("+").await.unwrap();
    }
    let levels = "const p = document.querySelector('[data-testid=cycles] .wave')?.getAttribute('d') ?? ''; const y = {}; for (const [, x, v] of p.matchAll(/[ML](\\d+) ([\\d.]+)/g)) y[x] = Number(v);\
        const middle = Number(document.querySelector('[data-testid=cycles] .grid').getAttribute('d').split(' ')[1].split('H')[0]); const half = Object.keys(y).length / 2 | 0;\
        return [Math.abs(y[half - 2] - middle), Math.abs(y[half + 60] - middle), Math.abs(y[half + 110] - middle)]";
    // 5 ms around the press: nothing up to it, nor for the millisecond that finer computing takes; then the whole wave within 0.8 ms
    let mut last = Value::Null;
    stage
        .until("nothing before the press, the wave after it", async || {
            last = stage.js(levels, vec![]).await;
            let at = |n: usize| last[n].as_f64().unwrap_or(0.0);
            at(0) < 1.5 && at(1) < 1.5 && at(2) > 12.0
        })
        .await;
    look(&stage, "eyes-click").await;
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
