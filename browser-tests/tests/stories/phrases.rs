//! Playing, as one does it: macros, phrases over a beat, the arpeggio, articulations. Gestures are counted as in the whole jobs.

use std::path::PathBuf;

use thirtyfour::prelude::*;
use zolvik_browser_tests::{Stage, in_turn};
use zolvik_patch::address::Address;
use zolvik_patch::document::{Operator, UnitId};
use zolvik_patch::movement::amount::way;
use zolvik_patch::playing::differing;

use crate::hand::Hand;
use crate::measure::*;

in_turn! {
    phrases_of_a_patch:
    a_macro_moves_four_things_one_upside_down_and_is_learnt_from_the_controller,
    a_bass_line_over_a_beat_with_slides,
    an_arpeggio_is_recorded_as_a_phrase_and_exported,
    one_hat_is_closed_and_open_and_a_change_of_the_base_is_heard_in_both,
    eight_articulations_leave_the_bar_whole,
    notes_are_made_by_keyboard_alone_and_everything_fits_smaller_windows,
}

in_turn! {
    phrases_of_the_collection:
    a_set_of_24_files_is_rendered_with_progress_cancelled_and_rendered_again,
    chance_shows_how_else_it_might_be_and_one_value_shows_all_that_moves_it,
    a_macro_that_is_pointed_at_shows_its_ends_and_a_clock_sets_the_tempo,
}

async fn look(stage: &Stage, name: &str) {
    if let Ok(folder) = std::env::var("ZOLVIK_LOOK") {
        stage.picture(&PathBuf::from(folder).join(name)).await;
    }
}

/// Types what a target of the chosen macro is at one end.
async fn end(hand: &mut Hand, target: &str, high: bool, text: &str) {
    let at = if high { "100 %" } else { "0 %" };
    hand.gestures += 2;
    let css = format!(".editor button[aria-label^='{target} at {at}']");
    hand.stage.find(&css).await.click().await.unwrap();
    let css = format!("input[aria-label='{target} at {at}, typed']");
    let input = hand.stage.find(&css).await;
    input.send_keys(text).await.unwrap();
    input.send_keys(Key::Enter + "").await.unwrap();
}

async fn a_macro_moves_four_things_one_upside_down_and_is_learnt_from_the_controller() {
    let mut hand = Hand::new().await;
    hand.line("sine x2 > 1 1rad; low 800Hz").await;
    hand.click("+ Macro").await;
    look(&hand.stage, "play-1-macro.png").await;
    for (strip, value) in [(2, "Index"), (1, "Fine"), (3, "Cutoff")] {
        hand.gestures += 1;
        hand.stage.select(strip, false).await;
        hand.ask(value).await;
        hand.click_on("[data-testid=field-menu] .choices .btn")
            .await;
        hand.key(Key::Escape + "").await;
    }
    // or a value is taken by its name and dropped on the macro: it stays as it was
    let resonance = hand.stage.value("Resonance").await;
    let name = hand.stage.middle("[aria-label='Resonance'] .label").await;
    let onto = hand.stage.middle("[data-macro]").await;
    hand.gestures += 1;
    hand.stage.drag(name, onto).await;
    assert_eq!(hand.stage.value("Resonance").await, resonance);
    end(&mut hand, "Operator 2 index", true, "4").await;
    end(&mut hand, "Filter 3 cutoff", true, "300").await;
    look(&hand.stage, "play-2-targets.png").await;
    hand.click("Learn").await;
    hand.click("Controllers").await;
    // the knob is at its top but for a moment: the page remembers how far the macro came
    let watch = "window.highest = 0; new MutationObserver((all) => all.forEach(({ target }) => { \
        if (target.closest('.cell')) window.highest = Math.max(window.highest, Number(target.getAttribute('aria-valuenow'))) \
        })).observe(document.body, { subtree: true, attributes: true, attributeFilter: ['aria-valuenow'] })";
    hand.stage.js(watch, vec![]).await;
    hand.click("Knob (CC 21)").await;
    let stage = &hand.stage;
    let moved = "return window.highest > 0.8";
    stage.wait_until("the knob takes the macro up", moved).await;
    look(stage, "play-3-learnt.png").await;
    let back = "return [...document.querySelectorAll('.cell [role=spinbutton]')].every((f) => Number(f.getAttribute('aria-valuenow')) < 0.05)";
    stage.wait_until("and down again", back).await;
    hand.stage.press(Key::Escape + "").await;
    let patch = hand.patch().await;
    hand.within("a macro on four things", 29);
    assert_eq!(patch.movement.links.len(), 4);
    let of = |param| {
        let link = patch.movement.links.iter().find(|l| l.to.param == param);
        way(&patch, link.expect("a link")).unwrap()
    };
    let index = of(zolvik_patch::document::Send::INDEX_RAD);
    assert!(
        (index.0 - 1.0).abs() < 1e-6 && (index.1 - 4.0).abs() < 1e-6,
        "{index:?}"
    );
    let cutoff = of(zolvik_patch::document::Filter::CUTOFF_HZ);
    assert!(cutoff.1 < cutoff.0, "upside down: {cutoff:?}");
    // the sweep of the knob is one step of undo
    hand.stage.chord(Key::Control, "z").await;
    assert_eq!(hand.patch().await.movement.links.len(), 4);
    // in another patch the same knob moves its first macro
    let css = "return fetch('/api/kept/learnt').then((r) => r.json()).then((l) => l.length === 1 && l[0].document.includes('21'))";
    hand.stage
        .wait_until("it is kept for the installation", css)
        .await;
}

