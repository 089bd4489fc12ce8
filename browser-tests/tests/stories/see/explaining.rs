//! Why it sounds so: partials explained on the screen, and what belongs to the whole voice.

use serde_json::Value;
use zolvik_browser_tests::{in_turn, stage, stage_with};
use zolvik_patch::document::{Mode, Quality, Start};

use crate::measure::*;

in_turn! {
    explaining_of_a_patch:
    the_voice_is_set_and_heard,
    a_cycle_is_bent_and_its_harmonics_spread_with_the_picture_following,
}

in_turn! {
    explaining_of_the_collection:
    three_partials_of_a_bell_are_explained,
    a_picture_ends_fine_however_patches_follow_each_other,
}

async fn three_partials_of_a_bell_are_explained() {
    let stage = stage_with(true).await;
    let patches = stage.patches().await;
    let bell = patches.iter().find(|p| p["name"] == "Frost Fern").unwrap();
    stage.open(&format!("/patch/{}", bell["id"])).await;
    stage
        .wait_until(
            "theory is drawn",
            "return document.querySelectorAll('[data-testid=theory]').length > 8",
        )
        .await;
    // beside the spectrum by name and frequency, one below the other, each led to its line
    let named = "return [...document.querySelectorAll('[data-testid=partial]')].map(p => [p.textContent.replace(/\\s+/g, ' ').trim(), p.getBoundingClientRect().top])";
    let named = stage.js(named, vec![]).await;
    let named: Vec<(String, f64)> = named
        .as_array()
        .unwrap()
        .iter()
        .map(|n| (n[0].as_str().unwrap().into(), n[1].as_f64().unwrap()))
        .collect();
    let labels: Vec<&str> = named.iter().map(|(label, _)| label.as_str()).collect();
    assert!(labels.contains(&"Bell 440 Hz"), "{labels:?}");
    assert!(
        labels.iter().any(|l| l.starts_with("Bell +Stem 1.98 kHz")),
        "{labels:?}"
    );
    assert!(
        named.windows(2).all(|n| n[1].1 - n[0].1 >= 13.0),
        "{named:?}"
    );
    // by pointing
    let mut seen = vec![];
    for at in [0, 1, 2] {
        let script = "const all = [...document.querySelectorAll('[data-testid=theory]')];\
            const b = all[arguments[0]].querySelector('path').getBoundingClientRect(); return [b.left + b.width / 2, b.top]";
        let place = stage.js(script, vec![Value::from(at)]).await;
        let number = |i: usize| place[i].as_f64().unwrap() as i64;
        let chain = stage.driver.action_chain().move_to(number(0), number(1));
        chain.perform().await.unwrap();
        let why = stage.find("[data-testid=why]").await.text().await.unwrap();
        assert!(
            why.contains("predicted") && why.contains("measured"),
            "{why}"
        );
        seen.push(why);
    }
    assert!(seen.iter().any(|w| w.contains("Bell")), "{seen:?}");
    // in words, with numbers that agree
    stage.click("Partials explained").await;
    let rows = "return [...document.querySelectorAll('[data-testid=partials] tbody tr')].map(r => [...r.children].map(c => c.textContent.trim()))";
    stage
        .wait_until(
            "the list",
            "return document.querySelectorAll('[data-testid=partials] tbody tr').length > 5",
        )
        .await;
    let rows = stage.js(rows, vec![]).await;
    let text = |row: usize, cell: usize| rows[row][cell].as_str().unwrap().replace('−', "-");
    let db = |row: usize, cell: usize| {
        text(row, cell)
            .trim_end_matches(" dB")
            .parse::<f64>()
            .unwrap()
    };
    assert_eq!(text(0, 1), "Bell");
    let made: Vec<String> = (0..6).map(|row| text(row, 1)).collect();
    assert!(
        made.iter().any(|m| m == "Bell + Stem")
            && made.iter().any(|m| m.starts_with("Bell - Stem")),
        "{made:?}"
    );
    for row in 0..3 {
        assert!((db(row, 2) - db(row, 3)).abs() < 0.5, "row {row}: {rows}");
    }
    assert!((0..6).any(|row| text(row, 1).contains("reflected at 0 Hz")));
    stage.click("Close the list").await;
    // pointing at a strip lights what it takes part in
    let (x, y) = stage.middle("[data-unit='2'] .second").await;
    stage
        .driver
        .action_chain()
        .move_to(x, y)
        .perform()
        .await
        .unwrap();
    stage.wait_until("others are dimmed", "const all = [...document.querySelectorAll('[data-testid=theory]')];\
        return all.some(g => g.style.opacity === '1' && g.dataset.by === '2') && all.some(g => g.style.opacity === '0.12')").await;
    // what plays now is drawn over the same frequencies
    stage
        .holding(
            69,
            stage.wait_until(
                "the live spectrum",
                "return document.querySelector('[data-testid=live-spectrum]') !== null",
            ),
        )
        .await;
}

