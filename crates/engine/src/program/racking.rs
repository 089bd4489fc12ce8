//! Effects put into a program.

use bytemuck::Zeroable;
use zolvik_effects::{BAND_ALONE, FAINT_DB, LONGEST_TAIL_S, Setting, Value, kind};
use zolvik_patch::Patch;
use zolvik_patch::catalogue::param;
use zolvik_patch::choice::Options;
use zolvik_patch::document::{ChainId, EffectId};
use zolvik_patch::finish::effect::{
    MAX_EFFECT_PARAMS, band_position, effect_params, effect_position,
};
use zolvik_patch::finish::{CHAINS, Chain, Effect, EqBand, MAX_EFFECT_POINTS, MAX_EQ_BANDS};
use zolvik_patch::hearing::Listening;
use zolvik_patch::param::ParamId;

use super::layout::Program;
use super::movement::{SegmentCurve, ShapeProgram};
use super::params::NO_SLOT;
use super::params::{Law, ParamProgram, plain};
use super::rack::{ChainProgram, EffectProgram};

/// Adds chains and effects; to be called when all other parameters are there.
pub(super) fn add(program: &mut Program, patch: &Patch, listening: &Listening) {
    program.rack.first_param = program.param_count;
    for (at, (id, chain)) in patch.finish.chains().enumerate() {
        let first = program.rack.effect_count;
        let heard = chain.on && listening.hears_chain(id);
        for effect in &chain.effects {
            let on = effect.on && listening.lets_work(patch, effect.id);
            add_effect(program, effect, on);
            if let Some((_, alone)) = listening.band_alone.filter(|(id, _)| *id == effect.id) {
                hear_alone(program, usize::from(alone));
            }
        }
        let level = program.add(ParamProgram {
            law: Law::Plain as u32,
            ..in_units(Chain::LEVEL_DB, chain.level_db)
        });
        program.add(in_units(Chain::SECOND_DB, chain.second_db));
        program.rack.chains[at] = ChainProgram {
            first,
            count: program.rack.effect_count - first,
            on: u32::from(heard),
            level,
        };
    }
    program.rack.clean = u32::from(listening.hears_clean());
    program.rack.tempo_bpm = patch.audition.tempo_bpm as f32;
    let all_heard = program.rack.chains.iter().all(|c| c.on != 0) && program.rack.clean != 0;
    let levels = patch
        .finish
        .chains()
        .all(|(_, c)| c.level_db == 0.0 && c.second_db <= param(Chain::SECOND_DB).min);
    let moved = patch.movement.links.iter().any(|l| {
        ChainId::of_number(l.to.id).is_some() && param(l.to.param).id.part == Chain::LEVEL_DB.part
    });
    let none = program.rack.effect_count == 0;
    program.rack.plain = u32::from(none && levels && all_heard && !moved);
    program.rack.tail_s = tail_of(program, patch.audition.tempo_bpm);
}

/// Lets only what one band of the effect added last works on through.
fn hear_alone(program: &mut Program, alone: usize) {
    let last = program.rack.effect_count as usize - 1;
    for (at, band) in program.rack.effects[last].bands.iter_mut().enumerate() {
        band[0] = u8::from(at == alone);
        band[1] = BAND_ALONE;
    }
}