async fn a_bass_line_over_a_beat_with_slides() {
    let mut hand = Hand::new().await;
    hand.choose("Picture", "Phrase").await;
    look(&hand.stage, "play-4-no-phrase.png").await;
    hand.click("Choose a phrase").await;
    hand.stage.find("[aria-label='Phrases']").await;
    look(&hand.stage, "play-5-phrases.png").await;
    let from = "[...document.querySelectorAll('[aria-label=Phrases] .line')].find((l) => l.textContent.includes('Root walk')).querySelector('.btn').click()";
    hand.gestures += 1;
    hand.stage.js(from, vec![]).await;
    hand.pick("Beat", "Night train").await;
    hand.stage.find("[data-note='0']").await;
    hand.stage.select_patch().await;
    hand.choose("Notes", "Legato").await;
    hand.set("Glide", "90 ms").await;
    look(&hand.stage, "play-6-bass.png").await;
    // a note is moved up and made longer, so that the next is slid into
    hand.click_on("[data-note='1'] .hit").await;
    hand.set_note("Length", "1.5").await;
    hand.set_note("Velocity", "120").await;
    let patch = hand.patch().await;
    hand.within("a bass line over a beat", 22);
    let phrase = patch.playing.phrase.as_ref().expect("a phrase");
    assert_eq!(patch.audition.note, 33);
    assert_eq!(
        (phrase.notes[1].velocity, phrase.notes[1].length_beats),
        (120, 1.5)
    );
    assert!(phrase.overlapping().iter().filter(|o| **o).count() >= 2);
    // it plays: the audio thread moves through it, and sounds
    hand.stage.press(" ").await;
    let plays = "return document.querySelector('.playhead') !== null && document.querySelector('[data-testid=voices]').textContent.trim() !== '0 voices'";
    hand.stage.wait_until("it plays", plays).await;
    hand.stage.press(" ").await;
    hand.stage
        .wait_until(
            "it stops",
            "return document.querySelector('.playhead') === null",
        )
        .await;
    // what is rendered: the first note is the root, two octaves below
    let sound = phrase_of(&patch, 48_000.0);
    let hz = strongest_hz(&sound.left, 0.1, 0.25, (30.0, 400.0));
    assert!((hz - 55.0).abs() < 4.0, "{hz} Hz");
}

