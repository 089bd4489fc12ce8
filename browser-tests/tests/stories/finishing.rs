//! Finishing a sound with effects, as one does it. Gestures are counted as in the whole jobs.

use std::path::PathBuf;

use thirtyfour::prelude::*;
use zolvik_browser_tests::Stage;
use zolvik_lab::bands::band_powers;
use zolvik_lab::{Note, render};
use zolvik_patch::Patch;
use zolvik_patch::finish::EffectName;

use crate::hand::Hand;

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

#[tokio::test]
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

#[tokio::test]
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
