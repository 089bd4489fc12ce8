//! How many lines there are, and how many of them are tests.

use std::collections::BTreeMap;
use std::path::Path;

use crate::run::{Result, root};

/// Where sources lie.
const PLACES: [&str; 4] = ["crates", "browser-tests", "xtask", "web/src"];
/// What a file of sources ends in.
const ENDINGS: [&str; 5] = ["rs", "ts", "vue", "css", "js"];

/// Lines that are not blank.
#[derive(Debug, Default, Clone, Copy, PartialEq)]
struct Lines {
    product: usize,
    tests: usize,
}

/// Prints the lines of each part, without blank and generated ones. Tests are what stands in `tests` and `benches`, all of `browser-tests`, and what
/// is compiled for tests only.
pub fn count() -> Result {
    let mut parts = BTreeMap::new();
    for place in PLACES {
        visit(&root().join(place), &mut parts)?;
    }
    println!("{:<20} {:>8} {:>8}", "", "product", "tests");
    let mut all = Lines::default();
    for (part, lines) in &parts {
        println!("{part:<20} {:>8} {:>8}", lines.product, lines.tests);
        all.product += lines.product;
        all.tests += lines.tests;
    }
    let share = 100.0 * all.tests as f64 / (all.product + all.tests).max(1) as f64;
    println!(
        "{:<20} {:>8} {:>8}  {share:.1} % tests",
        "all", all.product, all.tests
    );
    Ok(())
}

fn visit(path: &Path, parts: &mut BTreeMap<String, Lines>) -> Result {
    let failed = |e: std::io::Error| format!("{}: {e}", path.display());
    if path.is_dir() {
        let name = path.file_name().unwrap_or_default();
        if ["node_modules", "target", "generated"]
            .iter()
            .any(|skipped| name == *skipped)
        {
            return Ok(());
        }
        for entry in std::fs::read_dir(path).map_err(failed)? {
            visit(&entry.map_err(failed)?.path(), parts)?;
        }
        return Ok(());
    }
    if !path
        .extension()
        .is_some_and(|e| ENDINGS.iter().any(|known| e == *known))
    {
        return Ok(());
    }
    let text = std::fs::read_to_string(path).map_err(failed)?;
    let from_root = path.strip_prefix(root()).unwrap_or(path);
    let mut folders = from_root.iter().map(|f| f.to_string_lossy());
    let part = match folders.next() {
        Some(crates) if crates == "crates" => {
            format!("crates/{}", folders.next().unwrap_or_default())
        }
        first => first.unwrap_or_default().into_owned(),
    };
    let is_test =
        part == "browser-tests" || from_root.iter().any(|f| f == "tests" || f == "benches");
    let lines = of(&text, is_test);
    let sum = parts.entry(part).or_default();
    sum.product += lines.product;
    sum.tests += lines.tests;
    Ok(())
}

/// The lines of a file; in one of the product all from `#[cfg(test)]` on are tests, as they stand at its end.
fn of(text: &str, is_test: bool) -> Lines {
    let mut lines = Lines::default();
    let mut tests = is_test;
    for line in text.lines().filter(|line| !line.trim().is_empty()) {
        tests |= line.starts_with("#[cfg(test)]");
        match tests {
            true => lines.tests += 1,
            false => lines.product += 1,
        }
    }
    lines
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn blank_lines_count_for_nothing_and_tests_apart() {
        let text = "fn a() {}\n\n#[cfg(test)]\nmod tests {\n}\n";
        assert_eq!(
            of(text, false),
            Lines {
                product: 1,
                tests: 3
            }
        );
        assert_eq!(
            of(text, true),
            Lines {
                product: 0,
                tests: 4
            }
        );
    }
}
