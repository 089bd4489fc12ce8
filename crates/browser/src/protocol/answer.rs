//! What comes back.

use super::found::{
    DifferenceView, EffectKindView, Hit, KindView, ReadyPhraseView, Target, WordView,
};
use crate::described::PictureWords;
use crate::explain::{BandLevelView, EffectLevelView, ExplanationView, LevelView, PartialView};
use crate::gestures::Timed;
use crate::inspect::{ArrangementView, InspectView, ReadyView, SoundChoice, WaveChoice};
use crate::rules::Rules;
use crate::view::{DocumentView, PieceView, SpreadView};
use serde::Serialize;
use zolvik_edit::history::NewSteps;
use zolvik_edit::offers::Offers;
use zolvik_lab::spectrum::Span;
use zolvik_patch::document::{LinkId, RouteId, SourceId, UnitId};
use zolvik_patch::param::ParamId;
use zolvik_play::inlet::{Learnt, Meant};

/// What comes back.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case", tag = "is")]
pub enum Answer {
    /// The document after the question. Beside it: the compiled program.
    Document {
        /// All the screen shows of it.
        view: Box<DocumentView>,
        /// The units an edit would have selected; none for those that were.
        select: Vec<UnitId>,
        /// Something to be told beside it.
        said: Option<String>,
    },
    /// The document was changed, and what is seen of it is not asked for yet. Beside it: the compiled program.
    Changed {
        /// What a hand has hold of, and what goes with it.
        pieces: Vec<PieceView>,
        /// As [`DocumentView::banks`].
        banks: Vec<String>,
    },
    /// Nothing is other than it was.
    Unchanged,
    /// How far each name is from what was typed: 0 if it is just so, none where it does not fit.
    Ranked {
        /// In the order of the names.
        far: Vec<Option<u32>>,
    },
    /// How far a value differs among several; none where it is the same.
    Spread {
        /// From which to which.
        spread: Option<SpreadView>,
        /// How many they are.
        count: usize,
    },
    /// How loud a file would be.
    Level {
        /// Its levels.
        level: LevelView,
        /// Of what, such as `the note at 4 ×`.
        of: String,
    },
    /// Part of the frequencies.
    Span { span: Span },
    /// Which of those that were asked about fit.
    Fits { fits: Vec<bool> },
    /// What is new in the steps of undo.
    Steps {
        /// What.
        new: NewSteps,
        /// The step that was made last.
        made: u64,
    },
    /// The nearest valid patch.
    Mended {
        /// JSON of the patch.
        text: String,
        /// What was left out, and why, in words.
        left_out: Vec<String>,
    },
    /// A text that was asked for.
    Text {
        /// JSON.
        text: String,
    },
    /// Words, one for each row.
    Words {
        /// In the order of the rows.
        words: Vec<String>,
    },
    /// What a player does.
    Gesture {
        /// In order of time.
        messages: Vec<Timed>,
    },
    /// What a message means, in order.
    Meant {
        /// What is to be done.
        meant: Vec<Meant>,
        /// Keys that are held by any way in, from low to high.
        held: Vec<u8>,
        /// Whether a sustain pedal holds.
        pedal: bool,
    },
    /// What controllers have learnt.
    Learnt {
        /// All of it.
        list: Vec<Learnt>,
        /// Controllers that are to be forgotten.
        gone: Vec<u8>,
    },
    /// Phrases to choose from.
    Phrases {
        /// Those of the application.
        list: Vec<ReadyPhraseView>,
    },
    /// A key.
    Key {
        /// MIDI key.
        key: u8,
    },
    /// Velocities, 1 to 127.
    Velocities {
        /// As they were typed.
        list: Vec<u8>,
    },
    /// What is different in the articulations.
    Differences {
        /// Names of the base and of all articulations.
        names: Vec<String>,
        /// Each with its value in the base and in every articulation.
        rows: Vec<DifferenceView>,
    },
    /// A render has begun.
    Renders {
        /// Rate in hertz: lower than that of what is heard where that would be too slow.
        rate_hz: f64,
        /// How long the whole will be.
        length_s: f64,
    },
    /// A slice was rendered. Beside it: a piece for the one who draws.
    Rendered {
        /// Whether there is more to come.
        more: bool,
        /// At the end, levels before and after each effect.
        effects: Vec<EffectLevelView>,
    },
    /// A seed was tried. Beside the last: the lowest and highest places of each source that chance touches, `f32`, in the columns of a fine picture.
    Chance {
        /// Whether there are more.
        more: bool,
        /// Those sources.
        chancy: Vec<SourceId>,
    },
    /// A piece was drawn. If that was wanted, beside it: the spectrogram as far as it is known, one byte a point, rows from the lowest frequency; and how
    /// many columns of each row are known, in 16 bits each.
    Inked {
        /// Columns of the picture.
        columns: usize,
        /// Rows of the spectrogram.
        rows: usize,
        /// How many columns have begun.
        begun: usize,
    },
    /// A picture is whole. Beside it: the spectrogram, one byte a point, rows from the lowest frequency; the loudness of each column and the
    /// curves of all units one after the other, `f32`; then those of movement one after the other: where sources stand, where on its bar
    /// what each link moves lies, and how many times as strong as by itself each moved send is.
    Unfolded {
        /// Columns of all pictures.
        columns: usize,
        /// Rows of the spectrogram.
        rows: usize,
        /// Units in the order of the curves.
        units: Vec<UnitId>,
        /// Sources in the order of their curves.
        sources: Vec<SourceId>,
        /// Links in the order of their curves.
        links: Vec<LinkId>,
        /// Sends in the order of their curves.
        sends: Vec<RouteId>,
        /// The sound by bands, and what the effect that is looked at changed there; in a coarse picture none.
        bands: Vec<BandLevelView>,
        /// By how much the effect that is looked at makes the sound softer or louder, at each column, in decibels; empty where it does not.
        gain_db: Vec<f64>,
        /// Levels of the note.
        level: LevelView,
        /// The picture in words; of a coarse one none.
        told: PictureWords,
    },
    /// A spectrum. Beside it: its rows and where they stand between left (-1) and right (1), `f32`.
    Spectrum {
        /// Its strongest partials.
        partials: Vec<PartialView>,
        /// What makes them, by theory.
        explanation: ExplanationView,
        /// The effect that is looked at: rows before it, in dB, as those beside the answer; empty if none is.
        before_db: Vec<f32>,
        /// Gain of the filter asked for, in dB, evenly over the rows' frequencies; empty if there is none.
        response: Vec<f64>,
    },
    /// What stands at a point of a picture, in words.
    Pointed {
        /// Since the press.
        time: String,
        /// Frequency of the partial there, or of the point itself, with note and cents.
        pitch: String,
        /// How strong it is.
        level: String,
        /// What makes it; empty if theory knows of nothing.
        made_by: String,
        /// The operator that causes it.
        by: Option<UnitId>,
        /// Frequency of the partial there, in hertz; none where no partial stands.
        partial_hz: Option<f64>,
    },
    /// What the inspector shows of a unit beside its values.
    Inspected {
        /// All of it.
        view: Box<InspectView>,
    },
    /// What a line would make.
    Line {
        /// Each strip's words, and what they were understood as.
        strips: Vec<Vec<WordView>>,
        /// Why it was not understood.
        problem: Option<String>,
    },
    /// What was found.
    Found {
        /// Best first.
        hits: Vec<Hit>,
    },
    /// What is offered.
    Offers {
        /// Under their titles.
        groups: Vec<Offers>,
    },
    /// How far a state is turned down.
    Match {
        /// In decibels.
        lowered_db: f64,
        /// As a factor.
        gain: f64,
        /// The factor that makes it just as loud, turned up or down.
        evened: f64,
    },
    /// Limits and laws, and what each parameter does.
    Rules {
        /// Limits and laws.
        rules: Rules,
        /// Each parameter with its sentence.
        helps: Vec<(ParamId, &'static str)>,
        /// The kinds of sources.
        sources: Vec<KindView>,
        /// The kinds of effects.
        effects: Vec<EffectKindView>,
    },
    /// All waves there are, family by family.
    Waves {
        /// In the order they are stepped through.
        waves: Vec<WaveChoice>,
    },
    /// Recordings to choose from.
    Sounds {
        /// Attacks, textures, then those of the patch.
        list: Vec<SoundChoice>,
    },
    /// The waveform of a recording. Beside it: highest and lowest samples of its stretches in turn, `f32`.
    Waveform {
        /// Its length in seconds.
        length_s: f64,
    },
    /// Values that may be moved.
    Targets {
        /// Strip by strip.
        list: Vec<Target>,
    },
    /// Drawn cycles to choose from.
    Shapes {
        /// Each as a small picture.
        list: Vec<ReadyView>,
    },
    /// Envelopes to choose from.
    Envelopes {
        /// Each as a small picture.
        list: Vec<ReadyView>,
    },
    /// Arrangements to choose from.
    Arrangements {
        /// Each for the operators there are.
        list: Vec<ArrangementView>,
        /// How many operators there are.
        operators: usize,
    },
    /// Something is ready. Beside it: its bytes.
    Ready {
        /// A fitting file name.
        file_name: String,
    },
    /// Nothing was changed; this is why.
    Refused {
        /// In words, with what to do.
        why: String,
    },
}
