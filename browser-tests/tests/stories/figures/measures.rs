//! Figures of the page, printed and not asserted: run with `--nocapture`.

use zolvik_browser_tests::stage_with;

/// Six chained sines of the browser's own nodes, offline; gives operator-samples per second.
const NODES: &str = r"
const done = arguments[arguments.length - 1];
(async () => {
  const voices = 8, operators = 6, seconds = 4;
  const context = new OfflineAudioContext(1, 48000 * seconds, 48000);
  for (let v = 0; v < voices; v++) {
    let before = null;
    for (let o = 0; o < operators; o++) {
      const node = new OscillatorNode(context, { frequency: 110 * (o + 1) });
      if (before) { const gain = new GainNode(context, { gain: 200 }); before.connect(gain).connect(node.frequency); }
      node.start();
      before = node;
    }
    before.connect(context.destination);
  }
  const start = performance.now();
  await context.startRendering();
  done(voices * operators * seconds * 48000 / ((performance.now() - start) / 1000));
})();";

/// Starts the page's own module with the patch `text`; what follows runs in the same function.
macro_rules! engine {
    () => {
        r"
(async () => {
  const bytes = await (await fetch(document.querySelector('link[rel=preload][as=fetch]').href)).arrayBuffer();
  const wasm = (await WebAssembly.instantiate(bytes, {})).instance.exports;
  const question = new TextEncoder().encode(JSON.stringify({ ask: 'load', text }));
  const at = wasm.zolvik_alloc(question.length);
  new Uint8Array(wasm.memory.buffer, at, question.length).set(question);
  wasm.zolvik_ask(at, question.length);
  wasm.zolvik_sound_start(48000);
  wasm.zolvik_sound_install(wasm.zolvik_part(0), wasm.zolvik_part_length(0));
"
    };
}

/// The same work in our module, in this page, offline.
const OURS: &str = concat!(
    r"
const [text, done] = [arguments[0], arguments[arguments.length - 1]];
",
    engine!(),
    r"
  for (let v = 0; v < 8; v++) wasm.zolvik_sound_midi(0x90, 40 + v, 100);
  // the browser makes it fast once it has seen what runs often
  for (let f = 0; f < 48000 * 8; f += 128) wasm.zolvik_sound_process(128);
  const frames = 48000 * 8;
  const start = performance.now();
  for (let f = 0; f < frames; f += 128) wasm.zolvik_sound_process(128);
  done(8 * 6 * frames / ((performance.now() - start) / 1000));
})();"
);

pub(crate) fn chain() -> String {
    use zolvik_patch::document::{Route, RouteId, Send, Unit, UnitId};
    let mut patch = zolvik_patch::Patch {
        units: vec![],
        routes: vec![],
        ..zolvik_patch::Patch::empty()
    };
    for n in 1..=6u16 {
        patch.units.push(Unit::operator(UnitId(n)));
        let send = if n == 1 {
            Send::output()
        } else {
            Send::phase(UnitId(n - 1))
        };
        patch.routes.push(Route {
            id: RouteId(n),
            from: UnitId(n),
            on: true,
            send,
        });
    }
    zolvik_patch::json::write(&patch)
}

#[tokio::test]
#[ignore = "prints figures and asserts nothing; run by hand"]
async fn figures_of_the_page() {
    let stage = stage_with(true).await;
    stage.open("/").await;
    stage.find(".row.patch").await;
    let playable = stage
        .js("return performance.now()", vec![])
        .await
        .as_f64()
        .unwrap();
    let nodes = stage
        .driver
        .execute_async(NODES, vec![])
        .await
        .unwrap()
        .json()
        .as_f64()
        .unwrap();
    let ours = stage
        .driver
        .execute_async(OURS, vec![chain().into()])
        .await
        .unwrap()
        .json()
        .as_f64()
        .unwrap();
    println!(
        "browser: ours {:.0} M, its own nodes {:.0} M operator-samples/s: {:.1} times (bar 5)",
        ours / 1e6,
        nodes / 1e6,
        ours / nodes
    );
    stage
        .find("[role=row][aria-label='Frost Fern'] .acts .btn")
        .await
        .click()
        .await
        .unwrap();
    stage
        .find("[data-unit='3'] .head")
        .await
        .click()
        .await
        .unwrap();
    stage.set_value("Shown", "3").await;
    let mut times = Vec::new();
    for n in 0..12 {
        let version = stage
            .js(
                "return document.querySelector('.score').dataset.version",
                vec![],
            )
            .await;
        stage.set_value("Level", &format!("-{}", 9 + n % 3)).await;
        stage
            .wait_until(
                "the next picture",
                &format!("return document.querySelector('.score').dataset.version !== {version}"),
            )
            .await;
        times.push(
            stage
                .js(
                    "return Number(document.querySelector('.score').dataset.wholeMs)",
                    vec![],
                )
                .await
                .as_f64()
                .unwrap(),
        );
        tokio::time::sleep(std::time::Duration::from_millis(400)).await;
    }
    times.sort_by(f64::total_cmp);
    println!("browser: list shown {playable:.0} ms after the start of the page (bar 2000)");
    println!(
        "browser: edit to redrawn result, 3 s note, 6 operators: median {:.0} ms, best {:.0} ms (bar 80)",
        times[times.len() / 2],
        times[0]
    );
}

