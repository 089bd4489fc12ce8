//! Names of backups say when they were made and what is known of them; whatever is called otherwise is none, and is left alone.

use chrono::{NaiveDate, NaiveDateTime};

const PREFIX: &str = "zolvik-";
const ENDING: &str = ".sqlite";
/// How moments are written in names, in UTC.
pub(super) const WHEN: &str = "%Y%m%d-%H%M%S%.3f";
/// Length of what [`WHEN`] writes: `20260102-030405.678`.
const WHEN_LETTERS: usize = 19;

/// What a backup was made for, or found to be.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Kind {
    /// That of a day.
    Daily,
    /// Made before a newer version changed the library.
    BeforeUpdate,
    /// Of a library in which something was wrong.
    Faulty,
}

impl Kind {
    const ALL: [(Kind, &'static str); 3] = [
        (Kind::Daily, ""),
        (Kind::BeforeUpdate, "-before-update"),
        (Kind::Faulty, "-faulty"),
    ];
}

/// A backup by its name.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct Named {
    pub(super) name: String,
    /// In UTC.
    pub(super) at: NaiveDateTime,
    pub(super) kind: Kind,
}

impl Named {
    pub(super) fn new(at: NaiveDateTime, kind: Kind) -> Self {
        let ending = Kind::ALL.iter().find(|(k, _)| *k == kind);
        let ending = ending.map_or("", |(_, ending)| ending);
        let name = format!("{PREFIX}{}{ending}{ENDING}", at.format(WHEN));
        Named { name, at, kind }
    }

    /// Reads a name, strictly: what it would be called again is what it is called.
    pub(super) fn read(name: &str) -> Option<Self> {
        let inner = name.strip_prefix(PREFIX)?.strip_suffix(ENDING)?;
        let (when, ending) = inner.split_at_checked(WHEN_LETTERS)?;
        let at = NaiveDateTime::parse_from_str(when, WHEN).ok()?;
        let (kind, _) = Kind::ALL.iter().find(|(_, known)| *known == ending)?;
        let named = Named::new(at, *kind);
        (named.name == name).then_some(named)
    }

    pub(super) fn day(&self) -> NaiveDate {
        self.at.date()
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("zolvik-20260102-030405.678.sqlite", Some(Kind::Daily))]
    #[case(
        "zolvik-20260102-030405.678-before-update.sqlite",
        Some(Kind::BeforeUpdate)
    )]
    #[case("zolvik-20260102-030405.678-faulty.sqlite", Some(Kind::Faulty))]
    #[case::renamed("zolvik-keep-this.sqlite", None)]
    #[case::no_such_day("zolvik-20260231-030405.678.sqlite", None)]
    #[case::no_such_hour("zolvik-20260102-250405.678.sqlite", None)]
    #[case::longer("zolvik-20260102-030405.6789.sqlite", None)]
    #[case::of_a_copy("zolvik-20260102-030405.678 (1).sqlite", None)]
    #[case::short("zolvik-2026.sqlite", None)]
    #[case::not_ascii("zolvik-2026010ä-030405.678.sqlite", None)]
    fn names_are_read_strictly(#[case] name: &str, #[case] kind: Option<Kind>) {
        let read = Named::read(name);
        assert_eq!(read.as_ref().map(|n| n.kind), kind);
        assert!(read.is_none_or(|n| n.at.to_string() == "2026-01-02 03:04:05.678"));
    }
}
