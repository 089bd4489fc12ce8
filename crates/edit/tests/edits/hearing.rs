//! Why a strip cannot be heard.

use rstest::rstest;
use zolvik_edit::unheard::unheard;
use zolvik_edit::{Connect, Edit, apply};
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::document::{RouteId, Send, UnitId};
use zolvik_patch::hearing::{Listening, heard};

fn pair() -> Patch {
    apply(
        &Patch::empty(),
        &Edit::AddUnit {
            kind: zolvik_patch::document::KindName::Operator,
            connect: Connect::Unit { id: UnitId(1) },
        },
    )
    .unwrap()
    .0
}

#[rstest]
#[case::off(Edit::SwitchUnit { unit: UnitId(2), on: false }, 2, "switched off", true)]
#[case::route_off(Edit::SwitchRoute { route: RouteId(2), on: false }, 2, "its route is off", true)]
#[case::no_route(Edit::RemoveRoute { route: RouteId(1) }, 1, "no way to the output", true)]
#[case::target_unheard(Edit::RemoveRoute { route: RouteId(1) }, 2, "only feeds Operator 1", true)]
#[case::zero(Edit::SetValue { address: Address::new(Send::INDEX_RAD, 2 ), value: 0.0 }, 2, "at zero", false)]
fn the_reason_is_said_and_the_offered_edit_mends_it(
    #[case] edit: Edit,
    #[case] unit: u16,
    #[case] words: &str,
    #[case] mendable: bool,
) {
    let patch = apply(&pair(), &edit).unwrap().0;
    let listening = Listening::default();
    let found = unheard(&patch, &listening, UnitId(unit)).expect("it is not heard");
    assert!(found.why.contains(words), "{}", found.why);
    assert_eq!(found.mend.is_some(), mendable);
    if let Some(mend) = found.mend {
        let mended = apply(&patch, &mend.edit).unwrap().0;
        assert!(
            heard(&mended, &listening).contains(&UnitId(unit)),
            "“{}” helps",
            mend.label
        );
    }
}

#[test]
fn muting_and_soloing_reach_modulators() {
    let patch = pair();
    let muted = Listening {
        muted: [UnitId(1)].into(),
        ..Listening::default()
    };
    assert!(
        heard(&patch, &muted).is_empty(),
        "the modulator's only target is muted"
    );
    let soloed = Listening {
        soloed: [UnitId(1)].into(),
        ..Listening::default()
    };
    assert_eq!(
        heard(&patch, &soloed).len(),
        2,
        "what modulates the soloed one still does"
    );
}
