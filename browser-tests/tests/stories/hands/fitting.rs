//! What is on the screen is seen whole: no text is cut off without dots, no control lies under another.

use serde_json::Value;
use zolvik_browser_tests::{Stage, stage_with};
use zolvik_patch::Patch;

/// Texts that end where their box does, without dots; controls in whose middle something else lies.
const FAULTS: &str = "
const faults = []; const clips = (style) => style.overflowX !== 'visible' || style.overflowY !== 'visible';
const shown = (element) => { const box = element.getBoundingClientRect(); return box.width > 2 && box.height > 2 && getComputedStyle(element).visibility !== 'hidden' && !element.closest('.sr, [aria-hidden=true], title') };
const range = document.createRange();
for (const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT); walker.nextNode();) {
  const text = walker.currentNode; if (!text.textContent.trim() || !shown(text.parentElement)) continue;
  range.selectNodeContents(text); const own = range.getBoundingClientRect(); if (!own.width) continue;
  for (let box = text.parentElement; box !== document.body; box = box.parentElement) {
    const style = getComputedStyle(box); if (style.textOverflow === 'ellipsis' || style.webkitLineClamp !== 'none') break;
    const { left, right } = box.getBoundingClientRect();
    if (style.overflowX === 'hidden' && own.left < right && own.right > left && (own.right > right + 1.5 || own.left < left - 1.5)) { faults.push('cut off: ' + text.textContent.trim()); break }
  }
}
for (const control of document.querySelectorAll('button, input, select, a, [role=spinbutton]')) {
  const style = getComputedStyle(control); if (!shown(control) || style.pointerEvents === 'none' || style.opacity === '0') continue;
  let { left, right, top, bottom } = control.getBoundingClientRect();
  for (let box = control.parentElement; box !== document.documentElement; box = box.parentElement) {
    const style = getComputedStyle(box), edge = box.getBoundingClientRect();
    if (clips(style)) { left = Math.max(left, edge.left); right = Math.min(right, edge.right); top = Math.max(top, edge.top); bottom = Math.min(bottom, edge.bottom) }
    if (style.position === 'fixed') break;
  }
  // what is scrolled away is not covered
  if (right - left < 3 || bottom - top < 3) continue;
  const there = document.elementFromPoint((left + right) / 2, (top + bottom) / 2);
  if (there && !control.contains(there) && !there.contains(control) && !control.closest('label')?.contains(there)) faults.push('covered: ' + (control.getAttribute('aria-label') || control.textContent.trim()) + ' by ' + (there.getAttribute('class') ?? there.tagName));
}
return faults";

/// The same patch with everything called as long as a name may be.
fn called_long(mut patch: Patch) -> Patch {
    let long = |most: usize| -> String {
        "Ẃandering moth WWWW overglass "
            .chars()
            .cycle()
            .take(most)
            .collect()
    };
    let most = zolvik_patch::limits::MAX_UNIT_NAME;
    patch.meta.name = long(zolvik_patch::limits::MAX_NAME);
    patch
        .units
        .iter_mut()
        .for_each(|unit| unit.name = long(most));
    patch
        .movement
        .sources
        .iter_mut()
        .for_each(|source| source.name = long(most));
    let finish = &mut patch.finish;
    for chain in [&mut finish.first, &mut finish.second, &mut finish.common] {
        chain.name = long(most);
        chain
            .effects
            .iter_mut()
            .for_each(|effect| effect.name = long(most));
    }
    patch
}

async fn faults(stage: &Stage, state: &str, all: &mut Vec<String>) {
    // what fits is looked at anew after a change of size
    tokio::time::sleep(std::time::Duration::from_millis(400)).await;
    let found = stage.js(FAULTS, vec![]).await;
    let list = found.as_array().unwrap().iter().filter_map(Value::as_str);
    all.extend(list.map(|fault| format!("{state}: {fault}")));
}

#[tokio::test]
async fn nothing_is_cut_off_or_covered_whatever_it_is_called() {
    let stage = stage_with(true).await;
    stage.open("/").await;
    let patches = stage.patches().await;
    let cloud = patches.iter().find(|p| p["name"] == "Spore Cloud").unwrap();
    let cloud = cloud["id"].as_i64().unwrap();
    let long = called_long(stage.stored(cloud).await);
    let long = stage.bring_in(&long).await;
    let mut all = vec![];
    for (name, id) in [("as it is", cloud), ("long names", long)] {
        for (width, height) in [(1280, 939), (1024, 839)] {
            let window = stage.driver.set_window_rect(0, 0, width, height);
            window.await.unwrap();
            for (view, pick) in [
                ("", ".scroll [data-unit] .head"),
                ("/move", "[data-source] .head"),
                ("/finish", ".row[role=listitem]"),
            ] {
                stage.open(&format!("/patch/{id}{view}")).await;
                let pick = stage.find(pick).await;
                let state = format!("{name}, {width}, {view}");
                faults(&stage, &state, &mut all).await;
                pick.click().await.unwrap();
                faults(&stage, &format!("{state}, chosen"), &mut all).await;
            }
        }
    }
    assert!(all.is_empty(), "{} faults:\n{}", all.len(), all.join("\n"));
}

/// Labels of the drawings, by the room their letters take, that lie over each other.
const OVER: &str = "const room = (one) => { const range = document.createRange(); range.selectNodeContents(one); const box = range.getBoundingClientRect(); const pane = one.closest('svg.plot, .scroll, .result').getBoundingClientRect();\
      return { l: Math.max(box.left, pane.left), r: Math.min(box.right, pane.right), t: Math.max(box.top, pane.top), b: Math.min(box.bottom, pane.bottom) } };\
    const all = [...document.querySelectorAll('.score .scroll text, .score .result text, .score .ticks span, .score foreignObject .name, .score .unheard span')].filter((one) => one.textContent.trim() && one.checkVisibility({ opacityProperty: true, visibilityProperty: true }));\
    const rooms = all.map((one) => [one.textContent.trim(), room(one)]).filter(([, a]) => a.r > a.l && a.b > a.t); const faults = [];\
    rooms.forEach(([words, a], i) => rooms.slice(i + 1).forEach(([others, b]) => { if (Math.min(a.r, b.r) - Math.max(a.l, b.l) > 2 && Math.min(a.b, b.b) - Math.max(a.t, b.t) > 5) faults.push(words + ' over ' + others) }));\
    return faults";

#[tokio::test]
async fn labels_of_the_drawings_never_lie_over_each_other() {
    let stage = stage_with(true).await;
    let patches = stage.patches().await;
    let of = |name: &str| patches.iter().find(|p| p["name"] == name).unwrap()["id"].clone();
    let mut faults = vec![];
    for (name, view) in [("Gate Opens", ""), ("Spore Cloud", "/move")] {
        stage.open(&format!("/patch/{}{view}", of(name))).await;
        let whole = "return document.querySelector('.score')?.dataset.exact === 'true'";
        stage.wait_until("the picture", whole).await;
        // from the key's press to the right end, over its release
        for x in [338, 420, 560, 700, 860, 925] {
            let chain = stage.driver.action_chain().move_to(x, 90).click();
            chain.perform().await.unwrap();
            let found = stage.js(OVER, vec![]).await;
            let found = found.as_array().cloned().unwrap_or_default();
            faults.extend(
                found
                    .into_iter()
                    .map(|f| format!("{name}{view} at {x}: {f}")),
            );
        }
    }
    assert!(faults.is_empty(), "{faults:#?}");
}
