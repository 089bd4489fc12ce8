//! What the audio thread tells the page of its blocks: numbers in memory both can read, each with its place there. The script of the audio
//! thread and the page get the places from here, as generated code.

use zolvik_patch::document::MAX_SOURCES;

/// Frames of what was played last that are kept for the page to draw.
pub const SCOPE_FRAMES: usize = 1024;

/// Places, in words of 32 bits. Up to [`Shared::MeterRight`] the page sees the highest since it last looked, of [`Shared::Guard`] the lowest, of the
/// others what holds now.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[repr(usize)]
pub enum Shared {
    /// Highest absolute sample, left.
    PeakLeft,
    /// Right.
    PeakRight,
    /// Where that stands on the meter, 0 to 1.
    MeterLeft,
    /// Right.
    MeterRight,
    /// Gain of the safety limiter; 1 while it does nothing.
    Guard,
    /// Notes that sound.
    Voices,
    /// Share of the time there is that the sound takes.
    Load,
    /// Notes let go since the start because the machine could not keep up.
    LetGo,
    /// Quality the sound was lowered to; 0 if it was not.
    Lowered,
    /// Blocks since the start that took longer than they last.
    Late,
    /// Where in what is played it is, in beats; below zero while nothing is.
    PlaceBeats,
    /// Seconds from the last key struck in silence to its sound.
    KeyToSoundS,
    /// The first of the places of sources of movement, 0 to 1 each.
    Sources,
    /// Where in the kept frames the next is written, told by the script.
    Written = Shared::Sources as usize + MAX_SOURCES,
    /// The first of the kept frames.
    Scope,
}

impl Shared {
    /// Each with its name in the page.
    pub const ALL: [(Shared, &str); 15] = [
        (Shared::PeakLeft, "peakLeft"),
        (Shared::PeakRight, "peakRight"),
        (Shared::MeterLeft, "meterLeft"),
        (Shared::MeterRight, "meterRight"),
        (Shared::Guard, "guard"),
        (Shared::Voices, "voices"),
        (Shared::Load, "load"),
        (Shared::LetGo, "letGo"),
        (Shared::Lowered, "lowered"),
        (Shared::Late, "late"),
        (Shared::PlaceBeats, "placeBeats"),
        (Shared::KeyToSoundS, "keyToSoundS"),
        (Shared::Sources, "sources"),
        (Shared::Written, "written"),
        (Shared::Scope, "scope"),
    ];

    /// How many numbers the module tells of each block.
    pub const TOLD: usize = Shared::Written as usize;

    /// The places as the page's code has them.
    pub fn typescript() -> String {
        let places = Self::ALL.map(|(place, name)| format!("  {name}: {},\n", place as usize));
        format!(
            "// Generated from Rust (`browser/src/shared.rs`). Do not edit.\n/** Places in the memory the audio thread and the page share, in words of 32 \
             bits. */\nexport const SHARED = {{\n{}  scopeFrames: {SCOPE_FRAMES},\n}} as const\n",
            places.concat()
        )
    }
}
