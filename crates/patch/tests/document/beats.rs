//! The ready beats.

use zolvik_patch::playing::beat::{Beat, PATTERN_BEATS};

#[test]
fn every_row_of_every_beat_spans_two_bars_and_is_in_time() {
    for beat in Beat::ALL {
        for (drum, row) in beat.rows() {
            assert_eq!(row.len(), 32, "{beat:?} {drum:?}");
            assert!(row.bytes().all(|b| b"xo.".contains(&b)));
        }
        let strokes = beat.strokes();
        assert!(strokes.is_sorted_by(|a, b| a.at_beats <= b.at_beats));
        assert!(strokes.iter().all(|s| s.at_beats < PATTERN_BEATS));
        assert_eq!(strokes.is_empty(), *beat == Beat::None);
    }
}

#[test]
fn no_two_beats_are_alike() {
    let mut all: Vec<_> = Beat::ALL
        .iter()
        .map(|b| format!("{:?}", b.strokes()))
        .collect();
    all.sort();
    all.dedup();
    assert_eq!(all.len(), Beat::ALL.len());
}

/// A beat in words: its strokes in the order of its rows, counted as a drummer counts them, as many as there are.
#[test]
fn a_beat_is_told_in_words() {
    let told = Beat::PaperLantern.words();
    assert!(told.contains("kick at 1, 2, 3, 4, 5, 6, 7, 8;"), "{told}");
    assert!(told.contains("clap at 2, 4, 6, 8"), "{told}");
    assert!(told.contains("shaker at 4.50, 8.50"), "{told}");
    assert_eq!(Beat::None.words(), "No beat");
    for beat in Beat::ALL {
        let said: usize = beat.words().matches(", ").count() + beat.rows().len();
        assert_eq!(said, beat.strokes().len(), "{beat:?}");
    }
}
