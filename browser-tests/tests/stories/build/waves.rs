//! Waves: stepped, chosen, drawn, imported; heard as they are.

use std::path::PathBuf;

use thirtyfour::prelude::*;
use zolvik_browser_tests::{Stage, in_turn, stage};
use zolvik_files::wav;
use zolvik_lab::{Note, render};
use zolvik_patch::document::Patch;
use zolvik_patch::wave::{Shape, Table, Wave};

use crate::measure::amplitude;

in_turn! {
    waves:
    waves_are_stepped_by_one_key_chosen_from_the_list_and_heard,
    bars_start_from_a_wave_and_are_drawn_typed_and_undone,
    a_recording_becomes_a_table_and_faulty_ones_say_why,
    a_wave_that_made_room_for_many_others_is_there_again_after_undo,
}

/// Harmonics of a patch's note against its first, rendered by the core.
fn rendered(patch: &Patch, hz: f64, harmonic: f64) -> f64 {
    let note = Note {
        key: 69,
        velocity: 127,
        hold_s: 1.0,
        length_s: 1.0,
        rate_hz: 48_000.0,
        controls: Default::default(),
    };
    let sound = render(patch, &note);
    let part = &sound.left[12_000..36_000];
    amplitude(part, 48_000.0, hz * harmonic) / amplitude(part, 48_000.0, hz)
}

async fn wave(stage: &Stage) -> String {
    stage.find("[data-testid=wave]").await.text().await.unwrap()
}

async fn waves_are_stepped_by_one_key_chosen_from_the_list_and_heard() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    stage.select(1, false).await;
    assert_eq!(wave(&stage).await, "Sine");
    // one key, while a note sounds
    stage
        .holding(69, async {
            stage.press("]").await;
            stage.press("]").await;
        })
        .await;
    assert_eq!(wave(&stage).await, "Saw");
    let patch = stage.saved(id).await;
    assert_eq!(
        patch.units[0].oscillator().unwrap().wave,
        Wave::Shape(Shape::Saw)
    );
    assert!((rendered(&patch, 440.0, 2.0) - 0.5).abs() < 0.01);

    // the audio thread plays the same wave: harmonics of a saw fall as 1/n
    let (samples, rate_hz) = stage
        .holding(69, async {
            stage
                .wait_until(
                    "the saw reaches the audio thread",
                    "const p = document.querySelector('#app').__vue_app__.config.globalProperties.$pinia._s.get('playing');\
                     const a = new Float32Array(1024); p.scope(a); let jump = 0, peak = 0;\
                     for (let i = 1; i < 1024; i++) { jump = Math.max(jump, Math.abs(a[i] - a[i - 1])); peak = Math.max(peak, Math.abs(a[i])) }\
                     return peak > 0.05 && jump > 0.6 * peak",
                )
                .await;
            stage.played().await
        })
        .await;
    let first = amplitude(&samples, rate_hz, 440.0);
    for n in [2.0, 3.0, 4.0] {
        let share = amplitude(&samples, rate_hz, 440.0 * n) / first;
        assert!((share - 1.0 / n).abs() < 0.06, "harmonic {n}: {share}");
    }

    // the list, by mouse; a position then scans the table
    stage
        .find("[data-testid=wave]")
        .await
        .click()
        .await
        .unwrap();
    let xpath = "//button[@role='option' and normalize-space(.)='Reed pipe']";
    let choice = stage.driver.query(By::XPath(xpath)).first().await.unwrap();
    choice.click().await.unwrap();
    stage.press(Key::Escape + "").await;
    stage.set_value("Position", "80%").await;
    let patch = stage.saved(id).await;
    assert_eq!(
        patch.units[0].oscillator().unwrap().wave,
        Wave::Table(Table::ReedPipe)
    );
    assert_eq!(patch.units[0].oscillator().unwrap().position, 0.8);
    assert!(
        rendered(&patch, 440.0, 2.0) < 0.01,
        "a pipe has odd harmonics"
    );
    assert!(rendered(&patch, 440.0, 5.0) > 0.5, "blown hard");
    for _ in 0..4 {
        stage.click("Undo").await;
    }
    assert_eq!(
        stage.saved(id).await.units[0].oscillator().unwrap().wave,
        Wave::default()
    );
}

