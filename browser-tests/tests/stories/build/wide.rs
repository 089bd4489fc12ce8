//! Wide and centred at once, on the screen: a saw of seven copies over a sub of one, a stack of places through one filter, and a hat
//! that its level strip ends.

use zolvik_browser_tests::{Stage, in_turn, stage};
use zolvik_lab::rendered::Rendered;
use zolvik_patch::document::{Quality, UnitId};

use crate::measure::*;

in_turn! {
    copies_and_quality:
    a_saw_of_seven_wide_copies_over_a_sub_of_one,
    a_high_key_takes_the_quality_it_needs,
    six_carriers_through_one_filter_keep_their_places,
}

in_turn! {
    levels_and_rates:
    a_hat_ends_with_the_level_strip_behind_everything,
    one_patch_saved_at_every_rate_and_quality_sounds_the_same,
    a_level_strip_after_a_group_ends_what_is_in_it,
}

fn side(sound: &Rendered) -> Vec<f32> {
    let pairs = sound.left.iter().zip(&sound.right);
    pairs.map(|(l, r)| 0.5 * (l - r)).collect()
}

async fn a_saw_of_seven_wide_copies_over_a_sub_of_one() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    stage.set_value("Note", "A2").await;
    stage.select(1, false).await;
    stage.press("]").await;
    stage.press("]").await;
    stage.click("Unison voices").await;
    stage.set_value("Unison voices", "7").await;
    stage.look("saw.png").await;
    stage.add_operator(1).await;
    stage.set_value("Ratio", "0.5").await;
    stage.set_value("Unison voices", "1").await;
    stage.look("sub.png").await;
    let patch = stage.saved(id).await;
    let counts: Vec<u8> = patch.units.iter().map(|u| u.copies).collect();
    assert_eq!(counts, [7, 1]);
    let sound = note(&patch, 45, 2.5, 3.0);
    let middle = 9_600..105_600;
    let (sub, apart) = (
        amplitude(&sound.left[middle.clone()], RATE_HZ, 55.0),
        amplitude(&side(&sound)[middle.clone()], RATE_HZ, 55.0),
    );
    assert!(apart < 1e-5 * sub, "{apart} beside {sub}");
    let wide = rms(&side(&sound)[middle.clone()]) / rms(&sound.left[middle]);
    assert!(wide > 0.1, "the saw is wide: {wide}");
}

/// A bright sound high up takes more times the rate, says so, and what is heard of it is what theory has, with nothing mirrored.
async fn a_high_key_takes_the_quality_it_needs() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    stage.select(1, false).await;
    stage.add_operator(2).await;
    stage.set_value("Ratio", "3.01").await;
    stage.set_value("Index", "6").await;
    stage.set_value("Note", "E3").await;
    stage.select_patch().await;
    let cost = async || stage.find("[data-testid=cost]").await.text().await.unwrap();
    assert!(!cost().await.contains("×"), "{}", cost().await);
    stage.set_value("Note", "E7").await;
    stage
        .wait_until(
            "the cost says so",
            "return document.querySelector('[data-testid=cost]').textContent.includes('at 4 × for E7')",
        )
        .await;
    stage.look("quality.png").await;
    let patch = stage.saved(id).await;
    assert_eq!(patch.voice.quality, Quality::Auto);
    // 2637 Hz and 3.01 times as much by 6 radians: 13 sidebands reach 106 kHz
    let (carrier, modulator) = (2_637.020, 2_637.020 * 3.01);
    stage.choose("Playing", "1 ×").await;
    let coarse = stage.saved(id).await;
    let mirrored = |patch| {
        let sound = note(patch, 100, 1.0, 1.2).left;
        let level = |hz: f64| amplitude(&sound[4_800..38_400], RATE_HZ, hz);
        let loudest = level(carrier - modulator).max(level(carrier + modulator));
        // the fourth sideband below, 29 kHz, comes back at 19
        level(48_000.0 + carrier - 4.0 * modulator) / loudest
    };
    assert!(mirrored(&coarse) > 0.01, "{}", mirrored(&coarse));
    assert!(mirrored(&patch) < 1e-3, "{}", mirrored(&patch));
}

async fn six_carriers_through_one_filter_keep_their_places() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    let ratios = ["1", "2", "3", "4", "5", "6"];
    let pans = ["L100", "L60", "L20", "R20", "R60", "R100"];
    for (n, ratio) in ratios.iter().enumerate().skip(1) {
        stage.select(n as u16, false).await;
        stage.add_operator(1).await;
        stage.set_value("Ratio", ratio).await;
    }
    stage.select(1, false).await;
    stage.menu("+ More", "Filter at the output").await;
    stage.set_value("Cutoff", "18k").await;
    stage.set_value("Key follow", "0").await;
    for (n, pan) in pans.iter().enumerate() {
        stage.select(n as u16 + 1, false).await;
        stage.set_value("Pan", pan).await;
    }
    stage.look("places.png").await;
    let patch = stage.saved(id).await;
    let sound = note(&patch, 57, 1.0, 1.2);
    let mut expected = vec![];
    for (n, ratio) in (1..=6).enumerate() {
        let hz = 220.0 * f64::from(ratio);
        let levels = [&sound.left, &sound.right].map(|s| amplitude(&s[9_600..43_200], RATE_HZ, hz));
        let place = [-1.0, -0.6, -0.2, 0.2, 0.6, 1.0][n];
        let angle = (place + 1.0) * std::f64::consts::FRAC_PI_4;
        let whole = levels[0].hypot(levels[1]);
        expected.push(whole);
        for (level, share) in levels.iter().zip([angle.cos(), angle.sin()]) {
            assert!((level / whole - share).abs() < 1e-3, "{n}: {levels:?}");
        }
    }
    let patch_straight = {
        let mut patch = patch.clone();
        patch.unit_mut(UnitId(7)).unwrap().on = false;
        patch
    };
    let sound = note(&patch_straight, 57, 1.0, 1.2);
    for (n, whole) in expected.iter().enumerate() {
        let hz = 220.0 * (n as f64 + 1.0);
        let levels = [&sound.left, &sound.right].map(|s| amplitude(&s[9_600..43_200], RATE_HZ, hz));
        let off = 20.0 * (levels[0].hypot(levels[1]) / whole).log10();
        assert!(off.abs() < 0.02, "{n}: {off} dB with the filter off");
    }
}

