//! Values and choices with all their fields need, and the sheets they stand on.

use std::cell::RefCell;
use std::collections::HashMap;

use serde::Serialize;
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::catalogue::{choice, choices, param, params};
use zolvik_patch::document::{Filter, LinkId, Unit, UnitId};
use zolvik_patch::filter;
use zolvik_patch::movement::Link;
use zolvik_patch::movement::amount::{movers, row_of, swept};
use zolvik_patch::movement::target::{linkable_at, unit_of};
use zolvik_patch::param::{ChoiceId, Linked, Owner, Param, ParamId, Quantity};
use zolvik_patch::part::Part;
use zolvik_patch::pitch::note_name;
use zolvik_patch::playing::differing::base_value;
use zolvik_patch::section::SectionId;
use zolvik_patch::text::{self, Times, Written};
use zolvik_patch::timing::said_at;

use super::limit::limit;

/// A value with all a field needs.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct ValueView {
    /// Which value.
    pub address: Address,
    /// Where on a sheet it stands.
    pub section: SectionId,
    pub label: String,
    /// The value itself.
    pub value: f64,
    /// Written number.
    pub number: String,
    /// Written unit.
    pub unit: String,
    /// Number and unit with all digits, to type on from.
    pub exact: String,
    /// Place in its range, 0 to 1.
    pub place: f64,
    /// Whether it is not what a new thing has.
    pub changed: bool,
    /// Place the bar starts from: 0, or the middle for values with sign.
    pub origin: f64,
    /// Where it cannot be had in full: how far, in words.
    pub limit: Option<String>,
    /// What moves it, if anything does.
    pub moved: Option<SweptView>,
    /// For whom it may be moved; none where nothing may.
    pub movable: Option<Movable>,
    /// What it is in the base, written, where it is something else in the articulation that is heard.
    pub base: Option<String>,
    /// Where that lies on its bar, 0 to 1.
    pub base_place: f64,
}

/// How far a value is moved.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct SweptView {
    /// Place of the lowest value it comes to, 0 to 1.
    pub low: f64,
    /// Place of the highest.
    pub high: f64,
    /// The links that move it.
    pub links: Vec<LinkId>,
}

/// From which to which value the same of several units goes.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct SpreadView {
    /// The lowest, written.
    pub from: String,
    /// The highest, written.
    pub to: String,
    /// Where each lies on the bar, 0 to 1, with the number of its strip.
    pub places: Vec<(UnitId, f64)>,
}

/// For whom a value may be moved.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum Movable {
    /// Each note by itself.
    Note,
    /// Each note by itself, as it begins.
    Onset,
    /// All notes alike: what is each note's own moves it by the newest one.
    All,
}

/// One of a few.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct ChoiceView {
    /// Which choice.
    pub id: ChoiceId,
    /// Where on a sheet it stands.
    pub section: SectionId,
    pub label: &'static str,
    /// What can be chosen.
    pub options: Vec<&'static str>,
    /// What it does, in one sentence.
    pub help: &'static str,
    /// Position of what is chosen.
    pub at: usize,
}

/// A part of a sheet: values and choices of the same section stand under it.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct SectionView {
    pub id: SectionId,
    /// Its title.
    pub title: &'static str,
    /// What stands beside the title.
    pub note: &'static str,
    /// Whether it is folded up while all in it is as it was at first.
    pub folds: bool,
}

/// Sections as a sheet shows them.
pub(super) fn sheet(sections: impl IntoIterator<Item = SectionId>) -> Vec<SectionView> {
    let view = |id: SectionId| {
        let (title, note) = id.title();
        let folds = id.folds();
        SectionView {
            id,
            title,
            note,
            folds,
        }
    };
    sections.into_iter().map(view).collect()
}

/// Values of one owner in the order of the catalogue.
pub(super) fn values(patch: &Patch, owner: Owner, id: u16) -> Vec<ValueView> {
    let rows = params().filter(|row| row.owner == owner);
    rows.filter_map(|row| value_view(patch, Address::new(row.id, id)))
        .collect()
}

/// Values of a unit that have a bearing on how it sounds now.
pub(crate) fn unit_values(patch: &Patch, unit: &Unit) -> Vec<ValueView> {
    let rows = params().filter(|row| row.owner == Owner::Unit && unit.is(row.when));
    rows.filter_map(|row| shown_value(patch, Address::unit(unit.id, row.id)))
        .collect()
}

/// A value by itself, as it is shown on its sheet.
pub(crate) fn shown_value(patch: &Patch, address: Address) -> Option<ValueView> {
    let view = value_view(patch, address)?;
    if param(address.param).owner != Owner::Unit {
        return Some(view);
    }
    let limit = limit(patch, patch.unit(UnitId(address.id))?, address.param);
    Some(ValueView { limit, ..view })
}

/// The row a value is shown by: the amount of a link has no sign, its direction says which way.
pub(crate) fn shown_row(patch: &Patch, address: Address) -> Param {
    let row = row_of(patch, address);
    match address.param == Link::AMOUNT {
        true => Param { min: 0.0, ..row },
        false => row,
    }
}

/// What is shown of a value is so many times as much: a cutoff that follows the key is that of the auditioned note, an amount has no sign.
pub(crate) fn shown_times(patch: &Patch, address: Address) -> f64 {
    if address.param == Link::AMOUNT {
        let amount = address.get(patch).unwrap_or(0.0);
        return if amount < 0.0 { -1.0 } else { 1.0 };
    }
    match patch.unit(UnitId(address.id)) {
        Some(unit) if address.param == Filter::CUTOFF_HZ => filter::shown_times(unit, patch),
        _ => 1.0,
    }
}

