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