async fn a_hat_ends_with_the_level_strip_behind_everything() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    stage.select(1, false).await;
    stage.set_value("Ratio", "13.7").await;
    stage.set_value("Sustain", "100%").await;
    stage.menu("+ More", "Noise").await;
    stage.menu("+ More", "Filter at the output").await;
    stage.choose("Type", "High-pass").await;
    stage.set_value("Cutoff", "6k").await;
    stage.menu("+ More", "Level at the output").await;
    stage.set_value("Attack", "0").await;
    stage.set_value("Decay", "120 ms").await;
    stage.set_value("Sustain", "0").await;
    stage.look("hat.png").await;
    let patch = stage.saved(id).await;
    let sound = note(&patch, 60, 1.0, 1.2);
    assert!(rms(&sound.left[..2_400]) > 0.01);
    assert!(sound.left[9_600..].iter().all(|s| *s == 0.0), "ended");
    // a held key lets its voice go
    stage.set_value("Decay", "700 ms").await;
    stage.wait_saved().await;
    let voices = "return document.querySelector('[data-testid=voices]').textContent.trim()";
    let ended = stage
        .holding(60, async {
            tokio::time::sleep(std::time::Duration::from_millis(1_500)).await;
            stage.js(voices, vec![]).await
        })
        .await;
    assert_eq!(ended.as_str(), Some("0 voices"));
}

/// Harmonics of A3 below 10 kHz in the steady part of a file that was just saved.
async fn saved_harmonics(stage: &Stage, rate: &str) -> Vec<f64> {
    stage.click("Render").await;
    stage.click("32 bit float").await;
    stage.click(rate).await;
    stage.click("Save WAV").await;
    let file = stage.download("wav").await;
    let mut reader = hound::WavReader::open(&file).unwrap();
    let rate_hz = f64::from(reader.spec().sample_rate);
    let samples: Vec<f32> = reader.samples::<f32>().map(Result::unwrap).collect();
    std::fs::remove_file(&file).unwrap();
    let left: Vec<f32> = samples.chunks(2).map(|pair| pair[0]).collect();
    let steady = &left[(0.5 * rate_hz) as usize..(1.0 * rate_hz) as usize];
    (1..45)
        .map(|n| amplitude(steady, rate_hz, 220.0 * f64::from(n)))
        .collect()
}

/// Whatever rate and quality are chosen on the screen, the saved file has the same spectrum below 10 kHz.
async fn one_patch_saved_at_every_rate_and_quality_sounds_the_same() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    stage.select(1, false).await;
    stage.press("]").await;
    stage.press("]").await;
    stage.set_value("Sustain", "100%").await;
    stage.add_operator(2).await;
    stage.set_value("Sustain", "100%").await;
    stage.menu("+ More", "Filter at the output").await;
    stage.set_value("Cutoff", "3k").await;
    stage.set_value("Resonance", "40%").await;
    stage.set_value("Sweep", "0").await;
    stage.wait_saved().await;
    let exact = saved_harmonics(&stage, "192 kHz").await;
    let strongest = exact.iter().copied().fold(0.0, f64::max);
    assert!(strongest > 0.01, "{strongest}");
    let mut saved = vec![];
    for rate in ["44.1 kHz", "48 kHz", "96 kHz"] {
        saved.push((rate, saved_harmonics(&stage, rate).await));
    }
    stage.press(thirtyfour::Key::Escape).await;
    stage.select_patch().await;
    stage.choose("Rendering", "8 ×").await;
    stage.wait_saved().await;
    saved.push(("8 ×", saved_harmonics(&stage, "48 kHz").await));
    for (what, levels) in saved {
        for (n, (level, exact)) in levels.iter().zip(&exact).enumerate() {
            let off = 20.0 * (level / exact).log10();
            let heard = *exact > 1e-3 * strongest;
            assert!(
                !heard || off.abs() < 0.5,
                "{what}, harmonic {}: {off} dB",
                n + 1
            );
        }
    }
    assert_eq!(stage.saved(id).await.units.len(), 3);
}

async fn a_level_strip_after_a_group_ends_what_is_in_it() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    stage.add_operator(1).await;
    stage.set_value("Ratio", "3").await;
    stage.add_operator(1).await;
    stage.set_value("Ratio", "7").await;
    stage.select(2, false).await;
    stage.select(3, true).await;
    stage.click("Group 2").await;
    stage.select(2, false).await;
    stage.menu("+ More", "Level after Group 1").await;
    stage.set_value("Attack", "0").await;
    stage.set_value("Decay", "100 ms").await;
    stage.set_value("Sustain", "0").await;
    stage.look("group.png").await;
    let patch = stage.saved(id).await;
    let sound = note(&patch, 57, 1.0, 1.2);
    let late = &sound.left[24_000..43_200];
    assert!(
        amplitude(late, RATE_HZ, 220.0) > 0.05,
        "the one beside it goes on"
    );
    for hz in [660.0, 1_540.0] {
        assert!(amplitude(&sound.left[..2_400], RATE_HZ, hz) > 0.02);
        assert!(amplitude(late, RATE_HZ, hz) < 1e-4, "{hz} Hz has ended");
    }
}
