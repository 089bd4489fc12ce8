//! Filters and shapers on the screen: a growling bass with a clean sub and a click past the filter, and a hat from three
//! sines.

use zolvik_browser_tests::{Stage, in_turn, stage};
use zolvik_patch::document::{Bus, RouteKind, Send, UnitId, UnitKind};

use crate::measure::*;

in_turn! {
    filters:
    a_growling_bass_with_a_clean_sub_and_a_click_past_the_filter,
    a_metallic_hat_from_three_sines_closed_and_open,
    a_comb_rings_at_the_key_and_a_vowel_and_a_shaper_are_heard,
}

async fn ways(stage: &Stage, unit: u16) -> String {
    stage.select(unit, false).await;
    stage.find("[data-testid=ways]").await.text().await.unwrap()
}

async fn a_growling_bass_with_a_clean_sub_and_a_click_past_the_filter() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    stage.set_value("Note", "A1").await;
    // a saw, folded, with a modulator
    stage.select(1, false).await;
    stage.press("]").await;
    stage.press("]").await;
    stage.add_operator(2).await;
    stage.set_value("Index", "2").await;
    // the filter after it
    stage.select(1, false).await;
    stage.menu("+ More", "Filter after Operator 1").await;
    stage.choose("Slope", "24 dB").await;
    stage.set_value("Cutoff", "150").await;
    stage.set_value("Resonance", "30%").await;
    stage.set_value("Sweep", "0").await;
    assert_eq!(ways(&stage, 1).await, "through Filter 3");
    // a sub two octaves down, clean
    stage.add_operator(1).await;
    stage.set_value("Ratio", "0.25").await;
    stage.click("Route to Output: Chain one. Change").await;
    stage.click("Clean: past all effects").await;
    assert_eq!(
        ways(&stage, 4).await,
        "direct to output, past Filter 3, clean"
    );
    // and a click that misses the filter
    stage.menu("+ More", "Sample").await;
    assert_eq!(ways(&stage, 5).await, "direct to output, past Filter 3");

    let patch = stage.saved(id).await;
    let kinds = |unit: u16| -> Vec<Option<RouteKind>> {
        patch.sends(UnitId(unit)).map(|r| r.send.kind()).collect()
    };
    assert_eq!(kinds(1), [Some(RouteKind::Audio)]);
    assert!(patch.routes.iter().any(|r| r.from == UnitId(4)
        && matches!(
            r.send,
            Send::Output {
                bus: Bus::Clean,
                ..
            }
        )));
    // measured in the core: the sub sounds, the growl is dark, the click is bright
    let sound = note(&patch, 33, 0.8, 1.0);
    let sub = amplitude(&sound.left[9_600..33_600], RATE_HZ, 13.75);
    assert!(sub > 0.05, "the sub at 13.75 Hz: {sub}");
    let mut open = patch.clone();
    open.unit_mut(UnitId(3)).unwrap().on = false;
    let (dark, bright) = (
        &sound.left[9_600..33_600],
        &note(&open, 33, 0.8, 1.0).left[9_600..33_600],
    );
    assert!(
        brightness(dark) < 0.3 * brightness(bright),
        "{} {}",
        brightness(dark),
        brightness(bright)
    );
    let mut without = patch.clone();
    without.unit_mut(UnitId(5)).unwrap().on = false;
    let start = |p: &zolvik_patch::Patch| brightness(&note(p, 33, 0.8, 1.0).left[..1_500]);
    assert!(
        start(&patch) > 3.0 * start(&without),
        "the click keeps its bite"
    );

    // with and without the filter by one held key, while a note sounds
    stage.select(3, false).await;
    let lively = "const p = document.querySelector('#app').__vue_app__.config.globalProperties.$pinia._s.get('playing');\
        const a = new Float32Array(1024); p.scope(a); let steps = 0, all = 0;\
        for (let i = 1; i < 1024; i++) { steps += (a[i] - a[i - 1]) ** 2; all += a[i] ** 2 }\
        return all > 1e-3 ? steps / all : 0";
    let (filtered, held) = stage
        .holding(45, async {
            tokio::time::sleep(std::time::Duration::from_millis(500)).await;
            let filtered = stage.js(lively, vec![]).await.as_f64().unwrap();
            let down = stage.driver.action_chain().key_down('o');
            down.perform().await.unwrap();
            stage
                .wait_until(
                    "it says so",
                    "return document.querySelector('[data-testid=listening]') !== null",
                )
                .await;
            tokio::time::sleep(std::time::Duration::from_millis(300)).await;
            let held = stage.js(lively, vec![]).await.as_f64().unwrap();
            let up = stage.driver.action_chain().key_up('o');
            up.perform().await.unwrap();
            (filtered, held)
        })
        .await;
    assert!(held > 2.0 * filtered, "{filtered} filtered, {held} without");
    stage
        .wait_until(
            "no trace is left",
            "return document.querySelector('[data-testid=listening]') === null",
        )
        .await;
    assert_eq!(stage.saved(id).await, patch, "nothing was changed");
}

