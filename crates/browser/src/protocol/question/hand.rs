//! What hands and keyboards send.

use serde::Deserialize;
use zolvik_play::inlet::{Moved, Touch};

use crate::gestures::Gesture;

/// What hands and keyboards send.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case", remote = "Self")]
#[cfg_attr(feature = "types", ts(tag = "ask"))]
pub enum HandQuestion {
    /// What a message from a keyboard or controller means.
    Take {
        /// The way it came in: the screen, the computer's keys, a keyboard.
        way: String,
        /// Its bytes.
        bytes: Vec<u8>,
        /// When it came, in milliseconds.
        time_ms: f64,
        /// How the keyboard is touched.
        touch: Touch,
    },
    /// Ways in go, or their window has the hand no more: what they hold is let go. Without any, all do.
    LetGo {
        /// Which.
        ways: Vec<String>,
    },
    /// What controllers have learnt, as kept: JSON each. What cannot be read is passed over.
    Knows {
        /// One text for each.
        kept: Vec<String>,
    },
    /// The next controller that is moved will move this; or none will.
    Learn {
        /// What.
        what: Option<Moved>,
    },
    /// Nothing moves this any more.
    Forget {
        /// What.
        what: Moved,
    },
    /// Something a player does with the simulated controller.
    Gesture {
        /// What.
        what: Gesture,
    },
}
