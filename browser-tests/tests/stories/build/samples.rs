//! Samples: a looped texture without a seam, a recording of one's own, and what is missing.

use thirtyfour::prelude::*;
use zolvik_browser_tests::{Stage, stage};
use zolvik_files::{bundle, wav};
use zolvik_patch::document::{Sample, UnitId, UnitKind};
use zolvik_patch::sound::{ReadySound, Sound};

use crate::measure::*;

fn sample(patch: &zolvik_patch::Patch, unit: u16) -> Sample {
    match &patch.unit(UnitId(unit)).unwrap().kind {
        UnitKind::Sample(sample) => sample.clone(),
        other => panic!("{other:?}"),
    }
}

async fn choose_recording(stage: &Stage, name: &str) {
    stage
        .find("[data-testid=sample-part] .name")
        .await
        .click()
        .await
        .unwrap();
    let xpath = format!("//button[@role='option' and normalize-space(.)='{name}']");
    let choice = stage.driver.query(By::XPath(&xpath)).first().await.unwrap();
    choice.click().await.unwrap();
    stage.press(Key::Escape + "").await;
}

#[tokio::test]
async fn a_looped_texture_under_a_pad_without_an_audible_seam() {
    let stage = stage().await;
    let id = stage.new_patch().await;
    stage.menu("+ More", "Sample").await;
    choose_recording(&stage, "Night wind").await;
    stage.choose("Play", "Loop").await;
    stage.set_value("Crossfade", "400 ms").await;
    // the loop's end by hand, on the waveform
    stage.find("[data-testid=waveform]").await;
    let (x, y) = stage.middle("[data-place='sample.loop_end'] .knob").await;
    stage.drag((x, y), (x - 92, y)).await;
    let patch = stage.saved(id).await;
    let played = sample(&patch, 2);
    assert_eq!(played.sound, Sound::Ready(ReadySound::NightWind));
    assert!(
        played.looped && (0.55..0.7).contains(&played.loop_end),
        "{}",
        played.loop_end
    );
    // ten seconds of it alone: never rougher than the recording, never silent, never louder
    let mut alone = patch.clone();
    alone.unit_mut(UnitId(1)).unwrap().on = false;
    let sound = note(&alone, 60, 10.0, 10.0).left;
    let own = zolvik_waves::ready::clip(ReadySound::NightWind);
    let gain = 0.178; // -12 dB and the middle of both channels
    assert!(roughness(&sound) < 1.3 * gain * roughness(&own.samples));
    let levels: Vec<f64> = sound[4_800..].chunks(4_800).map(rms).collect();
    let (least, most) = levels
        .iter()
        .fold((f64::MAX, 0.0f64), |(a, b), x| (a.min(*x), b.max(*x)));
    assert!(least > 0.1 * most, "{least} to {most}");
    stage.click("Undo").await;
    assert_eq!(
        sample(&stage.saved(id).await, 2).loop_end,
        1.0,
        "one drag, one step"
    );
}

/// A file on disk: a tone of 500 Hz.
fn tone(folder: &std::path::Path) -> std::path::PathBuf {
    let turn = std::f64::consts::TAU * 500.0 / 44_100.0;
    let samples: Vec<f32> = (0..44_100)
        .map(|i| (turn * f64::from(i)).sin() as f32 * 0.7)
        .collect();
    let file = folder.join("Wet Stone.wav");
    std::fs::write(
        &file,
        wav::write(&samples, &samples, 44_100, wav::Depth::Int16).unwrap(),
    )
    .unwrap();
    file
}

const LIVELY: &str = "const p = document.querySelector('#app').__vue_app__.config.globalProperties.$pinia._s.get('playing');\
    const a = new Float32Array(1024); p.scope(a); return a.some((x) => Math.abs(x) > 0.02)";

async fn import(stage: &Stage, file: &std::path::Path) {
    stage
        .find("[data-testid=sample-part] .name")
        .await
        .click()
        .await
        .unwrap();
    stage.click("Import WAV, FLAC, AIFF or OGG").await;
    let input = stage.find("[data-testid=sound-file]").await;
    input.send_keys(file.to_str().unwrap()).await.unwrap();
}

/// Drops a file of three seconds at 8 kHz on the page: a steady tone in 16 bits.
const DROP_LONG: &str = "const n = 24000, b = new DataView(new ArrayBuffer(44 + 2 * n)); const w = (at, s) => [...s].forEach((c, i) => b.setUint8(at + i, c.charCodeAt(0)));\
    w(0, 'RIFF'); b.setUint32(4, 36 + 2 * n, true); w(8, 'WAVEfmt '); b.setUint32(16, 16, true); b.setUint16(20, 1, true); b.setUint16(22, 1, true); b.setUint32(24, 8000, true);\
    b.setUint32(28, 16000, true); b.setUint16(32, 2, true); b.setUint16(34, 16, true); w(36, 'data'); b.setUint32(40, 2 * n, true);\
    for (let i = 0; i < n; i++) b.setInt16(44 + 2 * i, 9000 * Math.sin(i / 3), true);\
    const data = new DataTransfer(); data.items.add(new File([b], 'Long rain.wav', { type: 'audio/wav' }));\
    document.querySelector('.score').dispatchEvent(new DragEvent('drop', { dataTransfer: data, bubbles: true, cancelable: true }))";

