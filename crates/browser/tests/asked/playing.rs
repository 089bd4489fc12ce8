//! Playing as the page is told of it: phrases, macros, articulations; and what the audio thread makes of it.

use serde_json::{Value, json};
use zolvik_browser::page::Page;
use zolvik_browser::tasks::Tasks;

use crate::support::{ask, ask_for_file};
use zolvik_browser::shared::Shared;
use zolvik_browser::sound::{How, PlayFrom, Sound};

fn view(answer: &Value) -> &Value {
    assert_eq!(answer["is"], "document", "{answer}");
    &answer["view"]
}

fn edit(page: &mut Page, edit: Value) -> Value {
    let question = json!({ "ask": "edit", "edit": edit, "units": [], "gesture": null });
    ask(page, question)
}

fn with_phrase() -> Page {
    let mut page = Page::default();
    let answer = ask(
        &mut page,
        json!({ "ask": "take_phrase", "at": 3, "from_its_key": true }),
    );
    assert_eq!(view(&answer)["phrase"]["name"], "Root walk");
    assert_eq!(view(&answer)["audition"]["name"], "A1");
    page
}

#[test]
fn notes_are_moved_from_where_a_gesture_began_and_land_on_the_grid() {
    let mut page = with_phrase();
    let moved = |page: &mut Page, by: f64| {
        let answer = ask(
            page,
            json!({ "ask": "move_notes", "notes": [1, 2], "by_beats": by, "by_semitones": 2, "longer_beats": 0.0, "grid_beats": 0.25, "gesture": 5 }),
        );
        view(&answer)["phrase"]["notes"].clone()
    };
    moved(&mut page, 0.9);
    let notes = moved(&mut page, 0.3);
    // 0.75 + 0.3 falls on 1, not on where the first move had brought it
    assert_eq!(
        (&notes[1]["at_beats"], &notes[1]["key"]),
        (&json!(1.0), &json!(35))
    );
    assert_eq!(notes[2]["at_beats"], 1.75);
    let undone = ask(&mut page, json!({ "ask": "undo" }));
    assert_eq!(view(&undone)["phrase"]["notes"][1]["at_beats"], 0.75);
    assert_eq!(view(&undone)["redo"], "phrase Root walk");
}

#[test]
fn values_of_notes_are_typed_as_people_write_them() {
    let mut page = with_phrase();
    let mut typed = |field: &str, text: &str| {
        ask(
            &mut page,
            json!({ "ask": "type_note", "notes": [0], "field": field, "text": text }),
        )
    };
    let note = |answer: &Value, at: usize| view(answer)["phrase"]["notes"][at].clone();
    assert_eq!(note(&typed("pitch", "E2"), 0)["name"], "E2");
    assert_eq!(note(&typed("velocity", "64"), 0)["velocity"], 64);
    assert_eq!(note(&typed("length", "1/8"), 0)["length_beats"], 0.5);
    let later = typed("starts", "2.1.50");
    let all = view(&later)["phrase"]["notes"].as_array().unwrap();
    assert!(
        all.iter()
            .any(|n| n["at_beats"] == 4.5 && n["name"] == "E2")
    );
    assert!(
        typed("starts", "soon")["why"]
            .as_str()
            .unwrap()
            .contains("bar.beat")
    );
    assert!(typed("pitch", "H9")["why"].is_string());
}

#[test]
fn both_ends_of_a_macros_target_are_typed_and_may_be_upside_down() {
    let mut page = Page::default();
    let to = json!([{ "param": "route.level_db", "id": 1 }]);
    edit(
        &mut page,
        json!({ "do": "add_source", "kind": "macro", "to": to }),
    );
    ask(
        &mut page,
        json!({ "ask": "type_way", "link": 1, "high": false, "text": "-6 dB" }),
    );
    let answer = ask(
        &mut page,
        json!({ "ask": "type_way", "link": 1, "high": true, "text": "-30" }),
    );
    let shown = view(&answer);
    let link = &shown["links"][0];
    assert_eq!(link["at_low"], "−6.0 dB");
    assert_eq!(link["at_high"], "−30.0 dB");
    let way: Vec<f64> = serde_json::from_value(link["way"].clone()).unwrap();
    assert!(way.windows(2).all(|w| w[1] < w[0]), "it falls: {way:?}");
    assert_eq!(shown["macros"][0]["links"], json!([1]));
    // a controller puts it at a place
    let address = json!({ "param": "macro.place", "id": 1001 });
    let moved = ask(
        &mut page,
        json!({ "ask": "place", "address": address, "place": 0.25, "gesture": 9 }),
    );
    assert_eq!(view(&moved)["macros"][0]["value"]["value"], 0.25);
}

