//! All the screen shows of a document, in words and places, so that the page holds no rule of the job.

mod envelope;
mod finish;
mod heading;
mod limit;
mod movement;
mod piece;
mod playing;
mod scale;
mod send;
mod strip;
mod told;
mod value;

use serde::Serialize;
use zolvik_edit::history::History;
use zolvik_engine::cost::Costs;
use zolvik_layout::rails::{Rail, rails};
use zolvik_patch::Patch;
use zolvik_patch::document::{Group, GroupId, Slot, Unit, UnitId};
use zolvik_patch::graph::rows;
use zolvik_patch::hearing::Listening;
use zolvik_patch::param::Owner;
use zolvik_patch::pitch::note_name;
use zolvik_patch::section::SectionId;
use zolvik_patch::timing::auditioned_end_s;
use zolvik_patch::wave::{TableId, Wave};

pub(crate) use self::envelope::envelope_values;
pub(crate) use self::finish::effect_values;
use self::finish::{FinishView, finish};
pub(crate) use self::heading::{hertz, pitch_words};
pub use self::movement::LooseView;
pub(crate) use self::movement::source_values;
use self::movement::{LinkView, SourceView, links, sources};
pub(crate) use self::piece::seen;
pub use self::piece::{Piece, PieceView};
pub(crate) use self::playing::phrase_window_s;
use self::playing::{ArticulationView, MacroView, PhraseView, articulations, macros, phrase};
pub use self::scale::words;
pub(crate) use self::scale::{Tops, cutoff_span, drawn_strength};
pub(crate) use self::send::route_values;
use self::strip::{StripView, strip};
pub use self::told::{Memory, Told};
pub use self::value::SpreadView;
pub(crate) use self::value::{ChoiceView, patch_choices, unit_choices};
use self::value::{SectionView, sheet, values};
pub(crate) use self::value::{ValueView, shown_row, shown_times, spread, unit_values};

/// The document as the screen shows it.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct DocumentView {
    /// Name of the patch.
    pub name: String,
    /// Tags.
    pub tags: Vec<String>,
    /// How to play it.
    pub note: String,
    /// What undo would take back.
    pub undo: Option<String>,
    /// What redo would do again.
    pub redo: Option<String>,
    /// Strips from top to bottom.
    #[cfg_attr(feature = "types", ts(as = "Vec<StripView>"))]
    pub strips: Vec<Told<StripView>>,
    /// Rails beside them.
    #[cfg_attr(feature = "types", ts(as = "Vec<Rail>"))]
    pub rails: Told<Vec<Rail>>,
    /// Work of a note, where that of a plain sine is 1.
    pub cost: f64,
    /// Words on the quality it counts, empty at the plain rate.
    pub cost_at: String,
    /// Values of the patch as a whole.
    #[cfg_attr(feature = "types", ts(as = "Vec<ValueView>"))]
    pub values: Told<Vec<ValueView>>,
    /// What is muted and soloed.
    pub listening: Listening,
    /// Key, velocity and hold of the auditioned note, and the window it is drawn in.
    pub audition: AuditionView,
    /// Whether another operator fits.
    pub full: bool,
    /// Names of the waves the audio thread needs.
    pub banks: Vec<String>,
    /// Contents of the recordings the patch plays that were brought in.
    pub sounds: Vec<String>,
    /// What the keys are tuned to; none for equal temperament.
    pub scale: Option<String>,
    /// The sections values and choices of the patch stand in.
    #[cfg_attr(feature = "types", ts(as = "Vec<SectionView>"))]
    pub sheet: Told<Vec<SectionView>>,
    /// What is one of a few, of the patch as a whole.
    #[cfg_attr(feature = "types", ts(as = "Vec<ChoiceView>"))]
    pub choices: Told<Vec<ChoiceView>>,
    /// Imported tables.
    #[cfg_attr(feature = "types", ts(as = "Vec<TableView>"))]
    pub tables: Told<Vec<TableView>>,
    /// Which of two states this is.
    pub slot: Slot,
    /// Whether there is another state.
    pub has_other: bool,
    /// Groups of strips.
    #[cfg_attr(feature = "types", ts(as = "Vec<GroupView>"))]
    pub groups: Told<Vec<GroupView>>,
    /// Whether arrangements are being tried.
    pub trying: bool,
    /// Links that went with their routes, until they are made anew.
    pub loose: Vec<LooseView>,
    /// Sources of movement, in the order they were made.
    #[cfg_attr(feature = "types", ts(as = "Vec<SourceView>"))]
    pub sources: Vec<Told<SourceView>>,
    /// Links from them.
    #[cfg_attr(feature = "types", ts(as = "Vec<LinkView>"))]
    pub links: Vec<Told<LinkView>>,
    /// What it is tried with; none for the auditioned note by itself.
    #[cfg_attr(feature = "types", ts(as = "Option<PhraseView>"))]
    pub phrase: Told<Option<PhraseView>>,
    /// Over how many seconds the phrase is drawn.
    pub phrase_window_s: f64,
    /// Macros, in the order they were made.
    #[cfg_attr(feature = "types", ts(as = "Vec<MacroView>"))]
    pub macros: Told<Vec<MacroView>>,
    /// Articulations, and which of them is heard.
    #[cfg_attr(feature = "types", ts(as = "Vec<ArticulationView>"))]
    pub articulations: Told<Vec<ArticulationView>>,
    pub articulation: Option<u8>,
    /// Gain of the beat.
    pub beat_gain: f64,
    /// Chains of effects.
    pub finish: FinishView,
}

