//! Finishing a sound with effects, as one does it. Gestures are counted as in the whole jobs.

use std::path::PathBuf;

use thirtyfour::prelude::*;
use zolvik_browser_tests::{Stage, in_turn};
use zolvik_lab::bands::band_powers;
use zolvik_lab::{Note, render};
use zolvik_patch::Patch;
use zolvik_patch::finish::EffectName;

use crate::hand::Hand;

in_turn! {
    chains:
    a_dry_growl_becomes_loud_wide_above_150_hz_and_mono_below,
    a_hat_is_split_over_two_chains_that_share_one_reverb,
    a_stab_ducks_its_own_reverb,
    an_effect_is_off_in_an_articulation_and_on_in_the_base,
}

in_turn! {
    effects:
    an_eq_band_sweeps_by_a_shape_while_its_twin_goes_the_other_way,
    rows_are_dragged_passed_by_heard_up_to_and_kept,
    without_all_effects_is_heard_as_loud_while_a_key_is_held,
}

async fn look(stage: &Stage, name: &str) {
    if let Ok(folder) = std::env::var("ZOLVIK_LOOK") {
        stage.picture(&PathBuf::from(folder).join(name)).await;
    }
}

/// Adds an effect to a chain by typing its name.
async fn add(hand: &mut Hand, chain: &str, name: &str) {
    hand.gestures += 2;
    let css = format!("[data-testid=chain-{chain}] .add");
    hand.stage.find(&css).await.click().await.unwrap();
    let input = hand.stage.find("input[aria-label='Find an effect']").await;
    input.send_keys(name).await.unwrap();
    input.send_keys(Key::Enter + "").await.unwrap();
    let there = format!(
        "return document.querySelector('[data-testid=effect-editor] h2').textContent.includes('{name}')"
    );
    hand.stage
        .wait_until("the effect is selected", &there)
        .await;
    let shut = "return document.querySelector(\"input[aria-label='Find an effect']\") === null";
    hand.stage.wait_until("the list is shut", shut).await;
}

/// Types a value of the selected effect.
async fn set(hand: &mut Hand, label: &str, text: &str) {
    hand.gestures += 2;
    let within = "[data-testid=effect-editor]";
    let css = format!("{within} [role=spinbutton][aria-label='{label}'] .value");
    let field = hand.stage.find(&css).await;
    field.scroll_into_view().await.unwrap();
    let (x, y) = hand.stage.middle(&css).await;
    let chain = hand.stage.driver.action_chain().move_to(x, y);
    chain.click().perform().await.unwrap();
    let css = format!("{within} input[aria-label='{label}, typed']");
    let input = hand.stage.find(&css).await;
    input.send_keys(text).await.unwrap();
    input.send_keys(Key::Enter + "").await.unwrap();
}

/// Power by bands of the auditioned note.
fn bands(patch: &Patch) -> [zolvik_lab::bands::BandPower; 5] {
    let sound = render(patch, &Note::auditioned(patch, 48_000.0));
    band_powers(&sound.left, &sound.right, 48_000.0)
}

async fn a_dry_growl_becomes_loud_wide_above_150_hz_and_mono_below() {
    let mut hand = Hand::new().await;
    hand.line("saw x1 -10dB; saw x1 7ct -14dB 60L; saw x1 -8ct -14dB 60R; low 900Hz res20%")
        .await;
    let before = hand.patch().await;
    hand.gestures += 1;
    hand.stage.chord(Key::Alt, "3").await;
    look(&hand.stage, "finish-1-empty.png").await;
    add(&mut hand, "first", "Drive").await;
    set(&mut hand, "Drive", "14 dB").await;
    set(&mut hand, "Mix", "80%").await;
    look(&hand.stage, "finish-2-drive.png").await;
    add(&mut hand, "common", "Compressor").await;
    set(&mut hand, "Threshold", "-24").await;
    set(&mut hand, "Make-up", "6").await;
    add(&mut hand, "common", "Widening").await;
    set(&mut hand, "Mix", "60%").await;
    add(&mut hand, "common", "Stereo").await;
    set(&mut hand, "Mono below", "150 Hz").await;
    add(&mut hand, "common", "Limiter").await;
    set(&mut hand, "In", "4 dB").await;
    hand.stage.wait_saved().await;
    look(&hand.stage, "finish-3-growl.png").await;
    let after = hand.patch().await;
    let kinds: Vec<EffectName> = after.finish.effects().map(|e| e.kind.name()).collect();
    assert_eq!(
        kinds,
        [
            EffectName::Drive,
            EffectName::Compressor,
            EffectName::Widening,
            EffectName::Stereo,
            EffectName::Limiter
        ]
    );
    let (dry, wet) = (bands(&before), bands(&after));
    // loud, wide above, mono below
    assert!(wet[2].db() > dry[2].db() + 2.0);
    assert!(wet[4].width() < 0.01, "{}", wet[4].width());
    assert!(wet[2].width() > 0.1, "{}", wet[2].width());
    hand.within("a growl, loud, wide and mono below", 40);
}

