//! When the machine cannot keep up: what gives way, in which order, and that something always goes on.

use zolvik_engine::Engine;
use zolvik_patch::Patch;

use crate::support::*;

/// A sine whose level is its velocity's and which rings long after its release.
fn patch() -> Patch {
    let mut patch = plain_units(&[1.0]);
    connect(&mut patch, 1, TO_LEFT);
    patch.units[0].velocity = 1.0;
    patch.units[0].envelope.points[2].time_s = 3.0;
    patch.voice.polyphony = 32;
    patch
}

/// Which of some keys are heard in the next tenth of a second.
fn heard(engine: &mut Engine, keys: &[u8]) -> Vec<u8> {
    take(engine, 4800);
    let sound = take(engine, 9600).0;
    let hz = |key: u8| 440.0 * 2f64.powf((f64::from(key) - 69.0) / 12.0);
    keys.iter()
        .copied()
        .filter(|key| partial(&sound, hz(*key)).0 > 1e-3)
        .collect()
}

#[test]
fn released_notes_go_first_the_oldest_first_then_the_quietest() {
    let mut engine = engine(&patch());
    for (key, velocity) in [(48, 100), (55, 100), (62, 40), (69, 100), (76, 90)] {
        engine.note_on(key, velocity);
        take(&mut engine, 480);
    }
    engine.note_off(55);
    engine.note_off(48);
    let keys = [48, 55, 62, 69, 76];
    // five notes at 0.87 of the time: four fit into 0.7
    assert_eq!(engine.shed_notes(0.87), 1);
    assert_eq!(
        heard(&mut engine, &keys),
        [55, 62, 69, 76],
        "the older of both released ones"
    );
    assert_eq!(engine.shed_notes(0.9), 1);
    assert_eq!(heard(&mut engine, &keys), [62, 69, 76]);
    assert_eq!(engine.shed_notes(1.0), 1);
    assert_eq!(heard(&mut engine, &keys), [69, 76], "the quietest");
}

#[test]
fn one_note_always_stays_and_nothing_is_stuck() {
    let mut engine = engine(&patch());
    (0..32).for_each(|n| engine.note_on(40 + n, 100));
    take(&mut engine, 480);
    assert_eq!(engine.shed_notes(66.0), 31);
    take(&mut engine, 4800);
    assert_eq!(engine.voices(), 1);
    assert_eq!(engine.shed_notes(66.0), 0);
    // more notes take its place until there is room again
    (0..8).for_each(|n| engine.note_on(80 + n, 100));
    take(&mut engine, 4800);
    assert_eq!(engine.voices(), 1);
    assert_eq!(heard(&mut engine, &[80, 87]), [87]);
    engine.allow_more_notes();
    engine.allow_more_notes();
    (0..8).for_each(|n| engine.note_on(80 + n, 100));
    take(&mut engine, 4800);
    assert_eq!(engine.voices(), 4);
    engine.all_notes_off();
    take(&mut engine, 4 * 48_000);
    assert_eq!(engine.voices(), 0);
}

#[test]
fn letting_go_and_lowering_quality_do_not_click() {
    let mut patch = patch();
    patch.voice.quality = zolvik_patch::document::Quality::X8;
    let mut engine = engine(&patch);
    [57, 64, 69]
        .iter()
        .for_each(|key| engine.note_on(*key, 100));
    take(&mut engine, 9600);
    let settled = roughness(&take(&mut engine, 9600).0);
    assert_eq!(engine.shed_notes(1.4), 2);
    let after = roughness(&take(&mut engine, 9600).0);
    assert!(after < settled * 1.2, "{after} beside {settled}");
    for times in [4, 2, 1] {
        assert!(engine.lower_quality());
        let after = roughness(&take(&mut engine, 9600).0);
        assert_eq!(engine.oversampling(), times);
        assert!(after < settled * 1.2, "{times}x: {after} beside {settled}");
    }
    assert!(!engine.lower_quality());
}
