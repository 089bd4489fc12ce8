//! One strip.

use serde::Serialize;
use zolvik_edit::unheard::{Unheard, unheard};
use zolvik_engine::cost::Costs;
use zolvik_layout::handles::{Handle, cut_off, handles};
use zolvik_layout::rails;
use zolvik_patch::Patch;
use zolvik_patch::document::{KindName, LinkId, Route, RouteKind, Send, Unit, UnitId, UnitKind};
use zolvik_patch::hearing::{Listening, ways_out};
use zolvik_patch::movement::amount::mean_cents;
use zolvik_patch::playing::differing::differing;
use zolvik_patch::section::SectionId;
use zolvik_patch::sound::Sound;
use zolvik_patch::text;
use zolvik_patch::wave::Wave;

use super::envelope::{EnvelopeView, envelope};
use super::heading::heading;
use super::scale::Tops;
use super::send::{SendView, send};
use super::value::{ChoiceView, SectionView, ValueView, sheet, unit_choices, unit_values};

/// One operator's strip.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct StripView {
    /// Number.
    pub id: UnitId,
    /// What it is.
    pub kind: KindName,
    /// What routes may do to it, the usual first.
    pub takes: Vec<RouteKind>,
    /// Whether it makes sound of its own.
    pub is_source: bool,
    /// Name.
    pub name: String,
    /// Switched on.
    pub on: bool,
    /// Muted for now.
    pub muted: bool,
    /// Soloed for now.
    pub soloed: bool,
    /// Bypassed for now.
    pub bypassed: bool,
    /// Carrier, modulator, both or unrouted, and to whom.
    pub role: String,
    /// Whether it is heard only by what it moves: one more that modulates it is stacked on it.
    pub only_modulates: bool,
    /// The ways its sound takes to the output, in words.
    pub ways: Vec<String>,
    /// Whether its wave was drawn by hand.
    pub has_bars: bool,
    /// Name of its wave, sound, response or curve.
    pub wave_label: String,
    /// Work it makes, as a multiple of a plain sine's.
    pub cost: f64,
    /// `×3.5`, `+7 st` or `440 Hz`.
    pub ratio: String,
    /// Detune and offset, if any.
    pub fine: String,
    /// Frequency at the auditioned note.
    pub hz: String,
    /// Nearest note and cents.
    pub note: String,
    /// Why it is not heard, if it is not.
    pub unheard: Option<Unheard>,
    /// The sections its values and choices stand in.
    pub sheet: Vec<SectionView>,
    /// Its values.
    pub values: Vec<ValueView>,
    /// What is one of a few.
    pub choices: Vec<ChoiceView>,
    /// Where it goes.
    pub sends: Vec<SendView>,
    /// Position of the deepest send, whose curve is shown.
    pub deepest: Option<usize>,
    /// Points of its envelope on the drawing.
    pub handles: Vec<Handle>,
    /// Its envelope.
    pub envelope: EnvelopeView,
    /// How far links move its pitch in the mean, if that is more than a few cents.
    pub pitch_shift: Option<ShiftView>,
    /// How many things are different in it in the articulation that is heard.
    pub differs: usize,
    /// Where the end of the sound cuts it off, if it does.
    pub cut: Option<CutView>,
}

/// Where a strip is cut off.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct CutView {
    /// In seconds from the press.
    pub time_s: f64,
    /// In words.
    pub words: String,
}

/// A pitch that is moved off in the mean.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct ShiftView {
    /// How far, and by which link.
    pub words: String,
    /// The same as short as it goes.
    pub short: String,
    /// The link that does most of it.
    pub link: LinkId,
}

/// Cents from which on a mean shift of the pitch is told.
const TOLD_CENTS: f64 = 3.0;

fn pitch_shift(patch: &Patch, unit: UnitId) -> Option<ShiftView> {
    let (cents, link) = mean_cents(patch, unit)?;
    let has_pitch = patch.unit(unit).is_some_and(|u| u.oscillator().is_some());
    if !has_pitch || !patch.sounds(unit) || cents.abs() <= TOLD_CENTS {
        return None;
    }
    let by = patch.source(patch.link(link)?.from)?;
    Some(ShiftView {
        short: format!("{} {} ct", by.name, text::fixed(cents, 0)),
        words: format!(
            "{} takes the pitch {} ct off in the mean",
            by.name,
            text::fixed(cents, 0)
        ),
        link,
    })
}

