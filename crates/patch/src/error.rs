//! What can be wrong with a patch, an edit or a typed text.

use crate::ids::{EffectId, GroupId, LinkId, RouteId, SourceId, UnitId};

/// Why a patch could not be read or an edit was refused. The document is unchanged in every case.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum PatchError {
    /// The text is not JSON, or its shape is not that of a patch.
    #[error("at {path}: {problem}")]
    Shape {
        /// Where in the document, such as `units[2].envelope.attack_s`.
        path: String,
        /// What is wrong there, in the reader's words.
        problem: String,
    },
    /// An edit that would hold in one articulation and not in another.
    #[error(
        "this fits {here} alone: in {there} {problem}. Nothing was changed; make what it needs in {there} first, or do it there"
    )]
    OnlyHere {
        /// The articulation that is heard, or the base.
        here: String,
        /// The one in which it does not hold.
        there: String,
        /// Why not.
        problem: String,
    },
    /// The file was written by a newer version of the application.
    #[error(
        "format {actual} is newer than {expected}, the newest this version reads; update the application"
    )]
    Newer {
        /// Newest format known here.
        expected: u32,
        /// Format of the file.
        actual: u64,
    },
    /// Something without a place of its own is wrong in a part of the document.
    #[error("at {path}: {problem}")]
    Within {
        /// Which part, such as `other`.
        path: String,
        /// What is wrong there.
        problem: Box<PatchError>,
    },
    /// A number is outside its range or not finite.
    #[error("at {path}: {actual} is outside {min} to {max}")]
    Range {
        /// Where in the document.
        path: String,
        /// Lowest allowed value.
        min: f64,
        /// Highest allowed value.
        max: f64,
        /// The value found.
        actual: f64,
    },
    /// There are more entries than the format allows.
    #[error("{}", too_many(path, *max, *actual))]
    TooMany {
        /// Which list or text.
        path: String,
        /// How many are allowed.
        max: usize,
        /// How many there are.
        actual: usize,
    },
    /// A number is used twice where it must be unique.
    #[error("at {path}: number {actual} is already used")]
    Twice {
        /// Where the second use stands.
        path: String,
        /// The number used twice.
        actual: u16,
    },
    /// The same source already reaches this target.
    #[error("at {path}: unit {0} already has a route there; change its depth instead", from.0)]
    SameRoute {
        /// The second of both routes.
        path: String,
        /// The source of both routes.
        from: UnitId,
    },
    /// A route does something at its target that this cannot take.
    #[error("at {path}: {name} has no {kind} to be moved; choose another kind of route")]
    NoSuchInput {
        path: String,
        /// Name of the target.
        name: String,
        /// What the route would do.
        kind: &'static str,
    },
    /// A unit is named that the patch does not have.
    #[error("at {path}: the patch has no unit {0}", unit.0)]
    NoUnit {
        /// Where it is named.
        path: String,
        /// The missing unit.
        unit: UnitId,
    },
    /// A route is named that the patch does not have.
    #[error("the patch has no route {0}", route.0)]
    NoRoute {
        /// The missing route.
        route: RouteId,
    },
    /// A group is named that the patch does not have.
    #[error("the patch has no group {0}", group.0)]
    NoGroup {
        /// The missing group.
        group: GroupId,
    },
    /// A source of movement is named that the patch does not have.
    #[error("the patch has no source {0}", source_id.0)]
    NoSource {
        /// The missing source.
        source_id: SourceId,
    },
    /// A link is named that the patch does not have.
    #[error("the patch has no link {0}", link.0)]
    NoLink {
        /// The missing link.
        link: LinkId,
    },
    /// An effect is named that the patch does not have.
    #[error("the patch has no effect {0}", effect.0)]
    NoEffect {
        /// The missing effect.
        effect: EffectId,
    },
    /// A link would let sources move each other in a circle.
    #[error("at {path}: this would go round in a loop: {}; link it elsewhere", around.join(", "))]
    Loop {
        /// Where in the document.
        path: String,
        /// Names of the sources of the loop, the first again at the end.
        around: Vec<String>,
    },
    /// A value is named as the target of a link that no link may move.
    #[error("at {path}: {name} cannot be moved")]
    Unmoved {
        /// Where it is named.
        path: String,
        /// The value's label.
        name: String,
    },
    /// A parameter does not belong to the thing it was set on.
    #[error("{param} is not a value of {owner}")]
    NotThere {
        /// The parameter's id.
        param: &'static str,
        /// What it was asked of.
        owner: String,
    },
}

impl PatchError {
    /// Where in the document, if it says.
    pub fn place(&self) -> Option<String> {
        self.clone().place_mut().map(std::mem::take)
    }

    fn place_mut(&mut self) -> Option<&mut String> {
        match self {
            PatchError::Shape { path, .. }
            | PatchError::Within { path, .. }
            | PatchError::Range { path, .. }
            | PatchError::TooMany { path, .. }
            | PatchError::Twice { path, .. }
            | PatchError::SameRoute { path, .. }
            | PatchError::NoSuchInput { path, .. }
            | PatchError::Loop { path, .. }
            | PatchError::Unmoved { path, .. }
            | PatchError::NoUnit { path, .. } => Some(path),
            _ => None,
        }
    }

    /// The same fault, found in a part of the document.
    #[must_use]
    pub fn within(self, part: &str) -> PatchError {
        let mut error = self;
        match error.place_mut() {
            Some(path) => *path = format!("{part}.{path}"),
            None => {
                return PatchError::Within {
                    path: part.into(),
                    problem: Box::new(error),
                };
            }
        }
        error
    }
}

/// That there is no room for more, in the words of the screen where it is something the screen has.
fn too_many(path: &str, max: usize, actual: usize) -> String {
    let things = match path {
        "units" => "strips",
        "movement.sources" => "sources of movement",
        "movement.links" => "links",
        "movement.sources (macros)" => "macros",
        "playing.articulations" => "articulations",
        _ => return format!("at {path}: {actual} entries, at most {max} are allowed"),
    };
    format!("a patch holds up to {max} {things}")
}
