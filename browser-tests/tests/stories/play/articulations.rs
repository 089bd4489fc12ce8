//! Articulations, sets of files, and what chance and macros do to a patch of the collection.

use crate::hand::Hand;
use crate::measure::*;
use thirtyfour::prelude::*;
use zolvik_browser_tests::in_turn;
use zolvik_patch::address::Address;
use zolvik_patch::document::{Operator, UnitId};
use zolvik_patch::playing::differing;

in_turn! {
    articulations_of_a_patch:
    one_hat_is_closed_and_open_and_a_change_of_the_base_is_heard_in_both,
    eight_articulations_leave_the_bar_whole,
}

in_turn! {
    phrases_of_the_collection:
    a_set_of_24_files_is_rendered_with_progress_cancelled_and_rendered_again,
    chance_shows_how_else_it_might_be_and_one_value_shows_all_that_moves_it,
    a_macro_that_is_pointed_at_shows_its_ends_and_a_clock_sets_the_tempo,
}

async fn one_hat_is_closed_and_open_and_a_change_of_the_base_is_heard_in_both() {
    let mut hand = Hand::new().await;
    hand.line("noise -6").await;
    hand.key("1").await;
    hand.key(Key::Delete + "").await;
    hand.key("2").await;
    hand.set("Attack", "0").await;
    hand.set("Decay", "60 ms").await;
    hand.set("Sustain", "0").await;
    hand.click("+ Articulation").await;
    hand.set("Decay", "500 ms").await;
    hand.stage.look("play-8-open.png").await;
    let sign = ".field.own[aria-label='Decay']";
    hand.stage.find(sign).await;
    // the strip says so too
    hand.stage.find("[data-unit='2'] .differs").await;
    hand.choose("Articulation", "Base").await;
    hand.set("Colour", "6").await;
    hand.click("Differences").await;
    hand.stage.look("play-9-differences.png").await;
    hand.click("Give them keys from C1 up").await;
    hand.key(Key::Escape + "").await;
    let patch = hand.patch().await;
    hand.within("a hat closed and open", 26);
    assert_eq!(patch.playing.articulation, None);
    assert_eq!(patch.playing.articulations[0].key, Some(24));
    let mut open = patch.clone();
    differing::switch(&mut open, Some(0));
    let colour = Address::unit(UnitId(2), zolvik_patch::document::Noise::COLOUR_DB);
    assert_eq!(
        colour.get(&open).unwrap(),
        6.0,
        "the base's change reaches it"
    );
    let late = |patch: &zolvik_patch::Patch| rms(&note(patch, 57, 1.0, 1.0).left[14_400..19_200]);
    let (closed_late, open_late) = (late(&patch), late(&open));
    assert!(
        open_late > 30.0 * closed_late.max(1e-9),
        "{open_late} against {closed_late}"
    );
    // the low key goes to it instead of sounding
    let pressed = "const pinia = document.querySelector('#app').__vue_app__.config.globalProperties.$pinia; pinia._s.get('playing').receive('keyboard', [0x90, 24, 90]); pinia._s.get('playing').receive('keyboard', [0x80, 24, 0])";
    hand.stage.js(pressed, vec![]).await;
    hand.stage
        .wait_until("Open is heard", "return document.querySelector(\"[aria-label='Articulation'] [aria-pressed=true]\").textContent.trim() !== 'Base'")
        .await;
    assert_eq!(hand.patch().await.playing.articulation, Some(0));
    let ratio = Operator::RATIO;
    assert!(Address::unit(UnitId(2), ratio).get(&open).is_err());
}

/// However many variants there are, nothing of the bar they stand in is out of sight.
async fn eight_articulations_leave_the_bar_whole() {
    let hand = Hand::new().await;
    hand.stage.click("+ Articulation").await;
    for nth in 2..=8 {
        hand.stage.click("Add an articulation").await;
        let there = format!(
            "const named = document.querySelector(\"[aria-label='Articulation']\"); return named.querySelectorAll('button, option').length === {}",
            nth + 1
        );
        hand.stage.wait_until("one more", &there).await;
    }
    for width in [1600, 1280, 1024] {
        let driver = &hand.stage.driver;
        driver.set_window_rect(0, 0, width, 800).await.unwrap();
        let whole = format!(
            "const bar = document.querySelector('.audition'); const last = bar.querySelector('.help').getBoundingClientRect(); return innerWidth === {width} && bar.scrollWidth <= bar.clientWidth && last.right <= innerWidth"
        );
        hand.stage
            .wait_until("all of the bar is seen", &whole)
            .await;
        hand.stage.look(&format!("play-bar-{width}.png")).await;
    }
    // where there is no room for all side by side one is chosen from a list
    let list = hand.stage.find("select[aria-label='Articulation']").await;
    list.send_keys(Key::Home + "").await.unwrap();
    hand.stage
        .wait_until(
            "the base",
            "return document.querySelector(\"select[aria-label='Articulation']\").value === '-1'",
        )
        .await;
    let patch = hand.patch().await;
    assert_eq!(patch.playing.articulations.len(), 8);
    assert_eq!(patch.playing.articulation, None);
}

