//! The screen means what it says: numbers have the unit shown, lists give what is pointed at, a line makes what it promised, what closes
//! closes alone, and things are found by what people call them.

use thirtyfour::prelude::*;
use zolvik_browser_tests::{Stage, in_turn, stage};
use zolvik_patch::document::{RouteKind, Send, UnitId};
use zolvik_patch::movement::Direction;

use crate::hand::Hand;

in_turn! {
    numbers_and_names:
    a_bare_number_has_the_unit_shown_and_the_field_keeps_the_focus,
    of_several_strips_all_fields_say_how_far_they_differ,
    what_is_linked_is_what_was_pointed_at,
    a_line_makes_what_it_says_and_what_is_made_is_what_is_grouped,
}

in_turn! {
    lists_and_files:
    escape_closes_one_thing_and_letters_search_an_open_list,
    find_knows_what_people_call_things,
    the_peak_that_is_set_is_that_of_the_file,
}

async fn new_patch() -> Stage {
    let stage = stage().await;
    stage.open("/").await;
    stage.click("New patch").await;
    let head = stage.find("[data-unit='1'] .head").await;
    head.click().await.unwrap();
    stage.field("Ratio").await;
    stage
}

/// Clicks a field away from its words, types, and confirms.
async fn type_into(stage: &Stage, label: &str, text: &str) {
    let field = format!(".inspector [role=spinbutton][aria-label='{label}']");
    let (left, top, width, height) = stage.bounds(&field).await;
    let chain = stage.driver.action_chain();
    let chain = chain.move_to(left + width - 6, top + height - 9).click();
    chain.perform().await.unwrap();
    stage
        .find(&format!("input[aria-label='{label}, typed']"))
        .await;
    stage.press(text).await;
    stage.press(Key::Enter + "").await;
}

async fn focused(stage: &Stage) -> String {
    let name = "return document.activeElement?.getAttribute('aria-label') ?? ''";
    stage.js(name, vec![]).await.as_str().unwrap_or("").into()
}

async fn a_bare_number_has_the_unit_shown_and_the_field_keeps_the_focus() {
    let stage = new_patch().await;
    for (label, typed, becomes) in [
        ("Release", "8", "8 ms"),
        ("Release", "8s", "8.00 s"),
        ("Release", "120", "120 ms"),
        ("Decay", "1/4 dotted", "750 ms"),
        ("Decay", "1/4", "500 ms"),
        ("Level", "-80 dB", "−∞ dB"),
        ("Pan", "30 L", "30 L"),
        ("Pan", "20", "20 L"),
    ] {
        type_into(&stage, label, typed).await;
        assert_eq!(stage.value(label).await, becomes, "{label}: {typed}");
        assert_eq!(focused(&stage).await, label, "it keeps the focus");
    }
    // digits select strips and write nothing; another character begins typing
    stage.press("1").await;
    assert_eq!(stage.value("Pan").await, "20 L");
    let pan = "document.querySelector(\"[role=spinbutton][aria-label='Pan']\")";
    stage.js(&format!("{pan}.focus()"), vec![]).await;
    stage.press(Key::F2 + "").await;
    stage.find("input[aria-label='Pan, typed']").await;
    // less than a percent says so while it is typed
    stage.press(Key::Escape + "").await;
    let sustain = "[role=spinbutton][aria-label='Sustain']";
    stage.find(sustain).await.click().await.unwrap();
    stage.press("0.35").await;
    let hint = stage.find(".hint[role=status]").await.text().await.unwrap();
    assert_eq!(hint, "0.35%; for 35% type 35");
    stage.press(Key::Escape + "").await;
    // letters of a second note are its own
    let note = "[role=spinbutton][aria-label='Note']";
    stage.find(note).await.click().await.unwrap();
    for typed in ["C4", "C3"] {
        stage.press(typed).await;
        stage.press(Key::Enter + "").await;
    }
    assert_eq!(stage.value("Note").await, "C3");
}

/// What differs among several strips says so at what they send too, and what is typed reaches all.
async fn of_several_strips_all_fields_say_how_far_they_differ() {
    let mut hand = Hand::new().await;
    hand.line("saw -20 40R").await;
    hand.stage.select(1, false).await;
    hand.stage.select(2, true).await;
    let pan = "[role=spinbutton][aria-label='Pan']";
    let says = format!("return document.querySelector(\"{pan}\")?.getAttribute('aria-valuetext')");
    assert_eq!(hand.stage.js(&says, vec![]).await, "C to 40 R");
    // one source moves the level of both, and an amount that is typed is that of both links
    hand.ask("Level").await;
    hand.click("+ LFO").await;
    hand.typed("-4").await;
    hand.stage.press(Key::Escape + "").await;
    let patch = hand.patch().await;
    let said: Vec<_> = patch
        .movement
        .links
        .iter()
        .map(|l| (l.said(), l.amount.abs()))
        .collect();
    assert_eq!(said, vec![((Direction::Down, false), 4.0); 2]);
}

