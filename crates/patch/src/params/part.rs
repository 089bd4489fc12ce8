//! A part of the document with its rows. One row gives a parameter its field with default, its name in files and messages, its
//! range, its look and its place on the screen; nothing else need be written for it but the line that uses it.

use crate::params::choice::Choice;
use crate::params::param::{ChoiceId, Param, ParamId};

/// A number in a document.
pub trait Number {
    /// The number.
    fn read(&self) -> f64;
    /// Sets it; whole numbers are rounded.
    fn write(&mut self, value: f64);
}

impl Number for f64 {
    fn read(&self) -> f64 {
        *self
    }
    fn write(&mut self, value: f64) {
        *self = value;
    }
}

impl Number for u8 {
    fn read(&self) -> f64 {
        (*self).into()
    }
    fn write(&mut self, value: f64) {
        *self = value.round().clamp(0.0, 255.0) as u8;
    }
}

/// Something with parameters and choices.
pub trait Part {
    /// The value of a parameter; none if this part has none such.
    fn get(&self, id: ParamId) -> Option<f64>;
    /// The place of a parameter, for writing.
    fn slot(&mut self, id: ParamId) -> Option<&mut dyn Number>;
    /// What is chosen; none if this part has no such choice.
    fn chosen(&self, id: ChoiceId) -> Option<usize>;
    /// Chooses; none if this part has no such choice or option.
    fn choose(&mut self, id: ChoiceId, to: usize) -> Option<()>;
}

/// Rows of one part.
#[derive(Debug, Clone, Copy)]
pub struct Rows {
    /// Its parameters.
    pub params: &'static [Param],
    /// Its choices.
    pub choices: &'static [Choice],
}

/// The number a row of one type has as default, whether real or whole.
pub(crate) trait FromRow {
    fn from_row(value: f64) -> Self;
}

impl FromRow for f64 {
    fn from_row(value: f64) -> Self {
        value
    }
}

impl FromRow for u8 {
    fn from_row(value: f64) -> Self {
        value as u8
    }
}

/// Declares a part: its struct, its rows, and how they are read and written. In this order: fields that are neither values nor
/// choices, parts inside it, choices, values. A choice is
/// `NAME field: Type = default, "label", section, when, [options], "help";`, a value
/// `NAME field: type = default, min..max, look, "help";`.
macro_rules! part {
    (
        $(#[$meta:meta])*
        pub struct $Part:ident: $owner:ident $prefix:literal in $path:literal {
            $(also { $($(#[$fmeta:meta])* $field:ident: $fty:ty = $fdefault:expr,)* })?
            $(parts { $($(#[$nmeta:meta])* $nested:ident: $nty:ty,)* })?
            $(choices { $(
                $(#[$cmeta:meta])* $CID:ident $cfield:ident: $cty:ty = $cdefault:expr,
                $clabel:literal, $csection:ident, $cwhen:expr, [$($option:literal),*], $chelp:literal;
            )* })?
            $(values { $(
                $(#[$vmeta:meta])* $ID:ident $vfield:ident: $vty:ty = $vdefault:literal,
                $min:literal..$max:literal, $look:expr, $vhelp:literal;
            )* })?
        }
    ) => {
        #[derive(Debug, Clone, PartialEq, serde::Serialize, serde::Deserialize)]
        #[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
        #[cfg_attr(feature = "types", derive(ts_rs::TS))]
        #[serde(deny_unknown_fields)]
        $(#[$meta])*
        pub struct $Part {
            $($($(#[$fmeta])* pub $field: $fty,)*)?
            $($(#[doc = $chelp] $(#[$cmeta])* pub $cfield: $cty,)*)?
            $($(#[doc = $vhelp] $(#[$vmeta])* pub $vfield: $vty,)*)?
            $($($(#[$nmeta])* pub $nested: $nty,)*)?
        }

        impl Default for $Part {
            fn default() -> Self {
                $Part {
                    $($($field: $fdefault,)*)?
                    $($($cfield: $cdefault,)*)?
                    $($($vfield: $crate::params::part::FromRow::from_row($vdefault as f64),)*)?
                    $($($nested: Default::default(),)*)?
                }
            }
        }

        const _: () = {
            #[allow(non_camel_case_types, dead_code, clippy::upper_case_acronyms)]
            enum Value { $($($ID,)*)? }
            #[allow(non_camel_case_types, dead_code, clippy::upper_case_acronyms)]
            enum Choose { $($($CID,)*)? }

            #[allow(unused_variables)]
            impl $Part {
                $($(
                    #[doc = $vhelp]
                    pub const $ID: $crate::params::param::ParamId = $crate::params::param::ParamId {
                        part: $crate::params::param::PartId::$Part,
                        row: Value::$ID as u8,
                    };
                )*)?
                $($(
                    #[doc = $chelp]
                    pub const $CID: $crate::params::param::ChoiceId = $crate::params::param::ChoiceId {
                        part: $crate::params::param::PartId::$Part,
                        row: Choose::$CID as u8,
                    };
                )*)?
                /// Its rows.
                pub const ROWS: $crate::params::part::Rows = $crate::params::part::Rows {
                    params: &[$($(
                        $look.row(
                            $crate::parts::look::Spot {
                                id: $Part::$ID,
                                owner: $crate::params::param::Owner::$owner,
                                name: concat!($prefix, ".", stringify!($vfield)),
                                field: stringify!($vfield),
                                path: $path,
                            },
                            ($min as f64, $max as f64), $vdefault as f64, $vhelp,
                        ),
                    )*)?],
                    choices: &[$($(
                        $crate::params::choice::Choice {
                            id: $Part::$CID,
                            name: concat!($prefix, ".", stringify!($cfield)),
                            label: $clabel,
                            section: $crate::params::section::SectionId::$csection,
                            when: $cwhen,
                            options: {
                                const LABELS: &[&str] = &[$($option),*];
                                assert!(LABELS.len() == <$cty as $crate::params::choice::Options>::ALL.len());
                                LABELS
                            },
                            help: $chelp,
                        },
                    )*)?],
                };
            }

            #[allow(unused_variables)]
            impl $crate::params::part::Part for $Part {
                fn get(&self, id: $crate::params::param::ParamId) -> Option<f64> {
                    match id {
                        $($($Part::$ID => Some($crate::params::part::Number::read(&self.$vfield)),)*)?
                        _ => None$($(.or_else(|| self.$nested.get(id)))*)?,
                    }
                }
                fn slot(&mut self, id: $crate::params::param::ParamId) -> Option<&mut dyn $crate::params::part::Number> {
                    match id {
                        $($($Part::$ID => Some(&mut self.$vfield),)*)?
                        _ => {
                            $($(if let Some(slot) = self.$nested.slot(id) { return Some(slot); })*)?
                            None
                        }
                    }
                }
                fn chosen(&self, id: $crate::params::param::ChoiceId) -> Option<usize> {
                    match id {
                        $($($Part::$CID => Some($crate::params::choice::Options::position(&self.$cfield)),)*)?
                        _ => None$($(.or_else(|| self.$nested.chosen(id)))*)?,
                    }
                }
                fn choose(&mut self, id: $crate::params::param::ChoiceId, to: usize) -> Option<()> {
                    match id {
                        $($($Part::$CID => {
                            self.$cfield = *<$cty as $crate::params::choice::Options>::ALL.get(to)?;
                            Some(())
                        })*)?
                        _ => None$($(.or_else(|| self.$nested.choose(id, to)))*)?,
                    }
                }
            }
        };
    };
}
pub(crate) use part;
