//! What a hand does on the page, and waiting for what comes of it.

use std::time::Duration;

use serde_json::{Value, json};
use thirtyfour::prelude::*;

use crate::props::tell;
use crate::stage::{PATIENCE, Stage};

impl Stage {
    /// Makes the page itself 1280 by 800, whatever the window's frame takes.
    pub(crate) async fn fit_window(&self) {
        let inner = self
            .js("return innerHeight", vec![])
            .await
            .as_i64()
            .unwrap_or(800);
        let outer = self
            .driver
            .get_window_rect()
            .await
            .expect("a window")
            .height;
        let height = u32::try_from(outer + 800 - inner).unwrap_or(800);
        self.driver
            .set_window_rect(0, 0, 1280, height)
            .await
            .expect("a window");
    }

    /// Empties the browser's cache, so that all is asked for again.
    pub async fn forget_what_was_loaded(&self) {
        tell(&self.session, "Network.clearBrowserCache", json!({})).await;
    }

    /// Runs a script in the page.
    pub async fn js(&self, script: &str, arguments: Vec<Value>) -> Value {
        self.driver
            .execute(script, arguments)
            .await
            .expect("the script runs")
            .json()
            .clone()
    }

    /// Waits for an element by CSS selector and gives it.
    pub async fn find(&self, css: &str) -> WebElement {
        let query = self
            .driver
            .query(By::Css(css))
            .wait(PATIENCE, Duration::from_millis(50));
        match query.first().await {
            Ok(element) => element,
            Err(error) => {
                self.picture_of_failure().await;
                panic!("no “{css}” on the page: {error}");
            }
        }
    }

    /// Waits for an element by its label or text among buttons, links, fields.
    pub async fn control(&self, label: &str) -> WebElement {
        let xpath = format!(
            "//*[self::button or self::a or self::input or @role='spinbutton' or @role='menuitem' or @role='switch']\
             [@aria-label='{label}' or normalize-space(.)='{label}']"
        );
        // what is drawn anew between finding and looking is looked for again
        for tries_left in (0..5).rev() {
            let query = self
                .driver
                .query(By::XPath(&xpath))
                .wait(PATIENCE, Duration::from_millis(50));
            match query.and_displayed().first().await {
                Ok(element) => return element,
                Err(error) if tries_left > 0 && error.to_string().contains("stale") => {}
                Err(error) => {
                    self.picture_of_failure().await;
                    panic!("no control “{label}” on the page: {error}");
                }
            }
        }
        unreachable!("the last try returns or panics")
    }

    /// Clicks a control by its label.
    pub async fn click(&self, label: &str) {
        let control = self.control(label).await;
        if let Err(error) = control.click().await {
            self.picture_of_failure().await;
            panic!("“{label}” cannot be clicked: {error}");
        }
    }

    /// Chooses one of a few by the label of the choice and of the option.
    pub async fn choose(&self, choice: &str, option: &str) {
        let xpath = format!(
            "//*[@role='group' and @aria-label='{choice}']//button[normalize-space(.)='{option}']"
        );
        let query = self
            .driver
            .query(By::XPath(&xpath))
            .wait(PATIENCE, Duration::from_millis(50));
        match query.first().await {
            Ok(button) => {
                button.scroll_into_view().await.expect("scrolling");
                button.click().await.expect("the option");
            }
            Err(error) => {
                self.picture_of_failure().await;
                panic!("no option “{option}” of “{choice}”: {error}");
            }
        }
    }

    /// Chooses from the menu behind a button.
    pub async fn menu(&self, button: &str, item: &str) {
        self.click(button).await;
        self.click(item).await;
    }

    /// Waits for a value field by its label.
    pub async fn field(&self, label: &str) -> WebElement {
        self.find(&format!("[role=spinbutton][aria-label='{label}']"))
            .await
    }

    /// Presses a key on whatever has the focus, or on the page.
    pub async fn press(&self, key: impl Into<TypingData>) {
        let chain = self.driver.action_chain().send_keys(key.into());
        chain.perform().await.expect("the key");
    }

    /// Selects the whole patch, by the row of the output.
    pub async fn select_patch(&self) {
        let row = self.find(".output button").await;
        row.click().await.expect("the click");
    }

