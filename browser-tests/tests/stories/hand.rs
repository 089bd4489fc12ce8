//! A hand on the stage that counts what it does: a click, a key or chord, a drag, and a text typed with its Enter are one gesture each.

use thirtyfour::prelude::*;
use zolvik_browser_tests::{Stage, stage};
use zolvik_patch::Patch;

/// A hand on the stage.
pub struct Hand {
    pub stage: Stage,
    pub id: i64,
    pub gestures: usize,
    /// Whether it has the keyboard alone: then what it wants is found by its name.
    keys_alone: bool,
}

impl Hand {
    pub async fn new() -> Hand {
        let stage = stage().await;
        let id = stage.new_patch().await;
        Hand {
            stage,
            id,
            gestures: 1,
            keys_alone: false,
        }
    }

    /// One with the keyboard alone, in the library.
    pub async fn with_keys_alone() -> Hand {
        let stage = stage().await;
        stage.open("/").await;
        stage.find(".list").await;
        Hand {
            stage,
            id: 0,
            gestures: 0,
            keys_alone: true,
        }
    }

    /// Begins a new patch, in the library.
    pub async fn begin(&mut self) {
        self.gestures = 0;
        self.click("New patch").await;
        self.stage.find("[data-unit='1']").await;
        let other = format!(
            "return /patch\\/\\d+/.test(location.pathname) && !location.pathname.endsWith('/{}')",
            self.id
        );
        self.stage.wait_until("its address", &other).await;
        let path = self.stage.js("return location.pathname", vec![]).await;
        let number = path.as_str().and_then(|p| p.rsplit('/').next());
        self.id = number.and_then(|n| n.parse().ok()).expect("a number");
    }

    /// Finds something by its name and does it or goes there.
    pub async fn find(&mut self, name: &str) {
        self.gestures += 2;
        self.stage.chord(Key::Control, "k").await;
        let asked = "return document.activeElement?.getAttribute('aria-label') === 'Find, or type a strip' && document.activeElement.value === ''";
        self.stage.wait_until("it asks for a name", asked).await;
        self.stage.press(name).await;
        self.stage.find("#found [role=option]").await;
        self.stage.press(Key::Enter + "").await;
        let over = "return document.querySelector('#found') === null";
        self.stage.wait_until("it is found", over).await;
    }

    pub async fn click(&mut self, label: &str) {
        if self.keys_alone {
            return self.find(label).await;
        }
        self.gestures += 1;
        self.stage.click(label).await;
    }

    pub async fn key(&mut self, key: impl Into<TypingData>) {
        if self.keys_alone {
            // out of the field that was typed in, which takes what is typed
            self.gestures += 1;
            self.stage.press(Key::Escape + "").await;
        }
        self.gestures += 1;
        self.stage.press(key).await;
    }

    pub async fn chord(&mut self, modifier: Key, key: &str) {
        self.gestures += 1;
        self.stage.chord(modifier, key).await;
    }

    /// A click into the line to add, and a line with its Enter.
    pub async fn line(&mut self, text: &str) {
        if self.keys_alone {
            let strips = "return document.querySelectorAll('.row[data-unit]').length";
            let before = self.stage.js(strips, vec![]).await;
            self.find(text).await;
            let more = format!("{strips} > {before}");
            return self.stage.wait_until("the strips are there", &more).await;
        }
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
        if self.keys_alone {
            self.find(label).await;
            let focused =
                format!("return document.activeElement?.getAttribute('aria-label') === '{label}'");
            self.stage.wait_until(label, &focused).await;
            return self.typed(text).await;
        }
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
        if self.keys_alone {
            return self.find(&format!("{choice}: {option}")).await;
        }
        self.gestures += 1;
        self.stage.choose(choice, option).await;
    }

    pub async fn menu(&mut self, button: &str, item: &str) {
        if self.keys_alone {
            return self.find(item).await;
        }
        self.gestures += 2;
        self.stage.menu(button, item).await;
    }

    pub async fn patch(&self) -> Patch {
        self.stage.saved(self.id).await
    }

    /// By the keyboard alone, where going to a value is a name more, it may be a quarter more.
    pub fn within(&self, job: &str, mark: usize) {
        let mark = if self.keys_alone { mark * 5 / 4 } else { mark };
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
