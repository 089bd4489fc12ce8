//! Browser and server together, and the gestures the stories use.

use std::io::{BufRead, BufReader};
use std::mem::ManuallyDrop;
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::time::Duration;

use diesel::connection::SimpleConnection;
use diesel::{Connection, SqliteConnection};
use serde_json::{Value, json};
use tempfile::TempDir;
use thirtyfour::prelude::*;

use crate::browser::Browser;
use crate::server::Server;

/// How long a state is waited for before a story fails. Long, as a machine may be several times slower than this one: only a story that
/// fails waits so long.
pub const PATIENCE: Duration = Duration::from_secs(120);

/// Everything a story needs. Children die with it.
pub struct Stage {
    /// The browser.
    pub driver: ManuallyDrop<WebDriver>,
    /// The application.
    pub server: Server,
    /// Its data folder.
    pub data: TempDir,
    /// Where the browser saves downloads.
    pub downloads: TempDir,
    browser: Option<Browser>,
    chromedriver: Child,
    /// Address of the session at ChromeDriver.
    session: String,
    /// What the console may say: parts of messages a story expects.
    expected: std::sync::Mutex<Vec<&'static str>>,
}

/// A stage on an empty data folder.
pub async fn stage() -> Stage {
    stage_with(false).await
}

/// A stage, with the demo collection if wished.
pub async fn stage_with(demo: bool) -> Stage {
    stage_before(demo, &[]).await
}

/// A stage whose server has variables in its surroundings.
pub async fn stage_before(demo: bool, variables: &[(&str, &Path)]) -> Stage {
    let folder = || tempfile::tempdir().expect("a temporary folder can be made");
    let (data, downloads) = (folder(), folder());
    let mut browser = Browser::take();
    let server = Server::try_start(data.path(), browser.port, demo, variables)
        .unwrap_or_else(|| Server::start_with(data.path(), 0, demo, variables));
    browser.port = server.port;
    let (chromedriver, port) = start_chromedriver();
    let mut options = DesiredCapabilities::chrome();
    options
        .add_experimental_option("debuggerAddress", browser.address.clone())
        .expect("an option");
    options
        .set("goog:loggingPrefs", json!({ "browser": "ALL" }))
        .expect("a capability");
    let driver = WebDriver::new(format!("http://127.0.0.1:{port}"), options)
        .await
        .expect("Chromium starts");
    driver
        .set_window_rect(0, 0, 1280, 800 + 139)
        .await
        .expect("a window");
    let session = driver.session_id().to_string();
    let session = format!("http://127.0.0.1:{port}/session/{session}");
    let place = json!({ "behavior": "allow", "downloadPath": downloads.path() });
    tell(&session, "Browser.setDownloadBehavior", place).await;
    let kept = json!({ "origin": server.address, "storageTypes": "all" });
    tell(&session, "Storage.clearDataForOrigin", kept).await;
    // never dropped: its own farewell would wait for a ChromeDriver that is already gone
    let driver = ManuallyDrop::new(driver);
    let stage = Stage {
        driver,
        server,
        data,
        downloads,
        browser: Some(browser),
        chromedriver,
        session,
        expected: std::sync::Mutex::default(),
    };
    stage.fit_window().await;
    stage
}

/// Tells the browser what a driver has no word for.
async fn tell(session: &str, command: &str, with: Value) {
    let told = json!({ "cmd": command, "params": with });
    reqwest::Client::new()
        .post(format!("{session}/goog/cdp/execute"))
        .json(&told)
        .send()
        .await
        .and_then(reqwest::Response::error_for_status)
        .unwrap_or_else(|error| panic!("{command}: {error}"));
}

/// Starts ChromeDriver; one that ends before it says its port, as it does now and then when many start at once, is started again.
fn start_chromedriver() -> (Child, u16) {
    let tries = (0..3).find_map(|_| {
        let (mut child, port) = try_chromedriver();
        if port.is_none() {
            // what ended by itself is only cleared away
            let _ = child.kill();
            let _ = child.wait();
        }
        Some((child, port?))
    });
    tries.expect("ChromeDriver prints its port")
}

fn try_chromedriver() -> (Child, Option<u16>) {
    let mut child = Command::new("/usr/bin/chromedriver")
        .arg("--port=0")
        .stdout(Stdio::piped())
        .spawn()
        .expect("ChromeDriver starts");
    let lines = BufReader::new(child.stdout.take().expect("its output is piped")).lines();
    let port = lines.map_while(Result::ok).find_map(|line| {
        line.split("successfully on port ")
            .nth(1)?
            .trim_end_matches('.')
            .parse()
            .ok()
    });
    (child, port)
}

