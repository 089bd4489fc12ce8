//! Pictures as two workers make them, one rendering in slices, the other drawing, against those made in one go.

use std::path::Path;

use serde_json::{Value, json};
use zolvik_browser::tasks::Tasks;
use zolvik_lab::render::prepared;
use zolvik_lab::{Detail, Note, unfold};
use zolvik_patch::json as document;

const EXPONENT: f64 = 0.6;

fn demo(name: &str) -> String {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/night-garden");
    std::fs::read_to_string(folder.join(format!("{name}.json"))).unwrap()
}

fn task(tasks: &mut Tasks, task: Value) -> Value {
    tasks.begin();
    let answer = tasks.answer(serde_json::from_value(task).expect("a task"));
    serde_json::to_value(answer).expect("an answer")
}

#[derive(Default)]
struct Workers {
    renders: Tasks,
    draws: Tasks,
}

/// Columns that were begun, known columns of every row.
struct Ink {
    begun: u64,
    fronts: Vec<u16>,
}

impl Workers {
    fn begin(&mut self, text: &str, detail: &str, effect: Option<u16>) {
        let listening = json!({ "muted": [], "soloed": [] });
        let of = json!({ "text": text, "listening": listening, "exponent": EXPONENT, "detail": detail, "effect": effect });
        let renders = task(&mut self.renders, json!({ "task": "render", "of": of }));
        assert_eq!(renders["is"], "renders", "{renders}");
        let sound = json!({ "task": "draw", "of": of, "rate_hz": renders["rate_hz"], "length_s": renders["length_s"] });
        task(&mut self.draws, sound);
    }

    fn slice(&mut self, spent_ms: f64) -> (Value, Ink) {
        let rendered = task(
            &mut self.renders,
            json!({ "task": "render_on", "spent_ms": spent_ms }),
        );
        self.draws.put(&self.renders.parts()[0]);
        let inked = task(&mut self.draws, json!({ "task": "draw_on", "look": true }));
        let fronts = self.draws.parts()[1]
            .chunks(2)
            .map(|b| u16::from_le_bytes([b[0], b[1]]));
        let ink = Ink {
            begun: inked["begun"].as_u64().unwrap(),
            fronts: fronts.collect(),
        };
        (rendered, ink)
    }

    fn finish(&mut self, spent_ms: f64, key: u32) -> (Value, Value) {
        loop {
            let (rendered, _) = self.slice(spent_ms);
            if rendered["more"] == false {
                let whole = task(&mut self.draws, json!({ "task": "draw_end", "key": key }));
                return (rendered, whole);
            }
        }
    }
}

#[test]
fn in_slices_it_is_what_it_is_in_one_go() {
    let mut workers = Workers::default();
    // one after the other: nothing of one is left in the next
    for name in [
        "iron-ivy",
        "frost-fern",
        "seed-rattle",
        "iron-ivy",
        "tin-rain",
    ] {
        let text = demo(name);
        let patch = document::read(&text).unwrap();
        let note = Note::auditioned(&patch, 48_000.0);
        let whole = unfold(&prepared(&patch), &note, EXPONENT, Detail::Fine);
        let effect = patch.finish.effects().last().map(|e| e.id.0);
        workers.begin(&text, "fine", effect);
        let (rendered, answer) = workers.finish(3.0, 1);
        assert_eq!(workers.draws.parts()[0], whole.spectrogram, "{name}");
        let loudness: Vec<u8> = whole
            .loudness_db
            .iter()
            .flat_map(|v| v.to_le_bytes())
            .collect();
        assert_eq!(workers.draws.parts()[1], loudness, "{name}");
        assert_eq!(
            answer["level"]["true_peak_db"],
            json!(whole.level.true_peak_db)
        );
        assert_eq!(answer["units"].as_array().unwrap().len(), patch.units.len());
        assert_eq!(
            rendered["effects"].as_array().unwrap().len(),
            patch.finish.effects().count()
        );
    }
}

