//! The real binary, for tests.

use std::io::{BufRead, BufReader};
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};

use reqwest::{Client, Method, StatusCode};
use serde_json::Value;

/// Changes a library behind the server's back, as another program would.
pub fn run_sql(data: &Path, sql: &str) {
    use diesel::connection::SimpleConnection;
    use diesel::prelude::*;
    let file = data.join("zolvik.sqlite");
    let mut connection = SqliteConnection::establish(&file.to_string_lossy()).unwrap();
    connection.batch_execute(sql).unwrap();
}

/// A running server; killed when it goes.
pub struct Server {
    pub child: Child,
    pub address: String,
}

impl Server {
    pub fn start(data: &Path, more: &[&str]) -> Server {
        Self::start_with(data, more, &[])
    }

    /// With variables in its surroundings.
    pub fn start_with(data: &Path, more: &[&str], variables: &[(&str, &Path)]) -> Server {
        let mut command = Command::new(env!("CARGO_BIN_EXE_zolvik"));
        command.envs(variables.iter().copied());
        command
            .arg("serve")
            .arg("--data")
            .arg(data)
            .args(["--port", "0"])
            .args(more);
        let mut child = command.stdout(Stdio::piped()).spawn().unwrap();
        let lines = BufReader::new(child.stdout.take().unwrap())
            .lines()
            .map_while(Result::ok);
        let address = lines
            .into_iter()
            .find_map(|l| l.strip_prefix("Zolvik is at ").map(str::to_owned))
            .unwrap();
        Server { child, address }
    }

    pub async fn ask(
        &self,
        method: Method,
        path: &str,
        body: Option<Value>,
    ) -> (StatusCode, Value) {
        let mut request = Client::new().request(method, format!("{}{path}", self.address));
        if let Some(body) = body {
            request = request.json(&body);
        }
        let response = request.send().await.unwrap();
        let status = response.status();
        (
            status,
            serde_json::from_str(&response.text().await.unwrap()).unwrap_or(Value::Null),
        )
    }

    /// The library, or the bin, last changed first.
    pub async fn list(&self, bin: bool) -> Vec<Value> {
        let listed = self.get(&format!("/api/patches?bin={bin}")).await;
        let patches = listed["patches"].as_array().unwrap().clone();
        assert_eq!(listed["total"], patches.len());
        patches
    }

    pub async fn get(&self, path: &str) -> Value {
        let (status, value) = self.ask(Method::GET, path, None).await;
        assert!(status.is_success(), "{path}: {status} {value}");
        value
    }
}

impl Drop for Server {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

impl Server {
    /// Sends bytes as they are.
    pub async fn send(&self, path: &str, bytes: Vec<u8>) -> (StatusCode, Value) {
        let request = Client::new().post(format!("{}{path}", self.address));
        let response = request.body(bytes).send().await.unwrap();
        let status = response.status();
        let text = response.text().await.unwrap();
        (status, serde_json::from_str(&text).unwrap_or(Value::Null))
    }

    /// The bytes at an address, its headers as text before them.
    pub async fn fetch(&self, path: &str) -> (StatusCode, String, Vec<u8>) {
        let response = Client::new()
            .get(format!("{}{path}", self.address))
            .send()
            .await
            .unwrap();
        let (status, headers) = (response.status(), format!("{:?}", response.headers()));
        (status, headers, response.bytes().await.unwrap().to_vec())
    }
}

/// The layer that lets the disk fail and the clock be wrong, compiled once for each test's folder; the bundled SQLite needs the same compiler.
pub fn layer(folder: &Path) -> PathBuf {
    let layer = folder.join("faults.so");
    let source = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/served/server/faults.c");
    let compiled = Command::new("cc")
        .args(["-shared", "-fPIC", "-O1", "-o"])
        .arg(&layer)
        .arg(source)
        .status()
        .unwrap();
    assert!(compiled.success());
    layer
}
