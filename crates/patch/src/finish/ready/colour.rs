//! Ready settings of colour.

use super::setting::{MIX, Ready, ready};
use crate::finish::effect::EffectName as E;
use crate::finish::kinds::*;

pub(super) const READY: &[Ready] = &[
    ready(
        E::Drive,
        "Warm edge",
        &[(MIX, 0.5), (Drive::DRIVE_DB, 9.0), (Drive::AFTER_DB, -2.0)],
    ),
    ready(E::Drive, "Bitten", &[(MIX, 0.8), (Drive::DRIVE_DB, 18.0)]).choosing(&[(Drive::BEND, 1)]),
    ready(
        E::Drive,
        "Paper crease",
        &[(MIX, 0.6), (Drive::DRIVE_DB, 14.0), (Drive::AFTER_DB, -3.0)],
    )
    .choosing(&[(Drive::BEND, 2)]),
    ready(
        E::Drive,
        "Lamp glow",
        &[(MIX, 0.7), (Drive::DRIVE_DB, 8.0), (Drive::BIAS, 0.3)],
    )
    .choosing(&[(Drive::BEND, 3)]),
    ready(
        E::Drive,
        "Worn ribbon",
        &[(MIX, 0.8), (Drive::DRIVE_DB, 10.0)],
    )
    .choosing(&[(Drive::BEND, 4)]),
    ready(
        E::Drive,
        "Gravel",
        &[(MIX, 0.5), (Drive::BITS, 6.0), (Drive::STEP_HZ, 9000.0)],
    )
    .choosing(&[(Drive::BEND, 7)]),
    ready(E::Filter, "Blanket", &[(FilterEffect::CUTOFF_HZ, 1800.0)]),
    ready(
        E::Filter,
        "Off the floor",
        &[(FilterEffect::CUTOFF_HZ, 120.0)],
    )
    .choosing(&[(FilterEffect::RESPONSE, 1), (FilterEffect::SLOPE, 1)]),
    ready(
        E::Filter,
        "Keyhole",
        &[
            (FilterEffect::CUTOFF_HZ, 1200.0),
            (FilterEffect::RESONANCE, 0.4),
            (MIX, 0.8),
        ],
    )
    .choosing(&[(FilterEffect::RESPONSE, 2)]),
    ready(
        E::Filter,
        "Open mouth",
        &[(MIX, 0.6), (FilterEffect::RESONANCE, 0.3)],
    )
    .choosing(&[(FilterEffect::RESPONSE, 7)]),
    ready(
        E::Resonators,
        "Seven strings",
        &[(Resonators::COUNT, 7.0), (Resonators::DECAY_S, 2.5)],
    ),
    ready(
        E::Resonators,
        "Kettle lid",
        &[
            (Resonators::COUNT, 9.0),
            (Resonators::SPREAD, 0.8),
            (Resonators::DECAY_S, 0.6),
        ],
    )
    .choosing(&[(Resonators::RINGING, 1)]),
    ready(
        E::Resonators,
        "Well",
        &[
            (Resonators::COUNT, 3.0),
            (Resonators::PITCH_HZ, 70.0),
            (Resonators::DECAY_S, 1.2),
            (Resonators::BRIGHT, 0.2),
        ],
    )
    .choosing(&[(Resonators::TUNED_TO, 1)]),
    ready(
        E::Resonators,
        "Glass rods",
        &[
            (Resonators::COUNT, 12.0),
            (Resonators::SPREAD, 0.65),
            (Resonators::DECAY_S, 4.0),
            (Resonators::BRIGHT, 0.9),
        ],
    )
    .choosing(&[(Resonators::RINGING, 1)]),
];
