//! What is done when blocks take too long, and when they take little.

use rstest::rstest;
use zolvik_play::overload::{LoadWatch, Verdict};

/// A block of 128 frames at 48 kHz, in milliseconds.
const THERE_MS: f64 = 128.0 / 48.0;

/// What is said after each of so many blocks, told with its place, without what goes on as it is.
fn said(shares: impl IntoIterator<Item = f64>) -> Vec<(usize, Verdict)> {
    let mut watch = LoadWatch::default();
    let shares = shares.into_iter().enumerate();
    let each = shares.map(|(at, share)| (at, watch.take(share * THERE_MS, THERE_MS)));
    each.filter(|(_, verdict)| *verdict != Verdict::Goes)
        .collect()
}

#[rstest]
#[case::nothing_to_do(0.6, 480, &[])]
#[case::just_below(0.94, 480, &[])]
#[case::too_much_is_seen_when_48_were_looked_at(1.2, 48, &[47])]
#[case::and_again_at_the_next_look(1.2, 96, &[47, 95])]
#[case::far_too_much_after_three(4.0, 6, &[2, 5])]
fn steady_work_is_judged(#[case] share: f64, #[case] blocks: usize, #[case] at: &[usize]) {
    let said = said(std::iter::repeat_n(share, blocks));
    let told: Vec<usize> = said.iter().map(|(at, _)| *at).collect();
    assert_eq!(told, at);
    for (_, verdict) in said {
        let Verdict::TooMuch(load) = verdict else {
            panic!("{verdict:?}");
        };
        assert!((load - share).abs() < 1e-9, "{load}");
    }
}

#[test]
fn blocks_that_were_only_interrupted_let_no_note_go() {
    // two of a look take twenty times as long: their sum is too much, but most were quick
    let interrupted = (0..480).map(|at| if at % 48 < 2 { 20.0 } else { 0.3 });
    assert_eq!(said(interrupted), []);
}

#[test]
fn after_twelve_easy_looks_there_is_room_for_more() {
    let said = said(std::iter::repeat_n(0.2, 48 * 25));
    assert_eq!(
        said,
        [(48 * 12 - 1, Verdict::Easy), (48 * 24 - 1, Verdict::Easy)]
    );
}

#[test]
fn a_look_that_was_not_easy_begins_the_count_anew() {
    let shares = (0..48 * 13).map(|at| if at / 48 == 6 { 0.6 } else { 0.2 });
    assert_eq!(said(shares), []);
}

#[test]
fn load_and_late_blocks_are_told() {
    let mut watch = LoadWatch::default();
    for at in 0..48 {
        watch.take(if at % 4 == 0 { 1.5 } else { 0.5 } * THERE_MS, THERE_MS);
    }
    assert_eq!(watch.late_blocks, 12);
    assert!((watch.load - 0.75).abs() < 1e-9);
}
