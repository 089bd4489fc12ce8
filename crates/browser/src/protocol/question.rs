//! What the page asks of its document.

use serde::Deserialize;
use zolvik_edit::Edit;
use zolvik_edit::history::KeptSteps;
use zolvik_edit::offers::OfferKind;
use zolvik_lab::spectrum::Span;
use zolvik_patch::address::Address;
use zolvik_patch::document::{ChainId, EffectId, LinkId, SourceId, UnitId};
use zolvik_patch::finish::EffectName;
use zolvik_patch::hearing::Listening;
use zolvik_play::inlet::{Moved, Touch};

use crate::gestures::Gesture;
use crate::view::Piece;

zolvik_patch::kind_read_in_field!(Question, "ask");

/// What the page asks.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case", remote = "Self")]
#[cfg_attr(feature = "types", ts(tag = "ask"))]
pub enum Question {
    /// Starts with an empty patch.
    New,
    /// What a message from a keyboard or controller means.
    Take {
        /// The way it came in: the screen, the computer's keys, a keyboard.
        way: String,
        /// Its bytes.
        bytes: Vec<u8>,
        /// When it came, in milliseconds.
        time_ms: f64,
        /// How the keyboard is touched.
        touch: Touch,
    },
    /// Ways in go, or their window has the hand no more: what they hold is let go. Without any, all do.
    LetGo {
        /// Which.
        ways: Vec<String>,
    },
    /// What controllers have learnt, as kept: JSON each. What cannot be read is passed over.
    Knows {
        /// One text for each.
        kept: Vec<String>,
    },
    /// The next controller that is moved will move this; or none will.
    Learn {
        /// What.
        what: Option<Moved>,
    },
    /// Nothing moves this any more.
    Forget {
        /// What.
        what: Moved,
    },
    /// Starts with a patch file's text.
    Load {
        /// JSON of the patch.
        text: String,
        /// Its number in the library. One that was open before, and is as it was left, has its steps of undo again.
        of: Option<i32>,
        /// The steps of undo that are kept beside it.
        steps: Option<KeptSteps>,
    },
    /// What is new in its steps of undo since the one with this number; without a number only which one was made last.
    Steps {
        /// The number.
        since: Option<u64>,
    },
    /// The nearest valid patch to a text that is none; changes nothing.
    Mend {
        /// The text.
        text: String,
    },
    /// Puts another patch file's patch in place of the present one, both states, as one step: unsaved changes that were kept.
    TakeUp {
        /// JSON of the patch.
        text: String,
    },
    /// Puts another patch file's patch in place of the present one, as an edit that can be undone.
    BringBack {
        /// JSON of the patch.
        text: String,
    },
    /// Makes an edit; those with the same gesture in a row are one step of undo.
    Edit {
        /// The edit.
        edit: Edit,
        /// The selected units: where it is an edit of one of them it is meant for all.
        #[serde(default)]
        units: Vec<UnitId>,
        /// Number of the gesture, if it is one.
        gesture: Option<u32>,
    },
    /// Sets a value from typed text.
    Type {
        /// Which value.
        address: Address,
        /// The selected units: the same value of all of them is meant where it is one of theirs.
        #[serde(default)]
        units: Vec<UnitId>,
        /// As typed.
        text: String,
    },
    /// How well names fit what was typed into Find.
    Ranked {
        /// As typed.
        text: String,
        /// Names of what can be done.
        names: Vec<String>,
    },
    /// How far a value differs among the selected units.
    Spread {
        /// The value of the first of them.
        address: Address,
        /// The selected units.
        units: Vec<UnitId>,
    },
    /// Sets the length of the phrase from a typed number of bars.
    TypeBars {
        /// As typed.
        text: String,
    },
    /// What is good to know of a text before it is taken; empty where it says all itself.
    Hint {
        /// Which value.
        address: Address,
        /// As typed so far.
        text: String,
    },
    /// Moves a value by steps, as arrow keys and the wheel do.
    Nudge {
        /// Which value.
        address: Address,
        /// The selected units: the same value of all of them is meant where it is one of theirs.
        #[serde(default)]
        units: Vec<UnitId>,
        /// How many, with sign.
        steps: f64,
        /// Fine steps.
        fine: bool,
        /// Number of the gesture, if it is one.
        gesture: Option<u32>,
    },
    /// Moves a value by a share of its bar from where the drag began.
    Drag {
        /// Which value.
        address: Address,
        /// The selected units: the same value of all of them is meant where it is one of theirs.
        #[serde(default)]
        units: Vec<UnitId>,
        /// Value at the drag's begin.
        start: f64,
        /// Share of the bar, with sign.
        moved: f64,
        /// A tenth as far.
        fine: bool,
        /// Number of the gesture.
        gesture: u32,
    },
    /// An edit a hand makes while it moves. What it has hold of is told, all else is asked for when there is time ([`Question::View`]).
    ByHand {
        /// What it has hold of.
        on: Piece,
        /// The edit.
        asks: Box<Question>,
    },
    /// All the screen shows of the document as it is.
    View {
        /// Whether no hand moves anything: scales of strips that were held for it are as they would be.
        #[serde(default)]
        at_rest: bool,
    },
    /// Moves a value to a place on its bar, as a controller does.
    Place {
        /// Which value.
        address: Address,
        /// 0 to 1.
        place: f64,
        /// Number of the gesture.
        gesture: u32,
    },
    /// Puts a value back to its default.
    Reset {
        /// Which value.
        address: Address,
        /// The selected units: the same value of all of them is meant where it is one of theirs.
        #[serde(default)]
        units: Vec<UnitId>,
    },
    /// Drags a point of an envelope.
    DragHandle {
        /// Whose envelope.
        unit: UnitId,
        /// Position of the point.
        at: usize,
        /// Whether the segment that leads there is bent.
        bend: bool,
        /// Without snapping to the beat grid.
        free: bool,
        /// Where to, in seconds from the press.
        time_s: f64,
        /// Where to, 0 to 1.
        level: f64,
        /// Number of the gesture.
        gesture: u32,
    },
    /// Remembers an envelope, to be pasted.
    CopyEnvelope { unit: UnitId },
    /// Gives units the envelope remembered last.
    PasteEnvelope { units: Vec<UnitId> },
    /// The envelopes that come with the application.
    ReadyEnvelopes,
    /// Gives units one of them.
    TakeReady {
        units: Vec<UnitId>,
        /// Its place in the list.
        at: usize,
    },
    /// The drawn cycles that come with the application.
    ReadyShapes,
    /// Gives a source one of them.
    TakeShape {
        source: SourceId,
        /// Its place in the list.
        at: usize,
    },
    /// Gives a source a cycle drawn freehand.
    DrawShape {
        source: SourceId,
        /// Levels evenly over the cycle, 0 to 1.
        levels: Vec<f64>,
        /// Number of the gesture.
        gesture: u32,
    },
    /// Values that may be moved, by their names.
    Targets {
        text: String,
        /// For which source: its own values are left out.
        source: SourceId,
    },
    /// A source as text, with its shape and links.
    CopySource { source: SourceId },
    /// Gives a source the kind, clock and shape of one that was copied.
    PasteSource {
        source: SourceId,
        /// As [`Question::CopySource`] gave it.
        text: String,
    },
    /// Sets one end of a link from typed text; the other stays.
    TypeEnd {
        link: LinkId,
        /// The upper one of both.
        high: bool,
        /// As typed, in the unit of what is moved.
        text: String,
    },
    /// Links a source with the value that is meant by each of these strips.
    LinkStrips {
        from: SourceId,
        /// Units or sources.
        strips: Vec<UnitId>,
    },
    /// What the inspector shows of a unit beside its values.
    Inspect { unit: UnitId },
    /// Gives units the wave some steps further in the list.
    StepWave {
        /// Which units; each steps from its own wave.
        units: Vec<UnitId>,
        /// How many, with sign.
        steps: i32,
    },
    /// Draws one of a unit's bars.
    DrawBar {
        /// Which unit; its wave becomes bars if it is none.
        unit: UnitId,
        /// Which harmonic, from 1.
        harmonic: usize,
        /// 0 to 1; as it is if none.
        amplitude: Option<f64>,
        /// In turns; as it is if none.
        phase_turns: Option<f64>,
        /// Number of the gesture, if it is one.
        gesture: Option<u32>,
    },
    /// Gives units a wave.
    ChooseWave {
        units: Vec<UnitId>,
        /// Its place in the list of [`super::Answer::Waves`].
        at: usize,
    },
    /// Adds an imported table and gives it to units.
    AddTable {
        units: Vec<UnitId>,
        /// JSON of the table, as [`super::Answer::Text`] gave it; its number is chosen here.
        table: String,
    },
    /// Sets a bar of a wave from typed text.
    TypeBar {
        unit: UnitId,
        /// From 1.
        harmonic: usize,
        part: BarPart,
        text: String,
    },
    /// Sets how many steps a source has from typed text.
    TypeStepCount { source: SourceId, text: String },
    /// The recordings samples can play: those of the application and those the patch has.
    Sounds,
    /// Gives samples something to play.
    ChooseSound {
        units: Vec<UnitId>,
        /// Its place in the list of [`super::Answer::Sounds`].
        at: usize,
    },
    /// Gives samples a recording that was brought in; where none is told a new strip plays it.
    AddSound {
        units: Vec<UnitId>,
        /// JSON of the recording's description, as the store gave it.
        sound: String,
    },
    /// Tells no more of links of a source that went with their routes.
    ForgetLoose { source: SourceId },
    /// Tells which recordings the store does not have.
    Missing {
        /// Their contents.
        contents: Vec<String>,
    },
    /// Drops a unit's number onto another one, or the output.
    Drop {
        unit: UnitId,
        /// Onto which; none for the output.
        onto: Option<UnitId>,
        /// Whether it changes its role instead of getting one more route.
        only: bool,
    },
    /// What that would do, in words.
    DropWords {
        unit: UnitId,
        /// Onto which; none for the output.
        onto: Option<UnitId>,
    },
    /// What a typed line of strips would make; nothing is made.
    Line { text: String },
    /// Makes the strips of a typed line; a line that was copied brings all its strips were.
    TakeLine {
        /// As typed.
        text: String,
        /// The selected units: they go through a filter of which no more is said.
        #[serde(default)]
        units: Vec<UnitId>,
    },
    /// Strips as a line, which is remembered with all they are.
    CopyStrips { units: Vec<UnitId> },
    /// Strips, and values of strips and of the patch, by their names.
    Find { text: String },
    /// What may be added, connected or moved where.
    Offers {
        /// Which of it.
        kind: OfferKind,
        /// For which unit; none while none is selected.
        unit: Option<UnitId>,
    },
    /// Lets hear without some units for now; with none, with all of them again.
    HearWithout { units: Vec<UnitId> },
    /// How far this state is turned down to be as loud as the other.
    Match {
        /// Loudness of this one.
        here_lufs: f64,
        /// Loudness of the other.
        there_lufs: f64,
    },
    /// Part of the frequencies, so many times as wide, around one that stays where it is.
    ZoomSpan {
        /// What is seen.
        span: Span,
        /// In hertz.
        around_hz: f64,
        /// Below 1 is nearer.
        times: f64,
    },
    /// Part of the frequencies, so many times higher.
    MoveSpan {
        /// What is seen.
        span: Span,
        /// Below 1 is lower.
        ratio: f64,
    },
    /// A change of level in words.
    ChangeWords { change_db: f64 },
    /// A time in words.
    TimeWords {
        /// In seconds.
        time_s: f64,
    },
    /// A level in words.
    LevelWords {
        /// As a factor of full scale.
        amplitude: f64,
    },
    /// Limits and laws, and what each parameter does.
    Rules,
    /// All waves there are.
    Waves,
    /// Tunes the keys by the text of a Scala file: a scale, or a map for the scale that is there.
    LoadScale {
        /// Name of the file; its ending tells scales from maps.
        file_name: String,
        /// What it holds.
        text: String,
    },
    /// Back to equal temperament.
    ClearScale,
    /// The useful arrangements of the operators there are.
    Arrangements,
    /// Tries an arrangement in place of the one there was when the first was tried.
    TryArrangement {
        /// Its place in the list of [`super::Answer::Arrangements`] given last.
        at: usize,
    },
    /// Ends trying.
    EndTrial {
        /// Whether the arrangement tried last stays.
        keep: bool,
    },
    /// The arrangement there is, as text to be kept for other patches.
    KeepArrangement,
    /// An arrangement kept before, laid on the operators there are.
    LayArrangement {
        /// As [`Question::KeepArrangement`] gave it.
        text: String,
    },
    /// Lowers or raises the trim so that the true peak comes to lie at -1 dB.
    TrimTo {
        /// The measured true peak.
        true_peak_db: f64,
    },
    /// One step back.
    Undo,
    /// Takes back what a gesture did, if that was the last thing done.
    TakeBack { gesture: u32 },
    /// One step forward.
    Redo,
    /// Mutes and solos for now.
    Listen {
        /// What is muted and soloed.
        listening: Listening,
    },
    /// The patch file's text.
    Save,
    /// The text of what sounds, in this state or the other of two: patches that sound alike have the same.
    Sounding {
        /// Whether that of the other state.
        #[serde(default)]
        other: bool,
    },
    /// What the strips put out, in words, for amplitudes in the order of the rows.
    Words {
        /// 0 to 1, one for each row.
        amplitudes: Vec<f64>,
        /// Position of the send shown, one for each row.
        sends: Vec<usize>,
    },
    /// Something a player does with the simulated controller.
    Gesture {
        /// What.
        what: Gesture,
    },
    /// Phrases to choose from.
    Phrases,
    /// Gives the patch one of them.
    TakePhrase {
        /// Its place in the list.
        at: usize,
        /// Also moves the auditioned note to where it sounds good.
        from_its_key: bool,
    },
    /// Gives the patch a phrase as text, as [`Question::PhraseText`] gave it.
    GivePhrase { text: String },
    /// The phrase as text.
    PhraseText,
    /// Plays the auditioned note by itself again.
    NoPhrase,
    /// Makes a phrase of the MIDI file that was put in.
    ImportMidi {
        /// Name of the file.
        name: String,
    },
    /// The phrase as a MIDI file.
    ExportMidi,
    /// What the audio thread is to play, with the beat.
    Score {
        /// What.
        of: ScoreOf,
    },
    /// Makes a phrase of what was recorded.
    Recorded {
        /// Beats and messages, in time.
        events: Vec<(f64, [u8; 3])>,
        /// Beats the begins are put on; 0 for none.
        grid_beats: f64,
    },
    /// Puts notes of the phrase elsewhere.
    MoveNotes {
        /// Positions of the notes.
        notes: Vec<usize>,
        /// How far, in beats and semitones.
        by_beats: f64,
        by_semitones: i16,
        /// How much longer, in beats.
        longer_beats: f64,
        /// Beats the begins are put on; 0 for none.
        grid_beats: f64,
        /// Number of the gesture.
        gesture: u32,
    },
    /// Sets one value of notes from typed text.
    TypeNote {
        notes: Vec<usize>,
        field: NoteField,
        text: String,
    },
    /// Sets one end of a macro's target from typed text.
    TypeWay {
        link: LinkId,
        /// The end at 100 %.
        high: bool,
        /// As typed, in the unit of what is moved.
        text: String,
    },
    /// The key of a typed note.
    KeyOf { text: String },
    /// The patch file's text with a macro at one of its ends, to be looked at.
    AtEnd {
        source: SourceId,
        /// At 100 %.
        high: bool,
    },
    /// What is different in the articulations, side by side.
    Differences,
    /// Gives an effect a ready setting.
    TakeReadyEffect {
        effect: EffectId,
        /// Its place in the list.
        at: usize,
    },
    /// Effects as text.
    CopyEffects { effects: Vec<EffectId> },
    /// Puts copied effects into a chain.
    PasteEffects {
        chain: ChainId,
        /// Their place; none for the end.
        at: Option<usize>,
        /// As [`Question::CopyEffects`] gave it.
        text: String,
    },
    /// A setting to be kept.
    KeepEffect { effect: EffectId },
    /// Gives an effect a setting that was kept.
    TakeKeptEffect {
        effect: EffectId,
        /// Under which name.
        name: String,
        /// As [`Question::KeepEffect`] gave it.
        text: String,
    },
    /// Which of some kept settings are for a kind of effect.
    KeptFor {
        kind: EffectName,
        /// As [`Question::KeepEffect`] gave them.
        texts: Vec<String>,
    },
    /// Puts an effect a place further, over the ends of chains too.
    StepEffect {
        effect: EffectId,
        /// Behind the next one, or before the one before.
        behind: bool,
    },
    /// Adds a band to an EQ.
    AddBand {
        effect: EffectId,
        /// Frequency and gain that were pointed at; none for where there is most room.
        pointed: Option<(f64, f64)>,
    },
    /// Puts a band of an EQ elsewhere.
    DragBand {
        effect: EffectId,
        /// Position of the band.
        at: usize,
        hz: f64,
        gain_db: f64,
        /// Number of the gesture.
        gesture: u32,
    },
}

/// What the audio thread is to play.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum ScoreOf {
    /// The auditioned note.
    Note,
    /// The phrase, or the note where there is none.
    Phrase,
    /// Only the beat.
    Beat,
}

/// What of a bar is typed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum BarPart {
    /// In percent.
    Amplitude,
    /// In degrees.
    Phase,
}

/// A value of a note of a phrase.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum NoteField {
    Pitch,
    Starts,
    Length,
    Velocity,
}
