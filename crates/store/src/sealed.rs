//! Rows with a hash over all their columns, read so that one that was changed on the disk stops no other.
//!
//! SQLite keeps no sums of what it holds: a byte that turns in a text is given back as if it had been written. So each row carries the SHA-256
//! of its columns, kinds of values included, and whatever reads a row sees whether it is as it was written.

use diesel::prelude::*;
use diesel::sql_types::{BigInt, Text};
use sha2::{Digest, Sha256};

use crate::error::StoreError;

/// A table whose rows have seals.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct Table {
    pub(crate) name: &'static str,
    /// What makes a row one of its kind, the first of `columns`.
    keys: usize,
    /// All but the seal and what one of them is a hash of already.
    columns: &'static [&'static str],
}

/// Where each column of [`PATCHES`] stands.
pub(crate) mod patch {
    pub(crate) const ID: usize = 0;
    pub(crate) const NAME: usize = 1;
    pub(crate) const REVISION: usize = 2;
    pub(crate) const CREATED_AT: usize = 3;
    pub(crate) const CHANGED_AT: usize = 4;
    pub(crate) const BINNED_AT: usize = 5;
    pub(crate) const TAGS: usize = 6;
    pub(crate) const NOTE: usize = 7;
    pub(crate) const STRIPS: usize = 8;
    pub(crate) const CONTENT: usize = 9;
    pub(crate) const DAMAGE: usize = 10;
}

/// `content` is the hash of the document.
pub(crate) const PATCHES: Table = Table {
    name: "patches",
    keys: 1,
    columns: &[
        "id",
        "name",
        "revision",
        "created_at",
        "changed_at",
        "binned_at",
        "tags",
        "note",
        "strips",
        "content",
        "damage",
    ],
};
pub(crate) const VERSIONS: Table = Table {
    name: "versions",
    keys: 1,
    columns: &["id", "patch_id", "name", "created_at", "document"],
};
/// `content` is the hash of the sound.
pub(crate) const RECORDINGS: Table = Table {
    name: "recordings",
    keys: 1,
    columns: &["content", "name", "frames", "rate_hz", "created_at"],
};
pub(crate) const LIBRARY: Table = Table {
    name: "library",
    keys: 1,
    columns: &["id", "made_at"],
};
pub(crate) const KEPT: Table = Table {
    name: "kept",
    keys: 2,
    columns: &["kind", "name", "changed_at", "document"],
};
pub(crate) const STEPS: Table = Table {
    name: "steps",
    keys: 3,
    columns: &["patch_id", "side", "place", "label", "difference"],
};
pub(crate) const BESIDE: Table = Table {
    name: "beside",
    keys: 1,
    columns: &["patch_id", "why", "kept_at", "document"],
};
/// All there are.
pub(crate) const TABLES: [Table; 7] = [PATCHES, VERSIONS, RECORDINGS, LIBRARY, KEPT, STEPS, BESIDE];

/// A row as it lies there.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Row {
    cells: Vec<Option<Vec<u8>>>,
    /// Whether it is as it was written.
    pub(crate) is_whole: bool,
}

impl Row {
    fn read(found: &Found) -> Self {
        Row {
            is_whole: found.seal == hex(seal_of(&found.cells).as_bytes()),
            cells: found.cells.split(' ').map(cell).collect(),
        }
    }

    /// A column that may be empty; what is no UTF-8 has signs for it.
    pub(crate) fn maybe(&self, column: usize) -> Option<String> {
        let bytes = self.cells.get(column)?.as_ref()?;
        Some(String::from_utf8_lossy(bytes).into_owned())
    }

    /// A column of text.
    pub(crate) fn text(&self, column: usize) -> String {
        self.maybe(column).unwrap_or_default()
    }

    /// A column that is a number; 0 if it is none.
    pub(crate) fn number<T: std::str::FromStr + Default>(&self, column: usize) -> T {
        self.text(column).parse().unwrap_or_default()
    }

    /// A column that is a moment; the beginning of time if it was changed and is none.
    pub(crate) fn moment(&self, column: usize) -> String {
        let text = self.text(column);
        let is_known =
            self.is_whole || chrono::DateTime::parse_from_rfc3339(&text).is_ok() || text.is_empty();
        match is_known {
            true => text,
            false => "1970-01-01T00:00:00.000Z".into(),
        }
    }

