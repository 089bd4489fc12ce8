//! What keyboards and controllers send, and what is meant by it.

use rstest::rstest;
use zolvik_edit::{Connect, Edit, apply};
use zolvik_patch::address::Address;
use zolvik_patch::document::{Filter, KindName, Operator, Patch, UnitId};
use zolvik_patch::movement::{Macro, SourceName};
use zolvik_play::inlet::{Inlet, Learnt, Meant, Moved, Touch};

fn take(inlet: &mut Inlet, bytes: &[u8], patch: &Patch) -> Vec<Meant> {
    inlet.take(bytes, 0.0, Touch::Even, patch)
}

fn after(edits: &[Edit]) -> Patch {
    let one = |patch: Patch, edit: &Edit| apply(&patch, edit).unwrap().0;
    edits.iter().fold(Patch::empty(), one)
}

fn played(bytes: [u8; 3]) -> Vec<Meant> {
    vec![Meant::Play { message: bytes }]
}

#[rstest]
// 127 (v / 127)^0.6, ^1 and ^1.7, rounded by hand: the middle up or down, the ends where they are
#[case(Touch::Even, &[(1, 1), (64, 64), (127, 127)])]
#[case(Touch::Heavy, &[(1, 7), (64, 84), (127, 127)])]
#[case(Touch::Light, &[(1, 1), (64, 40), (127, 127)])]
fn a_keyboard_is_touched_as_it_is_built(#[case] touch: Touch, #[case] table: &[(u8, u8)]) {
    for (struck, becomes) in table {
        let mut inlet = Inlet::default();
        let meant = inlet.take(&[0x93, 60, *struck], 0.0, touch, &Patch::empty());
        assert_eq!(meant, played([0x93, 60, *becomes]), "{struck}");
    }
    // a key that is let go is not struck, however it is touched
    let meant = Inlet::default().take(&[0x90, 60, 0], 0.0, touch, &Patch::empty());
    assert_eq!(meant, played([0x90, 60, 0]));
}

#[rstest]
#[case::nothing(&[])]
#[case::cut_off(&[0x90])]
#[case::no_status(&[60, 100])]
#[case::system(&[0xF0, 1, 2])]
#[case::sensing(&[0xFE])]
fn what_is_no_message_means_nothing(#[case] bytes: &[u8]) {
    assert_eq!(take(&mut Inlet::default(), bytes, &Patch::empty()), []);
}

#[test]
fn data_that_is_too_large_is_cut_to_what_a_message_can_hold() {
    let meant = take(&mut Inlet::default(), &[0xB0, 0xFF, 0xFF], &Patch::empty());
    assert_eq!(meant, played([0xB0, 127, 127]));
    // messages of two bytes are as the others
    let meant = take(&mut Inlet::default(), &[0xD0, 90], &Patch::empty());
    assert_eq!(meant, played([0xD0, 90, 0]));
}

