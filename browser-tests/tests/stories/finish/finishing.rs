//! Finishing a sound with effects, as one does it. Gestures are counted as in the whole jobs.

use thirtyfour::prelude::*;
use zolvik_browser_tests::in_turn;
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

/// Adds an effect to a chain by typing its name.
pub(crate) async fn add(hand: &mut Hand, chain: &str, name: &str) {
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
pub(crate) async fn set(hand: &mut Hand, label: &str, text: &str) {
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
    hand.stage.look("finish-1-empty.png").await;
    add(&mut hand, "first", "Drive").await;
    set(&mut hand, "Drive", "14 dB").await;
    set(&mut hand, "Mix", "80%").await;
    hand.stage.look("finish-2-drive.png").await;
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
    hand.stage.look("finish-3-growl.png").await;
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
    hand.stage.look("finish-4-hat.png").await;
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
    hand.stage.look("finish-5-stab.png").await;
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
        stage
            .look(&format!(
                "finish-demo-{}.png",
                name.to_lowercase().replace(' ', "-")
            ))
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
