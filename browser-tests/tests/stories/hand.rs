//! A hand on the stage that counts what it does: a click, a key or chord, a drag, and a text typed with its Enter are one gesture each.

use thirtyfour::prelude::*;
use zolvik_browser_tests::{Stage, stage};
use zolvik_patch::Patch;

/// A hand on the stage.
pub struct Hand {
    pub stage: Stage,
    pub id: i64,
    pub gestures: usize,
}

impl Hand {
    pub async fn new() -> Hand {
        let stage = stage().await;
        let id = stage.new_patch().await;
        Hand {
            stage,
            id,
            gestures: 1,
        }
    }

    pub async fn click(&mut self, label: &str) {
        self.gestures += 1;
        self.stage.click(label).await;
    }

    pub async fn key(&mut self, key: impl Into<TypingData>) {
        self.gestures += 1;
        self.stage.press(key).await;
    }

    pub async fn chord(&mut self, modifier: Key, key: &str) {
        self.gestures += 1;
        self.stage.chord(modifier, key).await;
    }

    /// A click into the line to add, and a line with its Enter.
    pub async fn line(&mut self, text: &str) {
        self.gestures += 2;
        let input = self.stage.find("input[aria-label='Strips as text']").await;
        input.click().await.unwrap();
        input.send_keys(text).await.unwrap();
        input.send_keys(Key::Enter + "").await.unwrap();
        let empty =
            "return document.querySelector(\"input[aria-label='Strips as text']\").value === ''";
        self.stage.wait_until("the line is taken", empty).await;
        input.send_keys(Key::Escape + "").await.unwrap();
    }

    /// A click on the number, and a text with its Enter.
    pub async fn set(&mut self, label: &str, text: &str) {
        self.gestures += 2;
        let css = format!("[role=spinbutton][aria-label='{label}'] .value");
        self.stage
            .find(&css)
            .await
            .scroll_into_view()
            .await
            .unwrap();
        let (x, y) = self.stage.middle(&css).await;
        let chain = self.stage.driver.action_chain().move_to(x, y);
        chain.click().perform().await.unwrap();
        let input = self
            .stage
            .find(&format!("input[aria-label='{label}, typed']"))
            .await;
        input.send_keys(text).await.unwrap();
        input.send_keys(Key::Enter + "").await.unwrap();
    }

    /// A click on a value of the chosen notes of a phrase, and a text with its Enter.
    pub async fn set_note(&mut self, label: &str, text: &str) {
        self.gestures += 2;
        let css = format!("button[aria-label^='{label} of the notes']");
        self.stage.find(&css).await.click().await.unwrap();
        let css = format!("input[aria-label='{label} of the notes, typed']");
        let input = self.stage.find(&css).await;
        input.send_keys(text).await.unwrap();
        input.send_keys(Key::Enter + "").await.unwrap();
    }

    pub async fn choose(&mut self, choice: &str, option: &str) {
        self.gestures += 1;
        self.stage.choose(choice, option).await;
    }

    pub async fn menu(&mut self, button: &str, item: &str) {
        self.gestures += 2;
        self.stage.menu(button, item).await;
    }

    pub async fn patch(&self) -> Patch {
        self.stage.saved(self.id).await
    }

    pub fn within(&self, job: &str, mark: usize) {
        println!("{job}: {} gestures, the mark is {mark}", self.gestures);
        assert!(self.gestures <= mark, "{job} took {}", self.gestures);
    }

    /// The right button on a value: what moves it.
    pub async fn ask(&mut self, label: &str) {
        self.gestures += 1;
        let css = format!("[role=spinbutton][aria-label='{label}']");
        let field = self.stage.find(&css).await;
        field.scroll_into_view().await.unwrap();
        let (x, y) = self.stage.middle(&css).await;
        let chain = self.stage.driver.action_chain().move_to(x, y);
        chain.context_click().perform().await.unwrap();
        self.stage.find("[data-testid=field-menu]").await;
    }

    /// A text with its Enter, typed on what has the focus.
    pub async fn typed(&mut self, text: &str) {
        self.gestures += 1;
        self.stage.press(text).await;
        self.stage.press(Key::Enter + "").await;
    }

    /// A click on a place of the page.
    pub async fn click_on(&mut self, css: &str) {
        self.gestures += 1;
        let element = self.stage.find(css).await;
        element.scroll_into_view().await.unwrap();
        element.click().await.unwrap();
    }

    /// Chooses from a list that opens.
    pub async fn pick(&mut self, label: &str, option: &str) {
        self.gestures += 2;
        let css = format!("select[aria-label='{label}']");
        let list = self.stage.find(&css).await;
        list.scroll_into_view().await.unwrap();
        let list = thirtyfour::components::SelectElement::new(&list)
            .await
            .unwrap();
        list.select_by_visible_text(option).await.unwrap();
    }
}