#[test]
fn a_knob_learns_a_macro_and_a_value_each_one_and_none_two() {
    let patch = after(&[
        Edit::AddSource {
            kind: SourceName::Macro,
            to: vec![],
        },
        Edit::AddUnit {
            kind: KindName::Filter,
            connect: Connect::Output,
        },
    ]);
    let place = Address::new(Macro::PLACE, patch.movement.sources[0].id.0);
    let cutoff = Address::unit(UnitId(2), Filter::CUTOFF_HZ);
    let mut inlet = Inlet::default();
    // one that means something already is not learnt, but played; learning goes on
    inlet.learn(Some(Moved::Macro(0)));
    assert_eq!(
        take(&mut inlet, &[0xB0, 64, 127], &patch)[..1],
        played([0xB0, 64, 127])
    );
    let meant = take(&mut inlet, &[0xB0, 21, 127], &patch);
    let learnt = |controller, moves| Learnt { controller, moves };
    let first = Meant::Learnt {
        learnt: learnt(21, Moved::Macro(0)),
        list: vec![learnt(21, Moved::Macro(0))],
        gone: vec![],
    };
    let to = |controller, address, place| Meant::Place {
        controller,
        address,
        place,
    };
    assert_eq!(meant, [first, to(21, place, 1.0)]);
    assert_eq!(
        take(&mut inlet, &[0xB0, 21, 0], &patch),
        [to(21, place, 0.0)]
    );
    // the fine part comes after the coarse one: 64 of 127, and 64 of 128 more
    take(&mut inlet, &[0xB0, 21, 64], &patch);
    let fine = (64.0 * 128.0 + 64.0) / 16_383.0;
    assert_eq!(
        take(&mut inlet, &[0xB0, 53, 64], &patch),
        [to(21, place, fine)]
    );
    // another knob takes over, and the first is free again
    inlet.learn(Some(Moved::Macro(0)));
    let meant = take(&mut inlet, &[0xB0, 22, 127], &patch);
    assert!(
        matches!(&meant[0], Meant::Learnt { gone, .. } if gone == &[21]),
        "{meant:?}"
    );
    assert_eq!(
        take(&mut inlet, &[0xB0, 21, 5], &patch),
        played([0xB0, 21, 5])
    );
    // the same knob for something else
    inlet.learn(Some(Moved::Value(cutoff)));
    let meant = take(&mut inlet, &[0xB0, 22, 127], &patch);
    assert!(
        matches!(&meant[0], Meant::Learnt { gone, .. } if gone.is_empty()),
        "{meant:?}"
    );
    assert_eq!(inlet.learnt(), [learnt(22, Moved::Value(cutoff))]);
    // in a patch that has no such value the knob moves nothing, and is not played either
    assert_eq!(take(&mut inlet, &[0xB0, 22, 9], &Patch::empty()), []);
    assert_eq!(inlet.forget(Moved::Value(cutoff)), [22]);
    assert_eq!(
        take(&mut inlet, &[0xB0, 22, 9], &patch),
        played([0xB0, 22, 9])
    );
    // what was kept by earlier versions is read
    let kept: Learnt = serde_json::from_str(r#"{"controller":21,"moves":0}"#).unwrap();
    assert_eq!(kept, learnt(21, Moved::Macro(0)));
    let text = r#"{"controller":22,"moves":{"param":"operator.ratio","id":1,"point":0}}"#;
    let ratio = Moved::Value(Address::unit(UnitId(1), Operator::RATIO));
    assert_eq!(
        serde_json::from_str::<Learnt>(text).unwrap(),
        learnt(22, ratio)
    );
}

#[test]
fn keys_and_programs_switch_articulations_and_say_what_is_not_there() {
    let mut patch = after(&[Edit::AddArticulation {
        name: "Soft".into(),
    }]);
    patch.playing.articulations[0].key = Some(24);
    patch.playing.articulation = None;
    let mut inlet = Inlet::default();
    let switch = |at| vec![Meant::Switch { at }];
    assert_eq!(take(&mut inlet, &[0x90, 24, 80], &patch), switch(Some(0)));
    assert_eq!(
        take(&mut inlet, &[0x90, 25, 80], &patch),
        played([0x90, 25, 80])
    );
    assert_eq!(take(&mut inlet, &[0xC0, 1], &patch), switch(Some(0)));
    assert_eq!(take(&mut inlet, &[0xC0, 0], &patch), switch(None));
    let meant = take(&mut inlet, &[0xC0, 5], &patch);
    let words = "Program 5: there is no articulation 5; there is one.";
    assert_eq!(
        meant,
        [Meant::Said {
            words: words.into()
        }]
    );
    // the same key again goes back to the base; letting a key go hangs no note
    patch.playing.articulation = Some(0);
    assert_eq!(take(&mut inlet, &[0x90, 24, 80], &patch), switch(None));
    assert_eq!(
        take(&mut inlet, &[0x80, 24, 0], &patch),
        played([0x80, 24, 0])
    );
}

#[rstest]
#[case(20.0, &[Some(20.0)])]
#[case(97.3, &[Some(97.3)])]
#[case(300.0, &[Some(300.0)])]
// the patch has 120: nothing to follow
#[case(120.2, &[])]
#[case(400.0, &[None])]
#[case(12.0, &[None])]
fn a_clock_sets_the_tempo_or_says_why_not(#[case] bpm: f64, #[case] expected: &[Option<f64>]) {
    let patch = Patch::empty();
    let mut inlet = Inlet::default();
    assert_eq!(
        take(&mut inlet, &[0xFA], &patch),
        [Meant::Start {
            at_beats: Some(0.0)
        }]
    );
    // two beats of 24 ticks; what is told is told once
    let tick = |n: usize| n as f64 * 60_000.0 / bpm / 24.0;
    let meant: Vec<Meant> = (0..50)
        .flat_map(|n| inlet.take(&[0xF8], tick(n), Touch::Even, &patch))
        .collect();
    let tempos = meant.iter().map(|meant| match meant {
        Meant::Tempo { bpm } => Some(*bpm),
        Meant::Said { words } => {
            assert!(words.contains("tempos go from 20 to 300"), "{words}");
            None
        }
        other => panic!("{other:?}"),
    });
    let mut tempos: Vec<Option<f64>> = tempos.collect();
    // the patch of this test does not follow, so it is told with every tick
    tempos.dedup();
    assert_eq!(tempos, expected);
    assert_eq!(take(&mut inlet, &[0xFC], &patch), [Meant::Stop]);
}

/// Told to go on, it goes on where it was stopped, or where it was told to (MIDI 1.0, song position pointer: in sixteenths).
#[test]
fn what_goes_on_says_from_where() {
    let (mut inlet, patch) = (Inlet::default(), Patch::empty());
    let start = |at_beats| vec![Meant::Start { at_beats }];
    assert_eq!(take(&mut inlet, &[0xFB], &patch), start(None));
    assert_eq!(take(&mut inlet, &[0xF2, 5, 1], &patch), vec![]);
    assert_eq!(take(&mut inlet, &[0xFB], &patch), start(Some(133.0 / 4.0)));
    assert_eq!(take(&mut inlet, &[0xFB], &patch), start(None), "once");
    assert_eq!(take(&mut inlet, &[0xF2, 5, 1], &patch), vec![]);
    assert_eq!(take(&mut inlet, &[0xFA], &patch), start(Some(0.0)));
    assert_eq!(take(&mut inlet, &[0xFB], &patch), start(None));
    assert_eq!(take(&mut inlet, &[0xF2, 5], &patch), vec![], "cut off");
}

#[test]
fn of_what_is_played_for_too_long_the_beginning_is_kept() {
    use zolvik_play::recorder::{NoPhrase, Recorder};
    let mut recorder = Recorder::new(57);
    for n in 0..2400 {
        recorder.take(f64::from(n), [0x90, 57, 90]);
        recorder.take(f64::from(n) + 0.5, [0x80, 57, 0]);
    }
    let whole = recorder.clone().phrase("Long", 0.0).unwrap_err();
    assert_eq!(whole, NoPhrase::Many { actual: 2400 });
    let cut = recorder.cut().phrase("Long", 0.0).unwrap();
    cut.check("phrase").unwrap();
    assert_eq!(cut.notes.len(), 2000);
    assert_eq!(
        Recorder::new(57).cut().phrase("x", 0.0),
        Err(NoPhrase::Empty)
    );
}
