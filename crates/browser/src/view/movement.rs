//! Sources of movement and their links.

use serde::Serialize;
use zolvik_layout::handles::{Handle, handles};
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::catalogue::{choices, param, params};
use zolvik_patch::document::{LinkId, SourceId, UnitId};
use zolvik_patch::hearing::Listening;
use zolvik_patch::movement::amount::{ends, row_of, swept, way};
use zolvik_patch::movement::{
    Clock, Direction, Link, Runs, Scope, ShapePoint, Source, SourceKind, SourceName, Step, target,
};
use zolvik_patch::param::Owner;
use zolvik_patch::playing::differing::differing;
use zolvik_patch::text;

use super::envelope::{EnvelopeView, envelope};
use super::value::{ChoiceView, SectionView, ValueView, choice_view, sheet, value_view};
use crate::inspect::shape_picture;

/// A source of movement.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct SourceView {
    pub id: SourceId,
    pub name: String,
    pub kind: SourceName,
    /// What it is and how fast, in a few words.
    pub words: String,
    /// Whether it moves anything.
    pub on: bool,
    /// Muted for now.
    pub muted: bool,
    /// Soloed for now.
    pub soloed: bool,
    /// Whether some link takes it both ways, so that its middle is rest.
    pub swings: bool,
    /// The sections its values and choices stand in.
    pub sheet: Vec<SectionView>,
    pub values: Vec<ValueView>,
    pub choices: Vec<ChoiceView>,
    /// Its drawn cycle; none if it has none.
    pub shape: Option<ShapeView>,
    /// Its steps; none if it has none.
    pub steps: Option<Vec<StepView>>,
    /// Its envelope and the envelope's points on the drawing; none if it is none.
    pub envelope: Option<EnvelopeView>,
    pub handles: Vec<Handle>,
    /// The strip it follows; none if it follows none.
    pub follows: Option<UnitId>,
    /// Its links, in the order they were made.
    pub links: Vec<LinkId>,
    /// How often it goes round, and how long that takes; empty where it does not.
    pub rate: String,
    /// How many things are different in it in the articulation that is heard.
    pub differs: usize,
    /// Of what is played: how it is for the auditioned note.
    pub auditioned: Option<ValueView>,
}

/// A drawn cycle.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct ShapeView {
    /// Its points.
    pub points: Vec<ShapePoint>,
    /// At, level and curve of each.
    pub values: Vec<Vec<ValueView>>,
    /// Levels over the cycle, evenly spaced.
    pub picture: Vec<f64>,
}

/// A step.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct StepView {
    /// Level and glide.
    pub values: Vec<ValueView>,
}

/// A link.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct LinkView {
    pub id: LinkId,
    pub from: SourceId,
    /// Name of the source.
    pub from_name: String,
    /// What it moves.
    pub to: Address,
    /// The strip that has it; none for the patch's values.
    pub unit: Option<UnitId>,
    /// Its name with its owner's, and by itself.
    pub target: String,
    pub short: String,
    pub direction: Direction,
    /// Both ways round it goes the other way than its source.
    pub turned: bool,
    /// Its value stands at the end of its range it would go beyond: it moves nothing until it is turned round.
    pub stuck: bool,
    pub amount: ValueView,
    pub curve: ValueView,
    pub on: bool,
    /// Muted for now.
    pub muted: bool,
    /// Soloed for now.
    pub soloed: bool,
    /// From which to which place on its bar all links together take what it moves.
    pub swept: (f64, f64),
    /// Lowest and highest value it takes its target to by itself, written.
    pub low: String,
    pub high: String,
    /// What it is at the low and at the high end of the source, written.
    pub at_low: String,
    pub at_high: String,
    /// Where in the source's way it begins and has done all it does.
    pub begin: ValueView,
    pub end: ValueView,
    /// The way from the low end to the high one, as places on its bar at eleven places of the source.
    pub way: Vec<f64>,
    pub scaled_by: Option<SourceId>,
    /// Name of the source that brings it in; empty for none.
    pub scaled_name: String,
    /// Where what it moves follows the newest note alone: says so.
    pub note: String,
}

/// A link that went with the send it moved.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct LooseView {
    /// Its source.
    pub source: SourceId,
    /// The strip that sent what it moved.
    pub unit: UnitId,
    /// What went, and why.
    pub words: String,
}

