//! Frames while something is dragged, printed and not asserted: run with `--nocapture`.

use super::measures::{SHARE, chain};
use crate::held::wide_patch;
use zolvik_browser_tests::stage_with;

/// Drags something over its place for two seconds, moved once a frame; frames the page counts and whole pictures, both a second.
async fn dragging(
    stage: &zolvik_browser_tests::Stage,
    css: &str,
    across: i64,
    down: i64,
) -> [f64; 2] {
    const DRAG: &str = "const [css, across, down, done] = arguments;\
        const held = [...document.querySelectorAll(css)].find((e) => e.getBoundingClientRect().width > 0); const box = held.getBoundingClientRect();\
        const [x, y] = [box.left + Math.min(20, box.width / 2), box.top + Math.min(9, box.height / 2)]; const version = () => Number(document.querySelector('.score').dataset.version);\
        const send = (type, x, y, buttons) => held.dispatchEvent(new PointerEvent(type, { bubbles: true, pointerId: 1, button: 0, buttons, clientX: x, clientY: y }));\
        Element.prototype.setPointerCapture = () => {};\
        send('pointerdown', x, y, 1); let frames = 0; const start = performance.now(); const first = version();\
        const step = () => { frames++; window.dispatchEvent(new PointerEvent('pointermove', { pointerId: 1, clientX: x + across * (1 + Math.sin(frames / 9)), clientY: y + down * Math.sin(frames / 7) }));\
          const ms = performance.now() - start; if (ms < 2000) return requestAnimationFrame(step);\
          window.dispatchEvent(new PointerEvent('pointerup', { pointerId: 1, clientX: x, clientY: y })); done([frames / ms * 1000, (version() - first) / ms * 1000]) };\
        requestAnimationFrame(step)";
    let arguments = vec![css.into(), across.into(), down.into()];
    let rates = stage.driver.execute_async(DRAG, arguments).await.unwrap();
    let rate = |i: usize| rates.json()[i].as_f64().unwrap();
    [rate(0), rate(1)]
}

#[tokio::test]
#[ignore = "prints figures and asserts nothing; run by hand"]
async fn frames_while_dragging_points_in_the_heaviest_patches() {
    let stage = stage_with(true).await;
    stage.open("/").await;
    let wide = stage.bring_in(&wide_patch()).await;
    let id_of = async |name: &str| {
        let patches = stage.patches().await;
        let found = patches.iter().find(|p| p["name"] == name).unwrap();
        found["id"].as_i64().unwrap()
    };
    let (cloud, fern) = (id_of("Spore Cloud").await, id_of("Frost Fern").await);
    let point = "[data-handle='1']";
    for (what, path, css) in [
        (
            "envelope's point, 12 units",
            format!("/patch/{wide}"),
            point,
        ),
        (
            "envelope's point, Spore Cloud",
            format!("/patch/{cloud}"),
            point,
        ),
        (
            "envelope's point, Frost Fern",
            format!("/patch/{fern}"),
            point,
        ),
        (
            "shape's point, Spore Cloud",
            format!("/patch/{cloud}/move"),
            "[data-point='1']",
        ),
        (
            "shape's point, Frost Fern",
            format!("/patch/{fern}/move"),
            "[data-point='1']",
        ),
    ] {
        stage.open(&path).await;
        tokio::time::sleep(std::time::Duration::from_secs(3)).await;
        // the first strip or source that has such a point
        let open = "const css = arguments[0]; for (const head of document.querySelectorAll('[data-unit] .head, [data-source] .head')) { if (document.querySelector(css)) return; head.click(); await new Promise((done) => setTimeout(done, 300)) }";
        let open = format!(
            "const done = arguments[arguments.length - 1]; (async () => {{ {open} }})().then(done)"
        );
        stage
            .driver
            .execute_async(&open, vec![css.into()])
            .await
            .unwrap();
        tokio::time::sleep(std::time::Duration::from_secs(1)).await;
        let mut rates = vec![];
        for _ in 0..4 {
            rates.push(dragging(&stage, css, 12, 15).await);
        }
        let shown = rates
            .iter()
            .map(|[frames, pictures]| format!("{frames:.1} ({pictures:.1})"));
        println!(
            "{what:<32} frames (whole pictures) a second: {}",
            shown.collect::<Vec<_>>().join("  ")
        );
    }
}