pub(super) fn value_view(patch: &Patch, address: Address) -> Option<ValueView> {
    let row = &shown_row(patch, address);
    let times = shown_times(patch, address);
    let is_amount = address.param == Link::AMOUNT;
    let value = match address.get(patch).ok()? {
        amount if is_amount => amount.abs(),
        value => value,
    };
    let times = if is_amount { 1.0 } else { times };
    let (mut written, exact) = written(row, value * times, said_at(patch, address));
    let mut label: String = row.label.into();
    if is_amount {
        written.number = written.number.trim_start_matches('+').into();
    }
    if times != 1.0 {
        let tenths = (value * times * 10.0).round() / 10.0;
        written = text::write_as(row, tenths);
        label = format!("{label} at {}", note_name(patch.audition.note.into()));
    }
    let base = base_value(patch, address);
    Some(ValueView {
        base: base.map(|base| text::write_as(row, base * times).to_string()),
        base_place: base.map_or(0.0, |base| row.place(base)),
        address,
        section: row.section,
        label,
        value,
        number: written.number,
        unit: written.unit,
        exact,
        place: row.place(value),
        changed: value != row.default,
        origin: if row.min < 0.0 && row.min == -row.max {
            0.5
        } else {
            0.0
        },
        limit: None,
        moved: swept_view(patch, address),
        movable: match linkable_at(patch, address) {
            Linked::Note => Some(Movable::Note),
            Linked::Onset => Some(Movable::Onset),
            Linked::Patch => Some(Movable::All),
            Linked::Never => None,
        },
    })
}

/// What tells two written values apart: the row, which for an amount is that of what it moves, the number, and whether it is in beats.
type Wording = (ParamId, Quantity, usize, u64, u64, bool);
/// Texts that are remembered; then all are forgotten.
const TEXTS: usize = 4096;

thread_local! {
    /// Of hundreds of values an edit changes one or two, and writing numbers is most of the work of a view.
    static WRITTEN: RefCell<HashMap<Wording, (Written, String)>> = RefCell::default();
}

/// A value in words, and with all its digits.
fn written(row: &Param, value: f64, times: Times) -> (Written, String) {
    let (min, bits) = (row.min.to_bits(), value.to_bits());
    // what is in beats is written for one tempo
    let in_beats = times.in_beats;
    let wording = (row.id, row.quantity, row.decimals, min, bits, in_beats);
    WRITTEN.with_borrow_mut(|known| {
        if known.len() > TEXTS {
            known.clear();
        }
        let write = || {
            let exact = text::write_exact_in(row, value, times);
            (text::write_in(row, value, times), exact)
        };
        known.entry(wording).or_insert_with(write).clone()
    })
}

/// How far values differ; none where they do not.
pub(crate) fn spread(patch: &Patch, of: &[Address]) -> Option<SpreadView> {
    let view = |address: &Address| {
        let view = value_view(patch, *address)?;
        Some((unit_of(patch, *address)?, view))
    };
    let all: Vec<(UnitId, ValueView)> = of.iter().filter_map(view).collect();
    let by_value =
        |a: &&(UnitId, ValueView), b: &&(UnitId, ValueView)| a.1.value.total_cmp(&b.1.value);
    let (low, high) = (
        &all.iter().min_by(by_value)?.1,
        &all.iter().max_by(by_value)?.1,
    );
    // one unit stands behind both
    let from = match low.unit == high.unit {
        true => low.number.clone(),
        false => format!("{} {}", low.number, low.unit),
    };
    (low.value != high.value).then(|| SpreadView {
        from: from.trim_end().into(),
        to: format!("{} {}", high.number, high.unit).trim_end().into(),
        places: all.iter().map(|(unit, view)| (*unit, view.place)).collect(),
    })
}

fn swept_view(patch: &Patch, address: Address) -> Option<SweptView> {
    let links: Vec<LinkId> = movers(patch, address).map(|l| l.id).collect();
    if links.is_empty() {
        return None;
    }
    let row = row_of(patch, address);
    let own = row.place(address.get(patch).ok()?);
    let (low, high) = match swept(patch, address) {
        Some((low, high)) => (row.place(low), row.place(high)),
        None => (own, own),
    };
    Some(SweptView { low, high, links })
}

/// Choices of the patch as a whole.
pub(crate) fn patch_choices(patch: &Patch) -> Vec<ChoiceView> {
    let at = |id| patch.voice.chosen(id).or_else(|| patch.playing.chosen(id));
    let rows = choices().filter_map(|row| choice_view(row.id, at(row.id)?));
    rows.collect()
}

/// Choices of a unit that have a bearing on how it sounds now.
pub(crate) fn unit_choices(unit: &Unit) -> Vec<ChoiceView> {
    let rows = choices().filter(|row| unit.is(row.when));
    rows.filter_map(|row| choice_view(row.id, unit.chosen_of(row.id)?))
        .collect()
}

pub(super) fn choice_view(id: ChoiceId, at: usize) -> Option<ChoiceView> {
    let row = choice(id);
    Some(ChoiceView {
        id,
        section: row.section,
        label: row.label,
        options: row.options.to_vec(),
        help: row.help,
        at,
    })
}
