//! Ready settings of what drifts.

use super::setting::{MIX, Ready, ready};
use crate::finish::effect::EffectName as E;
use crate::finish::kinds::*;

pub(super) const READY: &[Ready] = &[
    ready(E::Chorus, "Two beside", &[(MIX, 0.3)]),
    ready(
        E::Chorus,
        "Choir loft",
        &[
            (MIX, 0.5),
            (Chorus::VOICES, 6.0),
            (Chorus::DEPTH_S, 0.004),
            (Chorus::DELAY_S, 0.02),
        ],
    ),
    ready(
        E::Chorus,
        "Wet street",
        &[
            (MIX, 0.5),
            (Chorus::RATE_HZ, 1.2),
            (Chorus::DEPTH_S, 0.0015),
            (Chorus::DELAY_S, 0.006),
        ],
    ),
    ready(
        E::Chorus,
        "Seasick",
        &[(MIX, 0.6), (Chorus::RATE_HZ, 2.5), (Chorus::DEPTH_S, 0.006)],
    ),
    ready(
        E::Flanger,
        "Slow hollow",
        &[
            (MIX, 0.4),
            (Flanger::RATE_HZ, 0.08),
            (Flanger::FEEDBACK, 0.5),
        ],
    ),
    ready(
        E::Flanger,
        "Pipe",
        &[
            (MIX, 0.5),
            (Flanger::RATE_HZ, 0.15),
            (Flanger::FEEDBACK, 0.85),
            (Flanger::DEPTH_S, 0.0012),
        ],
    ),
    ready(
        E::Flanger,
        "Under water",
        &[
            (MIX, 0.5),
            (Flanger::RATE_HZ, 0.6),
            (Flanger::FEEDBACK, -0.7),
            (Flanger::DEPTH_S, 0.004),
        ],
    ),
    ready(
        E::Flanger,
        "Shiver",
        &[
            (MIX, 0.3),
            (Flanger::RATE_HZ, 5.0),
            (Flanger::DEPTH_S, 0.0006),
        ],
    ),
    ready(
        E::Phaser,
        "Slow turn",
        &[(MIX, 0.5), (Phaser::RATE_HZ, 0.1)],
    ),
    ready(
        E::Phaser,
        "Swirl",
        &[
            (MIX, 0.5),
            (Phaser::RATE_HZ, 0.8),
            (Phaser::FEEDBACK, 0.6),
            (Phaser::STAGES, 8.0),
        ],
    ),
    ready(
        E::Phaser,
        "Notched light",
        &[(MIX, 0.5), (Phaser::STAGES, 12.0), (Phaser::FEEDBACK, 0.5)],
    )
    .choosing(&[(Phaser::SWEEP, 1)]),
    ready(
        E::Phaser,
        "Wide drift",
        &[
            (MIX, 0.5),
            (Phaser::STAGES, 4.0),
            (Phaser::WIDTH, 1.0),
            (Phaser::RATE_HZ, 0.2),
        ],
    ),
    ready(E::Shifter, "Octave above", &[(MIX, 0.3)]),
    ready(
        E::Shifter,
        "Cellar",
        &[(MIX, 0.4), (Shifter::SEMITONES, -12.0)],
    ),
    ready(
        E::Shifter,
        "Slow beating",
        &[(MIX, 0.5), (Shifter::HERTZ, 0.7)],
    )
    .choosing(&[(Shifter::WHAT, 1)]),
    ready(
        E::Shifter,
        "Broken bell",
        &[(MIX, 0.5), (Shifter::HERTZ, 173.0)],
    )
    .choosing(&[(Shifter::WHAT, 1)]),
];
