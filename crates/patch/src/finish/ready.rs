//! Ready settings of each effect, by our own names.

use super::effect::{Effect, EffectKind, EffectName};
use super::kinds::*;
use crate::ids::EffectId;
use crate::param::{ChoiceId, ParamId};

/// A ready setting: what it is called, and what is otherwise than at first.
#[derive(Debug, Clone, Copy)]
pub struct Ready {
    /// Whose.
    pub kind: EffectName,
    /// What it is called.
    pub name: &'static str,
    /// What its values are.
    pub values: &'static [(ParamId, f64)],
    /// Which of each choice it has, counted from 0.
    pub choices: &'static [(ChoiceId, usize)],
    bands: &'static [EqBand],
}

const fn ready(kind: EffectName, name: &'static str, values: &'static [(ParamId, f64)]) -> Ready {
    Ready {
        kind,
        name,
        values,
        choices: &[],
        bands: &[],
    }
}

impl Ready {
    const fn choosing(self, choices: &'static [(ChoiceId, usize)]) -> Ready {
        Ready { choices, ..self }
    }

    const fn bands(self, bands: &'static [EqBand]) -> Ready {
        Ready { bands, ..self }
    }

    /// The effect it makes.
    pub fn make(&self) -> Effect {
        let mut effect = Effect::new(EffectId(EffectId::FIRST), self.kind);
        for (choice, to) in self.choices {
            let _ = effect.choose_of(*choice, *to);
        }
        for (id, value) in self.values {
            if let Some(slot) = effect.value_slot(*id) {
                slot.write(*value);
            }
        }
        if let EffectKind::Eq(eq) = &mut effect.kind {
            eq.bands = self.bands.to_vec();
        }
        effect
    }
}

const fn band(what: BandType, hz: f64, gain_db: f64, q: f64) -> EqBand {
    EqBand {
        gain_db,
        q,
        ..EqBand::at(what, hz)
    }
}

const MIX: ParamId = Effect::MIX;

use EffectName as E;

/// All ready settings.
pub const READY: &[Ready] = &[
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

/// The ready settings of a kind, in the order they are offered.
pub fn ready_for(kind: EffectName) -> impl Iterator<Item = &'static Ready> {
    READY.iter().filter(move |r| r.kind == kind)
}
