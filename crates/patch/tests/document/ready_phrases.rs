//! The ready phrases.

use zolvik_patch::playing::ready::READY_PHRASES;

#[test]
fn all_are_whole_have_names_of_their_own_and_stay_on_the_keyboard() {
    let mut names: Vec<&str> = READY_PHRASES.iter().map(|r| r.name).collect();
    names.sort_unstable();
    names.dedup();
    assert_eq!(names.len(), READY_PHRASES.len());
    assert!(READY_PHRASES.len() >= 12);
    for ready in READY_PHRASES {
        let phrase = ready.phrase();
        phrase.check("phrase").unwrap();
        assert_eq!(phrase.notes.len(), ready.notes.len(), "{}", ready.name);
        for note in &phrase.notes {
            let key = i32::from(ready.key) + i32::from(note.semitones);
            assert!((12..=108).contains(&key), "{}: key {key}", ready.name);
        }
    }
}
