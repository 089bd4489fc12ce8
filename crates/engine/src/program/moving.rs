//! Parameters that are moved for each note by itself: what sounds then is what a patch with the moved value sounds like.

use rstest::rstest;
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::catalogue::{param, position};
use zolvik_patch::document::{
    Filter, KindName, Level, Operator, Route, RouteId, RouteKind, Send, Shaper, TunedBy, Unit,
    UnitId,
};
use zolvik_patch::hearing::Listening;
use zolvik_patch::param::{Owner, ParamId};

use super::compile::compile;
use super::layout::Program;
use super::params::Source;
use crate::Engine;

/// An operator moves another one, which goes through a filter, a shaper and a level strip.
fn chain() -> Patch {
    let kinds = [
        KindName::Operator,
        KindName::Operator,
        KindName::Filter,
        KindName::Shaper,
        KindName::Level,
    ];
    let units = kinds.iter().zip(1..);
    let mut patch = Patch {
        units: units
            .map(|(kind, id)| Unit::new(UnitId(id), *kind))
            .collect(),
        ..Patch::empty()
    };
    let sends = [
        (1, Send::phase(UnitId(2))),
        (2, Send::to_unit(RouteKind::Audio, UnitId(3))),
        (3, Send::to_unit(RouteKind::Audio, UnitId(4))),
        (4, Send::to_unit(RouteKind::Audio, UnitId(5))),
        (5, Send::output()),
    ];
    patch.routes = sends
        .into_iter()
        .zip(1..)
        .map(|((from, send), id)| Route {
            id: RouteId(id),
            from: UnitId(from),
            on: true,
            send,
        })
        .collect();
    if let Some(operator) = patch.units[0].oscillator_mut() {
        operator.ratio = 2.0;
    }
    patch
}

fn sound(program: &Program, keys: &[u8]) -> Vec<f32> {
    let mut engine = Engine::new(48_000.0);
    engine.install(program);
    keys.iter().for_each(|key| engine.note_on(*key, 100));
    let (mut left, mut right) = (vec![0.0; 9_600], vec![0.0; 9_600]);
    engine.process(&mut left, &mut right);
    left.extend(right);
    left
}

/// The parameter's place in the program, and the unit whose sources move it.
fn place(program: &Program, id: ParamId, of: u16) -> (usize, u32) {
    let at = |unit: u16| program.unit_ids().position(|u| u == UnitId(unit)).unwrap();
    if param(id).owner == Owner::Unit {
        let first = program.units[at(of)].first_param;
        return (at(of), first + position(id) as u32);
    }
    match id {
        Send::LEVEL_DB => (at(of), program.outs[0].level),
        Send::PAN => (at(of), program.outs[0].level + 1),
        _ => {
            // routes stand with their destination
            let to = at(of + 1);
            let route = program.units[to].first_route as usize;
            (to, program.routes[route].depth)
        }
    }
}

#[rstest]
#[case::ratio(Operator::RATIO, 1, None, 0.5)]
#[case::cents(Operator::DETUNE_CENTS, 1, None, 40.0)]
#[case::hertz(Operator::OFFSET_HZ, 2, None, 11.0)]
#[case::semitones(Operator::SEMITONES, 2, Some(TunedBy::Semitones), 3.0)]
#[case::fixed(Operator::FIXED_HZ, 1, Some(TunedBy::Fixed), -0.7)]
#[case::cutoff(Filter::CUTOFF_HZ, 3, None, 1.5)]
#[case::resonance(Filter::RESONANCE, 3, None, 0.6)]
#[case::filter_drive(Filter::DRIVE_DB, 3, None, 18.0)]
#[case::filter_mix(Filter::MIX, 3, None, -0.5)]
#[case::shaper_drive(Shaper::DRIVE_DB, 4, None, 20.0)]
#[case::shaper_mix(Shaper::MIX, 4, None, 0.4)]
#[case::strip_level(Level::LEVEL_DB, 5, None, -8.0)]
#[case::strip_mix(Level::MIX, 5, None, -0.5)]
#[case::index(Send::INDEX_RAD, 1, None, 2.5)]
#[case::pass(Send::PASS_DB, 2, None, -9.0)]
#[case::level(Send::LEVEL_DB, 5, None, 5.0)]
#[case::pan(Send::PAN, 5, None, -0.8)]
fn what_is_moved_sounds_like_the_moved_value_in_its_own_note_only(
    #[case] id: ParamId,
    #[case] of: u16,
    #[case] by: Option<TunedBy>,
    #[case] amount: f64,
) {
    let mut patch = chain();
    if let (Some(by), Some(operator)) = (by, patch.units[usize::from(of) - 1].oscillator_mut()) {
        operator.tuned_by = by;
    }
    let owner = match param(id).owner {
        Owner::Unit => Address::unit(UnitId(of), id),
        _ => Address::route(RouteId(of), id),
    };
    // C5 lies an octave above the key's zero, C4 on it
    let mut moved = compile(&patch, &Listening::default());
    let (unit, to) = place(&moved, id, of);
    let depth = place(&moved, Operator::START_TURNS, 1).1;
    moved.params[depth as usize].value = amount as f32;
    // what the filter's own cutoff is moved by already stays
    let (first, count) = (moved.units[unit].first_move, moved.units[unit].moves);
    match count {
        0 => moved.units[unit].first_move = moved.move_count,
        _ => assert_eq!(first + count, moved.move_count, "moves stand in a row"),
    }
    moved.link(unit, to, Source::Key, depth);
    moved.units[unit].pitch_moved = u32::from(moved.moves_pitch(unit));
    let low = compile(&patch, &Listening::default());
    let row = param(id);
    let value = owner.get(&patch).unwrap();
    let there = row.domain.leave(row.domain.enter(value) + amount);
    owner.set(&mut patch, there).unwrap();
    let high = compile(&patch, &Listening::default());

    let together = sound(&moved, &[60, 72]);
    let (still, changed) = (sound(&low, &[60]), sound(&high, &[72]));
    let plain = sound(&low, &[72]);
    let peak = together.iter().fold(0.0f32, |a, b| a.max(b.abs()));
    let (mut off, mut heard) = (0.0f32, 0.0f32);
    for i in 0..together.len() {
        off = off.max((together[i] - still[i] - changed[i]).abs());
        heard = heard.max((changed[i] - plain[i]).abs());
    }
    assert!(heard > 0.02 * peak, "{}: no case, {heard}", row.name);
    assert!(off < 2e-3 * peak, "{}: {off} of {peak}", row.name);
}