    /// What tells it from the others, in words.
    pub(crate) fn key(&self, table: Table) -> String {
        let keys: Vec<String> = (0..table.keys).map(|at| self.text(at)).collect();
        keys.join(" ")
    }
}

#[derive(QueryableByName)]
struct Found {
    #[diesel(sql_type = BigInt)]
    number: i64,
    #[diesel(sql_type = Text)]
    cells: String,
    #[diesel(sql_type = Text)]
    seal: String,
}

/// SHA-256 in hexadecimal digits.
pub(crate) fn sha256(bytes: &[u8]) -> String {
    let digest = Sha256::digest(bytes);
    digest.iter().map(|byte| format!("{byte:02x}")).collect()
}

fn seal_of(cells: &str) -> String {
    sha256(cells.as_bytes())
}

/// As SQLite's function of this name.
fn hex(bytes: &[u8]) -> String {
    bytes.iter().map(|byte| format!("{byte:02X}")).collect()
}

/// The bytes of a cell: its kind, then its digits.
fn cell(cell: &str) -> Option<Vec<u8>> {
    let digits = cell.trim_start_matches(|c: char| c.is_ascii_lowercase());
    if cell.starts_with("null") {
        return None;
    }
    let pairs = digits.as_bytes().chunks(2);
    let byte = |pair: &[u8]| u8::from_str_radix(std::str::from_utf8(pair).ok()?, 16).ok();
    Some(pairs.filter_map(byte).collect())
}

impl Table {
    /// All columns of a row as one text of plain letters, whatever bytes they hold.
    fn cells(self) -> String {
        let each = self.columns.iter();
        let each: Vec<String> = each.map(|c| format!("typeof({c}) || hex({c})")).collect();
        each.join(" || ' ' || ")
    }

    /// Rows, with what else the question says: which, in what order.
    pub(crate) fn rows(
        self,
        connection: &mut SqliteConnection,
        which: &str,
        texts: &[&str],
    ) -> Result<Vec<Row>, StoreError> {
        let found = self.found(connection, which, texts)?;
        Ok(found.iter().map(Row::read).collect())
    }

    fn found(
        self,
        connection: &mut SqliteConnection,
        which: &str,
        texts: &[&str],
    ) -> Result<Vec<Found>, StoreError> {
        let (cells, name) = (self.cells(), self.name);
        let question = format!(
            "SELECT rowid AS number, {cells} AS cells, hex(seal) AS seal FROM {name} {which}"
        );
        let mut query = diesel::sql_query(question).into_boxed::<diesel::sqlite::Sqlite>();
        for text in texts {
            query = query.bind::<Text, _>((*text).to_owned());
        }
        Ok(query.load(connection)?)
    }

    /// Gives rows that were just written their seals.
    pub(crate) fn seal(
        self,
        connection: &mut SqliteConnection,
        which: &str,
        texts: &[&str],
    ) -> Result<(), StoreError> {
        for found in self.found(connection, which, texts)? {
            let update = format!("UPDATE {} SET seal = ? WHERE rowid = ?", self.name);
            diesel::sql_query(update)
                .bind::<Text, _>(seal_of(&found.cells))
                .bind::<BigInt, _>(found.number)
                .execute(connection)?;
        }
        Ok(())
    }

    /// Seals all rows as they are, one after the other.
    pub(crate) fn seal_all(self, connection: &mut SqliteConnection) -> Result<(), StoreError> {
        for row in numbers(connection, self.name)? {
            self.seal(connection, &format!("WHERE rowid = {row}"), &[])?;
        }
        Ok(())
    }
}

/// SQLite's own numbers of all rows of a table.
pub(crate) fn numbers(
    connection: &mut SqliteConnection,
    table: &str,
) -> Result<Vec<i64>, StoreError> {
    let question = format!("SELECT rowid AS number FROM {table} ORDER BY rowid");
    let numbers: Vec<Number> = diesel::sql_query(question).load(connection)?;
    Ok(numbers.into_iter().map(|n| n.number).collect())
}

#[derive(QueryableByName)]
struct Number {
    #[diesel(sql_type = BigInt)]
    number: i64,
}
