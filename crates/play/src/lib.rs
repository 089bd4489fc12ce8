//! Plays patches in time: a phrase, a beat and the arpeggiator on one clock, live as in files.
//!
//! - [`Score`]: what is to be played, in beats; made off the audio path and sent there as bytes.
//! - [`Hands`]: who holds which keys, off the audio path.
//! - [`overload`]: whether the machine keeps up.
//! - [`Player`]: the engine with what plays it. Notes fall on their sample although the engine works in blocks.
//!
//! ```
//! use zolvik_engine::program::prepare;
//! use zolvik_patch::{Patch, hearing::Listening};
//! use zolvik_play::{Player, Score};
//! let patch = Patch::empty();
//! let mut player = Player::new(48_000.0);
//! player.engine.take(&prepare(&patch, &Listening::default()));
//! player.play(Score::of(&patch), true);
//! let (mut left, mut right, mut beat) = ([0.0; 480], [0.0; 480], [0.0; 480]);
//! player.process(&mut left, &mut right, &mut beat);
//! assert!(left.iter().any(|s| s.abs() > 0.1));
//! ```

mod arpeggiator;
mod drums;
mod hands;
pub mod inlet;
pub mod overload;
mod player;
pub mod recorder;
mod score;

pub use self::drums::Drums;
pub use self::hands::Hands;
pub use self::player::{Kept, Player};
pub use self::score::{NoScore, Score};
