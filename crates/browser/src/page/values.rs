//! Setting values by text, steps and drags: of one unit, or of several at once.

use zolvik_edit::linked;
use zolvik_edit::twins;
use zolvik_edit::{Edit, everywhere};
use zolvik_lab::level::trimmed_db;
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::catalogue::param;
use zolvik_patch::document::{Audition, LinkId, UnitId, VoiceSettings};
use zolvik_patch::levels::gain_db;
use zolvik_patch::movement::amount::row_of;
use zolvik_patch::movement::{Direction, Link};
use zolvik_patch::param::{Param, Quantity};
use zolvik_patch::text;
use zolvik_patch::timing::said_at;

use super::state::{Page, as_one};
use crate::protocol::{Answer, Refusal, Reply, ValueQuestion};
use crate::view::{shown_row, shown_times, spread};

/// Which way a link goes after an amount was typed, and whether both ways round it is turned: without a sign as before.
fn signed((direction, turned): (Direction, bool), text: &str, typed: f64) -> (Direction, bool) {
    let has_plus = text.trim_start().starts_with('+');
    match direction {
        Direction::Both => (Direction::Both, typed < 0.0 || turned && !has_plus),
        _ if typed < 0.0 => (Direction::Down, false),
        Direction::Down if has_plus => (Direction::Up, false),
        direction => (direction, false),
    }
}

impl Page {
    /// Answers what is asked of values.
    pub(super) fn answer_value(&mut self, question: ValueQuestion) -> Result<Reply, Refusal> {
        let patch = self.history.present();
        match question {
            ValueQuestion::Type {
                address,
                units,
                text,
            } => self.type_value(address, &units, &text),
            ValueQuestion::Spread { address, units } => {
                let all = everywhere(patch, address, &units);
                Ok(Answer::Spread {
                    spread: spread(patch, &all),
                    count: all.iter().filter(|a| a.get(patch).is_ok()).count(),
                }
                .into())
            }
            ValueQuestion::Hint { address, text } => Ok(Answer::Text {
                text: self.hint(address, &text).unwrap_or_default(),
            }
            .into()),
            ValueQuestion::Nudge {
                address,
                units,
                steps,
                fine,
                gesture,
            } => self.set_all(address, &units, gesture, |row, now| {
                Ok(row.nudge(now, steps, fine))
            }),
            ValueQuestion::Drag {
                address,
                units,
                start,
                moved,
                fine,
                gesture,
            } => {
                let edit = self.drag(address, &units, (start, moved, fine), gesture);
                self.edit(&edit, Some(gesture))
            }
            ValueQuestion::Place {
                address,
                place,
                gesture,
            } => self.set_all(
                address,
                &[],
                Some(gesture),
                |row, _| Ok(row.value_at(place)),
            ),
            ValueQuestion::Reset { address, units } => self.reset(address, &units),
            ValueQuestion::TrimTo { true_peak_db } => self.trim(true_peak_db),
            ValueQuestion::ChangeWords { change_db } => Ok(Answer::Text {
                text: text::signed_decibels(change_db),
            }
            .into()),
            ValueQuestion::TimeWords { time_s } => {
                let (time, unit) = text::seconds(time_s);
                Ok(Answer::Text {
                    text: format!("{time} {unit}"),
                }
                .into())
            }
            ValueQuestion::LevelWords { amplitude } => Ok(Answer::Text {
                text: text::decibels(gain_db(amplitude.max(1e-9)), "dB"),
            }
            .into()),
            ValueQuestion::KeyOf { text } => {
                let key = text::read(Audition::NOTE, &text, 60.0)? as u8;
                Ok(Answer::Key { key }.into())
            }
        }
    }

