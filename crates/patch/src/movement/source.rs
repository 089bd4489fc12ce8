//! One source: its name, kind and clock.

use super::kinds::{Chance, SourceKind, SourceName};
use crate::ids::SourceId;
use crate::params::choice::options;
use crate::params::param::{ChoiceId, Param, ParamId, Quantity as Q, When, when};
use crate::params::part::{Number, Part, part};
use crate::params::section::SectionId as S;
use crate::parts::look::look;

options! {
    /// For whom a source runs.
    pub enum Scope {
        /// Each note has its own.
        #[default]
        Note,
        /// All notes share one.
        Shared,
    }
}

options! {
    /// What a source's rate is counted in.
    pub enum Clock {
        /// Times a second.
        #[default]
        Hertz,
        /// Beats of the tempo.
        Tempo,
    }
}

options! {
    /// When a source begins, and whether it ends.
    pub enum Runs {
        /// With every note.
        #[default]
        Note,
        /// It runs on, whatever is played.
        Free,
        /// With every note, and only once: then it rests where it has come to.
        Once,
    }
}

options! {
    /// What a source's delay is counted in.
    pub enum DelayBy {
        /// Seconds.
        #[default]
        Seconds,
        /// Beats of the tempo.
        Tempo,
    }
}

part! {
    /// When a source begins and how fast it runs.
    #[serde(default)]
    pub struct Timing: Source "timing" in "timing." {
        choices {
            CLOCK clock: Clock = Clock::Hertz, "Rate in", Time, When::Always, ["Hertz", "Tempo"],
                "Whether it goes round so many times a second, or in so many beats of the tempo.";
            RUNS runs: Runs = Runs::Note, "Starts", Time, When::Always, ["Each note", "Free", "Once"],
                "With every note; running on, whatever is played; or with every note but only once, and then it rests.";
            DELAY_BY delay_by: DelayBy = DelayBy::Seconds, "Delay in", Onset, When::Always, ["Seconds", "Tempo"],
                "Whether its delay is so many seconds, or so many beats of the tempo.";
        }
        values {
            RATE_HZ rate_hz: f64 = 1.0, 0.005..200.0, look("Rate", Q::Rate, S::Time).log().decimals(3).when(when!(Timing::CLOCK is Clock::{Hertz})),
                "How often it goes round in a second; a period such as 0.5 s says the same.";
            CYCLE_BEATS cycle_beats: f64 = 1.0, 0.03125..128.0, look("Length", Q::Beats, S::Time).log().when(when!(Timing::CLOCK is Clock::{Tempo})),
                "How long it takes to go round, as a note length such as 1/8 dotted, or in bars.";
            START_TURNS start_turns: f64 = 0.0, 0.0..1.0, look("Start at", Q::Share, S::Time).step(0.05, 0.01).decimals(1),
                "Where in its cycle it begins.";
            DELAY_S delay_s: f64 = 0.0, 0.0..20.0, look("Delay", Q::Seconds, S::Onset).power(3.0).decimals(2).still().when(when!(Timing::DELAY_BY is DelayBy::{Seconds})),
                "Time from the press in which it moves nothing yet.";
            FADE_S fade_s: f64 = 0.0, 0.0..20.0, look("Fade in", Q::Seconds, S::Onset).power(3.0).decimals(2).still(),
                "Time after the delay in which it comes in.";
            RISE_S rise_s: f64 = 0.0, 0.0..10.0, look("Rise", Q::Seconds, S::Onset).power(3.0).decimals(2).still(),
                "Time in which it follows upward; 0 is at once.";
            FALL_S fall_s: f64 = 0.0, 0.0..10.0, look("Fall", Q::Seconds, S::Onset).power(3.0).decimals(2).still(),
                "Time in which it follows downward; 0 is at once.";
            DELAY_BEATS delay_beats: f64 = 0.0, 0.0..64.0, look("Delay", Q::Beats, S::Onset).power(3.0).still().when(when!(Timing::DELAY_BY is DelayBy::{Tempo})),
                "Beats from the press in which it moves nothing yet.";
        }
    }
}

part! {
    /// A source of movement.
    pub struct Source: Source "source" in "" {
        also {
            /// Stable number, from 1001 on.
            id: SourceId = SourceId(SourceId::FIRST),
            /// The user's name for it, 1 to 40 characters.
            name: String = String::new(),
            /// Whether it moves anything.
            on: bool = true,
            /// What it is.
            kind: SourceKind = SourceName::Lfo.make(),
        }
        parts {
            /// When it begins and how fast it runs.
            #[serde(default)]
            timing: Timing,
        }
        choices {
            #[serde(default)]
            SCOPE scope: Scope = Scope::Note, "Runs for", Onset, When::Always, ["Each note", "All notes"],
                "Whether every note has one of its own, or all notes share one.";
        }
    }
}

