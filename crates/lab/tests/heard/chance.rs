//! The band of other seeds: there where chance is, and wide where it is.

use zolvik_lab::chance::{Band, Trial};
use zolvik_patch::Patch;
use zolvik_patch::document::SourceId;
use zolvik_patch::movement::{Chance, Random, Source, SourceKind, SourceName};

fn bands(patch: &Patch, times_s: &[f64]) -> Option<Vec<Option<Band>>> {
    let mut trial = Trial::new(patch, times_s)?;
    while trial.go() {}
    Some(trial.bands())
}

#[test]
fn a_band_spans_what_other_seeds_would_give_and_what_follows_them() {
    let mut patch = Patch::empty();
    for (n, kind) in [SourceName::Random, SourceName::Lfo, SourceName::Random]
        .into_iter()
        .enumerate()
    {
        patch
            .movement
            .sources
            .push(Source::new(SourceId(1001 + n as u16), kind));
    }
    if let SourceKind::Random(held) = &mut patch.movement.sources[0].kind {
        *held = Random {
            chance: Chance::Hold,
            low: 0.2,
            high: 0.9,
            ..Random::default()
        };
    }
    patch.movement.sources[0].timing.rate_hz = 8.0;
    let times_s: Vec<f64> = (0..40).map(|n| f64::from(n) / 24.0 + 0.01).collect();
    let found = bands(&patch, &times_s).expect("chance");
    assert!(
        found[1].is_none(),
        "a plain cycle is the same with every seed"
    );
    let (low, high) = found[0].as_ref().expect("a band");
    assert_eq!(low.len(), times_s.len());
    for (low, high) in low.iter().zip(high) {
        assert!((0.19..=0.91).contains(low) && low <= high && *high <= 0.91);
    }
    let wide = low.iter().zip(high).map(|(l, h)| h - l).sum::<f32>() / 40.0;
    // the mean range of eight throws of 0.7 is 0.7 * 7/9
    assert!((0.45..0.65).contains(&wide), "{wide}");
    let (low, high) = found[2].as_ref().expect("a throw for each note");
    assert!(high[20] - low[20] > 0.3);
    // nothing that chance touches: nothing is computed
    patch
        .movement
        .sources
        .retain(|s| matches!(s.kind, SourceKind::Lfo(_)));
    assert!(bands(&patch, &times_s).is_none());
}