async fn the_voice_is_set_and_heard() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    stage.select_patch().await;
    stage.choose("Notes", "Legato").await;
    stage.choose("Glides", "Always").await;
    stage.set_value("Glide", "80 ms").await;
    stage.set_value("Unison voices", "5").await;
    stage.set_value("Detune", "20 ct").await;
    stage.choose("Phase", "Same").await;
    stage.set_value("Bend range", "7").await;
    stage.choose("Rendering", "4 ×").await;
    let patch = stage.saved(id).await;
    let voice = &patch.voice;
    assert_eq!(
        (voice.mode, voice.glide_s, voice.unison.copies),
        (Mode::Legato, 0.08, 5)
    );
    assert_eq!(
        (voice.unison.start, voice.bend_semitones),
        (Start::Fixed, 7.0)
    );
    assert_eq!(
        (voice.render_quality, voice.quality),
        (Some(Quality::X4), Quality::Auto)
    );
    // two keys at once are one voice of five copies
    stage
        .holding(60, async {
            stage.js("document.querySelector('#app').__vue_app__.config.globalProperties.$pinia._s.get('playing').press(67, 100)", vec![]).await;
            stage.wait_until("one voice", "return document.querySelector('[data-testid=voices]').textContent.trim() === '1 voice'").await;
        })
        .await;
    stage.js("document.querySelector('#app').__vue_app__.config.globalProperties.$pinia._s.get('playing').release(67)", vec![]).await;
    // the copies stand around the pitch
    let sound = note(&patch, 69, 3.0, 3.0);
    let mono: Vec<f32> = sound
        .left
        .iter()
        .zip(&sound.right)
        .map(|(l, r)| l + r)
        .collect();
    for place in [-1.0, 0.0, 1.0f64] {
        let hz = 440.0 * 2f64.powf(place * 20.0 / 1200.0);
        let (on, off) = (
            amplitude(&mono[24_000..], RATE_HZ, hz),
            amplitude(&mono[24_000..], RATE_HZ, hz + 1.27),
        );
        assert!(on > 3.0 * off, "{place}: {on} {off}");
    }
    // back by undo, a step each
    for _ in 0..9 {
        stage.click("Undo").await;
    }
    assert_eq!(
        stage.saved(id).await.voice,
        zolvik_patch::Patch::empty().voice
    );
}

async fn a_cycle_is_bent_and_its_harmonics_spread_with_the_picture_following() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    stage.select(1, false).await;
    let cycle =
        "return document.querySelector('[data-testid=cycle] path:last-child').getAttribute('d')";
    let plain = stage.js(cycle, vec![]).await;
    stage.click("Cycle").await;
    stage.set_value("Fold", "50%").await;
    stage
        .wait_until("the picture follows", &format!("{} !== {plain}", cycle))
        .await;
    // sin(g sin x) with g = 4: 2 J3(4) against 2 J1(4)
    let folded = note(&stage.saved(id).await, 69, 1.0, 1.0).left;
    let share = amplitude(&folded[12_000..36_000], RATE_HZ, 1320.0)
        / amplitude(&folded[12_000..36_000], RATE_HZ, 440.0);
    assert!((share - (0.430_17 / 0.066_04)).abs() < 0.1, "{share}");
    stage.click("Harmonics").await;
    stage.set_value("Spacing", "1.5").await;
    let spread = note(&stage.saved(id).await, 69, 1.0, 1.0).left;
    let (there, gone) = (
        amplitude(&spread[12_000..36_000], RATE_HZ, 440.0 * 4.0),
        amplitude(&spread[12_000..36_000], RATE_HZ, 1320.0),
    );
    assert!(
        there > 20.0 * gone,
        "the third partial at 1 + 2 x 1.5: {there}, {gone}"
    );
    // played live while it is bent: no gap, no click
    stage
        .holding(57, async {
            for share in ["10%", "60%", "90%"] {
                stage.set_value("Lean", share).await;
            }
            stage.wait_until("it still sounds", "return document.querySelector('[data-testid=voices]').textContent.trim() === '1 voice'").await;
        })
        .await;
    assert_eq!(
        stage.saved(id).await.units[0]
            .oscillator()
            .unwrap()
            .cycle
            .lean,
        0.9
    );
}

async fn a_picture_ends_fine_however_patches_follow_each_other() {
    let stage = stage_with(true).await;
    for (turn, name) in ["Fern Organ", "Cellar Growl", "Fern Organ"]
        .into_iter()
        .enumerate()
    {
        stage.open("/").await;
        // what the workers are asked to render, by the names of its strips: that of the patch is nothing that sounds
        let listen = "window.rendered = []; const post = Worker.prototype.postMessage;\
            Worker.prototype.postMessage = function (asked, ...rest) { if (asked.picture) window.rendered.push(JSON.parse(asked.of.text).units.map((unit) => unit.name).join()); return post.call(this, asked, ...rest) }";
        stage.js(listen, vec![]).await;
        let open = format!("[role=row][aria-label='{name}'] .acts .btn");
        stage.find(&open).await.click().await.unwrap();
        stage.find("[data-unit]").await;
        let fine = "return document.querySelector('.score')?.dataset.exact === 'true'";
        stage.wait_until("the fine picture", fine).await;
        // a coarse one put off must not come after it
        tokio::time::sleep(std::time::Duration::from_millis(1200)).await;
        stage.wait_until("it is still the fine one", fine).await;
        // nothing else was rendered while it opened, not even the empty patch that is there at first
        let others = stage
            .js("return [...new Set(window.rendered)]", vec![])
            .await;
        let patches = stage.patches().await;
        let id = &patches.iter().find(|p| p["name"] == name).unwrap()["id"];
        let patch = stage.stored(id.as_i64().unwrap()).await;
        let strips: Vec<&str> = patch.units.iter().map(|unit| unit.name.as_str()).collect();
        assert_eq!(others, serde_json::json!([strips.join(",")]));
        // the module comes from the network once
        let sent = "return performance.getEntriesByType('resource').filter((e) => /engine-.*[.]wasm$/.test(e.name)).map((e) => e.transferSize)";
        let sent = stage.js(sent, vec![]).await;
        let sent: Vec<f64> = serde_json::from_value(sent).unwrap();
        assert!(
            !sent.is_empty() && (turn == 0 || sent.iter().all(|size| *size == 0.0)),
            "{turn}: {sent:?}"
        );
    }
}