/// All sources.
pub(super) fn sources(patch: &Patch, listening: &Listening) -> Vec<SourceView> {
    let list = patch.movement.sources.iter();
    list.map(|source| source_view(patch, listening, source))
        .collect()
}

/// Values of a source that have a bearing on how it moves.
pub(crate) fn source_values(patch: &Patch, source: &Source) -> Vec<ValueView> {
    let own = source.sheet();
    let rows = params().filter(|row| row.owner == Owner::Source && source.is(row.when));
    let mut list: Vec<ValueView> = rows
        .filter_map(|row| value_view(patch, Address::new(row.id, source.id.0)))
        .collect();
    list.retain(|v| own.contains(&v.section));
    list
}

fn source_view(patch: &Patch, listening: &Listening, source: &Source) -> SourceView {
    let id = source.id;
    let mut list = source_values(patch, source);
    let own = source.sheet();
    let rows = choices().filter(|row| source.is(row.when) && own.contains(&row.section));
    let envelope_of = match &source.kind {
        SourceKind::Envelope(env) => {
            list.extend(value_view(
                patch,
                Address::unit(id.into(), zolvik_patch::document::Envelope::DELAY_S),
            ));
            Some(envelope(patch, id.into(), env))
        }
        _ => None,
    };
    SourceView {
        id,
        name: source.name.clone(),
        kind: source.kind.name(),
        words: words(patch, source),
        on: source.on,
        muted: listening.muted_sources.contains(&id),
        soloed: listening.soloed_sources.contains(&id),
        swings: patch.swings(id),
        sheet: sheet(own.iter().copied()),
        choices: rows
            .filter_map(|row| choice_view(row.id, source.chosen_of(row.id)?))
            .collect(),
        values: list,
        shape: lfo_shape(patch, source),
        steps: match &source.kind {
            SourceKind::Steps(steps) => Some(
                (0..steps.steps.len())
                    .map(|at| step_view(patch, id, at))
                    .collect(),
            ),
            _ => None,
        },
        envelope: envelope_of,
        handles: handles(patch, id.into()),
        follows: match &source.kind {
            SourceKind::Follower(follower) => Some(follower.unit),
            _ => None,
        },
        links: patch.links_of(id).map(|l| l.id).collect(),
        auditioned: match &source.kind {
            SourceKind::Played(played) => played.what.auditioned(),
            _ => None,
        }
        .and_then(|of| value_view(patch, Address::patch(of))),
        rate: rate(patch, source),
        differs: differing(patch, id.into()),
    }
}

/// The cycle of a source that has one.
pub(super) fn lfo_shape(patch: &Patch, source: &Source) -> Option<ShapeView> {
    let SourceKind::Lfo(lfo) = &source.kind else {
        return None;
    };
    let points = &lfo.points;
    let id = source.id;
    let values = |at: usize| {
        let rows = [ShapePoint::AT, ShapePoint::LEVEL, ShapePoint::CURVE];
        let view = |row| value_view(patch, Address::point(id.into(), at, row));
        rows.into_iter().filter_map(view).collect()
    };
    Some(ShapeView {
        points: points.clone(),
        values: (0..points.len()).map(values).collect(),
        picture: shape_picture(points),
    })
}

fn step_view(patch: &Patch, id: SourceId, at: usize) -> StepView {
    let rows = [Step::LEVEL, Step::GLIDE];
    let view = |row| {
        let mut view = value_view(patch, Address::point(id.into(), at, row))?;
        view.label = format!("{} {}", view.label, at + 1);
        Some(view)
    };
    StepView {
        values: rows.into_iter().filter_map(view).collect(),
    }
}