#[test]
fn ink_comes_from_left_to_right_and_a_newer_picture_stops_an_older_one() {
    let mut workers = Workers::default();
    let (old, new) = (demo("frost-fern"), demo("iron-ivy"));
    workers.begin(&old, "coarse", None);
    let (first, ink) = workers.slice(0.0);
    assert_eq!(first["more"], true);
    assert!(ink.begun > 0, "the first slice has ink");
    // what lies beyond half the rate is never known
    let seen = ink.fronts.iter().rposition(|front| *front > 0).unwrap();
    let low_before_high = ink.fronts[..=seen]
        .windows(2)
        .filter(|w| w[0] > w[1])
        .count();
    assert_eq!(low_before_high, 0, "short windows are known first");
    let (_, later) = workers.slice(2.0);
    assert!(
        later
            .fronts
            .iter()
            .zip(&ink.fronts)
            .all(|(now, then)| now >= then)
    );
    workers.begin(&new, "fine", None);
    let (_, answer) = workers.finish(2.0, 7);
    let patch = document::read(&new).unwrap();
    let note = Note::auditioned(&patch, 48_000.0);
    let whole = unfold(&prepared(&patch), &note, EXPONENT, Detail::Fine);
    assert_eq!(workers.draws.parts()[0], whole.spectrogram);
    // and it can be had again, with its spectra
    workers.begin(&old, "fine", None);
    workers.finish(5.0, 8);
    let again = task(
        &mut workers.draws,
        json!({ "task": "draw_again", "key": 7 }),
    );
    assert_eq!(again, answer);
    assert_eq!(workers.draws.parts()[0], whole.spectrogram);
    let spectrum = json!({ "task": "spectrum", "time_s": 0.1, "rows": 80 });
    let seen = task(&mut workers.draws, spectrum.clone());
    workers.begin(&new, "fine", None);
    workers.finish(5.0, 9);
    assert_eq!(task(&mut workers.draws, spectrum), seen);
    let gone = task(
        &mut workers.draws,
        json!({ "task": "draw_again", "key": 1234 }),
    );
    assert_eq!(gone["is"], "refused");
}

/// A picture made in a hurry is that of the same sound: as loud, in the same places.
#[test]
fn a_coarse_picture_is_like_the_fine_one() {
    for (name, spent_ms) in [
        ("cellar-growl", 40.0),
        ("moth-choir", 60.0),
        ("stone-hum", 200.0),
        ("tin-rain", 0.1),
    ] {
        let text = demo(name);
        let mut workers = Workers::default();
        workers.begin(&text, "fine", None);
        let (_, fine) = workers.finish(1.0, 1);
        for round in 0..4 {
            workers.begin(&text, "coarse", None);
            let (_, coarse) = workers.finish(spent_ms, 2);
            let lufs = |of: &Value| of["level"]["loudness_lufs"].as_f64().unwrap();
            let apart = lufs(&coarse) - lufs(&fine);
            assert!(apart.abs() < 2.5, "{name} in round {round}: {apart} dB");
        }
    }
}

/// The first number behind some words.
fn number_after(text: &str, words: &str) -> f64 {
    let rest = text
        .split_once(words)
        .unwrap_or_else(|| panic!("“{words}” in {text}"))
        .1;
    let end = rest.find(|c: char| !c.is_ascii_digit() && c != '.');
    rest[..end.unwrap_or(rest.len())]
        .trim_end_matches('.')
        .parse()
        .unwrap()
}

/// A sine of 220 Hz that is struck and lets go at half a second with a release of 200 ms, straight: told with its frequency, its loudest moment and
/// its end. By 60 dB it has fallen a thousandth before the release is over, plus what a measure of 60 ms is late.
#[test]
fn a_picture_is_told_in_words() {
    let mut patch = zolvik_patch::Patch::empty();
    patch.audition.hold_s = 0.5;
    patch.audition.window_s = 2.0;
    let points = &mut patch.units[0].envelope.points;
    for (point, (time_s, level)) in points.iter_mut().zip([(0.1, 1.0), (0.1, 1.0), (0.2, 0.0)]) {
        (point.time_s, point.level, point.curve) = (time_s, level, 0.0);
    }
    let mut workers = Workers::default();
    workers.begin(&document::write(&patch), "fine", None);
    let (_, whole) = workers.finish(50.0, 1);
    let told = whole["told"]["spectrogram"].as_str().unwrap().to_owned();
    let hz = number_after(&told, "strongest at ");
    assert!((hz / 220.0 - 1.0).abs() < 0.03, "{told}");
    let low = number_after(&told, "between ");
    assert!((170.0..220.0).contains(&low), "{told}");
    let ended_ms = number_after(&told, "fallen by 60 dB at ");
    assert!((680.0..745.0).contains(&ended_ms), "{told}");
    let course = whole["told"]["curves"][0].as_str().unwrap();
    let peak = number_after(course, "highest ");
    assert!(peak > 0.5 && course.contains("ends at 0.00"), "{course}");
    // in a hurry nothing is told
    workers.begin(&document::write(&patch), "coarse", None);
    let (_, coarse) = workers.finish(50.0, 2);
    assert_eq!(coarse["told"]["spectrogram"], "");
}