/// Rise and fall of a new source that jumps, in seconds: what it moves does not click.
const GENTLE_S: f64 = 0.003;

impl Timing {
    /// Time from the press in which it moves nothing yet, at a tempo, in seconds.
    pub fn delay_at_s(&self, tempo_bpm: f64) -> f64 {
        match self.delay_by {
            DelayBy::Seconds => self.delay_s,
            DelayBy::Tempo => self.delay_beats * 60.0 / tempo_bpm,
        }
    }
}

impl Source {
    /// A new source of a kind.
    pub fn new(id: SourceId, kind: SourceName) -> Self {
        let mut source = Source {
            id,
            name: format!("{} {}", kind.label(), id.0 + 1 - SourceId::FIRST),
            kind: kind.make(),
            ..Source::default()
        };
        if matches!(kind, SourceName::Steps | SourceName::Random) {
            (source.timing.rise_s, source.timing.fall_s) = (GENTLE_S, GENTLE_S);
        }
        if kind == SourceName::Follower {
            (source.timing.rise_s, source.timing.fall_s) = (0.01, 0.1);
        }
        if kind == SourceName::Macro {
            source.scope = Scope::Shared;
        }
        source
    }

    /// A value, of whatever part of it.
    pub fn value(&self, id: ParamId) -> Option<f64> {
        self.timing.get(id).or_else(|| match &self.kind {
            SourceKind::Envelope(envelope) => envelope.get(id),
            kind => kind.part()?.get(id),
        })
    }

    /// The place of a value, for writing.
    pub fn value_slot(&mut self, id: ParamId) -> Option<&mut dyn Number> {
        if self.timing.get(id).is_some() {
            return self.timing.slot(id);
        }
        match &mut self.kind {
            SourceKind::Envelope(envelope) => envelope.slot(id),
            kind => kind.part_mut()?.slot(id),
        }
    }

    /// What it has chosen; none if it has no such choice.
    pub fn chosen_of(&self, id: ChoiceId) -> Option<usize> {
        let own = || self.kind.part()?.chosen(id);
        self.chosen(id).or_else(own)
    }

    /// Chooses; none if it has no such choice or option.
    pub fn choose_of(&mut self, id: ChoiceId, to: usize) -> Option<()> {
        if self.chosen(id).is_some() {
            return self.choose(id, to);
        }
        self.kind.part_mut()?.choose(id, to)
    }

    /// Whether a value or choice has any bearing on it now.
    pub fn is(&self, when: When) -> bool {
        when.chosen(|id| self.chosen_of(id)) == Some(true)
    }

    /// The sections of its sheet.
    pub fn sheet(&self) -> &'static [S] {
        match &self.kind {
            SourceKind::Lfo(_) => &[S::Time, S::Shape, S::Onset],
            SourceKind::Steps(_) => &[S::Time, S::Steps, S::Onset],
            SourceKind::Envelope(_) => &[S::Envelope],
            SourceKind::Random(random) if random.chance == Chance::Note => &[S::Random, S::Onset],
            SourceKind::Random(_) => &[S::Random, S::Time, S::Onset],
            SourceKind::Played(_) => &[S::Played, S::Onset],
            SourceKind::Follower(_) => &[S::Follower, S::Onset],
            SourceKind::Macro(_) => &[S::Macro],
        }
    }

    /// Whether it goes round.
    pub fn has_clock(&self) -> bool {
        self.sheet().contains(&S::Time)
    }

    /// How often it goes round in a second, at a tempo.
    pub fn rate_hz(&self, tempo_bpm: f64) -> f64 {
        match self.timing.clock {
            Clock::Hertz => self.timing.rate_hz,
            Clock::Tempo => tempo_bpm / 60.0 / self.timing.cycle_beats,
        }
    }
}

/// The parameters of a source of a kind that the engine knows, in the order of their positions.
pub fn source_params(kind: SourceName) -> impl Iterator<Item = &'static Param> {
    let own = kind.rows().iter().flat_map(|rows| rows.params);
    Timing::ROWS.params.iter().chain(own)
}

/// Position of a parameter among those of its source, as [`source_params`] has them.
pub const fn source_position(id: ParamId) -> usize {
    match id.part {
        crate::params::param::PartId::Timing => id.row as usize,
        _ => Timing::ROWS.params.len() + id.row as usize,
    }
}
