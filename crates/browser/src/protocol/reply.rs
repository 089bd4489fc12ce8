//! What a question comes to.

use super::answer::Answer;

/// An answer, and what is handed over beside it.
#[derive(Debug)]
pub struct Reply {
    /// The answer.
    pub answer: Answer,
    /// The program of what is heard now, or a file.
    pub beside: Option<Vec<u8>>,
}

impl Reply {
    /// An answer with something beside it.
    pub fn with(answer: Answer, beside: Vec<u8>) -> Self {
        let beside = Some(beside);
        Reply { answer, beside }
    }
}

impl From<Answer> for Reply {
    fn from(answer: Answer) -> Self {
        let beside = None;
        Reply { answer, beside }
    }
}
