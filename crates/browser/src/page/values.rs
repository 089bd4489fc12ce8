//! Setting values by text, steps and drags: of one unit, or of several at once.

use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::catalogue::param;
use zolvik_patch::document::{UnitId, VoiceSettings};
use zolvik_patch::edit::{Edit, everywhere};
use zolvik_patch::envelope::BEAT_S;
use zolvik_patch::linked;
use zolvik_patch::movement::amount::row_of;
use zolvik_patch::param::Param;

use super::state::{Page, as_one};
use crate::protocol::Answer;
use crate::view::shown_times;

impl Page {
    /// Sets a value, and the same value of other units, each from what it is now.
    pub(super) fn set_all(
        &mut self,
        address: Address,
        units: &[UnitId],
        gesture: Option<u32>,
        next: impl Fn(&Param, f64) -> Result<f64, String>,
    ) -> Result<Answer, String> {
        let row = &row_of(self.history.present(), address);
        let mut edits = vec![];
        for address in everywhere(self.history.present(), address, units) {
            // others may lack the value: a table's position, say
            if let Ok(now) = self.current(address) {
                let times = shown_times(self.history.present(), address);
                let value = (next(row, now * times)? / times).clamp(row.min, row.max);
                edits.push(Edit::SetValue { address, value });
            }
        }
        match gesture {
            Some(gesture) => self.begin(gesture),
            None => self.start = None,
        }
        self.together(
            &row.label.to_lowercase(),
            linked::values(self.base(), edits),
            gesture,
        )
    }

    /// Sets a value, and the same value of other units, to what a new thing has.
    pub(super) fn reset(&mut self, address: Address, units: &[UnitId]) -> Result<Answer, String> {
        let row = row_of(self.history.present(), address);
        self.start = None;
        let all = everywhere(self.history.present(), address, units).into_iter();
        let edits = all.filter(|address| self.current(*address).is_ok());
        let value = row.default;
        let edits = edits
            .map(|address| Edit::SetValue { address, value })
            .collect();
        let label = row.label.to_lowercase();
        self.together(&label, linked::values(self.base(), edits), None)
    }

    /// Remembers the document as it was when a gesture began.
    pub(super) fn begin(&mut self, gesture: u32) {
        if self.start.as_ref().is_none_or(|(g, _)| *g != gesture) {
            self.start = Some((gesture, Box::new(self.history.present().clone())));
        }
    }

    /// Length of a beat for a typed note length: envelopes in beats are written for 120 beats a minute, all else
    /// takes the tempo as it is.
    pub(super) fn beat_s(&self, address: Address) -> f64 {
        let patch = self.history.present();
        let in_beats = patch
            .envelope(UnitId(address.id))
            .is_some_and(|e| e.in_beats);
        match in_beats && linked::is_of_envelope(address.param) {
            true => BEAT_S,
            false => 60.0 / patch.audition.tempo_bpm,
        }
    }

    /// The edit that drags a value; the same values of other units move as far along their bars from where they began.
    pub(super) fn drag(
        &mut self,
        address: Address,
        units: &[UnitId],
        (start, moved, fine): (f64, f64, bool),
        gesture: u32,
    ) -> Edit {
        self.begin(gesture);
        let row = row_of(self.history.present(), address);
        let began = self.start.as_ref().map(|(_, patch)| patch);
        let edits = everywhere(self.history.present(), address, units)
            .into_iter()
            .filter_map(|each| {
                let from = match each == address {
                    true => start,
                    false => each.get(began?).ok()?,
                };
                // back where it was taken is as it was, to the last digit
                let value = match moved {
                    0.0 => from,
                    moved => row.drag(from, moved, fine),
                };
                Some(Edit::SetValue {
                    address: each,
                    value,
                })
            })
            .collect();
        let edits = linked::values(self.base(), edits);
        as_one(&row.label.to_lowercase(), edits)
    }

    pub(super) fn trim(&mut self, true_peak_db: f64) -> Result<Answer, String> {
        const GOAL_DB: f64 = -1.0;
        if true_peak_db < -150.0 {
            return Err("the note is silent; there is nothing to trim".into());
        }
        let (address, row) = (
            Address::patch(VoiceSettings::TRIM_DB),
            param(VoiceSettings::TRIM_DB),
        );
        let now = self.current(address)?;
        let goal = ((now + GOAL_DB - true_peak_db) * 10.0).floor() / 10.0;
        self.set(address, goal.clamp(row.min, row.max), None)
    }

    /// What linked envelopes are compared with: the document as it was when the gesture began.
    pub(super) fn base(&self) -> &Patch {
        match &self.start {
            Some((_, patch)) => patch,
            None => self.history.present(),
        }
    }
}
