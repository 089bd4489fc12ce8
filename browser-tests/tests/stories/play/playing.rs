//! Keys of every kind, and none of them stuck.

use thirtyfour::prelude::*;
use zolvik_browser_tests::{Stage, stage};

use crate::measure::amplitude;

async fn voices(stage: &Stage, count: usize) {
    let words = if count == 1 {
        "1 voice".to_owned()
    } else {
        format!("{count} voices")
    };
    stage
        .wait_until(&format!("{words} sound"), &format!("return document.querySelector('[data-testid=voices]').textContent.trim() === '{words}'"))
        .await;
}

async fn ready() -> Stage {
    let stage = stage().await;
    stage.open("/").await;
    stage.click("New patch").await;
    stage.find("[data-unit='1']").await;
    stage.find(".score").await;
    stage
}

#[tokio::test]
async fn the_computer_keyboard_plays_two_octaves_and_shifts() {
    let stage = ready().await;
    let held = |key: u8| {
        format!(
            "return document.querySelector(\".board [data-key='{key}']\").classList.contains('held')"
        )
    };
    stage
        .driver
        .action_chain()
        .key_down('z')
        .perform()
        .await
        .unwrap();
    stage.wait_until("C3 is down", &held(48)).await;
    stage
        .driver
        .action_chain()
        .key_down('u')
        .perform()
        .await
        .unwrap();
    stage.wait_until("B4 is down too", &held(71)).await;
    voices(&stage, 2).await;
    let moves = r"const d = document.querySelector('[data-testid=waveform]').getAttribute('d') ?? ''; return new Set(d.match(/ [\d.]+/g)).size > 20";
    stage.wait_until("the live waveform moves", moves).await;
    stage
        .driver
        .action_chain()
        .key_up('z')
        .key_up('u')
        .perform()
        .await
        .unwrap();
    voices(&stage, 0).await;
    stage.click("Controllers").await;
    stage.click("Octave up").await;
    stage
        .driver
        .action_chain()
        .key_down('z')
        .perform()
        .await
        .unwrap();
    stage.wait_until("C4 is down", &held(60)).await;
    // focus is lost with the key down: the note must not stay
    stage
        .js("window.dispatchEvent(new Event('blur'))", vec![])
        .await;
    voices(&stage, 0).await;
    stage
        .wait_until(
            "no key is shown held",
            "return document.querySelectorAll('.key.held').length === 0",
        )
        .await;
}

#[tokio::test]
async fn the_simulated_midi_keyboard_plays_by_hand_with_pedal_and_by_itself() {
    let stage = ready().await;
    stage.click("Controllers").await;
    stage.at_rest("[data-testid=controllers]").await;
    let (x, y) = stage.middle(".small [data-key='60']").await;
    stage.click("Pedal").await;
    stage
        .driver
        .action_chain()
        .move_to(x, y + 10)
        .click()
        .perform()
        .await
        .unwrap();
    voices(&stage, 1).await;
    stage
        .wait_until(
            "the key is up",
            "return document.querySelectorAll('.key.held').length === 0",
        )
        .await;
    voices(&stage, 1).await;
    stage.click("Pedal").await;
    voices(&stage, 0).await;
    // once more, from silence: from the audio thread's getting it to its sound it takes a render quantum and a block at the most
    let struck = stage.driver.action_chain().move_to(x, y + 10).click();
    struck.perform().await.unwrap();
    let waited = "const p = document.querySelector('#app').__vue_app__.config.globalProperties.$pinia._s.get('playing'); return p.levels().keyToSoundS * new AudioContext().sampleRate";
    let some = waited.replace("return p", "return 0 < p");
    stage.wait_until("it is heard", &some).await;
    let frames = stage.js(waited, vec![]).await.as_f64().unwrap().round();
    println!("from key to sound: {frames} frames in the audio thread (bar 144)");
    assert!((1.0..=144.0).contains(&frames), "{frames}");
    voices(&stage, 0).await;
    // a pedal that is half down holds nothing, but what is let go ends so much later: 16 times at the most
    let half = "const s = document.querySelector(\"[aria-label^='Pedal of the simulated keyboard']\"); s.value = arguments[0]; s.dispatchEvent(new Event('input', { bubbles: true }))";
    // a short note may be over before one looks: the page remembers that it sounded
    let watch = "window.sounded = false; const voices = document.querySelector('[data-testid=voices]'); \
        new MutationObserver(() => (window.sounded ||= voices.textContent.trim() === '1 voice')).observe(voices, { subtree: true, childList: true, characterData: true })";
    let mut lasts = vec![];
    for value in [0, 60] {
        stage.js(half, vec![value.into()]).await;
        stage.js(watch, vec![]).await;
        let struck = stage.driver.action_chain().move_to(x, y + 10).click();
        struck.perform().await.unwrap();
        let let_go = std::time::Instant::now();
        stage.wait_until("it sounds", "return window.sounded").await;
        voices(&stage, 0).await;
        lasts.push(let_go.elapsed().as_secs_f64());
    }
    stage.js(half, vec![0.into()]).await;
    println!(
        "a note ends {:.2} s after its key, under half a pedal {:.2} s",
        lasts[0], lasts[1]
    );
    assert!(lasts[1] > lasts[0] + 1.0, "{lasts:?}");
    stage.click("Play phrase").await;
    voices(&stage, 3).await;
    stage.wait_until("the phrase ends by itself", "return [...document.querySelectorAll('.sim button')].some(b => b.textContent === 'Play phrase')").await;
    voices(&stage, 0).await;
}