async fn a_set_of_24_files_is_rendered_with_progress_cancelled_and_rendered_again() {
    let stage = zolvik_browser_tests::stage_with(true).await;
    let patches = stage.patches().await;
    let id = patches.iter().find(|p| p["name"] == "Tin Rain").unwrap()["id"].clone();
    stage.open(&format!("/patch/{id}")).await;
    stage.find("[data-unit='1']").await;
    stage.click("Render").await;
    stage.choose("What is rendered", "Multisample set").await;
    let typed = async |label: &str, text: &str| {
        let input = stage.find(&format!("input[aria-label='{label}']")).await;
        input.send_keys(Key::Control + "a").await.unwrap();
        input.send_keys(text).await.unwrap();
    };
    typed("Lowest key", "C4").await;
    typed("Highest key", "A5").await;
    typed("Semitones from one key to the next", "7").await;
    typed("Velocities of the set", "60, 120").await;
    stage
        .choose("Articulations rendered", "Base and all 2")
        .await;
    let render = "[...document.querySelectorAll('[role=dialog] .p-button')].find((b) => b.textContent.trim() === 'Render').click()";
    stage.js(render, vec![]).await;
    let says = "return /of 24/.test(document.querySelector('[data-testid=render-progress]')?.textContent ?? '')";
    stage.wait_until("the progress is told", says).await;
    stage.look("play-10-render.png").await;
    stage.click("Cancel").await;
    let over = "return document.querySelector('[data-testid=render-progress]') === null && document.querySelector('[role=dialog]') !== null";
    stage
        .wait_until("it is given up, and the choices stay", over)
        .await;
    // what is done of it is kept, and gone on with
    stage.wait_until("it stands in the list", "return document.querySelector('[data-render]')?.textContent.includes('stopped') ?? false").await;
    stage.click("Go on").await;
    let file = stage.download("zip").await;
    let mut zip = zip::ZipArchive::new(std::fs::File::open(file).unwrap()).unwrap();
    assert_eq!(zip.len(), 24);
    let mut read = |name: &str| {
        let mut bytes = vec![];
        std::io::Read::read_to_end(&mut zip.by_name(name).unwrap(), &mut bytes).unwrap();
        zolvik_files::wav::read(&bytes, 30.0).unwrap().samples
    };
    let closed = read("tin-rain-closed-060-C4-v120.wav");
    let open = read("tin-rain-open-060-C4-v120.wav");
    // until it is a hundredth of its loudest sample; what follows is the room
    let heard = |samples: &[f32]| {
        let peak = samples.iter().fold(0.0_f32, |a, x| a.max(x.abs()));
        samples.iter().rposition(|x| x.abs() > 0.01 * peak).unwrap()
    };
    let (open, closed) = (heard(&open), heard(&closed));
    assert!(open > 2 * closed, "{open} and {closed}");
    // what cannot be is said where it stands
    stage.click("Render").await;
    stage.choose("What is rendered", "Multisample set").await;
    typed("Lowest key", "nowhere").await;
    stage.js(render, vec![]).await;
    stage
        .wait_until("it says why", "return document.querySelector('[role=dialog]').textContent.includes('nowhere is no key')")
        .await;
}

