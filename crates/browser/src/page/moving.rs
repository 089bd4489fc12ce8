//! Sources of movement and links: what is typed, copied and pasted of them.

use zolvik_edit::Edit;
use zolvik_json::Form;
use zolvik_patch::address::Address;
use zolvik_patch::catalogue::param;
use zolvik_patch::document::{LinkId, Patch, SourceId, UnitId};
use zolvik_patch::movement::amount::{ends, row_of, way};
use zolvik_patch::movement::link::Link;
use zolvik_patch::movement::shape::{READY_SHAPES, freehand};
use zolvik_patch::movement::target::of_strip;
use zolvik_patch::movement::{Macro, Source, SourceName, target};
use zolvik_patch::param::Owner;
use zolvik_patch::timing::said_at;
use zolvik_patch::values;
use zolvik_patch::{json, text};

use super::naming::Words;
use super::state::Page;
use crate::inspect::ready_shapes;
use crate::protocol::{Answer, KindView, MovementQuestion, Refusal, Reply, Target};

/// Most targets shown at once.
const MOST: usize = 60;

/// The kinds of sources.
pub(super) fn kinds() -> Vec<KindView> {
    let view = |kind: &SourceName| KindView {
        kind: *kind,
        label: kind.label(),
        help: kind.help(),
    };
    SourceName::ALL.iter().map(view).collect()
}

impl Page {
    /// Answers what is asked of sources and links.
    pub(super) fn answer_movement(&mut self, question: MovementQuestion) -> Result<Reply, Refusal> {
        let patch = self.history.present();
        match question {
            MovementQuestion::ReadyShapes => Ok(Answer::Shapes {
                list: ready_shapes(),
            }
            .into()),
            MovementQuestion::TakeShape { source, at } => match READY_SHAPES.get(at) {
                Some(ready) => {
                    let points = ready.points();
                    self.edit(&Edit::SetShape { source, points }, None)
                }
                None => Err(Refusal::NoSuch("shape")),
            },
            MovementQuestion::DrawShape {
                source,
                levels,
                gesture,
            } => {
                const TOLERANCE: f64 = 0.012;
                let points = freehand(&levels, TOLERANCE);
                self.edit(&Edit::SetShape { source, points }, Some(gesture))
            }
            MovementQuestion::Targets { text, source } => Ok(self.targets(&text, source).into()),
            MovementQuestion::CopySource { source } => self.copy_source(source),
            MovementQuestion::PasteSource { source, text } => self.paste_source(source, &text),
            MovementQuestion::TypeEnd { link, high, text } => self.type_end(link, high, &text),
            MovementQuestion::TypeWay { link, high, text } => self.type_way(link, high, &text),
            MovementQuestion::LinkStrips { from, strips } => {
                let to = strips.iter().filter_map(|strip| of_strip(patch, *strip));
                let to = to.collect();
                self.edit(&Edit::AddLinks { from, to }, None)
            }
            MovementQuestion::TypeStepCount { source, text } => self.type_step_count(source, &text),
            MovementQuestion::AtEnd { source, high } => self.at_end(source, high),
            MovementQuestion::ForgetLoose { source } => {
                self.loose.forget(source);
                Ok(self.document(vec![]))
            }
        }
    }