async fn bars_start_from_a_wave_and_are_drawn_typed_and_undone() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    stage.select(1, false).await;
    stage.press("]").await;
    stage.press("]").await;
    stage.click("Draw the harmonics").await;
    let bars = "svg[aria-label='Amplitudes of the harmonics']";
    let rect = stage.at_rest(bars).await;
    // a stroke over the first ten bars at three quarters of the height
    let y = (rect.y + rect.height * 0.25) as i64;
    stage
        .drag(((rect.x + 5.0) as i64, y), ((rect.x + 108.0) as i64, y))
        .await;
    let patch = stage.saved(id).await;
    let Wave::Bars(drawn) = &patch.units[0].oscillator().unwrap().wave else {
        panic!("the saw has become bars");
    };
    for n in 1..=10 {
        let (amplitude, phase) = drawn.harmonic(n);
        assert!((amplitude - 0.75).abs() < 0.02, "bar {n}: {amplitude}");
        // the saw's phases stay: every second harmonic is turned
        let expected = if n % 2 == 1 { 0.0 } else { 0.5 };
        assert!((phase - expected).abs() < 0.01, "bar {n}: phase {phase}");
    }
    let (amplitude, _) = drawn.harmonic(11);
    assert!(
        (amplitude - 1.0 / 11.0).abs() < 0.01,
        "untouched bars keep the saw's"
    );
    assert!(
        (rendered(&patch, 440.0, 7.0) - 1.0).abs() < 0.02,
        "equal bars sound equal"
    );

    // the computer's keys play on while the harmonics are drawn
    let chain = stage.driver.action_chain().key_down('q');
    chain.perform().await.unwrap();
    stage
        .wait_until("a note is heard", "return document.querySelector('[data-testid=voices]').textContent.trim() === '1 voice'")
        .await;
    let chain = stage.driver.action_chain().key_up('q');
    chain.perform().await.unwrap();

    // typed, for the bar touched last
    for (typed, refused) in [("300", true), ("12,5", false)] {
        let shown = stage.find("[aria-label^='Amplitude in percent']").await;
        if shown.tag_name().await.unwrap() == "button" {
            shown.click().await.unwrap();
        }
        let input = stage
            .find("input[aria-label='Amplitude in percent, typed']")
            .await;
        input.send_keys(Key::Control + "a").await.unwrap();
        input.send_keys(typed).await.unwrap();
        input.send_keys(Key::Enter + "").await.unwrap();
        if refused {
            let why = stage
                .find(".typed [role=alert]")
                .await
                .text()
                .await
                .unwrap();
            assert!(why.contains("0") && why.contains("100"), "{why}");
        }
    }
    let patch = stage.saved(id).await;
    let Wave::Bars(typed) = &patch.units[0].oscillator().unwrap().wave else {
        panic!("still bars");
    };
    assert_eq!(typed.harmonic(10).0, 0.125);
    stage
        .find(".p-dialog-close-button")
        .await
        .click()
        .await
        .unwrap();
    stage.click("Undo").await;
    stage.click("Undo").await;
    let wave = stage.saved(id).await.units[0]
        .oscillator()
        .unwrap()
        .wave
        .clone();
    assert_eq!(wave, Wave::Shape(Shape::Saw), "a whole stroke is one step");
}

fn file(stage: &Stage, name: &str, bytes: &[u8]) -> PathBuf {
    let path = stage.downloads.path().join(name);
    std::fs::write(&path, bytes).unwrap();
    path
}

async fn import(stage: &Stage, path: &std::path::Path) {
    let input = stage.find("[data-testid=table-file]").await;
    input.send_keys(path.to_str().unwrap()).await.unwrap();
    stage.click("Import").await;
}

