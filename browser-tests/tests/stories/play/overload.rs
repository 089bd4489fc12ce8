//! When there is more to do than the machine can: requests are merged, notes are let go, and the page says so.

use std::time::{Duration, Instant};

use zolvik_browser_tests::{Stage, stage, stage_with};
use zolvik_patch::document::{MAX_UNITS, Quality, Route, RouteId, RouteKind, Send, Unit, UnitId};

/// Puts a patch into the library and opens it.
async fn open(stage: &Stage, patch: &zolvik_patch::Patch) {
    let file = stage.downloads.path().join("heavy.json");
    std::fs::write(&file, zolvik_patch::json::write(patch)).unwrap();
    stage.open("/").await;
    stage
        .find("[data-testid=import]")
        .await
        .send_keys(file.to_str().unwrap())
        .await
        .unwrap();
    stage.find(".row.patch").await;
    let id = stage.patches().await[0]["id"].clone();
    stage.open(&format!("/patch/{id}")).await;
    stage.find("[data-unit='1']").await;
}

/// Every unit into every unit, at eight times the rate: far more than can be computed in time.
fn heaviest() -> zolvik_patch::Patch {
    let units: Vec<UnitId> = (1..=MAX_UNITS as u16).map(UnitId).collect();
    let mut patch = zolvik_patch::Patch {
        units: units.iter().map(|id| Unit::operator(*id)).collect(),
        routes: vec![],
        ..zolvik_patch::Patch::empty()
    };
    patch.voice.quality = Quality::X8;
    patch.voice.polyphony = 32;
    for from in &units {
        let targets = units.iter().map(|to| Send::to_unit(RouteKind::Phase, *to));
        for send in targets.chain([Send::output()]) {
            let id = RouteId(patch.routes.len() as u16 + 1);
            patch.routes.push(Route {
                id,
                from: *from,
                on: true,
                send,
            });
        }
    }
    assert_eq!(patch.routes.len(), 272);
    patch
}

async fn midi(stage: &Stage, messages: &[[u8; 3]]) {
    let script = "const playing = document.querySelector('#app').__vue_app__.config.globalProperties.$pinia._s.get('playing');\
        arguments[0].forEach(m => playing.receive('keyboard', m))";
    stage
        .js(script, vec![serde_json::to_value(messages).unwrap()])
        .await;
}

#[tokio::test]
async fn too_many_notes_of_the_heaviest_patch_are_let_go_and_something_goes_on_sounding() {
    let stage = stage().await;
    open(&stage, &heaviest()).await;
    stage.find(".score").await.click().await.unwrap();
    let down: Vec<[u8; 3]> = (0..32).map(|n| [0x90, 40 + n, 100]).collect();
    midi(&stage, &down).await;
    stage
        .wait_until(
            "it says so",
            "return document.querySelector('[data-testid=overload]').textContent === 'overload'",
        )
        .await;
    let voices = "const v = document.querySelector('#app').__vue_app__.config.globalProperties.$pinia._s.get('playing').levels().voices;";
    stage
        .wait_until("notes went", &format!("{voices} return v >= 1 && v < 24"))
        .await;
    let (samples, _) = stage.played().await;
    assert!(
        samples.iter().any(|s| s.abs() > 1e-4),
        "something goes on sounding"
    );
    let up: Vec<[u8; 3]> = (0..32).map(|n| [0x80, 40 + n, 0]).collect();
    midi(&stage, &up).await;
    stage
        .wait_until("nothing is stuck", &format!("{voices} return v === 0"))
        .await;
    // and a note played then is heard
    midi(&stage, &[[0x90, 57, 100]]).await;
    stage
        .wait_until("it sounds", &format!("{voices} return v === 1"))
        .await;
    midi(&stage, &[[0x80, 57, 0]]).await;
}

