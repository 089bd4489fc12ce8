//! Chromium. Starting it costs as much as a short story, so stories use one after the other: each on a tab of its own, and at the same address,
//! so that the browser keeps the application compiled. What a page keeps is cleared in between, so that the next does not see it.

use std::io::Write;
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::sync::Mutex;
use std::time::{Duration, Instant};

use reqwest::blocking::Client;
use serde_json::{Value, json};
use tempfile::TempDir;

/// How long it may take to start, or to close its tabs.
const PATIENCE: Duration = Duration::from_secs(60);
/// Ends Chromium when the tests are gone, however they end: then nothing holds the other end of the shell's input.
const WITH_THE_TESTS: &str = "\"$@\" & read -r _; kill $!; wait $!; rm -rf \"$0\"";
const FLAGS: [&str; 15] = [
    "--headless=new",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-dev-shm-usage",
    "--window-size=1280,800",
    "--force-device-scale-factor=1",
    // what a page holds can be told apart from what only waits to be collected
    "--js-flags=--expose-gc",
    "--enable-automation",
    "--password-store=basic",
    "--remote-debugging-port=0",
];

/// Those that no story uses now.
static IDLE: Mutex<Vec<Browser>> = Mutex::new(vec![]);

/// A running Chromium with one empty tab.
pub struct Browser {
    shell: Child,
    /// Where it is told what to do, as `host:port`.
    pub address: String,
    /// The port at which its pages found the application last; 0 if there were none yet.
    pub port: u16,
}

impl Browser {
    /// One that is idle, or a new one.
    pub fn take() -> Browser {
        let idle = IDLE.lock().ok().and_then(|mut idle| idle.pop());
        idle.unwrap_or_else(Browser::start)
    }

    fn start() -> Browser {
        let profile = TempDir::new()
            .expect("a temporary folder can be made")
            .keep();
        // a story saves more files in a row than the browser allows a page without asking
        let preferences = json!({ "profile": { "default_content_setting_values": { "automatic_downloads": 1 } }, "download": { "prompt_for_download": false } });
        std::fs::create_dir_all(profile.join("Default")).expect("the profile's folder");
        std::fs::write(profile.join("Default/Preferences"), preferences.to_string())
            .expect("preferences are written");
        let mut shell = Command::new("sh");
        shell.args(["-c", WITH_THE_TESTS]).arg(&profile);
        shell.arg("/usr/bin/chromium").args(FLAGS);
        shell
            .arg(format!("--user-data-dir={}", profile.display()))
            .arg("about:blank");
        let shell = shell
            .stdin(Stdio::piped())
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .spawn()
            .expect("Chromium starts");
        let port = port_of(&profile).expect("Chromium says its port");
        let address = format!("127.0.0.1:{port}");
        Browser {
            shell,
            address,
            port: 0,
        }
    }

    /// Makes it as new and lets another story use it. One whose tabs do not close is ended.
    pub fn give_back(self) {
        // a thread of its own: a story's runtime must not be blocked
        let reset = std::thread::spawn(move || self.one_empty_tab().map(|()| self));
        if let (Ok(Some(browser)), Ok(mut idle)) = (reset.join(), IDLE.lock()) {
            idle.push(browser);
        }
    }

    fn one_empty_tab(&self) -> Option<()> {
        let client = Client::new();
        let at = |verb: &str| format!("http://{}/json/{verb}", self.address);
        let tabs = || -> Option<Vec<String>> {
            let text = client.get(at("list")).send().ok()?.text().ok()?;
            let all: Value = serde_json::from_str(&text).ok()?;
            let pages = all.as_array()?.iter().filter(|tab| tab["type"] == "page");
            pages
                .map(|tab| tab["id"].as_str().map(str::to_owned))
                .collect()
        };
        let old = tabs()?;
        client.put(at("new?about:blank")).send().ok()?;
        for tab in &old {
            client.get(at(&format!("close/{tab}"))).send().ok()?;
        }
        let began = Instant::now();
        while tabs()?.len() != 1 {
            if began.elapsed() > PATIENCE {
                return None;
            }
            std::thread::sleep(Duration::from_millis(20));
        }
        Some(())
    }
}

impl Drop for Browser {
    fn drop(&mut self) {
        // the shell reads a line, ends Chromium and clears away
        if let Some(mut input) = self.shell.stdin.take() {
            let _ = input.write_all(b"\n");
        }
        let _ = self.shell.wait();
    }
}

/// The port it wrote into its profile.
fn port_of(profile: &Path) -> Option<u16> {
    let began = Instant::now();
    while began.elapsed() < PATIENCE {
        let text = std::fs::read_to_string(profile.join("DevToolsActivePort")).unwrap_or_default();
        // both lines are there when it is ready
        if let Some((port, _)) = text.split_once('\n') {
            return port.parse().ok();
        }
        std::thread::sleep(Duration::from_millis(20));
    }
    None
}