    /// Values that may be moved whose names hold all words.
    pub(super) fn targets(&self, text: &str, source: SourceId) -> Answer {
        let patch = self.history.present();
        let words = Words::of(text);
        let shown = |address: &Address| {
            let row = param(address.param);
            let unit = || patch.unit(UnitId(address.id));
            match row.owner {
                Owner::Unit => unit().is_some_and(|u| u.is(row.when)),
                Owner::Source => {
                    let own = SourceId(address.id);
                    own != source
                        && patch
                            .source(own)
                            .is_some_and(|s| s.is(row.when) && s.sheet().contains(&row.section))
                }
                _ => true,
            }
        };
        let all = values::all(patch).into_iter().map(|(address, _)| address);
        let mut list: Vec<Target> = all
            .filter(|address| target::is_there(patch, *address) && shown(address))
            .map(|address| Target {
                address,
                title: target::name(patch, address),
                unit: target::unit_of(patch, address),
                now: address.get(patch).map_or_else(
                    |_| String::new(),
                    |value| text::write_as(&row_of(patch, address), value).to_string(),
                ),
            })
            .collect();
        // the best first; then strip by strip, sends first: they are moved most
        let is_send = |t: &Target| param(t.address.param).owner == Owner::Route;
        let is_amount = |t: &Target| param(t.address.param).owner == Owner::Link;
        let number = |t: &Target| t.unit.map(|u| u.0);
        list.retain(|t| words.fit(&t.title, number(t)).is_some());
        list.sort_by_cached_key(|t| {
            let fit = words.fit(&t.title, number(t));
            let place = number(t).unwrap_or(u16::MAX);
            (is_amount(t), fit, place, !is_send(t))
        });
        list.truncate(MOST);
        Answer::Targets { list }
    }

    /// Sets one end of a link; the other one stays where it is, and so does which end of the source leads there.
    pub(super) fn type_end(
        &mut self,
        link: LinkId,
        high: bool,
        typed: &str,
    ) -> Result<Reply, Refusal> {
        let (low, top) = self.typed_end(link, ends, high, typed)?;
        let patch = self.history.present();
        let is_down = patch.link(link).is_some_and(|found| found.amount < 0.0);
        let (low, high) = if is_down { (top, low) } else { (low, top) };
        self.edit(&Edit::SetEnds { link, low, high }, None)
    }

    /// Two ends of what a link moves, told by `ends_of`, one of them from typed text.
    pub(super) fn typed_end(
        &self,
        link: LinkId,
        ends_of: fn(&Patch, &Link) -> Option<(f64, f64)>,
        high: bool,
        typed: &str,
    ) -> Result<(f64, f64), Refusal> {
        let patch = self.history.present();
        let found = patch.link(link).ok_or(Refusal::Gone("link"))?;
        let (low, top) = ends_of(patch, found).ok_or(Refusal::Cannot("what it moved is gone"))?;
        let row = row_of(patch, found.to);
        let now = if high { top } else { low };
        let times = said_at(patch, found.to);
        let value = text::read_as(&row, typed, now, times)?;
        Ok(if high { (low, value) } else { (value, top) })
    }

    /// A source as text.
    pub(super) fn copy_source(&self, source: SourceId) -> Result<Reply, Refusal> {
        let found = self.history.present().source(source);
        let found = found.ok_or(Refusal::Gone("source"))?;
        Ok(Answer::Text {
            text: zolvik_json::text(found, Form::Lines),
        }
        .into())
    }

    /// Gives a source all but number and name of one that was copied.
    pub(super) fn paste_source(&mut self, source: SourceId, text: &str) -> Result<Reply, Refusal> {
        let found = self.history.present().source(source);
        let found = found.ok_or(Refusal::Gone("source"))?;
        let read: Source = zolvik_json::read(text).map_err(|_| {
            Refusal::Cannot("what was copied is no source of movement; copy one first")
        })?;
        let source = Source {
            id: found.id,
            name: found.name.clone(),
            ..read
        };
        let source = Box::new(source);
        self.edit(&Edit::SetSource { source }, None)
    }

    pub(super) fn type_way(
        &mut self,
        link: LinkId,
        high: bool,
        typed: &str,
    ) -> Result<Reply, Refusal> {
        let (low, high) = self.typed_end(link, way, high, typed)?;
        self.edit(&Edit::SetWay { link, low, high }, None)
    }

    /// The text of the patch with a macro at one of its ends.
    pub(super) fn at_end(&self, source: SourceId, high: bool) -> Result<Reply, Refusal> {
        let mut there = self.history.present().clone();
        let place = Address::new(Macro::PLACE, source.0);
        let value = if high { 1.0 } else { 0.0 };
        place.set(&mut there, value)?;
        let text = json::write(&there);
        Ok(Answer::Text { text }.into())
    }
}
