//! Effects: ready settings, copying and pasting, bands that are dragged.

use zolvik_edit::Edit;
use zolvik_json::Form;
use zolvik_patch::address::Address;
use zolvik_patch::document::{ChainId, EffectId};
use zolvik_patch::finish::ready::ready_for;
use zolvik_patch::finish::{Effect, EffectName, EqBand};

use super::state::Page;
use crate::protocol::{Answer, EffectKindView, FinishQuestion, Refusal, Reply};

/// What copied effects begin with, so that they are told from other texts.
const COPIED: &str = "zolvik effects\n";

/// The kinds of effects, and the names of their ready settings.
pub(super) fn kinds() -> Vec<EffectKindView> {
    let view = |kind: &EffectName| EffectKindView {
        kind: *kind,
        label: kind.label(),
        help: kind.help(),
        ready: ready_for(*kind).map(|r| r.name).collect(),
    };
    EffectName::ALL.iter().map(view).collect()
}

impl Page {
    /// Answers what is asked of effects.
    pub(super) fn answer_finish(&mut self, question: FinishQuestion) -> Result<Reply, Refusal> {
        match question {
            FinishQuestion::TakeReadyEffect { effect, at } => self.take_ready_effect(effect, at),
            FinishQuestion::CopyEffects { effects } => self.copy_effects(&effects),
            FinishQuestion::PasteEffects { chain, at, text } => {
                self.paste_effects(chain, at, &text)
            }
            FinishQuestion::KeepEffect { effect } => self.keep_effect(effect),
            FinishQuestion::TakeKeptEffect { effect, name, text } => {
                self.take_kept_effect(effect, &name, &text)
            }
            FinishQuestion::KeptFor { kind, texts } => Ok(Page::kept_for(kind, &texts).into()),
            FinishQuestion::StepEffect { effect, behind } => self.step_effect(effect, behind),
            FinishQuestion::AddBand { effect, pointed } => self.add_band(effect, pointed),
            FinishQuestion::DragBand {
                effect,
                at,
                hz,
                gain_db,
                gesture,
            } => self.drag_band(effect, at, (hz, gain_db), gesture),
        }
    }

    fn effect(&self, id: EffectId) -> Result<&Effect, Refusal> {
        let found = self.history.present().effect(id);
        found.ok_or(Refusal::Gone("effect"))
    }

    /// Gives an effect one of the ready settings of its kind.
    pub(super) fn take_ready_effect(&mut self, id: EffectId, at: usize) -> Result<Reply, Refusal> {
        let kind = self.effect(id)?.kind.name();
        let ready = ready_for(kind)
            .nth(at)
            .ok_or(Refusal::NoSuch("ready setting"))?;
        let like = Effect {
            name: ready.name.into(),
            ..ready.make()
        };
        self.set_effect(id, like)
    }

    fn set_effect(&mut self, effect: EffectId, like: Effect) -> Result<Reply, Refusal> {
        let like = Box::new(like);
        self.edit(&Edit::SetEffect { effect, like }, None)
    }

    /// Effects as text.
    pub(super) fn copy_effects(&self, effects: &[EffectId]) -> Result<Reply, Refusal> {
        let list: Result<Vec<&Effect>, Refusal> =
            effects.iter().map(|id| self.effect(*id)).collect();
        let text = zolvik_json::text(&list?, Form::Lines);
        Ok(Answer::Text {
            text: format!("{COPIED}{text}"),
        }
        .into())
    }

    /// Puts effects that came as text into a chain.
    pub(super) fn paste_effects(
        &mut self,
        chain: ChainId,
        at: Option<usize>,
        text: &str,
    ) -> Result<Reply, Refusal> {
        let own = text.trim_start().strip_prefix(COPIED);
        let own = own.ok_or(Refusal::Cannot("this is no copied effect; copy one first"))?;
        let effects: Vec<Effect> = zolvik_json::read(own).map_err(|why| Refusal::Kept {
            what: "these effects".into(),
            why,
            hint: "were they made by a newer version?",
        })?;
        self.edit(&Edit::PasteEffects { chain, at, effects }, None)
    }

    /// A setting to be kept in the store.
    pub(super) fn keep_effect(&self, id: EffectId) -> Result<Reply, Refusal> {
        let text = zolvik_json::text(self.effect(id)?, Form::Dense);
        Ok(Answer::Text { text }.into())
    }

    /// Gives an effect a setting that was kept.
    pub(super) fn take_kept_effect(
        &mut self,
        id: EffectId,
        name: &str,
        text: &str,
    ) -> Result<Reply, Refusal> {
        let kept: Effect = zolvik_json::read(text).map_err(|why| Refusal::Kept {
            what: format!("“{name}”"),
            why,
            hint: "was it kept by a newer version?",
        })?;
        let kind = self.effect(id)?.kind.name();
        if kept.kind.name() != kind {
            return Err(Refusal::OtherKind {
                name: name.into(),
                of: kept.kind.name().label(),
                wanted: kind.label(),
            });
        }
        let name = name.to_string();
        self.set_effect(id, Effect { name, ..kept })
    }

    /// Which of some kept settings are for a kind of effect.
    pub(super) fn kept_for(kind: EffectName, texts: &[String]) -> Answer {
        let of = |text: &String| zolvik_json::read(text).ok().map(|e: Effect| e.kind.name());
        // what cannot be read is offered too, and says why when it is taken
        let fits = texts
            .iter()
            .map(|text| of(text).is_none_or(|own| own == kind));
        Answer::Fits {
            fits: fits.collect(),
        }
    }

    /// Puts an effect behind or before its neighbour; at the end nothing happens.
    pub(super) fn step_effect(&mut self, effect: EffectId, behind: bool) -> Result<Reply, Refusal> {
        match self.history.present().finish.next_place(effect, behind) {
            Some((chain, at)) => self.edit(&Edit::MoveEffect { effect, chain, at }, None),
            None => Ok(self.document(vec![])),
        }
    }

    /// Adds a band: where one pointed, or amid the widest gap.
    pub(super) fn add_band(
        &mut self,
        effect: EffectId,
        pointed: Option<(f64, f64)>,
    ) -> Result<Reply, Refusal> {
        let band = EqBand::beside(self.effect(effect)?.bands(), pointed);
        self.edit(&Edit::AddBand { effect, band }, None)
    }

    /// Puts a band at a frequency and gain.
    pub(super) fn drag_band(
        &mut self,
        effect: EffectId,
        at: usize,
        (hz, gain_db): (f64, f64),
        gesture: u32,
    ) -> Result<Reply, Refusal> {
        let bands = self.effect(effect)?.bands();
        let mut band = *bands.get(at).ok_or(Refusal::Gone("band"))?;
        band.put(hz, gain_db);
        let set = |id, value| Edit::SetValue {
            address: Address::band(effect, at, id),
            value,
        };
        let edits = vec![set(EqBand::HZ, band.hz), set(EqBand::GAIN_DB, band.gain_db)];
        self.together("band", edits, Some(gesture))
    }
}