/// A group of strips.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct GroupView {
    pub id: GroupId,
    pub name: String,
    /// Its units, in the order of the strips.
    pub units: Vec<UnitId>,
    /// Whether its strips are drawn as one.
    pub folded: bool,
    /// Whether all of it is muted for now.
    pub muted: bool,
    /// Whether all of it is soloed for now.
    pub soloed: bool,
    /// Its level.
    pub values: Vec<ValueView>,
}

/// An imported table in the list.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct TableView {
    pub id: TableId,
    pub name: String,
    /// How many units use it.
    pub used: usize,
}

/// A bank's key as text.
pub fn key_name(key: u64) -> String {
    format!("{key:016x}")
}

/// The auditioned note in numbers.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct AuditionView {
    /// MIDI key.
    pub key: u8,
    pub name: String,
    /// 1 to 127.
    pub velocity: u8,
    /// In seconds.
    pub hold_s: f64,
    /// In seconds.
    pub window_s: f64,
    /// When the last sound of the note ends, in seconds from the press.
    pub end_s: f64,
}

/// Draws up the view of a document.
pub(crate) fn document_view(
    history: &History,
    listening: &Listening,
    tops: &Tops,
    missing: &[String],
) -> DocumentView {
    let patch = history.present();
    let order = rows(patch);
    let costs = Costs::of(patch);
    DocumentView {
        name: patch.meta.name.clone(),
        tags: patch.meta.tags.clone(),
        note: patch.meta.note.clone(),
        undo: history.undo_label().map(Into::into),
        redo: history.redo_label().map(Into::into),
        strips: order
            .iter()
            .filter_map(|id| patch.unit(*id))
            .map(|unit| strip(patch, listening, tops, missing, &costs, unit).into())
            .collect(),
        rails: rails(patch).into(),
        cost: costs.whole().round(),
        cost_at: match patch.times_rate_auditioned() {
            1 => String::new(),
            times => format!(
                ", at {times} × for {}",
                note_name(patch.audition.note.into())
            ),
        },
        values: values(patch, Owner::Patch, 0).into(),
        listening: listening.clone(),
        audition: audition(patch),
        full: patch.units.len() >= zolvik_patch::document::MAX_UNITS,
        banks: banks(patch),
        sounds: patch.contents(),
        scale: patch.scale.as_ref().map(|s| s.name.clone()),
        sheet: sheet([
            SectionId::Whole,
            SectionId::Tuning,
            SectionId::Keys,
            SectionId::Unison,
            SectionId::Arpeggio,
        ])
        .into(),
        choices: patch_choices(patch).into(),
        tables: tables(patch).into(),
        groups: patch
            .groups
            .iter()
            .map(|g| group(patch, listening, g, &order))
            .collect::<Vec<_>>()
            .into(),
        slot: patch.slot,
        has_other: patch.other.is_some(),
        trying: false,
        loose: vec![],
        sources: each(sources(patch, listening)),
        links: each(links(patch, listening)),
        phrase: phrase(patch).into(),
        phrase_window_s: phrase_window_s(patch),
        macros: macros(patch).into(),
        articulations: articulations(patch).into(),
        articulation: patch.playing.articulation,
        finish: finish(patch, listening),
        beat_gain: zolvik_patch::levels::db_gain(patch.playing.beat_db),
    }
}