async fn a_hat_is_split_over_two_chains_that_share_one_reverb() {
    let mut hand = Hand::new().await;
    hand.line("noise -14dB a1ms d60ms s0% r40ms; sine x11.3 -20dB a1ms d30ms s0% r20ms")
        .await;
    hand.gestures += 1;
    hand.stage.chord(Key::Alt, "3").await;
    // the ring goes the second way
    hand.click_on("[data-testid=chain-second] .open").await;
    hand.click_on(".ways .btn:last-child").await;
    hand.key(Key::Escape + "").await;
    add(&mut hand, "first", "Filter").await;
    hand.choose("Type", "High-pass").await;
    set(&mut hand, "Cutoff", "5 kHz").await;
    add(&mut hand, "second", "Drive").await;
    add(&mut hand, "common", "Reverb").await;
    set(&mut hand, "Time", "0.8 s").await;
    hand.stage.wait_saved().await;
    look(&hand.stage, "finish-4-hat.png").await;
    let patch = hand.patch().await;
    assert_eq!(patch.finish.first.effects.len(), 1);
    assert_eq!(patch.finish.second.effects.len(), 1);
    assert_eq!(patch.finish.common.effects.len(), 1);
    let mut without = patch.clone();
    without.finish.common.effects.clear();
    let tail = |patch: &Patch| {
        let note = Note {
            length_s: 1.5,
            ..Note::auditioned(patch, 48_000.0)
        };
        let sound = render(
            patch,
            &Note {
                hold_s: 0.1,
                ..note
            },
        );
        sound.left[24_000..36_000]
            .iter()
            .map(|x| f64::from(x * x))
            .sum::<f64>()
    };
    assert!(tail(&patch) > 1_000.0 * tail(&without).max(1e-12));
    // compared by one held key
    hand.gestures += 1;
    hand.stage.press(Key::Escape + "").await;
    hand.within("a hat over two chains with one reverb", 30);
}

async fn a_stab_ducks_its_own_reverb() {
    let mut hand = Hand::new().await;
    hand.line("saw x1 -12dB a2ms d120ms s0% r80ms; saw x1.5 -15dB a2ms d120ms s0% r80ms")
        .await;
    hand.gestures += 1;
    hand.stage.chord(Key::Alt, "3").await;
    add(&mut hand, "common", "Reverb").await;
    set(&mut hand, "Mix", "50%").await;
    let before = hand.patch().await;
    add(&mut hand, "common", "Compressor").await;
    set(&mut hand, "Threshold", "-34").await;
    set(&mut hand, "Ratio", "8").await;
    set(&mut hand, "Release", "300 ms").await;
    hand.stage.wait_saved().await;
    let gain = "return document.querySelector('[data-testid=gain]') !== null";
    hand.stage
        .wait_until("the reduction hangs over the result", gain)
        .await;
    look(&hand.stage, "finish-5-stab.png").await;
    let after = hand.patch().await;
    // right after the stroke the room is held down by more than later
    let level = |patch: &Patch, from_s: f64| {
        let note = Note {
            hold_s: 0.1,
            length_s: 2.0,
            ..Note::auditioned(patch, 48_000.0)
        };
        let sound = render(patch, &note);
        let from = (from_s * 48_000.0) as usize;
        let sum: f64 = sound.left[from..from + 4_800]
            .iter()
            .map(|x| f64::from(x * x))
            .sum();
        10.0 * sum.max(1e-12).log10()
    };
    let held = level(&after, 0.02) - level(&before, 0.02);
    let later = level(&after, 1.2) - level(&before, 1.2);
    println!("held by {held:.1} dB at the stroke, {later:.1} dB later");
    assert!(held < later - 3.0, "{held} {later}");
    // put before the reverb by the keyboard alone, it ducks nothing
    hand.gestures += 1;
    let row = hand.stage.find(".row.selected").await;
    row.focus().await.unwrap();
    hand.stage.chord(Key::Alt, "\u{e013}").await;
    hand.stage.wait_saved().await;
    let patch = hand.patch().await;
    let kinds: Vec<EffectName> = patch
        .finish
        .common
        .effects
        .iter()
        .map(|e| e.kind.name())
        .collect();
    assert_eq!(kinds, [EffectName::Compressor, EffectName::Reverb]);
    // and taken back
    hand.stage.chord(Key::Control, "z").await;
    hand.stage.wait_saved().await;
    assert_eq!(hand.patch().await.finish, after.finish);
    hand.within("a stab that ducks its own reverb", 24);
}

