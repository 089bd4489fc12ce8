//! Edits of every kind, sensible or not, in any order: the patch stays valid, and undo brings each state back.

pub mod dice;

use proptest::prelude::*;
use zolvik_edit::history::History;
use zolvik_edit::{Edit, apply};
use zolvik_patch::json;
use zolvik_patch::testing::{Dice, any_patch};
use zolvik_patch::validate::{savable, validate};

use self::dice::any_edit;

/// Which kind an edit is. A new kind does not compile until it is listed here, and the test below fails until it is made above.
fn kind_of(edit: &Edit) -> usize {
    use Edit as E;
    match edit {
        E::RemoveUnit { .. } => 1,
        E::DuplicateUnits { .. } => 2,
        E::SwitchUnit { .. } => 3,
        E::AddRoute { .. } => 4,
        E::RemoveRoute { .. } => 5,
        E::SwitchRoute { .. } => 6,
        E::SetValue { .. } => 7,
        E::SwapUnits { .. } => 8,
        E::MakeModulator { .. } => 9,
        E::MakeCarrier { .. } => 10,
        E::SetWave { .. } => 11,
        E::ShiftOctaves { .. } => 13,
        E::SpreadDetune { .. } => 14,
        E::SetRouteKind { .. } => 15,
        E::GroupUnits { .. } => 16,
        E::Ungroup { .. } => 17,
        E::AddUnit { .. } => 18,
        E::TakeThrough { .. } => 19,
        E::Choose { .. } => 20,
        E::SetSound { .. } => 21,
        E::RenameUnit { .. } => 22,
        E::SetBus { .. } => 23,
        E::Arrange { .. } => 24,
        E::Flip => 25,
        E::CopyToOther => 26,
        E::AddPoint { .. } => 27,
        E::RemovePoint { .. } => 28,
        E::HoldPoint { .. } => 29,
        E::LoopFrom { .. } => 30,
        E::TieToTempo { .. } => 31,
        E::SetEnvelope { .. } => 32,
        E::LinkEnvelopes { .. } => 33,
        E::UnlinkEnvelopes { .. } => 34,
        E::RenameGroup { .. } => 35,
        E::FoldGroup { .. } => 36,
        E::AddTable { .. } => 37,
        E::RemoveTable { .. } => 38,
        E::SetScale { .. } => 39,
        E::SetMeta { .. } => 12,
        E::Replace { .. } => 0,
        E::Together { .. } => 40,
        E::AddStrips { .. } => 41,
        E::Insert { .. } => 42,
        E::AddSource { .. } => 43,
        E::RemoveSource { .. } => 44,
        E::DuplicateSource { .. } => 45,
        E::RenameSource { .. } => 46,
        E::SwitchSource { .. } => 47,
        E::Follow { .. } => 48,
        E::AddLinks { .. } => 49,
        E::RemoveLink { .. } => 50,
        E::SwitchLink { .. } => 51,
        E::DirectLink { .. } => 52,
        E::ScaleLink { .. } => 53,
        E::ResendLink { .. } => 54,
        E::TurnLink { .. } => 55,
        E::SetEnds { .. } => 56,
        E::SetShape { .. } => 57,
        E::AddShapePoint { .. } => 58,
        E::RemoveShapePoint { .. } => 59,
        E::MoveShapePoint { .. } => 60,
        E::TurnShape { .. } => 61,
        E::SetStepCount { .. } => 62,
        E::SetSource { .. } => 63,
        E::SetWay { .. } => 64,
        E::LikeLink { .. } => 65,
        E::TakeEnd { .. } => 66,
        E::Morph { .. } => 67,
        E::SetPhrase { .. } => 68,
        E::RenamePhrase { .. } => 69,
        E::SetPhraseLength { .. } => 70,
        E::AddNote { .. } => 71,
        E::ChangeNotes { .. } => 72,
        E::RemoveNotes { .. } => 73,
        E::SetTurns { .. } => 74,
        E::AddArticulation { .. } => 75,
        E::RemoveArticulation { .. } => 76,
        E::RenameArticulation { .. } => 77,
        E::KeyArticulation { .. } => 78,
        E::SwitchArticulation { .. } => 79,
        E::Settle { .. } => 80,
        E::AddEffect { .. } => 81,
        E::PasteEffects { .. } => 82,
        E::RemoveEffect { .. } => 83,
        E::DuplicateEffect { .. } => 84,
        E::MoveEffect { .. } => 85,
        E::SwitchEffect { .. } => 86,
        E::RenameEffect { .. } => 87,
        E::SetEffect { .. } => 88,
        E::RenameChain { .. } => 89,
        E::SwitchChain { .. } => 90,
        E::AddBand { .. } => 91,
        E::RemoveBand { .. } => 92,
        E::SwitchBand { .. } => 93,
        E::ChooseBand { .. } => 94,
        E::TurnSource { .. } => 95,
    }
}

/// How many kinds of edits there are.
const KINDS: usize = 96;

#[test]
fn every_kind_of_edit_is_tried_and_most_are_taken() {
    let mut dice = Dice(5);
    let (mut made, mut taken) = ([0; KINDS], [0; KINDS]);
    for _ in 0..20_000 {
        if taken.iter().all(|n| *n > 0) {
            break;
        }
        let patch = any_patch(dice.bits());
        let edit = any_edit(&patch, &mut dice);
        made[kind_of(&edit)] += 1;
        taken[kind_of(&edit)] += usize::from(apply(&patch, &edit).is_ok());
    }
    assert!(made.iter().all(|n| *n > 0), "{made:?}");
    let never: Vec<usize> = (0..KINDS).filter(|kind| taken[*kind] == 0).collect();
    assert!(never.is_empty(), "never taken: {never:?}");
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 64, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn any_edits_keep_the_patch_valid_and_undo_is_exact(seed in any::<u64>()) {
        let mut dice = Dice(seed);
        let start = any_patch(dice.bits());
        let mut history = History::new(start.clone());
        let mut states = vec![start];
        for _ in 0..30 {
            let edit = any_edit(history.present(), &mut dice);
            let folds = matches!(edit, Edit::FoldGroup { .. });
            if history.edit(&edit, None).is_ok() && !folds && history.present().unfolded() != states.last().unwrap().unfolded() {
                prop_assert!(validate(history.present()).is_ok());
                prop_assert_eq!(savable(history.present()), Ok(()));
                states.push(history.present().clone());
            }
        }
        // what was accepted is written, and read back as it was
        let last = history.present();
        prop_assert_eq!(&json::read(&json::write(last)).unwrap(), last);
        for state in states.iter().rev().skip(1) {
            prop_assert!(history.undo());
            prop_assert_eq!(history.present().unfolded(), state.unfolded());
        }
        for state in states.iter().skip(1) {
            prop_assert!(history.redo());
            prop_assert_eq!(history.present().unfolded(), state.unfolded());
        }
    }
}
