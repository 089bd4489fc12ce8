//! Effects in their chains: moved, passed by, swept, left out.

use super::finishing::{add, set};
use crate::hand::Hand;
use thirtyfour::prelude::*;
use zolvik_browser_tests::in_turn;
use zolvik_patch::finish::EffectName;

in_turn! {
    effects:
    an_eq_band_sweeps_by_a_shape_while_its_twin_goes_the_other_way,
    rows_are_dragged_passed_by_heard_up_to_and_kept,
    without_all_effects_is_heard_as_loud_while_a_key_is_held,
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
    hand.stage.look("finish-6-eq.png").await;
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
        hand.stage.look(&format!("finish-7-menu-{cell}.png")).await;
        hand.key(Key::Escape + "").await;
    }
    hand.stage.wait_saved().await;
    let patch = hand.patch().await;
    assert_eq!(patch.movement.links.len(), 2);
    // the twin is turned round
    hand.click_on("[data-testid=effect-links] .link:last-child [title^='Turn round']")
        .await;
    hand.stage.wait_saved().await;
    hand.stage.look("finish-8-swept.png").await;
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
        stage.look(&format!("finish-9-chain-{key}.png")).await;
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
