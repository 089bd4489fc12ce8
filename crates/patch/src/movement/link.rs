//! Links: from a source to a value, by an amount.

use super::shape::bent;
use crate::ids::{LinkId, SourceId};
use crate::params::address::Address;
use crate::params::choice::options;
use crate::params::param::{Quantity as Q, When};
use crate::params::part::part;
use crate::params::section::SectionId as S;
use crate::parts::look::look;
use crate::parts::voice::VoiceSettings;

options! {
    /// Which way a link takes its value.
    pub enum Direction {
        /// Both ways round the value: the middle of the source is rest.
        #[default]
        Both,
        /// From the value upward.
        Up,
        /// From the value downward.
        Down,
    }
}

impl Direction {
    /// From which to which it goes, in amounts.
    pub fn span(self) -> (f64, f64) {
        match self {
            Direction::Both => (-1.0, 1.0),
            Direction::Up => (0.0, 1.0),
            Direction::Down => (-1.0, 0.0),
        }
    }
}

part! {
    /// A link from a source to a value.
    pub struct Link: Link "link" in "" {
        also {
            /// Stable number.
            id: LinkId = LinkId(1),
            /// What moves.
            from: SourceId = SourceId(SourceId::FIRST),
            /// Whether it moves anything.
            on: bool = true,
            /// Which value is moved.
            to: Address = Address::patch(VoiceSettings::TRIM_DB),
            /// A second source that brings the movement in.
            #[serde(default, skip_serializing_if = "Option::is_none")]
            scaled_by: Option<SourceId> = None,
        }
        choices {
            DIRECTION direction: Direction = Direction::Both, "Direction", Link, When::Always, ["Bipolar", "Up", "Down"],
                "Bipolar: both ways round the value; unipolar up or down from it.";
        }
        values {
            AMOUNT amount: f64 = 0.0, -24000.0..24000.0, look("Amount", Q::Number, S::Link).decimals(3),
                "How far it moves the value, in the value's own unit; below zero it moves it the other way.";
            #[serde(default)]
            CURVE curve: f64 = 0.0, -1.0..1.0, look("Curve", Q::Bipolar, S::Link).step(0.05, 0.01).unmoved(),
                "Below zero the source moves little at first, above zero much at first.";
            #[serde(default, skip_serializing_if = "is_zero")]
            BEGIN_SHARE begin_share: f64 = 0.0, 0.0..1.0, look("Begins at", Q::Share, S::Link).step(0.05, 0.01).unmoved(),
                "Up to this place of the source it moves nothing.";
            #[serde(default = "one", skip_serializing_if = "is_one")]
            END_SHARE end_share: f64 = 1.0, 0.0..1.0, look("Ends at", Q::Share, S::Link).step(0.05, 0.01).unmoved(),
                "From this place of the source on it has done all it does.";
        }
    }
}

fn is_zero(value: &f64) -> bool {
    *value == 0.0
}

fn is_one(value: &f64) -> bool {
    *value == 1.0
}

fn one() -> f64 {
    1.0
}

impl Link {
    /// Which way it goes as it is read, and whether both ways round it is turned: an amount below zero is the other direction.
    pub fn said(&self) -> (Direction, bool) {
        match (self.direction, self.amount < 0.0) {
            (Direction::Up, true) => (Direction::Down, false),
            (Direction::Down, true) => (Direction::Up, false),
            (direction, turned) => (direction, turned),
        }
    }

    /// Lets it go another way, as far as it went.
    pub fn direct(&mut self, direction: Direction) {
        self.direction = direction;
        self.amount = self.amount.abs();
    }

    /// Turns it round: what rose falls.
    pub fn turn(&mut self) {
        match self.said() {
            (Direction::Both, _) => self.amount = -self.amount,
            (Direction::Up, _) => self.direct(Direction::Down),
            (Direction::Down, _) => self.direct(Direction::Up),
        }
    }

    /// How far along its own way it is where its source stands at a place.
    pub fn way(&self, place: f64) -> f64 {
        let span = (self.end_share - self.begin_share).max(SHORTEST_WAY);
        let along = ((place - self.begin_share) / span).clamp(0.0, 1.0);
        bent(along, self.curve)
    }

    /// How far it takes its value then, in the value's domain.
    pub fn motion(&self, place: f64) -> f64 {
        let along = self.way(place);
        let share = match self.direction {
            Direction::Both => 2.0 * along - 1.0,
            Direction::Up => along,
            Direction::Down => -along,
        };
        share * self.amount
    }
}

/// Shortest part of a source's way in which a link does all it does.
pub const SHORTEST_WAY: f64 = 0.001;