pub(super) fn strip(
    patch: &Patch,
    listening: &Listening,
    tops: &Tops,
    missing: &[String],
    costs: &Costs,
    unit: &Unit,
) -> StripView {
    let heading = heading(patch, unit);
    let sends: Vec<&Route> = patch.sends(unit.id).collect();
    let deepest = (0..sends.len()).max_by(|a, b| rank(sends[*a]).total_cmp(&rank(sends[*b])));
    let kind = unit.kind.name();
    StripView {
        differs: differing(patch, unit.id),
        id: unit.id,
        kind,
        takes: kind.takes().to_vec(),
        is_source: kind.is_source(),
        name: unit.name.clone(),
        on: unit.on,
        muted: listening.muted.contains(&unit.id),
        soloed: listening.soloed.contains(&unit.id),
        bypassed: listening.bypassed.contains(&unit.id),
        role: role(patch, unit, &sends),
        only_modulates: only_modulates(patch, unit.id, &sends),
        ways: ways_out(patch, unit.id),
        has_bars: unit
            .oscillator()
            .is_some_and(|o| matches!(o.wave, Wave::Bars(_))),
        wave_label: heading.label,
        ratio: heading.ratio,
        fine: heading.fine,
        hz: heading.hz,
        note: heading.note,
        cost: (costs.unit(unit.id) * 10.0).round() / 10.0,
        unheard: missing_audio(unit, missing).or_else(|| unheard(patch, listening, unit.id)),
        sheet: sheet(sections(kind)),
        values: unit_values(patch, unit),
        choices: unit_choices(unit),
        sends: sends
            .iter()
            .map(|route| send(patch, listening, tops, unit, route))
            .collect(),
        deepest,
        handles: handles(patch, unit.id),
        envelope: envelope(patch, unit.id, &unit.envelope),
        pitch_shift: pitch_shift(patch, unit.id),
        cut: cut_off(patch, unit.id).map(|(time_s, by)| CutView {
            time_s,
            words: format!(
                "cut off: {} ends here",
                patch.unit(by).map_or("", |u| u.name.as_str())
            ),
        }),
    }
}

/// The sections of a kind's sheet in their order.
fn sections(kind: KindName) -> impl Iterator<Item = SectionId> {
    let own = kind.sheet().iter().copied();
    let copies = kind.is_source().then_some(SectionId::Copies);
    own.chain([SectionId::Route])
        .chain(copies)
        .chain([SectionId::Envelope, SectionId::Response])
}

fn missing_audio(unit: &Unit, missing: &[String]) -> Option<Unheard> {
    let UnitKind::Sample(sample) = &unit.kind else {
        return None;
    };
    match &sample.sound {
        Sound::Own(own) if missing.contains(&own.content) => Some(Unheard {
            why: format!(
                "its audio “{}” is missing: choose or import another",
                own.name
            ),
            mend: None,
        }),
        _ => None,
    }
}

/// What reaches the output is shown first, then the deepest modulation.
fn rank(route: &Route) -> f64 {
    let on = if route.on { 0.0 } else { -1000.0 };
    on + match route.send {
        Send::Output { .. } => 100.0,
        _ => rails::weight(&route.send),
    }
}

fn role(patch: &Patch, unit: &Unit, sends: &[&Route]) -> String {
    let name = |id: UnitId| patch.unit(id).map_or("", |u| u.name.as_str());
    let moved: Vec<&str> = sends
        .iter()
        .filter(|r| moves(r))
        .filter_map(|r| r.send.target())
        .map(name)
        .collect();
    let what = match unit.kind.name() {
        KindName::Operator => "Carrier",
        other => other.label(),
    };
    let copies = match unit.copies {
        0 => String::new(),
        1 => " of one copy".into(),
        n => format!(" of {n} copies"),
    };
    let what = format!("{what}{copies}");
    match (patch.sounds(unit.id), moved.is_empty()) {
        (true, true) => what,
        (true, false) => format!("{what}, and modulator to {}", moved.join(", ")),
        (false, false) => format!("Modulator{copies} to {}", moved.join(", ")),
        (false, true) => match through(patch, unit.id) {
            Some((filter, moved)) => format!("Modulator{copies} to {moved}, through {filter}"),
            None => "Not routed".into(),
        },
    }
}

fn only_modulates(patch: &Patch, unit: UnitId, sends: &[&Route]) -> bool {
    !patch.sounds(unit) && (sends.iter().any(|r| moves(r)) || through(patch, unit).is_some())
}

/// Whether a route moves another unit.
fn moves(route: &Route) -> bool {
    route.send.kind() != Some(RouteKind::Audio)
        && route.send.target().is_some_and(|to| to != route.from)
}

/// What a unit moves through the filters, shapers and levels its sound goes into: the last of these, and what that moves.
fn through(patch: &Patch, unit: UnitId) -> Option<(&str, &str)> {
    let name = |id: UnitId| patch.unit(id).map(|u| u.name.as_str());
    let (mut open, mut seen) = (vec![unit], vec![]);
    while let Some(id) = open.pop() {
        if seen.contains(&id) {
            continue;
        }
        seen.push(id);
        for route in patch.sends(id) {
            match (route.send.kind(), route.send.target()) {
                (Some(RouteKind::Audio), Some(to)) => open.push(to),
                (Some(_), Some(to)) if id != unit => return Some((name(id)?, name(to)?)),
                _ => {}
            }
        }
    }
    None
}
