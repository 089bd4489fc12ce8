//! Playing, as one does it: macros, phrases over a beat, the arpeggio, articulations. Gestures are counted as in the whole jobs.

use thirtyfour::prelude::*;
use zolvik_browser_tests::in_turn;
use zolvik_patch::movement::amount::way;

use crate::hand::Hand;
use crate::measure::*;

in_turn! {
    phrases_of_a_patch:
    a_macro_moves_four_things_one_upside_down_and_is_learnt_from_the_controller,
    a_bass_line_over_a_beat_with_slides,
    an_arpeggio_is_recorded_as_a_phrase_and_exported,
    notes_are_made_by_keyboard_alone_and_everything_fits_smaller_windows,
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
    hand.stage.look("play-1-macro.png").await;
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
    hand.stage.look("play-2-targets.png").await;
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
    stage.look("play-3-learnt.png").await;
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
    hand.stage.look("play-4-no-phrase.png").await;
    hand.click("Choose a phrase").await;
    hand.stage.find("[aria-label='Phrases']").await;
    hand.stage.look("play-5-phrases.png").await;
    let from = "[...document.querySelectorAll('[aria-label=Phrases] .line')].find((l) => l.textContent.includes('Root walk')).querySelector('.btn').click()";
    hand.gestures += 1;
    hand.stage.js(from, vec![]).await;
    hand.pick("Beat", "Night train").await;
    hand.stage.find("[data-note='0']").await;
    hand.stage.select_patch().await;
    hand.choose("Notes", "Legato").await;
    hand.set("Glide", "90 ms").await;
    hand.stage.look("play-6-bass.png").await;
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
    hand.stage.look("play-7-recorded.png").await;
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
        hand.stage.look(name).await;
    }
}
