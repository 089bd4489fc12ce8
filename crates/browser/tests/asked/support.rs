use serde_json::Value;
use zolvik_browser::page::Page;

/// Asks the page's side as the page does: in JSON, and answered so.
pub fn ask(page: &mut Page, question: Value) -> Value {
    let question = serde_json::from_value(question).expect("a question");
    serde_json::to_value(page.answer(question)).expect("an answer")
}
