//! Values that are one of a few. Their rows stand with the parts they belong to, as those of the numbers do.

use crate::params::param::{ChoiceId, When};
use crate::params::section::SectionId;

/// One choice.
#[derive(Debug, Clone, Copy)]
pub struct Choice {
    pub id: ChoiceId,
    /// Its id as text.
    pub name: &'static str,
    /// Label on the screen.
    pub label: &'static str,
    /// Where on a sheet it stands.
    pub section: SectionId,
    /// When it is shown.
    pub when: When,
    /// What can be chosen, in words.
    pub options: &'static [&'static str],
    /// What it does, in one sentence.
    pub help: &'static str,
}

/// Something that is one of a few.
pub trait Options: Sized + Copy + PartialEq + 'static {
    /// All there are, in the order they are offered.
    const ALL: &'static [Self];

    /// Position among all.
    fn position(&self) -> usize {
        Self::ALL.iter().position(|v| v == self).unwrap_or(0)
    }

    /// The one at a position, as a number from elsewhere; the first for those there are not.
    fn at(position: u32) -> Self {
        let found = Self::ALL.get(position as usize);
        found.copied().unwrap_or(Self::ALL[0])
    }
}

impl Options for bool {
    const ALL: &'static [bool] = &[false, true];
}

/// Declares an enum that is one of a few, in the order they are offered.
macro_rules! options {
    ($(#[$meta:meta])* pub enum $Name:ident { $($(#[$variant:meta])* $Variant:ident),* $(,)? }) => {
        #[derive(
            Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Default,
            serde::Serialize, serde::Deserialize,
        )]
        #[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
        #[cfg_attr(feature = "types", derive(ts_rs::TS))]
        #[serde(rename_all = "snake_case")]
        $(#[$meta])*
        pub enum $Name { $($(#[$variant])* $Variant),* }

        impl $crate::params::choice::Options for $Name {
            const ALL: &'static [Self] = &[$($Name::$Variant),*];
        }

        impl $Name {
            /// All there are, in the order they are offered.
            pub const ALL: &'static [Self] = <Self as $crate::params::choice::Options>::ALL;
        }
    };
}
pub(crate) use options;
