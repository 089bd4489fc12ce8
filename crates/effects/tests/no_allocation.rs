//! A binary of its own: it replaces the process-wide allocator by one that counts.

use zolvik_counting::{Counting, calls};
use zolvik_effects::{SILENT, Still, kind};
use zolvik_patch::document::EffectId;
use zolvik_patch::finish::{Effect, EffectName};

#[global_allocator]
static ALLOCATOR: Counting = Counting;

/// Every kind, with each of its choices, while it sounds, is set anew, and forgets.
#[test]
fn no_effect_allocates_while_it_sounds() {
    for name in EffectName::ALL {
        let about = kind(*name);
        let choices = name.rows().iter().flat_map(|row| row.choices);
        let options = choices.map(|row| row.options.len()).max().unwrap_or(1);
        for option in 0..options {
            let mut effect = Effect::new(EffectId(EffectId::FIRST), *name);
            for row in name.rows().iter().flat_map(|row| row.choices) {
                let chosen = effect.choose_of(row.id, option % row.options.len());
                assert_eq!(chosen, Some(()));
            }
            let (still, plain) = (
                Still::of(&effect),
                Still::of(&Effect::new(effect.id, *name)),
            );
            let mut node = about.make(48_000.0);
            let before = calls();
            for n in 0..600 {
                let mut block = SILENT;
                block[0][n % 16] = 1.0;
                let set = if n % 100 < 50 { &still } else { &plain };
                node.run(&mut block, &set.setting(48_000.0));
            }
            node.clear();
            let _ = (
                about.tail_s(&still.setting(48_000.0), 80.0),
                about.load(&still.setting(48_000.0)),
            );
            let after = calls();
            assert_eq!(after - before, 0, "{name:?}, {option}: allocated or freed");
        }
    }
}