#[tokio::test]
#[ignore = "prints figures and asserts nothing; run by hand"]
async fn frames_while_dragging_in_a_wide_patch() {
    let stage = stage_with(false).await;
    stage.open("/").await;
    let id = stage.bring_in(&wide_patch()).await;
    stage.open(&format!("/patch/{id}")).await;
    stage.find("[data-unit='12']").await;
    stage.select(9, false).await;
    tokio::time::sleep(std::time::Duration::from_millis(900)).await;
    assert_eq!(
        stage
            .js(
                "return document.querySelectorAll('.rails .grip').length",
                vec![]
            )
            .await,
        20
    );
    let late = "return document.querySelector('[data-testid=late]')?.textContent ?? '0 late'";
    let before = stage.js(late, vec![]).await;
    // the first time the browser still makes ready what it runs often
    let mut rates = vec![];
    stage
        .holding(60, async {
            for _ in 0..5 {
                let index = "[role=spinbutton][aria-label=Index]";
                rates.push(dragging(&stage, index, 25, 0).await[0]);
            }
        })
        .await;
    let first = rates.remove(0);
    rates.sort_by(f64::total_cmp);
    println!(
        "browser: audio blocks before {before}, after {} (bar: none lost)",
        stage.js(late, vec![]).await
    );
    println!(
        "browser: 12 units and 20 routes, dragging an index: {first:.1} frames a second in the first two seconds, then {:.1} to {:.1} (bar 60)",
        rates[0], rates[3],
    );
    let undo = stage
        .js(
            "return document.querySelector('[aria-label=Undo]').title",
            vec![],
        )
        .await;
    assert!(undo.as_str().unwrap().contains("index"), "{undo}");
}

#[tokio::test]
#[ignore = "prints figures and asserts nothing; run by hand"]
async fn what_effects_take_in_the_browser() {
    use zolvik_patch::document::{EffectId, Quality, Send, Unit, UnitId};
    use zolvik_patch::finish::{Effect, EffectName};
    let stage = stage_with(false).await;
    stage.open("/").await;
    let share = async |patch: &zolvik_patch::Patch, notes: u32| {
        let text = zolvik_patch::json::write(patch);
        let answer = stage
            .driver
            .execute_async(SHARE, vec![text.into(), notes.into()])
            .await
            .unwrap();
        answer
            .json()
            .as_f64()
            .unwrap_or_else(|| panic!("{}", answer.json()))
    };
    let mut plain = zolvik_patch::Patch::empty();
    plain.voice.quality = Quality::X1;
    // the shortest of several, in turn with and without: what else the machine does falls on both
    let least = async |with: &zolvik_patch::Patch| {
        let mut shares = (f64::MAX, f64::MAX);
        for _ in 0..4 {
            shares.0 = shares.0.min(share(&plain, 1).await);
            shares.1 = shares.1.min(share(with, 1).await);
        }
        shares.1 - shares.0
    };
    for kind in EffectName::ALL {
        let mut with = plain.clone();
        let effect = Effect::new(EffectId(2001), *kind);
        let said = zolvik_engine::cost::effect_share(&effect);
        with.finish.common.effects.push(effect);
        let taken = least(&with).await;
        println!(
            "{:<12} {:5.2} % of the time, said {:5.2} %, {:.2} times",
            kind.label(),
            taken * 100.0,
            said * 100.0,
            taken / said
        );
    }
    // sixteen voices of six operators, four copies each, two filters and eight effects
    let mut heavy = zolvik_patch::json::read(&chain()).unwrap();
    heavy.voice.quality = Quality::X1;
    heavy.voice.unison.copies = 4;
    for n in [7, 8] {
        let mut filter = Unit::new(UnitId(n), zolvik_patch::document::KindName::Filter);
        filter.name = format!("Filter {n}");
        heavy.units.push(filter);
    }
    heavy.routes[0].send = Send::to_unit(zolvik_patch::document::RouteKind::Audio, UnitId(7));
    for (n, (from, send)) in [
        (
            7,
            Send::to_unit(zolvik_patch::document::RouteKind::Audio, UnitId(8)),
        ),
        (8, Send::output()),
    ]
    .into_iter()
    .enumerate()
    {
        heavy.routes.push(zolvik_patch::document::Route {
            id: zolvik_patch::document::RouteId(7 + n as u16),
            from: UnitId(from),
            on: true,
            send,
        });
    }
    let voices = share(&heavy, 16).await;
    let kinds = [
        EffectName::Drive,
        EffectName::Eq,
        EffectName::Compressor,
        EffectName::Chorus,
        EffectName::Delay,
        EffectName::Reverb,
        EffectName::Stereo,
        EffectName::Limiter,
    ];
    for (n, kind) in kinds.into_iter().enumerate() {
        let effect = Effect::new(EffectId(2001 + n as u16), kind);
        heavy.finish.common.effects.push(effect);
    }
    let all = share(&heavy, 16).await;
    println!(
        "sixteen voices of six operators, four copies, two filters: {:.1} % of the time; with eight effects {:.1} %",
        voices * 100.0,
        all * 100.0
    );
}