async fn an_eq_band_sweeps_by_a_shape_while_its_twin_goes_the_other_way() {
    let mut hand = Hand::new().await;
    hand.line("saw x1 -12dB; saw x0.5 -12dB").await;
    hand.gestures += 1;
    hand.stage.chord(Key::Alt, "3").await;
    add(&mut hand, "common", "EQ").await;
    // both middle bands are raised by dragging their handles
    for (band, up) in [(1, -60), (2, -60)] {
        hand.gestures += 1;
        let (x, y) = hand
            .stage
            .middle(&format!("[data-testid=band-{band}]"))
            .await;
        hand.stage.drag((x, y), (x, y + up)).await;
    }
    hand.stage.wait_saved().await;
    look(&hand.stage, "finish-6-eq.png").await;
    let patch = hand.patch().await;
    let effect = patch.finish.common.effects[0].clone();
    assert!(effect.bands()[1].gain_db > 4.0, "{:?}", effect.bands()[1]);
    assert!(effect.bands()[2].gain_db > 4.0);
    // the first band's frequency is asked what moves it: a shape
    for cell in [1, 2] {
        hand.gestures += 1;
        let css = format!("[data-testid=cell-{cell}] [role=spinbutton][aria-label='Frequency']");
        let field = hand.stage.find(&css).await;
        field.scroll_into_view().await.unwrap();
        let (x, y) = hand.stage.middle(&css).await;
        let chain = hand.stage.driver.action_chain().move_to(x, y);
        chain.context_click().perform().await.unwrap();
        if cell == 1 {
            hand.click("+ LFO").await;
        } else {
            hand.click_on("[data-testid=field-menu] .choices .btn")
                .await;
        }
        look(&hand.stage, &format!("finish-7-menu-{cell}.png")).await;
        hand.key(Key::Escape + "").await;
    }
    hand.stage.wait_saved().await;
    let patch = hand.patch().await;
    assert_eq!(patch.movement.links.len(), 2);
    // the twin is turned round
    hand.click_on("[data-testid=effect-links] .link:last-child [title^='Turn round']")
        .await;
    hand.stage.wait_saved().await;
    look(&hand.stage, "finish-8-swept.png").await;
    let patch = hand.patch().await;
    use zolvik_patch::movement::Direction;
    let ways: Vec<_> = patch.movement.links.iter().map(|l| l.said().0).collect();
    assert_eq!(ways, [Direction::Up, Direction::Down]);
    assert_eq!(patch.movement.links[0].to.point, 1);
    assert_eq!(patch.movement.links[1].to.point, 2);
    hand.within("an EQ band and its twin", 24);
}

/// The kinds in a chain of the saved patch, in order.
async fn order(hand: &Hand) -> [Vec<EffectName>; 3] {
    hand.stage.wait_saved().await;
    let patch = hand.patch().await;
    let finish = &patch.finish;
    [&finish.first, &finish.second, &finish.common]
        .map(|chain| chain.effects.iter().map(|e| e.kind.name()).collect())
}