#[tokio::test]
async fn space_plays_the_auditioned_note_and_a_patch_is_heard_without_opening() {
    let stage = zolvik_browser_tests::stage_with(true).await;
    stage.open("/").await;
    stage.click("Hear Root Cellar").await;
    voices(&stage, 1).await;
    stage.click("Stop Root Cellar").await;
    assert!(
        stage.driver.current_url().await.unwrap().path().len() <= 1,
        "still in the library"
    );
    stage
        .driver
        .action_chain()
        .send_keys(Key::Tab + "")
        .perform()
        .await
        .unwrap();
    stage.js("document.activeElement.blur()", vec![]).await;
    voices(&stage, 0).await;
    stage
        .driver
        .action_chain()
        .send_keys(" ")
        .perform()
        .await
        .unwrap();
    voices(&stage, 1).await;
}

#[tokio::test]
async fn the_controllers_stand_in_a_window_of_their_own_and_a_phrase_goes_on() {
    let stage = ready().await;
    let page = stage.driver.window().await.unwrap();
    stage.click("Controllers").await;
    stage.at_rest("[data-testid=controllers]").await;
    stage.click("In a window of their own").await;
    let mut own = page.clone();
    stage
        .until("a window opens", async || {
            let all = stage.driver.windows().await.unwrap();
            let other = all.into_iter().find(|window| *window != page);
            other.map(|window| own = window).is_some()
        })
        .await;
    let panel = "return document.querySelector('[data-testid=controllers]') !== null";
    stage.driver.switch_to_window(own).await.unwrap();
    stage.wait_until("the panel is there", panel).await;
    if let Ok(folder) = std::env::var("ZOLVIK_LOOK") {
        let path = std::path::Path::new(&folder).join("own-window.png");
        stage.picture(&path).await;
    }
    // what is done there is heard here, by hand and by the letters
    stage.click("Play phrase").await;
    stage.driver.switch_to_window(page.clone()).await.unwrap();
    voices(&stage, 3).await;
    stage
        .driver
        .switch_to_window(stage.driver.windows().await.unwrap()[1].clone())
        .await
        .unwrap();
    stage.wait_until("the phrase ends by itself", "return [...document.querySelectorAll('.sim button')].some(b => b.textContent === 'Play phrase')").await;
    let down = stage.driver.action_chain().key_down('z');
    down.perform().await.unwrap();
    let held = "return document.querySelector('.small .key.held') !== null";
    stage.wait_until("a letter is a key", held).await;
    let up = stage.driver.action_chain().key_up('z');
    up.perform().await.unwrap();
    let none = "return document.querySelector('.key.held') === null";
    stage.wait_until("and is let go", none).await;
    // closed, it is gone, and the panel opens here again
    stage.driver.close_window().await.unwrap();
    stage.driver.switch_to_window(page).await.unwrap();
    voices(&stage, 0).await;
    stage.click("Controllers").await;
    stage.wait_until("the panel is here", panel).await;
}

/// A program that is spoilt on its way to the audio thread: it is told, once, what was before goes on sounding, and the next good one is heard.
#[tokio::test]
async fn a_program_the_engine_refuses_is_told_and_the_one_of_before_goes_on() {
    const C4_HZ: f64 = 261.626;
    let stage = ready().await;
    // how loud the first, second and third harmonic of the key are
    let heard = async || {
        let steady = async {
            // past its attack
            tokio::time::sleep(std::time::Duration::from_millis(100)).await;
            stage.played().await
        };
        let (samples, rate_hz) = stage.holding(60, steady).await;
        [1.0, 2.0, 3.0].map(|n| amplitude(&samples, rate_hz, n * C4_HZ))
    };
    let only = |levels: [f64; 3], nth: usize| {
        let most = levels.iter().copied().fold(0.0, f64::max);
        assert!(levels[nth] == most && most > 0.01, "{levels:?}");
        let others = levels.iter().enumerate().filter(|(n, _)| *n != nth);
        others.for_each(|(_, level)| assert!(*level < 0.05 * most, "{levels:?}"));
    };
    only(heard().await, 0);
    let spoil = "const real = window.postToPort = MessagePort.prototype.postMessage;\
        MessagePort.prototype.postMessage = function (message, ...rest) {\
            const spoilt = message?.program || message?.changed ? { program: new Uint8Array(16) } : message;\
            return real.call(this, spoilt, ...(spoilt === message ? rest : [])) }";
    stage.js(spoil, vec![]).await;
    let told = "return [...document.querySelectorAll('.p-toast-message')].filter((m) => m.textContent.includes('Not heard')).length === 1";
    for ratio in ["2", "3"] {
        stage.set_value("Ratio", ratio).await;
        stage.wait_until("it is told, once", told).await;
    }
    only(heard().await, 0);
    stage
        .js(
            "MessagePort.prototype.postMessage = window.postToPort",
            vec![],
        )
        .await;
    stage.set_value("Ratio", "2").await;
    only(heard().await, 1);
}