    /// Presses a key while a modifier is held.
    pub async fn chord(&self, modifier: Key, key: &str) {
        let chain = self.driver.action_chain().key_down(modifier.clone());
        let chain = chain.send_keys(key).key_up(modifier);
        chain.perform().await.expect("the keys");
    }

    /// Clicks a strip's head; with Shift it joins those selected already.
    pub async fn select(&self, unit: u16, more: bool) {
        let head = format!("[data-unit='{unit}'] .second");
        self.find(&head)
            .await
            .scroll_into_view()
            .await
            .expect("scrolling");
        let (x, y) = self.middle(&head).await;
        let mut chain = self.driver.action_chain();
        if more {
            chain = chain.key_down(Key::Shift);
        }
        chain = chain.move_to(x, y).click();
        if more {
            chain = chain.key_up(Key::Shift);
        }
        chain.perform().await.expect("the click");
    }

    /// A new patch, open in Build; gives its number.
    pub async fn new_patch(&self) -> i64 {
        self.open("/").await;
        self.click("New patch").await;
        self.find("[data-unit='1']").await;
        self.wait_until(
            "its address",
            "return /patch\\/\\d+/.test(location.pathname)",
        )
        .await;
        let path = self.js("return location.pathname", vec![]).await;
        let number = path
            .as_str()
            .and_then(|p| p.rsplit('/').next()?.parse().ok());
        number.expect("the patch's number")
    }

    /// Stores a patch; gives its number.
    pub async fn bring_in(&self, patch: &zolvik_patch::Patch) -> i64 {
        let create = "const done = arguments[arguments.length - 1];\
            fetch('/api/patches', { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ document: arguments[0] }) })\
            .then(r => r.json()).then(p => done(p.summary.id))";
        let document = vec![zolvik_patch::json::write(patch).into()];
        let made = self.driver.execute_async(create, document).await;
        let id = made.expect("the patch is stored").json().as_i64();
        id.expect("its number")
    }

    /// Adds an operator by its button: `+ Carrier` is the first, `+ Modulator` the second.
    pub async fn add_operator(&self, button: usize) {
        let css = format!(".add .btn:nth-child({button})");
        self.find(&css).await.click().await.expect("the button");
    }

    /// The stored patch once everything is saved.
    pub async fn saved(&self, id: i64) -> zolvik_patch::Patch {
        self.wait_saved().await;
        self.stored(id).await
    }

    /// Holds a key of the screen's keyboard while `act` runs. Keys are MIDI numbers.
    pub async fn holding<T>(&self, key: u8, act: impl Future<Output = T>) -> T {
        let (x, y) = self.middle(&format!(".board [data-key='{key}']")).await;
        let chain = self.driver.action_chain().move_to(x, y + 20);
        chain.click_and_hold().perform().await.expect("the press");
        self.wait_until(
            "the note sounds",
            "return document.querySelector('[data-testid=voices]').textContent.trim() !== '0 voices'",
        )
        .await;
        let result = act.await;
        let chain = self.driver.action_chain().release();
        chain.perform().await.expect("the release");
        result
    }

    /// The last samples the audio thread played, as the page's meter reads them, and the sample rate.
    pub async fn played(&self) -> (Vec<f32>, f64) {
        let script = "const pinia = document.querySelector('#app').__vue_app__.config.globalProperties.$pinia;\
            const into = new Float32Array(1024); pinia._s.get('playing').scope(into);\
            return [Array.from(into), new AudioContext().sampleRate]";
        let answer = self.js(script, vec![]).await;
        let samples = answer[0].as_array().expect("samples");
        let number = |v: &Value| v.as_f64().unwrap_or(0.0);
        (
            samples.iter().map(|v| number(v) as f32).collect(),
            number(&answer[1]),
        )
    }

    /// Types into a value field, replacing what stands there, and confirms.
    pub async fn set_value(&self, label: &str, text: &str) {
        let field = self.field(label).await;
        field
            .send_keys(Key::Enter + "")
            .await
            .expect("the field opens");
        let input = self
            .find(&format!("input[aria-label='{label}, typed']"))
            .await;
        input.send_keys(Key::Control + "a").await.expect("a key");
        input.send_keys(text).await.expect("keys");
        input.send_keys(Key::Enter + "").await.expect("a key");
    }

