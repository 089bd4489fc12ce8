//! A short note of a bit of everything. A browser makes a module's functions ready when they are first called; rendering and drawing this
//! while nobody waits spares that time to whoever opens a patch.

use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::document::{Bus, KindName, Operator, Route, Send, Unit, UnitId, UnitKind};
use zolvik_patch::finish::{Effect, EffectName, MAX_CHAIN_EFFECTS};
use zolvik_patch::movement::amount::gentle;
use zolvik_patch::movement::{Source, SourceName};
use zolvik_patch::wave::{Shape, Wave};

/// How long the note is held and looked at, in seconds.
const HOLD_S: f64 = 0.06;
const WINDOW_S: f64 = 0.1;

/// A patch with every kind of unit, route, source and effect.
pub fn patch_of_everything() -> Patch {
    let mut patch = Patch::empty();
    let operator = UnitId(1);
    for kind in KindName::ALL {
        let id = patch.free_unit();
        let mut unit = Unit::new(id, *kind);
        if let UnitKind::Operator(operator) = &mut unit.kind {
            operator.wave = Wave::Shape(Shape::Saw);
        }
        patch.units.push(unit);
        let sends = kind
            .takes()
            .iter()
            .map(|does| (operator, Send::to_unit(*does, id)));
        let mut way_out = Send::output();
        if let Send::Output { bus, .. } = &mut way_out {
            *bus = Bus::Second;
        }
        for (from, send) in sends.chain([(id, way_out)]) {
            let id = patch.free_route();
            patch.routes.push(Route {
                id,
                from,
                on: true,
                send,
            });
        }
    }
    for kind in SourceName::ALL {
        let id = patch.free_source();
        patch.movement.sources.push(Source::new(id, *kind));
        let link = gentle(&patch, id, Address::unit(operator, Operator::DETUNE_CENTS));
        patch.movement.links.push(link);
    }
    for (n, kind) in EffectName::ALL.iter().enumerate() {
        let effect = Effect::new(patch.free_effect(), *kind);
        let finish = &mut patch.finish;
        let chains = [&mut finish.first, &mut finish.second, &mut finish.common];
        if let Some(chain) = chains.into_iter().nth(n / MAX_CHAIN_EFFECTS) {
            chain.effects.push(effect);
        }
    }
    (patch.audition.hold_s, patch.audition.window_s) = (HOLD_S, WINDOW_S);
    patch
}
