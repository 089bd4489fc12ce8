//! Ways of tuning, several strips at once, scales, and what ratios make.

use thirtyfour::prelude::*;
use zolvik_browser_tests::{Stage, in_turn, stage};
use zolvik_patch::document::{TunedBy, UnitId};

in_turn! {
    tuning:
    pitch_is_given_as_ratio_semitones_or_hertz_and_always_named,
    seven_are_tuned_together_and_one_is_left_out,
    ratios_are_read_for_their_character_and_others_offered,
    a_scale_is_loaded_heard_and_a_faulty_one_names_its_line,
}

async fn text(stage: &Stage, css: &str) -> String {
    stage.find(css).await.text().await.unwrap()
}

async fn pitch_is_given_as_ratio_semitones_or_hertz_and_always_named() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    stage.select(1, false).await;
    assert_eq!(
        text(&stage, "[data-testid=pitch-note]").await,
        "220.0 Hz · A3 at A3"
    );
    stage.set_value("Ratio", "3:2").await;
    assert_eq!(
        text(&stage, "[data-testid=pitch-note]").await,
        "330.0 Hz · E4 +2 ct at A3"
    );
    stage.click("Semitones").await;
    assert_eq!(
        stage.value("Semitones").await,
        "+7.02 st",
        "it keeps its pitch"
    );
    stage.set_value("Semitones", "-12").await;
    stage.click("An octave up").await;
    stage.click("Fixed").await;
    assert_eq!(stage.value("Fixed").await, "220.0 Hz");
    stage.set_value("Fixed", "A4").await;
    let patch = stage.saved(id).await;
    let operator = patch.units[0].oscillator().unwrap();
    assert_eq!(
        (operator.tuned_by, operator.fixed_hz),
        (TunedBy::Fixed, 440.0)
    );
    // absurd values are refused at the field, which keeps what it had
    for absurd in ["0", "-3", "99k", "1/0"] {
        stage.set_value("Fixed", absurd).await;
        stage.find(".problem[role=alert]").await;
        stage.press(Key::Escape + "").await;
    }
    assert_eq!(stage.value("Fixed").await, "440.0 Hz");
}

async fn seven_are_tuned_together_and_one_is_left_out() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    for _ in 0..6 {
        stage.add_operator(1).await;
    }
    stage.select(1, false).await;
    for unit in 2..=6 {
        stage.select(unit, true).await;
    }
    assert!(
        text(&stage, "[data-testid=many]")
            .await
            .starts_with("6 strips")
    );
    stage.set_value("Attack", "300 ms").await;
    stage.set_value("Ratio", "2").await;
    stage.click("Spread").await;
    let patch = stage.saved(id).await;
    let cents = |id| {
        patch
            .unit(UnitId(id))
            .unwrap()
            .oscillator()
            .unwrap()
            .detune_cents
    };
    let mut list: Vec<f64> = (1..=6).map(cents).collect();
    list.sort_by(f64::total_cmp);
    assert_eq!(list, [-6.0, -3.6, -1.2, 1.2, 3.6, 6.0]);
    for unit in 1..=7u16 {
        let u = patch.unit(UnitId(unit)).unwrap();
        let set = (u.envelope.points[0].time_s, u.oscillator().unwrap().ratio);
        let expected = if unit == 7 { (0.005, 1.0) } else { (0.3, 2.0) };
        assert_eq!(set, expected, "operator {unit}");
    }
    // a drag moves each from where it was; one step of undo for all
    let (x, y) = stage.middle("[role=spinbutton][aria-label='Fine']").await;
    stage.drag((x, y), (x + 30, y)).await;
    let moved = stage.saved(id).await;
    let far = |p: &zolvik_patch::Patch, id| {
        p.unit(UnitId(id))
            .unwrap()
            .oscillator()
            .unwrap()
            .detune_cents
    };
    let by = far(&moved, 1) - far(&patch, 1);
    assert!(by > 50.0, "dragged by {by}");
    for unit in 2..=6 {
        let other = far(&moved, unit) - far(&patch, unit);
        assert!(
            (other - by).abs() < 1.01,
            "operator {unit} by {other}, not {by}"
        );
    }
    stage.click("Undo").await;
    assert_eq!(stage.saved(id).await, patch);
}

async fn ratios_are_read_for_their_character_and_others_offered() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    stage.select(1, false).await;
    stage.add_operator(2).await;
    stage.set_value("Ratio", "2").await;
    stage.select(1, false).await;
    assert!(
        text(&stage, "[data-testid=character]")
            .await
            .contains("odd harmonics only")
    );
    stage.select(2, false).await;
    stage.click("Ratios nearby, on Operator 1").await;
    let xpath = "//div[@class='offers']//button[b='2.01']";
    let offer = stage.driver.query(By::XPath(xpath)).first().await.unwrap();
    offer.click().await.unwrap();
    assert_eq!(
        stage.saved(id).await.units[1].oscillator().unwrap().ratio,
        2.01
    );
    stage.select(1, false).await;
    assert!(
        text(&stage, "[data-testid=character]")
            .await
            .contains("beating")
    );
}

async fn a_scale_is_loaded_heard_and_a_faulty_one_names_its_line() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    stage.select(1, false).await;
    stage.select_patch().await;
    let load = async |name: &str, text: &str| {
        let path = stage.downloads.path().join(name);
        std::fs::write(&path, text).unwrap();
        let input = stage.find("[data-testid=scale-file]").await;
        input.send_keys(path.to_str().unwrap()).await.unwrap();
    };
    load("bad.scl", "! x\nBad\n2\n100.0\nhigh\n").await;
    stage
        .wait_until("the line is named", "return document.querySelector('.inspector [role=alert]')?.textContent.includes('line 5') ?? false")
        .await;
    // A3 is 57: three below the middle key, so three steps of 1200/7 below the reference
    load("seven.scl", "Seven equal\n7\n171.4285714\n342.8571429\n514.2857143\n685.7142857\n857.1428571\n1028.5714286\n2/1\n").await;
    load("map.kbm", "0\n0\n127\n60\n60\n300.0\n7\n").await;
    stage
        .wait_until("the map tunes the keys", "return document.querySelector('[data-unit=\"1\"] .second').textContent.includes('222.9 Hz')")
        .await;
    let patch = stage.saved(id).await;
    assert_eq!(
        patch.scale.as_ref().map(|s| s.name.as_str()),
        Some("Seven equal")
    );
    let hz = 300.0 * 2f64.powf(-3.0 / 7.0);
    assert!((patch.scale.unwrap().key_hz(57).unwrap() - hz).abs() < 1e-4);
    stage.click("Remove").await;
    assert!(stage.saved(id).await.scale.is_none());
}