#[tokio::test]
async fn a_recording_of_ones_own_is_played_kept_and_taken_along() {
    let mut stage = stage().await;
    stage.expect_in_console("status of 422");
    let id = stage.new_patch().await;
    stage.menu("+ More", "Sample").await;
    // what is no recording is refused with what to do, and nothing changes
    let wrong = stage.downloads.path().join("words.wav");
    std::fs::write(&wrong, "no sound at all").unwrap();
    import(&stage, &wrong).await;
    stage.wait_until("why not", "return [...document.querySelectorAll('[role=alert]')].some(p => p.textContent.includes('words.wav') && p.textContent.includes('convert it'))").await;
    let file = tone(stage.downloads.path());
    let input = stage.find("[data-testid=sound-file]").await;
    input.send_keys(file.to_str().unwrap()).await.unwrap();
    stage.wait_until("it is taken", "return document.querySelector('[data-testid=sample-part] .name')?.textContent.trim() === 'Wet Stone'").await;
    stage.find("[data-testid=waveform]").await;
    stage.click("Operator 1 on").await;
    let patch = stage.saved(id).await;
    let Sound::Own(own) = sample(&patch, 2).sound else {
        panic!("not its own")
    };
    assert_eq!(
        (own.name.as_str(), own.frames, own.rate_hz),
        ("Wet Stone", 44_100, 44_100)
    );
    stage
        .holding(60, stage.wait_until("it is played", LIVELY))
        .await;
    // one more sample plays what was imported, and a recording dropped on the strips is one under its name
    stage.menu("+ More", "Sample").await;
    stage.js(DROP_LONG, vec![]).await;
    stage.find("[data-unit='4']").await;
    let patch = stage.saved(id).await;
    assert_eq!(sample(&patch, 3).sound, Sound::Own(own.clone()));
    let dropped = sample(&patch, 4);
    assert!(
        matches!(dropped.sound, Sound::Own(long) if long.name == "Long rain" && long.frames == 3 * 8000)
    );
    assert!(dropped.looped, "a long recording goes on");
    assert_eq!(patch.unit(UnitId(4)).unwrap().name, "Long rain");
    for _ in 0..2 {
        stage.chord(Key::Control, "z").await;
    }
    let patch = stage.saved(id).await;
    assert_eq!(patch.units.len(), 2);
    // after the server was killed and the page loaded anew it still is
    let folder = stage.data.path().to_owned();
    stage.server.restart(&folder);
    stage.open(&format!("/patch/{id}")).await;
    stage.find("[data-unit='2']").await;
    let (samples, rate_hz) = stage
        .holding(60, async {
            stage.wait_until("it is played again", LIVELY).await;
            stage.played().await
        })
        .await;
    let (on, off) = (
        amplitude(&samples, rate_hz, 500.0),
        amplitude(&samples, rate_hz, 900.0),
    );
    assert!(on > 8.0 * off, "{on} at 500 Hz, {off} beside");
    // taken along as one bundle
    stage.click("About & versions").await;
    stage.click("Export patch file").await;
    let packed = stage.download("zip").await;
    let mut contents = vec![];
    let file = std::fs::File::open(&packed).unwrap();
    let unpacked = bundle::read(file, &mut |taken| {
        contents.push(taken.sound.content);
        Ok::<(), ()>(())
    });
    assert_eq!(unpacked.unwrap(), Ok(patch));
    assert_eq!(contents, [own.content]);
    stage.press(Key::Escape + "").await;
    stage.open("/").await;
    let input = stage.find("[data-testid=import]").await;
    input.send_keys(packed.to_str().unwrap()).await.unwrap();
    stage
        .wait_until(
            "there are two",
            "return document.querySelectorAll('.row.patch').length === 2",
        )
        .await;
}

#[tokio::test]
async fn missing_audio_is_said_at_the_strip_and_replaced() {
    let stage = stage().await;
    stage.expect_in_console("status of 404");
    let id = stage.new_patch().await;
    stage.menu("+ More", "Sample").await;
    import(&stage, &tone(stage.downloads.path())).await;
    stage.wait_until("it is taken", "return document.querySelector('[data-testid=sample-part] .name')?.textContent.trim() === 'Wet Stone'").await;
    let text = zolvik_patch::json::write(&stage.saved(id).await);
    let Sound::Own(own) = sample(&stage.stored(id).await, 2).sound else {
        panic!("not its own")
    };
    // the patch alone, as a plain file, to a library that lacks the recording
    let lost = stage.downloads.path().join("lost.json");
    std::fs::write(&lost, text.replace(&own.content, &"ab".repeat(32))).unwrap();
    stage.open("/").await;
    let input = stage.find("[data-testid=import]").await;
    input.send_keys(lost.to_str().unwrap()).await.unwrap();
    stage
        .wait_until(
            "there are two",
            "return document.querySelectorAll('.row.patch').length === 2",
        )
        .await;
    stage.open(&format!("/patch/{}", id + 1)).await;
    stage.wait_until("it is said", "return document.querySelector('[data-unit=\"2\"] [data-testid=unheard]')?.textContent.includes('Wet Stone')").await;
    // the rest plays on
    stage
        .holding(60, stage.wait_until("the operator sounds", LIVELY))
        .await;
    stage.select(2, false).await;
    choose_recording(&stage, "Glass tap").await;
    stage
        .wait_until(
            "it is mended",
            "return document.querySelector('[data-unit=\"2\"] [data-testid=unheard]') === null",
        )
        .await;
    let patch = stage.saved(id + 1).await;
    assert_eq!(sample(&patch, 2).sound, Sound::Ready(ReadySound::GlassTap));
}
