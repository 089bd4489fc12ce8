//! Which backups stay: the newest of each day, week and month that has any, less and less far back, within a size.

use std::collections::BTreeSet;

use chrono::{Datelike, TimeDelta};

use super::names::{Kind, Named};

/// Of so many days, weeks and months that have any the newest good one stays.
const DAYS: usize = 7;
const WEEKS: usize = 5;
const MONTHS: usize = 12;
/// So many of a library in which something was wrong.
const FAULTY: usize = 2;
/// One from before an update stays until there is a good one so much younger.
const AFTER_UPDATE: TimeDelta = TimeDelta::days(7);

/// Those that go, of all there are with their sizes; the one that was just made never does, and of the good ones the newest neither.
pub(super) fn surplus(all: &[(Named, u64)], just_made: &str, most_bytes: u64) -> Vec<String> {
    let mut by_age: Vec<&(Named, u64)> = all.iter().collect();
    by_age.sort_by(|(a, _), (b, _)| b.at.cmp(&a.at).then(b.name.cmp(&a.name)));
    let good = || by_age.iter().filter(|(n, _)| n.kind != Kind::Faulty);
    let newest_good = good().next().map(|(n, _)| n.name.as_str());
    let is_bound = |n: &Named| n.name == just_made || Some(n.name.as_str()) == newest_good;
    let mut stays: BTreeSet<&str> = BTreeSet::new();
    let mut first_of = |most: usize, of: &dyn Fn(&Named) -> (i32, u32)| {
        let mut seen = BTreeSet::new();
        for (named, _) in good() {
            if seen.len() < most && seen.insert(of(named)) {
                stays.insert(&named.name);
            }
        }
    };
    first_of(DAYS, &|n| (n.at.year(), n.at.ordinal()));
    first_of(WEEKS, &|n| (n.at.iso_week().year(), n.at.iso_week().week()));
    first_of(MONTHS, &|n| (n.at.year(), n.at.month()));
    let faulty = by_age.iter().filter(|(n, _)| n.kind == Kind::Faulty);
    stays.extend(faulty.take(FAULTY).map(|(n, _)| n.name.as_str()));
    // an update has proved itself once what came after it was good for a week
    let proved = |n: &Named| good().any(|(later, _)| later.at >= n.at + AFTER_UPDATE);
    let guards = |n: &Named| n.kind == Kind::BeforeUpdate && !proved(n);
    let mut sum = 0;
    let mut gone = vec![];
    for (named, bytes) in &by_age {
        let wanted = is_bound(named) || guards(named) || stays.contains(named.name.as_str());
        let fits = sum + bytes <= most_bytes || is_bound(named) || guards(named);
        match wanted && fits {
            true => sum += bytes,
            false => gone.push(named.name.clone()),
        }
    }
    gone
}

#[cfg(test)]
mod tests {
    use chrono::{NaiveDate, NaiveDateTime};
    use rstest::rstest;

    use super::*;

    fn at(year: i32, month: u32, day: u32) -> NaiveDateTime {
        let day = NaiveDate::from_ymd_opt(year, month, day).unwrap();
        day.and_hms_opt(12, 0, 0).unwrap()
    }

    /// One every day, thinned each time as the application does; what is left.
    fn lived(days: i64, most_bytes: u64, kind: impl Fn(i64) -> Kind) -> Vec<Named> {
        let mut all: Vec<(Named, u64)> = vec![];
        for day in 0..days {
            let made = Named::new(at(2026, 1, 1) + TimeDelta::days(day), kind(day));
            all.push((made.clone(), 10));
            let gone = surplus(&all, &made.name, most_bytes);
            all.retain(|(n, _)| !gone.contains(&n.name));
        }
        all.into_iter().map(|(n, _)| n).collect()
    }

    #[test]
    fn older_ones_thin_out_by_day_week_and_month() {
        let left = lived(400, u64::MAX, |_| Kind::Daily);
        let newest = left.last().unwrap().at;
        let younger = |days: i64| {
            let young = left
                .iter()
                .filter(|n| newest - n.at < TimeDelta::days(days));
            young.count()
        };
        assert_eq!(younger(7), 7, "each of the last seven days");
        assert!((9..=11).contains(&younger(35)), "{}", younger(35));
        assert!((18..=21).contains(&left.len()), "{}", left.len());
        let oldest = newest - left[0].at;
        assert!(oldest > TimeDelta::days(300), "{oldest}");
    }

    /// A clock behind, or far ahead: the one just made stays.
    #[rstest]
    #[case::behind(at(2020, 5, 5))]
    #[case::ahead(at(2090, 5, 5))]
    fn the_one_just_made_stays_whatever_the_clock_says(#[case] now: NaiveDateTime) {
        let mut all: Vec<(Named, u64)> = lived(60, u64::MAX, |_| Kind::Daily)
            .into_iter()
            .map(|n| (n, 10))
            .collect();
        let made = Named::new(now, Kind::Daily);
        all.push((made.clone(), 10));
        for most_bytes in [u64::MAX, 0] {
            assert!(!surplus(&all, &made.name, most_bytes).contains(&made.name));
        }
    }

    #[test]
    fn days_of_damage_do_not_push_out_the_last_good_one() {
        let left = lived(60, u64::MAX, |day| match day {
            0..20 => Kind::Daily,
            _ => Kind::Faulty,
        });
        let good: Vec<&Named> = left.iter().filter(|n| n.kind == Kind::Daily).collect();
        assert_eq!(good.last().unwrap().at, at(2026, 1, 20));
        assert_eq!(left.len() - good.len(), FAULTY);
    }

    #[rstest]
    #[case::six_days(6, true)]
    #[case::eight_days(8, false)]
    fn one_before_an_update_stays_until_what_came_after_was_good_for_a_week(
        #[case] days: i64,
        #[case] stays: bool,
    ) {
        // two a day, so that only its kind keeps it
        let update = Named::new(at(2026, 1, 1), Kind::BeforeUpdate);
        let mut all = vec![(update.clone(), 10)];
        for day in 0..=days {
            let hour = TimeDelta::hours(1);
            let made = Named::new(at(2026, 1, 1) + TimeDelta::days(day) + hour, Kind::Daily);
            all.push((made, 10));
        }
        let made = all.last().unwrap().0.name.clone();
        assert_eq!(!surplus(&all, &made, 0).contains(&update.name), stays);
    }

    #[test]
    fn all_together_stay_within_the_size_that_is_set() {
        let left = lived(100, 55, |_| Kind::Daily);
        assert_eq!(left.len(), 5);
        assert_eq!(
            left.last().unwrap().at,
            at(2026, 1, 1) + TimeDelta::days(99)
        );
    }
}
