//! Links that went with the send they moved, where nothing took its place: told at the strip and at the source until they are made anew.

use zolvik_patch::Patch;
use zolvik_patch::catalogue::param;
use zolvik_patch::document::{LinkId, RouteId, SourceId};
use zolvik_patch::movement::{Link, target};
use zolvik_patch::param::Owner;

use crate::view::LooseView;

/// The links there are before an edit.
pub(super) struct Held {
    all: Vec<LinkId>,
    to_sends: Vec<(LinkId, RouteId, LooseView)>,
}

/// Those told now.
#[derive(Default)]
pub(super) struct Loose(Vec<LooseView>);

impl Loose {
    /// All links, and what would be told of those to sends.
    pub(super) fn held(patch: &Patch) -> Held {
        let links = patch.movement.links.iter();
        let to_sends = links.filter(|link| is_to_send(link));
        let view = |link: &Link| {
            let unit = target::unit_of(patch, link.to)?;
            let source = &patch.source(link.from)?.name;
            let value = target::name(patch, link.to);
            let words = format!("{source} moved {value}, which is gone with its route");
            let source = link.from;
            let view = LooseView {
                source,
                unit,
                words,
            };
            Some((link.id, RouteId(link.to.id), view))
        };
        Held {
            all: patch.movement.links.iter().map(|link| link.id).collect(),
            to_sends: to_sends.filter_map(view).collect(),
        }
    }

    /// After an edit: what lost its send is told, what is linked anew or has nothing to be linked with is told no more.
    pub(super) fn after(&mut self, held: Held, patch: &Patch) {
        let is_new = |link: &Link| !held.all.contains(&link.id);
        self.0
            .retain(|loose| !patch.links_of(loose.source).any(is_new));
        // where two become one send the same source moves that once, and nothing is lost
        let goes_on = |view: &LooseView| {
            let mut links = patch.links_of(view.source);
            links.any(|l| is_to_send(l) && target::unit_of(patch, l.to) == Some(view.unit))
        };
        let lost = held.to_sends.into_iter().filter(|(link, route, view)| {
            patch.link(*link).is_none() && patch.route(*route).is_none() && !goes_on(view)
        });
        self.0.extend(lost.map(|(_, _, view)| view));
        self.0.retain(|loose| {
            patch.source(loose.source).is_some() && patch.unit(loose.unit).is_some()
        });
    }

    /// Tells no more of a source.
    pub(super) fn forget(&mut self, source: SourceId) {
        self.0.retain(|loose| loose.source != source);
    }

    pub(super) fn list(&self) -> &[LooseView] {
        &self.0
    }
}

fn is_to_send(link: &Link) -> bool {
    param(link.to.param).owner == Owner::Route
}
