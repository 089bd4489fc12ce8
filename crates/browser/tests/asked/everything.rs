//! The patch that warms a worker up.

use zolvik_patch::document::RouteKind;
use zolvik_patch::validate::validate;

use zolvik_browser::tasks::patch_of_everything;
use zolvik_patch::document::KindName;
use zolvik_patch::finish::EffectName;
use zolvik_patch::movement::SourceName;

#[test]
fn everything_is_in_it_and_it_is_a_patch() {
    let patch = patch_of_everything();
    assert_eq!(validate(&patch), Ok(()));
    for kind in KindName::ALL {
        assert!(patch.units.iter().any(|unit| unit.kind.name() == *kind));
    }
    for kind in RouteKind::ALL {
        assert!(
            patch
                .routes
                .iter()
                .any(|route| route.send.kind() == Some(*kind))
        );
    }
    for kind in SourceName::ALL {
        assert!(
            patch
                .movement
                .sources
                .iter()
                .any(|source| source.kind.name() == *kind)
        );
    }
    let effects: Vec<EffectName> = (patch.finish.chains())
        .flat_map(|(_, chain)| chain.effects.iter().map(|effect| effect.kind.name()))
        .collect();
    assert_eq!(effects, EffectName::ALL);
}
