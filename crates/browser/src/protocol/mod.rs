//! Questions, tasks and answers between TypeScript and Rust. The TypeScript side is generated from here.

mod answer;
mod found;
mod question;
mod refusal;
mod reply;
mod task;

pub use self::answer::Answer;
pub use self::found::{
    DifferenceView, EffectKindView, Hit, HitOf, KindView, ReadyPhraseView, Target, WordView,
};
pub use self::question::{
    ArrangingQuestion, BarPart, DocumentQuestion, FinishQuestion, HandQuestion, HandsEdit,
    ListeningQuestion, MovementQuestion, NoteField, PhraseQuestion, Question, ScoreOf,
    StripQuestion, ValueQuestion, WaveQuestion,
};
pub use self::refusal::Refusal;
pub use self::reply::Reply;
pub use self::task::{PictureOf, RenderOf, Task};
