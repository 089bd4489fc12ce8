//! A recording and how it is played.

use crate::params::param::{Quantity as Q, When};
use crate::params::part::part;
use crate::params::section::SectionId as S;
use crate::parts::look::look;
use crate::parts::sound::Sound;

part! {
    /// A recording and how it is played. Places are shares of the recording's length.
    #[serde(default)]
    pub struct Sample: Unit "sample" in "kind.sample." {
        also {
            /// What is played.
            sound: Sound = Sound::default(),
        }
        choices {
            LOOPED looped: bool = false, "Play", Sample, When::Always, ["Once", "Loop"],
                "Once from start to end, or round and round inside the loop.";
            REVERSE reverse: bool = false, "Direction", Sample, When::Always, ["Forward", "Reverse"],
                "Which way it is played.";
            KEY_FOLLOW key_follow: bool = true, "Pitch", Sample, When::Always, ["Fixed", "By key"],
                "The same pitch on every key, or the key's.";
        }
        values {
            START start: f64 = 0.0, 0.0..1.0, look("Start", Q::Share, S::Sample).step(0.01, 0.001).decimals(1).onset(),
                "Where playing begins.";
            END end: f64 = 1.0, 0.0..1.0, look("End", Q::Share, S::Sample).step(0.01, 0.001).decimals(1).still(),
                "Where playing ends.";
            LOOP_START loop_start: f64 = 0.25, 0.0..1.0, look("Loop start", Q::Share, S::Sample).step(0.01, 0.001).decimals(1).when(When::Chosen(Sample::LOOPED, &[true as u8])),
                "Where the loop begins.";
            LOOP_END loop_end: f64 = 1.0, 0.0..1.0, look("Loop end", Q::Share, S::Sample).step(0.01, 0.001).decimals(1).when(When::Chosen(Sample::LOOPED, &[true as u8])),
                "Where the loop goes back to its start.";
            CROSSFADE_S crossfade_s: f64 = 0.05, 0.0..2.0, look("Crossfade", Q::Seconds, S::Sample).power(2.0).decimals(2).still().when(When::Chosen(Sample::LOOPED, &[true as u8])),
                "Time over which the loop's end is faded into what comes before its start, so that the seam is not heard.";
            ROOT_KEY root_key: u8 = 60, 0..127, look("Root key", Q::Note, S::Sample).step(1.0, 1.0).still().when(When::Chosen(Sample::KEY_FOLLOW, &[true as u8])),
                "The key at which it sounds as recorded.";
            SEMITONES semitones: f64 = 0.0, -48.0..48.0, look("Transpose", Q::Semitones, S::Sample).step(1.0, 0.1).decimals(2).unmoved(),
                "Higher or lower than recorded, in semitones.";
        }
    }
}

/// Crossfade of what arrives as a loop, in seconds.
const LOOP_FADE_S: f64 = 0.25;

impl Sample {
    /// Plays another recording. What goes on arrives as a loop that is not heard to begin again.
    pub fn take(&mut self, sound: &Sound) {
        if *sound == self.sound {
            return;
        }
        self.sound = sound.clone();
        if sound.goes_on() {
            self.looped = true;
            if self.crossfade_s == 0.0 {
                self.crossfade_s = LOOP_FADE_S;
            }
        }
    }
}
