//! All rows in one place: every part once, in the order of [`PartId`]. Labels, ranges, units, defaults and smoothing stand with the
//! parts and nowhere else.

use std::borrow::Cow;
use std::fmt;

use serde::{Deserialize, Deserializer, Serialize, Serializer};

use crate::finish::{
    Chain, Chorus, Compressor, Delay, Drive, Ducker, Effect, Eq, EqBand, FilterEffect, Flanger,
    Gain, Limiter, Phaser, Resonators, Reverb, Shifter, Stereo, ThreeBand, Transients, Widening,
};
use crate::kinds::KindName;
use crate::kinds::filter::Filter;
use crate::kinds::level::Level;
use crate::kinds::noise::Noise;
use crate::kinds::operator::{CycleShape, Harmonics, Operator};
use crate::kinds::sample::Sample;
use crate::kinds::shaper::Shaper;
use crate::movement::{
    Follower, Lfo, Link, Macro, Played, Random, ShapePoint, Source, Step, Steps, Timing,
};
use crate::params::choice::Choice;
use crate::params::param::{ChoiceId, Param, ParamId, PartId};
use crate::params::part::Rows;
use crate::parts::envelope::{Envelope, Point};
use crate::parts::group::Group;
use crate::parts::route::Send;
use crate::parts::unit::Unit;
use crate::parts::voice::{Audition, Unison, VoiceSettings};
use crate::playing::{Arpeggio, Playing};

/// Every part's rows.
const PARTS: &[Rows] = &[
    Audition::ROWS,
    VoiceSettings::ROWS,
    Unison::ROWS,
    Group::ROWS,
    Send::ROWS,
    Operator::ROWS,
    CycleShape::ROWS,
    Harmonics::ROWS,
    Noise::ROWS,
    Sample::ROWS,
    Filter::ROWS,
    Shaper::ROWS,
    Level::ROWS,
    Unit::ROWS,
    Envelope::ROWS,
    Point::ROWS,
    Source::ROWS,
    Timing::ROWS,
    Lfo::ROWS,
    ShapePoint::ROWS,
    Steps::ROWS,
    Step::ROWS,
    Random::ROWS,
    Played::ROWS,
    Follower::ROWS,
    Macro::ROWS,
    Link::ROWS,
    Playing::ROWS,
    Arpeggio::ROWS,
    Chain::ROWS,
    Effect::ROWS,
    Drive::ROWS,
    FilterEffect::ROWS,
    Resonators::ROWS,
    Eq::ROWS,
    EqBand::ROWS,
    Compressor::ROWS,
    ThreeBand::ROWS,
    Transients::ROWS,
    Ducker::ROWS,
    Chorus::ROWS,
    Flanger::ROWS,
    Phaser::ROWS,
    Delay::ROWS,
    Reverb::ROWS,
    Shifter::ROWS,
    Widening::ROWS,
    Stereo::ROWS,
    Limiter::ROWS,
    Gain::ROWS,
];

/// All parameters, part by part, in the order they stand on the screen.
pub fn params() -> impl Iterator<Item = &'static Param> {
    PARTS.iter().flat_map(|part| part.params)
}

/// All choices, part by part.
pub fn choices() -> impl Iterator<Item = &'static Choice> {
    PARTS.iter().flat_map(|part| part.choices)
}

/// The rows of one part.
pub fn part(id: PartId) -> Rows {
    PARTS[id as usize]
}

/// The row of a parameter.
pub fn param(id: ParamId) -> &'static Param {
    &PARTS[id.part as usize].params[id.at()]
}

/// The row of a choice.
pub fn choice(id: ChoiceId) -> &'static Choice {
    &PARTS[id.part as usize].choices[usize::from(id.row)]
}

/// The parameters of a unit of a kind, in the order of their positions.
pub fn unit_params(kind: KindName) -> impl Iterator<Item = &'static Param> {
    let own = kind.rows().iter().flat_map(|part| part.params);
    Unit::ROWS.params.iter().chain(own)
}

/// Position of a parameter among those of its unit, as [`unit_params`] has them.
pub const fn position(id: ParamId) -> usize {
    before(id.part) + id.row as usize
}

/// How many parameters of a unit stand before those of a part.
const fn before(part: PartId) -> usize {
    match part {
        PartId::Unit => 0,
        PartId::CycleShape => before(PartId::Operator) + Operator::ROWS.params.len(),
        PartId::Harmonics => before(PartId::CycleShape) + CycleShape::ROWS.params.len(),
        _ => Unit::ROWS.params.len(),
    }
}

/// The default of a parameter.
pub fn default(id: ParamId) -> f64 {
    param(id).default
}

/// Ids are written as their names.
macro_rules! named {
    ($Id:ident, $all:ident, $row:ident, $what:literal) => {
        impl fmt::Debug for $Id {
            fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str($row(*self).name)
            }
        }

        impl Serialize for $Id {
            fn serialize<S: Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
                to.serialize_str($row(*self).name)
            }
        }

        impl<'de> Deserialize<'de> for $Id {
            fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
                let name = Cow::<'de, str>::deserialize(from)?;
                let found = $all().find(|row| row.name == name);
                found.map(|row| row.id).ok_or_else(|| {
                    serde::de::Error::custom(format!(
                        concat!("there is no ", $what, " {}"),
                        zolvik_json::outside::quoted(&name)
                    ))
                })
            }
        }

        #[cfg(feature = "schema")]
        impl schemars::JsonSchema for $Id {
            fn schema_name() -> Cow<'static, str> {
                stringify!($Id).into()
            }

            fn json_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
                let names: Vec<&str> = $all().map(|row| row.name).collect();
                schemars::json_schema!({ "type": "string", "enum": names })
            }
        }

        #[cfg(feature = "types")]
        impl ts_rs::TS for $Id {
            type WithoutGenerics = Self;
            type OptionInnerType = Self;

            fn name(_: &ts_rs::Config) -> String {
                stringify!($Id).into()
            }

            fn inline(_: &ts_rs::Config) -> String {
                let names: Vec<String> = $all().map(|row| format!("{:?}", row.name)).collect();
                names.join(" | ")
            }

            fn decl(config: &ts_rs::Config) -> String {
                format!("type {} = {};", stringify!($Id), Self::inline(config))
            }

            fn output_path() -> Option<std::path::PathBuf> {
                Some(concat!(stringify!($Id), ".ts").into())
            }
        }
    };
}

named!(ParamId, params, param, "parameter");
named!(ChoiceId, choices, choice, "choice");
