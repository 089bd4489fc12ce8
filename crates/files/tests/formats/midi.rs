//! MIDI files: what is written comes back; what is none is refused with what to do.

use rstest::rstest;
use zolvik_files::midi::{MidiError, read, write};
use zolvik_patch::playing::WheelPlace;
use zolvik_patch::playing::ready::READY_PHRASES;

fn header(format: u16, tracks: u16, timing: u16) -> Vec<u8> {
    let mut bytes = b"MThd\0\0\0\x06".to_vec();
    for word in [format, tracks, timing] {
        bytes.extend(word.to_be_bytes());
    }
    bytes
}

fn track(events: &[u8]) -> Vec<u8> {
    let mut bytes = b"MTrk".to_vec();
    bytes.extend((events.len() as u32 + 4).to_be_bytes());
    bytes.extend(events);
    bytes.extend([0, 0xFF, 0x2F, 0]);
    bytes
}

fn file(format: u16, timing: u16, tracks: &[Vec<u8>]) -> Vec<u8> {
    let mut bytes = header(format, tracks.len() as u16, timing);
    tracks.iter().for_each(|t| bytes.extend(t));
    bytes
}

/// A4 for a beat of 96 ticks, then C5 by running status.
const NOTES: &[u8] = &[0, 0x90, 69, 100, 96, 69, 0, 0, 72, 90, 48, 72, 0];

/// Moments as they are, without swing.
fn even(beats: f64) -> f64 {
    beats
}

#[test]
fn all_ready_phrases_come_back_from_their_files() {
    for ready in READY_PHRASES {
        let phrase = ready.phrase();
        let read = read(
            &write(&phrase, ready.key, 97.0, even),
            ready.name,
            ready.key,
        )
        .unwrap();
        assert_eq!(read.phrase.name, phrase.name);
        assert_eq!(
            read.phrase.notes.len(),
            phrase.notes.len(),
            "{}",
            ready.name
        );
        assert!((read.tempo_bpm.unwrap() - 97.0).abs() < 0.01);
        for (a, b) in read.phrase.notes.iter().zip(&phrase.notes) {
            let near = |a: f64, b: f64| (a - b).abs() <= 0.51 / 480.0 * 2.0;
            assert_eq!((a.semitones, a.velocity), (b.semitones, b.velocity));
            assert!(near(a.at_beats, b.at_beats), "{}: {a:?} {b:?}", ready.name);
            assert!(
                near(a.length_beats, b.length_beats),
                "{}: {a:?} {b:?}",
                ready.name
            );
        }
        for beat in [0.0, 2.6, 5.6, 6.6, 7.7] {
            let at = zolvik_patch::playing::Phrase::place_at;
            let wheel = at(&read.phrase.wheel, beat) - at(&phrase.wheel, beat);
            let bend = at(&read.phrase.bend, beat) - at(&phrase.bend, beat);
            assert!(
                wheel.abs() < 0.02 && bend.abs() < 0.02,
                "{} at {beat}",
                ready.name
            );
        }
    }
}

#[rstest]
#[case::one_track(file(0, 96, &[track(NOTES)]), 2)]
#[case::odd_metre(file(0, 96, &[track(&[&[0, 0xFF, 0x58, 4, 7, 3, 24, 8], NOTES].concat())]), 2)]
#[case::two_tracks(file(1, 96, &[track(NOTES), track(NOTES)]), 4)]
#[case::never_let_go(file(0, 96, &[track(&[0, 0x90, 69, 100, 96, 0x90, 71, 100, 20, 0xB0, 7, 1])]), 2)]
fn files_of_notes_are_read(#[case] bytes: Vec<u8>, #[case] notes: usize) {
    let found = read(&bytes, "Mine", 69).unwrap().phrase;
    assert_eq!(found.notes.len(), notes);
    found.check("phrase").unwrap();
    assert_eq!(
        (found.notes[0].semitones, found.notes[0].velocity),
        (0, 100)
    );
    assert!(found.notes[0].length_beats > 0.9);
    assert_eq!(found.length_beats, 4.0);
}

