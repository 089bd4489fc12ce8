//! What is wrong in a library: in its file, its documents, its recordings.

use diesel::prelude::*;
use diesel::sql_types::Text;
use sha2::{Digest, Sha256};
use zolvik_patch::json;

use crate::error::StoreError;
use crate::schema::{patches, recordings, versions};

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

/// Looks over everything: the file, every document, every version, every recording. Changes nothing.
///
/// # Errors
/// If the database cannot be read at all.
pub(crate) fn look_over(connection: &mut SqliteConnection) -> Result<Report, StoreError> {
    let mut report = Report::default();
    let broken = integrity(connection)?;
    report.faults.extend(broken.into_iter().map(|line| {
        format!("the database's file: {line}; bring a backup back with zolvik library restore")
    }));
    let ids: Vec<i32> = patches::table.select(patches::id).load(connection)?;
    report.patches = ids.len();
    for id in ids {
        let (name, document): (String, String) = patches::table
            .find(id)
            .select((patches::name, patches::document))
            .first(connection)?;
        if let Err(problem) = json::read(&document) {
            report.faults.push(format!(
                        "patch {id} “{name}”: {problem}; export it as it is in the Library, or move it to the bin"
                    ));
        }
    }
    let ids: Vec<i32> = versions::table.select(versions::id).load(connection)?;
    report.versions = ids.len();
    for id in ids {
        let (patch, name, document): (i32, String, String) = versions::table
            .find(id)
            .select((versions::patch_id, versions::name, versions::document))
            .first(connection)?;
        if let Err(problem) = json::read(&document) {
            report
                .faults
                .push(format!("version “{name}” of patch {patch}: {problem}"));
        }
    }
    let contents: Vec<String> = recordings::table
        .select(recordings::content)
        .load(connection)?;
    report.recordings = contents.len();
    for content in contents {
        let wav: Vec<u8> = recordings::table
            .find(&content)
            .select(recordings::wav)
            .first(connection)?;
        let digest = Sha256::digest(&wav);
        let actual: String = digest.iter().map(|byte| format!("{byte:02x}")).collect();
        if actual != content {
            report.faults.push(format!(
                "recording {content}: its sound was changed; import it again"
            ));
        }
    }
    Ok(report)
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
