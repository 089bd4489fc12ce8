//! Strips: their envelopes, where they lead, and lines of text.

use zolvik_edit::offers::destination;
use zolvik_edit::{Edit, linked, offers};
use zolvik_layout::handles;
use zolvik_patch::envelope::READY;

use super::naming::Words;
use super::state::{GONE, Page};
use crate::inspect::{inspect, ready_envelopes};
use crate::protocol::{Answer, Refusal, Reply, StripQuestion};

impl Page {
    /// Answers what is asked of strips.
    pub(super) fn answer_strip(&mut self, question: StripQuestion) -> Result<Reply, Refusal> {
        let patch = self.history.present();
        match question {
            StripQuestion::Inspect { unit } => {
                let view = Box::new(inspect(patch, unit).ok_or(GONE)?);
                Ok(Answer::Inspected { view }.into())
            }
            StripQuestion::DragHandle {
                unit,
                at,
                bend,
                free,
                time_s,
                level,
                gesture,
            } => match handles::drag(patch, unit, (at, bend), (time_s, level), free) {
                Some(Edit::Together { label, edits }) => {
                    self.begin(gesture);
                    self.together(&label, linked::values(self.base(), edits), Some(gesture))
                }
                _ => Err(GONE),
            },
            StripQuestion::CopyEnvelope { unit } => match patch.envelope(unit) {
                Some(envelope) => {
                    self.copied = Some(envelope.clone());
                    Ok(self.document(vec![]))
                }
                None => Err(GONE),
            },
            StripQuestion::PasteEnvelope { units } => match self.copied.clone() {
                Some(envelope) => self.edit(&linked::envelope(patch, units, envelope), None),
                None => Err(Refusal::Cannot("no envelope was copied yet")),
            },
            StripQuestion::ReadyEnvelopes => Ok(Answer::Envelopes {
                list: ready_envelopes(),
            }
            .into()),
            StripQuestion::TakeReady { units, at } => match READY.get(at) {
                Some(ready) => self.edit(&linked::envelope(patch, units, ready.envelope()), None),
                None => Err(Refusal::NoSuch("envelope")),
            },
            StripQuestion::Drop { unit, onto, only } => {
                let edit = offers::drop(patch, unit, destination(onto), only);
                self.edit(&edit, None)
            }
            StripQuestion::DropWords { unit, onto } => Ok(Answer::Text {
                text: offers::drop_words(patch, unit, destination(onto)),
            }
            .into()),
            StripQuestion::Line { text } => Ok(self.line(&text).into()),
            StripQuestion::TakeLine { text, units } => self.take_line(&text, &units),
            StripQuestion::CopyStrips { units } => Ok(self.copy_strips(&units).into()),
            StripQuestion::Find { text } => Ok(self.find(&text).into()),
            StripQuestion::Ranked { text, names } => {
                let words = Words::of(&text);
                let far = names.iter().map(|name| words.called(name));
                Ok(Answer::Ranked { far: far.collect() }.into())
            }
            StripQuestion::Offers { kind, unit } => Ok(Answer::Offers {
                groups: offers::offers(patch, kind, unit),
            }
            .into()),
        }
    }
}