#[test]
fn what_is_different_in_an_articulation_is_marked_and_told_side_by_side() {
    let mut page = Page::default();
    edit(
        &mut page,
        json!({ "do": "add_articulation", "name": "Open" }),
    );
    let ratio = json!({ "param": "operator.ratio", "id": 1 });
    let answer = edit(
        &mut page,
        json!({ "do": "set_value", "address": ratio, "value": 2.0 }),
    );
    let values = view(&answer)["strips"][0]["values"]
        .as_array()
        .unwrap()
        .clone();
    let field = values
        .iter()
        .find(|v| v["address"]["param"] == "operator.ratio")
        .unwrap();
    assert_eq!(field["base"], "1.00 ×");
    let told = ask(&mut page, json!({ "ask": "differences" }));
    assert_eq!(told["names"], json!(["Base", "Open"]));
    assert_eq!(told["rows"][0]["title"], "Operator 1 ratio");
    assert_eq!(told["rows"][0]["values"], json!(["1.00 ×", "2.00 ×"]));
    assert_eq!(told["rows"][0]["same"], json!([true, false]));
    let back = edit(
        &mut page,
        json!({ "do": "settle", "address": ratio, "take_back": true }),
    );
    assert_eq!(view(&back)["articulations"][0]["differences"], 0);
    assert_eq!(
        ask(&mut page, json!({ "ask": "key_of", "text": "C1" }))["key"],
        24
    );
}

#[test]
fn a_midi_file_goes_out_and_comes_back_in() {
    let mut page = with_phrase();
    let (answer, bytes) = ask_for_file(&mut page, json!({ "ask": "export_midi" }));
    assert_eq!(answer["file_name"], "root-walk.mid");
    ask(&mut page, json!({ "ask": "no_phrase" }));
    page.take_file(bytes);
    let back = ask(
        &mut page,
        json!({ "ask": "import_midi", "name": "Again.mid" }),
    );
    assert_eq!(view(&back)["phrase"]["name"], "Again");
    assert_eq!(view(&back)["phrase"]["notes"].as_array().unwrap().len(), 12);
    page.take_file(vec![1, 2, 3]);
    let refused = ask(&mut page, json!({ "ask": "import_midi", "name": "x.mid" }));
    assert!(
        refused["why"]
            .as_str()
            .unwrap()
            .contains("no whole MIDI file")
    );
}

/// The phrase as the audio thread plays it and as the worker renders it are the same samples.
#[test]
fn what_is_heard_of_a_phrase_is_what_is_rendered() {
    let mut page = with_phrase();
    edit(
        &mut page,
        json!({ "do": "choose", "units": [], "choice": "voice.quality", "at": 1 }),
    );
    let (_, score) = ask_for_file(&mut page, json!({ "ask": "score", "of": "phrase" }));
    let mut sound = Sound::new(48_000.0);
    sound.install(&page.program()).unwrap();
    let how = How {
        from: PlayFrom::Beats(0.0),
        looped: false,
    };
    sound.play(&score, how, 0.0).unwrap();
    let mut heard = vec![];
    for _ in 0..300 {
        sound.process(128);
        heard.extend_from_slice(&sound.channels[0][..128]);
    }
    assert!(sound.told[Shared::PlaceBeats as usize] > 1.0);
    let text = ask(&mut page, json!({ "ask": "save" }))["text"]
        .as_str()
        .unwrap()
        .to_owned();
    let mut tasks = Tasks::default();
    let task = json!({ "task": "wav", "text": text, "bits": 32, "rate_hz": 48000, "to_its_end": true, "what": "phrase" });
    tasks.begin();
    let answer = serde_json::to_value(tasks.answer(serde_json::from_value(task).unwrap())).unwrap();
    assert_eq!(answer["is"], "ready", "{answer}");
    let wav = zolvik_files::wav::read(&tasks.parts()[0], 60.0).unwrap();
    assert!(heard.iter().any(|s| s.abs() > 0.1));
    // one in the middle of two equal sides is their mean; the limiter does nothing at this level
    let apart = heard.iter().zip(&wav.samples).map(|(a, b)| (a - b).abs());
    assert!(apart.fold(0.0, f32::max) < 1e-6);
    sound.stop();
    sound.process(128);
    assert!(sound.told[Shared::PlaceBeats as usize] < 0.0);
}

