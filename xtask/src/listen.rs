//! Runs the tests and listens to what they print: how long each file of tests took, and which tests were the slowest.

use std::io::{BufRead, BufReader, Read};
use std::process::{Command, Stdio};
use std::sync::{Mutex, PoisonError};
use std::thread;
use std::time::Instant;

use crate::run::{Result, describe};

/// How many of the slowest tests are told.
const SLOWEST: usize = 10;

/// What was heard.
#[derive(Default)]
struct Heard {
    /// Files of tests with the moment each began.
    files: Vec<(String, Instant)>,
    /// Tests with the seconds they took.
    tests: Vec<(String, f64)>,
}

impl Heard {
    fn line(&mut self, line: &str) {
        let file = line
            .strip_prefix("     Running ")
            .or(line.strip_prefix("   Doc-tests "));
        if let Some(file) = file {
            let name = file.split(" (target").next().unwrap_or(file);
            // the folder in the compiled name tells crates apart
            let of = file.split("deps/").nth(1).and_then(|f| f.split('-').next());
            let name = match of {
                Some(of) if !name.contains(of) => format!("{of}: {name}"),
                _ => name.to_owned(),
            };
            self.files.push((name, Instant::now()));
        }
        if let Some((name, took_s)) = timed(line) {
            self.tests.push((name.to_owned(), took_s));
        }
    }

    fn table(&self, ended: Instant) {
        let ends = self.files.iter().skip(1).map(|f| f.1).chain([ended]);
        let mut files: Vec<(f64, &str)> = self
            .files
            .iter()
            .zip(ends)
            .map(|((name, from), to)| ((to - *from).as_secs_f64(), name.as_str()))
            .collect();
        let mut tests: Vec<(f64, &str)> = self
            .tests
            .iter()
            .map(|(name, s)| (*s, name.as_str()))
            .collect();
        for (title, rows) in [
            ("files of tests", &mut files),
            ("slowest tests", &mut tests),
        ] {
            rows.sort_by(|a, b| b.0.total_cmp(&a.0));
            println!("xtask: {title}, in seconds");
            for (seconds, name) in rows.iter().take(SLOWEST) {
                println!("xtask: {seconds:>8.1}  {name}");
            }
        }
    }
}

/// `test NAME ... ok <12.345s>`.
fn timed(line: &str) -> Option<(&str, f64)> {
    let (name, rest) = line.strip_prefix("test ")?.split_once(" ... ")?;
    let seconds = rest.split('<').nth(1)?.strip_suffix("s>")?;
    Some((name, seconds.parse().ok()?))
}

/// Runs tests to their end, showing what they print, and says where the time went.
pub fn run_tests(mut command: Command) -> Result {
    let words = describe(&command);
    println!("xtask: {words}");
    let child = command
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn();
    let mut child = child.map_err(|e| format!("{words} cannot be started: {e}"))?;
    let heard = Mutex::new(Heard::default());
    let hear = |line: &str| {
        heard
            .lock()
            .unwrap_or_else(PoisonError::into_inner)
            .line(line)
    };
    thread::scope(|scope| {
        if let Some(errors) = child.stderr.take() {
            scope.spawn(|| {
                each_line(errors, |line| {
                    eprintln!("{line}");
                    hear(line);
                })
            });
        }
        if let Some(output) = child.stdout.take() {
            each_line(output, |line| {
                println!("{line}");
                hear(line);
            });
        }
    });
    let status = child.wait().map_err(|e| format!("{words}: {e}"))?;
    heard
        .lock()
        .unwrap_or_else(PoisonError::into_inner)
        .table(Instant::now());
    match status.success() {
        true => Ok(()),
        false => Err(format!("{words} failed ({status})")),
    }
}

fn each_line(from: impl Read, act: impl Fn(&str)) {
    let mut from = BufReader::new(from);
    let mut line = vec![];
    // what is no UTF-8 must not end it
    while from.read_until(b'\n', &mut line).is_ok_and(|read| read > 0) {
        act(String::from_utf8_lossy(&line).trim_end_matches('\n'));
        line.clear();
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_a_test_took_is_read_and_all_else_is_none() {
        assert_eq!(timed("test a::b ... ok <1.250s>"), Some(("a::b", 1.25)));
        assert_eq!(
            timed("test a::b ... FAILED <0.004s>"),
            Some(("a::b", 0.004))
        );
        assert_eq!(timed("test a::b ... ignored, minutes"), None);
        assert_eq!(timed("test result: ok. 1 passed"), None);
    }

    #[test]
    fn files_of_tests_are_named_with_their_crate() {
        let mut heard = Heard::default();
        heard.line("     Running tests/sound/main.rs (target/debug/deps/sound-b5d4f6)");
        heard.line("     Running unittests src/lib.rs (target/debug/deps/zolvik_engine-57c5)");
        heard.line("test a ... ok <0.500s>");
        let names: Vec<&str> = heard.files.iter().map(|file| file.0.as_str()).collect();
        assert_eq!(
            names,
            ["tests/sound/main.rs", "zolvik_engine: unittests src/lib.rs"]
        );
        assert_eq!(heard.tests, [("a".to_owned(), 0.5)]);
    }
}
