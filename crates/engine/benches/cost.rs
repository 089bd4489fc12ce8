//! What units cost beside a plain sine, for `src/cost.rs`. Printed, never asserted: `cargo bench -p zolvik-engine --bench cost`.
#![allow(clippy::disallowed_methods)] // references are reckoned in their own way

use std::hint::black_box;
use std::time::Instant;

use zolvik_engine::Engine;
use zolvik_engine::cost::cost;
use zolvik_engine::program::prepare;
use zolvik_patch::Patch;
use zolvik_patch::document::{
    FilterType, KindName, Route, RouteId, Send, ShaperCurve, Slope, Unit, UnitId, UnitKind,
};
use zolvik_patch::hearing::Listening;
use zolvik_patch::wave::{Shape, Table, Wave};

const UNITS: u16 = 8;
const FRAMES: usize = 24_000;

/// Many units of a kind beside each other, eight notes held.
fn patch(kind: KindName, change: &dyn Fn(&mut Unit)) -> Patch {
    let mut patch = Patch {
        units: vec![],
        routes: vec![],
        ..Patch::empty()
    };
    for n in 1..=UNITS {
        let mut unit = Unit::new(UnitId(n), kind);
        change(&mut unit);
        patch.units.push(unit);
        patch.routes.push(Route {
            id: RouteId(n),
            from: UnitId(n),
            on: true,
            send: Send::output(),
        });
    }
    patch
}

fn seconds(patch: &Patch) -> f64 {
    let mut engine = Engine::new(48_000.0);
    engine.take(&prepare(patch, &Listening::default()));
    (0..8).for_each(|v| engine.note_on(45 + v, 100));
    let (mut left, mut right) = (vec![0.0; FRAMES], vec![0.0; FRAMES]);
    let mut times: Vec<f64> = (0..9)
        .map(|_| {
            let start = Instant::now();
            engine.process(&mut left, &mut right);
            black_box(&left);
            start.elapsed().as_secs_f64()
        })
        .collect();
    times.sort_by(f64::total_cmp);
    times[4]
}

fn main() {
    let wave = |wave: Wave| {
        move |u: &mut Unit| {
            u.oscillator_mut()
                .into_iter()
                .for_each(|o| o.wave = wave.clone())
        }
    };
    let filter = |response: FilterType, slope: Slope| {
        move |u: &mut Unit| {
            if let UnitKind::Filter(f) = &mut u.kind {
                (f.response, f.slope) = (response, slope);
            }
        }
    };
    type Change = Box<dyn Fn(&mut Unit)>;
    let cases: Vec<(&str, KindName, Change)> = vec![
        (
            "saw",
            KindName::Operator,
            Box::new(wave(Wave::Shape(Shape::Saw))),
        ),
        (
            "pulse",
            KindName::Operator,
            Box::new(wave(Wave::Shape(Shape::Pulse))),
        ),
        (
            "table",
            KindName::Operator,
            Box::new(|u| {
                if let Some(o) = u.oscillator_mut() {
                    (o.wave, o.position) = (Wave::Table(Table::Throat), 0.37);
                }
            }),
        ),
        (
            "fold",
            KindName::Operator,
            Box::new(|u| {
                u.oscillator_mut()
                    .into_iter()
                    .for_each(|o| o.cycle.fold = 0.5)
            }),
        ),
        (
            "repeat",
            KindName::Operator,
            Box::new(|u| {
                u.oscillator_mut()
                    .into_iter()
                    .for_each(|o| o.cycle.repeat = 2.5)
            }),
        ),
        (
            "64 partials",
            KindName::Operator,
            Box::new(|u| {
                if let Some(o) = u.oscillator_mut() {
                    (o.wave, o.harmonics.high) = (Wave::Shape(Shape::Saw), 64.0);
                }
            }),
        ),
        ("noise", KindName::Noise, Box::new(|_| {})),
        (
            "dark noise",
            KindName::Noise,
            Box::new(|u| {
                if let UnitKind::Noise(n) = &mut u.kind {
                    n.colour_db = -3.0;
                }
            }),
        ),
        (
            "sample",
            KindName::Sample,
            Box::new(|u| {
                if let UnitKind::Sample(s) = &mut u.kind {
                    s.looped = true;
                }
            }),
        ),
        (
            "sample, faster",
            KindName::Sample,
            Box::new(|u| {
                if let UnitKind::Sample(s) = &mut u.kind {
                    (s.looped, s.root_key) = (true, 41);
                }
            }),
        ),
        (
            "filter 12",
            KindName::Filter,
            Box::new(filter(FilterType::Low, Slope::Db12)),
        ),
        (
            "filter 24",
            KindName::Filter,
            Box::new(filter(FilterType::Low, Slope::Db24)),
        ),
        (
            "comb",
            KindName::Filter,
            Box::new(filter(FilterType::CombPlus, Slope::Db12)),
        ),
        (
            "vowel",
            KindName::Filter,
            Box::new(filter(FilterType::Vowel, Slope::Db12)),
        ),
        (
            "shaper",
            KindName::Shaper,
            Box::new(|u| {
                if let UnitKind::Shaper(s) = &mut u.kind {
                    s.curve = ShaperCurve::Soft;
                }
            }),
        ),
        (
            "level strip",
            KindName::Level,
            // one that takes hold of all would end its note, as nothing goes into it
            Box::new(|u| {
                if let UnitKind::Level(level) = &mut u.kind {
                    level.mix = 0.5;
                }
            }),
        ),
    ];
    let plain = seconds(&patch(KindName::Operator, &|_| {}));
    for (name, kind, change) in &cases {
        let patch = patch(*kind, change);
        let told = cost(&patch, &patch.units[0]);
        println!(
            "{name}: {:.1} plain sines, told {told:.1}",
            seconds(&patch) / plain
        );
    }
}