/// Clicks the button of a patch and waits for its first whole picture: milliseconds.
const FIRST_PICTURE: &str = r"
const [name, done] = [arguments[0], arguments[arguments.length - 1]];
const from = performance.now();
document.querySelector(`[role=row][aria-label='${name}'] .acts .btn`).click();
const look = () => Number(document.querySelector('.score')?.dataset.version ?? 0) > 0 ? done(performance.now() - from) : setTimeout(look, 2);
look();";

#[tokio::test]
#[ignore = "prints figures and asserts nothing; run by hand"]
async fn opening_in_fresh_browsers() {
    let names = [
        "Frost Fern",
        "Moth Choir",
        "Glasshouse Air",
        "Root Cellar",
        "Spore Cloud",
    ];
    // each keeps its browser, so that the next one has a new one
    let mut stages = vec![];
    for name in names {
        let stage = stage_with(true).await;
        stage.open("/").await;
        stage
            .wait_until(
                "the list",
                "return performance.getEntriesByName('first look').length > 0",
            )
            .await;
        let list = "return performance.getEntriesByName('first look')[0].startTime";
        let list = stage.js(list, vec![]).await.as_f64().unwrap();
        tokio::time::sleep(std::time::Duration::from_millis(2500)).await;
        let opened = stage
            .driver
            .execute_async(FIRST_PICTURE, vec![name.into()])
            .await;
        let picture = opened.unwrap().json().as_f64().unwrap();
        println!(
            "fresh browser: list after {list:.0} ms (bar 800); {name}: first picture {picture:.0} ms after the click (bar 500)"
        );
        stages.push(stage);
    }
}

/// What is edited in Build, and of an effect in Finish.
const FIELD: &str = "[role=spinbutton][aria-label=Index], [role=spinbutton][aria-label=Level]";
const EFFECT_FIELD: &str = "[data-testid^='effect-'] [role=spinbutton]";

/// Edits of the first such field by the arrow key, each after the picture of the one before is exact: milliseconds to the first ink, to the whole and to the exact picture.
const EDITS: &str = r"
const [count, css, done] = [arguments[0], arguments[1], arguments[arguments.length - 1]];
(async () => {
  const score = document.querySelector('.score');
  const wait = async (what) => { const from = performance.now(); while (!what() && performance.now() - from < 6000) await new Promise((r) => setTimeout(r, 4)); };
  const field = document.querySelector(css);
  if (!field) return done([]);
  field.focus();
  const rows = [];
  for (let n = 0; n < count; n++) {
    const version = Number(score.dataset.version);
    const value = field.getAttribute('aria-valuenow');
    const press = async (key) => { field.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true })); await new Promise((r) => queueMicrotask(r)); };
    await press('ArrowDown');
    await new Promise((r) => requestAnimationFrame(r));
    // one that is at its end already goes the other way
    if (field.getAttribute('aria-valuenow') === value) await press('ArrowUp');
    await wait(() => Number(score.dataset.version) >= version + 2);
    rows.push([Number(score.dataset.inkMs), Number(score.dataset.wholeMs), Number(score.dataset.exactMs)]);
    // what comes of chance is not measured
    await new Promise((r) => setTimeout(r, 400));
  }
  done(rows);
})();";

fn at(share: f64, times: &mut [f64]) -> f64 {
    times.sort_by(f64::total_cmp);
    times[((times.len() - 1) as f64 * share).round() as usize]
}

/// Times of some edits of a field: first ink, whole, exact.
async fn edited(stage: &zolvik_browser_tests::Stage, css: &str) -> [Vec<f64>; 3] {
    let edits = stage
        .driver
        .execute_async(EDITS, vec![5.into(), css.into()]);
    let rows = edits.await.unwrap();
    let rows = rows.json().as_array().unwrap();
    [0, 1, 2].map(|which| rows.iter().map(|r| r[which].as_f64().unwrap()).collect())
}

