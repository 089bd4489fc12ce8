//! The `zolvik` binary as a child process.

use std::io::{BufRead, BufReader};
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};

/// A running server; killed when dropped.
pub struct Server {
    child: Child,
    /// Address without a slash at the end.
    pub address: String,
    /// Port on 127.0.0.1.
    pub port: u16,
}

/// The binary, as `cargo xtask test` builds it.
pub fn binary() -> PathBuf {
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("../target/debug/zolvik");
    assert!(
        path.exists(),
        "{} is not built; run cargo xtask test, or cargo build -p zolvik-server",
        path.display()
    );
    path
}

impl Server {
    /// Starts it on a data folder; port 0 takes a free one.
    pub fn start(data: &Path, port: u16, demo: bool) -> Server {
        Self::start_with(data, port, demo, &[])
    }

    /// With variables in its surroundings.
    pub fn start_with(data: &Path, port: u16, demo: bool, variables: &[(&str, &Path)]) -> Server {
        Self::try_start(data, port, demo, variables).expect("the server prints its address")
    }

    /// The same; none if the port is taken.
    pub fn try_start(
        data: &Path,
        port: u16,
        demo: bool,
        variables: &[(&str, &Path)],
    ) -> Option<Server> {
        let mut command = Command::new(binary());
        command.envs(variables.iter().copied());
        command
            .arg("serve")
            .arg("--data")
            .arg(data)
            .args(["--port", &port.to_string()]);
        if demo {
            command.arg("--demo");
        }
        let mut child = command
            .stdout(Stdio::piped())
            .spawn()
            .expect("the server starts");
        let lines = BufReader::new(child.stdout.take().expect("its output is piped")).lines();
        let address = lines
            .map_while(Result::ok)
            .find_map(|line| line.strip_prefix("Zolvik is at ").map(str::to_owned));
        let Some(address) = address else {
            let _ = child.wait();
            return None;
        };
        let port = address
            .rsplit(':')
            .next()
            .and_then(|p| p.parse().ok())
            .expect("the address ends in a port");
        Some(Server {
            child,
            address,
            port,
        })
    }

    /// Kills it at once and starts it again on the same data folder and port.
    pub fn restart(&mut self, data: &Path) {
        self.kill();
        *self = Server::start(data, self.port, false);
    }

    /// Kills it at once, as `kill -9` does.
    pub fn kill(&mut self) {
        // already gone is as good as killed
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

impl Drop for Server {
    fn drop(&mut self) {
        self.kill();
    }
}
