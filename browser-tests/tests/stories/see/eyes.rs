//! Reading the picture: by pointing, by zooming, beside it, and as the list of what makes it.

use serde_json::Value;
use thirtyfour::prelude::*;
use zolvik_browser_tests::{Stage, in_turn, stage, stage_with};
use zolvik_patch::document::{Operator, Route, RouteId, Send, Unit, UnitId};

use zolvik_patch::address::Address;

in_turn! {
    eyes_of_a_patch:
    the_two_partials_of_a_beating_sub_are_named_by_pointing,
    the_click_of_an_attack_is_found_by_zooming,
}

in_turn! {
    eyes_of_the_collection:
    the_waveform_is_seen_down_to_single_cycles_and_where_things_stand,
    why_it_sounds_so_stands_beside_the_result_and_is_sorted,
}

pub(crate) async fn open_demo(stage: &Stage, name: &str) {
    let patches = stage.patches().await;
    let found = patches.iter().find(|p| p["name"] == name).unwrap();
    stage.open(&format!("/patch/{}", found["id"])).await;
    exact(stage).await;
}

/// Waits until the picture is exact.
pub(crate) async fn exact(stage: &Stage) {
    stage
        .wait_until(
            "the exact picture",
            "return document.querySelector('.score')?.dataset.exact === 'true'",
        )
        .await;
}

/// A sub at 55 Hz that beats with another at 57.5 Hz.
pub(crate) fn beating() -> zolvik_patch::Patch {
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
    stage.look("eyes-beat").await;
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
    stage.look("eyes-cycles").await;
    stage.click("stereo").await;
    stage
        .wait_until("places", "return [...document.querySelectorAll('[data-testid=stereo] .place')].some(p => (p.getAttribute('d') ?? '').length > 40)")
        .await;
    stage.look("eyes-stereo").await;
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
    stage.look("eyes-why").await;
    stage.click("Close the list").await;
    stage
        .wait_until(
            "the inspector",
            "return !document.querySelector('[data-testid=partials]')",
        )
        .await;
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
    stage.look("eyes-click").await;
}
