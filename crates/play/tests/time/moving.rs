//! What is changed while notes sound: articulations and macros leave no click.

use zolvik_edit::{Edit, apply};
use zolvik_engine::program::prepare;
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::document::{Quality, RouteId, Send, SourceId, UnitId, VoiceSettings};
use zolvik_patch::hearing::Listening;
use zolvik_patch::movement::{Macro, SourceName};
use zolvik_play::Player;

use crate::support::{played, player};

fn after(patch: &Patch, edits: &[Edit]) -> Patch {
    let one = |patch: Patch, edit: &Edit| apply(&patch, edit).unwrap().0;
    edits.iter().fold(patch.clone(), one)
}

fn set(address: Address, value: f64) -> Edit {
    Edit::SetValue { address, value }
}

/// A sine that lasts, at a plain rate.
fn sine() -> Patch {
    let mut patch = Patch::empty();
    patch.voice.quality = Quality::X1;
    patch
}

fn install(player: &mut Player, patch: &Patch) {
    player
        .engine
        .install(&prepare(patch, &Listening::default()).program);
}

/// Power above a frequency against all, in dB, by a Hann window and plain sums over bins of 20 Hz.
fn above_db(samples: &[f32], hz: f64) -> f64 {
    let count = samples.len();
    let windowed: Vec<f64> = samples
        .iter()
        .enumerate()
        .map(|(n, s)| {
            let turn = std::f64::consts::TAU * n as f64 / count as f64;
            // four terms (Nuttall, 1981): what leaks is far below what is looked for
            let w = 0.355768 - 0.487396 * turn.cos() + 0.144232 * (2.0 * turn).cos()
                - 0.012604 * (3.0 * turn).cos();
            f64::from(*s) * w
        })
        .collect();
    let power = |bin_hz: f64| {
        let step = std::f64::consts::TAU * bin_hz / 48_000.0;
        let (mut re, mut im) = (0.0, 0.0);
        for (n, s) in windowed.iter().enumerate() {
            re += s * (step * n as f64).cos();
            im += s * (step * n as f64).sin();
        }
        re * re + im * im
    };
    let bins = |from: f64, to: f64| {
        let steps = ((to - from) / 20.0) as usize;
        (0..steps)
            .map(|n| power(from + n as f64 * 20.0))
            .fold(0.0, f64::max)
    };
    10.0 * (bins(hz, 20_000.0).max(1e-30) / bins(20.0, hz)).log10()
}

#[test]
fn an_articulation_is_switched_while_a_note_sounds_without_a_click() {
    let level = Address::route(RouteId(1), Send::LEVEL_DB);
    let pan = Address::route(RouteId(1), Send::PAN);
    let patch = after(
        &sine(),
        &[
            Edit::AddArticulation {
                name: "Soft".into(),
            },
            set(level, -24.0),
            set(pan, 0.8),
            set(Address::patch(VoiceSettings::TRIM_DB), -3.0),
            set(
                Address::point(UnitId(1), 1, zolvik_patch::document::Point::LEVEL),
                0.4,
            ),
            Edit::SwitchArticulation { at: None },
        ],
    );
    let soft = after(&patch, &[Edit::SwitchArticulation { at: Some(0) }]);
    let mut player = player(&patch, 48_000.0);
    player.note_on(57, 100);
    played(&mut player, 24_000);
    let mut all = vec![];
    for to in [&soft, &patch, &soft] {
        install(&mut player, to);
        all.extend(played(&mut player, 2_400).0);
    }
    let found = above_db(&all, 2_600.0);
    assert!(found < -60.0, "{found} dB");
    // and it is heard: the last is softer
    let rms = |part: &[f32]| (part.iter().map(|s| s * s).sum::<f32>() / part.len() as f32).sqrt();
    assert!(rms(&all[6_000..]) < 0.5 * rms(&all[3_600..4_800]));
}

#[test]
fn a_macro_swept_in_a_twentieth_of_a_second_adds_nothing_a_slow_sweep_lacks() {
    let level = Address::route(RouteId(1), Send::LEVEL_DB);
    let pan = Address::route(RouteId(1), Send::PAN);
    let place = Address::new(Macro::PLACE, 1001);
    let patch = after(
        &sine(),
        &[
            Edit::AddSource {
                kind: SourceName::Macro,
                to: vec![level, pan],
            },
            Edit::SetWay {
                link: zolvik_patch::document::LinkId(1),
                low: -30.0,
                high: -6.0,
            },
        ],
    );
    assert_eq!(patch.movement.sources[0].id, SourceId(1001));
    let swept = |steps: usize, frames: usize| {
        let mut player = player(&patch, 48_000.0);
        player.note_on(57, 100);
        played(&mut player, 24_000);
        let mut all = vec![];
        for step in 1..=steps {
            let there = after(&patch, &[set(place, step as f64 / steps as f64)]);
            install(&mut player, &there);
            all.extend(played(&mut player, frames).0);
        }
        all.extend(played(&mut player, 4_800).0);
        above_db(&all, 2_600.0)
    };
    // as a page sends it: sixty times a second
    let fast = swept(3, 800);
    assert!(fast < -80.0, "{fast} dB");
    let slow = swept(60, 800);
    assert!(slow < -80.0, "{slow} dB");
}
