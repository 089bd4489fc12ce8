//! Values that are said in seconds or hertz, or in beats of the tempo: a choice says which of the two holds.
//!
//! What is typed chooses: `1/8 dotted` into a time in seconds follows the tempo from then on, `300 ms` into one in beats no longer does.

use crate::edit::Edit;
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::document::UnitId;
use zolvik_patch::finish::Delay;
use zolvik_patch::movement::Timing;
use zolvik_patch::param::{ChoiceId, ParamId};

/// A value said in two ways.
struct Twin {
    /// In seconds or, where it is a rate, in hertz.
    free: ParamId,
    /// In beats.
    in_beats: ParamId,
    /// Which of both holds: the first option is the free one.
    choice: ChoiceId,
    is_rate: bool,
}

const fn twin(free: ParamId, in_beats: ParamId, choice: ChoiceId) -> Twin {
    Twin {
        free,
        in_beats,
        choice,
        is_rate: false,
    }
}

const TWINS: [Twin; 4] = [
    twin(Timing::DELAY_S, Timing::DELAY_BEATS, Timing::DELAY_BY),
    twin(Delay::LEFT_S, Delay::LEFT_BEATS, Delay::CLOCK),
    twin(Delay::RIGHT_S, Delay::RIGHT_BEATS, Delay::CLOCK),
    Twin {
        is_rate: true,
        ..twin(Timing::RATE_HZ, Timing::CYCLE_BEATS, Timing::CLOCK)
    },
];

const NOTE_WORDS: [&str; 4] = ["dotted", "triplet", "beat", "bar"];
const TIME_WORDS: [&str; 3] = ["ms", "sec", "hz"];

/// The other value that is meant by a text, and the edits that let it hold; the values beside it that go by the same choice stay what they are.
/// None where the text says the value it was typed into.
pub fn meant(patch: &Patch, address: Address, text: &str) -> Option<(Address, Vec<Edit>)> {
    let plain = text.trim().to_lowercase();
    let says = |words: &[&str]| words.iter().any(|word| plain.contains(word));
    let twin = TWINS
        .iter()
        .find(|t| t.free == address.param || t.in_beats == address.param)?;
    let is_free = twin.free == address.param;
    // one part of a whole is a note length, but of a rate it is a number
    let is_note =
        says(&NOTE_WORDS) || plain.contains('/') && !plain.starts_with('/') && !twin.is_rate;
    let is_time = says(&TIME_WORDS) || plain.ends_with('s') && !says(&NOTE_WORDS);
    let to = match is_free {
        true if is_note && !is_time => twin.in_beats,
        false if is_time => twin.free,
        _ => return None,
    };
    let choose = Edit::Choose {
        units: vec![UnitId(address.id)],
        choice: twin.choice,
        at: usize::from(is_free),
    };
    let mut edits = vec![choose];
    let beside = TWINS
        .iter()
        .filter(|t| t.choice == twin.choice && t.free != twin.free);
    for other in beside {
        let at = |param| Address { param, ..address };
        let beats = 60.0 / patch.audition.tempo_bpm;
        let (from, into, times) = match is_free {
            true => (other.free, other.in_beats, 1.0 / beats),
            false => (other.in_beats, other.free, beats),
        };
        let row = zolvik_patch::catalogue::param(into);
        edits.extend(at(from).get(patch).ok().map(|value| Edit::SetValue {
            address: at(into),
            value: (value * times).clamp(row.min, row.max),
        }));
    }
    Some((
        Address {
            param: to,
            ..address
        },
        edits,
    ))
}