#[rstest]
#[case::nothing(vec![], "no whole MIDI file")]
#[case::no_midi(b"RIFF....WAVE".to_vec(), "no whole MIDI file")]
#[case::cut_off(file(0, 96, &[track(NOTES)])[..30].to_vec(), "export it again")]
#[case::several_songs(file(2, 96, &[track(NOTES)]), "type 0 or 1")]
#[case::no_ticks(file(0, 0, &[track(NOTES)]), "0 ticks")]
#[case::film_frames(file(0, 0xE728, &[track(NOTES)]), "film frames")]
#[case::no_notes(file(0, 96, &[track(&[0, 0xFF, 0x51, 3, 7, 0xA1, 0x20])]), "no note was played")]
#[case::no_tracks(file(0, 96, &[]), "no tracks")]
#[case::too_large(vec![0; (4 << 20) + 1], "bytes")]
fn what_is_no_phrase_is_refused_with_what_to_do(#[case] bytes: Vec<u8>, #[case] why: &str) {
    let found = read(&bytes, "Mine", 60).unwrap_err().to_string();
    assert!(found.contains(why), "{found}");
}

/// More than a phrase takes: its beginning, with a word.
#[rstest]
#[case::a_note_too_many(file(0, 96, &[track(&NOTES.repeat(1_001))]), 2000, "2002 notes; the first 2000")]
#[case::far_too_many(file(0, 96, &[track(&NOTES.repeat(50_000))]), 2000, "first 2000 of 100000 notes")]
#[case::too_long(file(0, 1, &[track(&[&[0, 0x90, 69, 100, 0xBF, 0x7F, 69, 0], NOTES].concat())]), 1, "beats long; its first 1 of 3")]
fn of_too_much_the_beginning_is_taken_with_a_word(
    #[case] bytes: Vec<u8>,
    #[case] notes: usize,
    #[case] word: &str,
) {
    let read = read(&bytes, "Mine", 60).unwrap();
    read.phrase.check("phrase").unwrap();
    assert_eq!(read.phrase.notes.len(), notes);
    let told = read.left_out.unwrap();
    assert!(told.contains(word), "{told}");
}

#[test]
fn any_bytes_are_read_or_refused() {
    let whole = write(&READY_PHRASES[9].phrase(), 57, 120.0, even);
    for at in 0..whole.len() {
        for value in [0, 0x7F, 0x80, 0xFF] {
            let mut bytes = whole.clone();
            bytes[at] = value;
            if let Ok(read) = read(&bytes, "Mine", 57) {
                read.phrase.check("phrase").unwrap();
            }
        }
        let _: Result<_, MidiError> = read(&whole[..at], "Mine", 57);
    }
}

#[test]
fn wheels_with_thousands_of_turns_are_thinned() {
    let mut phrase = READY_PHRASES[0].phrase();
    phrase.bend = (0..1000)
        .map(|n| WheelPlace {
            at_beats: n as f64 * 0.015,
            place: if n % 2 == 0 { 0.5 } else { -0.5 },
        })
        .collect();
    let read = read(&write(&phrase, 57, 120.0, even), "Mine", 57).unwrap();
    assert!(read.phrase.bend.len() >= 1000 && read.phrase.bend.len() <= 2000);
}

#[test]
fn a_file_has_its_notes_where_they_are_heard() {
    // every second sixteenth falls at two thirds of the pair: 1/3 of a beat
    let playing = zolvik_patch::playing::Playing {
        swing: 2.0 / 3.0,
        ..Default::default()
    };
    let mut phrase = READY_PHRASES[0].phrase();
    let note = phrase.notes[0];
    let at = |at_beats: f64| zolvik_patch::playing::PhraseNote {
        at_beats,
        length_beats: 0.25,
        ..note
    };
    phrase.notes = vec![at(0.0), at(0.25), at(0.5), at(0.75)];
    let bytes = write(&phrase, 57, 120.0, |beats| playing.swung(beats));
    let read = read(&bytes, "Mine", 57).unwrap();
    let found: Vec<(f64, f64)> = read
        .phrase
        .notes
        .iter()
        .map(|n| (n.at_beats, n.length_beats))
        .collect();
    let third = 1.0 / 3.0;
    let expected = [
        (0.0, third),
        (third, 0.5 - third),
        (0.5, third),
        (0.5 + third, 0.5 - third),
    ];
    for ((at, length), (want_at, want_length)) in found.iter().zip(expected) {
        assert!(
            (at - want_at).abs() < 0.002 && (length - want_length).abs() < 0.002,
            "{found:?}"
        );
    }
}
