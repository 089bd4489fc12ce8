//! What a sample plays: one of our own recordings, synthesized on the spot, or one the user brought, kept by its content.

use serde::{Deserialize, Serialize};

use crate::error::PatchError;

/// What a sample plays.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum Sound {
    /// One that comes with the application.
    Ready(ReadySound),
    /// One that was brought in.
    Own(OwnSound),
}

impl Default for Sound {
    fn default() -> Self {
        Sound::Ready(ReadySound::Twig)
    }
}

/// A recording that was brought in. The recording itself is kept beside the patch.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct OwnSound {
    /// SHA-256 of the WAV file it is kept as, 64 hexadecimal digits.
    pub content: String,
    /// Its name, 1 to 40 characters.
    pub name: String,
    /// Samples it has.
    pub frames: u32,
    /// Its sample rate in hertz.
    pub rate_hz: u32,
}

/// From this length on a recording is taken for one that goes on, in seconds: a strike has rung by then.
const GOES_ON_S: f64 = 2.0;

impl Sound {
    /// Whether it is a texture to be looped, not the attack of a sound.
    pub fn goes_on(&self) -> bool {
        match self {
            Sound::Ready(ready) => !ready.is_attack(),
            Sound::Own(own) => own.length_s() >= GOES_ON_S,
        }
    }

    /// What a recording is called.
    pub fn label(&self) -> &str {
        match self {
            Sound::Ready(ready) => ready.label(),
            Sound::Own(own) => &own.name,
        }
    }
}

/// Most samples of a recording: two minutes at 48 kHz.
pub const MAX_FRAMES: u32 = 120 * 48_000;
/// Sample rates taken, in hertz.
pub const RATES_HZ: (u32, u32) = (4_000, 192_000);

impl OwnSound {
    /// How long it is, in seconds.
    pub fn length_s(&self) -> f64 {
        f64::from(self.frames) / f64::from(self.rate_hz.max(1))
    }

    /// Checks what a file says of it.
    ///
    /// # Errors
    /// What is out of place, under the path given.
    pub fn check(&self, path: &str) -> Result<(), PatchError> {
        let hex = |c: char| c.is_ascii_digit() || ('a'..='f').contains(&c);
        if self.content.len() != 64 || !self.content.chars().all(hex) {
            return Err(PatchError::Shape {
                path: format!("{path}.content"),
                problem: "is no SHA-256 in 64 small hexadecimal digits".into(),
            });
        }
        let within = |name: &str, actual: u32, min: u32, max: u32| match actual {
            n if (min..=max).contains(&n) => Ok(()),
            _ => Err(PatchError::Range {
                path: format!("{path}.{name}"),
                min: min.into(),
                max: max.into(),
                actual: actual.into(),
            }),
        };
        within("frames", self.frames, 1, MAX_FRAMES)?;
        within("rate_hz", self.rate_hz, RATES_HZ.0, RATES_HZ.1)
    }
}

/// A recording that comes with the application.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs)] // each is described by its row of `ALL`
pub enum ReadySound {
    Twig,
    GlassTap,
    Pebble,
    Thump,
    WetLeaf,
    Breath,
    Latch,
    SeedPod,
    Drip,
    Pluck,
    BowScrape,
    CopperTick,
    RainOnGlass,
    NightWind,
    Crickets,
    BoilerHum,
    WaterPipes,
    LeafRustle,
    FarChoir,
    IceRing,
}

impl ReadySound {
    /// All of them: attacks, then textures.
    pub const ALL: [ReadySound; 20] = [
        ReadySound::Twig,
        ReadySound::GlassTap,
        ReadySound::Pebble,
        ReadySound::Thump,
        ReadySound::WetLeaf,
        ReadySound::Breath,
        ReadySound::Latch,
        ReadySound::SeedPod,
        ReadySound::Drip,
        ReadySound::Pluck,
        ReadySound::BowScrape,
        ReadySound::CopperTick,
        ReadySound::RainOnGlass,
        ReadySound::NightWind,
        ReadySound::Crickets,
        ReadySound::BoilerHum,
        ReadySound::WaterPipes,
        ReadySound::LeafRustle,
        ReadySound::FarChoir,
        ReadySound::IceRing,
    ];
    pub fn label(self) -> &'static str {
        match self {
            ReadySound::Twig => "Twig snap",
            ReadySound::GlassTap => "Glass tap",
            ReadySound::Pebble => "Pebble click",
            ReadySound::Thump => "Soft thump",
            ReadySound::WetLeaf => "Wet leaf",
            ReadySound::Breath => "Breath",
            ReadySound::Latch => "Gate latch",
            ReadySound::SeedPod => "Seed pod",
            ReadySound::Drip => "Drip",
            ReadySound::Pluck => "Wire pluck",
            ReadySound::BowScrape => "Bow scrape",
            ReadySound::CopperTick => "Copper tick",
            ReadySound::RainOnGlass => "Rain on glass",
            ReadySound::NightWind => "Night wind",
            ReadySound::Crickets => "Crickets",
            ReadySound::BoilerHum => "Boiler hum",
            ReadySound::WaterPipes => "Water pipes",
            ReadySound::LeafRustle => "Leaf rustle",
            ReadySound::FarChoir => "Far choir",
            ReadySound::IceRing => "Ice ring",
        }
    }

    /// Whether it is short, for the beginning of a sound; the others are textures to be looped.
    pub fn is_attack(self) -> bool {
        (self as usize) < (ReadySound::RainOnGlass as usize)
    }
}
