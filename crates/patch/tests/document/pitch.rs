//! Names of notes and pairs of ratios.

use zolvik_patch::pitch::{key_hz, nearest_note, note_key, note_name, ratio_pair};

#[test]
fn names_and_keys_are_inverse() {
    for key in 0..128 {
        assert_eq!(note_key(&note_name(key)), Some(key));
    }
    assert_eq!(note_key("Bb2"), Some(46));
    assert_eq!(note_key("H3"), None);
    assert_eq!(note_key("G#9"), None);
}

#[test]
fn pairs_are_read_carrier_first() {
    assert_eq!(ratio_pair(1.0, 4.0), "1 : 4");
    assert_eq!(ratio_pair(2.0, 3.0), "2 : 3");
    assert_eq!(ratio_pair(0.5, 3.5), "1 : 7");
    assert_eq!(ratio_pair(1.0, 3.53), "1 : 3.530");
}

#[test]
fn nearest_note_gives_signed_cents() {
    let (key, cents) = nearest_note(key_hz(57.0) * libm::exp2(-7.0 / 1200.0)).unwrap();
    assert_eq!(key, 57);
    assert!((cents + 7.0).abs() < 1e-6);
}
