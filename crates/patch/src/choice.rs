//! Values that are one of a few: their labels and choices stand here and nowhere else, as [`crate::catalogue`] has the
//! numbers.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::document::{
    Bend, Glide, Mode, Patch, Priority, Quality, Response, Slope, Start, Unit, UnitKind,
};

/// The name of a choice, as in messages.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs)] // each is documented by its row's `help`
pub enum ChoiceId {
    OperatorStart,
    SamplePlay,
    SampleDirection,
    SampleFollow,
    FilterResponse,
    FilterSlope,
    ShaperBend,
    VoiceMode,
    VoicePriority,
    VoiceGlide,
    UnisonStart,
    VoiceQuality,
    VoiceRender,
}

/// One choice.
#[derive(Debug, Clone, Copy)]
pub struct Choice {
    /// Which.
    pub id: ChoiceId,
    /// Label on the screen.
    pub label: &'static str,
    /// What can be chosen, in words.
    pub options: &'static [&'static str],
    /// What it does, in one sentence.
    pub help: &'static str,
}

/// All choices: first those of units, then those of the patch as a whole.
pub const CHOICES: &[Choice] = &[
    Choice {
        id: ChoiceId::OperatorStart,
        label: "Phase",
        options: &["Fixed", "Random", "Free"],
        help: "Where in its cycle a note begins: always the same, by chance, or running on.",
    },
    Choice {
        id: ChoiceId::SamplePlay,
        label: "Play",
        options: &["Once", "Loop"],
        help: "Once from start to end, or round and round inside the loop.",
    },
    Choice {
        id: ChoiceId::SampleDirection,
        label: "Direction",
        options: &["Forward", "Reverse"],
        help: "Which way it is played.",
    },
    Choice {
        id: ChoiceId::SampleFollow,
        label: "Pitch",
        options: &["Fixed", "By key"],
        help: "The same pitch on every key, or the key's.",
    },
    Choice {
        id: ChoiceId::FilterResponse,
        label: "Lets through",
        options: &[
            "Low", "High", "Band", "Notch", "Peak", "Comb +", "Comb −", "Vowel",
        ],
        help: "What the filter lets through; combs ring at the key's pitch.",
    },
    Choice {
        id: ChoiceId::FilterSlope,
        label: "Slope",
        options: &["12 dB", "24 dB"],
        help: "How steep it is, in decibels an octave.",
    },
    Choice {
        id: ChoiceId::ShaperBend,
        label: "Bends",
        options: &["Soft", "Hard", "Fold", "Rectify"],
        help: "Rounds peaks, cuts them, turns them back, or turns the lower half up.",
    },
    Choice {
        id: ChoiceId::VoiceMode,
        label: "Notes",
        options: &["Poly", "Mono", "Legato"],
        help: "Every key a note; one note struck anew by every key; or one note that overlapping keys only retune.",
    },
    Choice {
        id: ChoiceId::VoicePriority,
        label: "Priority",
        options: &["Last", "Lowest", "Highest"],
        help: "Which of several held keys sounds in mono and legato.",
    },
    Choice {
        id: ChoiceId::VoiceGlide,
        label: "Glides",
        options: &["Always", "On overlap"],
        help: "From every note to the next, or only while another key is held.",
    },
    Choice {
        id: ChoiceId::UnisonStart,
        label: "Copies begin",
        options: &["Alike", "Random", "Free"],
        help: "Where in their cycles the copies begin: all alike for a hit that is always the same, by chance for width, or running on.",
    },
    Choice {
        id: ChoiceId::VoiceQuality,
        label: "Playing",
        options: &["1 ×", "2 ×", "4 ×", "8 ×"],
        help: "Computed at so many times the rate while played: cleaner, and as much dearer.",
    },
    Choice {
        id: ChoiceId::VoiceRender,
        label: "Rendering",
        options: &["As played", "1 ×", "2 ×", "4 ×", "8 ×"],
        help: "Computed at so many times the rate when written to a file.",
    },
];

/// The row of a choice.
pub fn choice(id: ChoiceId) -> &'static Choice {
    &CHOICES[id as usize]
}

fn at<T: PartialEq>(all: &[T], value: &T) -> usize {
    all.iter().position(|v| v == value).unwrap_or(0)
}

/// Sets a place from a list; what the list does not have changes nothing.
fn put<T: Copy>(all: &[T], to: usize, place: &mut T) -> Option<()> {
    *place = *all.get(to)?;
    Some(())
}

/// What a unit has chosen; none if it has no such choice.
pub fn of_unit(unit: &Unit, id: ChoiceId) -> Option<usize> {
    Some(match (&unit.kind, id) {
        (UnitKind::Operator(o), ChoiceId::OperatorStart) => at(&Start::ALL, &o.start),
        (UnitKind::Sample(s), ChoiceId::SamplePlay) => usize::from(s.looped),
        (UnitKind::Sample(s), ChoiceId::SampleDirection) => usize::from(s.reverse),
        (UnitKind::Sample(s), ChoiceId::SampleFollow) => usize::from(s.key_follow),
        (UnitKind::Filter(f), ChoiceId::FilterResponse) => at(&Response::ALL, &f.response),
        (UnitKind::Filter(f), ChoiceId::FilterSlope) => at(&Slope::ALL, &f.slope),
        (UnitKind::Shaper(s), ChoiceId::ShaperBend) => at(&Bend::ALL, &s.bend),
        _ => return None,
    })
}

