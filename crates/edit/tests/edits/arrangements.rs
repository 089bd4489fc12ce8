//! Algorithms: the generator against brute force, and routing a patch by one.

use std::collections::BTreeSet;

use rstest::rstest;
use zolvik_edit::arrangement::{Layout, assign, layouts};
use zolvik_edit::{Connect, Edit, apply};
use zolvik_patch::Patch;
use zolvik_patch::document::{Send, UnitId};
use zolvik_patch::hearing::{Listening, heard};

/// Every graph of `n` places whose routes run downward, by counting through all of them; kept if it has no
/// shortcut, and told apart by trying every renaming.
fn by_brute_force(n: usize) -> usize {
    let pairs: Vec<(usize, usize)> = (0..n).flat_map(|a| (0..a).map(move |b| (a, b))).collect();
    let orders = orders(n);
    let mut found = BTreeSet::new();
    for bits in 0..1u32 << pairs.len() {
        let mut edge = vec![vec![false; n]; n];
        for (i, (a, b)) in pairs.iter().enumerate() {
            edge[*a][*b] = bits >> i & 1 == 1;
        }
        let mut path = edge.clone();
        for k in 0..n {
            for a in 0..n {
                for b in 0..n {
                    path[a][b] |= path[a][k] && path[k][b];
                }
            }
        }
        let shortcut = |a: usize, b: usize| edge[a][b] && (0..n).any(|k| path[a][k] && path[k][b]);
        if (0..n).any(|a| (0..n).any(|b| shortcut(a, b))) {
            continue;
        }
        let renamed = |order: &Vec<usize>| -> Vec<bool> {
            (0..n * n)
                .map(|i| edge[order[i / n]][order[i % n]])
                .collect()
        };
        found.insert(orders.iter().map(renamed).min());
    }
    found.len()
}

fn orders(n: usize) -> Vec<Vec<usize>> {
    if n == 0 {
        return vec![vec![]];
    }
    let with_last = |order: Vec<usize>| {
        (0..n).map(move |at| {
            let mut longer = order.clone();
            longer.insert(at, n - 1);
            longer
        })
    };
    orders(n - 1).into_iter().flat_map(with_last).collect()
}

#[rstest]
#[case(2)]
#[case(3)]
#[case(4)]
#[case(5)]
fn there_are_as_many_as_brute_force_finds(#[case] operators: usize) {
    assert_eq!(layouts(operators).len(), by_brute_force(operators));
}

#[rstest]
#[case(1, 1)]
#[case(2, 2)]
#[case(4, 16)]
#[case(6, 318)] // partial orders, A000112
#[case(7, 115)] // rooted forests, A000081
#[case(8, 286)]
fn counts_are_those_of_the_literature(#[case] operators: usize, #[case] count: usize) {
    assert_eq!(layouts(operators).len(), count);
}

#[test]
fn sixteen_operators_still_get_a_choice_of_sound_arrangements() {
    let all = layouts(16);
    assert!(all.len() > 40, "{}", all.len());
    for Layout(to) in &all {
        assert_eq!(to.len(), 16);
        assert!(to.iter().enumerate().all(|(i, t)| t.iter().all(|t| *t < i)));
    }
}

fn four() -> Patch {
    let mut patch = Patch::empty();
    for id in [1, 2, 3] {
        let connect = Connect::Unit { id: UnitId(id) };
        patch = apply(
            &patch,
            &Edit::AddUnit {
                kind: zolvik_patch::document::KindName::Operator,
                connect,
            },
        )
        .unwrap()
        .0;
    }
    patch
}

#[test]
fn every_arrangement_of_a_patch_is_heard_whole_and_keeps_the_depths_that_stay() {
    let mut patch = four();
    if let Send::Phase { index_rad, .. } = &mut patch.routes[1].send {
        *index_rad = 3.25;
    }
    for layout in layouts(4) {
        let places = assign(&patch, &layout);
        let (next, _) = apply(&patch, &Edit::Arrange { places }).unwrap();
        assert_eq!(heard(&next, &Listening::default()).len(), 4, "{layout:?}");
        let carriers = next.routes.iter().filter(|r| r.send.target().is_none());
        assert_eq!(carriers.count(), layout.carriers());
        for route in &next.routes {
            if let Send::Phase { to, index_rad } = route.send {
                let stayed = (route.from, to) == (UnitId(2), UnitId(1));
                assert_eq!(index_rad, if stayed { 3.25 } else { 0.5 }, "{layout:?}");
            }
        }
    }
}

#[test]
fn swapping_exchanges_places_and_nothing_else() {
    let mut patch = four();
    patch.units[0].oscillator_mut().unwrap().ratio = 7.0;
    let swap = Edit::SwapUnits {
        unit: UnitId(1),
        with: UnitId(4),
    };
    let (swapped, _) = apply(&patch, &swap).unwrap();
    assert_eq!(swapped.units, patch.units, "each keeps its sound");
    let ends = |p: &Patch| -> Vec<(u16, Option<u16>)> {
        p.routes
            .iter()
            .map(|r| (r.from.0, r.send.target().map(|t| t.0)))
            .collect()
    };
    assert_eq!(
        ends(&swapped),
        [(4, None), (2, Some(4)), (3, Some(2)), (1, Some(3))]
    );
    assert_eq!(apply(&swapped, &swap).unwrap().0, patch, "twice is none");
}

#[test]
fn a_carrier_becomes_a_modulator_and_comes_back_in_one_edit() {
    let patch = apply(
        &Patch::empty(),
        &Edit::AddUnit {
            kind: zolvik_patch::document::KindName::Operator,
            connect: Connect::Output,
        },
    )
    .unwrap()
    .0;
    let (unit, of) = (UnitId(2), UnitId(1));
    let (moved, _) = apply(&patch, &Edit::MakeModulator { unit, of }).unwrap();
    let targets: Vec<_> = moved.sends(unit).map(|r| r.send.target()).collect();
    assert_eq!(targets, [Some(of)]);
    let (back, _) = apply(&moved, &Edit::MakeCarrier { unit }).unwrap();
    let targets: Vec<_> = back.sends(unit).map(|r| r.send.target()).collect();
    assert_eq!(targets, [None]);
}