async fn chance_shows_how_else_it_might_be_and_one_value_shows_all_that_moves_it() {
    let stage = zolvik_browser_tests::stage_with(true).await;
    let patches = stage.patches().await;
    let id = patches.iter().find(|p| p["name"] == "Glass Moths").unwrap()["id"].clone();
    stage.open(&format!("/patch/{id}/move")).await;
    stage.find("[data-source='1001'] [data-testid=band]").await;
    stage.look("play-11-band.png").await;
    // another throw by one key, while listening
    let seeds = async || {
        let patch = stage.saved(id.as_i64().unwrap()).await;
        let all = patch.movement.sources.iter().filter_map(|s| match &s.kind {
            zolvik_patch::movement::SourceKind::Random(random) => Some(random.seed),
            _ => None,
        });
        all.collect::<Vec<u8>>()
    };
    let before = seeds().await;
    stage.press("k").await;
    stage.wait_saved().await;
    let after = seeds().await;
    assert!(
        before.iter().zip(&after).all(|(a, b)| a != b),
        "{before:?} {after:?}"
    );
    stage.chord(Key::Control, "z").await;
    stage.wait_saved().await;
    assert_eq!(seeds().await, before, "one step of undo");
    let chip = stage.find("[data-source='1001'] .chip").await;
    chip.click().await.unwrap();
    stage.find("[data-testid=sum]").await;
    stage.look("play-12-sum.png").await;
    stage.click("All sources").await;
    // a dot shows where each stands while a note sounds
    stage.press(" ").await;
    stage.find("[data-testid=live]").await;
    stage.press(" ").await;
    stage
        .wait_until(
            "nothing sounds",
            "return document.querySelector('[data-testid=live]') === null",
        )
        .await;
}

async fn a_macro_that_is_pointed_at_shows_its_ends_and_a_clock_sets_the_tempo() {
    let stage = zolvik_browser_tests::stage_with(true).await;
    let patches = stage.patches().await;
    let id = patches.iter().find(|p| p["name"] == "Root Cellar").unwrap()["id"].clone();
    stage.open(&format!("/patch/{id}")).await;
    stage.find("[data-testid=curve]").await;
    let (x, y) = stage.middle(".macros .cell").await;
    let chain = stage.driver.action_chain().move_to(x, y);
    chain.perform().await.unwrap();
    stage.find("[data-testid=ghost]").await;
    stage.look("play-13-ghosts.png").await;
    // the two ends differ, and the picture that is there stays
    let differ = "const g = [...document.querySelectorAll('[data-testid=ghost]')].map((p) => p.getAttribute('d')); return g.length > 2 && new Set(g).size > 2";
    stage.wait_until("the ends are drawn", differ).await;
    let chain = stage.driver.action_chain().move_to(x, y - 300);
    chain.perform().await.unwrap();
    stage
        .wait_until(
            "they are gone",
            "return document.querySelector('[data-testid=ghost]') === null",
        )
        .await;
    // a clock from outside: tempo and start follow, and it is one step of undo
    stage.click("Controllers").await;
    stage.look("play-14-controllers.png").await;
    stage.click("Clock 100").await;
    let tempo = "return Math.abs(Number(document.querySelector(\"[aria-label='Tempo']\").getAttribute('aria-valuenow')) - 100) < 0.6";
    stage.wait_until("the tempo follows", tempo).await;
    stage
        .wait_until(
            "it plays",
            "return document.querySelector('.playhead') !== null",
        )
        .await;
    stage.click("Clock 100").await;
    stage
        .wait_until(
            "it stops",
            "return document.querySelector('.playhead') === null",
        )
        .await;
    stage.chord(Key::Control, "z").await;
    let back = "return document.querySelector(\"[aria-label='Tempo']\").getAttribute('aria-valuenow') === '104'";
    stage.wait_until("one step takes it back", back).await;
    // it goes on from where it is told to, and from where it was stopped: four beats at 104 are 2.3 s
    let pinia = "const playing = document.querySelector('#app').__vue_app__.config.globalProperties.$pinia._s.get('playing')";
    let send = async |messages: &str| {
        let script = format!("{pinia}; for (const m of {messages}) playing.receive('keyboard', m)");
        stage.js(&script, vec![]).await;
    };
    let far = format!("{pinia}; return playing.placeS > 2.3");
    send("[[0xF2, 16, 0], [0xFB]]").await;
    stage.wait_until("it begins in its fifth beat", &far).await;
    send("[[0xFC], [0xFB]]").await;
    stage.wait_until("it goes on there", &far).await;
    send("[[0xFC], [0xFA]]").await;
    let near = format!("{pinia}; return playing.placeS >= 0 && playing.placeS < 2.3");
    stage.wait_until("it begins anew", &near).await;
    send("[[0xFC]]").await;
    // a keyboard that is hard to strike
    stage.choose("Touch of the keyboard", "heavy").await;
    stage.press(Key::Escape + "").await;
}
