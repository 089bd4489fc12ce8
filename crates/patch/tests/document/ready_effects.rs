//! The ready effects.

use zolvik_patch::Patch;
use zolvik_patch::catalogue::param;
use zolvik_patch::finish::EffectName;
use zolvik_patch::finish::ready::{all, ready_for};

#[test]
fn every_kind_has_at_least_four_and_each_makes_a_valid_effect() {
    for kind in EffectName::ALL {
        let names: Vec<&str> = ready_for(*kind).map(|r| r.name).collect();
        assert!(names.len() >= 4, "{}: {names:?}", kind.label());
    }
    for ready in all() {
        let effect = ready.make();
        assert_eq!(effect.kind.name(), ready.kind);
        for (id, value) in ready.values {
            assert_eq!(effect.value(*id), Some(*value), "{}", ready.name);
            let row = param(*id);
            assert!((row.min..=row.max).contains(value), "{}", ready.name);
        }
        for (choice, to) in ready.choices {
            assert_eq!(effect.kind.part().chosen(*choice), Some(*to));
        }
        let mut patch = Patch::empty();
        patch.finish.common.effects.push(effect);
        zolvik_patch::validate::validate(&patch).unwrap();
    }
}
