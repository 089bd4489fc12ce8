//! From an empty data folder to a rendered bell, and back after the server was killed.

use thirtyfour::prelude::*;
use zolvik_browser_tests::{Server, Stage, stage};
use zolvik_lab::spectrum::spectrum_at;
use zolvik_patch::document::{Send, UnitId};

/// Amplitude in dB around a frequency of a mono mix, from the core's own spectrum.
fn level_at(samples: &[f32], rate_hz: f64, time_s: f64, hz: f64) -> f32 {
    const ROWS: usize = 960;
    let rows = spectrum_at(samples, samples, rate_hz, time_s, ROWS).rows_db;
    let share = (hz / 30.0).ln() / (18_000.0f64 / 30.0).ln();
    let row = (share * ROWS as f64) as usize;
    rows[row.saturating_sub(3)..(row + 4).min(ROWS)]
        .iter()
        .copied()
        .fold(-200.0, f32::max)
}

async fn press_key(stage: &Stage, key: u8) {
    let (x, y) = stage.middle(&format!(".board [data-key='{key}']")).await;
    stage
        .driver
        .action_chain()
        .move_to(x, y + 20)
        .click_and_hold()
        .perform()
        .await
        .unwrap();
    stage.wait_until("the note sounds", "return document.querySelector('[data-testid=voices]').textContent.trim() === '1 voice' && document.querySelector('[data-testid=peak]').textContent !== '−∞ dB'").await;
    stage
        .driver
        .action_chain()
        .release()
        .perform()
        .await
        .unwrap();
    stage.wait_until("the note ends", "return document.querySelector('[data-testid=voices]').textContent.trim() === '0 voices'").await;
}

