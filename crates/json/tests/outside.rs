//! What errors repeat of what was sent.

use zolvik_json::outside::{quoted, visible};

#[test]
fn errors_repeat_little_and_hide_nothing() {
    assert_eq!(visible("a\u{202e}b", 10), "a\\u{202e}b");
    assert_eq!(visible("abcdef", 3), "abc…");
    let long = "x".repeat(5000);
    let told = quoted(&format!("unknown field `{long}`, expected one of `a`, `b`"));
    assert!(told.chars().count() < 200, "{told}");
    assert!(told.ends_with("expected one of `a`, `b`"), "{told}");
    let told = quoted(&format!("invalid type: string \"{long}\", expected f64"));
    assert!(
        told.chars().count() < 200 && told.ends_with("expected f64"),
        "{told}"
    );
}
