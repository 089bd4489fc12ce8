//! Steps of undo, kept beside the patch they belong to and written with it, so that they always lead from what is stored.

use diesel::prelude::*;
use diesel::sql_types::{BigInt, Nullable};
use zolvik_edit::history::difference::Difference;
use zolvik_edit::history::{KeptStep, KeptSteps, MAX_KEPT_BYTES, MAX_KEPT_STEPS, NewSteps};

use crate::error::StoreError;
use crate::schema::steps;
use crate::sealed::STEPS;

const PAST: &str = "past";
const FUTURE: &str = "future";
/// What a step is called by which another window or program saved.
const ELSEWHERE: &str = "change made elsewhere";

#[derive(QueryableByName)]
struct Place {
    #[diesel(sql_type = Nullable<BigInt>)]
    place: Option<i64>,
}

/// The place of the last step of the past; none if there is none.
fn last_place(connection: &mut SqliteConnection, id: i32) -> Result<Option<i64>, StoreError> {
    let question =
        format!("SELECT max(place) AS place FROM steps WHERE patch_id = {id} AND side = '{PAST}'");
    let found: Place = diesel::sql_query(question).get_result(connection)?;
    Ok(found.place)
}

fn put(
    connection: &mut SqliteConnection,
    (id, side, place): (i32, &str, i64),
    step: &KeptStep,
) -> Result<(), StoreError> {
    let row = (
        steps::patch_id.eq(id),
        steps::side.eq(side),
        steps::place.eq(place),
        steps::label.eq(&step.label),
        steps::difference.eq(&step.difference),
    );
    diesel::insert_into(steps::table)
        .values(row)
        .execute(connection)?;
    let which = format!("WHERE patch_id = {id} AND side = '{side}' AND place = {place}");
    STEPS.seal(connection, &which, &[])
}

/// Writes what is new in the steps of a patch; to stand in the transaction that writes its document.
pub(crate) fn write(
    connection: &mut SqliteConnection,
    id: i32,
    new: &NewSteps,
) -> Result<(), StoreError> {
    let same = i64::try_from(new.same).unwrap_or(i64::MAX - MAX_KEPT_STEPS as i64);
    let of_patch = || steps::table.filter(steps::patch_id.eq(id));
    let past = || of_patch().filter(steps::side.eq(PAST));
    diesel::delete(past().filter(steps::place.ge(same))).execute(connection)?;
    if last_place(connection, id)?.is_some_and(|last| last + 1 != same) {
        // between what is kept and what is new some are missing: nothing leads back over them
        diesel::delete(past()).execute(connection)?;
    }
    diesel::delete(of_patch().filter(steps::side.eq(FUTURE))).execute(connection)?;
    for (at, step) in new.past.iter().enumerate() {
        put(connection, (id, PAST, same + at as i64), step)?;
    }
    // the farthest stands lowest, as in the past
    for (at, step) in new.future.iter().enumerate() {
        put(connection, (id, FUTURE, at as i64), step)?;
    }
    thin_out(connection, id)
}

/// A document was written by somebody who knows no steps: the one there was before is one step back.
pub(crate) fn write_elsewhere(
    connection: &mut SqliteConnection,
    id: i32,
    (before, now): (&str, &str),
) -> Result<(), StoreError> {
    let last = last_place(connection, id)?;
    let difference = Difference::between(now, before).text();
    let new = NewSteps {
        same: last.map_or(0, |last| last as u64 + 1),
        past: vec![KeptStep {
            label: ELSEWHERE.into(),
            difference,
        }],
        future: vec![],
    };
    write(connection, id, &new)
}

/// Drops the steps farthest from the present that are too many or too large.
fn thin_out(connection: &mut SqliteConnection, id: i32) -> Result<(), StoreError> {
    // from the present on, the past before the future
    let sizes: Vec<(String, i64, i64)> = steps::table
        .filter(steps::patch_id.eq(id))
        .order((steps::side.desc(), steps::place.desc()))
        .select((
            steps::side,
            steps::place,
            diesel::dsl::sql::<BigInt>(
                "length(CAST(label AS BLOB)) + length(CAST(difference AS BLOB))",
            ),
        ))
        .load(connection)?;
    let (mut bytes, mut counts) = (0, [0; 2]);
    let mut full = [false; 2];
    for (side, place, size) in sizes {
        let which = usize::from(side == FUTURE);
        let fits = bytes + size <= MAX_KEPT_BYTES as i64 && counts[which] < MAX_KEPT_STEPS;
        if fits && !full[which] {
            bytes += size;
            counts[which] += 1;
            continue;
        }
        // nothing leads over one that goes
        full[which] = true;
        let one = steps::table.find((id, side, place));
        diesel::delete(one).execute(connection)?;
    }
    Ok(())
}

/// The steps of a patch, those farthest from the present first. One that was damaged ends the way.
pub(crate) fn read(connection: &mut SqliteConnection, id: i32) -> Result<KeptSteps, StoreError> {
    let mut kept = KeptSteps::default();
    for side in [PAST, FUTURE] {
        let which = format!("WHERE patch_id = {id} AND side = '{side}' ORDER BY place DESC");
        let rows = STEPS.rows(connection, &which, &[])?;
        let near: Vec<_> = rows.iter().take_while(|row| row.is_whole).collect();
        let list = near.iter().rev().map(|row| KeptStep {
            label: row.text(3),
            difference: row.text(4),
        });
        match side {
            PAST => {
                let end = rows.first().map_or(0, |row| row.number::<u64>(2) + 1);
                kept.past = list.collect();
                kept.before = end.saturating_sub(kept.past.len() as u64);
            }
            _ => kept.future = list.collect(),
        }
    }
    Ok(kept)
}
