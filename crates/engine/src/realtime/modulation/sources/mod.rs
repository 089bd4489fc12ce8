//! Kinds of sources, a file for each.

mod chance;
mod envelope;
mod follower;
pub(super) mod kind;
mod knob;
mod lfo;
mod played;
mod steps;

use zolvik_patch::movement::SourceName;

use self::kind::Kind;

/// What a kind says of itself.
pub(super) const fn kind(name: SourceName) -> &'static Kind {
    match name {
        SourceName::Lfo => &lfo::KIND,
        SourceName::Steps => &steps::KIND,
        SourceName::Envelope => &envelope::KIND,
        SourceName::Random => &chance::KIND,
        SourceName::Played => &played::KIND,
        SourceName::Follower => &follower::KIND,
        SourceName::Macro => &knob::KIND,
    }
}