async fn a_recording_becomes_a_table_and_faulty_ones_say_why() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    stage.select(1, false).await;
    stage
        .find("[data-testid=wave]")
        .await
        .click()
        .await
        .unwrap();
    stage.click("Import a WAV as table").await;

    let minutes = vec![0.1; 600 * 8000];
    let long = wav::write(&minutes, &minutes, 8000, wav::Depth::Int16).unwrap();
    for (name, bytes, words) in [
        ("notes.wav", b"no sound at all".to_vec(), "no WAV file"),
        ("long.wav", long, "600 s"),
        (
            "silent.wav",
            wav::write(&[0.0; 4800], &[0.0; 4800], 48_000, wav::Depth::Int16).unwrap(),
            "silent",
        ),
    ] {
        import(&stage, &file(&stage, name, &bytes)).await;
        let script = format!(
            "return document.querySelector('.p-dialog [role=alert]')?.textContent.includes('{words}') ?? false"
        );
        stage
            .wait_until(&format!("{name} is refused for “{words}”"), &script)
            .await;
    }
    assert!(
        stage.saved(id).await.tables.is_empty(),
        "nothing was changed"
    );

    // a tone of 200 Hz with a strong third harmonic
    let tone: Vec<f32> = (0..24_000)
        .map(|i| {
            let angle = std::f32::consts::TAU * 200.0 * i as f32 / 48_000.0;
            0.5 * angle.sin() + 0.25 * (3.0 * angle).sin()
        })
        .collect();
    let good = wav::write(&tone, &tone, 48_000, wav::Depth::Int24).unwrap();
    import(&stage, &file(&stage, "Glasshouse fan.wav", &good)).await;
    stage
        .wait_until(
            "the table is the operator's wave",
            "return document.querySelector('[data-testid=wave]').textContent.includes('Glasshouse fan')",
        )
        .await;
    let patch = stage.saved(id).await;
    assert_eq!(patch.tables[0].name, "Glasshouse fan");
    assert!(
        (rendered(&patch, 440.0, 3.0) - 0.5).abs() < 0.02,
        "it sounds like the recording"
    );
    // kept in the patch file, and back after a reload
    stage.open(&format!("/patch/{id}")).await;
    stage.find("[data-unit='1']").await;
    stage.select(1, false).await;
    assert_eq!(wave(&stage).await, "Glasshouse fan");
}

async fn a_wave_that_made_room_for_many_others_is_there_again_after_undo() {
    let stage = stage().await;
    stage.new_patch().await;
    let drawn = "const doc = document.querySelector('#app').__vue_app__.config.globalProperties.$pinia._s.get('document');\
        const bar = (harmonic, amplitude) => doc.alter({ ask: 'draw_bar', unit: 1, harmonic, amplitude, phase_turns: null, gesture: null });";
    // the second harmonic is as strong as the first
    stage
        .js(&format!("{drawn} bar(2, 1); bar(1, 1)"), vec![])
        .await;
    let second = stage.holding(57, loud_second(&stage)).await;
    assert!(second > 0.3, "drawn: {second}");
    // more waves than the audio thread keeps, one after the other, each heard of
    for n in 0..60 {
        stage
            .js(
                &format!(
                    "{drawn} bar({}, {})",
                    3 + n % 20,
                    0.2 + f64::from(n) / 100.0
                ),
                vec![],
            )
            .await;
        stage.wait_until("it is made", "return document.querySelector('#app').__vue_app__.config.globalProperties.$pinia._s.get('playing').workersLoad().waiting === 0").await;
    }
    stage
        .js(
            &format!("{drawn} for (let n = 0; n < 60; n++) doc.undo()"),
            vec![],
        )
        .await;
    tokio::time::sleep(std::time::Duration::from_millis(800)).await;
    let second = stage.holding(57, loud_second(&stage)).await;
    assert!(second > 0.3, "after undo it is no sine: {second}");
}

/// The second harmonic of the held A3, beside the first.
async fn loud_second(stage: &zolvik_browser_tests::Stage) -> f64 {
    let mut second = 0.0;
    stage
        .until("the key sounds", async || {
            tokio::time::sleep(std::time::Duration::from_millis(400)).await;
            let (samples, rate_hz) = stage.played().await;
            let first = amplitude(&samples, rate_hz, 220.0);
            second = amplitude(&samples, rate_hz, 440.0) / first.max(1e-9);
            first > 1e-3
        })
        .await;
    second
}
