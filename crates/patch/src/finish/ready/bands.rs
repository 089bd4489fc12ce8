//! Ready settings of bands.

use super::setting::{Ready, band, ready};
use crate::finish::effect::EffectName as E;
use crate::finish::kinds::*;

pub(super) const READY: &[Ready] = &[
    ready(E::Eq, "Less mud", &[]).bands(&[
        band(BandType::LowCut, 35.0, 0.0, 0.707),
        band(BandType::Peak, 290.0, -4.0, 0.9),
        band(BandType::HighShelf, 9000.0, 1.5, 0.707),
    ]),
    ready(E::Eq, "Air", &[]).bands(&[
        band(BandType::LowShelf, 200.0, -1.0, 0.707),
        band(BandType::HighShelf, 8000.0, 4.0, 0.707),
    ]),
    ready(E::Eq, "Next room", &[]).bands(&[
        band(BandType::LowCut, 250.0, 0.0, 0.707),
        band(BandType::HighCut, 2500.0, 0.0, 0.707),
        band(BandType::Peak, 800.0, 3.0, 1.0),
    ]),
    ready(E::Eq, "Lean forward", &[]).bands(&[
        band(BandType::Tilt, 900.0, 3.0, 0.707),
        band(BandType::Peak, 3200.0, 2.0, 0.8),
    ]),
    ready(E::ThreeBand, "Held together", &[(ThreeBand::AMOUNT, 0.35)]),
    ready(
        E::ThreeBand,
        "Everything forward",
        &[(ThreeBand::AMOUNT, 0.8), (ThreeBand::TIME, 0.6)],
    ),
    ready(
        E::ThreeBand,
        "Only lift",
        &[
            (ThreeBand::AMOUNT, 0.5),
            (ThreeBand::LOW_DOWN, 0.0),
            (ThreeBand::MID_DOWN, 0.0),
            (ThreeBand::HIGH_DOWN, 0.0),
        ],
    ),
    ready(
        E::ThreeBand,
        "Lows on a lead",
        &[
            (ThreeBand::AMOUNT, 0.6),
            (ThreeBand::MID_UP, 0.2),
            (ThreeBand::MID_DOWN, 0.2),
            (ThreeBand::HIGH_UP, 0.2),
            (ThreeBand::HIGH_DOWN, 0.2),
        ],
    ),
];
