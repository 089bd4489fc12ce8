//! Effects and their chains: what edits make of them, and what is refused.

use rstest::rstest;
use zolvik_edit::{Edit, apply};
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::document::{ChainId, EffectId};
use zolvik_patch::error::PatchError;
use zolvik_patch::finish::{BandType, EffectName, EqBand, MAX_CHAIN_EFFECTS};
use zolvik_patch::json;
use zolvik_patch::movement::SourceName;

fn with(patch: &Patch, edit: Edit) -> Patch {
    apply(patch, &edit).unwrap().0
}

fn add(patch: &Patch, chain: ChainId, kind: EffectName) -> Patch {
    let at = None;
    with(patch, Edit::AddEffect { chain, kind, at })
}

fn kinds(patch: &Patch, chain: ChainId) -> Vec<EffectName> {
    let effects = patch.finish.chain(chain).effects.iter();
    effects.map(|e| e.kind.name()).collect()
}

#[test]
fn every_effect_arrives_gently_and_what_holds_a_ceiling_stays_last() {
    let mut patch = Patch::empty();
    for kind in [EffectName::Reverb, EffectName::Limiter, EffectName::Drive] {
        patch = add(&patch, ChainId::Common, kind);
    }
    assert_eq!(
        kinds(&patch, ChainId::Common),
        [EffectName::Reverb, EffectName::Drive, EffectName::Limiter]
    );
    for effect in patch.finish.effects() {
        let gentle = effect.kind.name().gentle_mix();
        assert_eq!(effect.mix, gentle);
        assert!(effect.in_db == 0.0 && effect.out_db == 0.0);
    }
    assert_eq!(EffectName::Reverb.gentle_mix(), 0.25);
}

#[test]
fn the_ninth_effect_is_refused_and_nothing_is_lost() {
    let mut patch = Patch::empty();
    for _ in 0..MAX_CHAIN_EFFECTS {
        patch = add(&patch, ChainId::First, EffectName::Level);
    }
    let ninth = Edit::AddEffect {
        chain: ChainId::First,
        kind: EffectName::Level,
        at: Some(0),
    };
    assert!(matches!(
        apply(&patch, &ninth),
        Err(PatchError::TooMany {
            max: 8,
            actual: 9,
            ..
        })
    ));
    let first = patch.finish.first.effects[0].id;
    let copy = Edit::DuplicateEffect { effect: first };
    assert!(apply(&patch, &copy).is_err());
    // elsewhere there is room
    let chain = ChainId::Second;
    let moved = with(
        &patch,
        Edit::MoveEffect {
            effect: first,
            chain,
            at: 5,
        },
    );
    assert_eq!(moved.finish.second.effects[0].id, first);
    assert_eq!(moved.finish.first.effects.len(), 7);
}

#[rstest]
#[case::down(0, 2, &[1, 2, 0])]
#[case::up(2, 0, &[2, 0, 1])]
#[case::where_it_is(1, 1, &[0, 1, 2])]
#[case::beyond_the_end(0, 9, &[1, 2, 0])]
fn an_effect_is_put_elsewhere(#[case] from: usize, #[case] to: usize, #[case] order: &[usize]) {
    let mut patch = Patch::empty();
    for _ in 0..3 {
        patch = add(&patch, ChainId::Common, EffectName::Level);
    }
    let ids: Vec<EffectId> = patch.finish.effects().map(|e| e.id).collect();
    let (effect, chain) = (ids[from], ChainId::Common);
    let moved = with(
        &patch,
        Edit::MoveEffect {
            effect,
            chain,
            at: to,
        },
    );
    let now: Vec<EffectId> = moved.finish.effects().map(|e| e.id).collect();
    let should: Vec<EffectId> = order.iter().map(|at| ids[*at]).collect();
    assert_eq!(now, should);
}

/// Links go on with the bands they moved, and go with an effect that goes.
#[test]
fn links_follow_bands_and_effects() {
    let patch = add(&Patch::empty(), ChainId::Common, EffectName::Eq);
    let effect = patch.finish.effects().next().unwrap().id;
    let to = [1, 3]
        .map(|at| Address::band(effect, at, EqBand::HZ))
        .to_vec();
    let patch = with(
        &patch,
        Edit::AddSource {
            kind: SourceName::Lfo,
            to,
        },
    );
    let less = with(&patch, Edit::RemoveBand { effect, at: 0 });
    let points: Vec<u8> = less.movement.links.iter().map(|l| l.to.point).collect();
    assert_eq!(points, [0, 2]);
    let less = with(&less, Edit::RemoveBand { effect, at: 0 });
    assert_eq!(less.movement.links.len(), 1);
    assert_eq!(less.movement.links[0].to.point, 1);
    let gone = with(&patch, Edit::RemoveEffect { effect });
    assert!(gone.movement.links.is_empty());
}

#[test]
fn an_eq_keeps_one_band_and_takes_eight() {
    let mut patch = add(&Patch::empty(), ChainId::Common, EffectName::Eq);
    let effect = patch.finish.effects().next().unwrap().id;
    let band = EqBand::at(BandType::Peak, 500.0);
    for _ in 0..4 {
        patch = with(&patch, Edit::AddBand { effect, band });
    }
    assert!(apply(&patch, &Edit::AddBand { effect, band }).is_err());
    for _ in 0..7 {
        patch = with(&patch, Edit::RemoveBand { effect, at: 0 });
    }
    assert!(apply(&patch, &Edit::RemoveBand { effect, at: 0 }).is_err());
}