fn each<T>(list: Vec<T>) -> Vec<Told<T>> {
    list.into_iter().map(Into::into).collect()
}

impl DocumentView {
    /// The same view, where what was told before is only named.
    pub fn told(mut self, memory: &mut Memory) -> Self {
        memory.tell_each("strip", &mut self.strips, |strip| strip.id.0);
        memory.tell_each("source", &mut self.sources, |source| source.id.0);
        memory.tell_each("link", &mut self.links, |link| link.id.0);
        for chain in &mut self.finish.chains {
            memory.tell_each("effect", &mut chain.effects, |effect| effect.id.0);
        }
        memory.tell("rails".into(), &mut self.rails);
        memory.tell("values".into(), &mut self.values);
        memory.tell("sheet".into(), &mut self.sheet);
        memory.tell("choices".into(), &mut self.choices);
        memory.tell("tables".into(), &mut self.tables);
        memory.tell("groups".into(), &mut self.groups);
        memory.tell("phrase".into(), &mut self.phrase);
        memory.tell("macros".into(), &mut self.macros);
        memory.tell("articulations".into(), &mut self.articulations);
        self
    }
}

fn group(patch: &Patch, listening: &Listening, group: &Group, order: &[UnitId]) -> GroupView {
    let units = order.iter().filter(|id| group.units.contains(id));
    GroupView {
        id: group.id,
        name: group.name.clone(),
        units: units.copied().collect(),
        folded: group.folded,
        muted: group.units.iter().all(|id| listening.muted.contains(id)),
        soloed: group.units.iter().all(|id| listening.soloed.contains(id)),
        values: values(patch, Owner::Group, group.id.0),
    }
}

pub(crate) fn banks(patch: &Patch) -> Vec<String> {
    let waves = patch
        .units
        .iter()
        .filter_map(|u| Some(&u.oscillator()?.wave));
    let waves = waves.filter_map(|wave| zolvik_waves::key(wave, &patch.tables));
    let recordings = zolvik_waves::recording::samples(patch).map(zolvik_waves::recording::key);
    let mut keys: Vec<String> = waves.chain(recordings).map(key_name).collect();
    keys.sort_unstable();
    keys.dedup();
    keys
}

fn tables(patch: &Patch) -> Vec<TableView> {
    let uses = |id| move |u: &&Unit| u.oscillator().is_some_and(|o| o.wave == Wave::Own(id));
    let view = |t: &zolvik_patch::wave::OwnTable| TableView {
        id: t.id,
        name: t.name.clone(),
        used: patch.units.iter().filter(uses(t.id)).count(),
    };
    patch.tables.iter().map(view).collect()
}

fn audition(patch: &Patch) -> AuditionView {
    let a = &patch.audition;
    AuditionView {
        key: a.note,
        name: note_name(a.note.into()),
        velocity: a.velocity,
        hold_s: a.hold_s,
        window_s: a.window_s,
        end_s: auditioned_end_s(patch),
    }
}

/// Values of the patch as a whole.
pub(crate) fn patch_values(patch: &zolvik_patch::Patch) -> Vec<ValueView> {
    values(patch, Owner::Patch, 0)
}