async fn an_arpeggio_is_recorded_as_a_phrase_and_exported() {
    let mut hand = Hand::new().await;
    hand.choose("Picture", "Phrase").await;
    hand.stage.select_patch().await;
    hand.click("Arpeggio").await;
    hand.choose("Order", "Up").await;
    hand.click("Record").await;
    let driver = hand.stage.driver.clone();
    let down = driver
        .action_chain()
        .key_down('z')
        .key_down('c')
        .key_down('b');
    down.perform().await.unwrap();
    tokio::time::sleep(std::time::Duration::from_millis(1300)).await;
    let up = driver.action_chain().key_up('z').key_up('c').key_up('b');
    up.perform().await.unwrap();
    hand.gestures += 1;
    hand.click("Stop recording").await;
    hand.stage.find("[data-note='3']").await;
    look(&hand.stage, "play-7-recorded.png").await;
    let patch = hand.patch().await;
    let phrase = patch.playing.phrase.as_ref().expect("what was recorded");
    let keys: Vec<i16> = phrase.notes.iter().map(|n| n.semitones + 57).collect();
    assert!(keys.len() >= 5, "{keys:?}");
    assert!(keys.iter().all(|k| [48, 52, 55].contains(k)), "{keys:?}");
    // once all three are down they come from the lowest up, step by step
    let up = [48, 52, 55, 48, 52, 55];
    assert!(keys.windows(6).any(|six| six == up), "{keys:?}");
    for (at, note) in phrase.notes.iter().enumerate() {
        let expected = phrase.notes[0].at_beats + at as f64 * 0.25;
        assert!(
            (note.at_beats - expected).abs() < 1e-6,
            "on the grid: {phrase:?}"
        );
    }
    hand.click("Export MIDI").await;
    hand.within("an arpeggio recorded and exported", 9);
    let file = hand.stage.download("mid").await;
    let read = zolvik_files::midi::read(&std::fs::read(file).unwrap(), "Back", 57).unwrap();
    assert_eq!(read.phrase.notes.len(), phrase.notes.len());
    // and the other way round: a file is imported
    let input = hand
        .stage
        .driver
        .find(By::Css("[data-testid=midi-file]"))
        .await
        .unwrap();
    let path = std::env::temp_dir().join(format!(
        "zolvik-{}.mid",
        hand.id + i64::from(std::process::id())
    ));
    std::fs::write(
        &path,
        zolvik_files::midi::write(
            &zolvik_patch::playing::ready::READY_PHRASES[3].phrase(),
            57,
            97.0,
            |beats| beats,
        ),
    )
    .unwrap();
    input.send_keys(path.to_str().unwrap()).await.unwrap();
    hand.stage
        .wait_until("the tempo of the file", "return document.querySelector(\"[aria-label='Tempo']\").getAttribute('aria-valuenow') === '97'")
        .await;
    std::fs::write(&path, b"no file of notes").unwrap();
    input.send_keys(path.to_str().unwrap()).await.unwrap();
    hand.stage
        .wait_until(
            "it says why",
            "return document.body.textContent.includes('no whole MIDI file')",
        )
        .await;
    assert_eq!(
        hand.patch()
            .await
            .playing
            .phrase
            .as_ref()
            .unwrap()
            .notes
            .len(),
        12
    );
    let _ = std::fs::remove_file(path);
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
    look(&hand.stage, "play-8-open.png").await;
    let sign = ".field.own[aria-label='Decay']";
    hand.stage.find(sign).await;
    // the strip says so too
    hand.stage.find("[data-unit='2'] .differs").await;
    hand.choose("Articulation", "Base").await;
    hand.set("Colour", "6").await;
    hand.click("Differences").await;
    look(&hand.stage, "play-9-differences.png").await;
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
        look(&hand.stage, &format!("play-bar-{width}.png")).await;
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
    look(&stage, "play-10-render.png").await;
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
    look(&stage, "play-11-band.png").await;
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
    look(&stage, "play-12-sum.png").await;
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
    look(&stage, "play-13-ghosts.png").await;
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
    look(&stage, "play-14-controllers.png").await;
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

async fn notes_are_made_by_keyboard_alone_and_everything_fits_smaller_windows() {
    let mut hand = Hand::new().await;
    hand.choose("Picture", "Phrase").await;
    hand.click("Choose a phrase").await;
    let take = "[...document.querySelectorAll('[aria-label=Phrases] .take')].find((b) => b.textContent.includes('Offbeat')).click()";
    hand.stage.js(take, vec![]).await;
    hand.stage.find("[data-note='3']").await;
    let focus = "document.querySelector('[data-testid=phrase-notes]').focus()";
    hand.stage.js(focus, vec![]).await;
    // the first is chosen; up a semitone, an octave, a sixteenth later; one more after it, and the last goes
    let driver = hand.stage.driver.clone();
    let press = async |keys: TypingData| {
        driver
            .active_element()
            .await
            .unwrap()
            .send_keys(keys)
            .await
            .unwrap();
    };
    press(Key::Right + "").await;
    press(Key::Up + "").await;
    driver
        .action_chain()
        .key_down(Key::Shift)
        .send_keys(Key::Up + "")
        .key_up(Key::Shift)
        .perform()
        .await
        .unwrap();
    press(Key::Right + "").await;
    press("n".into()).await;
    let phrase = hand.patch().await.playing.phrase.expect("a phrase");
    let first: Vec<(f64, i16)> = phrase
        .notes
        .iter()
        .map(|n| (n.at_beats, n.semitones))
        .take(2)
        .collect();
    assert_eq!(first, [(0.75, 13), (1.125, 13)]);
    assert_eq!(phrase.notes.len(), 5);
    press(Key::Delete + "").await;
    assert_eq!(hand.patch().await.playing.phrase.unwrap().notes.len(), 4);
    // each was one step
    for _ in 0..5 {
        hand.stage.chord(Key::Control, "z").await;
    }
    let back = hand.patch().await.playing.phrase.unwrap();
    assert_eq!(back.notes[0].at_beats, 0.5);
    hand.click("+ Macro").await;
    hand.click("+ Articulation").await;
    hand.click("Differences").await;
    let name = hand.stage.control("Articulation name: Soft. Rename").await;
    name.click().await.unwrap();
    press((Key::Control + "a") + "An articulation with a very long name").await;
    press(Key::Enter + "").await;
    press(Key::Escape + "").await;
    for (width, height, name) in [
        (1024, 700, "play-15-1024.png"),
        (800, 600, "play-16-800.png"),
    ] {
        driver
            .set_window_rect(0, 0, width, height + 140)
            .await
            .unwrap();
        let fits = "return document.documentElement.scrollWidth <= window.innerWidth && document.documentElement.scrollHeight <= window.innerHeight";
        hand.stage.wait_until("no scroll of the page", fits).await;
        tokio::time::sleep(std::time::Duration::from_millis(700)).await;
        look(&hand.stage, name).await;
    }
}