/// Chooses for a unit; none if it has no such choice.
pub fn set_unit(unit: &mut Unit, id: ChoiceId, to: usize) -> Option<()> {
    const NO_YES: [bool; 2] = [false, true];
    match (&mut unit.kind, id) {
        (UnitKind::Operator(o), ChoiceId::OperatorStart) => put(&Start::ALL, to, &mut o.start),
        (UnitKind::Sample(s), ChoiceId::SamplePlay) => put(&NO_YES, to, &mut s.looped),
        (UnitKind::Sample(s), ChoiceId::SampleDirection) => put(&NO_YES, to, &mut s.reverse),
        (UnitKind::Sample(s), ChoiceId::SampleFollow) => put(&NO_YES, to, &mut s.key_follow),
        (UnitKind::Filter(f), ChoiceId::FilterResponse) => {
            let was = f.response;
            put(&Response::ALL, to, &mut f.response)?;
            if f.response.is_comb() && !was.is_comb() {
                // a comb is tuned: it rings at the key's own pitch, gently at first
                f.cutoff_hz = crate::filter::reference_hz();
                (f.key_follow, f.sweep_oct) = (1.0, 0.0);
                (f.resonance, f.mix) = (0.7, 0.5);
            }
            Some(())
        }
        (UnitKind::Filter(f), ChoiceId::FilterSlope) => put(&Slope::ALL, to, &mut f.slope),
        (UnitKind::Shaper(s), ChoiceId::ShaperBend) => put(&Bend::ALL, to, &mut s.bend),
        _ => None,
    }
}

/// What the patch as a whole has chosen; none if it is a unit's choice.
pub fn of_patch(patch: &Patch, id: ChoiceId) -> Option<usize> {
    let voice = &patch.voice;
    Some(match id {
        ChoiceId::VoiceMode => at(&Mode::ALL, &voice.mode),
        ChoiceId::VoicePriority => at(&Priority::ALL, &voice.priority),
        ChoiceId::VoiceGlide => at(&Glide::ALL, &voice.glide),
        ChoiceId::UnisonStart => at(&Start::ALL, &voice.unison.start),
        ChoiceId::VoiceQuality => at(&Quality::ALL, &voice.quality),
        ChoiceId::VoiceRender => voice
            .render_quality
            .map_or(0, |quality| at(&Quality::ALL, &quality) + 1),
        _ => return None,
    })
}

/// Chooses for the patch as a whole; none if it is a unit's choice.
pub fn set_patch(patch: &mut Patch, id: ChoiceId, to: usize) -> Option<()> {
    let voice = &mut patch.voice;
    match id {
        ChoiceId::VoiceMode => put(&Mode::ALL, to, &mut voice.mode),
        ChoiceId::VoicePriority => put(&Priority::ALL, to, &mut voice.priority),
        ChoiceId::VoiceGlide => put(&Glide::ALL, to, &mut voice.glide),
        ChoiceId::UnisonStart => put(&Start::ALL, to, &mut voice.unison.start),
        ChoiceId::VoiceQuality => put(&Quality::ALL, to, &mut voice.quality),
        ChoiceId::VoiceRender => {
            voice.render_quality = match to.checked_sub(1) {
                None => None,
                Some(at) => Some(*Quality::ALL.get(at)?),
            };
            Some(())
        }
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::document::{KindName, UnitId};

    #[test]
    fn every_choice_can_be_taken_and_is_then_found() {
        for (i, row) in CHOICES.iter().enumerate() {
            assert_eq!(row.id as usize, i, "{} is out of order", row.label);
            assert!(row.help.ends_with('.'));
            let mut patch = Patch::empty();
            let mut units: Vec<Unit> = KindName::ALL
                .into_iter()
                .map(|kind| Unit::new(UnitId(1), kind))
                .filter(|unit| of_unit(unit, row.id).is_some())
                .collect();
            let of_one = units.len() == 1;
            assert_ne!(of_one, of_patch(&patch, row.id).is_some(), "{}", row.label);
            for to in (0..row.options.len()).rev() {
                match units.first_mut() {
                    Some(unit) => {
                        assert_eq!(set_unit(unit, row.id, to), Some(()));
                        assert_eq!(of_unit(unit, row.id), Some(to));
                        assert_eq!(set_unit(unit, row.id, row.options.len()), None);
                    }
                    None => {
                        assert_eq!(set_patch(&mut patch, row.id, to), Some(()));
                        assert_eq!(of_patch(&patch, row.id), Some(to));
                        assert_eq!(set_patch(&mut patch, row.id, row.options.len()), None);
                    }
                }
            }
        }
    }
}
