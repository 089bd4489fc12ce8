//! Names, cleaned.

use zolvik_patch::plain::{clean_name, named_after};

#[rstest::rstest]
#[case::plain("Frost Fern", "Frost Fern")]
#[case::blanks("  Frost Fern\t", "Frost Fern")]
#[case::zero_width("\u{200b}Frost\u{feff}", "Frost")]
#[case::controls("Fr\u{0}ost\u{7}", "Frost")]
#[case::turned_round("Frost\u{202e}nreF", "FrostnreF")]
#[case::nothing("\u{200b} \u{2060}", "")]
#[case::joined_signs_stay("a\u{200d}b", "a\u{200d}b")]
fn names_hold_only_what_can_be_seen(#[case] typed: &str, #[case] kept: &str) {
    assert_eq!(clean_name(typed), kept);
}

#[test]
fn a_copy_of_a_long_name_is_still_a_name() {
    let long = "ä".repeat(80);
    assert_eq!(named_after(&long, "copy", 80).chars().count(), 80);
    assert_eq!(named_after("Fern", "copy", 80), "Fern copy");
}