/// From a message of a keyboard to the first sample that is heard of it: within the block at hand, and what its quality takes.
#[test]
fn a_key_is_heard_within_a_block_of_being_pressed() {
    let mut page = Page::default();
    edit(
        &mut page,
        json!({ "do": "choose", "units": [], "choice": "voice.quality", "at": 1 }),
    );
    let attack = json!({ "param": "point.time_s", "id": 1, "point": 0 });
    edit(
        &mut page,
        json!({ "do": "set_value", "address": attack, "value": 0.0 }),
    );
    let mut sound = Sound::new(48_000.0);
    sound.install(&page.program()).unwrap();
    let mut latest = 0;
    for frames in [128, 100, 7, 16, 129] {
        sound.process(frames);
        sound.midi([0x90, 69, 100]);
        sound.process(128);
        let heard = sound.channels[0].iter().position(|s| s.abs() > 1e-4);
        latest = latest.max(heard.expect("it is heard at once"));
        sound.midi([0xB0, 120, 0]);
        for _ in 0..20 {
            sound.process(128);
        }
    }
    println!(
        "heard after {latest} frames, {:.2} ms",
        latest as f64 / 48.0
    );
    assert!(
        latest <= 18,
        "{latest} frames: a block, and a sine rises from nothing"
    );
}

/// What the page sees of the audio thread's blocks.
#[test]
fn the_page_is_told_of_levels_places_and_the_way_from_key_to_sound() {
    let mut page = Page::default();
    ask(&mut page, json!({ "ask": "new" }));
    let mut sound = Sound::new(48_000.0);
    sound.install(&page.program()).unwrap();
    let told = |sound: &Sound, at: Shared| sound.told[at as usize];
    sound.process(128);
    assert_eq!(told(&sound, Shared::PeakLeft), 0.0);
    assert_eq!(told(&sound, Shared::MeterLeft), 0.0);
    assert_eq!(told(&sound, Shared::Voices), 0.0);
    sound.midi([0x90, 60, 100]);
    let mut peak = 0.0f32;
    for _ in 0..40 {
        sound.process(128);
        let own = sound.channels[0][..128].iter();
        let own = own.fold(0.0f32, |peak, sample| peak.max(sample.abs()));
        assert_eq!(told(&sound, Shared::PeakLeft), own);
        // the meter goes from -60 to +6 dB
        let place = (20.0 * own.max(1e-6).log10() + 60.0) / 66.0;
        let shown = told(&sound, Shared::MeterLeft);
        assert!((shown - place.clamp(0.0, 1.0)).abs() < 1e-4, "{shown}");
        peak = peak.max(own);
    }
    assert!(peak > 0.05, "{peak}");
    assert_eq!(told(&sound, Shared::Voices), 1.0);
    let waited_s = told(&sound, Shared::KeyToSoundS);
    assert!(waited_s > 0.0 && waited_s < 0.003, "{waited_s} s");
}

/// Sixteen notes that take four times the time there is: some are let go at once, and one stays however long that lasts.
#[test]
fn notes_are_let_go_while_the_machine_cannot_keep_up() {
    let page = Page::default();
    let mut sound = Sound::new(48_000.0);
    sound.install(&page.program()).unwrap();
    for key in 40..56 {
        sound.midi([0x90, key, 100]);
    }
    for _ in 0..3000 {
        sound.process(128);
        sound.watch(4.0 * 128.0 / 48.0, 128);
    }
    let told = |at: Shared| sound.told[at as usize];
    assert_eq!(told(Shared::Voices), 1.0);
    assert!(told(Shared::LetGo) >= 7.0, "{}", told(Shared::LetGo));
    assert_eq!(told(Shared::Late), 3000.0);
    assert!((told(Shared::Load) - 4.0).abs() < 1e-3);
}
