//! Links that went with the send they moved, where nothing took its place: told at the strip and at the source until they are made anew.

use zolvik_patch::Patch;
use zolvik_patch::catalogue::param;
use zolvik_patch::document::{LinkId, RouteId, SourceId};
use zolvik_patch::movement::target;
use zolvik_patch::param::Owner;

use crate::view::LooseView;

/// A link to a send, as it is before an edit.
pub(super) struct Held {
    link: LinkId,
    route: RouteId,
    view: LooseView,
}

/// Those told now.
#[derive(Default)]
pub(super) struct Loose(Vec<LooseView>);

impl Loose {
    /// All links to sends.
    pub(super) fn held(patch: &Patch) -> Vec<Held> {
        let links = patch.movement.links.iter();
        let to_sends = links.filter(|link| param(link.to.param).owner == Owner::Route);
        let view = |link: &zolvik_patch::movement::Link| {
            let unit = target::unit_of(patch, link.to)?;
            let source = &patch.source(link.from)?.name;
            let value = target::name(patch, link.to);
            let words = format!("{source} moved {value}, which is gone with its route");
            let (link, source) = (link.id, link.from);
            let route = RouteId(patch.link(link)?.to.id);
            let view = LooseView {
                source,
                unit,
                words,
            };
            Some(Held { link, route, view })
        };
        to_sends.filter_map(view).collect()
    }

    /// After an edit: what lost its send is told, what is linked anew or has nothing to be linked with is told no more.
    pub(super) fn after(&mut self, held: Vec<Held>, patch: &Patch) {
        let had: Vec<LinkId> = held.iter().map(|h| h.link).collect();
        let grew = |source: SourceId| {
            let mut to_sends = patch.links_of(source);
            to_sends.any(|l| param(l.to.param).owner == Owner::Route && !had.contains(&l.id))
        };
        self.0.retain(|loose| !grew(loose.source));
        let lost = held
            .into_iter()
            .filter(|h| patch.link(h.link).is_none() && patch.route(h.route).is_none());
        self.0.extend(lost.map(|h| h.view));
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
