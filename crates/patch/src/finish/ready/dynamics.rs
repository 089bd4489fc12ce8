//! Ready settings of levels and how they change.

use super::setting::{Ready, ready};
use crate::finish::effect::{Effect, EffectName as E};
use crate::finish::kinds::*;

pub(super) const READY: &[Ready] = &[
    ready(
        E::Compressor,
        "Gentle hand",
        &[
            (Compressor::RATIO, 2.0),
            (Compressor::THRESHOLD_DB, -20.0),
            (Compressor::ATTACK_S, 0.02),
            (Compressor::MAKEUP_DB, 2.0),
        ],
    ),
    ready(
        E::Compressor,
        "Press",
        &[
            (Compressor::RATIO, 6.0),
            (Compressor::THRESHOLD_DB, -24.0),
            (Compressor::ATTACK_S, 0.003),
            (Compressor::MAKEUP_DB, 6.0),
        ],
    ),
    ready(
        E::Compressor,
        "Snap",
        &[
            (Compressor::RATIO, 4.0),
            (Compressor::THRESHOLD_DB, -22.0),
            (Compressor::ATTACK_S, 0.03),
            (Compressor::RELEASE_S, 0.08),
            (Compressor::MAKEUP_DB, 4.0),
        ],
    ),
    ready(
        E::Compressor,
        "Breathe with the kick",
        &[
            (Compressor::RATIO, 8.0),
            (Compressor::THRESHOLD_DB, -30.0),
            (Compressor::ATTACK_S, 0.002),
            (Compressor::RELEASE_S, 0.2),
        ],
    )
    .choosing(&[(Compressor::SIDE, 1)]),
    ready(E::Transients, "Sharper", &[(Transients::ATTACK_DB, 6.0)]),
    ready(E::Transients, "Rounder", &[(Transients::ATTACK_DB, -6.0)]),
    ready(
        E::Transients,
        "Shorter",
        &[(Transients::ATTACK_DB, 2.0), (Transients::SUSTAIN_DB, -9.0)],
    ),
    ready(
        E::Transients,
        "Longer",
        &[(Transients::ATTACK_DB, 0.0), (Transients::SUSTAIN_DB, 6.0)],
    ),
    ready(E::Ducker, "Step aside", &[(Ducker::DEPTH_DB, 8.0)]),
    ready(
        E::Ducker,
        "Bow deeply",
        &[(Ducker::DEPTH_DB, 24.0), (Ducker::RELEASE_S, 0.3)],
    ),
    ready(
        E::Ducker,
        "Quarter tide",
        &[(Ducker::DEPTH_DB, 12.0), (Ducker::CYCLE_BEATS, 1.0)],
    )
    .choosing(&[(Ducker::BY, 1)]),
    ready(
        E::Ducker,
        "Flutter",
        &[(Ducker::DEPTH_DB, 18.0), (Ducker::CYCLE_BEATS, 0.25)],
    )
    .choosing(&[(Ducker::BY, 1)]),
    ready(E::Limiter, "Safe", &[]),
    ready(
        E::Limiter,
        "Loud",
        &[(Effect::IN_DB, 6.0), (Limiter::RELEASE_S, 0.05)],
    ),
    ready(
        E::Limiter,
        "Slow shoulders",
        &[
            (Effect::IN_DB, 3.0),
            (Limiter::RELEASE_S, 0.4),
            (Limiter::AHEAD_S, 0.006),
        ],
    ),
    ready(E::Limiter, "To the brim", &[(Limiter::CEILING_DB, -0.1)]),
    ready(E::Level, "Six down", &[(Gain::GAIN_DB, -6.0)]),
    ready(E::Level, "Six up", &[(Gain::GAIN_DB, 6.0)]),
    ready(E::Level, "Turned over", &[]).choosing(&[(Gain::POLARITY, 1)]),
    ready(E::Level, "Half hidden", &[(Gain::GAIN_DB, -14.0)]),
];
