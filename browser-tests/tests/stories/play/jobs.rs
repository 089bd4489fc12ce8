//! Whole jobs from an empty patch to the sound, as a designer would do them, with their gestures counted: a click, a key or chord, a drag,
//! and a text typed with its Enter are one each.

use thirtyfour::prelude::*;
use zolvik_browser_tests::in_turn;
use zolvik_patch::Patch;
use zolvik_patch::document::{FilterType, KindName, Send, UnitId, UnitKind};

use crate::hand::Hand;
use crate::measure::*;

in_turn! {
    layers:
    a_pad_of_six_carriers_and_noise_through_one_filter,
    a_detuned_formant_pad_with_cross_modulation,
    two_stacks_are_made_similar,
    unison_saw_square_and_sine_through_a_comb,
}

in_turn! {
    hats_and_basses:
    a_closed_and_an_open_hat_with_a_final_level_strip,
    a_bass_with_a_kick_and_a_mono_sub,
    a_layered_texture_in_three_groups,
}

fn filter_of(patch: &Patch) -> UnitId {
    let found = patch
        .units
        .iter()
        .find(|u| matches!(u.kind, UnitKind::Filter(_)));
    found.expect("a filter").id
}

fn goes_into(patch: &Patch, to: UnitId) -> usize {
    let into = |r: &&zolvik_patch::document::Route| matches!(r.send, Send::Audio { to: end, .. } if end == to);
    patch.routes.iter().filter(into).count()
}

async fn a_pad_of_six_carriers_and_noise_through_one_filter() {
    pad(&mut Hand::new().await).await;
}

async fn pad(hand: &mut Hand) {
    hand.line("saw -18 60L; saw 6ct -18 20L; saw -6ct -18 20R; saw x2 -22 60R; triangle x0.5 -14")
        .await;
    hand.menu("+ More", "Filter at the output").await;
    hand.set("Cutoff", "1.2k").await;
    hand.set("Resonance", "q 1.1").await;
    hand.line("noise > 7 through -40dB 40L").await;
    hand.chord(Key::Control, "a").await;
    hand.set("Attack", "900 ms").await;
    hand.set("Release", "2 s").await;
    let patch = hand.patch().await;
    assert_eq!(patch.units.len(), 8);
    assert_eq!(
        goes_into(&patch, filter_of(&patch)),
        7,
        "all through the one filter"
    );
    let places: Vec<f64> = patch
        .routes
        .iter()
        .filter_map(|r| match r.send {
            Send::Audio { pass_pan, .. } => Some(pass_pan),
            _ => None,
        })
        .collect();
    assert!(
        places.contains(&-0.6) && places.contains(&0.6),
        "{places:?}"
    );
    let sources = patch.units.iter().filter(|u| u.kind.name().is_source());
    assert!(sources.clone().all(|u| u.envelope.points[0].time_s == 0.9));
    let sound = note(&patch, 57, 3.0, 6.0);
    let (early, late) = (rms(&sound.left[..4_800]), rms(&sound.left[96_000..120_000]));
    assert!(
        late > 8.0 * early && late > 0.01,
        "it swells: {early} {late}"
    );
    hand.within("pad", 29);
}

async fn a_detuned_formant_pad_with_cross_modulation() {
    formant_pad(&mut Hand::new().await).await;
}

async fn formant_pad(hand: &mut Hand) {
    hand.line("2: low formant 7ct -14 50L > 3 0.6rad > out; 3: mid formant -7ct -14 50R > 2 0.6rad > out; high formant x2 -26").await;
    hand.chord(Key::Control, "a").await;
    hand.set("Attack", "1.2 s").await;
    hand.set("Release", "2.5 s").await;
    hand.key("\u{e00c}").await;
    hand.set("Unison voices", "3").await;
    hand.set("Detune", "9").await;
    let patch = hand.patch().await;
    let sends = |unit: u16| {
        patch
            .sends(UnitId(unit))
            .map(|r| r.send.target().map(|t| t.0))
            .collect::<Vec<_>>()
    };
    assert_eq!(
        (sends(2), sends(3)),
        (vec![Some(3), None], vec![Some(2), None])
    );
    assert_eq!(patch.voice.unison.copies, 3);
    assert!(rms(&note(&patch, 52, 3.0, 4.0).left[96_000..]) > 0.01);
    hand.within("formant pad", 31);
}