/// What a source is and how fast, in a few words.
fn words(patch: &Patch, source: &Source) -> String {
    let timing = &source.timing;
    let label = source.kind.name().label().to_lowercase();
    let mut parts = vec![match &source.kind {
        SourceKind::Random(random) => {
            let chance = random.chance;
            zolvik_patch::catalogue::choice(zolvik_patch::movement::Random::CHANCE).options
                [zolvik_patch::choice::Options::position(&chance)]
            .to_lowercase()
        }
        SourceKind::Played(played) => {
            zolvik_patch::catalogue::choice(zolvik_patch::movement::Played::WHAT).options
                [zolvik_patch::choice::Options::position(&played.what)]
            .to_lowercase()
        }
        SourceKind::Follower(follower) => format!(
            "level of {}",
            patch
                .unit(follower.unit)
                .map_or("nothing", |u| u.name.as_str())
        ),
        SourceKind::Steps(steps) => format!("{} steps", steps.steps.len()),
        _ => label,
    }];
    if source.has_clock() {
        parts.push(match timing.clock {
            Clock::Hertz => {
                text::write(zolvik_patch::movement::Timing::RATE_HZ, timing.rate_hz).to_string()
            }
            Clock::Tempo => text::write_length(timing.cycle_beats).to_string(),
        });
        parts.extend((timing.runs == Runs::Once).then(|| "once".into()));
        parts.extend((timing.runs == Runs::Free).then(|| "free".into()));
    }
    parts.extend(
        (timing.delay_at_s(patch.audition.tempo_bpm) > 0.0 || timing.fade_s > 0.0)
            .then(|| "comes in later".into()),
    );
    parts.extend(
        (source.scope == Scope::Shared && !matches!(source.kind, SourceKind::Macro(_)))
            .then(|| "shared".into()),
    );
    parts.join(", ")
}

/// How often it goes round, and how long that takes.
fn rate(patch: &Patch, source: &Source) -> String {
    if !source.has_clock() {
        return String::new();
    }
    let hz = source.rate_hz(patch.audition.tempo_bpm);
    let period = text::write(zolvik_patch::movement::Timing::FADE_S, 1.0 / hz);
    let rate = text::write(zolvik_patch::movement::Timing::RATE_HZ, hz);
    match source.timing.clock {
        Clock::Hertz => format!("{period} a cycle"),
        Clock::Tempo => format!("{rate}, {period} a cycle at this tempo"),
    }
}

/// All links.
pub(super) fn links(patch: &Patch, listening: &Listening) -> Vec<LinkView> {
    let list = patch.movement.links.iter();
    list.filter_map(|link| link_view(patch, listening, link))
        .collect()
}

fn link_view(patch: &Patch, listening: &Listening, link: &Link) -> Option<LinkView> {
    let source = patch.source(link.from)?;
    let row = row_of(patch, link.to);
    let (low, high) = ends(patch, link)?;
    let (at_low, at_high) = way(patch, link)?;
    let base = link.to.get(patch).ok()?;
    // four digits tell an end; all of them do not fit
    let rounded = |value: f64| match value.abs() {
        0.0 => 0.0,
        size => {
            let scale = 10f64.powf(3.0 - size.log10().floor());
            (value * scale).round() / scale
        }
    };
    let written = |value: f64| text::write_as(&row, rounded(value)).to_string();
    let value = |id| value_view(patch, Address::new(id, link.id.0));
    let own_row = param(link.to.param);
    let stuck = low == high && link.amount != 0.0;
    let all = target::linkable(own_row) == zolvik_patch::param::Linked::Patch;
    Some(LinkView {
        id: link.id,
        from: link.from,
        from_name: source.name.clone(),
        to: link.to,
        unit: target::unit_of(patch, link.to),
        target: target::name(patch, link.to),
        short: own_row.label.to_lowercase(),
        direction: link.said().0,
        turned: link.said().1,
        stuck,
        amount: value(Link::AMOUNT)?,
        curve: value(Link::CURVE)?,
        on: link.on,
        muted: listening.muted_links.contains(&link.id),
        soloed: listening.soloed_links.contains(&link.id),
        swept: swept(patch, link.to).map_or((0.0, 1.0), |(a, b)| (row.place(a), row.place(b))),
        low: written(low),
        high: written(high),
        at_low: written(at_low),
        at_high: written(at_high),
        begin: value(Link::BEGIN_SHARE)?,
        end: value(Link::END_SHARE)?,
        way: (0..=10)
            .map(|n| {
                let there = row.domain.enter(base) + link.motion(f64::from(n) / 10.0);
                row.place(row.domain.leave(there))
            })
            .collect(),
        scaled_by: link.scaled_by,
        scaled_name: link
            .scaled_by
            .and_then(|by| patch.source(by))
            .map_or_else(String::new, |s| s.name.clone()),
        note: match all
            && source.scope == Scope::Note
            && !matches!(source.kind, SourceKind::Macro(_))
        {
            _ if stuck => format!("no room: it is at {} already", written(base)),
            true => "moves all notes alike, by the newest one".into(),
            false => String::new(),
        },
    })
}