async fn what_is_linked_is_what_was_pointed_at() {
    let mut hand = Hand::new().await;
    hand.line("sine x2 > 1 1rad").await;
    hand.chord(Key::Alt, "2").await;
    hand.click("+ LFO").await;
    for (typed, first) in [
        ("time", None),
        ("2 index", Some("Operator 2 index")),
        ("1 level", Some("Operator 1 level")),
    ] {
        hand.click("Add link").await;
        hand.stage.press(typed).await;
        let script = "const all = [...document.querySelectorAll('#targets [role=option]')]; return [all.map((o) => o.id), all.map((o) => o.querySelector('.clip').textContent)]";
        let found = hand.stage.js(script, vec![]).await;
        let ids: Vec<&str> = found[0]
            .as_array()
            .unwrap()
            .iter()
            .filter_map(|v| v.as_str())
            .collect();
        let mut once = ids.clone();
        once.dedup();
        assert_eq!(ids, once, "{typed}: no two rows are one");
        let Some(first) = first else {
            hand.stage.press(Key::Escape + "").await;
            continue;
        };
        assert_eq!(found[1][0], first, "{typed}");
        hand.stage.press(Key::Enter + "").await;
        let own = format!(
            "return document.activeElement?.closest('.link')?.getAttribute('aria-label') === 'Moves {first}'"
        );
        hand.stage
            .wait_until("the hand is on its amount", &own)
            .await;
    }
    // what this source moves already: the hand is on that one
    hand.click("Add link").await;
    hand.stage.press("2 index").await;
    hand.stage.press(Key::Enter + "").await;
    let own = "return document.activeElement?.closest('.link')?.getAttribute('aria-label') === 'Moves Operator 2 index'";
    hand.stage
        .wait_until("the hand is on that amount", own)
        .await;
    hand.typed("0.7").await;
    let patch = hand.patch().await;
    let amounts: Vec<f64> = patch.movement.links.iter().map(|l| l.amount).collect();
    assert_eq!(amounts, [0.7, 3.0]);
}

async fn a_line_makes_what_it_says_and_what_is_made_is_what_is_grouped() {
    let mut hand = Hand::new().await;
    hand.line("saw -34dB > 1 20%").await;
    let patch = hand.patch().await;
    let sends: Vec<_> = patch.sends(UnitId(2)).map(|r| r.send.kind()).collect();
    assert_eq!(sends, [Some(RouteKind::Phase), None]);
    hand.line("noise -30; low 800").await;
    let input = hand.stage.find("input[aria-label='Strips as text']").await;
    input.click().await.unwrap();
    hand.stage.chord(Key::Control, "g").await;
    let patch = hand.patch().await;
    assert_eq!(patch.groups[0].units, [UnitId(3), UnitId(4)]);
    assert_eq!(
        patch.sends(UnitId(3)).next().unwrap().send.target(),
        Some(UnitId(4))
    );
    // a carrier goes straight out
    hand.click("+ Carrier").await;
    let patch = hand.patch().await;
    assert_eq!(patch.sends(UnitId(5)).next().unwrap().send, Send::output());
}

async fn escape_closes_one_thing_and_letters_search_an_open_list() {
    let stage = new_patch().await;
    let selected = "return document.querySelector('[data-unit=\"1\"]').getAttribute('aria-selected') === 'true'";
    let open = "return document.querySelector('[role=listbox][aria-label=Waves]') !== null";
    let button = "[aria-label^='Wave:'], .choose button[aria-haspopup=true]";
    stage.find(button).await.click().await.unwrap();
    stage.wait_until("the list is open", open).await;
    // letters go to the wave called so, and flip no states
    stage.press("tri").await;
    let there = "return document.activeElement?.textContent.trim().toLowerCase().startsWith('tri')";
    stage.wait_until("triangle is gone to", there).await;
    stage.press(Key::Escape + "").await;
    stage
        .wait_until(
            "the list is closed",
            "return document.querySelector('[role=listbox][aria-label=Waves]') === null",
        )
        .await;
    assert_eq!(
        stage.js(selected, vec![]).await,
        true,
        "the strip stays selected"
    );
    let state =
        "return document.querySelector('[aria-label=\"State A\"]').getAttribute('aria-pressed')";
    assert_eq!(stage.js(state, vec![]).await, "true");
    // a choice closes it
    stage.find(button).await.click().await.unwrap();
    stage.wait_until("the list is open", open).await;
    stage.press("saw").await;
    stage.press(Key::Enter + "").await;
    stage
        .wait_until(
            "it closes",
            "return document.querySelector('[role=listbox][aria-label=Waves]') === null",
        )
        .await;
}