async fn rows_are_dragged_passed_by_heard_up_to_and_kept() {
    let mut hand = Hand::new().await;
    hand.line("saw x1 -12dB").await;
    hand.stage.chord(Key::Alt, "3").await;
    add(&mut hand, "first", "Drive").await;
    add(&mut hand, "first", "Filter").await;
    add(&mut hand, "common", "Reverb").await;
    let (drive, filter, reverb) = (EffectName::Drive, EffectName::Filter, EffectName::Reverb);
    assert_eq!(
        order(&hand).await,
        [vec![drive, filter], vec![], vec![reverb]]
    );
    // a row by its dots: below the reverb
    let (x, y) = hand.stage.middle("[data-testid=effect-2001] .grip").await;
    let (_, below) = hand
        .stage
        .middle("[data-testid=chain-common] .gap.end")
        .await;
    hand.stage.drag((x, y), (x, below)).await;
    assert_eq!(
        order(&hand).await,
        [vec![filter], vec![], vec![reverb, drive]]
    );
    hand.stage.chord(Key::Control, "z").await;
    assert_eq!(
        order(&hand).await,
        [vec![drive, filter], vec![], vec![reverb]]
    );
    // within its chain
    let (x, y) = hand.stage.middle("[data-testid=effect-2002] .grip").await;
    let (_, above) = hand.stage.middle("[data-testid=effect-2001] .name").await;
    hand.stage.drag((x, y), (x, above - 10)).await;
    assert_eq!(
        order(&hand).await,
        [vec![filter, drive], vec![], vec![reverb]]
    );
    // passing by and hearing up to leave the patch as it is, and say so
    let before = hand.patch().await;
    for button in ["Bypass Drive", "Hear only up to Filter"] {
        let css = format!("[aria-label='{button}']");
        hand.click_on(&css).await;
        let pressed = format!(
            "return document.querySelector(\"{css}\").getAttribute('aria-pressed') === 'true'"
        );
        hand.stage.wait_until("it is pressed", &pressed).await;
        let last = "return document.querySelector('[data-testid=effect-2003]').classList.contains('switched-off')";
        if button.starts_with("Hear") {
            hand.stage
                .wait_until("what is behind does nothing", last)
                .await;
        }
        hand.click_on(&css).await;
    }
    assert_eq!(hand.patch().await, before);
    // a setting of one's own is kept, and taken by another
    hand.click_on("[data-testid=effect-2001] .name").await;
    set(&mut hand, "Drive", "17 dB").await;
    hand.click("Settings").await;
    let field = "input[aria-label='Name to keep it under']";
    let input = hand.stage.find(field).await;
    input.send_keys("Wet paper").await.unwrap();
    input.send_keys(Key::Enter + "").await.unwrap();
    hand.stage.find(".kept .btn").await;
    add(&mut hand, "second", "Drive").await;
    // the settings stay open from effect to effect
    hand.click("Wet paper").await;
    hand.stage.wait_saved().await;
    let patch = hand.patch().await;
    let taken = &patch.finish.second.effects[0];
    assert_eq!(taken.name, "Wet paper");
    assert_eq!(
        taken.kind,
        patch
            .finish
            .effects()
            .find(|e| e.id.0 == 2001)
            .unwrap()
            .kind
    );
    // found by name, behind the selected one
    hand.stage.chord(Key::Control, "k").await;
    let input = hand.stage.find("input[role=combobox]").await;
    input.send_keys("effect: delay").await.unwrap();
    hand.stage.find("#found [role=option]").await;
    input.send_keys(Key::Enter + "").await.unwrap();
    let two = "return document.querySelectorAll('[data-testid=chain-second] [role=listitem]').length === 2";
    hand.stage.wait_until("there are two", two).await;
    assert_eq!(order(&hand).await[1], [drive, EffectName::Delay]);
}