fn add_effect(program: &mut Program, effect: &Effect, on: bool) {
    let at = program.rack.effect_count as usize;
    let mut made = EffectProgram {
        id: effect.id.0.into(),
        kind: effect.kind.name() as u32,
        on: u32::from(on),
        choices: effect.choices(),
        first_param: program.param_count,
        band_count: effect.bands().len().min(MAX_EQ_BANDS) as u32,
        point_count: effect.points().len().min(MAX_EFFECT_POINTS) as u32,
        ..EffectProgram::zeroed()
    };
    for row in effect_params(effect.kind.name()) {
        let value = effect.value(row.id).unwrap_or(row.default);
        program.add(in_units(row.id, value));
        made.params += 1;
    }
    for (band, to) in effect.bands().iter().zip(&mut made.bands) {
        let what = [band.what.position(), band.slope.position()].map(|at| at as u8);
        *to = [u8::from(band.on), what[0], what[1], 0];
        for row in EqBand::ROWS.params {
            let value = zolvik_patch::part::Part::get(band, row.id).unwrap_or(row.default);
            program.add(in_units(row.id, value));
            made.params += 1;
        }
    }
    for (point, to) in effect.points().iter().zip(&mut made.points) {
        *to = ShapeProgram {
            at: point.at as f32,
            level: point.level as f32,
            curve: point.curve as f32,
            bend: SegmentCurve::of(point.curve),
        };
    }
    program.rack.effects[at] = made;
    program.rack.effect_count += 1;
}

/// The longest tail: what rings in one chain goes on in the next, and is heard longer where what follows raises what is faint.
fn tail_of(program: &Program, tempo_bpm: f64) -> f32 {
    let rack = &program.rack;
    let mut lifts_db = [0.0; CHAINS];
    let mut tails = [0.0; CHAINS];
    for at in (0..CHAINS).rev() {
        // all chains lead into the common one, and the first may lead into the second as well
        let mut lift_db: f64 = lifts_db[at + 1..].iter().sum();
        let range = rack.chains[at].first as usize
            ..(rack.chains[at].first + rack.chains[at].count) as usize;
        for effect in rack.effects[range].iter().rev().filter(|e| e.on != 0) {
            let about = kind(effect.name());
            tails[at] += longest(program, effect, tempo_bpm, |set| {
                about.tail_s(set, FAINT_DB + lift_db)
            });
            let own_db = longest(program, effect, tempo_bpm, |set| about.lift_db(set));
            lift_db += own_db;
            lifts_db[at] += own_db;
        }
    }
    let all: f64 = tails.iter().sum();
    all.min(LONGEST_TAIL_S) as f32
}

/// The most something can be, of what is reckoned from an effect's values: each of those that links move stands where it makes it longest.
fn longest(
    program: &Program,
    effect: &EffectProgram,
    tempo_bpm: f64,
    of: impl Fn(&Setting<'_>) -> f64,
) -> f64 {
    let first = effect.first_param as usize;
    let all = &program.params[first..first + effect.params as usize];
    let mut values = [Value::default(); MAX_EFFECT_PARAMS];
    for (to, param) in values.iter_mut().zip(all) {
        *to = Value::still(param.value.into());
    }
    let points = effect.drawn();
    let reckon = |values: &[Value]| {
        let mut set = effect.setting(values, &points);
        set.tempo_bpm = tempo_bpm;
        of(&set)
    };
    let mut most = reckon(&values);
    for (at, param) in all.iter().enumerate().filter(|(_, p)| p.shared != NO_SLOT) {
        for end in [param.low, param.high] {
            let before = core::mem::replace(&mut values[at], Value::still(end.into()));
            match reckon(&values) {
                longer if longer > most => most = longer,
                _ => values[at] = before,
            }
        }
    }
    most
}

/// Position of a value of the rack among the parameters of a program.
pub(super) fn position(program: &Program, id: ParamId, of: u16, point: u8) -> Option<u32> {
    if let Some(chain) = ChainId::of_number(of) {
        let level = program.rack.chains[chain as usize].level;
        return Some(level + u32::from(id == Chain::SECOND_DB));
    }
    let effect = program.rack.effect(EffectId(of))?;
    let place = match id.part == EqBand::HZ.part {
        true => band_position(point.into(), id),
        false => effect_position(id),
    };
    (place < effect.params as usize).then(|| effect.first_param + place as u32)
}

/// A value of the document as a parameter.
fn in_units(id: ParamId, value: f64) -> ParamProgram {
    ParamProgram {
        value: value as f32,
        ..plain(param(id))
    }
}