async fn two_stacks_are_made_similar() {
    stacks(&mut Hand::new().await).await;
}

async fn stacks(hand: &mut Hand) {
    hand.line("2: sine x3 > 1 2rad; sine x7 > 2 0.8rad").await;
    hand.chord(Key::Control, "a").await;
    hand.chord(Key::Control, "d").await;
    // the copies are selected: a little apart, and shorter
    hand.set("Fine", "5").await;
    hand.set("Release", "120 ms").await;
    hand.key("4").await;
    hand.set("Pan", "60 R").await;
    hand.key("1").await;
    hand.set("Pan", "60 L").await;
    let patch = hand.patch().await;
    assert_eq!(patch.units.len(), 6);
    let sends = |unit: u16| {
        patch
            .sends(UnitId(unit))
            .map(|r| r.send.target().map(|t| t.0))
            .collect::<Vec<_>>()
    };
    assert_eq!(
        (sends(5), sends(6), sends(4)),
        (vec![Some(4)], vec![Some(5)], vec![None]),
        "copies feed copies"
    );
    for unit in &patch.units[3..] {
        assert_eq!(unit.oscillator().unwrap().detune_cents, 5.0);
        assert_eq!(unit.envelope.points[2].time_s, 0.12);
    }
    let sound = note(&patch, 57, 1.0, 1.2);
    assert!(
        sound
            .left
            .iter()
            .zip(&sound.right)
            .any(|(l, r)| (l - r).abs() > 0.02)
    );
    hand.within("two stacks", 28);
}

async fn unison_saw_square_and_sine_through_a_comb() {
    comb(&mut Hand::new().await).await;
}

async fn comb(hand: &mut Hand) {
    hand.line("saw -16; square x0.5 -18").await;
    hand.menu("+ More", "Filter at the output").await;
    hand.choose("Type", "Comb +").await;
    hand.set("Cutoff at A3", "440 Hz").await;
    hand.set("Resonance", "60").await;
    hand.key("\u{e00c}").await;
    hand.set("Unison voices", "5").await;
    hand.set("Detune", "14").await;
    let patch = hand.patch().await;
    assert!(
        matches!(&patch.unit(UnitId(4)).unwrap().kind, UnitKind::Filter(f) if f.response == FilterType::CombPlus)
    );
    assert_eq!(goes_into(&patch, UnitId(4)), 3);
    assert!(rms(&note(&patch, 45, 1.0, 1.2).left) > 0.01);
    hand.within("unison through a comb", 19);
}

async fn a_closed_and_an_open_hat_with_a_final_level_strip() {
    hats(&mut Hand::new().await).await;
}

async fn hats(hand: &mut Hand) {
    hand.choose("Tuned by", "Fixed").await;
    hand.set("Fixed", "2400 Hz").await;
    hand.line("sine 3150Hz > 1 9rad; sine 4420Hz > 1 6rad; noise -26")
        .await;
    hand.menu("+ More", "Filter at the output").await;
    hand.choose("Type", "High-pass").await;
    hand.set("Cutoff", "5 kHz").await;
    hand.menu("+ More", "Level at the output").await;
    hand.set("Attack", "0").await;
    hand.set("Decay", "60 ms").await;
    hand.set("Sustain", "0").await;
    // the open one in the other state
    hand.click("State B").await;
    hand.set("Decay", "600 ms").await;
    let patch = hand.patch().await;
    let level = patch
        .units
        .iter()
        .find(|u| u.kind.name() == KindName::Level)
        .unwrap();
    assert_eq!(level.envelope.points[1].time_s, 0.6);
    let closed = patch.other.as_ref().unwrap();
    let early = |patch: &Patch| {
        let sound = note(patch, 60, 1.0, 2.0).left;
        (rms(&sound[480..4_800]), rms(&sound[12_000..16_800]))
    };
    let ((open, open_late), (shut, shut_late)) = (early(&patch), early(closed));
    assert!(open > 1e-3 && shut > 1e-3, "{open} {shut}");
    assert!(
        shut_late < 1e-3 * shut && open_late > 0.02 * open,
        "{shut_late} {open_late}"
    );
    hand.within("hats", 38);
}

