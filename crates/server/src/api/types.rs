//! What travels, and how it is made from what is stored.

use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use zolvik_edit::history::{KeptSteps, NewSteps};
use zolvik_store::{Entry, Summary, Version};

/// Most patches of one answer.
pub const MAX_LISTED: usize = 500;

/// A patch in a list.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct PatchSummary {
    /// Number, for good.
    pub id: i32,
    /// Name.
    pub name: String,
    /// Tags.
    pub tags: Vec<String>,
    /// How to play it.
    pub note: String,
    /// Number of strips.
    pub strips: usize,
    /// Rises with every save.
    pub revision: i32,
    /// RFC 3339, UTC.
    pub created_at: String,
    /// RFC 3339, UTC.
    pub changed_at: String,
    /// When it went into the bin.
    pub binned_at: Option<String>,
    /// Changes with the document; the picture's address carries it.
    pub content: String,
    /// Why the document cannot be read; none if it can.
    pub damage: Option<String>,
}

impl From<Summary> for PatchSummary {
    fn from(summary: Summary) -> Self {
        PatchSummary {
            id: summary.id,
            name: summary.name,
            tags: summary.tags,
            note: summary.note,
            strips: summary.strips,
            revision: summary.revision,
            created_at: summary.created_at,
            changed_at: summary.changed_at,
            binned_at: summary.binned_at,
            content: summary.content,
            damage: summary.damage,
        }
    }
}

/// A stretch of a list.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct PatchList {
    /// How many there are in all.
    pub total: usize,
    /// Those of the stretch, last changed first.
    pub patches: Vec<PatchSummary>,
}

/// A patch with its document.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct PatchFull {
    /// As in the list.
    pub summary: PatchSummary,
    /// The patch file's text.
    pub document: String,
}

impl From<Entry> for PatchFull {
    fn from(entry: Entry) -> Self {
        PatchFull {
            summary: entry.summary.into(),
            document: entry.document,
        }
    }
}

/// A new patch.
#[derive(Debug, Clone, Default, Serialize, Deserialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct NewPatch {
    /// The patch file's text; without it the patch is empty: one plain sine.
    #[serde(default)]
    #[schema(max_length = 8_388_608)]
    pub document: Option<String>,
    /// What to put behind its name, such as `(mine)`; the name is shortened if need be.
    #[serde(default)]
    #[schema(max_length = 40)]
    pub suffix: Option<String>,
}

/// A save.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct SavePatch {
    /// The revision the change is based on.
    pub revision: i32,
    /// The patch file's text.
    #[schema(max_length = 8_388_608)]
    pub document: String,
    /// What is new in its steps of undo; without, the document there was before is one step back.
    #[serde(default)]
    #[schema(value_type = Option<Object>)]
    pub steps: Option<NewSteps>,
}

/// Steps of undo of a patch.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct StoredSteps {
    /// The revision they lead from.
    pub revision: i32,
    /// The steps.
    #[schema(value_type = Object)]
    pub steps: KeptSteps,
    /// A state that could not be saved, if there is one.
    pub beside: Option<BesideView>,
}

/// A state of a patch that could not be saved, kept as it is.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct BesideView {
    /// Why not, in words.
    pub why: String,
    /// RFC 3339, UTC.
    pub kept_at: String,
    /// Its text, whatever it is.
    pub document: String,
}

/// A state of a patch that cannot be saved.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct KeepBeside {
    /// Its text, whatever it is.
    #[schema(max_length = 8_388_608)]
    pub document: String,
}

/// A name.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct Named {
    /// 1 to 80 characters.
    #[schema(min_length = 1, max_length = 80)]
    pub name: String,
}

/// A tag.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct Tagged {
    /// 1 to 24 characters.
    #[schema(min_length = 1, max_length = 24)]
    pub tag: String,
}

/// A named version in a list.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct VersionSummary {
    /// Number.
    pub id: i32,
    /// Name given by the user.
    pub name: String,
    /// RFC 3339, UTC.
    pub created_at: String,
    /// What is wrong with it; none if it is as it was kept.
    pub damage: Option<String>,
}

impl From<&Version> for VersionSummary {
    fn from(version: &Version) -> Self {
        VersionSummary {
            id: version.id,
            name: version.name.clone(),
            created_at: version.created_at.clone(),
            damage: version.damage.clone(),
        }
    }
}

/// A named version with its document.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct VersionFull {
    /// As in the list.
    pub summary: VersionSummary,
    /// The patch file's text.
    pub document: String,
}

/// What library this is.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct About {
    /// The library's own sign, the same for its life.
    pub library: String,
    /// Which opening of it this is: another one once a backup was put in its place.
    pub opening: String,
    /// Version of the application.
    pub version: String,
}

/// What emptying the bin took away.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Emptied {
    /// Patches, with their versions.
    pub patches: usize,
    /// Recordings nothing else played.
    pub recordings: usize,
}

/// Which list, and which stretch of it.
#[derive(Debug, Clone, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct ListQuery {
    /// The bin instead of the library.
    #[serde(default)]
    pub bin: bool,
    /// How many to pass over.
    #[serde(default)]
    #[param(minimum = 0, maximum = 1_000_000_000)]
    pub offset: usize,
    /// How many to give; 500 at most.
    #[serde(default = "most_listed")]
    #[param(minimum = 0, maximum = 500)]
    pub limit: usize,
}

fn most_listed() -> usize {
    MAX_LISTED
}

/// What a picture was made of.
#[derive(Debug, Clone, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct PictureQuery {
    /// The content whose picture is wanted: the answer may then be kept.
    #[serde(default)]
    pub content: String,
}

/// What a recording is called.
#[derive(Debug, Clone, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct SoundQuery {
    /// Name of the file it comes from.
    #[serde(default)]
    pub name: String,
}
