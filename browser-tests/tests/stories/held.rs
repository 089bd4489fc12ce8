//! What a hand has hold of is seen at once, however much else there is to see.

use serde_json::json;
use zolvik_browser_tests::{Stage, stage};
use zolvik_edit::{Edit, apply};
use zolvik_patch::document::{Route, RouteId, Send, SourceId, Unit, UnitId};

/// Twelve units, twenty routes between them and to the output.
pub fn wide_patch() -> zolvik_patch::Patch {
    let mut patch = zolvik_patch::Patch {
        units: (1..=12).map(|n| Unit::operator(UnitId(n))).collect(),
        routes: vec![],
        ..zolvik_patch::Patch::empty()
    };
    let mut add = |from: u16, send: Send| {
        let id = RouteId(patch.routes.len() as u16 + 1);
        patch.routes.push(Route {
            id,
            from: UnitId(from),
            on: true,
            send,
        });
    };
    for n in 1..=4 {
        add(n, Send::output());
        add(n + 4, Send::phase(UnitId(n)));
        add(n + 8, Send::phase(UnitId(n + 4)));
        add(n + 8, Send::phase(UnitId(n % 4 + 1)));
        add(n + 4, Send::phase(UnitId(n % 4 + 1)));
    }
    patch
}

/// Takes hold of what stands at `css`, moves it in one go and looks at it before any other frame is drawn; then goes on: lets go, breaks off with
/// Escape, or loses the pointer. Gives how far it was then from where the pointer was, and how far it is from where it was taken when all is done.
const MOVE: &str = "const [css, across, down, ends, done] = arguments;
const at = () => { const box = document.querySelector(css).getBoundingClientRect(); return [box.left + box.width / 2, box.top + box.height / 2] };
const apart = ([a, b], [c, d]) => Math.hypot(a - c, b - d);
const start = at(); const [x, y] = start;
const send = (type, x, y, buttons) => document.querySelector(css).dispatchEvent(new PointerEvent(type, { bubbles: true, pointerId: 1, button: 0, buttons, shiftKey: true, clientX: x, clientY: y }));
Element.prototype.setPointerCapture = () => {};
(async () => {
  send('pointerdown', x, y, 1);
  for (const share of [0.3, 0.7, 1]) send('pointermove', x + share * across, y + share * down, 1);
  for (let n = 0; n < 9; n++) await Promise.resolve();
  const seen = apart(at(), [x + across, y + down]);
  await new Promise((frame) => setTimeout(frame, 120));
  if (ends === 'escape') document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape', bubbles: true }));
  if (ends === 'lost') send('pointercancel', x + across, y + down, 0);
  send('pointerup', x + across, y + down, 0);
  await new Promise((frame) => requestAnimationFrame(() => requestAnimationFrame(frame)));
  done([seen, apart(at(), start)]);
})().catch((why) => done([String(why)]))";

/// Twelve strips, a drawn source and an EQ.
async fn crowded() -> (Stage, i64) {
    let mut patch = wide_patch();
    for edit in [
        json!({ "do": "add_source", "kind": "lfo" }),
        json!({ "do": "add_effect", "chain": "first", "kind": "eq" }),
    ] {
        let edit: Edit = serde_json::from_value(edit).unwrap();
        patch = apply(&patch, &edit).unwrap().0;
    }
    let stage = stage().await;
    stage.open("/").await;
    let id = stage.bring_in(&patch).await;
    stage.open(&format!("/patch/{id}")).await;
    stage.find("[data-unit='12']").await;
    (stage, id)
}

#[tokio::test]
async fn points_and_bands_are_where_the_pointer_is() {
    let (stage, id) = crowded().await;
    // all that may be dragged is kept, as text
    let kept = async || {
        let patch = stage.saved(id).await;
        let shape = &patch.source(SourceId(1001)).unwrap().kind;
        let effect = &patch.finish.first.effects[0];
        let envelope = &patch.unit(UnitId(9)).unwrap().envelope;
        [
            format!("{envelope:?}"),
            format!("{shape:?}"),
            format!("{effect:?}"),
        ]
    };
    for (nth, (view, css, across, down)) in [
        (
            "Build",
            "[data-unit='9'] [data-handle='1'] .square",
            30.0,
            -6.0,
        ),
        (
            "Move",
            "[data-testid=shape] [data-point='1'] .square",
            25.0,
            30.0,
        ),
        ("Finish", "[data-testid=band-0] rect", 60.0, -20.0),
    ]
    .into_iter()
    .enumerate()
    {
        stage.click(view).await;
        match view {
            "Build" => stage.select(9, false).await,
            "Move" => stage
                .find("[data-source='1001'] .head")
                .await
                .click()
                .await
                .unwrap(),
            _ => stage
                .find(".row[role=listitem]")
                .await
                .click()
                .await
                .unwrap(),
        }
        stage.find(css).await;
        let before = kept().await;
        for ends in ["escape", "lost", "kept"] {
            let kept_on = ends == "kept";
            let arguments = vec![css.into(), across.into(), down.into(), ends.into()];
            let moved = stage.driver.execute_async(MOVE, arguments).await.unwrap();
            let moved = [0, 1].map(|i| moved.json()[i].as_f64().unwrap());
            assert!(moved[0] < 3.0, "{css}: {} px from the pointer", moved[0]);
            let far = f64::hypot(across, down);
            let wanted = if kept_on { far } else { 0.0 };
            assert!((moved[1] - wanted).abs() < 3.0, "{css}, {ends}: {moved:?}");
            let after = kept().await;
            let changed: Vec<bool> = (0..3).map(|i| after[i] != before[i]).collect();
            let only: Vec<bool> = (0..3).map(|i| i == nth && kept_on).collect();
            assert_eq!(changed, only, "{css}");
        }
    }
}