async fn a_metallic_hat_from_three_sines_closed_and_open() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    stage.set_value("Hold", "40 ms").await;
    for (unit, hz) in [(1, "5413"), (2, "3271"), (3, "1187")] {
        if unit > 1 {
            stage.select(unit - 1, false).await;
            stage.add_operator(2).await;
        } else {
            stage.select(1, false).await;
        }
        stage.choose("Tuned by", "Fixed").await;
        stage.set_value("Fixed", hz).await;
        stage.set_value("Sustain", "0").await;
        stage.set_value("Decay", "70 ms").await;
        stage.set_value("Attack", "0").await;
        stage.set_value("Release", "50 ms").await;
        if unit > 1 {
            stage.set_value("Index", "15").await;
        }
    }
    stage.menu("+ More", "Filter at the output").await;
    stage.choose("Type", "High-pass").await;
    stage.choose("Slope", "24 dB").await;
    stage.set_value("Cutoff", "5k").await;
    stage.set_value("Key follow", "0").await;
    let closed = stage.saved(id).await;
    // the open one is the same with a longer decay, kept as B
    stage.click("B").await;
    stage.select(1, false).await;
    stage.set_value("Decay", "600 ms").await;
    stage.set_value("Release", "400 ms").await;
    let open = stage.saved(id).await;
    assert_eq!(open.other.as_ref().unwrap().units, closed.units);

    let hat = |p: &zolvik_patch::Patch| note(p, 60, 0.04, 0.8).left;
    let (short, long) = (hat(&closed), hat(&open));
    assert!(
        brightness(&short[..2_400]) > 0.5,
        "{}",
        brightness(&short[..2_400])
    );
    assert!(
        amplitude(&short[..4_800], RATE_HZ, 500.0) < 1e-3,
        "no mud below the filter"
    );
    let at =
        |samples: &[f32]| 20.0 * (rms(&samples[9_600..12_000]) / rms(&samples[..2_400])).log10();
    assert!(
        at(&short) < -50.0,
        "closed after 0.2 s: {:.1} dB",
        at(&short)
    );
    assert!(at(&long) > -25.0, "open after 0.2 s: {:.1} dB", at(&long));
    // the same on every key
    let other_key = note(&closed, 84, 0.04, 0.8).left;
    assert!((rms(&other_key[..2_400]) / rms(&short[..2_400]) - 1.0).abs() < 0.01);
}

async fn a_comb_rings_at_the_key_and_a_vowel_and_a_shaper_are_heard() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    stage.select(1, false).await;
    stage.menu("+ More", "Noise").await;
    // the noise alone goes through the comb
    stage.click("Noise 2 on").await;
    stage.click("Noise 2 on").await;
    stage.menu("+ More", "Filter after Noise 2").await;
    stage.choose("Type", "Comb +").await;
    stage.set_value("Resonance", "95%").await;
    stage.set_value("Mix", "100%").await;
    stage.click("Operator 1 on").await;
    let patch = stage.saved(id).await;
    let UnitKind::Filter(filter) = &patch.units[2].kind else {
        panic!("no filter")
    };
    assert_eq!(
        (filter.key_follow, filter.sweep_oct),
        (1.0, 0.0),
        "tuned as it arrives"
    );
    for key in [57, 64] {
        let hz = zolvik_patch::pitch::key_hz(key.into());
        let sound = note(&patch, key, 1.5, 1.5).left;
        let (on, off) = (
            amplitude(&sound[24_000..], RATE_HZ, 2.0 * hz),
            amplitude(&sound[24_000..], RATE_HZ, 2.5 * hz),
        );
        assert!(
            on > 5.0 * off,
            "key {key}: {on} at its harmonic, {off} between"
        );
    }
    // the response of the selected filter is drawn over the spectrum
    stage.find("[data-testid=response]").await;
    stage.choose("Type", "Vowel").await;
    stage.set_value("Vowel", "100%").await;
    stage.menu("+ More", "Shaper after Filter 3").await;
    stage.choose("Curve", "Rectify").await;
    let patch = stage.saved(id).await;
    assert_eq!(patch.units.len(), 4);
    assert!(
        rms(&note(&patch, 57, 1.0, 1.0).left) > 1e-4,
        "of noise at -30 dB"
    );
    for _ in 0..3 {
        stage.click("Undo").await;
    }
    assert_eq!(stage.saved(id).await.units.len(), 3, "and undone");
}