#[tokio::test]
#[ignore = "prints figures and asserts nothing; run by hand"]
async fn pictures_of_all_demo_patches() {
    let stage = stage_with(true).await;
    stage.open("/").await;
    stage.find(".row.patch").await;
    let names = stage
        .js("return [...document.querySelectorAll('.row.patch')].map((r) => r.getAttribute('aria-label'))", vec![])
        .await;
    let (mut inks, mut wholes, mut exacts, mut effects) = (vec![], vec![], vec![], vec![]);
    println!(
        "{:<18}{:>8}{:>8}{:>8}{:>16}{:>8}   milliseconds from an edit to ink, whole, exact (medians)",
        "", "ink", "whole", "exact", "effect: whole", "exact"
    );
    for name in names.as_array().unwrap() {
        let name = name.as_str().unwrap();
        // one alone, if that is asked for
        if std::env::var("ZOLVIK_ONLY").is_ok_and(|only| only != name) {
            continue;
        }
        // with effects: the page looks for what is to be shown as it opens
        stage
            .js("localStorage.setItem('zolvik-shown', 'finished')", vec![])
            .await;
        stage.open("/").await;
        let button = format!("[role=row][aria-label='{name}'] .acts .btn");
        stage.find(&button).await.click().await.unwrap();
        stage.find(".score[data-version]").await;
        stage
            .wait_until(
                "a picture",
                "return Number(document.querySelector('.score').dataset.version) >= 1",
            )
            .await;
        stage
            .find(".strip .head, [data-unit] .head")
            .await
            .click()
            .await
            .unwrap();
        tokio::time::sleep(std::time::Duration::from_millis(1200)).await;
        let shown = "return document.querySelector('[aria-label=\"What the result shows\"] [aria-pressed=true]')?.textContent ?? 'finished'";
        assert_eq!(stage.js(shown, vec![]).await, "finished");
        let [mut ink, mut whole, mut exact] = edited(&stage, FIELD).await;
        // what comes after the voices keeps them
        stage.click("Finish").await;
        tokio::time::sleep(std::time::Duration::from_millis(1200)).await;
        let [_, mut effect_whole, mut effect_exact] = edited(&stage, EFFECT_FIELD).await;
        if ink.is_empty() || effect_whole.is_empty() {
            println!("{name:<18} has no such field");
            continue;
        }
        println!(
            "{name:<18}{:>8.0}{:>8.0}{:>8.0}{:>16.0}{:>8.0}",
            at(0.5, &mut ink),
            at(0.5, &mut whole),
            at(0.5, &mut exact),
            at(0.5, &mut effect_whole),
            at(0.5, &mut effect_exact)
        );
        effects.push(at(0.5, &mut effect_exact));
        inks.extend(ink);
        wholes.push(at(0.5, &mut whole));
        exacts.push(at(0.5, &mut exact));
    }
    println!(
        "an effect's value: exact, median {:.0}, worst {:.0}",
        at(0.5, &mut effects),
        at(1.0, &mut effects)
    );
    println!(
        "first ink: median {:.0} (bar 33), 95 % {:.0} (bar 60); whole: median {:.0} (bar 150), worst patch {:.0} (bar 400); exact: median {:.0} (bar 600), worst {:.0} (bar 1500)",
        at(0.5, &mut inks),
        at(0.95, &mut inks),
        at(0.5, &mut wholes),
        at(1.0, &mut wholes),
        at(0.5, &mut exacts),
        at(1.0, &mut exacts)
    );
}

/// Share of the time there is that a patch takes in this page's module, over two seconds at 48 kHz with so many notes.
pub(crate) const SHARE: &str = concat!(
    r"
const [text, notes, done] = [arguments[0], arguments[1], arguments[arguments.length - 1]];
",
    engine!(),
    r"
  for (let v = 0; v < notes; v++) wasm.zolvik_sound_midi(0x90, 36 + 2 * v, 100);
  const run = (frames) => { for (let f = 0; f < frames; f += 128) wasm.zolvik_sound_process(128); };
  run(24000);
  const times = [];
  for (let n = 0; n < 5; n++) { const start = performance.now(); run(48000); times.push(performance.now() - start); }
  times.sort((a, b) => a - b);
  done(times[2] / 1000);
})().catch((why) => done(String(why)));"
);
