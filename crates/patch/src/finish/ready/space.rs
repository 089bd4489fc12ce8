//! Ready settings of space and width.

use super::setting::{MIX, Ready, ready};
use crate::finish::effect::EffectName as E;
use crate::finish::kinds::*;

pub(super) const READY: &[Ready] = &[
    ready(
        E::Delay,
        "Dotted answer",
        &[
            (MIX, 0.25),
            (Delay::LEFT_BEATS, 0.75),
            (Delay::RIGHT_BEATS, 0.75),
        ],
    ),
    ready(
        E::Delay,
        "Side to side",
        &[
            (MIX, 0.3),
            (Delay::LEFT_BEATS, 0.5),
            (Delay::RIGHT_BEATS, 0.5),
            (Delay::FEEDBACK, 0.5),
        ],
    )
    .choosing(&[(Delay::WAY, 1)]),
    ready(
        E::Delay,
        "Slap",
        &[(MIX, 0.3), (Delay::LEFT_S, 0.09), (Delay::RIGHT_S, 0.1)],
    )
    .choosing(&[(Delay::CLOCK, 0), (Delay::WAY, 2)]),
    ready(
        E::Delay,
        "Polite repeats",
        &[(MIX, 0.4), (Delay::FEEDBACK, 0.5), (Delay::DUCK_DB, 12.0)],
    ),
    ready(
        E::Delay,
        "Rising stairs",
        &[
            (MIX, 0.3),
            (Delay::FEEDBACK, 0.6),
            (Delay::SHIFT_ST, 7.0),
            (Delay::HIGH_CUT_HZ, 5000.0),
        ],
    ),
    ready(
        E::Reverb,
        "Tiled room",
        &[
            (MIX, 0.2),
            (Reverb::SIZE, 0.2),
            (Reverb::TIME_S, 0.7),
            (Reverb::EARLY, 0.6),
            (Reverb::PRE_S, 0.005),
        ],
    ),
    ready(
        E::Reverb,
        "Long hall",
        &[
            (MIX, 0.3),
            (Reverb::SIZE, 0.8),
            (Reverb::TIME_S, 4.0),
            (Reverb::PRE_S, 0.03),
        ],
    ),
    ready(
        E::Reverb,
        "Dark nave",
        &[
            (MIX, 0.3),
            (Reverb::SIZE, 1.0),
            (Reverb::TIME_S, 7.0),
            (Reverb::DAMP_HZ, 2000.0),
            (Reverb::PRE_S, 0.05),
        ],
    ),
    ready(
        E::Reverb,
        "Night sky",
        &[
            (MIX, 0.4),
            (Reverb::SIZE, 0.9),
            (Reverb::TIME_S, 9.0),
            (Reverb::SHIMMER, 0.35),
            (Reverb::LOW_CUT_HZ, 300.0),
        ],
    ),
    ready(E::Widening, "Left first", &[(MIX, 0.5)]),
    ready(E::Widening, "Two tunings", &[(MIX, 0.4)]).choosing(&[(Widening::BY, 1)]),
    ready(
        E::Widening,
        "Far apart",
        &[(MIX, 0.8), (Widening::TIME_S, 0.025)],
    ),
    ready(
        E::Widening,
        "Highs only",
        &[(MIX, 0.6), (Widening::ABOVE_HZ, 1500.0)],
    ),
    ready(E::Stereo, "Mono lows", &[(Stereo::MONO_HZ, 120.0)]),
    ready(
        E::Stereo,
        "Wide top",
        &[
            (Stereo::MONO_HZ, 120.0),
            (Stereo::MID_WIDTH, 1.2),
            (Stereo::HIGH_WIDTH, 1.6),
        ],
    ),
    ready(
        E::Stereo,
        "All in the middle",
        &[
            (Stereo::LOW_WIDTH, 0.0),
            (Stereo::MID_WIDTH, 0.0),
            (Stereo::HIGH_WIDTH, 0.0),
        ],
    ),
    ready(
        E::Stereo,
        "Narrower",
        &[
            (Stereo::LOW_WIDTH, 0.4),
            (Stereo::MID_WIDTH, 0.6),
            (Stereo::HIGH_WIDTH, 0.7),
        ],
    ),
];
