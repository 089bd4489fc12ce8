//! What holds for every note of a patch, and the note it is tried with.

use crate::kinds::operator::Start;
use crate::params::choice::{Options, options};
use crate::params::param::{Quantity as Q, When};
use crate::params::part::part;
use crate::params::section::SectionId as S;
use crate::parts::look::look;

options! {
    /// How keys become notes.
    pub enum Mode {
        /// Every key is a note of its own.
        #[default]
        Poly,
        /// One note; every key starts its envelopes anew.
        Mono,
        /// One note; keys that overlap only change its pitch.
        Legato,
    }
}

options! {
    /// Which of several held keys sounds when only one can.
    pub enum Priority {
        /// The one pressed last.
        #[default]
        Last,
        /// The lowest.
        Lowest,
        /// The highest.
        Highest,
    }
}

options! {
    /// When pitches glide.
    pub enum Glide {
        /// From every note to the next.
        Always,
        /// Only while another key is held.
        #[default]
        Overlap,
    }
}

options! {
    /// How many times the sample rate the sound is computed at. More costs as much more and keeps partials beyond
    /// half the rate from folding back.
    pub enum Quality {
        /// At as many times the rate as each key needs.
        #[serde(rename = "auto")]
        Auto,
        /// At the sample rate.
        #[default]
        #[serde(rename = "1x")]
        X1,
        /// At twice the rate.
        #[serde(rename = "2x")]
        X2,
        /// At four times the rate.
        #[serde(rename = "4x")]
        X4,
        /// At eight times the rate.
        #[serde(rename = "8x")]
        X8,
    }
}

impl Options for Option<Quality> {
    const ALL: &'static [Self] = &[
        None,
        Some(Quality::Auto),
        Some(Quality::X1),
        Some(Quality::X2),
        Some(Quality::X4),
        Some(Quality::X8),
    ];
}

part! {
    /// What holds for every note of the patch.
    #[serde(default)]
    pub struct VoiceSettings: Patch "voice" in "voice." {
        parts {
            /// Copies of every note.
            unison: Unison,
        }
        choices {
            QUALITY quality: Quality = Quality::X1, "Playing", Whole, When::Always, ["As needed", "1 ×", "2 ×", "4 ×", "8 ×"],
                "Computed at so many times the rate while played: cleaner, and as much dearer. As needed: more while a key sounds whose sidebands would fold back.";
            #[serde(skip_serializing_if = "Option::is_none")]
            RENDER_QUALITY render_quality: Option<Quality> = None, "Rendering", Whole, When::Always, ["As played", "As needed", "1 ×", "2 ×", "4 ×", "8 ×"],
                "Computed at so many times the rate when written to a file. As needed is 4 × there.";
            MODE mode: Mode = Mode::Poly, "Notes", Keys, When::Always, ["Poly", "Mono", "Legato"],
                "Every key a note; one note struck anew by every key; or one note that overlapping keys only retune.";
            PRIORITY priority: Priority = Priority::Last, "Priority", Keys, When::Always, ["Last", "Lowest", "Highest"],
                "Which of several held keys sounds in mono and legato.";
            GLIDE glide: Glide = Glide::Overlap, "Glides", Keys, When::Always, ["Always", "On overlap"],
                "From every note to the next, or only while another key is held.";
        }
        values {
            TRIM_DB trim_db: f64 = 0.0, -36.0..24.0, look("Trim", Q::Gain, S::Whole).step(0.5, 0.1).decimals(1).within(0.02).shared(),
                "Level of the whole patch.";
            #[serde(skip_serializing_if = "is_zero")]
            TUNE_CENTS tune_cents: f64 = 0.0, -2400.0..2400.0, look("Tune", Q::Cents, S::Tuning).step(10.0, 1.0).decimals(1),
                "Pitch of everything, in cents.";
            #[serde(skip_serializing_if = "is_zero")]
            CARRIERS_CENTS carriers_cents: f64 = 0.0, -2400.0..2400.0, look("Carriers", Q::Cents, S::Tuning).step(10.0, 1.0).decimals(1),
                "Pitch of all operators that are heard themselves, in cents.";
            #[serde(skip_serializing_if = "is_zero")]
            MODULATORS_CENTS modulators_cents: f64 = 0.0, -2400.0..2400.0, look("Modulators", Q::Cents, S::Tuning).step(10.0, 1.0).decimals(1),
                "Pitch of all operators that only move others, in cents: moved, it changes the sound, not the note.";
            POLYPHONY polyphony: u8 = 16, 1..32, look("Polyphony", Q::Count, S::Whole).step(1.0, 1.0).still(),
                "Notes that sound at once.";
            DRIFT_CENTS drift_cents: f64 = 0.0, 0.0..50.0, look("Drift", Q::Cents, S::Whole).power(2.0).step(1.0, 0.1).decimals(1).shared(),
                "How far each operator's pitch wanders slowly by itself.";
            LONGEST_RING_S longest_ring_s: f64 = 30.0, 0.05..30.0, look("Longest tail", Q::Seconds, S::Whole).power(2.0).decimals(2).still(),
                "How long a note may ring on in filters and combs after all that feeds them has ended; by itself it ends 80 dB below its peak.";
            SEED seed: u8 = 1, 0..255, look("Seed", Q::Count, S::Whole).step(1.0, 1.0).still(),
                "What chance follows: the same seed gives the same sound.";
            GLIDE_S glide_s: f64 = 0.0, 0.0..10.0, look("Glide", Q::Seconds, S::Keys).power(3.0).decimals(2).shared(),
                "Time from one pitch to the next.";
            BEND_SEMITONES bend_semitones: f64 = 2.0, 0.0..24.0, look("Bend range", Q::Semitones, S::Keys).step(1.0, 0.1).decimals(1).unmoved(),
                "How far the bend wheel reaches either way.";
        }
    }
}

