//! The sections of the sheets on the screen.

/// A part of a sheet on the screen.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
#[cfg_attr(feature = "types", derive(serde::Serialize, ts_rs::TS))]
#[cfg_attr(not(feature = "types"), derive(serde::Serialize))]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs)] // each has its title
pub enum SectionId {
    Whole,
    Tuning,
    Keys,
    Unison,
    Audition,
    Pitch,
    Wave,
    Cycle,
    Harmonics,
    Noise,
    Sample,
    Filter,
    Shaper,
    Level,
    Copies,
    Route,
    Group,
    Envelope,
    Response,
    Time,
    Shape,
    Steps,
    Random,
    Played,
    Follower,
    Macro,
    Onset,
    Link,
    Phrase,
    Beat,
    Arpeggio,
    Chain,
    Effect,
    Band,
    Bands,
    Mix,
}

impl SectionId {
    /// Whether it is folded up while all in it is as it was at first.
    pub fn folds(self) -> bool {
        matches!(
            self,
            SectionId::Cycle
                | SectionId::Harmonics
                | SectionId::Copies
                | SectionId::Tuning
                | SectionId::Onset
                | SectionId::Arpeggio
        )
    }

    /// Title and what stands beside it.
    pub fn title(self) -> (&'static str, &'static str) {
        match self {
            SectionId::Whole => ("Whole patch", ""),
            SectionId::Tuning => ("Tuning", "all strips"),
            SectionId::Keys => ("Keys", ""),
            SectionId::Unison => ("Unison", "copies of every note"),
            SectionId::Audition => ("Note", ""),
            SectionId::Pitch => ("Pitch", ""),
            SectionId::Wave => ("Wave", ""),
            SectionId::Cycle => ("Cycle", "lean, fold, start"),
            SectionId::Harmonics => ("Harmonics", "spread, tilt, thin out"),
            SectionId::Noise => ("Noise", ""),
            SectionId::Sample => ("Sample", ""),
            SectionId::Filter => ("Filter", ""),
            SectionId::Shaper => ("Shaper", ""),
            SectionId::Level => ("Level", ""),
            SectionId::Copies => ("Unison voices", "in addition to the patch's unison"),
            SectionId::Route => ("Routes", "index, level"),
            SectionId::Group => ("Group", ""),
            SectionId::Envelope => ("Envelope", ""),
            SectionId::Response => ("Response", ""),
            SectionId::Time => ("Time", ""),
            SectionId::Shape => ("Shape", "one cycle"),
            SectionId::Steps => ("Steps", ""),
            SectionId::Random => ("Random", ""),
            SectionId::Played => ("Performance", ""),
            SectionId::Follower => ("Follows", ""),
            SectionId::Macro => ("Macro", ""),
            SectionId::Onset => ("Onset and smoothing", ""),
            SectionId::Link => ("Link", ""),
            SectionId::Phrase => ("Phrase", ""),
            SectionId::Beat => ("Beat", ""),
            SectionId::Chain => ("Chain", ""),
            SectionId::Effect => ("Effect", ""),
            SectionId::Band => ("Band", ""),
            SectionId::Bands => ("Bands", ""),
            SectionId::Mix => ("Mix", "in, out and how much of it"),
            SectionId::Arpeggio => ("Arpeggio", "held keys, one after the other"),
        }
    }
}