    /// Sets a value, and the same value of other units, each from what it is now.
    pub(super) fn set_all(
        &mut self,
        address: Address,
        units: &[UnitId],
        gesture: Option<u32>,
        next: impl Fn(&Param, f64) -> Result<f64, Refusal>,
    ) -> Result<Reply, Refusal> {
        let signed = row_of(self.history.present(), address);
        let row = &shown_row(self.history.present(), address);
        let mut edits = vec![];
        for address in everywhere(self.history.present(), address, units) {
            // others may lack the value: a table's position, say
            if let Ok(now) = self.current(address) {
                let times = shown_times(self.history.present(), address);
                let value = (next(row, now * times)? / times).clamp(signed.min, signed.max);
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
    pub(super) fn reset(&mut self, address: Address, units: &[UnitId]) -> Result<Reply, Refusal> {
        let row = row_of(self.history.present(), address);
        self.start = None;
        let all = everywhere(self.history.present(), address, units).into_iter();
        let edits = all.filter(|address| self.current(*address).is_ok());
        let value = row.default;
        let patch = self.history.present();
        let times = |address| match row.min < 0.0 {
            true => shown_times(patch, address).signum(),
            false => 1.0,
        };
        let edits = edits
            .map(|address| Edit::SetValue {
                address,
                value: value * times(address),
            })
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

    /// Sets a value from typed text, and the same value of other units: to the same, or each from what it is where the text says so.
    pub(super) fn type_value(
        &mut self,
        address: Address,
        units: &[UnitId],
        text: &str,
    ) -> Result<Reply, Refusal> {
        let patch = self.history.present();
        if address.param == Link::AMOUNT {
            return self.type_amount(address, units, text);
        }
        if let Some((meant, mut edits)) = twins::meant(patch, address, text) {
            let (row, now) = (row_of(patch, meant), self.current(meant)?);
            let times = said_at(patch, meant);
            let value = text::read_as(&row, text, now, times)?;
            edits.push(Edit::SetValue {
                address: meant,
                value,
            });
            self.start = None;
            return self.together(&row.label.to_lowercase(), edits, None);
        }
        let times = said_at(patch, address);
        let read = move |row: &Param, now: f64| Ok(text::read_as(row, text, now, times)?);
        if text::is_relative(text) {
            return self.set_all(address, units, None, read);
        }
        // a number means the same for all of them, whatever unit each is shown in
        let now = self.current(address)? * shown_times(patch, address);
        let value = read(&row_of(patch, address), now)?;
        self.set_all(address, units, None, |_, _| Ok(value))
    }

    /// Sets how far links go from typed text. A sign says which way: what is below zero goes down, and what goes both ways is turned round.
    fn type_amount(
        &mut self,
        address: Address,
        units: &[UnitId],
        text: &str,
    ) -> Result<Reply, Refusal> {
        let patch = self.history.present();
        let times = said_at(patch, address);
        let row = row_of(patch, address);
        let (first, mut edits) = (self.current(address)?.abs(), vec![]);
        for address in everywhere(patch, address, units) {
            let Some(link) = patch.link(LinkId(address.id)) else {
                continue;
            };
            let own = link.amount.abs();
            let now = if text::is_relative(text) { own } else { first };
            let typed = text::read_as(&row, text, now, times)?;
            let (direction, turned) = signed(link.said(), text, typed);
            let sign = if turned { -1.0 } else { 1.0 };
            edits.push(Edit::DirectLink {
                link: link.id,
                direction,
            });
            edits.push(Edit::SetValue {
                address,
                value: sign * typed.abs(),
            });
        }
        self.start = None;
        self.together("amount", edits, None)
    }

    /// What is good to know of a text before it is taken.
    pub(super) fn hint(&self, address: Address, text: &str) -> Option<String> {
        let patch = self.history.present();
        if let Some(link) = patch
            .link(LinkId(address.id))
            .filter(|_| address.param == Link::AMOUNT)
        {
            let row = row_of(patch, address);
            let now = link.amount.abs();
            let typed = text::read_as(&row, text, now, said_at(patch, address)).ok()?;
            let amount = text::write_as(&row, typed.abs()).to_string();
            let amount = amount.trim_start_matches('+');
            return match (signed(link.said(), text, typed), link.said()) {
                (now, before) if now == before => None,
                ((Direction::Down, _), _) => Some(format!("goes down by {amount}")),
                ((Direction::Up, _), _) => Some(format!("goes up by {amount}")),
                ((Direction::Both, turned), _) => Some(match turned {
                    true => format!("both ways by {amount}, turned round"),
                    false => format!("both ways by {amount}"),
                }),
            };
        }
        if let Some((meant, _)) = twins::meant(patch, address, text) {
            let in_beats = row_of(patch, meant).quantity == Quantity::Beats;
            let words = if in_beats {
                "follows the tempo"
            } else {
                "no longer follows the tempo"
            };
            return Some(words.into());
        }
        let now = self.current(address).ok()? * shown_times(patch, address);
        text::hint(&row_of(patch, address), text, now, said_at(patch, address))
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
        let row = shown_row(self.history.present(), address);
        let is_amount = address.param == Link::AMOUNT;
        let began = self.start.as_ref().map(|(_, patch)| patch);
        let edits = everywhere(self.history.present(), address, units)
            .into_iter()
            .filter_map(|each| {
                let was = each.get(began?).ok()?;
                // an amount is shown without its sign, and keeps it
                let sign = if is_amount && was < 0.0 { -1.0 } else { 1.0 };
                let from = match each == address {
                    true => start,
                    false => was * sign,
                };
                // back where it was taken is as it was, to the last digit
                let value = match moved {
                    0.0 => from,
                    moved => row.drag(from, moved, fine),
                };
                Some(Edit::SetValue {
                    address: each,
                    value: value * sign,
                })
            })
            .collect();
        let edits = linked::values(self.base(), edits);
        as_one(&row.label.to_lowercase(), edits)
    }

    pub(super) fn trim(&mut self, true_peak_db: f64) -> Result<Reply, Refusal> {
        let (address, row) = (
            Address::patch(VoiceSettings::TRIM_DB),
            param(VoiceSettings::TRIM_DB),
        );
        let now = self.current(address)?;
        let goal = trimmed_db(now, true_peak_db).ok_or(Refusal::Cannot(
            "the note is silent; there is nothing to trim",
        ))?;
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