#[rstest]
#[case::into_itself(
    "\"second\": {\"name\": \"B\", \"second_db\": -6.0}",
    "finish.second.second_db"
)]
#[case::from_a_newer_version(
    "\"first\": {\"effects\": [{\"id\": 2001, \"on\": true, \"kind\": {\"vapour\": {}}, \"mix\": 0.2}]}",
    "vapour"
)]
#[case::too_loud(
    "\"common\": {\"effects\": [{\"id\": 2001, \"on\": true, \"kind\": {\"delay\": {\"feedback\": 1.5}}, \"mix\": 0.2}]}",
    "feedback"
)]
#[case::twice(
    "\"common\": {\"effects\": [{\"id\": 2001, \"on\": true, \"kind\": {\"level\": {}}, \"mix\": 0.2}, {\"id\": 2001, \"on\": true, \"kind\": {\"level\": {}}, \"mix\": 0.2}]}",
    "number 2001 is already used"
)]
#[case::a_units_number(
    "\"common\": {\"effects\": [{\"id\": 1, \"on\": true, \"kind\": {\"level\": {}}, \"mix\": 0.2}]}",
    "finish.common.effects[0].id"
)]
#[case::no_bands(
    "\"common\": {\"effects\": [{\"id\": 2001, \"on\": true, \"kind\": {\"eq\": {\"bands\": []}}, \"mix\": 1.0}]}",
    "bands"
)]
#[case::drawn_backwards(
    "\"common\": {\"effects\": [{\"id\": 2001, \"on\": true, \"kind\": {\"drive\": {\"points\": [{\"at\": 0.5, \"level\": 0, \"curve\": 0}, {\"at\": 1, \"level\": 1, \"curve\": 0}]}}, \"mix\": 1.0}]}",
    "points"
)]
fn what_cannot_be_is_refused_by_its_place(#[case] finish: &str, #[case] says: &str) {
    let text = json::write(&Patch::empty());
    let text = text.replacen(
        "\"units\":",
        &format!("\"finish\": {{{finish}}}, \"units\":"),
        1,
    );
    let error = json::read(&text).unwrap_err().to_string();
    assert!(error.contains(says), "{error}");
}

/// What a file leaves out of an effect is as in a new one.
#[test]
fn an_effect_may_be_said_in_short() {
    let text = json::write(&Patch::empty());
    let finish = "\"finish\": {\"common\": {\"name\": \"Hall\", \"effects\": [{\"id\": 2001, \"on\": true, \"kind\": {\"reverb\": {\"time_s\": 3.5}}, \"mix\": 0.3}]}}, \"units\":";
    let patch = json::read(&text.replacen("\"units\":", finish, 1)).unwrap();
    let effect = &patch.finish.common.effects[0];
    let reverb = zolvik_patch::finish::Reverb::TIME_S;
    assert_eq!(effect.value(reverb), Some(3.5));
    assert_eq!(patch.finish.common.name, "Hall");
    assert_eq!(json::read(&json::write(&patch)), Ok(patch));
}

/// A band that is added without pointing stands where there is most room, by octaves.
#[rstest]
#[case(&[], 632.0)]
#[case(&[80.0, 5_000.0], 632.0)]
#[case(&[20.0, 40.0, 20_000.0], 894.0)]
#[case(&[2_000.0], 200.0)]
fn a_new_band_stands_amid_the_widest_gap(#[case] others: &[f64], #[case] hz: f64) {
    let bands: Vec<EqBand> = others
        .iter()
        .map(|hz| EqBand::at(BandType::Peak, *hz))
        .collect();
    let new = EqBand::beside(&bands, None);
    assert!((new.hz - hz).abs() < 1.0, "{}", new.hz);
    assert_eq!((new.gain_db, new.on), (0.0, true));
    let pointed = EqBand::beside(&bands, Some((31_234.5, -3.456)));
    assert_eq!((pointed.hz, pointed.gain_db), (20_000.0, -3.5));
}

/// Steps lead through all places of all chains and back, and end at the ends.
#[test]
fn an_effect_steps_over_the_ends_of_chains() {
    let mut patch = add(&Patch::empty(), ChainId::First, EffectName::Drive);
    patch = add(&patch, ChainId::Common, EffectName::Reverb);
    let drive = patch.finish.first.effects[0].id;
    let mut places = vec![];
    for behind in [true, true, true, true, false, false, false] {
        match patch.finish.next_place(drive, behind) {
            Some((chain, at)) => {
                patch = with(
                    &patch,
                    Edit::MoveEffect {
                        effect: drive,
                        chain,
                        at,
                    },
                );
                places.push(patch.finish.place(drive).unwrap());
            }
            None => assert!(behind, "only the last step down leads nowhere"),
        }
    }
    use ChainId::{Common, First, Second};
    let expected = [
        (Second, 0),
        (Common, 0),
        (Common, 1),
        (Common, 0),
        (Second, 0),
        (First, 0),
    ];
    assert_eq!(places, expected);
    assert_eq!(patch.finish.next_place(drive, false), None);
}
