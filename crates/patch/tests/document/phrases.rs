//! What is typed of a phrase, and how its notes are moved.

use rstest::rstest;
use zolvik_patch::playing::phrase::{NoteMove, PhraseNote};
use zolvik_patch::text::phrase::{length_beats, place_beats, velocities};

#[rstest]
#[case::bars("2", Ok(8.0))]
#[case::part_of_a_bar("0,5", Ok(2.0))]
#[case::named_bars(" 1.5 bars", Ok(6.0))]
#[case::beats("6 beats", Ok(6.0))]
#[case::one_beat("1 Beat", Ok(1.0))]
#[case::a_sum("1+1", Ok(8.0))]
#[case::no_number("long", Err("“long” is not a length; type bars such as 2, or 6 beats"))]
#[case::none("0", Err("The length of a phrase goes from 0.0625 bars to 512 bars"))]
#[case::too_long("513", Err("The length of a phrase goes from 0.0625 bars to 512 bars"))]
fn lengths_are_bars_or_beats(#[case] typed: &str, #[case] expected: Result<f64, &str>) {
    let read = length_beats(typed).map_err(|e| e.to_string());
    assert_eq!(read, expected.map_err(str::to_owned));
}

#[rstest]
#[case::beats("2.5", Ok(2.5))]
#[case::named("3 beats", Ok(3.0))]
#[case::bar_beat_hundredths("1.3.50", Ok(2.5))]
#[case::second_bar("2.1.0", Ok(4.0))]
#[case::the_begin("0", Ok(0.0))]
#[case::its_end("8", Err("The start of a note goes from 0 to just before 8 beats"))]
#[case::before("-1", Err("The start of a note goes from 0 to just before 8 beats"))]
fn places_are_beats_or_bar_and_beat(#[case] typed: &str, #[case] expected: Result<f64, &str>) {
    let read = place_beats(typed, 8.0).map_err(|e| e.to_string());
    assert_eq!(read, expected.map_err(str::to_owned));
}

#[rstest]
#[case::commas("50, 90,120", Some(vec![50, 90, 120]))]
#[case::blanks("1 127", Some(vec![1, 127]))]
#[case::nothing(" ", Some(vec![]))]
#[case::too_hard("64, 128", None)]
#[case::too_soft("0", None)]
#[case::no_number("loud", None)]
fn velocities_are_read_one_by_one(#[case] typed: &str, #[case] expected: Option<Vec<u8>>) {
    assert_eq!(velocities(typed).ok(), expected);
}

const NOTE: PhraseNote = PhraseNote {
    at_beats: 1.1,
    length_beats: 0.7,
    semitones: 3,
    velocity: 100,
};

#[rstest]
#[case::nowhere(NoteMove::default(), (1.1, 0.7, 3))]
#[case::off_the_grid(NoteMove { by_beats: 0.25, ..Default::default() }, (1.35, 0.7, 3))]
#[case::onto_the_grid(NoteMove { by_beats: 0.3, grid_beats: 0.5, ..Default::default() }, (1.5, 0.7, 3))]
#[case::not_before_the_begin(NoteMove { by_beats: -9.0, ..Default::default() }, (0.0, 0.7, 3))]
#[case::not_behind_the_end(NoteMove { by_beats: 9.0, ..Default::default() }, (3.999, 0.7, 3))]
#[case::higher_alone_stays_off_the_grid(NoteMove { by_semitones: 12, grid_beats: 0.5, ..Default::default() }, (1.1, 0.7, 15))]
#[case::to_the_last_key(NoteMove { by_semitones: 999, ..Default::default() }, (1.1, 0.7, 127))]
#[case::longer_by_quarters_of_the_grid(NoteMove { longer_beats: 0.2, grid_beats: 1.0, ..Default::default() }, (1.1, 1.0, 3))]
#[case::never_shorter_than_half_of_it(NoteMove { longer_beats: -5.0, grid_beats: 1.0, ..Default::default() }, (1.1, 0.5, 3))]
#[case::nor_than_a_hand_can_take(NoteMove { longer_beats: -5.0, ..Default::default() }, (1.1, 0.02, 3))]
fn notes_are_moved_within_their_phrase(
    #[case] by: NoteMove,
    #[case] (at_beats, length_beats, semitones): (f64, f64, i16),
) {
    let moved = NOTE.moved(by, 4.0);
    assert!((moved.at_beats - at_beats).abs() < 1e-9, "{moved:?}");
    assert!(
        (moved.length_beats - length_beats).abs() < 1e-9,
        "{moved:?}"
    );
    assert_eq!((moved.semitones, moved.velocity), (semitones, 100));
}

#[rstest]
#[case(-0.4, 100)]
#[case(12.6, 113)]
#[case(500.0, 127)]
#[case(-500.0, 1)]
fn a_struck_note_keeps_a_velocity_there_is(#[case] by: f64, #[case] velocity: u8) {
    let struck = NOTE.struck(by);
    assert_eq!(PhraseNote { velocity, ..NOTE }, struck);
}
