//! With other effects over voices that were kept a note has the bits it has when all of it is computed.

use std::path::Path;

use zolvik_edit::{Edit, apply};
use zolvik_lab::Note;
use zolvik_lab::render::{Run, prepared, render};
use zolvik_lab::rendered::Rendered;
use zolvik_lab::take::Take;
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::catalogue::param;
use zolvik_patch::document::{ChainId, Operator, Unit, UnitId, VoiceSettings};
use zolvik_patch::finish::{Ducker, EffectName};
use zolvik_patch::json;
use zolvik_patch::param::Owner;
use zolvik_patch::values::all;
use zolvik_patch::wave::{Shape, Wave};
use zolvik_play::Player;

const RATE_HZ: f64 = 48_000.0;

fn note(patch: &Patch) -> Note {
    Note {
        hold_s: 0.2,
        length_s: 0.5,
        ..Note::auditioned(patch, RATE_HZ)
    }
}

/// Renders with a take, and says whether its voices came from it.
fn over(patch: &Patch, take: Option<Take>) -> (Rendered, bool, Option<Take>) {
    let (prepared, note) = (prepared(patch), note(patch));
    let mut run = Run::kept_note(Player::new(RATE_HZ), &prepared, &note, take);
    let plays = run.plays_a_take();
    while run.go(100) {}
    let (sound, _, take) = run.end();
    (sound, plays, take)
}

fn demo() -> Vec<Patch> {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/night-garden");
    let files = std::fs::read_dir(folder)
        .unwrap()
        .map(|e| e.unwrap().path());
    let mut files: Vec<_> = files
        .filter(|p| p.extension().is_some_and(|e| e == "json"))
        .collect();
    files.sort();
    let read = |path| json::read(&std::fs::read_to_string(path).unwrap()).unwrap();
    files.iter().map(read).collect()
}

/// The same patch with each value of its effects moved a little, its level turned down, one effect off and one gone.
fn otherwise(patch: &Patch) -> Vec<Patch> {
    let mut values = patch.clone();
    let of_rack = |owner| matches!(owner, Owner::Effect | Owner::Chain | Owner::Band);
    for (address, _) in all(patch) {
        let row = param(address.param);
        let Ok(value) = address.get(patch) else {
            continue;
        };
        // a longer look ahead would need more of the capture than there is
        if of_rack(row.owner) && !row.name.contains("ahead") {
            let place = row.place(value);
            let moved = row.value_at(if place > 0.5 {
                place - 0.02
            } else {
                place + 0.02
            });
            let _ = address.set(&mut values, moved);
        }
    }
    let mut softer = patch.clone();
    softer.voice.trim_db -= 3.0;
    let mut list = vec![values, softer];
    let mut off = patch.clone();
    if let Some(effect) = off.finish.effects_mut().next() {
        effect.on = false;
    }
    list.push(off);
    list
}

#[test]
fn other_effects_over_kept_voices_have_the_bits_of_the_whole() {
    let mut played = 0;
    for patch in demo().into_iter().step_by(3) {
        let (first, plays, mut take) = over(&patch, None);
        assert!(!plays);
        assert_eq!(first, render(&patch, &note(&patch)), "{}", patch.meta.name);
        for other in otherwise(&patch) {
            let (sound, plays, back) = over(&other, take.take());
            assert!(plays, "{}", patch.meta.name);
            assert_eq!(sound, render(&other, &note(&other)), "{}", patch.meta.name);
            played += 1;
            take = back;
        }
    }
    assert!(played > 20, "{played}");
}

/// Each kind of effect by itself, after a saw, with what goes by the beat.
#[test]
fn each_kind_of_effect_hears_kept_voices_as_the_voices() {
    for kind in EffectName::ALL {
        let edit = Edit::AddEffect {
            kind: *kind,
            chain: ChainId::Common,
            at: None,
        };
        let mut patch = apply(&Patch::empty(), &edit).unwrap().0;
        patch.units[0].oscillator_mut().unwrap().wave = Wave::Shape(Shape::Saw);
        // of a ducker the shape; the others have no such choice
        let _ = patch
            .finish
            .effects_mut()
            .next()
            .unwrap()
            .choose_of(Ducker::BY, 1);
        let (_, _, take) = over(&patch, None);
        patch.finish.effects_mut().next().unwrap().mix = 0.7;
        let (sound, plays, _) = over(&patch, take);
        assert!(plays, "{kind:?}");
        assert_eq!(sound, render(&patch, &note(&patch)), "{kind:?}");
    }
}

#[test]
fn what_changes_the_voices_is_computed() {
    let patch = apply(
        &Patch::empty(),
        &Edit::AddEffect {
            kind: EffectName::Drive,
            chain: ChainId::Common,
            at: None,
        },
    )
    .unwrap()
    .0;
    let change = |change: &dyn Fn(&mut Patch)| {
        let mut other = patch.clone();
        change(&mut other);
        other
    };
    let others = [
        change(&|p| {
            Address::unit(UnitId(1), Operator::RATIO)
                .set(p, 2.0)
                .unwrap()
        }),
        change(&|p| p.audition.note = 60),
        change(&|p| p.audition.velocity = 10),
        change(&|p| {
            Address::patch(VoiceSettings::DRIFT_CENTS)
                .set(p, 9.0)
                .unwrap()
        }),
        change(&|p| {
            p.units.push(Unit::new(
                UnitId(2),
                zolvik_patch::document::KindName::Noise,
            ))
        }),
        // with no effect the level stands before what leaves the voices
        change(&|p| *p = Patch::empty()),
    ];
    for other in others {
        let (_, _, take) = over(&patch, None);
        assert!(take.is_some());
        let (sound, plays, _) = over(&other, take);
        assert!(!plays);
        assert_eq!(sound, render(&other, &note(&other)));
    }
    // one that was broken off is not kept, and a capture that is too short is not played
    let (prepared, note) = (prepared(&patch), note(&patch));
    let mut run = Run::kept_note(Player::new(RATE_HZ), &prepared, &note, None);
    run.go(10);
    assert!(run.end().2.is_none());
    let (_, _, take) = over(&patch, None);
    let late = apply(
        &patch,
        &Edit::AddEffect {
            kind: EffectName::Limiter,
            chain: ChainId::Common,
            at: None,
        },
    );
    let late = late.unwrap().0;
    let (sound, plays, _) = over(&late, take);
    assert!(!plays, "the limiter looks ahead");
    assert_eq!(sound, render(&late, &self::note(&late)));
}