/// Edits at random for a time, eight a second; gives the most requests that waited, the longest wait in milliseconds, and the
/// page's memory at the begin and the end in bytes.
async fn edit_at_random(stage: &Stage, seconds: u64) -> (u64, f64, [f64; 2]) {
    let script = "const [ms, done] = arguments; const pinia = document.querySelector('#app').__vue_app__.config.globalProperties.$pinia;\
        const doc = pinia._s.get('document'); const playing = pinia._s.get('playing');\
        const value = (strip, param) => strip.values.find(v => v.address.param === param);\
        let seed = 7; const dice = () => (seed = (seed * 48271) % 2147483647) / 2147483647;\
        let most = 0, oldest = 0; const memory = () => { window.gc?.(); return performance.memory.usedJSHeapSize; };\
        const before = memory(), start = performance.now();\
        const timer = setInterval(() => {\
          const strips = doc.view.strips; const strip = strips[Math.floor(dice() * strips.length)];\
          const ratio = value(strip, 'operator.ratio');\
          if (dice() < 0.3 && strip.kind === 'operator') doc.alter({ ask: 'draw_bar', unit: strip.id, harmonic: 1 + Math.floor(dice() * 30), amplitude: dice(), phase_turns: null, gesture: null });\
          else if (ratio) doc.type(ratio.address, (0.5 + dice() * 7).toFixed(3));\
          if (dice() < 0.05) doc.undo();\
          const load = playing.workersLoad(); most = Math.max(most, load.waiting); oldest = Math.max(oldest, load.oldestMs);\
          if (performance.now() - start > ms) { clearInterval(timer); done([most, oldest, before, memory()]) }\
        }, 125)";
    let asked = stage
        .driver
        .execute_async(script, vec![(seconds * 1000).into()])
        .await
        .unwrap();
    let n = |at: usize| asked.json()[at].as_f64().unwrap();
    (n(0) as u64, n(1), [n(2), n(3)])
}

/// Opens a patch with a second state to compare with, so that loudness is matched all the time.
async fn open_to_compare(stage: &Stage, name: &str) {
    stage.open("/").await;
    stage
        .find(&format!("[role=row][aria-label='{name}'] .acts .btn"))
        .await
        .click()
        .await
        .unwrap();
    stage.find("[data-unit='1']").await;
    stage.click("State B").await;
}

#[tokio::test]
async fn requests_do_not_pile_up_while_editing_fast() {
    let stage = stage_with(true).await;
    open_to_compare(&stage, "Frost Fern").await;
    let (most, oldest_ms, _) = edit_at_random(&stage, 10).await;
    println!("most requests waiting {most}, longest wait {oldest_ms:.0} ms (bar 1000)");
    assert!(most <= 6, "one of each kind at most: {most}");
    // what waits is soon done once the hand rests
    let since = Instant::now();
    let load = "return document.querySelector('#app').__vue_app__.config.globalProperties.$pinia._s.get('playing').workersLoad().waiting === 0";
    stage.wait_until("nothing waits", load).await;
    println!("all done {:?} later", since.elapsed());
}

#[tokio::test]
#[ignore = "ten minutes; prints figures; run by hand"]
async fn ten_minutes_of_random_edits() {
    let stage = stage_with(true).await;
    stage
        .driver
        .set_script_timeout(Duration::from_secs(90))
        .await
        .unwrap();
    open_to_compare(&stage, "Frost Fern").await;
    edit_at_random(&stage, 20).await;
    let resident = || -> u64 {
        // the renderer is the largest of the browser's processes
        let out = std::process::Command::new("ps")
            .args(["-eo", "rss,args"])
            .output()
            .unwrap();
        let text = String::from_utf8_lossy(&out.stdout).to_string();
        text.lines()
            .filter(|l| l.contains("--type=renderer"))
            .filter_map(|l| l.split_whitespace().next()?.parse().ok())
            .max()
            .unwrap_or(0)
    };
    let before_kb = resident();
    let (mut most, mut oldest_ms, mut heap) = (0, 0f64, [0f64; 2]);
    // in parts: the driver waits no longer than two minutes for an answer
    let minutes = std::env::var("ZOLVIK_MINUTES").map_or(10, |m| m.parse().unwrap_or(10));
    for part in 0..minutes {
        let (waiting, waited_ms, used) = edit_at_random(&stage, 60).await;
        (most, oldest_ms) = (most.max(waiting), oldest_ms.max(waited_ms));
        heap = [if part == 0 { used[0] } else { heap[0] }, used[1]];
        println!("minute {}: heap {:.1} MB", part + 1, used[1] / 1e6);
    }
    let after_kb = resident();
    println!(
        "most waiting {most}, longest wait {oldest_ms:.0} ms; heap {:.1} to {:.1} MB, renderer {} to {} MB",
        heap[0] / 1e6,
        heap[1] / 1e6,
        before_kb / 1024,
        after_kb / 1024
    );
}
