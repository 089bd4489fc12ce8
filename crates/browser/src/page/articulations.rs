//! What is different in the articulations, side by side.

use zolvik_patch::Patch;
use zolvik_patch::movement::amount::row_of;
use zolvik_patch::movement::target;
use zolvik_patch::playing::articulation::Difference;
use zolvik_patch::playing::differing;
use zolvik_patch::text;

use super::state::Page;
use crate::protocol::{Answer, DifferenceView};

impl Page {
    /// What is different in the articulations, side by side.
    pub(super) fn differences(&self) -> Answer {
        let base = differing::for_file(self.history.present());
        let list = &base.playing.articulations;
        let mut about: Vec<&Difference> = vec![];
        for difference in list.iter().flat_map(|a| &a.differences) {
            if !about.iter().any(|known| known.same_place(difference)) {
                about.push(difference);
            }
        }
        let all: Vec<Patch> = (0..=list.len())
            .map(|n| {
                let mut there = base.clone();
                there.playing.articulation = None;
                differing::switch(&mut there, n.checked_sub(1).map(|at| at as u8));
                there
            })
            .collect();
        let rows = about.iter().map(|difference| {
            let values: Vec<String> = all
                .iter()
                .map(|patch| in_words(patch, difference))
                .collect();
            let present: Vec<_> = all.iter().map(|patch| difference.present(patch)).collect();
            DifferenceView {
                title: title(&base, difference),
                same: present.iter().map(|p| *p == present[0]).collect(),
                values,
            }
        });
        let names = list.iter().map(|a| a.name.clone());
        Answer::Differences {
            names: std::iter::once("Base".into()).chain(names).collect(),
            rows: rows.collect(),
        }
    }
}

fn title(patch: &Patch, difference: &Difference) -> String {
    let unit = |id: zolvik_patch::document::UnitId| match id.source() {
        Some(source) => patch.source(source).map(|s| s.name.clone()),
        None => patch.unit(id).map(|u| u.name.clone()),
    };
    let named = |name: Option<String>, what: &str| format!("{} {what}", name.unwrap_or_default());
    match difference {
        Difference::Value { address, .. } => target::name(patch, *address),
        Difference::Envelope { unit: id, .. } => named(unit(*id), "envelope"),
        Difference::Shape { source, .. } => named(unit((*source).into()), "shape"),
        Difference::Unit { unit: id, .. } => named(unit(*id), "on"),
        Difference::Source { source, .. } => named(unit((*source).into()), "on"),
        Difference::Link { link, .. } => {
            let found = patch.link(*link);
            let to = found.map_or_else(String::new, |l| target::name(patch, l.to));
            format!("link to {to} on")
        }
        Difference::Effect { effect, .. } => {
            named(patch.effect(*effect).map(|e| e.title().to_owned()), "on")
        }
    }
}

fn in_words(patch: &Patch, difference: &Difference) -> String {
    let on = |on: bool| if on { "on" } else { "off" }.to_string();
    match difference.present(patch) {
        Some(Difference::Value { address, value }) => {
            text::write_as(&row_of(patch, address), value).to_string()
        }
        Some(Difference::Envelope { envelope, .. }) => {
            let times = envelope
                .points
                .iter()
                .map(|p| text::write(zolvik_patch::document::Point::TIME_S, p.time_s).to_string());
            times.collect::<Vec<_>>().join(", ")
        }
        Some(Difference::Shape { kind, .. }) => match &*kind {
            zolvik_patch::movement::SourceKind::Steps(steps) => {
                format!("{} steps", steps.steps.len())
            }
            zolvik_patch::movement::SourceKind::Lfo(lfo) => format!("{} points", lfo.points.len()),
            _ => String::new(),
        },
        Some(
            Difference::Unit { on: is, .. }
            | Difference::Source { on: is, .. }
            | Difference::Link { on: is, .. }
            | Difference::Effect { on: is, .. },
        ) => on(is),
        None => String::new(),
    }
}