async fn without_all_effects_is_heard_as_loud_while_a_key_is_held() {
    let mut hand = Hand::new().await;
    hand.line("sine x1 -12dB").await;
    hand.stage.chord(Key::Alt, "3").await;
    add(&mut hand, "common", "Drive").await;
    set(&mut hand, "Drive", "30 dB").await;
    set(&mut hand, "Mix", "100%").await;
    set(&mut hand, "Out", "6 dB").await;
    hand.stage.wait_saved().await;
    hand.stage.press(Key::Escape + "").await;
    let power = |samples: &[f32]| {
        let sum: f64 = samples.iter().map(|x| f64::from(x * x)).sum();
        10.0 * (sum / samples.len() as f64).max(1e-12).log10()
    };
    let stage = &hand.stage;
    // what is played is read before the fader that evens it
    let read = "return document.querySelector('#app').__vue_app__.config.globalProperties.$pinia._s.get('playing').gain";
    let gain_now = async || stage.js(read, vec![]).await.as_f64().unwrap();
    let is_evened = format!("{read} > 1");
    let (driven, alone, gain) = stage
        .holding(60, async {
            tokio::time::sleep(std::time::Duration::from_millis(500)).await;
            let driven = stage.played().await.0;
            let keys = stage.driver.action_chain().key_down('o');
            keys.perform().await.unwrap();
            stage.wait_until("it is evened", &is_evened).await;
            let alone = stage.played().await.0;
            let gain = gain_now().await;
            let keys = stage.driver.action_chain().key_up('o');
            keys.perform().await.unwrap();
            (driven, alone, gain)
        })
        .await;
    let crest = |samples: &[f32]| {
        let peak = samples.iter().fold(0.0_f32, |a, x| a.max(x.abs()));
        20.0 * f64::from(peak).log10() - power(samples)
    };
    // a sine's crest is 3 dB, a driven one's nearly none
    assert!(crest(&driven) < 2.0, "{}", crest(&driven));
    assert!((crest(&alone) - 3.0).abs() < 0.3, "{}", crest(&alone));
    // as loud as each other: a sine this low weighs as much to the ear as what has harmonics, about
    let evened = power(&alone) + 20.0 * gain.log10();
    println!(
        "driven {:.1} dB, alone {:.1} dB, evened {evened:.1} dB",
        power(&driven),
        power(&alone)
    );
    assert!((evened - power(&driven)).abs() < 1.5);
    assert_eq!(gain_now().await, 1.0);
    // known by now, it is as loud at once, and stays so
    stage
        .holding(60, async {
            let keys = stage.driver.action_chain().key_down('o');
            keys.perform().await.unwrap();
            stage.wait_until("it is evened again", &is_evened).await;
            tokio::time::sleep(std::time::Duration::from_millis(600)).await;
            assert_eq!(gain_now().await, gain);
            let keys = stage.driver.action_chain().key_up('o');
            keys.perform().await.unwrap();
        })
        .await;
    assert_eq!(gain_now().await, 1.0);
    // a chain is gone without while its sign is selected: this one holds nothing, the next one all
    for (key, driven) in [('1', true), ('3', false)] {
        stage.press(key.to_string()).await;
        look(stage, &format!("finish-9-chain-{key}.png")).await;
        let crest = stage
            .holding(60, async {
                let keys = stage.driver.action_chain().key_down('o');
                keys.perform().await.unwrap();
                tokio::time::sleep(std::time::Duration::from_millis(700)).await;
                let crest = crest(&stage.played().await.0);
                let keys = stage.driver.action_chain().key_up('o');
                keys.perform().await.unwrap();
                crest
            })
            .await;
        assert_eq!(crest < 2.0, driven, "{key}: {crest}");
    }
    assert!(hand.patch().await.finish.common.effects[0].on);
}

#[tokio::test]
async fn demo_patches_are_finished() {
    let stage = zolvik_browser_tests::stage_with(true).await;
    for (name, select) in [
        ("Frost Fern", "EQ"),
        ("Shutter Stab", "Compressor"),
        ("Stone Hum", "Resonators"),
        ("Held Lantern", "Multiband compressor"),
        ("Spore Cloud", "Reverb"),
    ] {
        let all = stage.patches().await;
        let found = all.iter().find(|p| p["name"] == name).expect(name);
        stage.open(&format!("/patch/{}/finish", found["id"])).await;
        let css = format!("[role=listitem][aria-label='{select}']");
        stage.find(&css).await.click().await.unwrap();
        let drawn = "return document.querySelector('[data-testid=after]') !== null && document.querySelectorAll('[data-testid=band-change]').length > 0";
        stage.wait_until("it is drawn", drawn).await;
        look(
            &stage,
            &format!("finish-demo-{}.png", name.to_lowercase().replace(' ', "-")),
        )
        .await;
    }
}

async fn an_effect_is_off_in_an_articulation_and_on_in_the_base() {
    let stage = zolvik_browser_tests::stage_with(true).await;
    let patches = stage.patches().await;
    let fern = patches.iter().find(|p| p["name"] == "Frost Fern").unwrap();
    let id = fern["id"].as_i64().unwrap();
    stage.open(&format!("/patch/{id}/finish")).await;
    let toggle = "[data-testid=effect-2001] .toggle";
    stage.find(toggle).await;
    stage.click("+ Articulation").await;
    stage.find(toggle).await.click().await.unwrap();
    let marked = "return document.querySelector('[data-testid=effect-2001] .sign')?.title.startsWith('1 different')";
    stage.wait_until("the row is marked", marked).await;
    let on = |on: bool| {
        format!("return document.querySelector('{toggle}').getAttribute('aria-checked') === '{on}'")
    };
    stage.click("Base").await;
    stage.wait_until("the base has it on", &on(true)).await;
    let unmarked = "return document.querySelector('[data-testid=effect-2001] .sign') === null";
    stage
        .wait_until("nothing is different there", unmarked)
        .await;
    stage.wait_saved().await;
    let saved = stage.stored(id).await;
    assert!(saved.finish.effects().next().unwrap().on);
    // one step of undo, and another, lead back through both
    stage.chord(Key::Control, "z").await;
    stage
        .wait_until("off again, where it is heard", &on(false))
        .await;
    stage.chord(Key::Control, "z").await;
    stage.wait_until("as it was", &on(true)).await;
}
