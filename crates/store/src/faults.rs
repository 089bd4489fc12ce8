//! What is wrong in a library: in its file, its documents, its recordings.

use diesel::prelude::*;
use diesel::sql_types::{Binary, Nullable, Text};
use zolvik_json::outside::visible;
use zolvik_patch::json;

use crate::error::StoreError;
use crate::sealed::{
    BESIDE, KEPT, LIBRARY, PATCHES, RECORDINGS, STEPS, Table, VERSIONS, numbers, sha256,
};

/// What was looked at and what was found wrong, in words.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Report {
    /// Patches, those in the bin too.
    pub patches: usize,
    /// Named versions.
    pub versions: usize,
    /// Recordings.
    pub recordings: usize,
    /// What is wrong, each with what can be done.
    pub faults: Vec<String>,
}

/// Looks over everything: the file, every row and its seal, every document, every version, every recording. Changes nothing. What
/// cannot be read is a fault like others, and the rest is looked at all the same.
///
/// # Errors
/// If the database cannot be asked at all.
pub(crate) fn look_over(connection: &mut SqliteConnection) -> Result<Report, StoreError> {
    let mut report = Report::default();
    let broken = integrity(connection).unwrap_or_else(|e| vec![e.to_string()]);
    report.faults.extend(broken.into_iter().map(|line| {
        format!("the database's file: {line}; bring a backup back with zolvik library restore")
    }));
    // one of an older version has fewer tables, and no seals
    let has_seals = has_column(connection, PATCHES.name, "seal")?;
    let both = |look: Look, table: Table| {
        move |connection: &mut SqliteConnection, row| match look(connection, row)? {
            None if has_seals => look_at_seal(connection, table, row),
            fault => Ok(fault),
        }
    };
    let faults = &mut report.faults;
    report.patches = each(connection, PATCHES, faults, both(look_at_patch, PATCHES));
    report.versions = each(
        connection,
        VERSIONS,
        faults,
        both(look_at_version, VERSIONS),
    );
    if has_column(connection, RECORDINGS.name, "wav")? {
        let look = both(look_at_recording, RECORDINGS);
        report.recordings = each(connection, RECORDINGS, faults, look);
    }
    for table in [LIBRARY, KEPT, STEPS, BESIDE] {
        if has_column(connection, table.name, "seal")? {
            each(connection, table, faults, both(|_, _| Ok(None), table));
        }
    }
    Ok(report)
}

/// Looks at one row; gives what is wrong with it.
type Look = fn(&mut SqliteConnection, i64) -> Result<Option<String>, StoreError>;

/// Looks at each row of a table; gives how many there are. A row that cannot be read is a fault.
fn each(
    connection: &mut SqliteConnection,
    table: Table,
    faults: &mut Vec<String>,
    look: impl Fn(&mut SqliteConnection, i64) -> Result<Option<String>, StoreError>,
) -> usize {
    let unread = |e: StoreError| format!("table {}: {e}; take it from a backup", table.name);
    let rows = match numbers(connection, table.name) {
        Ok(rows) => rows,
        Err(e) => {
            faults.push(unread(e));
            return 0;
        }
    };
    for row in &rows {
        match look(connection, *row) {
            Ok(None) => {}
            Ok(Some(fault)) => faults.push(fault),
            Err(e) => faults.push(format!("row {row} of {}", unread(e))),
        }
    }
    rows.len()
}

#[derive(QueryableByName)]
struct Named {
    #[diesel(sql_type = Nullable<Binary>)]
    name: Option<Vec<u8>>,
    #[diesel(sql_type = Nullable<Binary>)]
    bytes: Option<Vec<u8>>,
}

impl Named {
    fn of(connection: &mut SqliteConnection, what: &str, row: i64) -> Result<Self, StoreError> {
        let question = format!("SELECT {what} WHERE rowid = {row}");
        Ok(diesel::sql_query(question).get_result(connection)?)
    }

    fn name(&self) -> String {
        let bytes = self.name.as_deref().unwrap_or_default();
        visible(&String::from_utf8_lossy(bytes), 80)
    }

    /// What is wrong with a document.
    fn document_fault(&self) -> Option<String> {
        let bytes = self.bytes.as_deref().unwrap_or_default();
        json::read_bytes(bytes).err().map(|e| e.to_string())
    }
}

const DOCUMENT: &str = "CAST(name AS BLOB) AS name, CAST(document AS BLOB) AS bytes FROM";

fn look_at_patch(
    connection: &mut SqliteConnection,
    row: i64,
) -> Result<Option<String>, StoreError> {
    let it = Named::of(connection, &format!("{DOCUMENT} patches"), row)?;
    let mut fault = it.document_fault();
    if fault.is_none() && has_column(connection, "patches", "seal")? {
        let content = "CAST(content AS BLOB) AS name, NULL AS bytes FROM patches";
        let content = Named::of(connection, content, row)?;
        let bytes = it.bytes.as_deref().unwrap_or_default();
        if content.name() != sha256(bytes) {
            fault = Some("its document was changed on the disk or by another program".into());
        }
    }
    Ok(fault.map(|problem| {
        let name = it.name();
        format!("patch {row} “{name}”: {problem}; export it as it is in the Library, or move it to the bin")
    }))
}

fn look_at_version(
    connection: &mut SqliteConnection,
    row: i64,
) -> Result<Option<String>, StoreError> {
    let it = Named::of(connection, &format!("{DOCUMENT} versions"), row)?;
    let fault = it.document_fault();
    Ok(fault.map(|problem| format!("version {row} “{}”: {problem}", it.name())))
}

fn look_at_recording(
    connection: &mut SqliteConnection,
    row: i64,
) -> Result<Option<String>, StoreError> {
    let what = "CAST(content AS BLOB) AS name, CAST(wav AS BLOB) AS bytes FROM recordings";
    let it = Named::of(connection, what, row)?;
    let is_whole = sha256(it.bytes.as_deref().unwrap_or_default()) == it.name();
    Ok((!is_whole).then(|| {
        format!(
            "recording {}: its sound was changed; import it again",
            it.name()
        )
    }))
}

fn look_at_seal(
    connection: &mut SqliteConnection,
    table: Table,
    row: i64,
) -> Result<Option<String>, StoreError> {
    let rows = table.rows(connection, &format!("WHERE rowid = {row}"), &[])?;
    let broken = rows.iter().find(|row| !row.is_whole);
    Ok(broken.map(|row| {
        let key = visible(&row.key(table), 80);
        format!("{} {key}: the row was changed on the disk or by another program; take it from a backup", table.name)
    }))
}

fn has_column(
    connection: &mut SqliteConnection,
    table: &str,
    column: &str,
) -> Result<bool, StoreError> {
    let question =
        format!("SELECT name AS line FROM pragma_table_info('{table}') WHERE name = '{column}'");
    let found: Vec<Line> = diesel::sql_query(question).load(connection)?;
    Ok(!found.is_empty())
}

#[derive(QueryableByName)]
struct Line {
    #[diesel(sql_type = Text)]
    line: String,
}

/// What SQLite finds wrong with a database.
pub(crate) fn integrity(connection: &mut SqliteConnection) -> Result<Vec<String>, StoreError> {
    let query = "SELECT integrity_check AS line FROM pragma_integrity_check";
    let lines: Vec<Line> = diesel::sql_query(query).load(connection)?;
    Ok(lines
        .into_iter()
        .map(|l| l.line)
        .filter(|l| l != "ok")
        .collect())
}
