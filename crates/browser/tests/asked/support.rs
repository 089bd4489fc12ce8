use serde_json::Value;
use zolvik_browser::page::Page;
use zolvik_browser::protocol::Reply;

/// Asks the page's side as the page does: in JSON, and answered so.
pub fn ask(page: &mut Page, question: Value) -> Value {
    ask_for_file(page, question).0
}

/// As [`ask`], with what goes beside the answer.
pub fn ask_for_file(page: &mut Page, question: Value) -> (Value, Vec<u8>) {
    let question = serde_json::from_value(question).expect("a question");
    let Reply { answer, beside } = page.answer(question);
    let answer = serde_json::to_value(answer).expect("an answer");
    (answer, beside.unwrap_or_default())
}