async fn a_bass_with_a_kick_and_a_mono_sub() {
    bass(&mut Hand::new().await).await;
}

async fn bass(hand: &mut Hand) {
    hand.set("Note", "A1").await;
    hand.line("saw -12; sine x0.5 -10 1copies; sine 55Hz -6 1copies a0s d90ms s0%; sine 55Hz > 4 3rad a0s d40ms s0%").await;
    hand.key("1").await;
    hand.key("\u{e017}").await;
    hand.key("\u{e00c}").await;
    hand.set("Unison voices", "7").await;
    let patch = hand.patch().await;
    let sound = note(&patch, 33, 1.0, 1.2);
    let side: Vec<f32> = sound
        .left
        .iter()
        .zip(&sound.right)
        .map(|(l, r)| 0.5 * (l - r))
        .collect();
    let at = |samples: &[f32]| amplitude(&samples[9_600..43_200], RATE_HZ, 27.5);
    assert!(
        at(&side) < 1e-4 * at(&sound.left),
        "the sub stays in the middle"
    );
    assert!(
        rms(&sound.left[..2_400]) > 1.2 * rms(&sound.left[24_000..36_000]),
        "it begins with a kick"
    );
    hand.within("bass", 20);
}

async fn a_layered_texture_in_three_groups() {
    texture(&mut Hand::new().await).await;
}

async fn texture(hand: &mut Hand) {
    hand.line("1: sine x2 > 1 1rad").await;
    hand.chord(Key::Control, "a").await;
    hand.chord(Key::Control, "g").await;
    hand.line("triangle x0.5 -16 40L; triangle 4ct x0.5 -16 40R")
        .await;
    hand.chord(Key::Control, "g").await;
    hand.line("noise -44; far choir x1 -24").await;
    hand.chord(Key::Control, "g").await;
    hand.set("Attack", "2 s").await;
    hand.set("Level of Group 1", "-6").await;
    hand.set("Level of Group 2", "-3").await;
    let patch = hand.patch().await;
    assert_eq!(patch.groups.len(), 3);
    assert!(
        patch.groups.iter().all(|g| g.units.len() == 2),
        "{:?}",
        patch.groups
    );
    assert!(rms(&note(&patch, 57, 3.0, 4.0).left[96_000..]) > 3e-3);
    hand.within("texture", 40);
}

/// The same seven without a pointer, in a small window.
#[tokio::test]
async fn three_by_the_keyboard_alone_at_1024_by_700() {
    let mut hand = by_the_keyboard_alone(&[0, 2, 4]).await;
    let driver = hand.stage.driver.clone();
    // what no sheet shows is gone to as well, and what stands in a drawer that is closed
    hand.begin().await;
    driver.set_window_rect(0, 0, 800, 600 + 139).await.unwrap();
    for (name, param) in [
        ("gate", "arpeggio.gate"),
        ("modulators", "voice.modulators_cents"),
        ("operator 1 release", "point.time_s"),
    ] {
        hand.find(name).await;
        let there = format!(
            "const f = document.activeElement; return f.dataset.param === '{param}' && f.checkVisibility()"
        );
        hand.stage.wait_until(name, &there).await;
    }
}

#[tokio::test]
#[ignore = "minutes; cargo xtask measure keys"]
async fn all_seven_by_the_keyboard_alone_at_1024_by_700() {
    by_the_keyboard_alone(&[0, 1, 2, 3, 4, 5, 6]).await;
}

async fn by_the_keyboard_alone(jobs: &[usize]) -> Hand {
    let mut hand = Hand::with_keys_alone().await;
    let driver = hand.stage.driver.clone();
    driver.set_window_rect(0, 0, 1024, 700 + 139).await.unwrap();
    for job in jobs {
        hand.begin().await;
        match job {
            0 => pad(&mut hand).await,
            1 => formant_pad(&mut hand).await,
            2 => stacks(&mut hand).await,
            3 => comb(&mut hand).await,
            4 => hats(&mut hand).await,
            5 => bass(&mut hand).await,
            _ => texture(&mut hand).await,
        }
        let wide = "return document.documentElement.scrollWidth <= innerWidth";
        assert_eq!(hand.stage.js(wide, vec![]).await, true);
        hand.find("Go to the library").await;
        hand.stage.find(".list .row").await;
    }
    hand
}
