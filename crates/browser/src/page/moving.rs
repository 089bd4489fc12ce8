//! Sources of movement and links: what is typed, copied and pasted of them.

use zolvik_patch::document::{LinkId, SourceId};
use zolvik_patch::edit::Edit;
use zolvik_patch::movement::Source;
use zolvik_patch::movement::link::{ends, row_of};
use zolvik_patch::text;

use super::Page;
use crate::protocol::Answer;

impl Page {
    /// Sets one end of a link; the other one stays where it is, and so does which end of the source leads there.
    pub(super) fn type_end(
        &mut self,
        link: LinkId,
        high: bool,
        typed: &str,
    ) -> Result<Answer, String> {
        let patch = self.history.present();
        let found = patch.link(link).ok_or("this link is gone")?;
        let (low, top) = ends(patch, found).ok_or("what it moved is gone")?;
        let row = row_of(patch, found.to);
        let now = if high { top } else { low };
        let value =
            text::read_as(&row, typed, now, self.beat_s(found.to)).map_err(|e| e.to_string())?;
        let (low, top) = if high { (low, value) } else { (value, top) };
        let (low, high) = if found.amount < 0.0 {
            (top, low)
        } else {
            (low, top)
        };
        self.edit(&Edit::SetEnds { link, low, high }, None)
    }

    /// A source as text.
    pub(super) fn copy_source(&self, source: SourceId) -> Result<Answer, String> {
        let found = self.history.present().source(source);
        let found = found.ok_or("this source is gone")?;
        serde_json::to_string_pretty(found)
            .map(|text| Answer::Text { text })
            .map_err(|e| e.to_string())
    }

    /// Gives a source all but number and name of one that was copied.
    pub(super) fn paste_source(&mut self, source: SourceId, text: &str) -> Result<Answer, String> {
        let found = self.history.present().source(source);
        let found = found.ok_or("this source is gone")?;
        let read: Source = serde_json::from_str(text)
            .map_err(|_| "what was copied is no source of movement; copy one first")?;
        let source = Source {
            id: found.id,
            name: found.name.clone(),
            ..read
        };
        let source = Box::new(source);
        self.edit(&Edit::SetSource { source }, None)
    }
}