part! {
    /// Copies of every note, a little apart.
    #[serde(default)]
    pub struct Unison: Patch "unison" in "voice.unison." {
        choices {
            START start: Start = Start::Random, "Phase", Unison, When::Always, ["Same", "Random", "Free"],
                "Where in their cycles the copies begin: all alike for a hit that is always the same, by chance for width, or running on.";
        }
        values {
            COPIES copies: u8 = 1, 1..16, look("Unison voices", Q::Count, S::Unison).step(1.0, 1.0).still(),
                "How many times every note sounds at once.";
            DETUNE_CENTS detune_cents: f64 = 12.0, 0.0..200.0, look("Detune", Q::Cents, S::Unison).power(2.0).step(1.0, 0.1).decimals(1).shared(),
                "From the middle to the outermost copy.";
            SPREAD spread: f64 = 0.5, 0.0..1.0, look("Spread", Q::Share, S::Unison).step(0.05, 0.01).shared(),
                "How far the copies stand apart between left and right.";
            BLEND blend: f64 = 1.0, 0.0..1.0, look("Blend", Q::Share, S::Unison).step(0.05, 0.01).shared(),
                "Level of the outer copies beside the middle.";
        }
    }
}

part! {
    /// With which note the patch is tried and drawn.
    pub struct Audition: Patch "audition" in "audition." {
        values {
            NOTE note: u8 = 57, 0..127, look("Note", Q::Note, S::Audition).step(1.0, 1.0).still(),
                "The note everything on the screen is drawn for.";
            VELOCITY velocity: u8 = 96, 1..127, look("Velocity", Q::Count, S::Audition).step(1.0, 1.0).still(),
                "How hard the auditioned note is struck.";
            HOLD_S hold_s: f64 = 1.5, 0.02..16.0, look("Hold", Q::Seconds, S::Audition).power(3.0).decimals(2).still(),
                "How long the auditioned note is held.";
            WINDOW_S window_s: f64 = 3.0, 0.005..20.0, look("Shown", Q::Seconds, S::Audition).power(3.0).decimals(2).still(),
                "How much of the note's life the drawing spans, in seconds.";
            #[serde(default = "tempo_default")]
            TEMPO_BPM tempo_bpm: f64 = 120.0, 20.0..300.0, look("Tempo", Q::Tempo, S::Audition).step(1.0, 0.1).decimals(1).still(),
                "Beats a minute, for envelopes that are given in beats.";
            #[serde(default)]
            WHEEL wheel: u8 = 0, 0..127, look("Wheel", Q::Count, S::Audition).step(1.0, 1.0).still(),
                "Where the wheel stands while the auditioned note is drawn, played and rendered.";
            #[serde(default)]
            PRESSURE pressure: u8 = 0, 0..127, look("Pressure", Q::Count, S::Audition).step(1.0, 1.0).still(),
                "How hard the keys are pressed while the auditioned note is drawn and rendered.";
            #[serde(default)]
            BEND bend: f64 = 0.0, -1.0..1.0, look("Bend", Q::Share, S::Audition).step(0.05, 0.01).still(),
                "Where the pitch bend stands while the auditioned note is drawn and rendered; 100% is as far up as the wheel goes.";
            #[serde(default = "expression_default")]
            EXPRESSION expression: u8 = 127, 0..127, look("Expression", Q::Count, S::Audition).step(1.0, 1.0).still(),
                "Where the expression pedal stands while the auditioned note is drawn and rendered.";
            #[serde(default)]
            PEDAL pedal: u8 = 0, 0..127, look("Pedal", Q::Count, S::Audition).step(1.0, 1.0).still(),
                "How far the sustain pedal is down, for what it moves, while the auditioned note is drawn and rendered; the note ends by its hold.";
            #[serde(default = "middle")]
            TIMBRE timbre: f64 = 0.5, 0.0..1.0, look("Slide", Q::Share, S::Audition).step(0.05, 0.01).still(),
                "How far the key is slid while the auditioned note is drawn and rendered; the middle is rest.";
            #[serde(default = "middle")]
            LIFT lift: f64 = 0.5, 0.0..1.0, look("Lift", Q::Share, S::Audition).step(0.05, 0.01).still(),
                "How fast the auditioned note is let go.";
        }
    }
}

fn tempo_default() -> f64 {
    Audition::default().tempo_bpm
}

fn expression_default() -> u8 {
    Audition::default().expression
}

fn middle() -> f64 {
    0.5
}

fn is_zero(value: &f64) -> bool {
    *value == 0.0
}