    /// What a value field says, such as `1.5 ×`.
    pub async fn value(&self, label: &str) -> String {
        self.field(label)
            .await
            .attr("aria-valuetext")
            .await
            .expect("an attribute")
            .unwrap_or_default()
    }

    /// Waits until a script gives true.
    pub async fn wait_until(&self, what: &str, script: &str) {
        let is = async || self.js(script, vec![]).await == Value::Bool(true);
        self.until(what, is).await;
    }

    /// Looks again and again, until what is looked for is so.
    pub async fn until(&self, what: &str, mut is: impl AsyncFnMut() -> bool) {
        let end = std::time::Instant::now() + PATIENCE;
        while std::time::Instant::now() < end {
            if is().await {
                return;
            }
            tokio::time::sleep(Duration::from_millis(40)).await;
        }
        self.picture_of_failure().await;
        panic!("waited in vain: {what}");
    }

    /// Waits until the page says that everything is saved.
    pub async fn wait_saved(&self) {
        self.wait_until("everything is saved", "const s = document.querySelector('[data-testid=save-state]'); return !!s && s.classList.contains('saved')").await;
    }

    /// Drags from one point of the page to another, in steps a hand would make.
    pub async fn drag(&self, from: (i64, i64), to: (i64, i64)) {
        let mut chain = self
            .driver
            .action_chain()
            .move_to(from.0, from.1)
            .click_and_hold();
        for step in 1..=6 {
            chain = chain.move_to(
                from.0 + (to.0 - from.0) * step / 6,
                from.1 + (to.1 - from.1) * step / 6,
            );
        }
        chain.release().perform().await.expect("the drag");
    }

    /// An element's rectangle once it has come to rest.
    pub async fn at_rest(&self, css: &str) -> thirtyfour::ElementRect {
        let element = self.find(css).await;
        let mut before = element.rect().await.expect("a rectangle");
        loop {
            tokio::time::sleep(Duration::from_millis(120)).await;
            let now = element.rect().await.expect("a rectangle");
            if (now.x, now.y, now.width) == (before.x, before.y, before.width) {
                return now;
            }
            before = now;
        }
    }

    /// Lays a finger on the upper left of an element for a while, and lifts it.
    pub async fn finger(&self, css: &str, rests: Duration) {
        self.find(css).await;
        let script = "const { left, top } = document.querySelector(arguments[0]).getBoundingClientRect(); return [left, top]";
        let place = self.js(script, vec![json!(css)]).await;
        let at = |i: usize, by: f64| place[i].as_f64().unwrap_or(0.0) + by;
        let point = json!({ "x": at(0, 20.0), "y": at(1, 8.0) });
        let touch = |kind: &str, points: Value| json!({ "type": kind, "touchPoints": points });
        let event = "Input.dispatchTouchEvent";
        tell(&self.session, event, touch("touchStart", json!([point]))).await;
        tokio::time::sleep(rests).await;
        tell(&self.session, event, touch("touchEnd", json!([]))).await;
    }

    /// Middle of an element in the page.
    pub async fn middle(&self, css: &str) -> (i64, i64) {
        let rect = self.find(css).await.rect().await.expect("a rectangle");
        (
            (rect.x + rect.width / 2.0) as i64,
            (rect.y + rect.height / 2.0) as i64,
        )
    }

    /// Left, top, width and height of an element, in pixels of the page.
    pub async fn bounds(&self, css: &str) -> (i64, i64, i64, i64) {
        let element = self.find(css).await;
        element.scroll_into_view().await.expect("scrolling");
        let rect = element.rect().await.expect("a rectangle");
        let script = "const { left, top } = document.querySelector(arguments[0]).getBoundingClientRect(); return [left, top]";
        let place = self.js(script, vec![json!(css)]).await;
        let at = |i: usize| place[i].as_f64().unwrap_or(0.0) as i64;
        (at(0), at(1), rect.width as i64, rect.height as i64)
    }
}
