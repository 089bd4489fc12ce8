//! What a stage is made of: the browser, its driver, and the application with its data.

use std::io::{BufRead, BufReader};
use std::mem::ManuallyDrop;
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::sync::{Mutex, PoisonError};

use serde_json::{Value, json};
use tempfile::TempDir;
use thirtyfour::prelude::*;

use crate::browser::Browser;
use crate::server::Server;

/// All of it. Children die with it.
pub struct Props {
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
    pub(crate) session: String,
    /// What the console may say: parts of messages a story expects.
    pub(crate) expected: Mutex<Vec<&'static str>>,
}

impl Props {
    /// Makes it ready, with the demo collection if wished, and variables in the server's surroundings.
    pub async fn new(demo: bool, variables: &[(&str, &Path)]) -> Props {
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
        let kept =
            json!({ "origin": server.address, "storageTypes": "local_storage,indexeddb,cookies" });
        tell(&session, "Storage.clearDataForOrigin", kept).await;
        // never dropped: its own farewell would wait for a ChromeDriver that is already gone
        let driver = ManuallyDrop::new(driver);
        Props {
            driver,
            server,
            data,
            downloads,
            browser: Some(browser),
            chromedriver,
            session,
            expected: Mutex::default(),
        }
    }

    /// Errors in the console that no story expects; they are told once.
    pub fn errors(&self) -> Vec<String> {
        let expected = self.expected.lock().unwrap_or_else(PoisonError::into_inner);
        let mut errors = console_errors(&self.session);
        errors.retain(|error| !expected.iter().any(|part| error.contains(part)));
        errors
    }

    /// Forgets what the last story did with it.
    pub fn clear(&self) {
        self.expected
            .lock()
            .unwrap_or_else(PoisonError::into_inner)
            .clear();
        for file in std::fs::read_dir(self.downloads.path())
            .into_iter()
            .flatten()
            .flatten()
        {
            let _ = std::fs::remove_file(file.path());
        }
    }
}

impl Drop for Props {
    fn drop(&mut self) {
        let _ = self.chromedriver.kill();
        let _ = self.chromedriver.wait();
        match self.browser.take() {
            Some(browser) if !std::thread::panicking() => browser.give_back(),
            // what a story that failed has done to it is not known
            ended => drop(ended),
        }
    }
}

/// Tells the browser what a driver has no word for.
pub(crate) async fn tell(session: &str, command: &str, with: Value) {
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