/// Errors in the console of the page that is open.
fn console_errors(session: &str) -> Vec<String> {
    let address = format!("{session}/se/log");
    // a thread of its own: a story's runtime must not be blocked
    let asked = std::thread::spawn(move || -> Option<Value> {
        let client = reqwest::blocking::Client::new();
        let answer = client
            .post(address)
            .json(&json!({ "type": "browser" }))
            .send();
        serde_json::from_str(&answer.ok()?.text().ok()?).ok()
    });
    let answer = asked.join().ok().flatten().unwrap_or_default();
    let entries = answer["value"].as_array().cloned().unwrap_or_default();
    entries
        .iter()
        .filter(|entry| entry["level"] == "SEVERE")
        .filter_map(|entry| entry["message"].as_str().map(str::to_owned))
        .collect()
}

impl Drop for Stage {
    fn drop(&mut self) {
        if std::thread::panicking() {
            eprintln!("the page's console: {:#?}", console_errors(&self.session));
        } else {
            let expected = self.expected.lock().map(|e| e.clone()).unwrap_or_default();
            let mut errors = console_errors(&self.session);
            errors.retain(|error| !expected.iter().any(|part| error.contains(part)));
            if !errors.is_empty() {
                self.end();
                panic!("the page's console has errors: {errors:#?}");
            }
        }
        self.end();
    }
}

impl Stage {
    /// Lets the console speak of what a story brings about on purpose, such as `status of 409`.
    pub fn expect_in_console(&self, part: &'static str) {
        if let Ok(mut expected) = self.expected.lock() {
            expected.push(part);
        }
    }

    /// A server that is killed makes the browser tell of requests that failed.
    pub fn expect_failed_requests(&self) {
        for part in ["net::ERR", "status of 5", "status of 4", "Failed to load"] {
            self.expect_in_console(part);
        }
    }

    fn end(&mut self) {
        let _ = self.chromedriver.kill();
        let _ = self.chromedriver.wait();
        match self.browser.take() {
            Some(browser) if !std::thread::panicking() => browser.give_back(),
            // what a story that failed has done to it is not known
            ended => drop(ended),
        }
    }
}

impl Stage {
    /// Makes the page itself 1280 by 800, whatever the window's frame takes.
    async fn fit_window(&self) {
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

    /// Opens a path of the application.
    pub async fn open(&self, path: &str) {
        self.driver
            .goto(format!("{}{path}", self.server.address))
            .await
            .expect("the page opens");
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

    /// The documents in the store, by the API.
    pub async fn patches(&self) -> Vec<Value> {
        let list: Vec<Value> = self.get("/api/patches").await["patches"]
            .as_array()
            .cloned()
            .unwrap_or_default();
        list
    }

    /// Changes the library behind the server's back, as another program would.
    pub fn run_sql(&self, sql: &str) {
        let file = self.data.path().join("zolvik.sqlite");
        let mut connection =
            SqliteConnection::establish(&file.to_string_lossy()).expect("the database opens");
        connection
            .batch_execute(sql)
            .expect("the database takes it");
    }

    /// The stored document of a patch.
    pub async fn stored(&self, id: i64) -> zolvik_patch::Patch {
        let full = self.get(&format!("/api/patches/{id}")).await;
        let document = full["document"].as_str();
        let document = document.unwrap_or_else(|| panic!("patch {id} is not given: {full}"));
        zolvik_patch::json::read(document).expect("a valid document is stored")
    }

    async fn get(&self, path: &str) -> Value {
        let response = reqwest::get(format!("{}{path}", self.server.address))
            .await
            .expect("the server answers");
        serde_json::from_str(&response.text().await.expect("text")).expect("JSON")
    }

    /// Saves a picture of the page.
    pub async fn picture(&self, path: &Path) {
        self.driver.screenshot(path).await.expect("a picture");
    }

    async fn picture_of_failure(&self) {
        let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("../target/failed.png");
        if self.driver.screenshot(&path).await.is_ok() {
            eprintln!("the page as it was: {}", path.display());
        }
    }

    /// Waits for a finished download with this ending and gives its path.
    pub async fn download(&self, ending: &str) -> PathBuf {
        let end = std::time::Instant::now() + PATIENCE;
        while std::time::Instant::now() < end {
            let files = std::fs::read_dir(self.downloads.path()).expect("the folder");
            let all: Vec<PathBuf> = files.flatten().map(|f| f.path()).collect();
            let ends = |path: &Path, with: &str| path.extension().is_some_and(|e| e == with);
            // the browser puts an empty file there first, and writes beside it
            let comes = all.iter().any(|path| ends(path, "crdownload"));
            let is_whole = |path: &Path| std::fs::metadata(path).is_ok_and(|file| file.len() > 0);
            let mut found = all.into_iter().filter(|path| ends(path, ending));
            if let Some(file) = found.next().filter(|path| !comes && is_whole(path)) {
                return file;
            }
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
        self.picture_of_failure().await;
        panic!("no .{ending} file was downloaded");
    }
}