#[tokio::test]
async fn a_bell_in_a_minute_kept_rendered_and_found_again() {
    let mut stage = stage().await;
    stage.open("/").await;
    assert!(
        stage
            .find(".invite")
            .await
            .text()
            .await
            .unwrap()
            .contains("Press a key or click"),
        "the first gesture is invited"
    );
    stage.click("New patch").await;
    stage.find("[data-unit='1']").await;
    press_key(&stage, 57).await;

    // a modulator, tuned and turned up
    stage
        .find("[data-unit='1'] .head")
        .await
        .click()
        .await
        .unwrap();
    stage
        .find(".add .btn:nth-child(2)")
        .await
        .click()
        .await
        .unwrap();
    stage.find("[data-unit='2'][aria-selected=true]").await;
    stage.set_value("Ratio", "3:2 + 2").await;
    assert_eq!(stage.value("Ratio").await, "3.50 ×");
    stage.set_value("Index", "2.4").await;
    assert_eq!(stage.value("Index").await, "2.40 rad");
    assert!(
        stage
            .find("[data-send] .pair")
            .await
            .text()
            .await
            .unwrap()
            .contains("2 : 7"),
        "the ratio is read as a pair"
    );
    stage.set_value("Attack", "0").await;
    stage.set_value("Decay", "1.2 s").await;
    stage.set_value("Sustain", "0").await;
    press_key(&stage, 57).await;

    // its envelope by hand: the end of the decay further right, the bend follows
    let before = stage.value("Decay").await;
    let from = stage
        .middle("[data-unit='2'] [data-handle='1'] .square")
        .await;
    stage.drag(from, (from.0 + 60, from.1)).await;
    assert_ne!(
        stage.value("Decay").await,
        before,
        "dragging the point moves the decay"
    );

    // the carrier rings
    stage
        .find("[data-unit='1'] .head")
        .await
        .click()
        .await
        .unwrap();
    stage.set_value("Decay", "2.5 s").await;
    stage.set_value("Sustain", "0%").await;
    stage.set_value("Release", "800 ms").await;

    // feedback: the number dragged onto its own strip
    let grip = stage.middle("[data-unit='2'] .grip").await;
    let own = stage.middle("[data-unit='2'] .plot").await;
    stage.drag(grip, own).await;
    stage.wait_until("the loop is there", "return [...document.querySelectorAll('.send .name')].some(n => n.textContent === 'Feedback')").await;
    stage.wait_saved().await;
    let id = stage.patches().await[0]["id"].as_i64().unwrap();
    let patch = stage.stored(id).await;
    assert!(
        patch.sends(UnitId(2)).any(
            |r| matches!(r.send, Send::Phase { to: UnitId(2), index_rad } if index_rad == 0.5)
        )
    );
    assert!(
        patch.sends(UnitId(2)).any(
            |r| matches!(r.send, Send::Phase { to: UnitId(1), index_rad } if index_rad == 2.4)
        )
    );

    // back to the start and forward again
    let steps = 30;
    for _ in 0..steps {
        stage
            .driver
            .action_chain()
            .key_down(Key::Control)
            .send_keys("z")
            .key_up(Key::Control)
            .perform()
            .await
            .unwrap();
    }
    stage.wait_until("all is undone", "return document.querySelectorAll('[data-unit]').length === 1 && document.querySelector('[aria-label=Undo]').disabled").await;
    stage.wait_saved().await;
    assert_eq!(stage.stored(id).await, zolvik_patch::Patch::empty());
    for _ in 0..steps {
        stage
            .driver
            .action_chain()
            .key_down(Key::Control)
            .send_keys("y")
            .key_up(Key::Control)
            .perform()
            .await
            .unwrap();
    }
    stage
        .wait_until(
            "all is redone",
            "return document.querySelector('[aria-label=Redo]').disabled",
        )
        .await;
    stage.wait_saved().await;
    assert_eq!(stage.stored(id).await, patch, "redo is exact");

    // a name, then the server dies and comes back
    stage.click("Patch name: Untitled. Rename").await;
    let field = stage.find("input[aria-label='Patch name']").await;
    field.send_keys(Key::Control + "a").await.unwrap();
    field.send_keys("First Bell").await.unwrap();
    field.send_keys(Key::Enter + "").await.unwrap();
    stage
        .wait_until(
            "the name stands",
            "return document.querySelector('.title').textContent.trim() === 'First Bell'",
        )
        .await;
    stage.wait_until("a save begins", "return !document.querySelector('[data-testid=save-state]').classList.contains('saved')").await;
    stage.wait_saved().await;
    stage.server.kill();
    let port = stage.server.port;
    stage.server = Server::start(stage.data.path(), port, false);
    stage.open("/").await;
    stage
        .find("[role=row][aria-label='First Bell'] .acts .btn")
        .await
        .click()
        .await
        .unwrap();
    stage
        .wait_until(
            "the fine picture",
            "return document.querySelector('.score')?.dataset.exact === 'true'",
        )
        .await;
    assert_eq!(stage.stored(id).await.meta.name, "First Bell");

    // rendered, it has the partials the picture shows
    stage
        .wait_until(
            "partials are named",
            "return document.querySelectorAll('[data-testid=partial]').length >= 3",
        )
        .await;
    let shown = stage.js("return [[...document.querySelectorAll('[data-testid=partial]')].map(p => p.lastChild.textContent.trim()), document.querySelector('[data-testid=cursor]').textContent]", vec![]).await;
    stage.click("Render").await;
    stage.click("32 bit float").await;
    stage.click("Save WAV").await;
    let wav = stage.download("wav").await;
    let mut reader = hound::WavReader::open(wav).unwrap();
    assert_eq!(reader.spec().sample_rate, 48_000);
    let samples: Vec<f32> = reader.samples::<f32>().map(Result::unwrap).collect();
    let mono: Vec<f32> = samples.chunks(2).map(|f| 0.5 * (f[0] + f[1])).collect();
    let cursor_s = shown[1]
        .as_str()
        .unwrap()
        .split(' ')
        .next()
        .unwrap()
        .parse::<f64>()
        .unwrap()
        / 1000.0;
    let strongest =
        level_at(&mono, 48_000.0, cursor_s, 220.0).max(level_at(&mono, 48_000.0, cursor_s, 550.0));
    for label in shown[0].as_array().unwrap() {
        let (number, unit) = label.as_str().unwrap().split_once(' ').unwrap();
        let hz = number.parse::<f64>().unwrap() * if unit == "kHz" { 1000.0 } else { 1.0 };
        let db = level_at(&mono, 48_000.0, cursor_s, hz);
        assert!(
            db > strongest - 66.0,
            "the file has the shown partial at {hz} Hz: {db} dB beside {strongest} dB"
        );
        // 220 Hz and a modulator at 3.5 times: every partial lies on 220 + n 770 or its mirror
        let on_grid = (-20..20).any(|n: i32| {
            ((220.0 + 770.0 * f64::from(n)).abs() - hz).abs()
                < if unit == "kHz" { 8.0 } else { 2.0 }
        });
        assert!(on_grid, "{hz} Hz belongs to the bell");
    }
}
