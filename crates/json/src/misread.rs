//! A text that is not what it should be.

/// Where and why a text is not what it should be.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{path}: {problem}")]
pub struct Misread {
    /// Fields and positions from the root, such as `units[2].envelope`.
    pub path: String,
    /// What is wrong there.
    pub problem: String,
}