/// By what people call things, and with nothing typed nothing is done.
async fn find_knows_what_people_call_things() {
    const CALLED: &[&str] = &[
        "lfo",
        "vibrato",
        "tremolo",
        "portamento",
        "glide",
        "unison",
        "feedback",
        "legato",
        "mono",
        "poly",
        "distortion",
        "overdrive",
        "saturation",
        "wavetable",
        "scala",
        "midi",
        "record",
        "import",
        "export",
        "save",
        "volume",
        "aftertouch",
        "group",
        "bypass",
        "wobble",
        "sample",
        "noise",
        "filter",
        "cutoff",
        "lowpass",
        "highpass",
        "resonance",
        "q",
        "envelope",
        "adsr",
        "attack",
        "decay",
        "sustain",
        "release",
        "velocity",
        "detune",
        "spread",
        "width",
        "pan",
        "level",
        "gain",
        "loudness",
        "master",
        "pitch",
        "transpose",
        "octave",
        "tuning",
        "fine",
        "coarse",
        "fm",
        "pm",
        "modulation",
        "index",
        "ratio",
        "oscillator",
        "carrier",
        "modulator",
        "eq",
        "equalizer",
        "compressor",
        "limiter",
        "delay",
        "echo",
        "reverb",
        "room",
        "chorus",
        "flanger",
        "phaser",
        "shifter",
        "multiband",
        "three-band",
        "sidechain",
        "ducking",
        "arp",
        "arpeggiator",
        "sequencer",
        "tempo",
        "bpm",
        "macro",
        "knob",
        "random",
        "chance",
        "steps",
        "quality",
        "oversampling",
        "aliasing",
        "undo",
        "redo",
        "copy",
        "duplicate",
        "delete",
        "remove",
        "mute",
        "solo",
        "panic",
        "silence",
        "help",
        "shortcuts",
        "theme",
        "dark",
        "presets",
        "library",
        "render",
        "wav",
        "version",
        "tags",
    ];
    let stage = new_patch().await;
    stage.add_operator(1).await;
    stage.chord(Key::Control, "k").await;
    let input = stage
        .find("input[aria-label='Find, or type a strip']")
        .await;
    stage.press(Key::Enter + "").await;
    assert!(input.is_displayed().await.unwrap(), "it does nothing");
    let mut unknown = vec![];
    for word in CALLED {
        let type_word = "const input = document.querySelector(\"input[aria-label='Find, or type a strip']\"); input.value = arguments[0]; input.dispatchEvent(new Event('input'));";
        stage.js(type_word, vec![(*word).into()]).await;
        let found = stage
            .js("return new Promise((done) => requestAnimationFrame(() => done(document.querySelectorAll('#found [role=option]').length)))", vec![])
            .await;
        if found.as_u64() == Some(0) {
            unknown.push(*word);
        }
    }
    assert!(unknown.is_empty(), "not found: {unknown:?}");
}

/// The peak is that of the file, behind the effects, whatever the picture shows.
async fn the_peak_that_is_set_is_that_of_the_file() {
    use zolvik_patch::finish::EffectName;
    let mut hand = Hand::new().await;
    hand.find("Add an effect: Drive, in Common").await;
    hand.chord(Key::Alt, "1").await;
    hand.click("voice").await;
    hand.click("Set peak to −1 dB").await;
    let trimmed = "return [...document.querySelectorAll('.p-toast-detail, [data-pc-section=detail]')].some((t) => t.textContent.includes('as a file'))";
    hand.stage.wait_until("it is measured", trimmed).await;
    let patch = hand.patch().await;
    assert_eq!(
        patch.finish.common.effects[0].kind.name(),
        EffectName::Drive
    );
    let note = zolvik_lab::Note::auditioned(&patch, 48_000.0);
    let sound = zolvik_lab::render::render(&patch.for_files(), &note);
    let peak = zolvik_lab::level::level(&sound).true_peak_db;
    assert!((peak + 1.0).abs() < 0.11, "{peak} dB");
}
